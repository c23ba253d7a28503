// What rays meet: against plain geometry and against looking at everything, with heights and loads that move.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  discDistance,
  type Field,
  FloorRaster,
  faceDistance,
  noDeviations,
  openFloor,
  type RayHit,
  SensorScene,
  worldFromRobot,
} from "../../src/index.js";
import { drizzle, fellside } from "../support/demo.js";
import { evenly } from "../support/evenly.js";

const unit = evenly(-1, 1);
const newHit = (): RayHit => ({ distance: 0, square: 0, reflectance: 0, rough: false, load: -1 });

function sceneOn(field: Field): SensorScene {
  const robot = drizzle();
  const [comX, comY] = robot.chassis.centreOfMassM;
  return new SensorScene(field, new FloorRaster(field), worldFromRobot(robot, field, noDeviations(robot)), comX, comY);
}

describe("a ray and a face", () => {
  test("meet at the point both share", () => {
    // Along x from the origin; a face from (2, −1) to (2, 1).
    expect(faceDistance(0, 0, 1, 0, 2, -1, 2, 1)).toBe(2);
    expect(faceDistance(0, 0, 1, 0, 2, 0.1, 2, 1)).toBe(Number.POSITIVE_INFINITY);
    expect(faceDistance(0, 0, -1, 0, 2, -1, 2, 1)).toBe(Number.POSITIVE_INFINITY);
    // Along a face it is grazed, which sends nothing back.
    expect(faceDistance(0, 0, 1, 0, 1, 0, 2, 0)).toBe(Number.POSITIVE_INFINITY);
  });

  test("however they lie: the point is on the face, and none on it is nearer along the ray", () => {
    fc.assert(
      fc.property(fc.array(unit, { minLength: 5, maxLength: 5 }), ([ax = 0, ay = 0, bx = 0, by = 0, turn = 0]) => {
        const [dx, dy] = [Math.cos(3 * turn), Math.sin(3 * turn)];
        const t = faceDistance(0, 0, dx, dy, ax, ay, bx, by);
        if (!Number.isFinite(t)) return;
        const [x, y] = [t * dx, t * dy];
        const length = Math.hypot(bx - ax, by - ay);
        // On its line and between its ends; a face of a hair's length has no line to speak of.
        if (length < 1e-6) return;
        expect(Math.abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / length).toBeLessThan(1e-6);
        expect(Math.hypot(x - ax, y - ay)).toBeLessThan(length + 1e-6);
      }),
    );
  });
});

describe("a ray and a disc", () => {
  test("meet where Pythagoras says, from inside at once", () => {
    expect(discDistance(0, 0, 1, 0, 2, 0, 0.5)).toBe(1.5);
    expect(discDistance(0, 0, 1, 0, 2, 0.3, 0.5)).toBeCloseTo(2 - 0.4, 12);
    expect(discDistance(0, 0, 1, 0, 2, 0.6, 0.5)).toBe(Number.POSITIVE_INFINITY);
    expect(discDistance(0, 0, 1, 0, -2, 0, 0.5)).toBe(Number.POSITIVE_INFINITY);
    expect(discDistance(0, 0, 1, 0, 0.1, 0, 0.5)).toBe(0);
  });

  test("the point met lies on its rim", () => {
    fc.assert(
      fc.property(unit, unit, unit, (x, y, turn) => {
        const [dx, dy] = [Math.cos(3 * turn), Math.sin(3 * turn)];
        const t = discDistance(2 * x, 2 * y, dx, dy, 0, 0, 0.4);
        if (!Number.isFinite(t) || t === 0) return;
        expect(Math.hypot(2 * x + t * dx, 2 * y + t * dy)).toBeCloseTo(0.4, 9);
      }),
    );
  });
});

describe("a cone", () => {
  test("looks only at the faces it may meet, and meets what all of them would give", () => {
    const scene = sceneOn(fellside());
    fc.assert(
      fc.property(unit, unit, unit, unit, evenly(0.05, 2.9), (u, v, turn, ray, cone) => {
        const [x, y] = [1.05 + 0.9 * u, 0.75 + 0.6 * v];
        const middle = 3 * turn;
        const angle = middle + (ray * cone) / 2;
        const [dx, dy] = [Math.cos(angle), Math.sin(angle)];
        const [inside, all] = [newHit(), newHit()];
        scene.lookInto(x, y, 0.05, middle, cone, 2);
        scene.rayInside(x, y, 0.05, dx, dy, 2, inside);
        scene.ray(x, y, 0.05, dx, dy, 2, all);
        expect(inside).toEqual(all);
      }),
      { numRuns: 2000 },
    );
  });
});

describe("heights", () => {
  const wall = { fromM: [1, -1] as [number, number], toM: [1, 1] as [number, number], reflectance: 0.7 };
  const field: Field = {
    ...openFloor(),
    walls: [{ ...wall, heightM: 0.04 }],
    boulders: [{ xM: 1.5, yM: 0, radiusM: 0.1, heightM: 0.08, reflectance: 0.4 }],
    loads: [
      {
        name: "crate",
        shape: "box",
        sizeM: [0.1, 0.1],
        heightM: 0.02,
        massKg: 0.1,
        friction: 0.4,
        xM: 0.5,
        yM: 0,
        headingRad: 0,
        colour: "#C8352B",
      },
    ],
  };
  const scene = sceneOn(field);
  const seen = (zM: number) => {
    const hit = newHit();
    scene.ray(0, 0, zM, 1, 0, 3, hit);
    return hit;
  };

  test("a low beam meets the load, a higher one looks over it at the wall, then at the boulder, then at nothing", () => {
    expect(seen(0.01)).toMatchObject({ load: 0, rough: false });
    expect(seen(0.01).distance).toBeCloseTo(0.45, 9);
    expect(seen(0.03)).toMatchObject({ distance: 1, load: -1, reflectance: 0.7, square: 1 });
    expect(seen(0.06)).toMatchObject({ load: -1, rough: true, reflectance: 0.4 });
    expect(seen(0.06).distance).toBeCloseTo(1.4, 9);
    expect(seen(0.1).distance).toBe(Number.POSITIVE_INFINITY);
  });

  test("a face met at an angle is as square as the cosine of it", () => {
    const hit = newHit();
    scene.ray(0, 0, 0.03, Math.cos(0.6), Math.sin(0.6), 3, hit);
    expect(hit.square).toBeCloseTo(Math.cos(0.6), 9);
    expect(hit.distance).toBeCloseTo(1 / Math.cos(0.6), 9);
  });

  test("how far it matters is how far it looks", () => {
    const hit = newHit();
    scene.ray(0, 0, 0.03, 1, 0, 0.9, hit);
    expect(hit.distance).toBe(Number.POSITIVE_INFINITY);
  });
});
