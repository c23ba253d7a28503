// On a computer that is one of several on a host, the processors are lent: how much of their time went to others.
import { readFileSync } from "node:fs";

/**
 * Time of all processors since the computer was started, in the same unit both.
 * @param {string} stat - as Linux gives it in /proc/stat. Source: proc(5)
 * @returns {{all: number, taken: number} | null} null where it says nothing of it
 */
export function processorTime(stat) {
  const line = /^cpu +([\d ]+)$/m.exec(stat)?.[1];
  // User, nice, system, idle, waiting, interrupts, soft interrupts, and what the host gave to others.
  const parts = line?.split(" ").slice(0, 8).map(Number) ?? [];
  if (parts.length < 8) return null;
  return { all: parts.reduce((sum, part) => sum + part, 0), taken: /** @type {number} */ (parts[7]) };
}

const ofLinux = () => readFileSync("/proc/stat", "utf8");

/** @param {() => string} read */
function now(read) {
  try {
    return processorTime(read());
  } catch {
    // Not on Linux.
    return null;
  }
}

/** @param {() => string} read - gives /proc/stat @returns {() => number | null} the share taken since, 0 to 1; null where nobody says it */
export function watchLent(read = ofLinux) {
  const before = now(read);
  return () => {
    const after = now(read);
    if (!before || !after || after.all === before.all) return null;
    return (after.taken - before.taken) / (after.all - before.all);
  };
}
