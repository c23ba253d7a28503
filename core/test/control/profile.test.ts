import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { Profile } from "../../src/control/profile.js";
import { evenly } from "../support/evenly.js";

function drive(profile: Profile, dt = 0.01): { seconds: number; top: number; speeds: number[] } {
  const speeds: number[] = [];
  for (let i = 0; i < 100_000 && !profile.done; i += 1) {
    profile.advance(dt);
    speeds.push(profile.speed);
  }
  return { seconds: speeds.length * dt, top: Math.max(...speeds), speeds };
}

describe("distance profile", () => {
  test("takes the time of a trapezoid, and of a triangle when there is no room to cruise", () => {
    for (const length of [1, 0.05]) {
      const profile = new Profile(length, 0.3, 0.8, 0, 0);
      // Two ticks of rounding at the corners.
      expect(Math.abs(drive(profile).seconds - profile.expectedSec())).toBeLessThan(0.05);
    }
  });

  test("never passes its cruise speed, its ramp or its length, for any numbers", () => {
    fc.assert(
      fc.property(evenly(0.001, 5), evenly(0.01, 2), evenly(0.05, 5), (length, cruise, ramp) => {
        const profile = new Profile(length, cruise, ramp, 0, 0);
        const { speeds } = drive(profile);
        expect(profile.done).toBe(true);
        expect(profile.distance).toBe(length);
        // Every tick is looked at; what is said of them is said once.
        let [before, fastest, steepest] = [0, 0, 0];
        for (const speed of speeds) {
          fastest = Math.max(fastest, speed);
          steepest = Math.max(steepest, speed - before);
          before = speed;
        }
        expect(fastest).toBeLessThanOrEqual(cruise + 1e-12);
        expect(steepest).toBeLessThanOrEqual(ramp * 0.01 + 1e-12);
        // It arrives slowly: within three ticks' braking of standing still.
        expect(before).toBeLessThanOrEqual(3 * ramp * 0.01 + 1e-9);
      }),
    );
  });

  test("arrives at its end speed when it is to roll on", () => {
    const profile = new Profile(1, 0.3, 0.8, 0, 0.3);
    drive(profile);
    expect(profile.speed).toBeCloseTo(0.3, 9);
  });
});
