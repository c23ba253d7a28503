// Two texts side by side, and which version last worked.

import { compareTexts } from "@giddy-pebble/core";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { lastWorked } from "../../src/shared/mission/lastWorked.js";

describe("two texts", () => {
  test("only what differs is gone or new", () => {
    expect(compareTexts("a\nb\nc\n", "a\nx\nc\n").map(({ is, text }) => `${is} ${text}`)).toEqual([
      "same a",
      "gone b",
      "new x",
      "same c",
    ]);
    expect(compareTexts("a\n", "a\n").every(({ is }) => is === "same")).toBe(true);
  });

  test("the earlier text is what is same or gone, the later what is same or new", () => {
    const text = fc
      .array(fc.constantFrom("go", "wait", "turn", ""), { minLength: 1, maxLength: 12 })
      .map((l) => l.join("\n"));
    fc.assert(
      fc.property(text, text, (before, after) => {
        const changes = compareTexts(before, after);
        const of = (...kinds: string[]) => changes.filter(({ is }) => kinds.includes(is)).map((change) => change.text);
        expect(of("same", "gone").join("\n")).toBe(before.replace(/\n$/, ""));
        expect(of("same", "new").join("\n")).toBe(after.replace(/\n$/, ""));
      }),
    );
  });
});

describe("the last version that worked", () => {
  const study = (number: number, runs: number, successes: number) => ({ mission: { number }, runs, successes });
  const run = (number: number, success: boolean) => ({ mission: { number }, success });

  test("is the newest whose many rehearsals met the goal in 19 of 20", () => {
    expect(lastWorked([study(3, 20, 19), study(5, 20, 12), study(4, 100, 96)], [])).toBe(4);
    expect(lastWorked([study(5, 20, 12)], [])).toBeNull();
  });

  test("a single good run speaks for a version that was not tried many times", () => {
    expect(lastWorked([], [run(2, true), run(3, false)])).toBe(2);
    expect(lastWorked([study(6, 20, 10)], [run(6, true), run(4, true)])).toBe(4);
  });
});
