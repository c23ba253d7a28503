// Files that are dropped anywhere on a page.
import { useEffect, useState } from "react";
import { go } from "../going.js";
import { type Missing, readLater } from "../readLater.js";

/** Takes a file on the page itself. @returns null when it is not one for this page */
export type TakeHere = (file: File) => Promise<string | null> | null;

const SAID_KEY = "giddy-pebble said";

/** What the page before had to say. */
export function saidBefore(): string | null {
  const said = sessionStorage.getItem(SAID_KEY);
  sessionStorage.removeItem(SAID_KEY);
  return said;
}

/** What opens a file: read when there is one, most visits do without. */
const opener = () => readLater(() => import("./opening.js"));

const NOT_OPENED: Record<Missing, string> = {
  away: "The server does not answer, so the file was not opened. Try again when it does.",
  unfetched: "A part of this page could not be fetched, so the file was not opened. Reload the page and try again.",
};

/** Opens files that a person chose or dropped, one after the other; goes to the last. @returns what went wrong, or null */
export async function takeFiles(files: readonly File[], here: TakeHere | null = null): Promise<string | null> {
  let href: string | null = null;
  const words: string[] = [];
  for (const file of files) {
    const own = here?.(file) ?? null;
    if (own) {
      const failed = await own;
      if (failed !== null) return failed;
      continue;
    }
    const opening = await opener();
    if (typeof opening === "string") return NOT_OPENED[opening];
    const opened = await opening.openFile(file);
    if (!opened.ok) return opened.problem;
    href = opened.href;
    if (opened.words !== "") words.push(opened.words);
  }
  if (href !== null) {
    if (words.length > 0) sessionStorage.setItem(SAID_KEY, words.join(" "));
    go(href);
  }
  return null;
}

function holdsFiles(event: DragEvent): boolean {
  return event.dataTransfer?.types.includes("Files") ?? false;
}

/** @param say - tells what went wrong @returns whether files are held over the page */
export function useDrop(say: (words: string) => void, here: TakeHere | null): boolean {
  const [over, setOver] = useState(false);
  useEffect(() => {
    const hold = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      setOver(true);
    };
    const leave = (event: DragEvent) => event.relatedTarget === null && setOver(false);
    const drop = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      setOver(false);
      const files = [...(event.dataTransfer?.files ?? [])];
      void takeFiles(files, here).then((failed) => failed !== null && say(failed));
    };
    window.addEventListener("dragover", hold);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", hold);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, [say, here]);
  return over;
}
