// Which runs a list or a count is of, as an address says it.
import { z } from "zod";
import { TRIAL_SOURCES, type TrialFilter } from "./repositories/trials.js";

export const filterQuery = z.object({
  mission: z.uuid().optional(),
  source: z.enum([...TRIAL_SOURCES, "study"]).optional(),
  result: z.enum(["worked", "failed"]).optional(),
  tag: z.string().min(1).max(40).optional(),
  words: z.string().max(120).optional(),
});

export function readFilter({ mission, source, result, tag, words }: z.infer<typeof filterQuery>): TrialFilter {
  return {
    mission: mission ?? null,
    source: source ?? null,
    success: result === undefined ? null : result === "worked",
    tag: tag ?? null,
    words: words?.trim() ?? "",
  };
}
