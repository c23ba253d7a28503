// Many rehearsals: how often a mission works with its interval, where each step ends, which step loses runs, how
// long it takes, what it scores, and what would help most. Runs come in as digests, small enough to send about.
import * as z from "zod";
import { mixSeed } from "../math/random.js";
import { atan2, cos, sin } from "../math/trig.js";
import { TICK_MS } from "../physics/constants.js";
import type { RunResult } from "../run/run.js";
import { traceColumn } from "../trials/trace.js";

/** z for 95 %, two-sided. */
const Z95 = 1.959963984540054;
/** Radius that holds 95 % of a normal scatter in the plane: the square root of chi-square with 2 degrees, 5.991. */
const PLANE95 = 2.447746830680816;
/** A step's end this many standard deviations from where successful runs end it is where a run went astray. */
const ASTRAY = 3;

/**
 * Wilson score interval for a success rate (Wilson 1927), 95 %.
 * @returns [low, high], both within 0..1; [0, 1] without runs
 */
export function wilson95(successes: number, runs: number): [number, number] {
  if (runs <= 0) return [0, 1];
  const p = successes / runs;
  const z2 = Z95 * Z95;
  const middle = (p + z2 / (2 * runs)) / (1 + z2 / runs);
  const half = (Z95 * Math.sqrt((p * (1 - p)) / runs + z2 / (4 * runs * runs))) / (1 + z2 / runs);
  // None and all have an end that is exact: rounding must not move it.
  return [successes <= 0 ? 0 : Math.max(0, middle - half), successes >= runs ? 1 : Math.min(1, middle + half)];
}

/** Seed of run `index` of a study. */
export function runSeed(seed: number, index: number): number {
  return mixSeed(seed, index);
}

const stepEndSchema = z.object({
  step: z.string(),
  line: z.number(),
  xM: z.number(),
  yM: z.number(),
  headingRad: z.number(),
});
type StepEnd = z.infer<typeof stepEndSchema>;

/** What a study keeps of one run. */
export const runDigestSchema = z.object({
  index: z.number().int().nonnegative(),
  seed: z.number(),
  success: z.boolean(),
  reason: z.string(),
  durationMs: z.number(),
  score: z.number().nullable(),
  /** The step that stopped it or reached its limit; null when only the goal was missed, or it worked. */
  lostIn: z.string().nullable(),
  /** Where each step ended, in the order they ended last. */
  ends: z.array(stepEndSchema),
});
export type RunDigest = z.infer<typeof runDigestSchema>;

/** Steps whose ends are kept of one run: beyond these a picture of them says nothing. */
const MOST_ENDS = 60;

export function digestRun(result: RunResult, index: number, seed: number): RunDigest {
  const { summary, trace } = result;
  const [x, y, heading] = ["x", "y", "heading"].map((id) => traceColumn(trace, id) ?? new Float32Array(0));
  const ends = new Map<string, StepEnd>();
  for (const { step, line, startMs, endMs, task } of summary.steps) {
    if (endMs === startMs || task !== 0) continue;
    const row = Math.min((x?.length ?? 1) - 1, Math.floor(endMs / TICK_MS + 0.5));
    ends.delete(step);
    if (ends.size < MOST_ENDS)
      ends.set(step, { step, line, xM: x?.[row] ?? 0, yM: y?.[row] ?? 0, headingRad: heading?.[row] ?? 0 });
  }
  const limited = summary.steps.find((step) => step.endedBy === "limit");
  const bound = summary.steps.filter((step) => step.endedBy === "bound").at(-1);
  const lost = summary.success ? null : summary.outcome === "stopped" ? bound : limited;
  return {
    index,
    seed,
    success: summary.success,
    reason: summary.reason,
    durationMs: summary.durationMs,
    score: summary.score,
    lostIn: lost?.step ?? null,
    ends: [...ends.values()],
  };
}

/** Scatter of end places of one step: an ellipse that holds 95 % of the runs. */
const stepScatterSchema = z.object({
  step: z.string(),
  line: z.number(),
  runs: z.number(),
  xM: z.number(),
  yM: z.number(),
  /** Half axes, longer first, and direction of the longer, rad. */
  longM: z.number(),
  shortM: z.number(),
  angleRad: z.number(),
  /** Standard deviation of the heading, rad. */
  headingRad: z.number(),
});
export type StepScatter = z.infer<typeof stepScatterSchema>;

