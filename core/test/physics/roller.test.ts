// A spinning wheel lying on loads: dry friction at its rim against closed forms, forces in pairs, what it does not touch.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { addPart, openFloor, type Robot, readRobot, setAttachmentKind, type World } from "../../src/index.js";
import { GRAVITY } from "../../src/physics/constants.js";
import { Roller } from "../../src/physics/roller.js";
import { drizzle, runSteps } from "../support/demo.js";
import { evenly } from "../support/evenly.js";
import { box, r1, setMode } from "./r1.js";

const SPEC = { xM: 0.13, yM: 0, aimRad: 0, radiusM: 0.02, widthM: 0.05, lowM: 0.02, gripN: 1.2 };
const STEP = 0.005;

/** A robot with locked wheels on good tyres, a box of 0.2 kg and friction 0.3 below its roller. */
function scene(xM = 0.18, massKg = 0.2, friction = 0.3): { world: World; load: World["bodies"][0] } {
  const world = r1({ grip: 3, coulombTorqueNm: 1, loads: [box(xM, 0, massKg, friction)] });
  setMode(world, "brake");
  const load = world.bodies[1];
  if (!load) throw new Error("no load");
  return { world, load };
}

function drag(world: World, load: World["bodies"][0], roller: Roller, rimMS: number, seconds: number): void {
  for (let i = 0; i < Math.round(seconds / STEP); i += 1) {
    if (roller.touches(world.body, load)) roller.drag(world.body, load, rimMS, STEP);
    world.step();
  }
}

describe("what lies below a turning rim", () => {
  test("is thrown out with a = (F − m mu g) / m", () => {
    const { world, load } = scene(0.14);
    const roller = new Roller({ ...SPEC, gripN: 1.2 });
    drag(world, load, roller, -10, 0.05);
    const a = (1.2 - 0.2 * 0.3 * GRAVITY) / 0.2;
    // The first step takes the load from its rest by half a step's worth.
    expect(Math.abs(load.velocityX / (a * 0.05) - 1)).toBeLessThan(0.01);
    expect(Math.abs(load.xM - 0.14 - (a * 0.05 ** 2) / 2)).toBeLessThan(a * 0.05 * STEP);
  });

  test("goes no faster than the rim, and slides v² / (2 mu g) beyond its reach", () => {
    const { world, load } = scene(0.14);
    const roller = new Roller({ ...SPEC, gripN: 5 });
    let left = { xM: 0, speedMS: 0 };
    for (let i = 0; i < 200; i += 1) {
      if (roller.touches(world.body, load)) {
        roller.drag(world.body, load, -0.4, STEP);
        world.step();
        left = { xM: load.xM, speedMS: load.velocityX };
        expect(load.velocityX).toBeLessThan(0.4 + 1e-9);
      } else world.step();
    }
    expect(Math.abs(load.velocityX)).toBeLessThan(1e-6);
    // Within a step the floor has its share after the rim, and the robot gives way by its share of the masses.
    expect(Math.abs(left.speedMS - 0.4)).toBeLessThan(0.3 * GRAVITY * STEP * (1 + 0.2 / 1.2) + 1e-6);
    expect(Math.abs(load.xM - left.xM - left.speedMS ** 2 / (2 * 0.3 * GRAVITY))).toBeLessThan((0.4 * STEP) / 2);
  });

  test("is pulled in to the chassis and held there by as much as the rim grips", () => {
    const { world, load } = scene(0.175);
    drag(world, load, new Roller(SPEC), 0.3, 1);
    // The nose is 100 mm ahead, the box 30 mm deep to its middle.
    expect(Math.abs(load.xM - 0.13)).toBeLessThan(1e-3);
    let impulse = 0;
    for (let i = 0; i < world.contacts.count; i += 1)
      if (world.contacts.second[i] === 1 || world.contacts.first[i] === 1)
        impulse += world.contacts.normalImpulse[i] ?? 0;
    // Floor friction may lie on either side of it.
    expect(Math.abs(impulse / STEP - 1.2)).toBeLessThan(0.2 * 0.3 * GRAVITY + 1e-6);
  });

  test("stays where it is when the floor holds it better than the rim", () => {
    const { world, load } = scene(0.14, 0.6, 0.5);
    drag(world, load, new Roller({ ...SPEC, gripN: 2.8 }), -5, 1);
    expect(Math.abs(load.xM - 0.14)).toBeLessThan(1e-4);
  });
});

