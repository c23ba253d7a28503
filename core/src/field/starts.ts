// Ready starts: whole fields made from a few numbers, to begin with instead of an empty table.
//
// Each is a function of its numbers alone: the same numbers give the same field. Lengths in m, angles in rad.
import { eight, oval, switchback } from "./lineStarts.js";
import { type Field, fieldSchema } from "./schema.js";
import { begin, HEIGHT, length, type ReadyStart, type StartNumbers, WIDTH } from "./startParts.js";
import { corridor, maze, parking, pushYard, slalom } from "./thingStarts.js";
import { tidyNumbers } from "./tidy.js";

export type { ReadyStart, StartNumber, StartNumbers } from "./startParts.js";

const table: ReadyStart = {
  id: "table",
  title: "Empty table",
  about: "A table with a rim, of any size.",
  numbers: [WIDTH(2.4), HEIGHT(1.2), length("corner", "Corner radius", 0, 0, 2)],
  make: ({ width: w = 2.4, height: h = 1.2, corner = 0 }) => ({
    size: { widthM: w, heightM: h, cornerRadiusM: corner },
    begins: begin(Math.min(0.3, w / 2), h / 2),
  }),
};

const open: ReadyStart = {
  id: "floor",
  title: "Open floor",
  about: "A floor without a rim: it goes on beyond what is drawn.",
  numbers: [WIDTH(4), HEIGHT(4)],
  make: ({ width: w = 4, height: h = 4 }) => ({
    size: { widthM: w, heightM: h, cornerRadiusM: 0 },
    edge: "open",
    begins: begin(w / 2, h / 2),
  }),
};

export const READY_STARTS: readonly ReadyStart[] = [
  table,
  open,
  oval,
  eight,
  switchback,
  maze,
  slalom,
  corridor,
  pushYard,
  parking,
];

export function findStart(id: string): ReadyStart | null {
  return READY_STARTS.find((start) => start.id === id) ?? null;
}

/** Numbers as a start takes them: its own where none is given, whole where it counts, within its range. */
export function startNumbers(start: ReadyStart, given: StartNumbers): Record<string, number> {
  return Object.fromEntries(
    start.numbers.map(({ key, value, least, most, unit }) => {
      const wanted = given[key] ?? value;
      const held = Math.max(least, Math.min(most, wanted));
      return [key, unit === "" && Number.isInteger(value) ? Math.floor(held + 0.5) : held];
    }),
  );
}

/** A field from a ready start. @param given - numbers that are not its own ones */
export function makeField(start: ReadyStart, name: string, given: StartNumbers = {}): Field {
  const numbers = startNumbers(start, given);
  const field = fieldSchema.parse({
    format: "giddy-pebble/field",
    version: 2,
    name,
    about: start.about,
    surface: {},
    ...start.make(numbers),
  });
  return { ...tidyNumbers(field), made: { start: start.id, numbers } };
}
