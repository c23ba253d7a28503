// What is known of a program that was put on a board: kept by whoever put it there, found again by the board's version.
import * as z from "zod";

export const boardManifestSchema = z.object({
  /** The board tells this number of its program. */
  version: z.number().int().nonnegative(),
  /** Name, digest and origin of the mission, as a shelf has them. */
  name: z.string().min(1).max(60),
  sha256: z.string(),
  bytes: z.number().int(),
  label: z.string(),
  origin: z.string(),
  savedAt: z.string(),
  robot: z.string(),
  /** Its steps, as the board numbers them; and the readings that it tells of. */
  steps: z.array(z.object({ step: z.string(), text: z.string(), line: z.number().int() })).readonly(),
  watched: z.array(z.string()).readonly(),
  /** How much of the link there was room for. */
  link: z.enum(["live", "bare", "none"]),
  begin: z.object({ name: z.string(), xM: z.number(), yM: z.number(), headingRad: z.number() }),
  field: z.string(),
  handsOver: z.boolean(),
});
export type BoardManifest = z.infer<typeof boardManifestSchema>;
