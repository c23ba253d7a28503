// Text, tree and layout: lossless, idempotent, and unbreakable.
import { readdirSync } from "node:fs";
import path from "node:path";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { deleteStep, extentOf } from "../../src/cairn/edits.js";
import {
  applyChange,
  formatMission,
  insertStep,
  insertValue,
  type Mission,
  missionRows,
  moveStep,
  neighbour,
  openFloor,
  openingComment,
  parseMission,
  placeAtLine,
  prepareMission,
  rewriteStep,
  statementsOf,
} from "../../src/index.js";
import { anyText } from "../support/anyText.js";
import { missionText, mutatedText } from "../support/arbitrary.js";
import { demoFolder, drizzle, missionFile, missionOf } from "../support/demo.js";
import { part } from "../support/search.js";

const robot = drizzle();

/** A tree without its places in the text. */
function bare(mission: Mission): unknown {
  const strip = (value: unknown): unknown => {
    if (Array.isArray(value))
      return value.filter((item) => (item as { type?: string } | null)?.type !== "blank").map(strip);
    if (value === null || typeof value !== "object") return value;
    const places = new Set(["start", "end", "line", "headLine", "endLine", "valueSpan"]);
    return Object.fromEntries(
      Object.entries(value).flatMap(([key, inner]) => (places.has(key) ? [] : [[key, strip(inner)]])),
    );
  };
  const { headers, goal, sets, routines, body } = mission;
  return strip({ headers, goal, sets, routines, body });
}

