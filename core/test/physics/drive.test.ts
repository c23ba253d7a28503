import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { GRAVITY } from "../../src/physics/constants.js";
import type { World } from "../../src/physics/world.js";
import { evenly } from "../support/evenly.js";
import { drive, EFFICIENCY, GEAR, r1, rolling, run, STRONG, setMode, WEAK, WHEEL_RADIUS_M } from "./r1.js";

const R = WEAK.nominalVolts / WEAK.stallCurrentA;
const KT = WEAK.stallTorqueNm / WEAK.stallCurrentA;
const KE = WEAK.nominalVolts / WEAK.freeSpeedRadS;
/** Damping of both motors on the robot, N s/m, and its mass with the spinning parts, kg. */
const D = (2 * EFFICIENCY * GEAR ** 2 * KT * KE) / (R * WHEEL_RADIUS_M ** 2);
const M = 1.2 + (2 * (2e-5 + GEAR ** 2 * 1e-7)) / WHEEL_RADIUS_M ** 2;
const TAU_SEC = M / D;
const FREE_MS = (WEAK.freeSpeedRadS / GEAR) * WHEEL_RADIUS_M;

function secondsUntilStill(world: World): number {
  let steps = 0;
  for (; steps < 4000 && Math.abs(world.velocityX) > 1e-6; steps += 1) world.step();
  return steps * 0.005;
}

describe("loads", () => {
  test("at rest each support carries what statics say", () => {
    const loads = r1().loads.loadsN;
    for (const load of loads) expect(load).toBeCloseTo(3.924, 10);
  });
});

describe("straight driving against closed forms", () => {
  test("full duty from rest follows v(1 - e^(-t/tau))", () => {
    const world = r1();
    drive(world, 1, 1);
    for (let i = 1; i <= 200; i += 1) {
      world.step();
      const expected = FREE_MS * (1 - Math.exp((-i * 0.005) / TAU_SEC));
      // Backward Euler lags by half a step: at most dt/(2 tau) of the remaining speed, 0.5 % of the final one.
      expect(Math.abs(world.velocityX - expected)).toBeLessThan(0.005 * FREE_MS);
    }
  });

  test("short-circuit braking takes v0 tau, which gears shorten: they lose both ways", () => {
    const world = r1();
    rolling(world, 0.6);
    setMode(world, "brake");
    run(world, 5);
    // Driving, the damping is η of the motor's; braking it is 1 / η of it. 0.3 mm is what remains of the exponential
    // tail, of the step, and of the last millimetres a second, in which the loss passes from one to the other.
    expect(Math.abs(world.xM - 0.6 * TAU_SEC * EFFICIENCY * EFFICIENCY)).toBeLessThan(3e-4);
  });

  test("locked wheels slide a distance set by friction and their share of the weight", () => {
    for (const [height, share] of [
      [0, 1],
      [0.05, 1 / (1 + (0.6 * 0.05) / 0.09)],
    ] as const) {
      const world = r1({ coulombTorqueNm: 1, grip: 0.6, comHeightM: height });
      world.velocityX = 0.8;
      setMode(world, "brake");
      run(world, 2);
      const expected = 0.8 ** 2 / (2 * 0.6 * GRAVITY * (0.06 / 0.09) * share);
      // The fixed step stops up to v0 dt / 2 early or late; the load shift follows with 7.5 ms, worth 4 %.
      expect(Math.abs(world.xM - expected)).toBeLessThan((0.8 * 0.005) / 2 + (height > 0 ? 0.04 * expected : 0));
    }
  });

  test("coasting under rolling resistance and viscous drag", () => {
    const world = r1({ comHeightM: 0, rollingResistance: 0.02, viscousNmS: 1e-7 });
    rolling(world, 0.6);
    setMode(world, "coast");
    const drag = (2 * GEAR ** 2 * 1e-7) / WHEEL_RADIUS_M ** 2;
    const force = 0.02 * 2 * 3.924;
    const vf = force / drag;
    const seconds = (M / drag) * Math.log(1 + 0.6 / vf);
    const distance = (M / drag) * (0.6 - vf * Math.log(1 + 0.6 / vf));
    const took = secondsUntilStill(world);
    expect(seconds).toBeCloseTo(4.101, 2);
    expect(Math.abs(took - seconds)).toBeLessThan(0.003 * seconds + 0.005);
    expect(Math.abs(world.xM - distance)).toBeLessThan(0.003 * distance);
  });

  test("slipping at full duty accelerates by grip alone", () => {
    const world = r1({ motor: STRONG, grip: 0.35 });
    drive(world, 1, 1);
    run(world, 0.05);
    const before = world.velocityX;
    run(world, 0.05);
    const expected = (0.35 * GRAVITY * (0.06 / 0.09)) / (1 - (0.35 * 0.05) / 0.09);
    // 4 %: the load shift is low-passed.
    expect(Math.abs((world.velocityX - before) / 0.05 - expected)).toBeLessThan(0.04 * expected);
  });
});

