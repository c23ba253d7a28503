// What a robot keeps of a mission from one run to the next, as it lies in a file.
import * as z from "zod";
import type { Remembered, RememberedValue } from "../brain/brain.js";

/** Kept values by their name: in SI, or a text, each with its kind in words. */
export const rememberedSchema = z.record(
  z.string(),
  z.object({ value: z.union([z.number(), z.string()]), kind: z.string() }),
);

/** What a run leaves, to begin the next one with. */
export function toRemember(values: readonly RememberedValue[]): Remembered {
  return Object.fromEntries(values.map(({ name, value, kind }) => [name, { value, kind }]));
}
