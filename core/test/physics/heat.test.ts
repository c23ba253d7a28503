// Heat, sag and brown-out; servos and end stops.
import { describe, expect, test } from "vitest";
import { FreeMotor } from "../../src/physics/freeMotor.js";
import { deriveMotor } from "../../src/physics/motor.js";
import { ServoState } from "../../src/physics/servo.js";
import { COPPER_PER_K } from "../../src/physics/thermal.js";
import { World } from "../../src/physics/world.js";
import { drive, EFFICIENCY, GEAR, r1, run, STRONG, wall } from "./r1.js";

const held = { internalOhm: 0.5, motor: STRONG, grip: 3, segments: [wall(0.1, -1, 0.1, 1)], comHeightM: 0 };
const thermal = (copperPerK: number, cutOutC = 1000, recoverC = 900) => ({
  resistanceKPerW: 12,
  capacityJPerK: 15,
  cutOutC,
  recoverC,
  copperPerK,
});

function stalled(spec: ReturnType<typeof thermal>, volts = 7.4): World {
  // One motor of 6.1667 ohm, held by a coulomb torque it cannot overcome.
  const base = r1({ ...held, coulombTorqueNm: 1 }).spec;
  const sheet = { ...STRONG, stallCurrentA: 7.4 / 6.1667, stallTorqueNm: 0.012 };
  const derived = deriveMotor(sheet);
  if (!derived.ok) throw new Error(derived.message);
  const [left, right] = base.wheels;
  if (!left?.drive || !right) throw new Error("no wheels");
  return new World({
    ...base,
    battery: { ...base.battery, curve: [[1, volts]] },
    wheels: [{ ...left, drive: { ...left.drive, constants: derived.constants, thermal: spec } }, right],
  });
}

describe("stall", () => {
  test("sags the pack to V = Voc / (1 + Ri / R)", () => {
    const world = stalled(thermal(0), 6.367 * (1 + 0.5 / 6.1667));
    world.command(0, "drive", 1);
    world.step();
    expect(world.packVolts).toBeCloseTo(6.367, 3);
    expect(world.drives[0]?.motorCurrentA).toBeCloseTo(1.0325, 3);
    const world74 = stalled(thermal(0), 6.884);
    world74.command(0, "drive", 1);
    world74.step();
    expect(world74.packCurrentA).toBeCloseTo(6.884 / (6.1667 + 0.5), 3);
  });

  test("heats the winding on the curve of one resistance and one capacity", () => {
    const world = stalled(thermal(0), 6.884);
    world.command(0, "drive", 1);
    run(world, 60);
    const amps = 6.884 / 6.6667;
    const watts = amps * amps * 6.1667;
    const expected = 25 + watts * 12 * (1 - Math.exp(-60 / 180));
    expect(((world.drives[0]?.windingC ?? 0) - 25) / (expected - 25)).toBeCloseTo(1, 3);
  });

  test("hot copper draws less, protection opens, and it comes back", () => {
    const hot = stalled(thermal(COPPER_PER_K), 6.884);
    hot.command(0, "drive", 1);
    hot.step();
    const first = hot.drives[0]?.motorCurrentA ?? 0;
    run(hot, 60);
    expect(hot.drives[0]?.motorCurrentA).toBeLessThan(first * 0.93);
    const guarded = stalled(thermal(COPPER_PER_K, 60, 45), 6.884);
    guarded.command(0, "drive", 1);
    run(guarded, 200);
    const [shaft] = guarded.drives;
    expect(shaft?.windingC).toBeLessThan(60.2);
    guarded.command(0, "drive", 1);
    let off = 0;
    let on = 0;
    for (let i = 0; i < 20_000; i += 1) {
      guarded.step();
      if (shaft?.cutOut) off += 1;
      else on += 1;
    }
    expect(off).toBeGreaterThan(0);
    expect(on).toBeGreaterThan(0);
  });

  test("a pack that breaks down restarts the board, and it stays so", () => {
    const world = new World({ ...r1({ ...held, coulombTorqueNm: 1 }).spec, brownOutVolts: 7 });
    run(world, 0.1);
    expect(world.brownedOut).toBe(false);
    drive(world, 1, 1);
    run(world, 0.1);
    expect(world.brownedOut).toBe(true);
    drive(world, 0, 0);
    run(world, 0.1);
    expect(world.brownedOut).toBe(true);
  });
});

