// Sticks to wheels: every way of mixing against its formula, and what has to hold for all pushes.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  HANDSET_AT_REST,
  type Handset,
  mapSticks,
  STICK_MODES,
  type StickShape,
  shaped,
  switched,
  tidy,
} from "../../src/index.js";
import { slewed } from "../../src/remote/handMotion.js";
import { atRest } from "../../src/remote/handset.js";
import { evenly } from "../support/evenly.js";

const sticks = (leftForward: number, leftAcross: number, rightForward = 0, rightAcross = 0): Handset => ({
  ...HANDSET_AT_REST,
  sticks: [leftForward, leftAcross, rightForward, rightAcross],
});
const push = evenly(-1, 1);
const dead = evenly(0, 0.8);
const curve = evenly(0.3, 4);
const shape = fc.record({ dead, curve, turning: evenly(0, 1) });
const mode = fc.constantFrom(...STICK_MODES);
const PLAIN: StickShape = { dead: 0, curve: 1, turning: 1 };

describe("a stick's response", () => {
  test("is ((|x| − dead)/(1 − dead))^curve beyond the dead zone, by hand", () => {
    expect(shaped(0.56, 0.12, 2)).toBeCloseTo(0.25, 12);
    expect(shaped(-0.56, 0.12, 2)).toBeCloseTo(-0.25, 12);
    expect(shaped(0.5, 0, 1)).toBe(0.5);
    expect(shaped(0.12, 0.12, 1.8)).toBe(0);
    expect(shaped(1, 0.12, 1.8)).toBe(1);
    expect(shaped(7, 0.12, 1.8)).toBe(1);
  });

  test("is odd, rises, stays within 1 and has no step at the dead zone's edge", () => {
    fc.assert(
      fc.property(push, push, dead, curve, (a, b, zone, bend) => {
        expect(shaped(-a, zone, bend)).toBeCloseTo(-shaped(a, zone, bend), 12);
        expect(Math.abs(shaped(a, zone, bend))).toBeLessThanOrEqual(1);
        const [low, high] = a <= b ? [a, b] : [b, a];
        expect(shaped(low, zone, bend)).toBeLessThanOrEqual(shaped(high, zone, bend) + 1e-12);
        // Just beyond the edge it has hardly begun: the curve's own value there.
        const beyond = 1e-9 / (1 - zone);
        expect(shaped(zone + 1e-9, zone, bend)).toBeCloseTo(beyond ** bend, 6);
      }),
    );
  });

  test("takes NaN, infinities and words as a stick at rest or at its end", () => {
    expect([tidy(Number.NaN), tidy("1"), tidy(undefined), tidy(9), tidy(-9), tidy(-0.2, 0)]).toEqual([
      0, 0, 0, 1, -1, 0,
    ]);
    expect(tidy(Number.POSITIVE_INFINITY)).toBe(1);
    expect(shaped(Number.NaN, 0.1, 2)).toBe(0);
    expect(shaped(0.5, Number.NaN, 2)).toBeGreaterThanOrEqual(0);
  });
});

