// What is said to a board of this computer beside its serial line. On a real one a person's hands do it, and the tape.
import * as z from "zod";
import { PLACED_BY } from "../../robot/placing.js";
import { RANGES } from "../../units/ranges.js";
import { MOST_PACKAGE_BYTES, PART_CHARS } from "../limits.js";

const place = z.number().min(RANGES.place.least).max(RANGES.place.most);
const heading = z.number().min(RANGES.heading.least).max(RANGES.heading.most);
const ask = z.number().int().nonnegative();
const pin = z.string().max(4);
/** How slow a board's time may go, in a person's. */
const SLOWEST = 0.05;

/** Which line of the board each part hangs on. */
export const dealtPinsSchema = z.object({
  motors: z
    .array(z.object({ pulse: pin.nullable(), way: pin.nullable(), encoder: z.tuple([pin, pin]).readonly().nullable() }))
    .readonly(),
  servos: z.array(pin.nullable()).readonly(),
  sensors: z
    .array(
      z.object({ digital: z.array(pin).max(4).readonly(), levels: z.array(pin).max(8).readonly(), bus: z.boolean() }),
    )
    .readonly(),
  battery: pin.nullable(),
});

export const toBenchSchema = z.discriminatedUnion("do", [
  /** Pulls the reset line. */
  z.object({ do: z.literal("reset"), ask }),
  /** Hangs the robot's parts on these lines. */
  z.object({ do: z.literal("wire"), ask, pins: dealtPinsSchema }),
  z.object({
    do: z.literal("place"),
    ask,
    begin: z.object({ name: z.string().max(60), xM: place, yM: place, headingRad: heading }),
    how: z.enum(PLACED_BY),
    /** On the field that was laid out last, or on an open floor. */
    keepField: z.boolean(),
  }),
  /** Lays out a field, piece by piece: a document as JSON, or null for an open floor. `at` and `of` count characters. */
  z.object({
    do: z.literal("field"),
    ask,
    at: z.number().int().nonnegative(),
    of: z.number().int().positive().max(MOST_PACKAGE_BYTES),
    text: z.string().max(PART_CHARS),
  }),
  z.object({ do: z.literal("tape"), ask }),
  z.object({ do: z.literal("press"), ask, button: z.string().max(40), down: z.boolean() }),
  z.object({ do: z.literal("pack"), ask, charge: z.number().min(0.02).max(1) }),
  /** Pulls a plug, or puts it in again; of no name, all. */
  z.object({ do: z.literal("plug"), ask, part: z.string().max(40), in: z.boolean() }),
  /** Lets its time go slower than a person's. Not faster: how long a line may be silent is told in the board's time. */
  z.object({ do: z.literal("slow"), ask, times: z.number().min(SLOWEST).max(1) }),
]);
export type ToBench = z.infer<typeof toBenchSchema>;

export const fromBenchSchema = z.discriminatedUnion("told", [
  /** Said once, when the line is opened. */
  z.object({
    told: z.literal("board"),
    robot: z.string(),
    kind: z.enum(["avr", "micropython"]),
    buttons: z.array(z.string()),
    plugs: z.array(z.string()),
    /** Of its time, in a person's. */
    pace: z.number().min(SLOWEST).max(1).default(1),
  }),
  /** Where a person sees it on the table; not asked for. */
  z.object({ told: z.literal("seen"), xM: z.number(), yM: z.number(), headingRad: z.number() }),
  z.object({ told: z.literal("done"), ask }),
  z.object({ told: z.literal("refused"), ask, why: z.string() }),
  z.object({ told: z.literal("tape"), ask, alongM: z.number(), asideM: z.number(), headingRad: z.number() }),
]);
export type FromBench = z.infer<typeof fromBenchSchema>;

/** A field in pieces, as it goes to a board of this computer. @param field - a document, or null for an open floor */
export function fieldPieces(field: unknown): { readonly do: "field"; at: number; of: number; text: string }[] {
  const whole = JSON.stringify(field);
  return Array.from({ length: Math.floor((whole.length + PART_CHARS - 1) / PART_CHARS) }, (_, i) => ({
    do: "field",
    at: i * PART_CHARS,
    of: whole.length,
    text: whole.slice(i * PART_CHARS, (i + 1) * PART_CHARS),
  }));
}
