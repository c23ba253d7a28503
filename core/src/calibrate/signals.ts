// Estimators that look at signals: a gyro at rest, turns by time, power and speed, stopping, light levels, distances.
import { exp, log } from "../math/exponential.js";
import {
  deviation,
  type Estimated,
  estimated,
  type FittedLine,
  fitLine,
  meanOf,
  median,
  through,
} from "./statistics.js";

interface RestReading {
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

interface TimedTurn {
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

interface TimedDrive {
  /** Volts given, the time they were given for, and how far it went. */
  readonly volts: number;
  readonly timeSec: number;
  readonly distanceM: number;
}

interface SpeedAtPower {
  readonly speedPerVolt: Estimated;
  /** Below zero when it rolls on for longer than it takes to start. */
  readonly deadTimeSec: Estimated;
  /** Volts that only overcome friction; null where all drives had the same volts. */
  readonly deadVolts: Estimated | null;
  /** Standard deviation of the drives about the model, m. */
  readonly residualM: number;
}

const GAUSS_NEWTON_ROUNDS = 12;

/**
 * Speed for one volt, dead time and dead volts of distance = k · (volts − V0) · (time − t0), by Gauss-Newton; without
 * drives at different volts V0 stays 0.
 * @returns null for fewer than two times, or drives that went less far for longer
 */
export function speedAtPower(drives: readonly TimedDrive[]): SpeedAtPower | null {
  const first = fitLine(drives.map(({ timeSec, volts, distanceM }) => [timeSec, distanceM / volts]));
  if (!first || first.slope <= 0) return null;
  const volts = drives.map((drive) => drive.volts);
  const bends = drives.length > 3 && Math.max(...volts) > 1.15 * Math.min(...volts);
  let found = [first.slope, -first.intercept / first.slope, 0] as [number, number, number];
  const slopes = ({ volts: v, timeSec: t }: TimedDrive) => {
    const [k, t0, v0] = found;
    return [(v - v0) * (t - t0), -k * (v - v0), bends ? -k * (t - t0) : 0];
  };
  const off = ({ volts: v, timeSec: t, distanceM }: TimedDrive) => {
    const [k, t0, v0] = found;
    return distanceM - k * (v - v0) * (t - t0);
  };
  const size = bends ? 3 : 2;
  let inverse = normalInverse(drives.map(slopes), size);
  for (let round = 0; round < GAUSS_NEWTON_ROUNDS && inverse; round += 1) {
    const right = [0, 1, 2].map((i) => drives.reduce((sum, d) => sum + (slopes(d)[i] as number) * off(d), 0));
    const step = inverse.map((row) => row.reduce((sum, value, i) => sum + value * (right[i] as number), 0));
    found = found.map((value, i) => value + (step[i] ?? 0)) as [number, number, number];
    inverse = normalInverse(drives.map(slopes), size);
  }
  if (!inverse || found[0] <= 0) return null;
  const free = drives.length - size;
  const squares = drives.reduce((sum, drive) => sum + off(drive) * off(drive), 0);
  const residualM = free > 0 ? Math.sqrt(squares / free) : 0;
  const one = (i: number) =>
    estimated(found[i] as number, residualM * Math.sqrt(Math.max(0, inverse?.[i]?.[i] ?? 0)), drives.length, free);
  return { speedPerVolt: one(0), deadTimeSec: one(1), deadVolts: bends ? one(2) : null, residualM };
}

/** Inverse of JᵀJ over the first `size` columns, by Gauss-Jordan. @returns null when it has none */
function normalInverse(rows: readonly (readonly number[])[], size: number): number[][] | null {
  const at = (i: number, j: number) => rows.reduce((sum, row) => sum + (row[i] as number) * (row[j] as number), 0);
  const whole = Array.from({ length: size }, (_, i) => [
    ...Array.from({ length: size }, (_unused, j) => at(i, j)),
    ...Array.from({ length: size }, (_unused, j) => (i === j ? 1 : 0)),
  ]);
  for (let i = 0; i < size; i += 1) {
    const row = whole[i] as number[];
    const pivot = row[i] as number;
    if (Math.abs(pivot) < 1e-15) return null;
    for (let j = 0; j < row.length; j += 1) row[j] = (row[j] as number) / pivot;
    for (const other of whole) {
      if (other === row) continue;
      const share = other[i] as number;
      for (let j = 0; j < row.length; j += 1) other[j] = (other[j] as number) - share * (row[j] as number);
    }
  }
  return whole.map((row) => row.slice(size));
}

export interface Stopping {
  readonly decelerationMS2: Estimated;
  /** Time before it begins to slow down. */
  readonly leadSec: Estimated;
  /** Of distance over speed against speed. */
  readonly line: FittedLine;
}

/** Lead and deceleration of d = lead · v + v² / (2a): d / v is a line over v. @returns null for fewer than two speeds */
export function stopping(stops: readonly { readonly speedMS: number; readonly distanceM: number }[]): Stopping | null {
  const line = fitLine(stops.map(({ speedMS, distanceM }) => [speedMS, distanceM / speedMS]));
  if (!line || line.slope <= 0) return null;
  const slope = estimated(line.slope, line.slopeError, line.count, line.count - 2);
  const lead = estimated(line.intercept, line.interceptError, line.count, line.count - 2);
  return { decelerationMS2: through(slope, (k) => 1 / (2 * Math.max(1e-6, k))), leadSec: lead, line };
}

interface LightLevels {
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

interface PowerRamp {
  /** Duty at which the wheel began to turn, going up, and at which it stopped, going down. */
  readonly upDuty: number | null;
  readonly downDuty: number | null;
  /** Duty at which the lines through both ways meet no speed, and m/s for all of the duty. */
  readonly deadDuty: number;
  readonly slopeMS: number;
  readonly rSquared: number;
}

/** Slower than this the wheel stands, m/s. */
const STANDS_MS = 0.01;
/** Speeds, as shares of the highest, at which the wheel has got used to the ramp's way. */
const BAND = [0.35, 0.8] as const;

/**
 * Power curve of a wheel from a ramp up and down again. The wheel lags behind a ramp, to one side going up and to
 * the other going down: the mean of both lines is where a steady wheel is.
 * @returns null when it did not run clearly both ways
 */
export function powerRamp(duties: readonly number[], speeds: readonly number[]): PowerRamp | null {
  if (duties.length === 0) return null;
  const top = duties.indexOf(Math.max(...duties));
  const last = duties.lastIndexOf(duties[top] as number);
  const most = Math.max(...speeds);
  const points = (from: number, to: number) =>
    duties.slice(from, to).flatMap((duty, i): [number, number][] => {
      const speed = speeds[from + i] as number;
      return duty > 0 && speed > BAND[0] * most && speed < BAND[1] * most ? [[duty, speed]] : [];
    });
  const [up, down] = [fitLine(points(0, top)), fitLine(points(last, duties.length))];
  if (!up || !down || up.count < 20 || down.count < 20 || up.slope <= 0 || down.slope <= 0) return null;
  const still = speeds.findIndex((speed, i) => i > last && speed < STANDS_MS);
  return {
    upDuty: pullAwayDuty(duties, speeds, STANDS_MS),
    downDuty: still < 0 ? null : (duties[still] as number),
    deadDuty: Math.max(0, (-up.intercept / up.slope - down.intercept / down.slope) / 2),
    slopeMS: (up.slope + down.slope) / 2,
    rSquared: Math.min(up.rSquared, down.rSquared),
  };
}

/** Duty at which wheels begin to turn, from a ramp: the first at which `speeds` stays above `least`. */
export function pullAwayDuty(duties: readonly number[], speeds: readonly number[], least: number): number | null {
  for (let i = 0; i + 2 < speeds.length; i += 1)
    if ([0, 1, 2].every((k) => Math.abs(speeds[i + k] as number) > least)) return Math.abs(duties[i] as number);
  return null;
}
