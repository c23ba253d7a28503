// Units of calibration tables, and numbers as Cairn and sentences want them.
import { PI } from "../math/trig.js";
import { type ShownUnit, shownIn } from "../units/shown.js";

import type { Estimated } from "./statistics.js";

export const M = shownIn("m", 3);
export const MM = shownIn("mm", 1);
export const DEG = shownIn("deg", 1);
export const DEG_S = shownIn("deg/s", 3);
export const PERCENT = shownIn("%", 2);
export const SEC = shownIn("s", 2);
export const MS = shownIn("ms", 0);
export const VOLT = shownIn("V", 2);
export const CM_S = shownIn("cm/s", 1);
export const PLAIN = shownIn("", 4);
export const TURNS = shownIn("turns", 3);
export const WHOLE = shownIn("", 0);
export const SPEED_PER_VOLT = shownIn("mm/s/V", 1);

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
