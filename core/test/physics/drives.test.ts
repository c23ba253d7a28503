// Skid steering, steered axles, differentials, belts and casters against closed forms.
import { describe, expect, test } from "vitest";
import { openFloor } from "../../src/index.js";
import { deriveMotor } from "../../src/physics/motor.js";
import type { WorldSpec } from "../../src/physics/parts.js";
import { ackermannRad } from "../../src/physics/wheelRows.js";
import { World } from "../../src/physics/world.js";
import { noDeviations, worldFromRobot } from "../../src/simulate/fromRobot.js";
import { demoRobot } from "../support/demo.js";
import { drive, EFFICIENCY, GEAR, r1, run, STRONG } from "./r1.js";

/** A pair is tied: its motor stands for two of the strong ones. */
const PAIR = { ...STRONG, stallTorqueNm: 2 * STRONG.stallTorqueNm, stallCurrentA: 2 * STRONG.stallCurrentA };
const derived = deriveMotor(PAIR);
if (!derived.ok) throw new Error(derived.message);
const motor = (slipTorqueNm?: number) => ({
  constants: derived.constants,
  gearRatio: GEAR,
  efficiency: EFFICIENCY,
  coulombTorqueNm: 0,
  viscousNmS: 0,
  rotorInertiaKgM2: 1e-7,
  ...(slipTorqueNm === undefined ? {} : { slipTorqueNm }),
});
const common = {
  comHeightM: 0,
  wallFriction: 0.25,
  battery: { cells: 1, internalResistanceOhm: 0, capacityAh: 1000, curve: [[1, 7.4]] as const },
  charge: 1,
  driverDropVolts: 0,
  boardCurrentA: 0,
  segments: [],
  discs: [],
  outlineM: [
    [0.1, -0.06],
    [0.1, 0.06],
    [-0.1, 0.06],
    [-0.1, -0.06],
  ] as [number, number][],
};

/** m 2 kg, wheels 0.16 m apart lengthwise and 0.18 m across, r 33 mm, grip 0.7. */
function fourWheel(slipTorqueNm?: number): World {
  const wheel = (xM: number, yM: number, more: object) => ({
    xM,
    yM,
    radiusM: 0.033,
    inertiaKgM2: 2e-5,
    grip: 0.7,
    rollingResistance: 0,
    drive: null,
    ...more,
  });
  const spec: WorldSpec = {
    ...common,
    massKg: 2,
    inertiaKgM2: 0.012,
    wheels: [
      wheel(0.08, 0.09, { drive: motor(slipTorqueNm) }),
      wheel(0.08, -0.09, { drive: motor(slipTorqueNm) }),
      wheel(-0.08, 0.09, { tiedTo: 0 }),
      wheel(-0.08, -0.09, { tiedTo: 1 }),
    ],
    casters: [],
  };
  return new World(spec);
}

function car(options: { grip?: number; solid?: boolean; locked?: boolean } = {}): World {
  const wheel = (xM: number, yM: number, more: object) => ({
    xM,
    yM,
    radiusM: 0.03,
    inertiaKgM2: 2e-5,
    grip: options.grip ?? 2,
    rollingResistance: 0,
    drive: null,
    ...more,
  });
  return new World({
    ...common,
    massKg: 1.2,
    inertiaKgM2: 0.012,
    wheels: [
      wheel(-0.1, 0.08, { drive: motor() }),
      wheel(-0.1, -0.08, options.solid ? { tiedTo: 0 } : { differentialWith: 0 }),
      wheel(0.15, 0.08, { steered: true }),
      wheel(0.15, -0.08, { steered: true }),
    ],
    casters: [],
    steering: {
      wheelbaseM: 0.25,
      trackWidthM: 0.16,
      mostRad: 0.6,
      rateRadS: 100,
      locked: options.locked ?? false,
      offsetRad: 0,
    },
  });
}

/** Radius of the circle of the rear axle's middle. */
function radiusOf(world: World): number {
  const c = Math.cos(world.headingRad);
  const s = Math.sin(world.headingRad);
  const vx = world.velocityX + world.turnRateRadS * 0.1 * s;
  const vy = world.velocityY - world.turnRateRadS * 0.1 * c;
  return (vx * c + vy * s) / world.turnRateRadS;
}

describe("four wheels in tied pairs", () => {
  test("turns on the spot only above the duty that overcomes scrubbing", () => {
    // Each wheel scrubs with mu N at lever (L/2)/rho of its direction: F = 2 mu N (L/2)/rho a side.
    const rho = Math.hypot(0.08, 0.09);
    const force = (2 * 0.7 * (2 * 9.81) * 0.25 * 0.08) / rho;
    const threshold = (force * 0.033) / (EFFICIENCY * GEAR * PAIR.stallTorqueNm);
    expect(threshold).toBeCloseTo(0.523, 2);
    const turns = (duty: number) => {
      const world = fourWheel();
      drive(world, -duty, duty);
      run(world, 3);
      return Math.abs(world.headingRad);
    };
    expect(turns(threshold * 0.99)).toBeLessThan(0.01);
    expect(turns(threshold * 1.03)).toBeGreaterThan(0.05);
  });

  test("turns with the width b = T + L² / T", () => {
    const world = fourWheel();
    drive(world, -1, 1);
    run(world, 4);
    const [left, right] = world.wheels.map((wheel) => wheel.spinRadS * 0.033) as [number, number];
    // Steady turning: wheel speeds over turn rate give the width it turns with. 2 % is the solver's tolerance.
    expect((right - left) / world.turnRateRadS / (0.18 + 0.16 ** 2 / 0.18)).toBeCloseTo(1, 1.6);
  });

  test("tied wheels turn as one", () => {
    const world = fourWheel();
    drive(world, 0.7, 0.9);
    run(world, 1);
    expect(world.wheels[2]?.spinRadS).toBe(world.wheels[0]?.spinRadS);
  });

  test("a belt passes on no more than it can", () => {
    const held = fourWheel(0.05);
    held.body.velocityX = 0;
    drive(held, 1, 1);
    held.step();
    held.step();
    expect(held.drives[0]?.slipping).toBe(true);
    const before = held.velocityX;
    run(held, 0.05);
    // Two belts of 0.05 N m at 33 mm on 2 kg and four wheels' spin.
    const massKg = 2 + (4 * 2e-5) / 0.033 ** 2;
    expect((held.velocityX - before) / 0.05 / (0.1 / 0.033 / massKg)).toBeCloseTo(1, 2);
  });
});