describe("turning", () => {
  test("unequal duties drive a circle of (b/2)(wr + wl)/(wr - wl)", () => {
    const world = r1();
    drive(world, 0.5, 0.9);
    run(world, 4);
    const [left, right] = world.wheels.map((wheel) => wheel.spinRadS) as [number, number];
    const radius = 0.075 * ((right + left) / (right - left));
    // The axle's middle, not the centre of mass, runs on that circle.
    const axleX = world.velocityX + world.turnRateRadS * 0.03 * Math.sin(world.headingRad);
    const axleY = world.velocityY - world.turnRateRadS * 0.03 * Math.cos(world.headingRad);
    expect(Math.hypot(axleX, axleY) / world.turnRateRadS / radius).toBeCloseTo(1, 3);
    expect(world.turnRateRadS).toBeGreaterThan(0);
  });

  test("opposite duties turn on the spot", () => {
    const world = r1();
    drive(world, -0.5, 0.5);
    run(world, 2);
    // The axle's middle stays: it is 30 mm behind the centre of mass.
    // 4 mm in more than a whole turn is the fixed step's own drift while it speeds up.
    expect(Math.abs(world.xM - 0.03 * Math.cos(world.headingRad) + 0.03)).toBeLessThan(4e-3);
    expect(world.headingRad).toBeGreaterThan(1);
  });

  test("mirror images run as mirror images", () => {
    fc.assert(
      fc.property(evenly(-1, 1), evenly(-1, 1), (left, right) => {
        const one = r1({ motor: STRONG, grip: 0.5 });
        const other = r1({ motor: STRONG, grip: 0.5 });
        drive(one, left, right);
        drive(other, right, left);
        run(one, 1);
        run(other, 1);
        // Gauss-Seidel visits left before right, so mirrors agree to solver tolerance, not to the bit.
        expect(Math.abs(one.yM + other.yM)).toBeLessThan(2e-3);
        expect(Math.abs(one.xM - other.xM)).toBeLessThan(2e-3);
        expect(Math.abs(one.headingRad + other.headingRad)).toBeLessThan(5e-3);
      }),
      { numRuns: 60 },
    );
  });
});

describe("motors and battery", () => {
  test("below the dead band nothing moves, above it does", () => {
    const sheet = { ...WEAK, coulombTorqueNm: 4e-4 };
    const kt = (sheet.stallTorqueNm + 4e-4) / sheet.stallCurrentA;
    const deadBand = (4e-4 * R) / (kt * 7.4);
    expect(deadBand).toBeCloseTo(0.1176, 4);
    for (const [factor, moves] of [
      [0.99, false],
      [1.01, true],
    ] as const) {
      const world = r1({ motor: sheet });
      drive(world, deadBand * factor, deadBand * factor);
      run(world, 1);
      expect(Math.abs(world.velocityX) > 1e-6).toBe(moves);
    }
  });

  test("two stalled motors pull the pack down to 6.367 V at 1.0326 A each", () => {
    const world = r1({
      motor: { ...WEAK, stallCurrentA: 1.2, stallTorqueNm: 0.012 },
      coulombTorqueNm: 1,
      internalOhm: 0.5,
    });
    drive(world, 1, 1);
    run(world, 0.1);
    expect(world.packVolts).toBeCloseTo(6.367, 3);
    expect(world.wheels[0]?.motorCurrentA).toBeCloseTo(1.0326, 3);
  });

  test("energy never grows without a motor", () => {
    fc.assert(
      fc.property(evenly(-1, 1), evenly(-1, 1), evenly(-8, 8), (vx, vy, rate) => {
        const world = r1({ grip: 0.6 });
        setMode(world, "coast");
        Object.assign(world, { velocityX: vx, velocityY: vy, turnRateRadS: rate });
        let energy = Number.POSITIVE_INFINITY;
        for (let i = 0; i < 200; i += 1) {
          world.step();
          let now = 0.6 * (world.velocityX ** 2 + world.velocityY ** 2) + 0.006 * world.turnRateRadS ** 2;
          for (const wheel of world.wheels) now += 0.5 * (2e-5 + 9e-5) * wheel.spinRadS ** 2;
          expect(now).toBeLessThanOrEqual(energy * (1 + 1e-9) + 1e-12);
          energy = now;
        }
      }),
      { numRuns: 60 },
    );
  });
});

describe("walls", () => {
  const wall = [
    [
      [0.5, -2],
      [0.5, 2],
    ],
  ] as const;

  test("pressing on a wall with spinning wheels pushes with all the grip there is", () => {
    const world = r1({ motor: STRONG, grip: 0.8, segments: wall, comHeightM: 0 });
    drive(world, 1, 1);
    run(world, 3);
    let impulse = 0;
    for (let i = 0; i < world.contacts.count; i += 1) impulse += world.contacts.normalImpulse[i] as number;
    expect(impulse / 0.005).toBeCloseTo(2 * 0.8 * 3.924, 2);
    expect(Math.abs(world.velocityX)).toBeLessThan(1e-4);
    expect(world.wheels[0]?.spinRadS).toBeGreaterThan(1);
  });

  test("a ram at 1.5 m/s does not pass through", () => {
    const world = r1({ segments: wall });
    rolling(world, 1.5);
    setMode(world, "coast");
    let furthest = 0;
    for (let i = 0; i < 400; i += 1) {
      world.step();
      furthest = Math.max(furthest, world.xM);
    }
    // The nose is 100 mm ahead of the centre of mass; 1 mm of overlap is the solver's slop and push-out.
    expect(furthest).toBeLessThan(0.401);
  });

  test("a robot that meets a wall askew squares up on it", () => {
    const world = r1({ segments: wall, motor: STRONG, grip: 1 });
    world.place({ xM: 0.3, yM: 0, headingRad: 0.2 });
    drive(world, 0.4, 0.4);
    run(world, 4);
    expect(Math.abs(world.headingRad)).toBeLessThan(0.01);
  });

  test("at rest nothing creeps in 60 s", () => {
    const world = r1({ segments: wall });
    world.place({ xM: 0.3999, yM: 0, headingRad: 0 });
    setMode(world, "brake");
    run(world, 60);
    expect(Math.abs(world.xM - 0.3999)).toBeLessThan(1e-6);
    expect(Math.abs(world.yM)).toBeLessThan(1e-6);
  });
});
