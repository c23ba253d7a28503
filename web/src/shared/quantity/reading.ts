// What is typed into a quantity, and what a step or a drag makes of it. Pure: text in, text out.
import { findUnit, plainDigits, readQuantity, sameDimension } from "@giddy-pebble/core";

export type Read = { readonly ok: true; readonly text: string } | { readonly ok: false; readonly message: string };

export function written(digits: string, unit: string): string {
  return unit === "" ? digits : `${digits} ${unit}`;
}

/** Units a robot's parts have that missions do not write: read as they stand, without conversion. */
function readPlain(text: string, unit: string): Read & { readonly digits?: string } {
  const match = /^([+-]?\d+(?:\.\d+)?)\s*(.*)$/.exec(text);
  if (!match) return { ok: false, message: `"${text}" is not a number. Write for example 3 ${unit}.` };
  const [, digits = "0", unitWritten = ""] = match;
  if (unitWritten !== "" && unitWritten.replace(/\s+/g, "") !== unit.replace(/\s+/g, ""))
    return { ok: false, message: `This is kept in ${unit}. Write ${digits} ${unit}.` };
  const plain = digits.replace(/^\+/, "");
  return { ok: true, digits: plain, text: written(plain, unit) };
}

/** Digits of a value in the unit the field shows. */
function inShownUnit(value: number, digits: string, from: string, to: string): string {
  if (from === to || to === "") return digits;
  const unit = findUnit(to);
  return unit ? plainDigits(value / unit.scale, 6) : digits;
}

/**
 * Reads what was typed over a quantity.
 * @param unit - the one it is shown in; "" for a plain number
 * @param refuse - why a value may not be taken, by its digits in the unit shown; null when it may
 * @returns the quantity with its unit as typed, or a sentence that says what to write
 */
export function readTyped(typed: string, unit: string, refuse?: (digits: string) => string | null): Read {
  const dimension = unit === "" ? (findUnit("%")?.dimension ?? null) : (findUnit(unit)?.dimension ?? null);
  if (dimension === null) {
    const read = readPlain(typed, unit);
    const refused = read.ok ? (refuse?.(read.digits ?? "") ?? null) : null;
    return refused === null ? read : { ok: false, message: refused };
  }
  const read = readQuantity(typed, dimension, unit === "" ? undefined : unit);
  if (!read.ok) return { ok: false, message: read.message };
  const { quantity } = read;
  const refused = refuse?.(inShownUnit(quantity.value, quantity.digits, quantity.unit, unit)) ?? null;
  return refused === null
    ? { ok: true, text: written(quantity.digits, quantity.unit) }
    : { ok: false, message: refused };
}

/** One in the last written digit. */
function lastDigit(digits: string): number {
  return 10 ** -places(digits);
}

function places(digits: string): number {
  const point = digits.indexOf(".");
  return point === -1 ? 0 : digits.length - point - 1;
}

const TIME = { length: 0, angle: 0, time: 1, voltage: 0, mass: 0 } as const;

/** Steps do not take a time or a plain number below nothing. */
function lowest(unit: string): number {
  const dimension = unit === "" ? null : (findUnit(unit)?.dimension ?? null);
  return unit === "" || (dimension !== null && sameDimension(dimension, TIME)) ? 0 : Number.NEGATIVE_INFINITY;
}

/** The digits after so many steps of the last digit. */
export function stepped(digits: string, unit: string, steps: number): string {
  return plainDigits(Math.max(lowest(unit), Number(digits) + steps * lastDigit(digits)), places(digits));
}

/** The digits after a drag over so many steps, from where it began. */
export function dragged(digits: string, start: number, steps: number): string {
  return plainDigits(start + steps * lastDigit(digits), places(digits));
}
