// What the page and the probe's worker tell each other.
import type { ProbeResult } from "@giddy-pebble/core";
import { z } from "zod";

export const probeAskSchema = z.object({
  pose: z.object({ xM: z.number(), yM: z.number(), headingRad: z.number() }),
  /** Robot and field, when either changed. */
  robot: z.unknown().optional(),
  field: z.unknown().optional(),
});

export const probeAnswerSchema = z.object({
  result: z.looseObject({ pose: z.unknown(), readings: z.array(z.unknown()), eyes: z.array(z.unknown()) }).nullable(),
  trouble: z.string().nullable(),
});

export interface ProbeAnswer {
  readonly result: ProbeResult | null;
  readonly trouble: string | null;
}
