// The physical ranges numbers are held to, wherever they come in: documents, frames of the robot link, and values
// of a running mission. One table, SI units. Robots' own parts have narrower ones in robot/quantities.ts.
//
// They are wide enough for anything that rolls over a floor, and narrow enough that products of a few of them stay
// far from where arithmetic loses its digits.

import { TAU } from "../math/trig.js";
import {
  ACCELERATION,
  ANGLE,
  CURRENT,
  type Dimension,
  FORCE,
  FREQUENCY,
  LENGTH,
  MASS,
  NUMBER,
  SPEED,
  sameDimension,
  TIME,
  TURN_ACCELERATION,
  TURN_RATE,
  VOLTAGE,
} from "./dimension.js";

export interface Range {
  readonly least: number;
  readonly most: number;
}

function upTo(most: number): Range {
  return { least: -most, most };
}

/** By what a number is. */
export const RANGES = {
  /** Places on a field and around it, m. */
  place: upTo(100),
  /** Edges and radii of things that stand or are drawn on a field, m. */
  size: { least: 1e-4, most: 100 },
  /** Sides of a field, m. */
  field: { least: 0.05, most: 50 },
  height: { least: 1e-4, most: 5 },
  /** Headings, not wrapped, rad: ten thousand turns. */
  heading: upTo(10_000 * TAU),
  loadMass: { least: 1e-4, most: 100 },
  friction: { least: 0.01, most: 5 },
  /** Bumps of a floor against those of a usual table. */
  unevenness: { least: 0, most: 10 },
  points: upTo(1e6),
  /** Times within a run, s: a day. */
  time: { least: 0.001, most: 86_400 },
  /** Any number of any document, before its own range is looked at. */
  any: upTo(1e12),
} as const satisfies Record<string, Range>;

/** What a value of a mission may be, by its dimension: the largest in either direction, and in which words. */
const BY_DIMENSION: readonly { readonly of: Dimension; readonly most: number; readonly words: string }[] = [
  { of: LENGTH, most: 1000, words: "1000 m" },
  { of: ANGLE, most: 10_000 * TAU, words: "10000 turns" },
  { of: TIME, most: 86_400, words: "86400 s, a day" },
  { of: SPEED, most: 100, words: "100 m/s" },
  { of: TURN_RATE, most: 1000 * TAU, words: "1000 turns a second" },
  { of: ACCELERATION, most: 10_000, words: "10000 m/s/s" },
  { of: TURN_ACCELERATION, most: 1e6, words: "1000000 rad/s/s" },
  { of: VOLTAGE, most: 1000, words: "1000 V" },
  { of: CURRENT, most: 1000, words: "1000 A" },
  { of: FREQUENCY, most: 1e6, words: "1000000 Hz" },
  { of: MASS, most: 1000, words: "1000 kg" },
  { of: FORCE, most: 1e5, words: "100000 N" },
];

/** Largest number without a unit, or with a mixed one. */
export const LARGEST_NUMBER = 1e12;
const ANY = { of: NUMBER, most: LARGEST_NUMBER, words: "1000000000000" };

/** @returns the largest value, in SI units and either direction, and how it is said */
export function largestOf(dimension: Dimension): { readonly most: number; readonly words: string } {
  return BY_DIMENSION.find(({ of }) => sameDimension(of, dimension)) ?? ANY;
}
