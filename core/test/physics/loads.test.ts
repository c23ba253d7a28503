// Loads, walls and the robot pressed against them, against closed forms; and what must never happen.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { polygonContacts } from "../../src/physics/collide.js";
import { GRAVITY } from "../../src/physics/constants.js";
import { ContactSet } from "../../src/physics/contacts.js";
import type { LoadSpec } from "../../src/physics/parts.js";
import type { World } from "../../src/physics/world.js";
import { evenly } from "../support/evenly.js";
import { part } from "../support/search.js";
import { box, disc, drive, EFFICIENCY, GEAR, r1, run, STRONG, setMode, WEAK, WHEEL_RADIUS_M, wall } from "./r1.js";

const R = WEAK.nominalVolts / WEAK.stallCurrentA;
const KT = WEAK.stallTorqueNm / WEAK.stallCurrentA;
const KE = WEAK.nominalVolts / WEAK.freeSpeedRadS;
const D = (2 * EFFICIENCY * GEAR ** 2 * KT * KE) / (R * WHEEL_RADIUS_M ** 2);
const FREE_MS = (WEAK.freeSpeedRadS / GEAR) * WHEEL_RADIUS_M;

describe("pushing and sliding", () => {
  test.each([0.1, 0.3, 0.6])("a box of %f kg slows the robot to v - m mu g / D", (massKg) => {
    const world = r1({ loads: [box(0.15, 0, massKg, 0.4)] });
    drive(world, 1, 1);
    run(world, 4);
    expect(world.velocityX).toBeCloseTo(FREE_MS - (massKg * 0.4 * GRAVITY) / D, 3);
    const load = world.bodies[1];
    expect(Math.abs((load?.velocityX ?? 0) - world.velocityX)).toBeLessThan(1e-4);
  });

  test("a box sliding from 0.5 m/s stops after v² / (2 mu g)", () => {
    const world = r1({ loads: [box(1, 0, 0.3, 0.4)] });
    const load = world.bodies[1];
    if (!load) throw new Error("no load");
    load.wake();
    load.velocityX = 0.5;
    run(world, 1);
    // The fixed step stops up to v dt / 2 early or late.
    expect(Math.abs(load.xM - 1 - 0.5 ** 2 / (2 * 0.4 * GRAVITY))).toBeLessThan((0.5 * 0.005) / 2);
    expect(load.asleep).toBe(true);
  });

  test("a disc spinning on the floor slows by tau = 2/3 mu m g r", () => {
    const world = r1({ loads: [disc(1, 0, 0.06, 0.2, 0.3)] });
    const load = world.bodies[1];
    if (!load) throw new Error("no load");
    load.wake();
    load.turnRateRadS = 20;
    run(world, 0.1);
    const slowing = ((2 / 3) * 0.3 * 0.2 * GRAVITY * 0.03) / (0.5 * 0.2 * 0.03 ** 2);
    expect(load.turnRateRadS).toBeCloseTo(20 - slowing * 0.1, 6);
  });

  test("pressed on a wall the wheels spin and push 2 mu N", () => {
    const world = r1({ motor: STRONG, grip: 0.8, comHeightM: 0, segments: [wall(0.12, -1, 0.12, 1)] });
    drive(world, 1, 1);
    run(world, 3);
    expect(world.body.shapes[0]?.forceN).toBeCloseTo(2 * 0.8 * 3.924, 2);
    expect(world.wheels[0]?.spinRadS).toBeGreaterThan(2);
    expect(Math.abs(world.velocityX)).toBeLessThan(1e-4);
  });

  test("pressed on a wall below slipping the wheels stall", () => {
    const world = r1({ motor: STRONG, grip: 0.8, comHeightM: 0, segments: [wall(0.12, -1, 0.12, 1)] });
    drive(world, 0.3, 0.3);
    run(world, 3);
    const stall = (2 * 0.3 * EFFICIENCY * GEAR * STRONG.stallTorqueNm) / WHEEL_RADIUS_M;
    expect(world.body.shapes[0]?.forceN).toBeCloseTo(stall, 2);
    expect(Math.abs(world.wheels[0]?.spinRadS ?? 1)).toBeLessThan(1e-3);
  });

  test("a wall squares the robot up at little friction", () => {
    const world = r1({ motor: STRONG, grip: 0.8, wallFriction: 0.25, segments: [wall(0.3, -1, 0.3, 1)] });
    world.place({ xM: 0, yM: 0, headingRad: 0.1 });
    drive(world, 0.35, 0.35);
    run(world, 4);
    expect(Math.abs(world.headingRad)).toBeLessThan(0.01);
  });

  test("a high push tips a tall thin load, and a fallen one says so", () => {
    const tall: LoadSpec = { ...box(0.15, 0, 0.3, 0.8), sizeM: [0.02, 0.06], heightM: 0.2 };
    const world = r1({ loads: [tall] });
    drive(world, 1, 1);
    run(world, 1);
    expect(world.bodies[1]?.tipped).toBe(true);
    const low = r1({ loads: [{ ...tall, sizeM: [0.1, 0.1], heightM: 0.03 }] });
    drive(low, 0.4, 0.4);
    run(low, 1);
    expect(low.bodies[1]?.tipped).toBe(false);
  });

  test("a knock is no push: a cube met at 0.5 m/s slides, and stands", () => {
    const world = r1({ loads: [box(0.3, 0, 0.12, 0.35)] });
    setMode(world, "coast");
    world.velocityX = 0.5;
    for (const wheel of world.wheels) wheel.spinRadS = 0.5 / WHEEL_RADIUS_M;
    run(world, 1);
    expect(world.bodies[1]?.xM).toBeGreaterThan(0.31);
    expect(world.bodies[1]?.tipped).toBe(false);
  });
});

