// Robot and field documents: what is taken, what is refused and in which words, and the values in force.
import { describe, expect, test } from "vitest";
import { z } from "zod";
import { parseVersioned } from "../../src/documents/read.js";
import { gearTrain } from "../../src/drives/train.js";
import { solidSegments } from "../../src/field/edges.js";
import { findBegin } from "../../src/field/read.js";
import { scoreField, shapeHolds } from "../../src/field/zones.js";
import {
  driveModel,
  openFloor,
  type Pose,
  type Robot,
  readField,
  readRobot,
  rimOutline,
  robotInForce,
} from "../../src/index.js";
import { inForce } from "../../src/units/known.js";
import { drizzle, drizzleBody, fellside } from "../support/demo.js";

function refused(change: (body: Robot) => void): string {
  const body = structuredClone(drizzleBody()) as unknown as Robot;
  change(body);
  const read = readRobot(body);
  return read.ok ? "" : read.problems.join("; ");
}

describe("robot documents", () => {
  test("the demo robot is taken and its wheels roll what was measured", () => {
    const known = robotInForce(drizzle());
    expect(known.left.rollPerTurnM).toEqual({ value: 0.1946, standardError: 0.0003 });
    expect(known.trackWidthM.value).toBe(0.1384);
  });

  test.each<[string, (body: Robot) => void, string]>([
    [
      "wheel size 0",
      (b) => {
        (b.wheels[0] as Robot["wheels"][0]).diameterM = 0;
      },
      "Left wheel: diameter must be at least 3 mm",
    ],
    [
      "negative mass",
      (b) => {
        b.chassis.massKg = -1;
      },
      "mass, whole robot must be at least 0.01 kg",
    ],
    [
      "NaN",
      (b) => {
        b.chassis.heightM = Number.NaN;
      },
      "chassis.heightM must be a number",
    ],
    [
      "infinite",
      (b) => {
        (b.support as NonNullable<Robot["support"]>).xM = Number.POSITIVE_INFINITY;
      },
      "support.xM",
    ],
    [
      "a missing part",
      (b) => {
        Reflect.deleteProperty(b, "pack");
      },
      "pack",
    ],
    [
      "a name taken twice",
      (b) => {
        (b.motors[1] as Robot["motors"][0]).name = "left_motor";
      },
      'Two parts are called "left_motor"',
    ],
    [
      "a reserved name",
      (b) => {
        (b.motors[2] as Robot["motors"][0]).name = "turn";
      },
      '"turn" is a word of the mission language',
    ],
    [
      "no such motor",
      (b) => {
        (b.wheels[0] as Robot["wheels"][0]).drivenBy = "ghost";
      },
      'driven by "ghost"',
    ],
    [
      "two left wheels",
      (b) => {
        (b.wheels[1] as Robot["wheels"][0]).side = "left";
      },
      "Only the left side is driven",
    ],
    [
      "a dented outline",
      (b) => {
        b.chassis.outlineM = [
          [0, 0],
          [0.1, 0],
          [0.02, 0.01],
          [0, 0.1],
        ];
      },
      "has a dent",
    ],
    [
      "balance off its wheels",
      (b) => {
        b.chassis.centreOfMassM = [0.2, 0, 0.04];
      },
      "centre of mass",
    ],
    [
      "a motor better than physics",
      (b) => {
        (b.motors[0] as Robot["motors"][0]).stallTorqueNm = 1;
      },
      "more than its electrical power",
    ],
    [
      "a newer version",
      (b) => {
        (b as { version: number }).version = 9;
      },
      "knows versions up to 3",
    ],
    [
      "another format",
      (b) => {
        (b as { format: string }).format = "cake";
      },
      "not a giddy-pebble/robot document",
    ],
  ])("%s is refused in words", (_, change, words) => {
    expect(refused(change)).toContain(words);
  });

  test.each([[null], [3], ["text"], [[]], [{}]])("%j is not a robot", (value) => {
    expect(readRobot(value).ok).toBe(false);
  });

  test("older versions are upgraded step by step", () => {
    const schema = z.object({ format: z.literal("f"), version: z.literal(3), a: z.number() });
    const kind = {
      format: "f",
      newest: 3,
      schema,
      upgrades: {
        1: (old: Record<string, unknown>) => ({ ...old, version: 2, a: 1 }),
        2: (old: Record<string, unknown>) => ({ ...old, version: 3, a: Number(old.a) + 1 }),
      },
    };
    expect(parseVersioned({ format: "f", version: 1 }, kind)).toEqual({
      ok: true,
      document: { format: "f", version: 3, a: 2 },
    });
  });

  test("a drawn value follows the drawing, a measured one stands", () => {
    const known = { value: 2, standardError: null, count: 0, method: "", conditions: "", measuredAt: null };
    expect(inForce({ ...known, source: "drawing" }, 5, 0.01)).toEqual({ value: 5, standardError: 0.05 });
    expect(inForce({ ...known, source: "measured", standardError: 0.1 }, 5, 0.01)).toEqual({
      value: 2,
      standardError: 0.1,
    });
  });

  test("gears multiply, lose and flip", () => {
    const robot = drizzle((body) => {
      (body.wheels[0] as Robot["wheels"][0]).stages = [
        { kind: "gears", driverTeeth: 20, drivenTeeth: 12, efficiency: 0.9, backlashRad: 0.02, slipTorqueNm: null },
        { kind: "gears", driverTeeth: 10, drivenTeeth: 30, efficiency: 0.9, backlashRad: 0.01, slipTorqueNm: null },
      ];
    });
    const train = gearTrain(robot, robot.wheels[0] as Robot["wheels"][0]);
    expect(train.ratio).toBeCloseTo(1.8, 12);
    expect(train.efficiency).toBeCloseTo(0.81, 12);
    expect(train.flips).toBe(false);
    // The first stage's play reaches the wheel through the second, three times as slow.
    expect(train.backlashRad).toBeCloseTo(0.02 / 3 + 0.01, 12);
  });

  test("the drive model's top speed is where motor and friction balance", () => {
    const model = driveModel(drizzle());
    const push = (model.nominalVolts - model.left.voltsPerSpeed * model.topSpeedMS) / model.left.voltsPerNewton;
    expect(push).toBeCloseTo(model.left.frictionN, 9);
    expect(model.topSpeedMS).toBeGreaterThan(0.4);
  });
});

