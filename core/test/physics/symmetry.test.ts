// What physics must not care about: where on the floor it happens, and which way is x.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { World } from "../../src/physics/world.js";
import { evenly } from "../support/evenly.js";
import { drive, r1, run, STRONG } from "./r1.js";

interface Journey {
  forward: number;
  left: number;
  turned: number;
}

/** Where a drive ends, seen from where it began. */
function journey(
  start: { xM: number; yM: number; headingRad: number },
  left: number,
  right: number,
  wallAhead: boolean,
): Journey {
  const c = Math.cos(start.headingRad);
  const s = Math.sin(start.headingRad);
  const place = (forward: number, side: number): [number, number] => [
    start.xM + c * forward - s * side,
    start.yM + s * forward + c * side,
  ];
  const segments = wallAhead ? ([[place(0.3, -1), place(0.3, 1)]] as const) : [];
  const world: World = r1({ motor: STRONG, grip: 0.5, segments });
  world.place(start);
  drive(world, left, right);
  run(world, 1.5);
  const dx = world.xM - start.xM;
  const dy = world.yM - start.yM;
  return { forward: c * dx + s * dy, left: -s * dx + c * dy, turned: world.headingRad - start.headingRad };
}

const duty = evenly(-1, 1);
const origin = { xM: 0, yM: 0, headingRad: 0 };

describe("the same drive elsewhere on the floor", () => {
  test("and turned any way, ends in the same place seen from its start", () => {
    fc.assert(
      fc.property(evenly(-3, 3), evenly(-20, 20), duty, duty, (headingRad, xM, left, right) => {
        const here = journey(origin, left, right, false);
        const there = journey({ xM, yM: -xM / 3, headingRad }, left, right, false);
        // Rounding in the last bits grows along a slipping drive; a tenth of a millimetre is far below any effect.
        expect(Math.abs(here.forward - there.forward)).toBeLessThan(1e-4);
        expect(Math.abs(here.left - there.left)).toBeLessThan(1e-4);
        expect(Math.abs(here.turned - there.turned)).toBeLessThan(1e-3);
      }),
      { numRuns: 60 },
    );
  });

  test("a wall ahead stops it at the same distance whichever way it faces", () => {
    const here = journey(origin, 0.5, 0.5, true);
    for (const headingRad of [0.5, 1.57, 2.8, -2]) {
      const there = journey({ xM: 1, yM: 2, headingRad }, 0.5, 0.5, true);
      // Contacts switch on at thresholds, so bits matter a little more: 1 mm.
      expect(Math.abs(here.forward - there.forward)).toBeLessThan(1e-3);
      expect(Math.abs(there.left)).toBeLessThan(2e-3);
    }
    expect(here.forward).toBeLessThan(0.201);
  });

  test("the same commands give the same bits", () => {
    const [one, two] = [journey(origin, 0.7, 0.4, true), journey(origin, 0.7, 0.4, true)];
    expect(one).toEqual(two);
  });
});

describe("more of a cause, more of its effect", () => {
  test("more duty goes further, more grip accelerates harder, more weight slower", () => {
    const reach = (duty: number) => journey(origin, duty, duty, false).forward;
    expect(reach(0.3)).toBeLessThan(reach(0.6));
    expect(reach(0.6)).toBeLessThan(reach(0.9));
    const slipping = (grip: number) => {
      const world = r1({ motor: STRONG, grip });
      drive(world, 1, 1);
      run(world, 0.2);
      return world.xM;
    };
    expect(slipping(0.2)).toBeLessThan(slipping(0.35));
    expect(slipping(0.35)).toBeLessThan(slipping(0.8));
  });

  test("a wheel drawn larger goes further for the same turn", () => {
    const world = r1();
    drive(world, 0.5, 0.5);
    run(world, 3);
    const [wheel] = world.wheels;
    expect(world.xM).toBeCloseTo((wheel?.angleRad ?? 0) * 0.03, 4);
  });
});