describe("carrying", () => {
  test("a held load comes along, off the floor, and its weight lies on the wheels", () => {
    const world = r1({ loads: [box(0.16, 0, 0.3, 0.5)] });
    const load = world.bodies[1];
    if (!load) throw new Error("no load");
    const before = world.loads.loadsN.reduce((sum, n) => sum + n, 0);
    world.take(load, 0.02);
    drive(world, 0.6, 0.9);
    run(world, 2);
    expect(world.loads.loadsN.reduce((sum, n) => sum + n, 0)).toBeCloseTo(before + 0.3 * GRAVITY, 9);
    const dx = load.xM - world.xM;
    const dy = load.yM - world.yM;
    // 1 mm is the give of the hold under acceleration.
    expect(Math.abs(Math.hypot(dx, dy) - 0.16)).toBeLessThan(1e-3);
    expect(Math.abs(load.headingRad - world.headingRad)).toBeLessThan(0.01);
    world.letGo();
    expect(load.lifted).toBe(false);
  });
});

describe("what must never happen", () => {
  test("nothing creeps in 60 s at rest, not even on a push of the pack's own hum", () => {
    const world = r1({ loads: [box(0.1305, 0, 0.2, 0.4)], segments: [wall(-0.081, -1, -0.081, 1)] });
    setMode(world, "brake");
    run(world, 60);
    expect(Math.abs(world.xM) + Math.abs(world.yM) + Math.abs(world.headingRad)).toBeLessThan(1e-6);
    expect(Math.abs((world.bodies[1]?.xM ?? 0) - 0.1305)).toBeLessThan(1e-6);
  });

  test("a ram at 1.5 m/s does not pass through a wall, a boulder or a box at a wall", () => {
    for (const extra of [
      { most: 0.5, segments: [wall(0.5, -1, 0.5, 1)] },
      { most: 0.5, discs: [{ xM: 0.55, yM: 0, radiusM: 0.05 }] },
      { most: 0.54, segments: [wall(0.6, -1, 0.6, 1)], loads: [box(0.55, 0, 0.3, 0.4)] },
    ]) {
      const world = r1(extra);
      setMode(world, "coast");
      world.velocityX = 1.5;
      for (const wheel of world.wheels) wheel.spinRadS = 1.5 / WHEEL_RADIUS_M;
      run(world, 1);
      expect(world.xM + 0.1).toBeLessThan(extra.most + 0.003);
    }
  });

  test("eight boxes crushed at a wall stay apart and on this side of it", () => {
    const loads = Array.from({ length: 8 }, (_, i) => box(0.16 + i * 0.07, i % 2 === 0 ? 0.005 : -0.005, 0.05, 0.3));
    const world = r1({ motor: STRONG, grip: 1.2, loads, segments: [wall(0.85, -1, 0.85, 1)] });
    drive(world, 1, 1);
    run(world, 6);
    for (const [i, a] of world.bodies.entries()) {
      const [mine] = a.shapes;
      if (!mine || i === 0) continue;
      a.toMiddle(0);
      a.placeShapes();
      expect(Math.max(...mine.worldX)).toBeLessThan(0.852);
      for (const b of world.bodies.slice(1, i)) {
        const [other] = b.shapes;
        const set = new ContactSet();
        set.begin();
        if (other) polygonContacts(mine.worldX, mine.worldY, other.worldX, other.worldY, 0, set);
        for (let k = 0; k < set.count; k += 1) expect(set.gap[k]).toBeGreaterThan(-0.002);
      }
    }
  });

  const SCENES = part(1000, 10);
  test(`without a motor energy never grows, in ${SCENES} random scenes`, () => {
    const energy = (world: World) =>
      world.bodies.reduce(
        (sum, body) =>
          sum +
          (body.massKg * (body.velocityX ** 2 + body.velocityY ** 2) + body.inertiaKgM2 * body.turnRateRadS ** 2) / 2,
        0,
      ) + world.wheels.reduce((sum, wheel) => sum + ((2e-5 + GEAR ** 2 * 1e-7) * wheel.spinRadS ** 2) / 2, 0);
    const unit = evenly(-1, 1);
    fc.assert(
      fc.property(fc.array(unit, { minLength: 12, maxLength: 12 }), fc.boolean(), (v, braked) => {
        const at = (i: number) => v[i] as number;
        const world = r1({
          grip: 0.3 + Math.abs(at(0)),
          segments: [wall(0.35, -1, 0.35 + 0.1 * at(1), 1), wall(-1, 0.3, 1, 0.3 + 0.05 * at(2))],
          loads: [
            box(0.2, 0.05 * at(3), 0.1 + 0.2 * Math.abs(at(4)), 0.3),
            disc(0.22, 0.12 + 0.02 * at(5), 0.05, 0.1, 0.4),
          ],
        });
        setMode(world, braked ? "brake" : "coast");
        world.velocityX = at(6);
        world.velocityY = 0.4 * at(7);
        world.turnRateRadS = 5 * at(8);
        for (const wheel of world.wheels) wheel.spinRadS = 20 * at(9);
        let before = energy(world);
        for (let i = 0; i < 40; i += 1) {
          world.step();
          const now = energy(world);
          // A millionth of what a robot has at 1 m/s, left by rounds that stop when impulses hardly change.
          expect(now).toBeLessThan(before + 1e-6);
          before = now;
        }
      }),
      { numRuns: SCENES },
    );
  });

  test("the same scene twice is the same to the bit", () => {
    const end = () => {
      const world = r1({ motor: STRONG, grip: 0.6, loads: [box(0.15, 0.02, 0.2, 0.4), disc(0.3, 0, 0.05, 0.1, 0.3)] });
      drive(world, 0.8, 0.6);
      run(world, 3);
      return world.bodies.flatMap((body) => [body.xM, body.yM, body.headingRad]);
    };
    expect(end()).toEqual(end());
  });

  test("mirror images of a push run as mirror images", () => {
    const push = (side: 1 | -1) => {
      const world = r1({ motor: STRONG, grip: 0.8, loads: [box(0.16, side * 0.03, 0.2, 0.4)] });
      drive(world, side > 0 ? 0.5 : 0.7, side > 0 ? 0.7 : 0.5);
      run(world, 1);
      const load = world.bodies[1];
      return [world.xM, world.yM * side, world.headingRad * side, load?.xM ?? 0, (load?.yM ?? 0) * side];
    };
    const one = push(1);
    // Gauss-Seidel visits left before right, so mirrors agree to solver tolerance, not to the bit.
    for (const [i, value] of push(-1).entries()) expect(Math.abs(value - (one[i] as number))).toBeLessThan(3e-3);
  });
});
