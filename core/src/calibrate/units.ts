// Units of calibration tables, and numbers as Cairn and sentences want them.
import { PI } from "../math/trig.js";
import type { ShownUnit } from "../robot/quantities.js";

import type { Estimated } from "./statistics.js";

export const M: ShownUnit = { unit: "m", perSi: 1, digits: 3 };
export const MM: ShownUnit = { unit: "mm", perSi: 1000, digits: 1 };
export const DEG: ShownUnit = { unit: "deg", perSi: 180 / PI, digits: 1 };
export const DEG_S: ShownUnit = { unit: "deg/s", perSi: 180 / PI, digits: 3 };
export const PERCENT: ShownUnit = { unit: "%", perSi: 100, digits: 2 };
export const SEC: ShownUnit = { unit: "s", perSi: 1, digits: 2 };
export const MS: ShownUnit = { unit: "ms", perSi: 1000, digits: 0 };
export const VOLT: ShownUnit = { unit: "V", perSi: 1, digits: 2 };
export const CM_S: ShownUnit = { unit: "cm/s", perSi: 100, digits: 1 };
export const PLAIN: ShownUnit = { unit: "", perSi: 1, digits: 4 };
export const TURNS: ShownUnit = { unit: "turns", perSi: 1, digits: 3 };
export const WHOLE: ShownUnit = { unit: "", perSi: 1, digits: 0 };
export const SPEED_PER_VOLT: ShownUnit = { unit: "mm/s/V", perSi: 1000, digits: 1 };

export const RAD_PER_DEG = PI / 180;

/** A number for a program's text: no exponent, no trailing zeros. */
export function plain(value: number, digits = 3): string {
  const text = value.toFixed(digits);
  return text.includes(".") ? text.replace(/\.?0+$/, "") : text;
}

/** "between 0.26 and 0.36 %"; says so when there is no interval. */
export function intervalWords(estimate: Estimated, shown: ShownUnit, digits = 2): string {
  const { low, high } = estimate;
  if (low === null || high === null) return "with fewer than three rows there is no interval yet";
  return `between ${(low * shown.perSi).toFixed(digits)} and ${(high * shown.perSi).toFixed(digits)} ${shown.unit}`.trim();
}

export { withError } from "../robot/quantities.js";
