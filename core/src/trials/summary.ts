// What is kept of a run beside its trace: how it ended, its score, its steps, what it touched and heard. One schema for
// workers, robot links, HTTP and the database.
import * as z from "zod";

const poseDeg = z.object({ xM: z.number(), yM: z.number(), headingDeg: z.number() });
export type PoseDeg = Readonly<z.infer<typeof poseDeg>>;

const step = z.object({
  step: z.string(),
  pass: z.number(),
  text: z.string(),
  line: z.number(),
  task: z.number(),
  startMs: z.number(),
  endMs: z.number(),
  endedBy: z.enum(["done", "until", "for", "limit", "stalled", "lost", "ended", "skipped", "bound", "interrupted"]),
  timed: z.boolean(),
});
export type StepSummary = Readonly<z.infer<typeof step>>;

const load = poseDeg.extend({ name: z.string(), upright: z.boolean() });
const zone = z.object({ zone: z.string(), count: z.number(), points: z.number() });
const touch = z.object({
  what: z.string(),
  part: z.string(),
  fromMs: z.number(),
  toMs: z.number(),
  hardestN: z.number(),
  xM: z.number(),
  yM: z.number(),
});
const heard = z.object({ sensor: z.string(), what: z.string(), firstMs: z.number(), nearestM: z.number() });
/** A thing that a distance sensor heard in a run. */
export type Heard = Readonly<z.infer<typeof heard>>;

const value = z.union([z.number(), z.string()]);
const note = z.object({ atMs: z.number(), name: z.string(), value });
const remembered = z.object({ name: z.string(), value, words: z.string(), kind: z.string() });
const sign = z.object({ atMs: z.number(), kind: z.enum(["show", "light", "beep"]), text: z.string() });

/** Times in ms from the start of the run; places in the field's frame. */
export const runSummarySchema = z.object({
  outcome: z.enum(["finished", "stopped"]),
  success: z.boolean(),
  /** Why it stopped or did not succeed; empty on success. */
  reason: z.string(),
  durationMs: z.number().nonnegative(),
  score: z.number().nullable(),
  start: poseDeg,
  end: poseDeg,
  traceHash: z.string(),
  steps: z.array(step).readonly(),
  /** Zones that gave points, and where the loads ended. */
  zones: z.array(zone).readonly().default([]),
  loads: z.array(load).readonly().default([]),
  /** What it touched, in order. */
  contacts: z.array(touch).readonly().default([]),
  /** What its distance sensors heard: each thing once, with when it was heard first and how near it came. */
  heard: z.array(heard).readonly().default([]),
  /** When a wheel lost the floor, if it did. */
  tippedMs: z.number().nullable().default(null),
  notes: z.array(note).readonly().default([]),
  /** How many older notes made room for these. */
  notesDropped: z.number().default(0),
  /** Values the mission keeps for its next run. */
  remembered: z.array(remembered).readonly().default([]),
  /** What the display, the light and the beeper did. */
  signs: z.array(sign).readonly().default([]),
});
export type RunSummary = z.infer<typeof runSummarySchema>;

/** What is stored of a run: with where a tape found the robot, for those that stood on a table. */
export const keptRunSchema = runSummarySchema.extend({
  tape: z.object({ xM: z.number(), yM: z.number(), headingRad: z.number() }).nullable().optional(),
});

export type KeptRun = z.infer<typeof keptRunSchema>;

/** A stored trial's summary as it may lie there: lists leave out what is long, practice rounds have only a reason. */
export const trialSummarySchema = keptRunSchema.partial();
export type TrialSummary = z.infer<typeof trialSummarySchema>;

/** A stored summary, whatever version wrote it: fields that are not of today's form are left out. */
export function storedSummary(value: Readonly<Record<string, unknown>>): TrialSummary {
  const kept = Object.entries(trialSummarySchema.shape).flatMap(([key, schema]) => {
    if (value[key] === undefined) return [];
    const read = schema.safeParse(value[key]);
    return read.success ? [[key, read.data] as const] : [];
  });
  return Object.fromEntries(kept) as TrialSummary;
}
