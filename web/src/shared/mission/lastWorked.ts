// Which version last met its goal.

/** A study speaks for its version when this share of its runs met the goal. */
const WORKED_SHARE = 0.95;

interface Tried {
  readonly mission: { readonly number: number };
}

/** @returns the newest version that worked; one lucky run does not outweigh a study of the same version */
export function lastWorked(
  studies: readonly (Tried & { readonly runs: number; readonly successes: number })[],
  runs: readonly (Tried & { readonly success: boolean })[],
): number | null {
  const worked = (study: { runs: number; successes: number }) => study.successes >= WORKED_SHARE * study.runs;
  const studied = new Set(studies.map((study) => study.mission.number));
  const good = [
    ...studies.filter(worked).map((study) => study.mission.number),
    ...runs.filter((run) => run.success && !studied.has(run.mission.number)).map((run) => run.mission.number),
  ];
  return good.length > 0 ? Math.max(...good) : null;
}
