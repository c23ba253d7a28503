// How numbers are shown to people: each unit once, with what an SI value is multiplied with to be told in it.
import { PI, TAU } from "../math/trig.js";

const PER_SI = {
  "": 1,
  "%": 100,
  "%/deg": (100 * PI) / 180,
  A: 1,
  Ah: 1,
  "J/K": 1,
  "K/W": 1,
  N: 1,
  "N/V": 1,
  V: 1,
  "V s/m": 1,
  cm: 100,
  "cm/s": 100,
  "cm/s/V": 100,
  deg: 180 / PI,
  "deg C": 1,
  "deg/s": 180 / PI,
  g: 1000,
  "g cm2": 1e7,
  kg: 1,
  m: 1,
  "m/s/s": 1,
  "mN m": 1000,
  min: 1 / 60,
  mm: 1000,
  "mm/V": 1000,
  "mm/s/V": 1000,
  ms: 1000,
  ohm: 1,
  rpm: 60 / TAU,
  s: 1,
  turns: 1,
  uF: 1,
  "uN m s": 1e6,
} as const;

/** A number's SI value times `perSi` has this unit. */
export interface ShownUnit {
  readonly unit: string;
  readonly perSi: number;
  readonly digits: number;
}

export function shownIn(unit: keyof typeof PER_SI, digits: number): ShownUnit {
  return { unit, perSi: PER_SI[unit], digits };
}
