// Figures of a study, for tests that store one.
import { type RunDigest, type StudySummary, summariseStudy } from "@giddy-pebble/core";

export function digest(index: number, success: boolean): RunDigest {
  const ends = [{ step: "1", line: 5, xM: 1, yM: index / 1000, headingRad: 0 }];
  return {
    index,
    seed: index,
    success,
    reason: success ? "" : "missed",
    durationMs: 2000,
    score: 10,
    lostIn: null,
    ends,
  };
}

/** Twenty runs of which sixteen worked. */
export function twentyRuns(): StudySummary {
  return summariseStudy(Array.from({ length: 20 }, (_, i) => digest(i, i > 3)));
}
