// What axe-core finds on a page as it is.
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type { Page } from "puppeteer-core";
import type { Loose } from "./mission.js";

const source = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

/** Each finding in short words: its rule, the element, what is wrong. */
export async function axe(page: Page): Promise<string[]> {
  // Colours are judged once they have settled: a button that was just enabled fades to its own.
  await page.waitForFunction(() =>
    document
      .getAnimations()
      .every(
        (one) => one.playState !== "running" || one.effect?.getComputedTiming().iterations === Number.POSITIVE_INFINITY,
      ),
  );
  if (!(await page.evaluate("'axe' in window"))) await page.evaluate(source);
  // Nothing is fetched for it: of the rules that ask for that one is off, and no page has a sound.
  const { violations } = (await page.evaluate(
    "axe.run(document, { resultTypes: ['violations'], preload: false })",
  )) as Loose;
  return violations.map(
    (violation: Loose) =>
      `${violation.id}: ${violation.nodes[0].html.slice(0, 200)} ${violation.nodes[0].failureSummary ?? ""}`,
  );
}
