// Estimators that look at signals: a gyro at rest, turns by time, power and speed, stopping, light levels, distances.
import { exp, log } from "../math/exponential.js";
import { deviation, type Estimated, estimated, type FittedLine, fitLine, meanOf, median } from "./statistics.js";

export interface RestReading {
  readonly rateRadS: Estimated;
  /** How the rate changes, rad/s for each second; null with fewer than four blocks. */
  readonly driftRadS2: number | null;
  /** The robot was touched: rates of the blocks do not fit one another. */
  readonly moved: boolean;
}

/** A rate this far from the others means somebody moved the robot, rad/s: a fifth of a degree each second. */
const MOVED_RAD_S = 0.0035;

/**
 * Rest drift from headings read at equal times while the robot stands: rates of the blocks between them, averaged.
 * @param headingsRad - at least two, `blockSec` apart
 */
export function gyroRest(headingsRad: readonly number[], blockSec: number): RestReading {
  const rates = headingsRad.slice(1).map((heading, i) => (heading - (headingsRad[i] as number)) / blockSec);
  const middle = median(rates);
  const spread = 1.4826 * median(rates.map((rate) => Math.abs(rate - middle)));
  const moved = rates.some((rate) => Math.abs(rate - middle) > Math.max(MOVED_RAD_S, 8 * spread));
  const line = rates.length >= 4 ? fitLine(rates.map((rate, i) => [i * blockSec, rate])) : null;
  return { rateRadS: meanOf(rates), driftRadS2: line ? line.slope : null, moved };
}

export interface TimedTurn {
  /** Turn rate at that power, and the time before it begins to turn. */
  readonly rateRadS: number;
  readonly deadTimeSec: number;
  readonly line: FittedLine;
  /** One line does not describe the turns: power or floor differ between short and long ones. */
  readonly bent: boolean;
}

/** angle = rate · (time − dead time), from turns of different times. @returns null for fewer than two times */
export function timedTurn(turns: readonly { readonly timeSec: number; readonly angleRad: number }[]): TimedTurn | null {
  const line = fitLine(turns.map(({ timeSec, angleRad }) => [timeSec, angleRad]));
  if (!line || line.slope <= 0) return null;
  const most = Math.max(...turns.map(({ angleRad }) => Math.abs(angleRad)));
  return {
    rateRadS: line.slope,
    deadTimeSec: -line.intercept / line.slope,
    line,
    bent: turns.length > 2 && line.residual > Math.max(0.05, 0.05 * most),
  };
}

/** Time to try for an angle, s. */
export function timeForTurn(turn: TimedTurn, angleRad: number): number {
  return turn.deadTimeSec + angleRad / turn.rateRadS;
}

/** Speed for one volt and dead time, from timed drives: distance = speed·volts·(time − dead time). */
export function speedAtPower(
  drives: readonly { readonly voltSec: number; readonly volts: number; readonly distanceM: number }[],
): { readonly speedPerVolt: Estimated; readonly deadTimeSec: Estimated; readonly line: FittedLine } | null {
  // distance / volts = k · time − k · dead: a line over time.
  const line = fitLine(drives.map(({ voltSec, volts, distanceM }) => [voltSec / volts, distanceM / volts]));
  if (!line || line.slope <= 0) return null;
  const dead = -line.intercept / line.slope;
  const deadError = line.interceptError / line.slope;
  return {
    line,
    speedPerVolt: estimated(line.slope, line.slopeError, line.count, line.count - 2),
    deadTimeSec: estimated(Math.max(0, dead), deadError, line.count, line.count - 2),
  };
}

/** Distance of stopping over the square of the speed: d = lead·v + v²/(2a). */
export function stopping(
  stops: readonly { readonly speedMS: number; readonly distanceM: number }[],
): { readonly decelerationMS2: number; readonly line: FittedLine } | null {
  const line = fitLine(stops.map(({ speedMS, distanceM }) => [speedMS * speedMS, distanceM]));
  return line && line.slope > 0 ? { decelerationMS2: 1 / (2 * line.slope), line } : null;
}

