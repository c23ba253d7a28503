// Walls, corners and boulders; the pack's curve; loads that shift.
import { describe, expect, test } from "vitest";
import { LITHIUM_CELL, openCircuitVolts, terminalVolts } from "../../src/physics/battery.js";
import { ContactSet, discContacts, segmentContacts } from "../../src/physics/contacts.js";
import { deriveMotor } from "../../src/physics/motor.js";
import { WheelLoads } from "../../src/physics/wheelLoads.js";
import { noDeviations, robotPose, worldFromRobot } from "../../src/simulate/fromRobot.js";
import { drizzle, fellside } from "../support/demo.js";
import { drive, r1, run, STRONG, WEAK } from "./r1.js";

/** A box of 0.2 × 0.1 m around the origin, counter-clockwise. */
const px = Float64Array.of(0.1, 0.1, -0.1, -0.1);
const py = Float64Array.of(-0.05, 0.05, 0.05, -0.05);

function contactsWith(ax: number, ay: number, bx: number, by: number): ContactSet {
  const set = new ContactSet();
  set.begin();
  segmentContacts(px, py, ax, ay, bx, by, 0, set);
  return set;
}

describe("contacts of a box", () => {
  test("a wall along a face touches at both corners, with the normal towards the box", () => {
    const set = contactsWith(0.102, -1, 0.102, 1);
    expect(set.count).toBe(2);
    for (let i = 0; i < 2; i += 1) {
      expect(set.gap[i]).toBeCloseTo(0.002, 12);
      expect(set.nx[i]).toBeCloseTo(-1, 12);
    }
  });

  test("a wall out of reach touches nothing", () => {
    expect(contactsWith(0.12, -1, 0.12, 1).count).toBe(0);
  });

  test("the end of a wall meets a face in one point", () => {
    const set = contactsWith(0.103, 0, 1, 0);
    expect(set.count).toBe(1);
    expect([set.x[0], set.y[0], set.nx[0]]).toEqual([0.103, 0, -1]);
  });

  test("a boulder touches at its nearest point, from outside and from inside", () => {
    const set = new ContactSet();
    set.begin();
    discContacts(px, py, { xM: 0.15, yM: 0, radiusM: 0.048 }, 0, set);
    expect(set.count).toBe(1);
    expect(set.gap[0]).toBeCloseTo(0.002, 12);
    expect(set.nx[0]).toBeCloseTo(-1, 12);
    set.begin();
    discContacts(px, py, { xM: 0.09, yM: 0, radiusM: 0.02 }, 0, set);
    expect(set.gap[0]).toBeCloseTo(-0.03, 12);
    expect(set.nx[0]).toBeCloseTo(-1, 12);
  });

  test("a contact that stays keeps its impulse for the next step", () => {
    const set = contactsWith(0.102, -1, 0.102, 1);
    set.normalImpulse[0] = 0.5;
    set.begin();
    segmentContacts(px, py, 0.101, -1, 0.101, 1, 0, set);
    expect(set.normalImpulse[0]).toBe(0.5);
  });
});

describe("driving into things", () => {
  test("a boulder stops the robot at its surface", () => {
    const robot = drizzle();
    const world = worldFromRobot(robot, fellside(), noDeviations(robot));
    // The boulder at (0.98, 0.96) has a radius of 87 mm; its bumper is 95 mm ahead of the axle.
    world.place({ xM: 0.6, yM: 0.96, headingRad: 0 });
    drive(world, 0.4, 0.4);
    run(world, 4);
    expect(robotPose(robot, world).xM).toBeLessThan(0.98 - 0.087 - 0.095 + 0.002);
    expect(robotPose(robot, world).xM).toBeGreaterThan(0.98 - 0.087 - 0.095 - 0.04);
  });

  test("friction on the wall decides whether a robot slides along it", () => {
    const after = (wallFriction: number) => {
      const world = r1({
        segments: [
          [
            [-2, 0.2],
            [2, 0.2],
          ],
        ],
        motor: STRONG,
        grip: 1,
        wallFriction,
      });
      world.place({ xM: -1, yM: 0.1, headingRad: 0.3 });
      drive(world, 0.5, 0.5);
      run(world, 2);
      return world;
    };
    expect(after(0.05).xM).toBeGreaterThan(after(0.6).xM - 1e-6);
    expect(after(0.05).yM).toBeLessThan(0.2);
  });
});

