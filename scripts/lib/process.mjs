// Processes by number and birth: a number alone may be a stranger's by now.
import { readFileSync } from "node:fs";
import { isAlive } from "./command.mjs";

/**
 * When a process was born, in ticks since the machine started; null where that cannot be read (not Linux, or gone).
 * Source: proc(5), field 22 of /proc/PID/stat; the name before it may hold spaces and brackets.
 * @param {number} pid
 * @returns {string | null}
 */
export function bornAt(pid) {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, "utf8");
    const fields = stat.slice(stat.lastIndexOf(")") + 2).split(" ");
    return fields[0] === "Z" ? null : (fields[19] ?? null);
  } catch {
    return null;
  }
}

/** @typedef {{ pid: number, born: string | null }} Marked */

/** @param {number} pid @returns {Marked} a process as it can be known again later */
export function mark(pid) {
  return { pid, born: bornAt(pid) };
}

/** @param {unknown} marked - from a file, of any shape @returns {boolean} whether that very process still lives */
export function isMarked(marked) {
  if (typeof marked !== "object" || marked === null) return false;
  const { pid, born } = /** @type {Partial<Marked>} */ (marked);
  if (typeof pid !== "number" || !Number.isInteger(pid) || pid <= 1 || !isAlive(pid)) return false;
  const now = bornAt(pid);
  // Where births cannot be read the number has to do.
  return born === null || born === undefined ? process.platform !== "linux" : now === born;
}