describe("attachments", () => {
  const derived = deriveMotor(STRONG);
  if (!derived.ok) throw new Error(derived.message);
  const spec = {
    constants: derived.constants,
    gearRatio: GEAR,
    efficiency: EFFICIENCY,
    coulombTorqueNm: 1e-4,
    viscousNmS: 0,
    rotorInertiaKgM2: 1e-7,
  };

  test("an arm stops at its end stops and draws its stall current there", () => {
    const arm = new FreeMotor(spec, { inertiaKgM2: 1e-4, weightKgM: 0.001, stopsRad: [0, 1.5] });
    arm.command("drive", 1);
    for (let i = 0; i < 400; i += 1) arm.step(0.005, 7.4);
    expect(arm.angleRad).toBe(1.5);
    expect(arm.atStop).toBe(1);
    expect(arm.shaft.motorCurrentA).toBeCloseTo(STRONG.stallCurrentA, 6);
    arm.command("drive", -1);
    for (let i = 0; i < 400; i += 1) arm.step(0.005, 7.4);
    expect(arm.angleRad).toBe(0);
  });

  test("without its motor a heavy arm sinks, with a worm of friction it stays", () => {
    const sinking = new FreeMotor(
      { ...spec, coulombTorqueNm: 0 },
      { inertiaKgM2: 1e-4, weightKgM: 0.02, stopsRad: [0, 2] },
    );
    sinking.shaft.angleRad = 1;
    sinking.command("coast", 0);
    for (let i = 0; i < 400; i += 1) sinking.step(0.005, 7.4);
    expect(sinking.angleRad).toBe(0);
    const staying = new FreeMotor(
      { ...spec, coulombTorqueNm: 0.01 },
      { inertiaKgM2: 1e-4, weightKgM: 0.02, stopsRad: [0, 2] },
    );
    staying.shaft.angleRad = 1;
    staying.command("coast", 0);
    for (let i = 0; i < 400; i += 1) staying.step(0.005, 7.4);
    expect(staying.angleRad).toBe(1);
  });

  test("a servo runs at its speed, settles, keeps to its range; a weak rail slows it", () => {
    const make = () =>
      new ServoState({
        kind: "positional",
        nominalVolts: 5,
        speedRadS: 10,
        settleSec: 0.04,
        lowRad: -1.5,
        highRad: 1.5,
        stallCurrentA: 0.7,
      });
    const servo = make();
    servo.aim(9);
    expect(servo.settled).toBe(false);
    for (let i = 0; i < 20; i += 1) servo.step(0.005, 5);
    expect(servo.angleRad).toBeGreaterThan(0.9);
    expect(servo.angleRad).toBeLessThanOrEqual(1 + 1e-9);
    for (let i = 0; i < 200; i += 1) servo.step(0.005, 5);
    expect(servo.angleRad).toBeCloseTo(1.5, 3);
    expect(servo.settled).toBe(true);
    const weak = make();
    weak.aim(1.5);
    for (let i = 0; i < 20; i += 1) weak.step(0.005, 2.5);
    expect(weak.angleRad).toBeLessThan(0.51);
    const turning = new ServoState({ ...make().spec, kind: "continuous" });
    turning.turn(-0.5);
    for (let i = 0; i < 200; i += 1) turning.step(0.005, 5);
    expect(turning.angleRad).toBeCloseTo(-5, 6);
  });
});
