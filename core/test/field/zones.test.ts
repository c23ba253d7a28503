// Zones: inside and touching, loads that count, upright, at most, in time.
import { describe, expect, test } from "vitest";
import {
  loadOutline,
  type PlacedLoad,
  type PlacedThings,
  scoreField,
  shapeTouches,
  zoneScores,
} from "../../src/field/zones.js";
import type { Field } from "../../src/index.js";
import { drizzle, fellside, runText } from "../support/demo.js";

type Zone = Field["zones"][number];
const square: Zone["shape"] = {
  kind: "polygon",
  cornersM: [
    [0, 0],
    [0.4, 0],
    [0.4, 0.4],
    [0, 0.4],
  ],
};
const zone = (change: Partial<Zone>): Zone => ({
  name: "bay",
  shape: square,
  points: 5,
  counts: "load",
  rule: "inside",
  upright: false,
  most: 100,
  beforeSec: null,
  only: null,
  ...change,
});
const load = (xM: number, yM: number, change: Partial<PlacedLoad> = {}): PlacedLoad => ({
  name: "crate",
  outlineM: loadOutline({ shape: "box", sizeM: [0.06, 0.06] }),
  pose: { xM, yM, headingRad: 0.3 },
  upright: true,
  held: false,
  ...change,
});
const standing = (loads: PlacedLoad[], clockSec = 10): PlacedThings => ({
  robotOutlineM: drizzle().chassis.outlineM,
  robotPose: { xM: 1, yM: 1, headingRad: 0 },
  loads,
  clockSec,
});
const points = (one: Partial<Zone>, loads: PlacedLoad[], clockSec = 10) =>
  scoreField({ ...fellside(), zones: [zone(one)] }, standing(loads, clockSec));

describe("loads in zones", () => {
  test("each one inside gives the points, one on the edge only when touching is enough", () => {
    expect(points({}, [load(0.2, 0.2), load(0.1, 0.3), load(0.9, 0.9)])).toBe(10);
    expect(points({}, [load(0.4, 0.2)])).toBe(0);
    expect(points({ rule: "touching" }, [load(0.4, 0.2)])).toBe(5);
    expect(points({ rule: "touching" }, [load(0.46, 0.2)])).toBe(0);
  });

  test("fallen ones, held ones, wrong ones and late ones count nothing where the zone asks for it", () => {
    expect(points({ upright: true }, [load(0.2, 0.2, { upright: false })])).toBe(0);
    expect(points({}, [load(0.2, 0.2, { upright: false })])).toBe(5);
    expect(points({}, [load(0.2, 0.2, { held: true })])).toBe(0);
    expect(points({ only: "gauge" }, [load(0.2, 0.2)])).toBe(0);
    expect(points({ beforeSec: 8 }, [load(0.2, 0.2)], 9)).toBe(0);
    expect(points({ beforeSec: 8 }, [load(0.2, 0.2)], 7)).toBe(5);
  });

  test("no more than the zone's most count", () => {
    const three = [load(0.1, 0.1), load(0.2, 0.2), load(0.3, 0.3)];
    expect(points({ most: 2 }, three)).toBe(10);
    expect(zoneScores({ ...fellside(), zones: [zone({ most: 2 })] }, standing(three))).toEqual([
      { zone: "bay", count: 2, points: 10 },
    ]);
  });

  test("a zone within an outline is touched by it, and an ellipse by a corner", () => {
    const big = loadOutline({ shape: "box", sizeM: [2, 2] });
    expect(shapeTouches(square, big, { xM: 0.2, yM: 0.2, headingRad: 0 })).toBe(true);
    const round: Zone["shape"] = { kind: "ellipse", centreM: [0, 0], radiusXM: 0.2, radiusYM: 0.1 };
    const small = loadOutline({ shape: "disc", sizeM: [0.04, 0.04] });
    expect(shapeTouches(round, small, { xM: 0.21, yM: 0, headingRad: 0 })).toBe(true);
    expect(shapeTouches(round, small, { xM: 0, yM: 0.13, headingRad: 0 })).toBe(false);
  });
});

describe("a mission that pushes", () => {
  const robot = drizzle((body) => {
    body.chassis.wallFriction = 0.4;
  });
  const field: Field = {
    ...fellside(),
    loads: fellside().loads.map((one) => ({ ...one, xM: 0.55, yM: 0.21 })),
    begins: [{ name: "hut dock", xM: 0.34, yM: 0.21, headingRad: 0 }],
    walls: [],
  };
  test("the snow gauge goes into its bay and scores there", () => {
    const text =
      'cairn 1\nrobot "Drizzle"\nfield "Fellside"\ngoal score > 14\nmission\n  go 65 cm at 15 cm/s\n  back 10 cm\n';
    const { summary, trace } = runText(text, { robot, field });
    expect(summary.zones).toEqual([{ zone: "gauge bay", count: 1, points: 15 }]);
    expect(summary.success).toBe(true);
    expect(summary.loads[0]?.xM).toBeGreaterThan(1.05);
    const moved = trace.columns.find(({ id }) => id === "load:snow gauge:x")?.values;
    expect(moved?.[0]).toBeCloseTo(0.55, 6);
    expect(moved?.at(-1)).toBeCloseTo(summary.loads[0]?.xM ?? 0, 5);
  });
});