export interface LightLevels {
  readonly dark: Estimated;
  readonly pale: Estimated;
  /** Where both are misread equally often. */
  readonly threshold: number;
  /** Distance of both levels in standard deviations of their scatter. */
  readonly marginSigma: number;
  /** Share of readings on the wrong side. */
  readonly misreads: number;
}

/** Threshold at equal error between two levels: (d·σp + p·σd)/(σd + σp). @throws RangeError for fewer than two of either */
export function lightLevels(dark: readonly number[], pale: readonly number[]): LightLevels {
  if (dark.length < 2 || pale.length < 2) throw new RangeError("two levels need at least two readings of each");
  const [d, p] = [meanOf(dark), meanOf(pale)];
  // A sensor without scatter still has its last digit.
  const [sd, sp] = [Math.max(0.002, deviation(dark)), Math.max(0.002, deviation(pale))];
  const marginSigma = (p.value - d.value) / (sd + sp);
  return {
    dark: d,
    pale: p,
    threshold: (d.value * sp + p.value * sd) / (sd + sp),
    marginSigma,
    misreads: normalTail(marginSigma),
  };
}

/** Share of a normal scatter beyond `z` standard deviations. Source: Abramowitz and Stegun 26.2.17, error below 7.5e-8. */
export function normalTail(z: number): number {
  if (z < 0) return 1 - normalTail(-z);
  const t = 1 / (1 + 0.2316419 * z);
  const density = exp((-z * z) / 2) * 0.3989422804014327;
  return density * t * (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
}

/** Offset and scale of a distance sensor: read = offset + scale · true. */
export function eyeDistance(readings: readonly { readonly trueM: number; readonly readM: number }[]): {
  readonly offsetM: Estimated;
  readonly scale: number;
  readonly scatterM: number;
  readonly line: FittedLine | null;
} {
  const offs = readings.map(({ trueM, readM }) => readM - trueM);
  const line = fitLine(readings.map(({ trueM, readM }) => [trueM, readM]));
  return { offsetM: meanOf(offs), scale: line?.slope ?? 1, scatterM: deviation(offs), line };
}

/** Swings smaller than this share of the step are noise. */
const RINGS_BEYOND = 0.1;

/** Damping and settling of a step answered with overshoot. Source: second-order system, logarithmic decrement. */
export function stepAnswer(
  headings: readonly number[],
  wanted: number,
  tickSec: number,
): { readonly overshoot: number; readonly damping: number; readonly settledSec: number; readonly rings: boolean } {
  const peak = headings.reduce((most, heading) => Math.max(most, heading / wanted), 0);
  const overshoot = Math.max(0, peak - 1);
  const band = 0.05;
  let settled = 0;
  let side = 0;
  let swings = 0;
  for (let i = 0; i < headings.length; i += 1) {
    const off = (headings[i] as number) / wanted - 1;
    if (Math.abs(off) > band) settled = i;
    // A swing goes clearly past on the other side; what noise crosses does not count.
    const now = off > RINGS_BEYOND ? 1 : off < -RINGS_BEYOND ? -1 : 0;
    if (now !== 0 && side !== 0 && now !== side) swings += 1;
    if (now !== 0) side = now;
  }
  const decrement = overshoot > 0.001 ? -log(Math.min(0.999, overshoot)) : 10;
  const damping = decrement / Math.sqrt(9.869604401089358 + decrement * decrement);
  return { overshoot, damping, settledSec: settled * tickSec, rings: swings > 3 };
}

/** Duty at which wheels begin to turn, from a ramp: the first at which `speeds` stays above `least`. */
export function pullAwayDuty(duties: readonly number[], speeds: readonly number[], least: number): number | null {
  for (let i = 0; i + 2 < speeds.length; i += 1)
    if ([0, 1, 2].every((k) => Math.abs(speeds[i + k] as number) > least)) return Math.abs(duties[i] as number);
  return null;
}
