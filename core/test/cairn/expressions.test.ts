// Expressions: precedence, kinds and values, against a plain reference.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { missionOf, problemsOf, runText } from "../support/demo.js";

/** A random sum of numbers, as text and as what it is worth. */
const sums = fc.letrec<{ atom: [string, number]; product: [string, number]; sum: [string, number] }>((tie) => ({
  atom: fc.oneof(
    { maxDepth: 4 },
    fc.integer({ min: 0, max: 40 }).map((n): [string, number] => [String(n), n]),
    fc.integer({ min: 0, max: 40 }).map((n): [string, number] => [`-${n}`, -n]),
    tie("sum").map(([text, value]): [string, number] => [`(${text})`, value]),
  ),
  product: fc.oneof(
    tie("atom"),
    fc.tuple(tie("atom"), tie("atom")).map(([[a, x], [b, y]]): [string, number] => [`${a} * ${b}`, x * y]),
    fc
      .tuple(tie("atom"), tie("atom"))
      .map(([[a, x], [b, y]]): [string, number] => [`${a} / ${b}`, y === 0 ? 0 : x / y]),
  ),
  sum: fc.oneof(
    tie("product"),
    fc.tuple(tie("product"), tie("product")).map(([[a, x], [b, y]]): [string, number] => [`${a} + ${b}`, x + y]),
    fc.tuple(tie("product"), tie("product")).map(([[a, x], [b, y]]): [string, number] => [`${a} - ${b}`, x - y]),
  ),
})).sum;

function worth(expression: string, top = ""): number | string | undefined {
  return runText(missionOf(`note got = ${expression}`, top)).summary.notes[0]?.value;
}

const codes = (steps: string, top = "") => problemsOf(missionOf(steps, top)).map((problem) => problem.code);

describe("arithmetic", () => {
  test("follows the usual precedence, with brackets and signs", () => {
    fc.assert(
      fc.property(sums, ([text, value]) => {
        expect(Number(worth(text))).toBeCloseTo(value, 6);
      }),
      { numRuns: 150 },
    );
  });

  test.each([
    ["2 + 3 * 4", 14],
    ["(2 + 3) * 4", 20],
    ["10 - 4 - 3", 3],
    ["12 / 4 / 3", 1],
    ["--3", 3],
    ["-2 * -3", 6],
    ["50 %", 0.5],
    ["50 % * 30 cm", 0.15],
    ["1 m / 50 cm", 2],
    ["30 cm / 2 s * 4 s", 0.6],
    ["1 turns / 4", Math.PI / 2],
    ["60 rpm * 1 s", 2 * Math.PI],
    ["round(47 cm, 5 cm)", 0.45],
    ["min(3, 1, 2)", 1],
    ["max(3, 1, 2)", 3],
    ["sin(30 deg)", 0.5],
    ["cos(left 60 deg)", 0.5],
    ["abs(right 30 deg)", Math.PI / 6],
  ])("%s", (text, value) => {
    expect(Number(worth(text))).toBeCloseTo(value, 9);
  });

  test("chance stays between its bounds", () => {
    const drawn = runText(missionOf("repeat 50 times\n  note got = random(2, 3)")).summary.notes.map((note) =>
      Number(note.value),
    );
    expect(Math.min(...drawn)).toBeGreaterThanOrEqual(2);
    expect(Math.max(...drawn)).toBeLessThan(3);
    expect(new Set(drawn).size).toBeGreaterThan(40);
  });
});

describe("conditions", () => {
  test.each([
    ["3 > 2", 1],
    ["3 <= 2", 0],
    ["3 is 3", 1],
    ["3 is not 3", 0],
    ["3 is 2 to 4", 1],
    ["3 is 4 to 2", 1],
    ["5 is not 2 to 4", 1],
    ["not 3 > 2", 0],
    ["not not 3 > 2", 1],
    ["yes and no", 0],
    ["yes or no", 1],
    ["(yes or no) and yes", 1],
    ["yes is yes", 1],
    ["1 m > 90 cm and 1 s < 2 s", 1],
    ['"a" is "a"', 1],
    ['"a" is "b"', 0],
  ])("%s", (text, value) => {
    expect(worth(text)).toBe(value);
  });
});

describe("kinds", () => {
  test.each([
    ["go 30 cm + 2 in"],
    ["wait 3 s - 200 ms"],
    ["go 10 cm at 20 cm / 2 s"],
    ["turn left 90 deg / 3"],
    ["power both 20 % + 0.1 for 1 s"],
    ["go robot.travel / 2"],
    ["turn 0 deg"],
    ["turn left -90 deg"],
    ["face 90 deg"],
    ["wait until left_motor.angle > 2 turns"],
    ["turn robot.heading"],
    ["repeat 2 + 1 times\n  wait 1 s"],
    ["go 30 cm limit 2 s"],
    ["go 30 cm limit 40 cm"],
    ["turn left 90 deg limit 100 deg"],
    ["stop arm"],
    ["coast"],
    ["power arm -30 % for 200 ms"],
  ])("%s has no problem", (steps) => {
    expect(codes(steps)).toEqual([]);
  });

  test.each([
    ["go 30 cm * 2 cm", "dimension"],
    ["wait 3", "dimension"],
    ["turn left 90 deg limit 40 cm", "dimension"],
    ["go 30 cm at 90 deg/s", "dimension"],
    ["go 10 cm until 3 s", "not-a-condition"],
    ["wait until gyro.heading > 3", "needs-unit"],
    ["wait until gyro.heading > 3 cm", "mixed-dimensions"],
    ["wait until left_motor.angle > robot.heading", "mixed-angles"],
    ["go yes", "dimension"],
    ["wait until clock > 1 s held 3 cm", "dimension"],
    ["arc 90 deg radius 20 cm", "which-side"],
    ["turn 45 deg + 45 deg", "which-side"],
    ["power both 130 % for 1 s", "over-hundred-percent"],
    ["arc left 90 deg radius -3 cm", "not-positive"],
    ["go 30 cm ramp 0 cm/s/s", "not-positive"],
    ["turn left", "needs-end"],
    ["arc left radius 20 cm", "needs-end"],
    ["back", "needs-end"],
    ["wait sqrt(2 cm) / 1 cm * 1 s", "mixed-dimensions"],
  ])("%s is a problem: %s", (steps, code) => {
    expect(codes(steps)).toContain(code);
  });

  test("a value keeps the kind it began with, and a routine's parameter the one it declares", () => {
    const top = "routine swing(side: angle, times_of: number = 1)\n  turn side * times_of\n";
    expect(codes("swing(left 30 deg)\nswing(left 30 deg, 2)", top)).toEqual([]);
    expect(codes("swing(30 cm)", top)).toContain("dimension");
    expect(codes("swing()", top)).toContain("argument-count");
    expect(codes("set a = 3 cm\nif a > 2 cm\n  set a = a * 2\ngo a")).toEqual([]);
  });

  test("a routine called from two places and from another routine works out its own values", () => {
    const text =
      'cairn 1\nrobot "Drizzle"\nroutine inner(n: number)\n  set twice = n * 2\n  note inner = twice\nroutine outer(n: number)\n  inner(n)\n  inner(n + 1)\n  note outer = n\nmission\n  outer(1)\n  inner(10)\n  outer(5)\n';
    expect(runText(text).summary.notes.map(({ name, value }) => `${name} ${value}`)).toEqual([
      "inner 2",
      "inner 4",
      "outer 1",
      "inner 20",
      "inner 10",
      "inner 12",
      "outer 5",
    ]);
  });
});
