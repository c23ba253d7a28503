// Two versions of a field side by side: what came, what went, and which numbers changed.
import { plainDigits } from "../units/quantity.js";
import type { Field } from "./schema.js";
import { refOf, THING_LISTS, type Thing, thingName } from "./things.js";

interface FieldDifference {
  readonly thing: string;
  readonly what: string;
  readonly before: string;
  readonly after: string;
}

function said(value: unknown): string {
  if (value === undefined) return "none";
  if (typeof value === "number") return plainDigits(value, 4);
  if (typeof value === "string" || typeof value === "boolean" || value === null) return String(value);
  return Array.isArray(value) ? `${value.length} points` : "changed";
}

/** Keys of our documents as words: "heightM" is "height, m". */
function keyWords(key: string): string {
  const [, stem = key, unit = ""] = /^(.*?)(M|Rad|Kg|Sec)?$/.exec(key) ?? [];
  const words = stem.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);
  const units: Record<string, string> = { M: ", m", Rad: ", rad", Kg: ", kg", Sec: ", s" };
  return `${words}${units[unit] ?? ""}`;
}

function changes(name: string, before: Thing, after: Thing): FieldDifference[] {
  const keys = [...new Set([...Object.keys(before), ...Object.keys(after)])];
  const of = (thing: Thing, key: string) => (thing as Record<string, unknown>)[key];
  return keys.flatMap((key): FieldDifference[] => {
    const [a, b] = [of(before, key), of(after, key)];
    if (JSON.stringify(a) === JSON.stringify(b)) return [];
    const [x, y] = [said(a), said(b)];
    return [{ thing: name, what: keyWords(key), before: x, after: x === y ? "moved" : y }];
  });
}

/** @returns one row for each difference; things are told apart by their names, else by their place in the list */
export function compareFields(before: Field, after: Field): FieldDifference[] {
  const rows: FieldDifference[] = [];
  for (const [what, of] of FLOOR) {
    const [a, b] = [of(before), of(after)];
    if (a !== b) rows.push({ thing: "floor", what, before: a, after: b });
  }
  for (const list of THING_LISTS) {
    const named = (field: Field) =>
      new Map((field[list] as readonly Thing[]).map((thing, i) => [thingName(field, refOf(list, i)), thing]));
    const [old, now] = [named(before), named(after)];
    for (const [name, thing] of old) {
      const other = now.get(name);
      if (other) rows.push(...changes(name, thing, other));
      else rows.push({ thing: name, what: "removed", before: "there", after: "" });
    }
    for (const name of now.keys())
      if (!old.has(name)) rows.push({ thing: name, what: "drawn", before: "", after: "there" });
  }
  return rows;
}

const FLOOR: readonly (readonly [string, (field: Field) => string])[] = [
  ["size", ({ size }) => `${said(size.widthM)} × ${said(size.heightM)} m`],
  ["corner radius, m", ({ size }) => said(size.cornerRadiusM)],
  ["edge", ({ edge }) => edge],
  ["surface", ({ surface }) => `grip ${said(surface.grip)}, light ${said(surface.reflectance)}, ${surface.colour}`],
  ["light", ({ light }) => (light ? `${said(light.level)}${light.lamp ? ", lamp" : ""}` : "1")],
  ["picture", ({ picture }) => (picture ? picture.asset.slice(0, 8) : "none")],
];
