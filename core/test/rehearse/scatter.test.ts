// Many runs: their scatter is what the robot's knowns say, and the interval covers.
import { describe, expect, test } from "vitest";
import { openFloor, prepareMission, randomStream, rehearse, runSeed, usualScatter, wilson95 } from "../../src/index.js";
import { drawRun, idealDraw, scatterSchema } from "../../src/simulate/scatter.js";
import { drizzle, missionOf } from "../support/demo.js";

function spread(values: readonly number[]): { mean: number; sd: number } {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  return { mean, sd: Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / (values.length - 1)) };
}

describe("scatter", () => {
  test("draws follow the robot's standard errors", () => {
    const robot = drizzle();
    const draws = Array.from({ length: 4000 }, (_, i) => drawRun(robot, usualScatter(), randomStream(runSeed(1, i))));
    const roll = spread(draws.map((draw) => draw.deviations.rollLeft - 1));
    // sqrt of known and run-to-run shares; 6 % is four standard errors of a standard deviation of 4000 draws.
    const expected = Math.hypot(0.0003 / 0.1946, 0.0003);
    expect(Math.abs(roll.sd / expected - 1)).toBeLessThan(0.06);
    expect(Math.abs(spread(draws.map((draw) => draw.startXM)).sd / 0.003 - 1)).toBeLessThan(0.06);
    expect(Math.abs(spread(draws.map((draw) => draw.startRad)).sd / (Math.PI / 180) - 1)).toBeLessThan(0.06);
  });

  test("an ideal run has none, and scatter can be switched off part by part", () => {
    const robot = drizzle();
    expect(idealDraw(robot)).toMatchObject({
      startXM: 0,
      bumpRad: 0,
      sensorNoise: 0,
      deviations: { rollLeft: 1, grip: 1 },
    });
    const off = scatterSchema.parse({
      knowns: 0,
      placement: 0,
      rollShare: 0,
      strengthShare: 0,
      gripShare: 0,
      bumpRad: 0,
      charge: 0,
      sensorNoise: 0,
    });
    const draw = drawRun(robot, off, randomStream(3));
    expect({ ...draw, gyroScale: 0, eyeOffsetsM: new Map() }).toEqual({ ...idealDraw(robot), gyroScale: 0 });
    expect(draw.gyroScale).toBeCloseTo(idealDraw(robot).gyroScale, 12);
  });

  test("a held 2 m drive scatters by millimetres, not centimetres", () => {
    const prepared = prepareMission(missionOf("go 2 m"), drizzle(), openFloor());
    const ends = Array.from({ length: 60 }, (_, i) => {
      const { start, end } = rehearse(prepared, { seed: runSeed(4, i), ideal: false }).summary;
      const heading = (start.headingDeg * Math.PI) / 180;
      return {
        along: Math.cos(heading) * (end.xM - start.xM) + Math.sin(heading) * (end.yM - start.yM),
        turned: end.headingDeg - start.headingDeg,
      };
    });
    const along = spread(ends.map((end) => end.along));
    expect(Math.abs(along.mean - 2)).toBeLessThan(0.005);
    // The two measured wheels have 0.15 % each: 2 m · 0.15 % / √2 = 2.2 mm.
    expect(along.sd).toBeGreaterThan(0.001);
    expect(along.sd).toBeLessThan(0.005);
    expect(spread(ends.map((end) => end.turned)).sd).toBeLessThan(0.5);
  });
});

describe("Wilson's interval", () => {
  test("published values", () => {
    // Newcombe 1998, table I: 81 of 263, 15 of 148, 0 of 20, 1 of 29.
    for (const [k, n, low, high] of [
      [81, 263, 0.2553, 0.3662],
      [15, 148, 0.0624, 0.1605],
      [0, 20, 0, 0.1611],
      [1, 29, 0.0061, 0.1718],
    ] as const) {
      const [a, b] = wilson95(k, n);
      expect(a).toBeCloseTo(low, 4);
      expect(b).toBeCloseTo(high, 4);
    }
    expect(wilson95(0, 0)).toEqual([0, 1]);
  });
});