describe("formatting", () => {
  test("leaves canonical text as it is", () => {
    fc.assert(
      fc.property(missionText, (text) => {
        expect(formatMission(text)).toEqual({ ok: true, text });
      }),
    );
  });

  test("brings spacing, tails, blank lines and comments into order", () => {
    const loose =
      "cairn   1\n\n\nset  a=30cm   # far\nmission\n  go a  limit 2s at 10   cm/s\n\n\n  # next\n  wait   - 1 s + ( 2 s*3 )\n";
    const formatted = formatMission(loose);
    expect(formatted).toEqual({
      ok: true,
      text: "cairn 1\n\nset a = 30 cm  # far\nmission\n  go a at 10 cm/s limit 2 s\n\n  # next\n  wait -1 s + (2 s * 3)\n",
    });
  });

  test("formats to the same program: formatting twice changes nothing", () => {
    fc.assert(
      fc.property(mutatedText, (text) => {
        const once = formatMission(text);
        if (!once.ok) return;
        expect(formatMission(once.text)).toEqual(once);
        const kinds = (source: string) => missionRows(parseMission(source)).map((row) => row.type);
        expect(kinds(once.text)).toEqual(kinds(text));
      }),
      { numRuns: 300 },
    );
  });

  test("a comment stays in its block however far it is indented", () => {
    const lines =
      "cairn 1\nmission\n  repeat 2 times\n    look()\n  if eye.distance < 9 cm\n    stop\n  else\n    stop\nroutine look()\n  wait 1 s".split(
        "\n",
      );
    const rowsOf = (text: string) => missionRows(parseMission(text)).map(({ type, depth }) => `${type} ${depth}`);
    let moved = 0;
    for (let at = 1; at <= lines.length; at += 1)
      for (let indent = 0; indent <= 7; indent += 1) {
        const comment = `${" ".repeat(indent)}# why`;
        const text = `${[...lines.slice(0, at), comment, ...lines.slice(at)].join("\n")}\n`;
        const formatted = formatMission(text);
        if (!formatted.ok) throw new Error(text);
        expect(rowsOf(formatted.text), text).toEqual(rowsOf(text));
        expect(formatMission(formatted.text)).toEqual(formatted);
        if (formatted.text !== text) moved += 1;
      }
    // Every odd indent is made even.
    expect(moved).toBe(4 * lines.length);
  });

  test("parse(format(t)) equals t: the tree is the same, whatever the spacing was", () => {
    // Doubled spaces and blank lines are the layout's own affair; what the tree says is not.
    fc.assert(
      fc.property(missionText, fc.integer({ min: 1, max: 4 }), (text, wide) => {
        const loose = text
          .split("\n")
          .map((line) => line.replace(/(\S) (?=[^#\s])/g, `$1${" ".repeat(wide)}`))
          .join("\n\n");
        const formatted = formatMission(loose);
        expect(formatted.ok).toBe(true);
        if (formatted.ok) expect(bare(parseMission(formatted.text))).toEqual(bare(parseMission(text)));
      }),
      { numRuns: part(400, 8) },
    );
  });

  test("leaves a text with problems alone", () => {
    expect(formatMission(missionOf("trun left 90 deg")).ok).toBe(false);
  });

  test("demo missions are canonical", () => {
    for (const file of [
      "bench.cairn",
      ...readdirSync(path.join(demoFolder, "missions")).map((name) => `missions/${name}`),
    ])
      expect(formatMission(missionFile(file))).toEqual({ ok: true, text: missionFile(file) });
  });
});

describe("any text", () => {
  test("damaged missions never crash, hang or point outside themselves", () => {
    fc.assert(
      fc.property(fc.oneof(mutatedText, anyText(300)), (text) => {
        const { check, program } = prepareMission(text, robot, openFloor());
        for (const problem of check.problems) {
          expect(problem.start).toBeGreaterThanOrEqual(0);
          expect(problem.end).toBeGreaterThanOrEqual(problem.start);
          expect(problem.end).toBeLessThanOrEqual(text.length);
        }
        expect(program !== null).toBe(check.runnable);
        missionRows(check.runnable ? parseMission(text) : parseMission(text));
      }),
      { numRuns: part(3000, 20) },
    );
  });

  test("every filled line of a mission is in the tree, also those that do not parse", () => {
    fc.assert(
      fc.property(mutatedText, (text) => {
        const mission = parseMission(text);
        if (
          !mission.body ||
          mission.problems.some((problem) =>
            [
              "step-outside",
              "unknown-top-word",
              "not-text",
              "unexpected-indent",
              "empty-block",
              "mission-twice",
              "partner-alone",
              "too-deep",
            ].includes(problem.code),
          )
        )
          return;
        const lines = new Set(missionRows(mission).map((row) => row.line));
        for (let line = mission.body.headLine + 1; line < mission.body.endLine; line += 1) {
          const { tokens = [] } = mission.lines[line] ?? {};
          if (tokens.length > 0) expect(lines, `line ${line + 1}`).toContain(line);
        }
      }),
      { numRuns: 300 },
    );
  });
});

describe("edits of the step list", () => {
  const text = missionOf(
    "go 10 cm\n# on the spot\nturn left 90 deg\nrepeat 2 times\n  wait 1 s  # rest\n  back 5 cm\nfinish",
  );
  const mission = parseMission(text);
  const lineOf = (words: string) => text.split("\n").findIndex((line) => line.includes(words));
  const place = (words: string) => {
    const found = placeAtLine(mission, lineOf(words));
    if (!found) throw new Error(`no step ${words}`);
    return found;
  };
  const body = (edited: string) => edited.slice(edited.indexOf("mission\n") + 8);
  const apply = (change: Parameters<typeof applyChange>[1] | null) => (change ? body(applyChange(text, change)) : null);

  test("a step takes its comments and all that is nested with it", () => {
    const turn = place("turn");
    expect(extentOf(turn.statement, turn.block)).toEqual({ first: lineOf("# on"), end: lineOf("repeat") });
    const repeat = place("repeat");
    expect(extentOf(repeat.statement, repeat.block)).toEqual({ first: lineOf("repeat"), end: lineOf("finish") });
  });

  test("deleting", () => {
    expect(apply(deleteStep(mission, place("repeat").statement, place("repeat").block))).toBe(
      "  go 10 cm\n  # on the spot\n  turn left 90 deg\n  finish\n",
    );
  });

  test("inserting after a step, into a block, at the end, into an empty file", () => {
    expect(apply(insertStep(mission, "wait 2 s", place("turn")))).toContain("turn left 90 deg\n  wait 2 s\n  repeat");
    expect(apply(insertStep(mission, "wait 2 s", place("back")))).toContain("    back 5 cm\n    wait 2 s\n  finish");
    expect(apply(insertStep(mission, "wait 2 s", null))).toMatch(/finish\n {2}wait 2 s\n$/);
    expect(applyChange("cairn 1\n", insertStep(parseMission("cairn 1\n"), "go 3 cm", null))).toBe(
      "cairn 1\n\nmission\n  go 3 cm\n",
    );
  });

  test("moving up, down, into a block and out of it, with indents to match", () => {
    expect(apply(moveStep(mission, place("go"), place("turn"), "after"))).toMatch(
      /^ {2}# on the spot\n {2}turn left 90 deg\n {2}go 10 cm\n {2}repeat/,
    );
    expect(apply(moveStep(mission, place("finish"), place("go"), "before"))).toMatch(/^ {2}finish\n {2}go 10 cm\n/);
    expect(apply(moveStep(mission, place("go"), place("back"), "before"))).toContain(
      "    wait 1 s  # rest\n    go 10 cm\n    back 5 cm\n",
    );
    expect(apply(moveStep(mission, place("wait"), place("go"), "after"))).toContain(
      "  go 10 cm\n  wait 1 s  # rest\n  # on the spot\n",
    );
    expect(moveStep(mission, place("repeat"), place("wait"), "after")).toBeNull();
  });

  test("moving there and back gives the same bytes", () => {
    fc.assert(
      fc.property(missionText, fc.nat(), (source, pick) => {
        const before = parseMission(source);
        const steps = before.body ? statementsOf(before.body) : [];
        const moved = steps[pick % steps.length];
        const at = moved && placeAtLine(before, moved.line);
        const next = at && neighbour(at, 1);
        if (!at || !next || source.includes("#")) return;
        const down = moveStep(before, at, next, "after");
        if (!down) return;
        const after = parseMission(applyChange(source, down));
        const nowAt =
          extentOf(next.statement, next.block).end - extentOf(at.statement, at.block).end + at.statement.line;
        const again = placeAtLine(after, nowAt);
        const back = again && neighbour(again, -1);
        if (!again || !back) throw new Error("the moved step was not found");
        const up = moveStep(after, again, back, "before");
        expect(up && applyChange(after.text, up)).toBe(source);
      }),
      { numRuns: 200 },
    );
  });

  test("rewriting a step keeps its indent and comment; values go above the mission", () => {
    expect(apply(rewriteStep(mission, lineOf("wait"), "wait 3 s"))).toContain("    wait 3 s  # rest\n");
    expect(applyChange(text, insertValue(mission, "slow", "5 cm/s"))).toContain("set slow = 5 cm/s\n\nmission\n");
  });
});

test("the comments above the mission are what it says about itself", () => {
  expect(
    openingComment(
      parseMission("cairn 1\n# One.\nset a = 1 cm  # not this\n# Two.\n\nmission\n  # nor this\n  go a\n"),
    ),
  ).toBe("One. Two.");
  expect(openingComment(parseMission("mission\n  wait 1 s\n"))).toBe("");
});

test("rows carry labels, depth and editable pieces", () => {
  const rows = missionRows(
    parseMission(
      missionOf(
        "go 30 cm at cruise until gyro.heading > -5 deg limit 2 s\nrepeat 2 times\n  turn left 90 deg\nif clock > 3 s\n  stop\nelse\n  finish",
        "set cruise = 20 cm/s",
      ),
    ),
  );
  expect(rows.map((row) => ("label" in row ? row.label : row.type))).toEqual([
    "1",
    "2",
    "2a",
    "3",
    "3a",
    "branch",
    "3b",
  ]);
  const [first] = rows;
  if (first?.type !== "step") throw new Error("no first step");
  expect(first.main.map((piece) => `${piece.kind} ${piece.text}`)).toEqual([
    "verb go",
    "quantity 30 cm",
    "word at",
    "name cruise",
  ]);
  expect(first.tail.map((piece) => piece.text)).toEqual(["until", "gyro.heading", ">", "-5 deg", "limit", "2 s"]);
});
