// The friction patch: it stops what it can, and where it cannot, it pushes against what remains.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { type PatchImpulse, solvePatch } from "../../src/physics/friction.js";
import { evenly } from "../support/evenly.js";

const number = (least: number, most: number) => evenly(least, most);

/** A random symmetric positive response, the velocities without the patch, and its limit. */
const cases = fc.tuple(number(0.2, 5), number(0.2, 5), number(-0.95, 0.95), number(-2, 2), number(-2, 2), number(0, 2));

function solve([kff, kss, mix, bf, bs, limit]: [number, number, number, number, number, number]) {
  const kfs = mix * Math.sqrt(kff * kss);
  const out: PatchImpulse = { forward: 0, side: 0 };
  solvePatch(kff, kfs, kss, bf, bs, limit, out);
  const leftForward = bf + kff * out.forward + kfs * out.side;
  const leftSide = bs + kfs * out.forward + kss * out.side;
  return { ...out, leftForward, leftSide, size: Math.hypot(out.forward, out.side) };
}

describe("a friction patch", () => {
  test("never exceeds its limit", () => {
    fc.assert(
      fc.property(cases, (values) => {
        expect(solve(values).size).toBeLessThanOrEqual(values[5] * (1 + 1e-9));
      }),
    );
  });

  test("stops the sliding when the limit allows", () => {
    fc.assert(
      fc.property(cases, (values) => {
        const { size, leftForward, leftSide } = solve([...values.slice(0, 5), 1e6] as typeof values);
        expect(size).toBeLessThan(1e6);
        expect(Math.hypot(leftForward, leftSide)).toBeLessThan(1e-9);
      }),
    );
  });

  test("at its limit it points against the velocity that remains", () => {
    fc.assert(
      fc.property(cases, (values) => {
        const found = solve(values);
        const left = Math.hypot(found.leftForward, found.leftSide);
        if (left < 1e-3 || found.size < 1e-3) return;
        const cosine = (found.forward * found.leftForward + found.side * found.leftSide) / (found.size * left);
        // Six Newton steps leave an angle below 1 deg even where the response is stretched ten to one.
        expect(cosine).toBeLessThan(-0.9998);
      }),
    );
  });

  test("a patch that carries nothing does nothing", () => {
    expect(solve([1, 1, 0, 1, 1, 0])).toMatchObject({ forward: 0, side: 0 });
  });
});