describe("ways of mixing", () => {
  test("one stick: speed and turn add up, and both sides shrink together beyond full", () => {
    expect(mapSticks(sticks(0.5, 0), "one stick", PLAIN)).toEqual({ left: 0.5, right: 0.5, steer: 0, aside: 0 });
    expect(mapSticks(sticks(0.5, 0.25), "one stick", PLAIN)).toMatchObject({ left: 0.25, right: 0.75 });
    // 1 − 1 and 1 + 1, halved.
    expect(mapSticks(sticks(1, 1), "one stick", PLAIN)).toMatchObject({ left: 0, right: 1 });
    expect(mapSticks(sticks(0, 1), "one stick", { ...PLAIN, turning: 0.6 })).toMatchObject({ left: -0.6, right: 0.6 });
  });

  test("two sticks: the right one turns", () => {
    expect(mapSticks(sticks(0.5, 1, 1, 0.25), "two sticks", PLAIN)).toMatchObject({ left: 0.25, right: 0.75 });
  });

  test("tank: each stick its side", () => {
    expect(mapSticks(sticks(0.5, 1, -0.25, 1), "tank", PLAIN)).toEqual({ left: 0.5, right: -0.25, steer: 0, aside: 0 });
  });

  test("curvature: the same stick gives the same circle at every speed, and turns on the spot when standing", () => {
    const radiusOf = (speed: number) => {
      const { left, right } = mapSticks(sticks(speed, 0, 0, 0.5), "curvature", PLAIN);
      return (right + left) / (right - left);
    };
    for (const speed of [0.3, 0.5, 0.8, 1]) expect(radiusOf(speed)).toBeCloseTo(2, 12);
    expect(mapSticks(sticks(0, 0, 0, 0.5), "curvature", PLAIN)).toMatchObject({ left: -0.5, right: 0.5 });
  });

  test("a straight stick gives equal sides, mirrored sticks give mirrored sides, none more than full", () => {
    fc.assert(
      fc.property(push, push, push, push, mode, shape, (a, b, c, d, how, form) => {
        const wanted = mapSticks(sticks(a, b, c, d), how, form);
        for (const side of [wanted.left, wanted.right, wanted.steer]) expect(Math.abs(side)).toBeLessThanOrEqual(1);
        const straight = mapSticks(how === "tank" ? sticks(a, 0, a, 0) : sticks(a, 0, c, 0), how, form);
        expect(straight.left).toBeCloseTo(straight.right, 15);
        const mirrored = mapSticks(how === "tank" ? sticks(c, b, a, d) : sticks(a, -b, c, -d), how, form);
        expect(mirrored.left).toBeCloseTo(wanted.right, 12);
        expect(mirrored.right).toBeCloseTo(wanted.left, 12);
      }),
    );
  });

  test("more push never gives less speed, with the turn as it is", () => {
    fc.assert(
      fc.property(push, push, push, shape, (a, b, turn, form) => {
        const [low, high] = a <= b ? [a, b] : [b, a];
        const speed = (forward: number) => {
          const { left, right } = mapSticks(sticks(forward, turn), "one stick", { ...form, turning: 0 });
          return left + right;
        };
        expect(speed(low)).toBeLessThanOrEqual(speed(high) + 1e-12);
      }),
    );
  });

  test("small changes of a push are small changes of the sides", () => {
    fc.assert(
      fc.property(push, push, mode, (a, b, how) => {
        const form = { dead: 0.1, curve: 1.5, turning: 0.7 };
        const here = mapSticks(sticks(a, b, a, b), how, form);
        const near = mapSticks(sticks(a + 1e-6, b, a + 1e-6, b), how, form);
        expect(Math.abs(near.left - here.left)).toBeLessThan(2e-5);
        expect(Math.abs(near.right - here.right)).toBeLessThan(2e-5);
      }),
    );
  });
});

describe("the slew limit", () => {
  test("gains speed as it says, slows down twice as quickly, and never overshoots", () => {
    expect(slewed(0, 1, 0.1)).toBeCloseTo(0.1, 12);
    expect(slewed(-0.5, -1, 0.1)).toBeCloseTo(-0.6, 12);
    expect(slewed(0.5, 0, 0.1)).toBeCloseTo(0.3, 12);
    expect(slewed(0.15, -1, 0.1)).toBe(0);
    expect(slewed(0.5, 0.45, 0.1)).toBe(0.45);
    expect(slewed(0.5, -1, 0)).toBe(-1);
  });
});

describe("drivers that are only on or off", () => {
  test("are on from a push on, and off again only below four fifths of it", () => {
    const seen: number[] = [];
    let state = 0;
    for (const value of [0, 0.3, 0.4, 0.34, 0.31, 0, -0.5, 0.5]) {
      state = switched(value, state, 0.4);
      seen.push(state);
    }
    expect(seen).toEqual([0, 0, 1, 1, 0, 0, -1, 1]);
  });
});

test("a handset is at rest with a little play, and not with a button down", () => {
  expect(atRest(HANDSET_AT_REST)).toBe(true);
  expect(atRest(sticks(0.05, -0.05))).toBe(true);
  expect(atRest(sticks(0.2, 0))).toBe(false);
  expect(atRest({ ...HANDSET_AT_REST, buttons: 4 })).toBe(false);
  expect(atRest({ ...HANDSET_AT_REST, levels: [0, 0, 1, 0] })).toBe(true);
});
