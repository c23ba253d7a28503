// How a number of a part is called, shown and held to a range: rows that tables of quantities are made of.
import { TAU } from "../math/trig.js";
import { type ShownUnit, shownIn } from "./shown.js";

export const MM = shownIn("mm", 1);
export const DEG = shownIn("deg", 1);
export const KG = shownIn("kg", 3);
export const G = shownIn("g", 1);
export const VOLT = shownIn("V", 2);
export const AMP = shownIn("A", 2);
export const OHM = shownIn("ohm", 3);
export const RPM = shownIn("rpm", 0);
export const MNM = shownIn("mN m", 2);
export const MS = shownIn("ms", 0);
export const MS_PLAIN: ShownUnit = { unit: "ms", perSi: 1, digits: 0 };
export const PERCENT = shownIn("%", 0);
export const PLAIN = shownIn("", 2);
export const WHOLE = shownIn("", 0);
export const DEG_S = shownIn("deg/s", 2);
export const NEWTON = shownIn("N", 2);
export const AH = shownIn("Ah", 2);
export const UF = shownIn("uF", 0);
export const CELSIUS = shownIn("deg C", 0);
export const GCM2 = shownIn("g cm2", 2);

export interface QuantityInfo {
  /** Path inside the part: "diameterM", "encoder.countsPerTurn". */
  readonly path: string;
  readonly label: string;
  readonly hint?: string;
  readonly shown: ShownUnit;
  /** Must be more than this; or at least `least`; and at most `most`. SI. */
  readonly over?: number;
  readonly least?: number;
  readonly most?: number;
  /** A known: value, error and source stand at the path. */
  readonly known?: true;
  /** A known that no drawing gives: there once it was measured. */
  readonly found?: true;
  readonly whole?: true;
  /** Of a data sheet or a sensor's inside: typical values serve most people. */
  readonly seldom?: true;
}

export type Rule = Pick<QuantityInfo, "over" | "least" | "most" | "known" | "found" | "whole" | "seldom" | "hint">;

export function quantity(path: string, label: string, shown: ShownUnit, rule: Rule = {}): QuantityInfo {
  return { path, label, shown, ...rule };
}

/** Range of a number that only measuring gives. */
export function foundIn(least: number, most: number): Rule {
  return { least, most, known: true, found: true };
}

export const PLACE = { least: -2, most: 2 } as const;

/** Where a part sits, and where it looks. */
export const PLACE_ROWS: readonly QuantityInfo[] = [
  quantity("xM", "Ahead of the axle", MM, PLACE),
  quantity("yM", "To the left", MM, PLACE),
  quantity("zM", "Height", MM, { least: 0, most: 1 }),
  quantity("aimRad", "Looks to the left by", DEG, { least: -TAU, most: TAU }),
];