const blameSchema = z.object({
  step: z.string(),
  line: z.number(),
  runs: z.number(),
  /** The most frequent reason. */
  how: z.string(),
});
export type Blame = z.infer<typeof blameSchema>;

export const studySummarySchema = z.object({
  runs: z.number().int().nonnegative(),
  successes: z.number().int().nonnegative(),
  low: z.number(),
  high: z.number(),
  meanScore: z.number().nullable(),
  lowestScore: z.number().nullable(),
  highestScore: z.number().nullable(),
  /** Of successful runs, or of all when none was: ms. */
  medianMs: z.number(),
  slowestMs: z.number(),
  steps: z.array(stepScatterSchema),
  blames: z.array(blameSchema),
});
export type StudySummary = z.infer<typeof studySummarySchema>;

/**
 * Ellipse of a plane scatter from the eigenvalues of its covariance.
 * @param points - at least one; a single one gives an ellipse without size
 */
export function scatterEllipse(points: readonly { readonly xM: number; readonly yM: number }[]): {
  xM: number;
  yM: number;
  longM: number;
  shortM: number;
  angleRad: number;
} {
  const n = points.length;
  const xM = points.reduce((sum, point) => sum + point.xM, 0) / n;
  const yM = points.reduce((sum, point) => sum + point.yM, 0) / n;
  let xx = 0;
  let xy = 0;
  let yy = 0;
  for (const point of points) {
    xx += (point.xM - xM) * (point.xM - xM);
    xy += (point.xM - xM) * (point.yM - yM);
    yy += (point.yM - yM) * (point.yM - yM);
  }
  const by = Math.max(1, n - 1);
  [xx, xy, yy] = [xx / by, xy / by, yy / by];
  const middle = (xx + yy) / 2;
  const apart = Math.sqrt(((xx - yy) / 2) * ((xx - yy) / 2) + xy * xy);
  return {
    xM,
    yM,
    longM: PLANE95 * Math.sqrt(Math.max(0, middle + apart)),
    shortM: PLANE95 * Math.sqrt(Math.max(0, middle - apart)),
    angleRad: atan2(2 * xy, xx - yy) / 2,
  };
}

function scatterOf(ends: readonly StepEnd[]): StepScatter {
  const first = ends[0] as StepEnd;
  const mean = ends.reduce((sum, end) => sum + end.headingRad, 0) / ends.length;
  const spread = ends.reduce((sum, end) => sum + (end.headingRad - mean) * (end.headingRad - mean), 0);
  return {
    step: first.step,
    line: first.line,
    runs: ends.length,
    ...scatterEllipse(ends),
    headingRad: Math.sqrt(spread / Math.max(1, ends.length - 1)),
  };
}

function endsByStep(digests: readonly RunDigest[]): Map<string, StepEnd[]> {
  const byStep = new Map<string, StepEnd[]>();
  for (const digest of digests) {
    for (const end of digest.ends) {
      const list = byStep.get(end.step);
      if (list) list.push(end);
      else byStep.set(end.step, [end]);
    }
  }
  return byStep;
}

/** Distance of an end from a scatter, in standard deviations along its axes; a floor of 2 mm for tiny ones. */
function standardDistance(end: StepEnd, scatter: StepScatter): number {
  const dx = end.xM - scatter.xM;
  const dy = end.yM - scatter.yM;
  const least = 0.002;
  const along = Math.max(least, scatter.longM / PLANE95);
  const across = Math.max(least, scatter.shortM / PLANE95);
  const c = cos(scatter.angleRad);
  const s = sin(scatter.angleRad);
  const u = (c * dx + s * dy) / along;
  const v = (c * dy - s * dx) / across;
  return Math.sqrt(u * u + v * v);
}

