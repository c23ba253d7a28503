// A known: a calibratable number with how sure we are of it and where it came from.
import * as z from "zod";
import { RANGES } from "./ranges.js";

const finite = z
  .number({ error: "must be a number" })
  .min(RANGES.any.least, { error: "is a number too large to mean anything" })
  .max(RANGES.any.most, { error: "is a number too large to mean anything" });

/** The shape every calibratable number has, SI inside. */
export const knownSchema = z.object({
  value: finite,
  /** One standard error, same unit as the value; null when nobody measured it. */
  standardError: finite.nonnegative().nullable().default(null),
  /** Measurements behind it. */
  count: z.number().int().nonnegative().max(1e9).default(0),
  method: z.string().max(200).default(""),
  /** Field, battery voltage and the like, in words. */
  conditions: z.string().max(2000).default(""),
  /** ISO 8601, null when not measured. */
  measuredAt: z.string().max(60).nullable().default(null),
  source: z.enum(["drawing", "measured", "typed"]).default("drawing"),
});

export type Known = z.infer<typeof knownSchema>;

/** What the value in force of a known is, and how sure. */
export interface InForce {
  readonly value: number;
  readonly standardError: number;
}

/**
 * The one place that decides which number counts: a measured or typed value as it stands, a drawn one from
 * the drawing it belongs to, which may have changed since the known was written.
 *
 * @param drawn - what the drawing says now, same unit
 * @param assumedShare - standard error to assume where none was measured, as a share of the value
 */
export function inForce(known: Known, drawn: number, assumedShare: number): InForce {
  const value = known.source === "drawing" ? drawn : known.value;
  const magnitude = value < 0 ? -value : value;
  return { value, standardError: known.standardError ?? magnitude * assumedShare };
}

/** Value of a known that no drawing gives; null while nobody measured or typed it. */
export function foundValue(known: Known | null): number | null {
  return known === null || known.source === "drawing" ? null : known.value;
}

/** A known nobody measured yet. */
export function drawnKnown(value: number): Known {
  return { value, standardError: null, count: 0, method: "", conditions: "", measuredAt: null, source: "drawing" };
}
