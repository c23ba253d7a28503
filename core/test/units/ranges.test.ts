// Physical ranges, wherever numbers come in, and what happens to a world whose numbers are lost all the same.
import { describe, expect, test } from "vitest";
import {
  checkRobot,
  findUnit,
  LENGTH,
  noDeviations,
  QUANTITIES,
  RANGES,
  type Robot,
  readField,
  readRobot,
  STAGE_QUANTITIES,
  toRobotSchema,
  worldFromRobot,
} from "../../src/index.js";
import { SPEED } from "../../src/units/dimension.js";
import { LARGEST_NUMBER, largestOf } from "../../src/units/ranges.js";
import { demoRobot, drizzle, drizzleBody, fellside, missionOf, problemsOf, runSteps } from "../support/demo.js";

describe("the ranges", () => {
  test("have two ends each, and every number of a robot has one", () => {
    for (const { least, most } of Object.values(RANGES)) expect(least).toBeLessThan(most);
    for (const [kind, list] of Object.entries({ ...QUANTITIES, stage: STAGE_QUANTITIES }))
      for (const { label, least, over, most } of list) {
        expect(least ?? over, `${kind}: ${label}`).toBeTypeOf("number");
        expect(most, `${kind}: ${label}`).toBeTypeOf("number");
      }
  });

  test("of a value are found by its dimension", () => {
    expect(largestOf(LENGTH)).toMatchObject({ most: 1000, words: "1000 m" });
    expect(largestOf(SPEED).words).toBe("100 m/s");
    expect(largestOf(findUnit("%")?.dimension ?? LENGTH).most).toBe(LARGEST_NUMBER);
  });
});

describe("documents with absurd numbers", () => {
  type Body = { loads: Record<string, unknown>[] };
  const field = () => structuredClone(fellside()) as unknown as Body;

  test.each<[string, (body: Body) => void, string]>([
    ["a load of a million tonnes", (body) => void Object.assign(body.loads[0] ?? {}, { massKg: 1e9 }), "massKg"],
    [
      "a load of a million kilometres",
      (body) => void Object.assign(body.loads[0] as object, { sizeM: [1e9, 1] }),
      "sizeM",
    ],
    ["a field without end", (body) => void Object.assign(body, { size: { widthM: 1e9, heightM: 1 } }), "widthM"],
    [
      "a start place turned beyond all turns",
      (body) => void Object.assign(body, { begins: [{ name: "a", xM: 0, yM: 0, headingRad: 1e308 }] }),
      "headingRad",
    ],
    [
      "a wall that is nowhere",
      (body) => void Object.assign(body, { walls: [{ fromM: [0, 0], toM: [1e18, 0] }] }),
      "toM",
    ],
  ])("%s is refused, with the range and its unit", (_, change, where) => {
    const body = field();
    change(body);
    const read = readField(body);
    expect(read.ok).toBe(false);
    if (!read.ok) expect(read.problems[0]).toMatch(new RegExp(`${where}.*must be a number from .* to .* (m|kg|rad)$`));
  });

  test.each<[string, (robot: Robot) => void, string]>([
    [
      "encoder counts of next to nothing",
      (r) => void Object.assign(r.motors[0]?.encoder ?? {}, { countsPerTurn: 5e-324 }),
      "encoder counts per turn must be at least 1",
    ],
    [
      "a start error of a universe",
      (r) => void Object.assign(r.placement.positionM, { standardError: 1e10 }),
      "Where it is put down is known with an error of more than 0.5 m",
    ],
    [
      "a wheel known to a kilometre",
      (r) => void Object.assign(r.wheels[0]?.rollPerTurnM ?? {}, { standardError: 1000 }),
      "rolls per turn is known with an error of more than",
    ],
    [
      "a chassis like a hair",
      (r) =>
        void Object.assign(r.chassis, {
          outlineM: [
            [0, 0],
            [0.1, 0],
            [0, 1e-7],
          ],
        }),
      "smaller than 5 mm across",
    ],
    [
      "twelve stages of gears",
      (r) =>
        void Object.assign(r.wheels[0] ?? {}, {
          stages: Array.from({ length: 12 }, () => ({
            kind: "gears",
            driverTeeth: 1,
            drivenTeeth: 500,
            efficiency: 1,
            backlashRad: 0,
            slipTorqueNm: null,
          })),
        }),
      "10000 to 1",
    ],
  ])("%s is refused at its part, and the robot still opens", (_, change, words) => {
    const robot = drizzle();
    change(robot);
    expect(
      checkRobot(robot)
        .map(({ message }) => message)
        .join(" "),
    ).toContain(words);
    expect(readRobot(robot).ok).toBe(false);
  });

  test("a number that no document can mean is refused on opening", () => {
    const body = drizzleBody();
    (body.chassis as Record<string, unknown>).massKg = 1e30;
    const read = readRobot(body);
    expect(!read.ok && read.problems[0]).toContain("too large to mean anything");
  });

  test("a frame of the link has its ranges", () => {
    const place = (xM: number, headingRad: number) =>
      toRobotSchema.safeParse({
        kind: "place",
        ask: 1,
        begin: { name: "a", xM, yM: 0, headingRad },
        how: "eye",
        fieldOf: null,
      }).success;
    expect([place(1, 1), place(1e18, 0), place(0, 1e308), place(100.5, 0)]).toEqual([true, false, false, false]);
  });
});

