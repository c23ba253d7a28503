// Edits of several steps: what the text becomes, and that any edit of a sound mission leaves a sound tree.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { statementAtLine } from "../../src/cairn/rows.js";
import {
  amountOf,
  applyChange,
  commentStep,
  copySteps,
  deleteSteps,
  disableSteps,
  duplicateSteps,
  enableSteps,
  indentSteps,
  inlineValue,
  type Mission,
  makeRoutine,
  missionRows,
  nameNumber,
  outdentSteps,
  parseMission,
  pasteSteps,
  placesOf,
  type TextChange,
  wrapSteps,
} from "../../src/index.js";
import { missionText } from "../support/arbitrary.js";
import { missionOf } from "../support/demo.js";
import { part } from "../support/search.js";

const TEXT = missionOf(
  "go 10 cm\nturn left 90 deg\nrepeat 2 times\n  wait 1 s\n  back 5 cm\nfinish",
  "set far = 30 cm",
);
const mission = parseMission(TEXT);
const lineOf = (words: string) => TEXT.split("\n").findIndex((line) => line.includes(words));
const at = (...words: string[]) => placesOf(mission, words.map(lineOf));
const after = (change: TextChange | null, text = TEXT) => (change ? applyChange(text, change) : "");
const steps = (text: string) => text.slice(text.indexOf("mission\n") + 8);

describe("several steps", () => {
  test("copy and paste keep the order and take the block's indent", () => {
    const copied = copySteps(mission, at("go 10", "turn left"));
    expect(copied).toBe("go 10 cm\nturn left 90 deg\n");
    expect(steps(after(pasteSteps(mission, copied, at("wait 1 s")[0] ?? null)))).toBe(
      "  go 10 cm\n  turn left 90 deg\n  repeat 2 times\n    wait 1 s\n    go 10 cm\n    turn left 90 deg\n    back 5 cm\n  finish\n",
    );
  });

  test("what is nested in another chosen step is taken once", () => {
    expect(at("repeat", "wait 1 s")).toHaveLength(1);
    expect(steps(after(deleteSteps(mission, at("repeat", "wait 1 s", "finish"))))).toBe(
      "  go 10 cm\n  turn left 90 deg\n",
    );
  });

  test("duplicate, wrap in repeat, if and during", () => {
    expect(steps(after(duplicateSteps(mission, at("turn left"))))).toContain(
      "  turn left 90 deg\n  turn left 90 deg\n",
    );
    expect(steps(after(wrapSteps(mission, at("go 10", "turn left"), "repeat")))).toMatch(
      /^ {2}repeat 2 times\n {4}go 10 cm\n {4}turn left 90 deg\n {2}repeat/,
    );
    const during = after(wrapSteps(mission, at("go 10"), "during"));
    expect(parseMission(during).problems).toEqual([]);
    expect(wrapSteps(mission, at("go 10", "finish"), "if")).toBeNull();
  });

  test("in and out again is where it was", () => {
    const inside = after(indentSteps(mission, at("finish")));
    expect(steps(inside)).toContain("    back 5 cm\n    finish\n");
    const again = parseMission(inside);
    const place = placesOf(again, [inside.split("\n").findIndex((line) => line.includes("finish"))]);
    expect(after(outdentSteps(again, place), inside)).toBe(TEXT);
    expect(indentSteps(mission, at("go 10"))).toBeNull();
  });

  test("off and on again is where it was, blocks too", () => {
    const off = after(disableSteps(mission, at("repeat")));
    expect(off).toContain("  # off: repeat 2 times\n  # off:   wait 1 s\n");
    expect(after(enableSteps(parseMission(off), lineOf("repeat")), off)).toBe(TEXT);
    expect(disableSteps(mission, at("wait 1 s", "back 5 cm"))).toBeNull();
  });

  test("a routine of neighbours stands above the mission and is called", () => {
    const made = after(makeRoutine(mission, at("go 10", "turn left"), "corner"));
    expect(made).toContain("routine corner()\n  go 10 cm\n  turn left 90 deg\n\nmission\n  corner()\n  repeat 2 times");
    expect(parseMission(made).problems).toEqual([]);
  });

  test("a number gets a name and gives it back", () => {
    const start = TEXT.indexOf("10 cm");
    const named = after(nameNumber(mission, { start, end: start + 5 }, "step_length"));
    expect(named).toContain("set step_length = 10 cm\n");
    expect(named).toContain("  go step_length\n");
    expect(after(inlineValue(parseMission(named), "step_length"), named)).toBe(TEXT);
  });

  test("a comment goes above its step; amounts are found for dragging", () => {
    expect(after(commentStep(mission, at("finish")[0] as never, " done "))).toContain("  # done\n  finish\n");
    const found = placesOf(mission, [lineOf("turn left")])[0];
    const amount = found ? amountOf(found.statement) : null;
    expect(amount && TEXT.slice(amount.start, amount.end)).toBe("90 deg");
  });
});

/** The tree as words: each step's text with its depth. */
function shape(tree: Mission): string[] {
  return missionRows(tree).flatMap((row) =>
    row.type === "step" ? [`${row.depth} ${tree.text.slice(row.statement.start, row.statement.end)}`] : [],
  );
}

describe("any edit of any mission", () => {
  const EDITS = {
    duplicate: duplicateSteps,
    delete: deleteSteps,
    repeat: (tree: Mission, places: ReturnType<typeof placesOf>) => wrapSteps(tree, places, "repeat"),
    during: (tree: Mission, places: ReturnType<typeof placesOf>) => wrapSteps(tree, places, "during"),
    in: indentSteps,
    out: outdentSteps,
    off: disableSteps,
    routine: (tree: Mission, places: ReturnType<typeof placesOf>) => makeRoutine(tree, places, "part_one"),
  };

  test("leaves text that parses to the edited tree", () => {
    fc.assert(
      fc.property(
        missionText,
        fc.nat(),
        fc.nat(2),
        fc.constantFrom(...(Object.keys(EDITS) as (keyof typeof EDITS)[])),
        (text, pick, more, how) => {
          const tree = parseMission(text);
          if (tree.problems.length > 0) return;
          const lines = missionRows(tree).flatMap((row) => (row.type === "step" ? [row.line] : []));
          const first = pick % Math.max(1, lines.length);
          const places = placesOf(tree, lines.slice(first, first + 1 + more));
          const change = EDITS[how](tree, places);
          if (!change) return;
          const now = parseMission(applyChange(text, change));
          const codes = now.problems.map((problem) => problem.code);
          // Deleting may leave a block without steps; nothing else may go wrong.
          expect(
            codes.filter((code) => code !== "empty-block"),
            how,
          ).toEqual([]);
          if (how !== "delete") expect(codes, how).toEqual([]);
          const [old, edited] = [shape(tree), shape(now)];
          const bare = (list: string[]) => list.map((step) => step.replace(/^\d+ /, "")).sort();
          if (how === "in" || how === "out") expect(bare(edited)).toEqual(bare(old));
          if (how === "repeat") expect(edited).toHaveLength(old.length + 1);
          if (how === "duplicate") expect(edited.length).toBeGreaterThan(old.length);
          if (how === "routine") expect(bare(edited)).toEqual([...bare(old), "part_one()"].sort());
          if (how === "off") {
            const line = now.text.split("\n").findIndex((candidate) => candidate.includes("# off: "));
            expect(line).toBeGreaterThan(0);
            expect(statementAtLine(now, line)).toBeNull();
          }
        },
      ),
      { numRuns: part(1500, 10) },
    );
  });
});
