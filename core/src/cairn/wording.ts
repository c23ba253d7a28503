// Values in words: with the unit people use for their kind.
import { COLOUR_NAMES } from "../field/colours.js";
import { plainDigits } from "../units/quantity.js";
import { dimensionUnit } from "../units/units.js";
import type { Kind } from "./kinds.js";
import type { Value } from "./task.js";

/** @param value - SI; truths 1 and 0, colours by their number */
export function valueWords(kind: Kind, value: Value): string {
  if (typeof value === "string") return value;
  if (kind.is === "truth") return value !== 0 ? "yes" : "no";
  if (kind.is === "colour") return COLOUR_NAMES[value] ?? "?";
  if (kind.is !== "quantity") return plainDigits(value, 3);
  const { unit, scale } = dimensionUnit(kind.dimension);
  return `${plainDigits(value / scale, 2)}${unit === "" ? "" : ` ${unit}`}`;
}
