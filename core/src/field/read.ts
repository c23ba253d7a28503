import { type DocumentReading, parseVersioned } from "../documents/read.js";
import { type BeginPlace, type Field, fieldSchema } from "./schema.js";

/** Field documents of older versions, each upgraded by one step. What version 2 added may be left out. */
export const FIELD_UPGRADES = { 1: (old: Record<string, unknown>) => ({ ...old, version: 2 }) };

/** @param value - parsed JSON of unknown shape */
export function readField(value: unknown): DocumentReading<Field> {
  const read = parseVersioned(value, {
    format: "giddy-pebble/field",
    newest: 2,
    upgrades: FIELD_UPGRADES,
    schema: fieldSchema,
  });
  if (!read.ok) return read;
  const { size, begins, zones } = read.document;
  const problems: string[] = [];
  for (const list of [begins, zones]) {
    const names = list.map((item) => item.name);
    const twice = names.find((name, i) => names.indexOf(name) !== i);
    if (twice) problems.push(`two places are called "${twice}": give one of them another name`);
  }
  for (const begin of begins) {
    const inside = begin.xM >= 0 && begin.yM >= 0 && begin.xM <= size.widthM && begin.yM <= size.heightM;
    if (!inside) problems.push(`start place "${begin.name}" lies outside the field`);
  }
  return problems.length > 0 ? { ok: false, problems } : read;
}

/** The floor a mission without a `field` line runs on: 4 × 4 m, open, begin place in its middle. */
export function openFloor(): Field {
  return fieldSchema.parse({
    format: "giddy-pebble/field",
    version: 2,
    name: "open floor",
    size: { widthM: 4, heightM: 4 },
    edge: "open",
    surface: {},
    begins: [{ name: "middle", xM: 2, yM: 2, headingRad: 0 }],
  });
}

/** @returns the named begin place, or the first when no name is given; null when there is none */
export function findBegin(field: Field, name: string | null): BeginPlace | null {
  if (name === null) return field.begins[0] ?? null;
  return field.begins.find((begin) => begin.name === name) ?? null;
}
