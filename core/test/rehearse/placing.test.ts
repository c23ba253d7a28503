// How a begin place says that a robot is put down, and how uneven a floor is: both against what they are stated as.
import { describe, expect, test } from "vitest";
import {
  type Field,
  openFloor,
  PLACING,
  type PlacedBy,
  prepareMission,
  type Robot,
  rehearse,
} from "../../src/index.js";
import { placingMethod } from "../../src/robot/placing.js";
import { drizzle } from "../support/demo.js";
import { part } from "../support/search.js";

const RUNS = part(300, 6);

function deviation(values: readonly number[]): number {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  return Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / (values.length - 1));
}

function floor(put: PlacedBy | undefined, unevenness?: number): Field {
  const open = openFloor();
  return {
    ...open,
    surface: { ...open.surface, ...(unevenness === undefined ? {} : { unevenness }) },
    begins: [{ name: "start", xM: 1, yM: 2, headingRad: 0, ...(put ? { put } : {}) }],
  };
}

function runs(field: Field, steps: string, robot: Robot = drizzle()) {
  const prepared = prepareMission(`cairn 1\nrobot "Drizzle"\nbegin "start"\nmission\n  ${steps}\n`, robot, field);
  return Array.from({ length: RUNS }, (_, i) => rehearse(prepared, { seed: i + 1, ideal: false }).summary);
}

describe("put down", () => {
  test.each(["jig", "wall"] as const)("%s: as exactly as that way is", (put) => {
    const starts = runs(floor(put), "wait 0.01 s").map(({ start }) => start);
    // The spread of 300 draws is known to 4 % (one standard deviation, 1 / sqrt(2 n)).
    expect(deviation(starts.map(({ xM }) => xM)) / PLACING[put].positionM).toBeCloseTo(1, 0);
    expect(Math.abs(deviation(starts.map(({ yM }) => yM)) / PLACING[put].positionM - 1)).toBeLessThan(0.16);
    const heading = (deviation(starts.map(({ headingDeg }) => headingDeg)) * Math.PI) / 180;
    expect(Math.abs(heading / PLACING[put].headingRad - 1)).toBeLessThan(0.16);
  });

  test("a way whose placing was measured for this robot goes by that measurement; without a way too", () => {
    const measured = drizzle((body) => {
      body.placement.positionM = { ...body.placement.positionM, standardError: 0.002, method: placingMethod("jig") };
      body.placement.headingRad = { ...body.placement.headingRad, method: placingMethod("jig") };
    });
    for (const put of ["jig", undefined] as const) {
      const xs = runs(floor(put), "wait 0.01 s", measured).map(({ start }) => start.xM);
      expect(Math.abs(deviation(xs) / 0.002 - 1)).toBeLessThan(0.16);
    }
    const byWall = runs(floor("wall"), "wait 0.01 s", measured).map(({ start }) => start.xM);
    expect(Math.abs(deviation(byWall) / PLACING.wall.positionM - 1)).toBeLessThan(0.16);
  });
});

describe("unevenness of a floor", () => {
  test("turns a robot that drives without a heading hold aside in proportion, and one on glass not at all", () => {
    const still = drizzle((body) => {
      // Nothing else scatters: what is left comes from the floor.
      body.sensors = body.sensors.filter(({ kind }) => kind !== "gyro");
    });
    const spread = (unevenness: number) => {
      const prepared = prepareMission(
        'cairn 1\nrobot "Drizzle"\nbegin "start"\nmission\n  wheels left 20 cm/s right 20 cm/s for 5 s\n',
        still,
        floor(undefined, unevenness),
      );
      return deviation(
        Array.from({ length: RUNS }, (_, i) => {
          const adjustments = Object.fromEntries(
            [
              "roll left",
              "roll right",
              "track width",
              "strength left",
              "strength right",
              "grip",
              "place",
              "heading",
              "charge",
            ].map((key) => [key, { width: 0, shift: 0 }]),
          );
          const scatter = {
            knowns: 0,
            placement: 0,
            rollShare: 0,
            strengthShare: 0,
            gripShare: 0,
            bumpRad: 0.006,
            charge: 0,
            sensorNoise: 0,
          };
          return rehearse(prepared, { seed: i + 1, ideal: false, scatter: scatter as never, adjustments }).summary.end
            .headingDeg;
        }),
      );
    };
    // A random walk of the heading: b sqrt(s) over a way s of 1 m, in deg.
    const usual = (0.006 * 180) / Math.PI;
    expect(spread(0)).toBeLessThan(0.02);
    const once = spread(1);
    expect(Math.abs(once / usual - 1)).toBeLessThan(0.25);
    expect(Math.abs(spread(3) / once - 3)).toBeLessThan(0.5);
  });
});
