// What rays meet: against plain geometry and against looking at everything, with heights and loads that move.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { discDistance, faceDistance } from "../../src/geometry/ray.js";
import { type Field, FloorRaster, noDeviations, openFloor, worldFromRobot } from "../../src/index.js";
import type { ConeAnswer } from "../../src/sensors/cone.js";
import { type RayHit, SensorScene } from "../../src/sensors/scene.js";
import { drizzle } from "../support/demo.js";
import { evenly } from "../support/evenly.js";
import { part } from "../support/search.js";

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

const place = evenly(-1.4, 1.4);
const face = fc.tuple(place, place, place, place);
const awayFromEye = ([ax, ay, bx, by]: readonly [number, number, number, number]) =>
  Math.abs(ax * by - ay * bx) > 0.001 * Math.hypot(bx - ax, by - ay);
const disc = fc.tuple(place, place, evenly(0.01, 0.25));
const looks = fc.record({
  faces: fc.array(face, { maxLength: 6 }),
  discs: fc.array(disc, { maxLength: 4 }),
  crates: fc.array(fc.tuple(place, place, evenly(0.03, 0.2), evenly(-3, 3)), { maxLength: 2 }),
  middle: evenly(-3.1, 3.1),
  cone: evenly(0.03, 1.2),
  silent: evenly(0.3, 1.5),
});

describe("a cone", () => {
  const answer = (): ConeAnswer => ({ distance: 0, reflectance: 0, bearingRad: 0, id: -1 });
  const FAR_M = 2.2;
  const SCENES = part(10_000, 20);

  /** What one ray brings back: the first thing it meets, if that answers. */
  const ray = (scene: SensorScene, angle: number, silent: number): number => {
    const hit = newHit();
    scene.ray(0, 0, 0.03, Math.cos(angle), Math.sin(angle), FAR_M, hit);
    return hit.rough || hit.square >= Math.cos(silent) ? hit.distance : Number.POSITIVE_INFINITY;
  };

  test(`in ${SCENES} scenes hears nothing later than any of many rays, and only what a ray meets there, within 1 mm`, () => {
    let heard = 0;
    fc.assert(
      fc.property(looks, ({ faces, discs, crates, middle, cone, silent }) => {
        const field: Field = {
          ...openFloor(),
          // The eye never sits on a wall's own line: there it is seen edge on.
          walls: faces
            .filter(awayFromEye)
            .map(([ax, ay, bx, by]) => ({ fromM: [ax, ay], toM: [bx, by], heightM: 0.1, reflectance: 0.7 })),
          boulders: discs
            .filter(([x, y, r]) => Math.hypot(x, y) > r + 0.01)
            .map(([xM, yM, radiusM]) => ({ xM, yM, radiusM, heightM: 0.1, reflectance: 0.4 })),
          loads: crates
            .filter(([x, y]) => Math.hypot(x, y) > 0.3)
            .map(([xM, yM, size, headingRad], i) => ({
              name: `crate ${i}`,
              shape: "box",
              sizeM: [size, size],
              heightM: 0.1,
              massKg: 0.1,
              friction: 0.4,
              xM,
              yM,
              headingRad,
              colour: "#C8352B",
            })),
        };
        const scene = sceneOn(field);
        const found = answer();
        scene.look(0, 0, 0.03, middle, cone, FAR_M, silent).answer(found);
        const rays = 60;
        let nearest = Number.POSITIVE_INFINITY;
        for (let i = 0; i <= rays; i += 1)
          nearest = Math.min(nearest, ray(scene, middle + cone * (i / rays - 0.5) * 0.9999, silent - 1e-5));
        if (nearest < FAR_M) expect(found.distance).toBeLessThan(nearest + 1e-6);
        if (found.id < 0) return;
        heard += 1;
        // At an edge a ray to the very point may pass by: a hair to either side meets it.
        const beside = [0, 1e-7, -1e-7, 5e-7, -5e-7, 1e-5, -1e-5].map((nudge) => {
          const at = found.bearingRad + nudge;
          return Math.abs(ray(scene, middle + at, silent + 1e-5) - found.distance);
        });
        expect(Math.min(...beside)).toBeLessThan(0.001);
      }),
      { numRuns: SCENES, endOnFailure: true },
    );
    expect(heard).toBeGreaterThan(SCENES / 5);
  }, 120_000);

  test("a post of 50 mm at 1.5 m is heard at every bearing its edge is inside the cone", () => {
    const cone = (15 * Math.PI) / 180;
    const reach = Math.asin(0.025 / 1.5);
    const silent: number[] = [];
    for (let deg = -12; deg <= 12; deg += 0.25) {
      const at = (deg * Math.PI) / 180;
      const field: Field = {
        ...openFloor(),
        boulders: [{ xM: 1.5 * Math.cos(at), yM: 1.5 * Math.sin(at), radiusM: 0.025, heightM: 0.1, reflectance: 0.4 }],
      };
      const found = answer();
      sceneOn(field).look(0, 0, 0.03, 0, cone, 2, 0.8).answer(found);
      if (found.id < 0 !== Math.abs(at) > cone / 2 + reach) silent.push(deg);
      if (Math.abs(at) < cone / 2) expect(found.distance).toBeCloseTo(1.475, 9);
    }
    expect(silent).toEqual([]);
  });

  test("a slanted wall that does not answer still hides what is behind it, and lets it be heard beside it", () => {
    const silentWall = { fromM: [0.5, -0.4] as [number, number], toM: [0.9, 0.05] as [number, number] };
    const field: Field = {
      ...openFloor(),
      walls: [
        { ...silentWall, heightM: 0.1, reflectance: 0.7 },
        { fromM: [1.2, -1], toM: [1.2, 1], heightM: 0.1, reflectance: 0.7 },
      ],
    };
    const found = answer();
    sceneOn(field).look(0, 0, 0.03, 0, 0.3, 2, 0.3).answer(found);
    // The far wall is hidden square on and heard first where the slanted one ends.
    const end = Math.atan2(0.05, 0.9);
    expect(found.id).toBe(1);
    expect(found.distance).toBeCloseTo(1.2 / Math.cos(end), 6);
    expect(found.bearingRad).toBeCloseTo(end, 6);
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