describe("battery and loads", () => {
  test("the open-circuit curve is monotonous and ends at its ends", () => {
    const pack = { cells: 2, internalResistanceOhm: 0.2, capacityAh: 2, curve: LITHIUM_CELL };
    let before = 0;
    for (let charge = 0; charge <= 1.0001; charge += 0.01) {
      const volts = openCircuitVolts(pack, Math.min(1, charge));
      expect(volts).toBeGreaterThan(before);
      before = volts;
    }
    expect(openCircuitVolts(pack, 0)).toBe(6);
    expect(openCircuitVolts(pack, 1)).toBeCloseTo(8.36, 12);
  });

  test("terminal voltage solves V = Voc - Ri Σ d (d V - e)/R", () => {
    const volts = terminalVolts(7.4, 0.3, (0.5 * 2) / 6 + (1 * 3) / 8, 0.25 / 6 + 1 / 8);
    const current = (0.5 * (0.5 * volts - 2)) / 6 + (volts - 3) / 8;
    expect(volts).toBeCloseTo(7.4 - 0.3 * current, 12);
  });

  test("driving uses charge, and the voltage sags while accelerating", () => {
    const robot = drizzle();
    const world = worldFromRobot(robot, fellside(), noDeviations(robot));
    world.place({ xM: 0.3, yM: 0.4, headingRad: 0 });
    const rest = world.packVolts;
    drive(world, 1, 1);
    world.step();
    expect(world.packVolts).toBeLessThan(rest - 0.1);
    run(world, 1);
    expect(world.charge).toBeLessThan(robot.pack.charge);
  });

  test("loads always sum to the weight, shift to the rear when speeding up, and warn when one is lifted", () => {
    const loads = new WheelLoads(
      [
        [-0.03, 0.075],
        [-0.03, -0.075],
        [0.06, 0],
      ],
      1.2,
      0.05,
    );
    const sum = () => loads.loadsN.reduce((total, load) => total + load, 0);
    loads.update(2, 0);
    expect(sum()).toBeCloseTo(1.2 * 9.81, 9);
    expect(loads.loadsN[2]).toBeLessThan(3.924);
    loads.update(0, 2);
    expect(loads.loadsN[1]).toBeGreaterThan(loads.loadsN[0] as number);
    expect(loads.tipping).toBe(false);
    loads.update(0, 20);
    expect(loads.tipping).toBe(true);
    expect(sum()).toBeCloseTo(1.2 * 9.81, 9);
    expect(
      () =>
        new WheelLoads(
          [
            [0, 0],
            [1, 0],
            [2, 0],
          ],
          1,
          0.1,
        ),
    ).toThrow("one line");
  });

  test("a motor's constants give back its data sheet", () => {
    const derived = deriveMotor({ ...WEAK, freeCurrentA: 0.02, coulombTorqueNm: 1e-4 });
    if (!derived.ok) throw new Error(derived.message);
    const { resistanceOhm, torqueConstant, backVoltage } = derived.constants;
    expect(torqueConstant * (WEAK.nominalVolts / resistanceOhm) - 1e-4).toBeCloseTo(WEAK.stallTorqueNm, 12);
    expect((WEAK.nominalVolts - backVoltage * WEAK.freeSpeedRadS) / resistanceOhm).toBeCloseTo(0.02, 12);
    expect(deriveMotor({ ...WEAK, stallTorqueNm: 1 })).toMatchObject({ ok: false });
    expect(deriveMotor({ ...WEAK, freeCurrentA: 0.3 })).toMatchObject({ ok: false });
  });
});