/** The step in which a run was lost: the one that stopped it, or the first that ended far from where good runs end it. */
function lostStep(digest: RunDigest, good: ReadonlyMap<string, StepScatter>): string | null {
  if (digest.success) return null;
  if (digest.lostIn !== null) return digest.lostIn;
  for (const end of digest.ends) {
    const scatter = good.get(end.step);
    if (scatter && scatter.runs >= 5 && standardDistance(end, scatter) > ASTRAY) return end.step;
  }
  return digest.ends.at(-1)?.step ?? null;
}

function blamesOf(digests: readonly RunDigest[]): Blame[] {
  const good = new Map<string, StepScatter>();
  for (const [step, ends] of endsByStep(digests.filter((digest) => digest.success))) good.set(step, scatterOf(ends));
  const lost = new Map<string, { line: number; reasons: Map<string, number>; runs: number }>();
  for (const digest of digests) {
    const step = lostStep(digest, good);
    if (step === null) continue;
    const line = digest.ends.find((end) => end.step === step)?.line ?? 0;
    const entry = lost.get(step) ?? { line, reasons: new Map<string, number>(), runs: 0 };
    entry.runs += 1;
    entry.reasons.set(digest.reason, (entry.reasons.get(digest.reason) ?? 0) + 1);
    lost.set(step, entry);
  }
  return [...lost]
    .map(([step, { line, reasons, runs }]) => ({
      step,
      line,
      runs,
      how: [...reasons].sort((a, b) => b[1] - a[1])[0]?.[0] ?? "",
    }))
    .sort((a, b) => b.runs - a.runs);
}

export function summariseStudy(digests: readonly RunDigest[]): StudySummary {
  const successes = digests.filter((digest) => digest.success);
  const [low, high] = wilson95(successes.length, digests.length);
  const scores = digests.flatMap((digest) => (digest.score === null ? [] : [digest.score]));
  const durations = (successes.length > 0 ? successes : digests)
    .map((digest) => digest.durationMs)
    .sort((a, b) => a - b);
  return {
    runs: digests.length,
    successes: successes.length,
    low,
    high,
    meanScore: scores.length > 0 ? scores.reduce((sum, score) => sum + score, 0) / scores.length : null,
    lowestScore: scores.length > 0 ? Math.min(...scores) : null,
    highestScore: scores.length > 0 ? Math.max(...scores) : null,
    medianMs: durations[Math.floor(durations.length / 2)] ?? 0,
    slowestMs: durations.at(-1) ?? 0,
    steps: [...endsByStep(digests).values()].map(scatterOf),
    blames: blamesOf(digests),
  };
}

/** Bins of equal width over values; the width is a round number of the unit. */
export function histogram(values: readonly number[], most = 24): { from: number; to: number; count: number }[] {
  if (values.length === 0) return [];
  const low = Math.min(...values);
  const high = Math.max(...values);
  const width = roundStep(Math.max(1e-9, (high - low) / Math.max(1, most - 1)));
  const first = Math.floor(low / width) * width;
  const count = Math.max(1, Math.floor((high - first) / width) + 1);
  const bins = Array.from({ length: count }, (_, i) => ({
    from: first + i * width,
    to: first + (i + 1) * width,
    count: 0,
  }));
  for (const value of values) {
    const bin = bins[Math.min(count - 1, Math.floor((value - first) / width))];
    if (bin) bin.count += 1;
  }
  return bins;
}

/** The next of 1, 2, 5 times a power of ten. */
function roundStep(step: number): number {
  let power = 1;
  while (power * 10 <= step) power *= 10;
  while (power > step) power /= 10;
  for (const times of [1, 2, 5, 10]) if (times * power >= step - 1e-12) return times * power;
  return 10 * power;
}

/** What one change does to the success rate, all else being dealt the same. */
export interface Help {
  readonly key: string;
  readonly words: string;
  /** Success rates, 0..1: as it is, known exactly, and off by one standard error (null when it has none). */
  readonly now: number;
  readonly exact: number;
  readonly off: number | null;
}

/** The largest gain first; among equals the one that would cost most if it were off. */
export function rankHelps(helps: readonly Help[]): Help[] {
  const gain = (help: Help) => help.exact - help.now;
  const risk = (help: Help) => help.now - (help.off ?? help.now);
  return [...helps].sort((a, b) => gain(b) - gain(a) || risk(b) - risk(a));
}
