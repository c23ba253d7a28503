import { type Problem, parseMission } from "@giddy-pebble/core";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { carryIds, reduce, startHistory } from "../../src/shared/mission/history.js";
import { problemsByLine } from "../../src/workplaces/mission/problemsByLine.js";

const at = (start: number): Problem => ({ code: "x", severity: "error", start, end: start, message: "x.", mend: null });

describe("problems by line", () => {
  test("first and last characters of a line belong to it", () => {
    const text = "ab\ncd\n\nef";
    const lines = (start: number) => [...problemsByLine(text, [at(start)]).keys()][0];
    expect([0, 1, 2, 3, 5, 6, 7, 9].map(lines)).toEqual([0, 0, 0, 1, 1, 2, 3, 3]);
  });

  test("several on one line keep their order, whatever order they come in", () => {
    const found = problemsByLine("abc\ndef", [at(5), at(4), at(1)]);
    expect(found.get(1)?.map((problem) => problem.start)).toEqual([4, 5]);
    expect(found.get(0)).toHaveLength(1);
  });

  test("agree with the text's own lines for any place", () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom("a", "b", "\n"), { maxLength: 60 }), fc.nat(60), (letters, place) => {
        const text = letters.join("");
        const start = Math.min(place, text.length);
        const [line] = [...problemsByLine(text, [at(start)]).keys()];
        expect(line).toBe(text.slice(0, start).split("\n").length - 1);
      }),
    );
  });

  test("of a real mission stand at their steps", () => {
    const { text, problems } = parseMission("cairn 1\nmission\n  go 3 cm\n  trun\n  wait 1 s oops\n");
    expect([...problemsByLine(text, problems).keys()]).toEqual([3, 4]);
  });
});

describe("ids of lines, for any edits", () => {
  const lines = fc.array(fc.constantFrom("go 1 cm", "wait 1 s", "stop", "", "  back 2 cm"), {
    minLength: 1,
    maxLength: 12,
  });

  test("are as many as the lines, and never twice the same", () => {
    fc.assert(
      fc.property(lines, lines, (before, after) => {
        const start = startHistory(before.join("\n"));
        const { ids } = carryIds(start.present, after.join("\n"), start.nextId);
        expect(ids).toHaveLength(after.length);
        expect(new Set(ids).size).toBe(ids.length);
      }),
    );
  });

  test("survive undo and redo of any edits, text and ids alike", () => {
    fc.assert(
      fc.property(fc.array(lines, { minLength: 1, maxLength: 8 }), (texts) => {
        let history = startHistory("start");
        const seen = [history.present];
        for (const text of texts) {
          const next = reduce(history, { type: "edit", text: text.join("\n"), label: "edit" });
          if (next !== history) seen.push(next.present);
          history = next;
        }
        for (let i = seen.length - 2; i >= 0; i -= 1) {
          history = reduce(history, { type: "undo" });
          expect(history.present).toEqual(seen[i]);
        }
        for (let i = 1; i < seen.length; i += 1) {
          history = reduce(history, { type: "redo" });
          expect(history.present).toEqual(seen[i]);
        }
      }),
    );
  });
});
