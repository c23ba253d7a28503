// Reading and writing one quantity as a person types it: "30cm", "1 ft", "-4.5 deg".
import { type Dimension, dimensionWords, sameDimension } from "./dimension.js";
import { defaultUnit, findUnit } from "./units.js";

export interface Quantity {
  /** SI. */
  readonly value: number;
  /** As written, e.g. "cm/s"; empty for a bare number. */
  readonly unit: string;
  /** The number as written, e.g. "30". */
  readonly digits: string;
}

type QuantityReading = { ok: true; quantity: Quantity } | { ok: false; message: string };

const PATTERN = /^([+-]?)(\d+(?:\.\d+)?)\s*([A-Za-z%]+(?:\/[A-Za-z%]+)*)?$/;

/**
 * Reads a quantity of the wanted dimension.
 * @param text - number and unit; spaces around and between are fine
 * @param wanted - a bare number is read in `fallbackUnit` when one is given, else refused
 */
export function readQuantity(text: string, wanted: Dimension, fallbackUnit?: string): QuantityReading {
  const words = dimensionWords(wanted);
  const example = `Write for example 30 ${fallbackUnit ?? defaultUnit(wanted) ?? ""}`.trim();
  const match = PATTERN.exec(text.trim());
  if (!match) return { ok: false, message: `"${text.trim()}" is not ${words}. ${example}.` };
  const [, sign = "", digits = "", written] = match;
  const name = written ?? fallbackUnit;
  if (name === undefined) {
    if (sameDimension(wanted, findUnit("%")?.dimension ?? wanted)) {
      return {
        ok: true,
        quantity: { value: Number(sign + digits), unit: "", digits: sign === "-" ? sign + digits : digits },
      };
    }
    return { ok: false, message: `${digits} has no unit. ${example}.` };
  }
  const unit = findUnit(name);
  if (!unit) return { ok: false, message: `"${name}" is not a unit. ${example}.` };
  if (!sameDimension(unit.dimension, wanted)) {
    return {
      ok: false,
      message: `${digits} ${name} is ${dimensionWords(unit.dimension)}; ${words} is wanted. ${example}.`,
    };
  }
  const signed = sign === "-" ? `-${digits}` : digits;
  return { ok: true, quantity: { value: Number(signed) * unit.scale, unit: name, digits: signed } };
}

/** Digits for a value with at most `places` decimals and no trailing zeros: 30, 12.5, -0.04. */
export function plainDigits(value: number, places: number): string {
  const fixed = value.toFixed(places);
  const trimmed = fixed.includes(".") ? fixed.replace(/0+$/, "").replace(/\.$/, "") : fixed;
  return trimmed === "-0" ? "0" : trimmed;
}

/** An SI value in a unit, as text with the unit: "30 cm", "35 %". */
export function writeQuantity(value: number, unitName: string, places = 3): string {
  const unit = findUnit(unitName);
  if (!unit) throw new RangeError(`unknown unit "${unitName}"`);
  return `${plainDigits(value / unit.scale, places)} ${unitName}`;
}
