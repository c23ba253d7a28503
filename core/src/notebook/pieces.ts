// What pages are put together from.
import { wilson95 } from "../rehearse/study.js";
import type { TypedTape } from "../trials/typedTape.js";
import type { PageBlock, PageSource } from "./schema.js";

export const heading = (text: string, from: PageSource | null = null): PageBlock => ({ kind: "heading", text, from });
export const text = (words: string, from: PageSource | null = null): PageBlock => ({ kind: "text", text: words, from });

/** @param hrefs - where each row leads */
export function table(
  head: string[],
  rows: string[][],
  from: PageSource | null = null,
  hrefs: (string | null)[] = [],
): PageBlock {
  return { kind: "table", head, rows, hrefs, from };
}

/** A drawing as a list of pieces: empty when there is nothing to draw. */
export function drawing(svg: string | null, caption: string, from: PageSource | null): PageBlock[] {
  return svg ? [{ kind: "drawing", svg, caption, from }] : [];
}

/** "27 Nov 2026", of UTC, so that a page reads the same everywhere. */
export function dayWords(iso: string): string {
  const [year = "", month = "", day = ""] = iso.slice(0, 10).split("-");
  const names = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
  return `${Number(day)} ${names[Number(month) - 1] ?? month} ${year}`;
}

/** How a run came about, in words. */
export const SOURCE_WORDS: Readonly<Record<string, string>> = {
  rehearsal: "rehearsed",
  robot: "robot",
  drive: "by hand",
  practice: "practice round",
};

/** "61.2 cm along, 0.4 cm to the left" of the start place. */
export function tapeWords({ alongM, asideM }: TypedTape): string {
  const cm = (metres: number) => `${Math.floor(Math.abs(metres) * 1000 + 0.5) / 10} cm`;
  return `${cm(alongM)} ${alongM < 0 ? "behind" : "along"}, ${cm(asideM)} to the ${asideM < 0 ? "right" : "left"}`;
}

export const spoken = (name: string) => name.replaceAll("_", " ");

/** "19 of 20 (95 %, between 76 % and 99 %)" */
export function rateWords(successes: number, runs: number): string {
  const [low, high] = wilson95(successes, runs);
  const percent = (share: number) => `${Math.floor(share * 100 + 0.5)} %`;
  return `${successes} of ${runs} (${percent(successes / runs)}, between ${percent(low)} and ${percent(high)})`;
}
