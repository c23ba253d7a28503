// Which row a problem belongs to.
import type { Problem } from "@giddy-pebble/core";

/** Problems by line (from 0). */
export function problemsByLine(text: string, problems: readonly Problem[]): Map<number, Problem[]> {
  const byLine = new Map<number, Problem[]>();
  let line = 0;
  let at = 0;
  for (const problem of [...problems].sort((a, b) => a.start - b.start)) {
    for (let next = text.indexOf("\n", at); next !== -1 && next < problem.start; next = text.indexOf("\n", at)) {
      line += 1;
      at = next + 1;
    }
    byLine.set(line, [...(byLine.get(line) ?? []), problem]);
  }
  return byLine;
}