describe("forces come in pairs", () => {
  test("momentum of robot and load stays what it was, wherever the roller sits and however they move", () => {
    const unit = evenly(-1, 1);
    fc.assert(
      fc.property(fc.array(unit, { minLength: 8, maxLength: 8 }), (v) => {
        const at = (i: number) => v[i] as number;
        const { world, load } = scene(0.14);
        const { body } = world;
        Object.assign(body, { velocityX: at(0), velocityY: at(1), turnRateRadS: 4 * at(2) });
        Object.assign(load, { velocityX: at(3), velocityY: at(4) });
        const momentum = () => [
          body.massKg * body.velocityX + load.massKg * load.velocityX,
          body.massKg * body.velocityY + load.massKg * load.velocityY,
        ];
        const before = momentum();
        const roller = new Roller({ ...SPEC, yM: 0.04 * at(5), aimRad: at(6) });
        const force = roller.drag(body, load, 2 * at(7), STEP);
        expect(Math.abs(force)).toBeLessThanOrEqual(SPEC.gripN + 1e-9);
        for (const [i, value] of momentum().entries()) expect(Math.abs(value - (before[i] ?? 0))).toBeLessThan(1e-12);
      }),
    );
  });

  test("a rim that stands still takes energy out and never puts any in", () => {
    const { world, load } = scene(0.14);
    load.velocityX = 0.5;
    const energy = () => (load.massKg * load.velocityX ** 2 + world.body.massKg * world.body.velocityX ** 2) / 2;
    const roller = new Roller({ ...SPEC, gripN: 50 });
    const before = energy();
    roller.drag(world.body, load, 0, STEP);
    expect(energy()).toBeLessThan(before);
    expect(load.velocityX - world.body.velocityX).toBeCloseTo(0, 9);
  });
});

describe("what it does not lie on", () => {
  const roller = new Roller(SPEC);
  test.each([
    ["beyond its reach", 0.19, 0, 0.05],
    ["beside it", 0.14, 0.06, 0.05],
    ["lower than its rim", 0.14, 0, 0.015],
  ])("%s", (_, xM, yM, heightM) => {
    const world = r1({ loads: [{ ...box(xM, yM, 0.2, 0.3), heightM }] });
    const load = world.bodies[1];
    expect(load && roller.touches(world.body, load)).toBe(false);
  });
});

describe("a spinner in a mission", () => {
  const base = drizzle((body) => {
    body.attachments = [];
    body.sensors = body.sensors.filter((sensor) => sensor.kind !== "bumper");
  });
  const fitted: Robot = addPart(base, "spinner").robot;
  const read = readRobot({
    ...fitted,
    attachments: fitted.attachments.map((part) => ({ ...part, drivenBy: "arm" })),
  });
  if (!read.ok) throw new Error(read.problems.join());
  const robot = read.document;
  const crate = {
    name: "crate",
    shape: "box" as "box" | "disc",
    sizeM: [0.05, 0.05] as [number, number],
    heightM: 0.05,
    massKg: 0.08,
    friction: 0.4,
  };
  const field = { ...openFloor(), loads: [{ ...crate, xM: 2.16, yM: 2, headingRad: 0, colour: "#C8352B" }] };

  test("pulls a crate in, keeps it while the robot backs off, and throws it out", () => {
    const took = runSteps("go 4 cm at 8 cm/s\npower arm 80 %\nwait 1 s\nback 30 cm at 10 cm/s", {
      robot,
      field,
    });
    expect(took.summary.end.xM).toBeLessThan(1.78);
    // It came along: without the spinner it stays where it was.
    expect(took.summary.loads[0]?.xM).toBeLessThan(2.0);
    const left = runSteps("go 4 cm at 8 cm/s\nwait 1 s\nback 30 cm at 10 cm/s", { robot, field });
    expect(left.summary.loads[0]?.xM).toBeGreaterThan(2.14);
    const thrown = runSteps("go 4 cm at 8 cm/s\npower arm -100 % for 2 s", { robot, field });
    expect(thrown.summary.loads[0]?.xM).toBeGreaterThan(2.17);
  });

  test("made of another attachment drags with the usual force, and made another again with none", () => {
    const spinner = setAttachmentKind(drizzle(), "lever", "spinner");
    expect(spinner.attachments[0]).toMatchObject({ kind: "spinner", gripN: 1 });
    expect(setAttachmentKind(spinner, "lever", "arm")).toEqual(drizzle());
  });

  test("draws more while it drags than while it turns freely", () => {
    const current = (steps: string, on = field) => {
      const { trace } = runSteps(steps, { robot, field: on });
      return trace.columns.find(({ id }) => id === "battery")?.values.at(-1) ?? 0;
    };
    const stuck = { ...field, loads: field.loads.map((load) => ({ ...load, massKg: 5, friction: 1 })) };
    const steps = "go 4 cm at 8 cm/s\npower arm 60 % for 1 s";
    expect(current(steps, stuck)).toBeLessThan(current(steps, openFloor()) + 0.05);
  });
});
