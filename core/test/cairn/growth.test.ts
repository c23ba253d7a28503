// A mission of twice the lines takes about twice the work, whatever its lines are.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { formatMission, missionRows, openFloor, parseMission, placeProblems, prepareMission } from "../../src/index.js";
import { drizzle } from "../support/demo.js";
import { part } from "../support/search.js";

/** What lines can be, at the indent of a mission's steps; the number makes names of their own. */
const PIECES: readonly ((i: number) => string)[] = [
  () => "  go 10 cm at 20 cm/s\n",
  (i) => `  set v${i} = ${i} + 1\n`,
  (i) => `  note n${i} = clock\n`,
  () => "  # as it was\n",
  () => "\n",
  () => "  repeat 2 times\n    go 1 cm\n",
  () => "  if clock > 2 s\n    wait 1 s\n  else\n    wait 2 s\n",
  () => "  together\n    wait 1 s\n  also\n    wait 2 s\n",
  () => "  gooo 10 cm\n",
  () => "  go 10 cmm until x < 3 y z\n",
  () => '  show "never closed\n',
  () => "  set w = ((1 + 2) * 3\n",
  () => "  else\n",
  () => "\tgo 3 cm\n",
  () => "mission\n",
  () => 'robot "Drizzle"\n',
];

const ACTS: Readonly<Record<string, (text: string) => unknown>> = {
  parsing: (text) => parseMission(text),
  checking: (text) => prepareMission(text, drizzle(), openFloor()),
  formatting: (text) => formatMission(text),
  rows: (text) => missionRows(parseMission(text)),
  placing: (text) => placeProblems(text, prepareMission(text, drizzle(), openFloor()).check.problems),
};

function textOf(pieces: readonly number[], rounds: number): string {
  const body = Array.from({ length: rounds }, (_, round) =>
    pieces.map((at, k) => PIECES[at]?.(round * pieces.length + k) ?? "").join(""),
  );
  return `cairn 1\nrobot "Drizzle"\n\nmission\n${body.join("")}`;
}

/** Work of the processor for one act, the least of a few: what else happens meanwhile only adds. */
function work(act: (text: string) => unknown, text: string): number {
  let least = Number.POSITIVE_INFINITY;
  for (let i = 0; i < 4; i += 1) {
    const before = process.cpuUsage();
    act(text);
    const { user, system } = process.cpuUsage(before);
    least = Math.min(least, user + system);
  }
  return least;
}

describe.each(Object.entries(ACTS))("%s", (_name, act) => {
  test("of eight times the lines takes far less than sixty-four times the work", () => {
    act(textOf([0, 1, 5], 200));
    const mixes = fc.array(fc.nat(PIECES.length - 1), { minLength: 1, maxLength: 4 });
    fc.assert(
      fc.property(mixes, (pieces) => {
        const rounds = Math.ceil(240 / pieces.length);
        const [small, large] = [work(act, textOf(pieces, rounds)), work(act, textOf(pieces, rounds * 8))];
        // Below a fifth of a millisecond the smaller one says nothing.
        expect(large / Math.max(small, 200), pieces.map((at) => PIECES[at]?.(0)).join("")).toBeLessThan(26);
      }),
      { numRuns: part(14, 4), seed: 5 },
    );
  });
});
