// Messages between the page and the rehearsal worker; parsed with Zod on both sides.
import { programSchema, runSummarySchema } from "@giddy-pebble/core";
import { z } from "zod";

/** Start a rehearsal; a newer generation makes the older stop at its next slice. */
export const workerRequest = z.discriminatedUnion("type", [
  z.object({
    type: z.literal("rehearse"),
    generation: z.number().int(),
    program: programSchema,
    robot: z.unknown(),
    field: z.unknown(),
    seed: z.number().int(),
    ideal: z.boolean(),
    /** The same will be asked for again with a changed program: moments are kept to go on from. */
    replans: z.boolean().default(false),
    /** A recorded driver for missions that hand over: the columns of HAND_COLUMNS, and how long they last. */
    hands: z
      .array(z.custom<Float32Array>((value) => value instanceof Float32Array))
      .length(9)
      .nullable(),
    /** Values a robot kept of the mission; null begins with the written ones. */
    remembered: z
      .record(z.string(), z.object({ value: z.union([z.number(), z.string()]), kind: z.string() }))
      .nullable()
      .default(null),
  }),
  z.object({ type: z.literal("stop"), generation: z.number().int() }),
]);
export type WorkerRequest = z.infer<typeof workerRequest>;

const float32 = z.custom<Float32Array>((value) => value instanceof Float32Array);
const trace = z.object({
  tickMs: z.number(),
  columns: z.array(
    z.object({
      id: z.string(),
      quantity: z.string(),
      unit: z.string(),
      startTick: z.number(),
      everyTicks: z.number(),
      values: float32,
    }),
  ),
  events: z.array(
    z.object({ tick: z.number(), kind: z.string(), stepId: z.string(), data: z.union([z.string(), z.number()]) }),
  ),
});

export const workerReply = z.discriminatedUnion("type", [
  /** Alive and at work; sent with every slice. Columns hold the rows since `from`. */
  z.object({
    type: z.literal("rows"),
    generation: z.number().int(),
    from: z.number().int(),
    columns: z.array(float32),
  }),
  z.object({
    type: z.literal("done"),
    generation: z.number().int(),
    summary: runSummarySchema,
    trace,
  }),
  z.object({ type: z.literal("refused"), generation: z.number().int(), reason: z.string() }),
]);
export type WorkerReply = z.infer<typeof workerReply>;
