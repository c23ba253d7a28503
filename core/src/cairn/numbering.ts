// Step labels: 1, 2, 3 at the top; a, b, c one level in; then numbers again: "5", "5b", "5b2". Steps of a
// routine carry its name: "corner.1".
import { type Block, innerBlocks, type Mission, type Statement, statementsOf, stepsInside } from "./tree.js";

function letters(index: number): string {
  const low = String.fromCharCode(97 + (index % 26));
  return index < 26 ? low : letters(Math.floor(index / 26) - 1) + low;
}

function label(blocks: readonly Block[], prefix: string, depth: number, into: Map<Statement, string>): void {
  let index = 0;
  for (const block of blocks) {
    for (const statement of statementsOf(block)) {
      const own = prefix + (depth % 2 === 0 ? String(index + 1) : letters(index));
      index += 1;
      into.set(statement, own);
      for (const inside of stepsInside(statement)) into.set(inside, own);
      label(innerBlocks(statement), own, depth + 1, into);
    }
  }
}

/** Labels of all statements of a mission and its routines. Blocks of one step are numbered through. */
export function numberSteps(mission: Mission): Map<Statement, string> {
  const labels = new Map<Statement, string>();
  if (mission.body) label([mission.body], "", 0, labels);
  for (const routine of mission.routines) label([routine.body], `${routine.name.name}.`, 0, labels);
  if (mission.remote) label([mission.remote], "remote.", 0, labels);
  return labels;
}