describe("a mission whose values grow beyond everything", () => {
  const grow = (step: string) => `set b = 1\nrepeat 400 times\n  set b = b * 10\n  wait 0.01 s\n${step}`;

  test.each(["face 1 deg * b", "go 1 cm * b", "wait 1 s * b", "note a = b", "turn left 1 deg * b"])(
    "stops at %s with a sentence",
    (step) => {
      const { summary } = runSteps(grow(step));
      expect(summary.outcome).toBe("stopped");
      expect(summary.reason).toMatch(/^the value of ".*" grew beyond .*, the most there is here/);
      expect(Number.isFinite(summary.end.xM + summary.end.headingDeg)).toBe(true);
    },
  );

  test.each([
    ["go 1 m * b", "1000 m"],
    ["face 1 deg * b", "10000 turns"],
    ["wait 1 s * b", "86400 s, a day"],
  ])("a value in the range of numbers is still held to that of %s", (step, words) => {
    expect(runSteps(`set b = 1000\nset b = b * b\nset b = b * 1000\n${step}`).summary.reason).toContain(words);
  });

  test("a number that is written beyond its range is a problem where it stands", () => {
    expect(problemsOf(missionOf("go 2000 m"))[0]).toMatchObject({
      code: "huge-number",
      message: expect.stringContaining("1000 m"),
    });
    expect(problemsOf(missionOf("go 900 m limit 1 s"))).toEqual([]);
  });
});

describe("a world whose numbers are lost", () => {
  const lost = (spoil: (world: ReturnType<typeof worldFromRobot>) => void) => {
    const world = worldFromRobot(demoRobot("drizzle"), fellside(), noDeviations(demoRobot("drizzle")));
    world.place({ xM: 1, yM: 0.8, headingRad: 0.3 });
    for (let i = 0; i < 20; i += 1) world.step();
    const stood = [world.xM, world.yM, world.headingRad];
    spoil(world);
    for (let i = 0; i < 20; i += 1) world.step();
    return { world, stood };
  };

  test.each<[string, Parameters<typeof lost>[0]]>([
    ["a speed that is none", (world) => void Object.assign(world, { velocityX: Number.NaN })],
    ["a heading beyond all turns", (world) => void Object.assign(world, { headingRad: 1e308 })],
    ["a place far off", (world) => void Object.assign(world.body, { xM: 1e18 })],
    [
      "a shaft that spins as nothing can",
      (world) => void Object.assign(world.drives[0] ?? {}, { spinRadS: Number.POSITIVE_INFINITY }),
    ],
    ["a winding like the sun", (world) => void Object.assign(world.drives[1] ?? {}, { windingC: Number.NaN })],
  ])("by %s is put back to rest where it stood, says so, and goes on in numbers", (_, spoil) => {
    const { world, stood } = lost(spoil);
    expect(world.putBack).toBeGreaterThan(0);
    const [x = 0, y = 0, heading = 0] = stood;
    expect(Math.abs(world.xM - x)).toBeLessThan(1e-3);
    expect(Math.abs(world.yM - y)).toBeLessThan(1e-3);
    expect(Math.abs(world.headingRad - heading)).toBeLessThan(1e-3);
    for (const value of [world.velocityX, world.turnRateRadS, world.packVolts, world.charge, world.packCurrentA])
      expect(Number.isFinite(value)).toBe(true);
    for (const shaft of world.drives)
      expect(Number.isFinite(shaft.spinRadS + shaft.windingC + shaft.motorCurrentA)).toBe(true);
  });

  test("that is sound is left alone", () => {
    expect(lost(() => {}).world.putBack).toBe(0);
  });
});
