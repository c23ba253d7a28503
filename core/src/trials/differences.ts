// How two runs of one mission differ, step by step: where each step ended, seen from where it began, so that what
// an early step does wrong is not counted again in all that follow.
import { composePoses, inversePose, type Pose, wrapAngle } from "../geometry/pose.js";
import { PI } from "../math/trig.js";
import { type Trace, traceColumn } from "./trace.js";

interface ComparedRun {
  readonly trace: Trace;
  readonly steps: readonly {
    readonly step: string;
    readonly pass: number;
    readonly text: string;
    readonly line: number;
    readonly startMs: number;
    readonly endMs: number;
    readonly endedBy: string;
    /** False for one that takes no time, such as `set`. */
    readonly timed: boolean;
  }[];
}

interface StepDifference {
  readonly step: string;
  readonly pass: number;
  readonly text: string;
  readonly line: number;
  /** Second run less the first, in the frame of the step's own begin: along, to the left, turned to the left. */
  readonly alongM: number;
  readonly asideM: number;
  readonly turnedRad: number;
  readonly longerMs: number;
  /** How each ended, where that differs; empty otherwise. */
  readonly ended: string;
}

export interface RunDifference {
  readonly steps: readonly StepDifference[];
  /** The first step that went clearly otherwise; null when none did. */
  readonly first: StepDifference | null;
  /** Steps one of the two never came to, as written. */
  readonly missing: readonly string[];
  /** End of the second run seen from the end of the first; null without places in the traces. */
  readonly end: { readonly alongM: number; readonly asideM: number; readonly turnedRad: number } | null;
}

/** From here on a difference is worth a word. */
const NOTABLE = { distanceM: 0.01, angleRad: PI / 90, timeMs: 500 } as const;

/** @returns the pose a trace has at a time, clipped to its ends; null without places */
export function poseAt(trace: Trace, ms: number): Pose | null {
  const [x, y, heading] = [traceColumn(trace, "x"), traceColumn(trace, "y"), traceColumn(trace, "heading")];
  if (!x || !y || !heading || x.length === 0) return null;
  const i = Math.max(0, Math.min(x.length - 1, Math.floor(ms / trace.tickMs + 0.5)));
  return { xM: x[i] as number, yM: y[i] as number, headingRad: heading[i] as number };
}

function moved(run: ComparedRun, startMs: number, endMs: number): Pose | null {
  const [start, end] = [poseAt(run.trace, startMs), poseAt(run.trace, endMs)];
  return start && end ? composePoses(inversePose(start), end) : null;
}

const keyOf = (step: { step: string; pass: number }) => `${step.step}/${step.pass}`;

/** @param first - what was expected; @param second - what came of it */
export function compareRuns(first: ComparedRun, second: ComparedRun): RunDifference {
  const others = new Map(second.steps.map((step) => [keyOf(step), step]));
  const steps = first.steps.flatMap((step): StepDifference[] => {
    const other = others.get(keyOf(step));
    if (!other || (step.endMs === step.startMs && other.endMs === other.startMs)) return [];
    const a = moved(first, step.startMs, step.endMs);
    const b = moved(second, other.startMs, other.endMs);
    return [
      {
        step: step.step,
        pass: step.pass,
        text: step.text,
        line: step.line,
        alongM: a && b ? b.xM - a.xM : 0,
        asideM: a && b ? b.yM - a.yM : 0,
        turnedRad: a && b ? b.headingRad - a.headingRad : 0,
        longerMs: other.endMs - other.startMs - (step.endMs - step.startMs),
        ended: step.endedBy === other.endedBy ? "" : `ended by "${other.endedBy}" instead of "${step.endedBy}"`,
      },
    ];
  });
  const had = new Set(first.steps.map(keyOf));
  // A board tells only the steps that take time: then the others are not missed.
  const tellsAll = [first, second].every((run) => run.steps.some(({ timed }) => !timed));
  const missing = [
    ...first.steps.filter((step) => !others.has(keyOf(step))),
    ...second.steps.filter((step) => !had.has(keyOf(step))),
  ]
    .filter(({ timed }) => timed || tellsAll)
    .map(({ text }) => text);
  return { steps, missing, first: steps.find(isNotable) ?? null, end: endOf(first, second) };
}

export function isNotable(step: StepDifference): boolean {
  return (
    Math.sqrt(step.alongM * step.alongM + step.asideM * step.asideM) > NOTABLE.distanceM ||
    Math.abs(step.turnedRad) > NOTABLE.angleRad ||
    Math.abs(step.longerMs) > NOTABLE.timeMs ||
    step.ended !== ""
  );
}

function endOf(first: ComparedRun, second: ComparedRun): RunDifference["end"] {
  const [a, b] = [poseAt(first.trace, Number.POSITIVE_INFINITY), poseAt(second.trace, Number.POSITIVE_INFINITY)];
  return a && b ? poseDifference(a, b) : null;
}

/** Where `there` is, seen from `here`. */
export function poseDifference(
  here: Pose,
  there: Pose,
): { readonly alongM: number; readonly asideM: number; readonly turnedRad: number } {
  const seen = composePoses(inversePose(here), there);
  return { alongM: seen.xM, asideM: seen.yM, turnedRad: wrapAngle(seen.headingRad) };
}

/** "12 mm further, 3 mm to the left, turned 1.2 deg to the right"; "the same" when all is small. */
export function differenceWords(
  { alongM, asideM, turnedRad }: { alongM: number; asideM: number; turnedRad: number },
  smallM = 0.0015,
  smallRad = 0.005,
): string {
  const mm = (metres: number) => `${Math.abs(metres * 1000).toFixed(0)} mm`;
  const words = [
    Math.abs(alongM) > smallM ? `${mm(alongM)} ${alongM > 0 ? "further" : "short"}` : "",
    Math.abs(asideM) > smallM ? `${mm(asideM)} to the ${asideM > 0 ? "left" : "right"}` : "",
    Math.abs(turnedRad) > smallRad
      ? `turned ${Math.abs((turnedRad * 180) / PI).toFixed(1)} deg to the ${turnedRad > 0 ? "left" : "right"}`
      : "",
  ].filter((word) => word !== "");
  return words.length === 0 ? "the same" : words.join(", ");
}
