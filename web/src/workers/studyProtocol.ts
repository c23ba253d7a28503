// Messages between the page and the workers of a study; parsed with Zod on both sides.
import { lineRunSchema, programSchema, runDigestSchema } from "@giddy-pebble/core";
import { z } from "zod";

const adjustments = z.record(z.string(), z.object({ width: z.number(), shift: z.number() }));

export const studyRequest = z.discriminatedUnion("type", [
  /** What all runs of a study share; a newer job makes the older end at its next run. */
  z.object({
    type: z.literal("prepare"),
    job: z.number().int(),
    /** One, or several to be compared. */
    programs: z.array(programSchema).min(1),
    robot: z.unknown(),
    field: z.unknown(),
  }),
  z.object({
    type: z.literal("runs"),
    job: z.number().int(),
    seed: z.number().int(),
    from: z.number().int().nonnegative(),
    to: z.number().int().nonnegative(),
    adjustments,
    /** Which of the programs. */
    program: z.number().int().nonnegative(),
    /** The step whose line following is looked at; null digests the run. */
    step: z
      .object({
        line: z.number().int().nonnegative(),
        sensor: z.object({ name: z.string() }),
        edge: z.enum(["left", "right"]).nullable(),
      })
      .nullable(),
  }),
]);
export type StudyRequest = z.infer<typeof studyRequest>;

export const studyReply = z.discriminatedUnion("type", [
  z.object({ type: z.literal("digests"), job: z.number().int(), digests: z.array(runDigestSchema) }),
  z.object({ type: z.literal("lines"), job: z.number().int(), runs: z.array(lineRunSchema) }),
  z.object({ type: z.literal("refused"), job: z.number().int(), reason: z.string() }),
]);
export type StudyReply = z.infer<typeof studyReply>;
