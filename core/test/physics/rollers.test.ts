// Wheels with rollers against closed forms: steady motion of the whole, and what friction holds along and across.
import { describe, expect, test } from "vitest";
import { mixingOf } from "../../src/drives/mixing.js";
import { openFloor, type Robot } from "../../src/index.js";
import { GRAVITY, STEP_SEC } from "../../src/physics/constants.js";
import type { World } from "../../src/physics/world.js";
import { noDeviations, worldFromRobot } from "../../src/simulate/fromRobot.js";
import { demoRobot } from "../support/demo.js";
import { threeRollers } from "../support/rollers.js";

const GRIP = 0.6;
const layouts = [
  ["four at 45 deg", demoRobot("flurry")],
  ["three at 120 deg", threeRollers()],
] as const;

/** Without losses, or with rollers of a friction, and the mass in the middle. */
function plain(robot: Robot, rollerFriction = 0): Robot {
  const body = structuredClone(robot);
  body.chassis.centreOfMassM = [0, 0, 0.001];
  body.pack.internalResistanceOhm = 1e-6;
  for (const motor of body.motors) Object.assign(motor, { coulombTorqueNm: 0, viscousNmS: 0, gearboxEfficiency: 1 });
  for (const wheel of body.wheels) {
    wheel.grip.value = GRIP;
    wheel.rollingResistance = 0;
    if (wheel.rollers) wheel.rollers.friction = rollerFriction;
  }
  return body;
}

const worldOf = (robot: Robot) => worldFromRobot(robot, openFloor(), noDeviations(robot));
const speeds = (world: World) => {
  const { headingRad: h } = world;
  const [c, s] = [Math.cos(h), Math.sin(h)];
  const { velocityX: x, velocityY: y, turnRateRadS } = world;
  return [c * x + s * y, c * y - s * x, turnRateRadS] as const;
};

describe.each(layouts)("%s", (_, given) => {
  test.each([
    ["forward", [0.3, 0, 0]],
    ["left", [0, 0.2, 0]],
    ["round", [0, 0, 1.5]],
    ["all at once", [0.15, -0.1, 0.8]],
  ] as const)("motors at the speeds of a motion move the whole so: %s", (_way, motion) => {
    const robot = plain(given);
    // So light that the motors hardly feel the change of direction of a curve.
    robot.chassis.massKg = 0.01;
    robot.chassis.inertiaKgM2 = 1e-5;
    const world = worldOf(robot);
    const mixing = mixingOf(robot.wheels, { slide: 1, turn: 1 });
    if (!mixing) throw new Error("no mixing");
    // Without losses a motor runs as fast as its share of the volts says.
    mixing.rows.forEach(({ forward, left, turn }, i) => {
      const rimMS = forward * motion[0] + left * motion[1] + turn * motion[2];
      const wheel = world.wheels[i];
      const spec = world.drives[i]?.drive;
      if (!wheel || !spec) throw new Error("no shaft");
      const volts = (rimMS / wheel.spec.radiusM) * spec.gearRatio * spec.constants.backVoltage;
      world.command(i, "drive", volts / world.packVolts);
    });
    for (let i = 0; i < 600; i += 1) world.step();
    const found = speeds(world);
    motion.forEach((value, k) => {
      expect(found[k]).toBeCloseTo(value, 3);
    });
  });
});

/** Wheels that cannot turn, slid along a direction: what friction does to it in the first step. */
function slid(robot: Robot, [x, y]: readonly [number, number]) {
  const world = worldOf(robot);
  for (const { drive } of world.drives) Object.assign(drive ?? {}, { coulombTorqueNm: 1000 });
  world.velocityX = 2 * x;
  world.velocityY = 2 * y;
  const before = { x: world.velocityX, y: world.velocityY };
  world.step();
  return {
    back: ((before.x - world.velocityX) * x + (before.y - world.velocityY) * y) / STEP_SEC,
    aside: ((before.x - world.velocityX) * y - (before.y - world.velocityY) * x) / STEP_SEC,
    round: world.turnRateRadS / STEP_SEC,
    inertia: world.spec.inertiaKgM2,
  };
}

describe("what the floor holds of locked wheels", () => {
  test.each([
    ["along", [1, 0]],
    ["across", [0, 1]],
  ] as const)("four at 45 deg %s: (μ + rollers) g cos 45 deg", (_, way) => {
    const rollers = 0.05;
    const { back, aside, round } = slid(plain(demoRobot("flurry"), rollers), way);
    expect(back).toBeCloseTo((GRIP + rollers) * GRAVITY * Math.SQRT1_2, 6);
    expect(aside).toBeCloseTo(0, 6);
    expect(round).toBeCloseTo(0, 6);
  });

  test("three at 120 deg along: (μ / √3 + 2/3 of the rollers) g", () => {
    const rollers = 0.05;
    const { back, aside } = slid(plain(threeRollers(), rollers), [1, 0]);
    expect(back).toBeCloseTo((GRIP / Math.sqrt(3) + (2 / 3) * rollers) * GRAVITY, 6);
    expect(aside).toBeCloseTo(0, 6);
  });

  test("three at 120 deg across: 2/3 μ g, and a third of the weight's grip turns it about its ring", () => {
    const robot = plain(threeRollers());
    const { back, round, inertia } = slid(robot, [0, 1]);
    expect(back).toBeCloseTo((2 / 3) * GRIP * GRAVITY, 6);
    const { massKg } = robot.chassis;
    expect(Math.abs(round)).toBeCloseTo((GRIP * ((massKg * GRAVITY) / 3) * 0.09) / inertia, 4);
  });

  test("across their axles rollers resist with their own friction alone, and roll freely without it", () => {
    // Slid at 45 deg, two of the four wheels roll on their rollers, and two hold with all their grip.
    const free = slid(plain(demoRobot("flurry"), 0), [Math.SQRT1_2, Math.SQRT1_2]);
    expect(free.back).toBeCloseTo((GRIP * GRAVITY) / 2, 6);
    const some = slid(plain(demoRobot("flurry"), 0.1), [Math.SQRT1_2, Math.SQRT1_2]);
    expect(some.back - free.back).toBeCloseTo((0.1 * GRAVITY) / 2, 6);
  });
});

test("no energy comes from nothing: coasting slows down, whatever way it slides", () => {
  for (const [, robot] of layouts) {
    const world = worldOf(plain(robot, 0.02));
    for (let i = 0; i < world.drives.length; i += 1) world.command(i, "coast", 0);
    Object.assign(world, { velocityX: 0.4, velocityY: 0.3, turnRateRadS: 1 });
    const energy = () =>
      (world.spec.massKg * (world.velocityX ** 2 + world.velocityY ** 2) +
        world.spec.inertiaKgM2 * world.turnRateRadS ** 2 +
        world.wheels.reduce((sum, { shaft }) => sum + shaft.spinRadS ** 2 / Math.max(1e-9, shaft.inverse), 0)) /
      2;
    world.step();
    const first = energy();
    let last = first;
    for (let i = 0; i < 400; i += 1) {
      world.step();
      const now = energy();
      expect(now).toBeLessThanOrEqual(last * (1 + 1e-9) + 1e-12);
      last = now;
    }
    expect(last).toBeLessThan(first / 2);
  }
});