describe("a car type", () => {
  test("its steered wheels follow Ackermann", () => {
    const spec = { wheelbaseM: 0.25, trackWidthM: 0.16, mostRad: 1, rateRadS: 1, locked: false, offsetRad: 0 };
    const radius = 0.25 / Math.tan(0.4);
    expect(Math.tan(ackermannRad(0.4, true, spec))).toBeCloseTo(0.25 / (radius - 0.08), 9);
    expect(Math.tan(ackermannRad(0.4, false, spec))).toBeCloseTo(0.25 / (radius + 0.08), 9);
    expect(ackermannRad(0, true, spec)).toBe(0);
  });

  test("drives the circle L / tan(angle), and its differential lets the outer wheel run faster", () => {
    const world = car();
    world.steer(0.4);
    world.command(0, "drive", 0.25);
    run(world, 4);
    expect(radiusOf(world)).toBeCloseTo(0.5913, 3);
    const [left, right] = world.wheels.map((wheel) => wheel.spinRadS) as [number, number];
    expect(right / left).toBeCloseTo(1.3129, 3);
  });

  test("a solid axle makes its wheels scrub, which costs current and speed", () => {
    const drive = (solid: boolean) => {
      const world = car({ solid, grip: 0.8 });
      world.steer(0.4);
      world.command(0, "drive", 0.25);
      run(world, 4);
      const [left, right] = world.wheels.map((wheel) => wheel.spinRadS) as [number, number];
      return { ratio: right / left, amps: world.drives[0]?.motorCurrentA ?? 0, rate: world.turnRateRadS };
    };
    expect(drive(true).ratio).toBe(1);
    expect(drive(true).amps).toBeGreaterThan(drive(false).amps * 1.5);
    expect(drive(true).rate).toBeLessThan(drive(false).rate);
  });

  test("beyond v = √(mu R g) the circle grows, below it does not", () => {
    const geometric = 0.25 / Math.tan(0.3);
    const limit = Math.sqrt(0.5 * 9.81 * geometric);
    const radiusAt = (speed: number) => {
      const world = car({ grip: 0.5 });
      world.command(0, "coast", 0);
      world.velocityX = speed;
      for (const wheel of world.wheels) wheel.spinRadS = speed / 0.03;
      world.steer(0.3);
      run(world, 0.12);
      return Math.hypot(world.velocityX, world.velocityY) / Math.abs(world.turnRateRadS);
    };
    // The centre of mass runs 0.1 m ahead of the axle, on a circle a little larger.
    expect(radiusAt(0.7 * limit) / Math.hypot(geometric, 0.1)).toBeCloseTo(1, 1.5);
    expect(radiusAt(1.4 * limit)).toBeGreaterThan(1.3 * geometric);
  });

  test("the axle turns at its own rate, and not at all with its pin in", () => {
    const slow = new World({
      ...car().spec,
      steering: { ...(car().spec.steering as NonNullable<WorldSpec["steering"]>), rateRadS: 1 },
    });
    slow.steer(0.4);
    run(slow, 0.2);
    expect(slow.steerRad).toBeCloseTo(0.2, 9);
    const pinned = car({ locked: true });
    pinned.steer(0.4);
    run(pinned, 1);
    expect(pinned.steerRad).toBe(0);
  });
});

describe("a free caster", () => {
  test("swings into the way it is pulled: tan(a/2) falls with e^(-x/trail)", () => {
    const base = r1().spec;
    const world = new World({ ...base, casters: [{ xM: 0.06, yM: 0, friction: 0.001, trailM: 0.02 }] });
    const [caster] = world.casters;
    if (!caster) throw new Error("no caster");
    caster.swivelRad = 1;
    drive(world, 0.3, 0.3);
    run(world, 1);
    const travelled = world.xM;
    const expected = 2 * Math.atan(Math.tan(0.5) * Math.exp(-travelled / 0.02));
    // The step takes the swing forward by Euler: 2 % of the angle where it still swings.
    expect(Math.abs(caster.swivelRad - expected)).toBeLessThan(0.02);
  });
});

describe("the demo robots as worlds", () => {
  test.each([
    ["gust", 2, 2],
    ["sleet", 1, 4],
    ["fog", 2, 4],
  ])("%s has %i drives and %i wheels and drives ahead", (name, drives, wheels) => {
    const robot = demoRobot(name);
    const world = worldFromRobot(robot, openFloor(), noDeviations(robot));
    expect([world.drives.length, world.wheels.length]).toEqual([drives, wheels]);
    for (let i = 0; i < drives; i += 1) world.command(i, "drive", 0.8);
    run(world, 1);
    expect(world.velocityX).toBeGreaterThan(0.2);
    expect(Math.abs(world.headingRad)).toBeLessThan(0.01);
  });
});
