import { describe, expect, test } from "vitest";
import { lexLines, type Problem, parseMission } from "../../src/index.js";
import { nearestWord } from "../../src/words/language.js";

function tokens(line: string): string[] {
  const problems: Problem[] = [];
  const [first] = lexLines(line, (problem) => problems.push(problem));
  return [
    ...(first?.tokens ?? []).map((token) => (token.unit ? `${token.text}[${token.unit}]` : token.text)),
    ...problems.map((problem) => `!${problem.code}`),
  ];
}

describe("tokens", () => {
  test.each([
    ["go 30cm", ["go", "30[cm]"]],
    ["go 30 cm", ["go", "30[cm]"]],
    ["a = 30 cm/s", ["a", "=", "30[cm/s]"]],
    ["a = 30 cm / dt", ["a", "=", "30[cm]", "/", "dt"]],
    ["a = 30 cm/dt", ["a", "=", "30[cm]", "/", "dt"]],
    ["a = 1.5 %/deg", ["a", "=", "1.5[%/deg]"]],
    ["turn 2 turns", ["turn", "2[turns]"]],
    ["a >= 3", ["a", ">=", "3"]],
    ["a<-3", ["a", "<", "-", "3"]],
    ["gyro.heading", ["gyro", ".", "heading"]],
    ['begin "hut # dock" # why', ["begin", '"hut # dock"']],
    ["floor[2].light", ["floor", "[", "2", "]", ".", "light"]],
    ["wait 0,25 s", ["wait", "0,25", "s", "!decimal-comma"]],
    ["wait .5 s", ["wait", ".5", "s", "!bare-point"]],
  ])("%s", (line, expected) => {
    expect(tokens(line)).toEqual(expected);
  });

  test("lines keep their places, indents and comments; carriage returns are spaces", () => {
    const lines = lexLines("cairn 1\r\n    go 3 cm  # why\n\n", () => {});
    expect(
      lines.map((line) => [line.start, line.end, line.indent, line.tokens.length, line.comment?.start ?? null]),
    ).toEqual([
      [0, 8, 0, 2, null],
      [9, 27, 4, 2, 22],
      [28, 28, 0, 0, null],
      [29, 29, 0, 0, null],
    ]);
  });

  test("a file with carriage returns parses", () => {
    expect(parseMission("cairn 1\r\nmission\r\n  wait 1 s\r\n").problems).toEqual([]);
  });
});

describe("nearest word", () => {
  test.each([
    ["trun", "turn"],
    ["repaet", "repeat"],
    ["Go", "go"],
    ["waiit", "wait"],
    ["zzz", null],
    ["x".repeat(100), null],
  ])("%s → %s", (typed, nearest) => {
    expect(nearestWord(typed, ["go", "turn", "wait", "repeat", "radius"])).toBe(nearest);
  });
});
