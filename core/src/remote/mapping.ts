// From sticks to wheels: dead zone, response curve, ways of mixing, ceiling and slew. Plain functions of shares;
// left and forward are positive.
import { exp, log } from "../math/exponential.js";
import type { Handset } from "./handset.js";

export const STICK_MODES = ["one stick", "two sticks", "tank", "curvature"] as const;
export type StickMode = (typeof STICK_MODES)[number];

/** How a stick's push becomes a share of the ceiling. */
export interface StickShape {
  /** Share of the way that counts as the middle, 0..0.9. */
  readonly dead: number;
  /** Exponent of the curve: 1 is straight, more is finer near the middle. */
  readonly curve: number;
  /** Share of the ceiling that full turning adds on one side and takes from the other, 0..1. */
  readonly turning: number;
}

export const USUAL_SHAPE: StickShape = { dead: 0.12, curve: 1.8, turning: 0.6 };

/** Sides of a two-sided robot, shares of the ceiling; of a car type speed and how far its axle is turned. */
export interface Wanted {
  readonly left: number;
  readonly right: number;
  /** Share of the greatest steering angle, left positive. */
  readonly steer: number;
  /** To the left, share of the ceiling: for drives that slide. */
  readonly aside: number;
}

/**
 * A stick's push after dead zone and curve: sign(x)·((|x| − dead)/(1 − dead))^curve, 0 inside the dead zone. Odd,
 * rising, continuous, and 1 at the end of the way.
 * @param push - -1..1; what lies beyond counts as the end
 */
export function shaped(push: number, dead: number, curve: number): number {
  const size = Math.min(1, Math.abs(push));
  const zone = Math.max(0, Math.min(0.9, dead));
  if (!(size > zone)) return 0;
  const share = (size - zone) / (1 - zone);
  const bent = curve === 1 || share >= 1 ? Math.min(1, share) : exp(Math.max(0.1, curve) * log(share));
  return push < 0 ? -bent : bent;
}

/** Below this speed curvature driving turns on the spot as well, share of the ceiling. */
const PIVOT_BELOW = 0.2;

/** Both sides of a speed and a turn: where one would go beyond full, both are scaled, so that the curve stays. */
function mixed(speed: number, turn: number): { left: number; right: number } {
  const left = speed - turn;
  const right = speed + turn;
  const most = Math.max(1, Math.abs(left), Math.abs(right));
  return { left: left / most, right: right / most };
}

/** What the sticks ask for. */
export function mapSticks({ sticks }: Handset, mode: StickMode, shape: StickShape): Wanted {
  const { dead, curve, turning } = shape;
  const [leftForward, leftAcross, rightForward, rightAcross] = sticks.map((push) => shaped(push, dead, curve)) as [
    number,
    number,
    number,
    number,
  ];
  if (mode === "tank") return { left: leftForward, right: rightForward, steer: 0, aside: 0 };
  const across = mode === "one stick" ? leftAcross : rightAcross;
  const steer = across * turning;
  // Two sticks: the left one says where to, the right one how it turns. Drives that cannot slide leave its aside out.
  const aside = mode === "two sticks" ? leftAcross : 0;
  if (mode !== "curvature") return { ...mixed(leftForward, steer), steer, aside };
  const speed = Math.abs(leftForward);
  // The curve of the way is set, not the rate: it is the same at every speed. Nearly standing it turns on the spot.
  const pivot = speed < PIVOT_BELOW ? 1 - speed / PIVOT_BELOW : 0;
  return { ...mixed(leftForward, steer * (speed + pivot)), steer, aside: 0 };
}

/** On or off, with a step back so that a trembling thumb does not chatter: off again below four fifths. */
export function switched(share: number, before: number, on: number): number {
  const size = Math.abs(share);
  const sign = share < 0 ? -1 : 1;
  return size >= on || (before === sign && size >= on * 0.8) ? sign : 0;
}
