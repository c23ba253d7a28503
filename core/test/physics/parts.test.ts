// The parts of the world on their own: windings, packs, what slides under a robot, what is carried.
import { describe, expect, test } from "vitest";
import { cellCurve, LITHIUM_CELL, NICKEL_CELL, openCircuitVolts } from "../../src/physics/battery.js";
import { GRAVITY } from "../../src/physics/constants.js";
import { AMBIENT_C, COPPER_PER_K, warmed, warmFactor } from "../../src/physics/thermal.js";
import { World } from "../../src/physics/world.js";
import { box, drive, r1, rolling, run, setMode } from "./r1.js";

const winding = { resistanceKPerW: 12, capacityJPerK: 15, cutOutC: 110, recoverC: 85, copperPerK: COPPER_PER_K };

describe("a winding", () => {
  test("warms on the curve of one resistance and one capacity, to its end", () => {
    let at = AMBIENT_C;
    for (let i = 0; i < 20_000; i += 1) {
      at = warmed(at, 3, winding, 0.005);
      const t = (i + 1) * 0.005;
      // Backward Euler on a time constant of 180 s: a step is a 36,000th of it.
      if (i % 1000 === 999) expect(at - AMBIENT_C).toBeCloseTo(36 * (1 - Math.exp(-t / 180)), 2);
    }
    for (let i = 0; i < 2000; i += 1) at = warmed(at, 3, winding, 1);
    expect(at - AMBIENT_C).toBeCloseTo(36, 3);
  });

  test("cools without current, and has its cold resistance at 25 deg C", () => {
    let at = 85;
    for (let i = 0; i < 180_000; i += 1) at = warmed(at, 0, winding, 0.001);
    expect((at - AMBIENT_C) / 60).toBeCloseTo(Math.exp(-1), 4);
    expect(warmFactor(AMBIENT_C, winding)).toBe(1);
    expect(warmFactor(125, winding)).toBeCloseTo(1.393, 12);
  });
});

describe("a pack", () => {
  test("has cells of its chemistry, each on a curve that only rises", () => {
    for (const chemistry of ["lithium", "nickel"] as const) {
      const curve = cellCurve(chemistry);
      expect(curve).toBe(chemistry === "lithium" ? LITHIUM_CELL : NICKEL_CELL);
      for (let i = 1; i < curve.length; i += 1) {
        expect(curve[i]?.[0]).toBeGreaterThan(curve[i - 1]?.[0] ?? 0);
        expect(curve[i]?.[1]).toBeGreaterThan(curve[i - 1]?.[1] ?? 0);
      }
    }
  });

  test("lies on straight lines between its points, and stays at its ends", () => {
    const spec = { cells: 6, internalResistanceOhm: 0, capacityAh: 2, curve: NICKEL_CELL };
    expect(openCircuitVolts(spec, 0.3)).toBeCloseTo(6 * 1.255, 12);
    expect(openCircuitVolts(spec, -0.2)).toBeCloseTo(6, 12);
    expect(openCircuitVolts(spec, 1.2)).toBeCloseTo(6 * 1.41, 12);
  });

  test("loses the charge that flowed: I t / C", () => {
    const base = r1({ internalOhm: 0.2 }).spec;
    const world = new World({ ...base, boardCurrentA: 1.8, battery: { ...base.battery, capacityAh: 2 } });
    setMode(world, "coast");
    run(world, 60);
    // 1.8 A for a minute of 2 Ah is 1.5 %.
    expect(1 - world.charge).toBeCloseTo((1.8 * 60) / 7200, 6);
  });
});

describe("what slides under a robot", () => {
  test("a skid slows it by its share of the weight: a = mu N / m", () => {
    const base = r1({ comHeightM: 0 }).spec;
    const world = new World({ ...base, casters: [{ xM: 0.06, yM: 0, friction: 0.2 }] });
    rolling(world, 0.5);
    setMode(world, "coast");
    run(world, 0.5);
    // A third of 1.2 kg stands on it; the wheels' spin counts as mass.
    const massKg = 1.2 + (2 * (2e-5 + 900 * 1e-7)) / 0.03 ** 2;
    expect(world.velocityX).toBeCloseTo(0.5 - (0.5 * 0.2 * 0.4 * GRAVITY) / massKg, 3);
  });

  test("a free caster of little friction lets it roll on, turned any way", () => {
    const base = r1({ comHeightM: 0 }).spec;
    const speed = (swivelRad: number) => {
      const world = new World({ ...base, casters: [{ xM: 0.06, yM: 0, friction: 0.005, trailM: 0.015 }] });
      if (world.casters[0]) world.casters[0].swivelRad = swivelRad;
      rolling(world, 0.4);
      setMode(world, "coast");
      run(world, 0.5);
      return world.velocityX;
    };
    expect(speed(0)).toBeGreaterThan(0.39);
    expect(speed(2.5)).toBeGreaterThan(0.37);
  });
});

describe("what is carried", () => {
  test("keeps its place in the robot through a turn on the spot, and is let go where it is", () => {
    const world = r1({ loads: [box(0.16, 0, 0.2, 0.4)] });
    const load = world.bodies[1];
    if (!load) throw new Error("no load");
    world.take(load, 0.03);
    expect(world.held).toBe(load);
    drive(world, -0.5, 0.5);
    run(world, 2);
    setMode(world, "brake");
    run(world, 1);
    const [dx, dy] = [load.xM - world.xM, load.yM - world.yM];
    const along = dx * Math.cos(world.headingRad) + dy * Math.sin(world.headingRad);
    expect(along).toBeCloseTo(0.16, 3);
    world.letGo();
    expect(world.held).toBeNull();
    const stood = [load.xM, load.yM];
    drive(world, -0.4, -0.4);
    run(world, 1);
    // Let go it stays, but for what it still moved when it was let go.
    expect(Math.hypot(load.xM - (stood[0] ?? 0), load.yM - (stood[1] ?? 0))).toBeLessThan(2e-3);
  });

  test("makes the robot slower to speed up by its mass", () => {
    const after = (carried: boolean) => {
      const world = r1({ comHeightM: 0, loads: [box(0.16, 0, 0.6, 0.4)] });
      const load = world.bodies[1];
      if (load && carried) world.take(load, 0.03);
      else if (load) load.xM = 5;
      drive(world, 1, 1);
      run(world, 0.1);
      return world.velocityX;
    };
    const massKg = 1.2 + (2 * (2e-5 + 900 * 1e-7)) / 0.03 ** 2;
    // Well below the final speed the gain is F t / m: as the masses, to the first order of 0.1 s over 0.19 s.
    expect(after(true) / after(false)).toBeGreaterThan(massKg / (massKg + 0.6) - 0.01);
    expect(after(true) / after(false)).toBeLessThan((massKg / (massKg + 0.6)) * 1.15);
  });
});
