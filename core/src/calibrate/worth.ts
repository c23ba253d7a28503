// What every known is worth on a mission: how far the robot's path moves when one known is off by one standard error
// and everything else is as believed. The order of these is the order in which calibrating pays.
import type { Runnable } from "../rehearse/prepare.js";
import { Rehearsal } from "../rehearse/rehearsal.js";
import type { Robot } from "../robot/schema.js";
import { type Adjustments, leversOf, scatterSchema } from "../simulate/scatter.js";
import { compareRuns, poseAt, poseDifference } from "../trials/differences.js";

export interface Worth {
  /** Key of the draw, and its words. */
  readonly key: string;
  readonly words: string;
  /** Procedure that narrows it; null when none does. */
  readonly procedure: string | null;
  /** How far the mission's end moves, m and rad. */
  readonly endM: number;
  readonly endRad: number;
  /** Where along the mission it moves the robot most: that distance, and the step there. */
  readonly mostM: number;
  readonly step: string;
}

const PROCEDURE_OF: readonly (readonly [RegExp, string])[] = [
  [/^roll /, "straight-driving"],
  [/^track width$/, "turning-width"],
  [/^gyro scale$/, "gyro-scale"],
  [/^gyro rest$/, "gyro-rest"],
  [/^steering centre$/, "steering"],
  [/^offset of /, "eye-distance"],
  [/^(place|heading)$/, "placement"],
];

/** The procedure that narrows a draw. */
function procedureFor(key: string): string | null {
  return PROCEDURE_OF.find(([pattern]) => pattern.test(key))?.[1] ?? null;
}

/** @returns the largest first; empty when the mission has errors */
export function worthOnMission(runnable: Runnable, robot: Robot): Worth[] {
  if (!runnable.program) return [];
  // Nothing scatters but what is moved on purpose.
  const scatter = scatterSchema.parse({
    knowns: 1,
    placement: 1,
    rollShare: 0,
    strengthShare: 0,
    gripShare: 0,
    bumpRad: 0,
    charge: 0,
    sensorNoise: 0,
  });
  const levers = leversOf(robot, scatter).filter(({ shifts }) => shifts);
  const none: Adjustments = Object.fromEntries(levers.map(({ key }) => [key, { width: 0, shift: 0 }]));
  const run = (adjustments: Adjustments) => {
    const rehearsal = new Rehearsal(runnable, { seed: 1, ideal: false, scatter, adjustments });
    while (!rehearsal.advance(1000));
    const { trace, summary } = rehearsal.result();
    return { trace, steps: summary.steps };
  };
  const base = run(none);
  return levers
    .map(({ key, words }): Worth => {
      const moved = run({ ...none, [key]: { width: 0, shift: 1 } });
      const { end } = compareRuns(base, moved);
      const far = farthest(base, moved);
      return {
        key,
        words,
        procedure: procedureFor(key),
        endM: end ? Math.sqrt(end.alongM * end.alongM + end.asideM * end.asideM) : 0,
        endRad: end?.turnedRad ?? 0,
        ...far,
      };
    })
    .sort((a, b) => b.mostM - a.mostM);
}

type Run = Parameters<typeof compareRuns>[0];

/** Over the ends of all steps that both came to. */
function farthest(base: Run, moved: Run): { readonly mostM: number; readonly step: string } {
  const others = new Map(moved.steps.map((step) => [`${step.step}/${step.pass}`, step]));
  let mostM = 0;
  let step = "";
  for (const one of base.steps) {
    const other = others.get(`${one.step}/${one.pass}`);
    const [a, b] = [poseAt(base.trace, one.endMs), other ? poseAt(moved.trace, other.endMs) : null];
    if (!a || !b) continue;
    const { alongM, asideM } = poseDifference(a, b);
    const distance = Math.sqrt(alongM * alongM + asideM * asideM);
    if (distance > mostM) {
      mostM = distance;
      step = one.step;
    }
  }
  return { mostM, step };
}
