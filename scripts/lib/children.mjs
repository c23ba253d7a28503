// Processes that an earlier start left behind when it was ended from outside: ended before new ones use their data.
import { readJsonFile, writeWhole } from "./files.mjs";
import { isMarked, mark } from "./process.mjs";

/** How long a process may take to be gone after it was ended, ms. */
const GONE_MS = 5000;

/** @param {string} file @returns {Promise<void>} once none of those written down there lives */
export async function endLeftovers(file) {
  const left = readJsonFile(file);
  if (!Array.isArray(left)) return;
  const living = left.filter(isMarked);
  for (const { pid } of living) {
    try {
      process.kill(pid, "SIGKILL");
    } catch {
      // gone meanwhile
    }
  }
  const until = performance.now() + GONE_MS;
  while (living.some(isMarked) && performance.now() < until) await new Promise((resolve) => setTimeout(resolve, 50));
}

/** Writes down the processes of this start. @param {string} file */
export function rememberChildren(file) {
  /** @type {Map<string, import("./process.mjs").Marked>} */
  const marked = new Map();
  return {
    /** @param {string} name @param {import("node:child_process").ChildProcess} child */
    add(name, child) {
      if (child.pid === undefined) return;
      marked.set(name, mark(child.pid));
      writeWhole(file, JSON.stringify([...marked.values()]));
    },
  };
}
