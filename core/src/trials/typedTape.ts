// Where a person's tape found the robot after a run: read from the begin place, kept as it was read.
import * as z from "zod";
import { composePoses, type Pose } from "../geometry/pose.js";
import { poseAt } from "./differences.js";
import type { Trace } from "./trace.js";

/** Along the first direction and to the left of it, m; where it looks against it, rad, null when nobody looked. */
export const typedTapeSchema = z.object({
  alongM: z.number().min(-100).max(100),
  asideM: z.number().min(-100).max(100),
  headingRad: z.number().min(-1000).max(1000).nullable(),
});
export type TypedTape = z.infer<typeof typedTapeSchema>;

const poseSchema = z.object({ xM: z.number(), yM: z.number(), headingRad: z.number() });

/**
 * The tape's place on the field.
 * @param trace - of the run: it begins on the begin place; where nobody looked, its last heading stands
 * @returns null for a trace without places
 */
export function tapedPose(trace: Trace, tape: TypedTape): Pose | null {
  const [begin, end] = [poseAt(trace, 0), poseAt(trace, Number.POSITIVE_INFINITY)];
  if (!begin || !end) return null;
  const at = composePoses(begin, { xM: tape.alongM, yM: tape.asideM, headingRad: tape.headingRad ?? 0 });
  return tape.headingRad === null ? { ...at, headingRad: end.headingRad } : at;
}

/**
 * Where a kept run was found: by what a person typed, else by the stand-in's own tape.
 * @param summary - of the run; its `tape`, if any, is a pose on the field
 */
export function foundAt(trace: Trace, typed: TypedTape | null, summary: { readonly tape?: unknown }): Pose | null {
  if (typed) return tapedPose(trace, typed);
  const own = poseSchema.safeParse(summary.tape);
  return own.success ? own.data : null;
}