describe("field documents", () => {
  test("Fellside is taken; its rim has rounded corners and closes", () => {
    const field = fellside();
    const rim = rimOutline(field.size);
    expect(rim.every(([x, y]) => x >= -1e-9 && y >= -1e-9 && x <= 2.1 + 1e-9 && y <= 1.5 + 1e-9)).toBe(true);
    expect(solidSegments(field)).toHaveLength(field.walls.length + rim.length);
  });

  test("an open floor has no rim and its start place in the middle", () => {
    expect(solidSegments(openFloor())).toEqual([]);
    expect(findBegin(openFloor(), null)).toMatchObject({ xM: 2, yM: 2, headingRad: 0 });
    expect(findBegin(fellside(), "nowhere")).toBeNull();
  });

  test("start places off the table and twin names are refused", () => {
    const body = {
      ...structuredClone(fellside()),
      begins: [
        { name: "a", xM: 9, yM: 0, headingRad: 0 },
        { name: "a", xM: 1, yM: 1, headingRad: 0 },
      ],
    };
    const read = readField(body);
    expect(read.ok ? [] : read.problems).toEqual([
      expect.stringContaining('two places are called "a"'),
      expect.stringContaining("outside the field"),
    ]);
  });

  test("a zone scores when the whole outline is inside", () => {
    const field = fellside();
    const { outlineM } = drizzle().chassis;
    const standing = (robotPose: Pose) => ({ robotOutlineM: outlineM, robotPose, loads: [], clockSec: 0 });
    expect(scoreField(field, standing({ xM: 0.24, yM: 0.7, headingRad: 1 }))).toBe(10);
    expect(scoreField(field, standing({ xM: 0.34, yM: 0.7, headingRad: 0 }))).toBe(0);
    expect(scoreField(openFloor(), standing({ xM: 1, yM: 1, headingRad: 0 }))).toBeNull();
    const square = {
      kind: "polygon" as const,
      cornersM: [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ] as [number, number][],
    };
    expect(shapeHolds(square, outlineM, { xM: 0.5, yM: 0.5, headingRad: 2 })).toBe(true);
    expect(shapeHolds(square, outlineM, { xM: 0.05, yM: 0.5, headingRad: 0 })).toBe(false);
  });
});
