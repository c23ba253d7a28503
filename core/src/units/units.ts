// The units people write, and what one of each is in SI (metres, radians, seconds, volts, kilograms).
import { PI, TAU } from "../math/trig.js";
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
  overDimension,
  SPEED,
  sameDimension,
  TIME,
  TURN_ACCELERATION,
  TURN_RATE,
  VOLTAGE,
} from "./dimension.js";

export interface Unit {
  readonly name: string;
  readonly dimension: Dimension;
  /** SI value of one of this unit. */
  readonly scale: number;
}

const SIMPLE: readonly Unit[] = [
  { name: "mm", dimension: LENGTH, scale: 0.001 },
  { name: "cm", dimension: LENGTH, scale: 0.01 },
  { name: "m", dimension: LENGTH, scale: 1 },
  { name: "in", dimension: LENGTH, scale: 0.0254 },
  { name: "ft", dimension: LENGTH, scale: 0.3048 },
  { name: "deg", dimension: ANGLE, scale: PI / 180 },
  { name: "rad", dimension: ANGLE, scale: 1 },
  { name: "turns", dimension: ANGLE, scale: TAU },
  { name: "turn", dimension: ANGLE, scale: TAU },
  { name: "ms", dimension: TIME, scale: 0.001 },
  { name: "s", dimension: TIME, scale: 1 },
  { name: "rpm", dimension: TURN_RATE, scale: TAU / 60 },
  { name: "V", dimension: VOLTAGE, scale: 1 },
  { name: "A", dimension: CURRENT, scale: 1 },
  { name: "mA", dimension: CURRENT, scale: 0.001 },
  { name: "Hz", dimension: FREQUENCY, scale: 1 },
  { name: "g", dimension: MASS, scale: 0.001 },
  { name: "kg", dimension: MASS, scale: 1 },
  { name: "N", dimension: FORCE, scale: 1 },
  { name: "%", dimension: NUMBER, scale: 0.01 },
];

const BY_NAME = new Map(SIMPLE.map((unit) => [unit.name, unit]));

/** Words that are units and so cannot be names. `turn` is a step's word and reads as a unit only after a number. */
export const UNIT_WORDS: ReadonlySet<string> = new Set(
  SIMPLE.map((unit) => unit.name).filter((name) => name !== "turn"),
);

/**
 * A unit by its written name, composites included: `cm/s`, `cm/s/s`, `%/deg`.
 * @returns null when any part is unknown
 */
export function findUnit(name: string): Unit | null {
  const simple = BY_NAME.get(name);
  if (simple) return simple;
  const [head, ...rest] = name.split("/");
  if (head === undefined || rest.length === 0) return null;
  let unit = BY_NAME.get(head);
  for (const part of rest) {
    const divisor = BY_NAME.get(part);
    if (!unit || !divisor) return null;
    unit = { name, dimension: overDimension(unit.dimension, divisor.dimension), scale: unit.scale / divisor.scale };
  }
  return unit ?? null;
}

/** The unit an answer or a completion uses when the person has not chosen one. */
export function defaultUnit(dimension: Dimension): string | null {
  const table: readonly (readonly [Dimension, string])[] = [
    [LENGTH, "cm"],
    [ANGLE, "deg"],
    [TIME, "s"],
    [SPEED, "cm/s"],
    [TURN_RATE, "deg/s"],
    [ACCELERATION, "cm/s/s"],
    [TURN_ACCELERATION, "deg/s/s"],
    [VOLTAGE, "V"],
    [CURRENT, "A"],
    [FREQUENCY, "Hz"],
    [MASS, "g"],
    [FORCE, "N"],
  ];
  return table.find(([known]) => sameDimension(known, dimension))?.[1] ?? null;
}

const USUAL: readonly string[] = ["cm", "deg", "s", "cm/s", "deg/s", "cm/s/s", "deg/s/s", "V", "A", "Hz", "g", "N"];

/** The unit people would give a quantity of this dimension in; for plain numbers and odd ones none, in SI. */
export function dimensionUnit(dimension: Dimension): { readonly unit: string; readonly scale: number } {
  for (const name of USUAL) {
    const unit = findUnit(name);
    if (unit && sameDimension(unit.dimension, dimension)) return { unit: name, scale: unit.scale };
  }
  return { unit: "", scale: 1 };
}
