// Estimators of wheels and track width, on plain numbers: SI, counter-clockwise positive, y to the left.
//
// Sources: travel, curvature and spin are plane geometry of a two-wheel drive; the square is J. Borenstein and
// L. Feng, "Measurement and correction of systematic odometry errors in mobile robots", IEEE Transactions on
// Robotics and Automation 12 (1996), with the signs of a start facing +x.
import { cos, PI, sin } from "../math/trig.js";
import { deviation, type Estimated, estimated, mean, meanOf } from "./statistics.js";

/** Travel of one wheel turn from drives straight: the sum of all distances over the sum of all turns. */
export function travelPerTurn(runs: readonly { readonly distanceM: number; readonly turns: number }[]): Estimated {
  const turns = runs.reduce((sum, run) => sum + run.turns, 0);
  const distance = runs.reduce((sum, run) => sum + run.distanceM, 0);
  const each = meanOf(runs.map((run) => run.distanceM / run.turns));
  const value = distance / turns;
  const shift = value - each.value;
  return {
    ...each,
    value,
    low: each.low === null ? null : each.low + shift,
    high: each.high === null ? null : each.high + shift,
  };
}

/** Curvature of an arc that begins along x and ends `alongM` ahead and `asideM` to the left, 1/m. */
export function curvatureOf(alongM: number, asideM: number): number {
  return (2 * asideM) / (alongM * alongM + asideM * asideM);
}

/** How much further the right wheel rolls than the left, D_right / D_left, for equal turns on a curve. */
export function wheelRatio(curvature: number, trackWidthM: number): number {
  const half = (curvature * trackWidthM) / 2;
  return (1 + half) / (1 - half);
}

export interface StraightRun {
  readonly alongM: number;
  readonly asideM: number;
  /** Turns of the right wheel over those of the left; 1 when they turned alike. */
  readonly turnsRatio: number;
}

/** D_right / D_left from drives straight ahead. */
export function straightness(runs: readonly StraightRun[], trackWidthM: number): Estimated {
  return meanOf(
    runs.map(({ alongM, asideM, turnsRatio }) => wheelRatio(curvatureOf(alongM, asideM), trackWidthM) / turnsRatio),
  );
}

/** Factors for the left and the right wheel that keep their mean: 2/(E_d + 1) and 2/(1/E_d + 1). */
export function sideFactors(ratio: number): { readonly left: number; readonly right: number } {
  return { left: 2 / (ratio + 1), right: 2 / (1 / ratio + 1) };
}

/** Track width from spins: b = b0 · asked / turned, with the turn the wheels made by the old width. */
export function spinWidth(
  runs: readonly { readonly reckonedRad: number; readonly turnedRad: number }[],
  trackWidthM: number,
): Estimated {
  return meanOf(runs.map(({ reckonedRad, turnedRad }) => (trackWidthM * reckonedRad) / turnedRad));
}

/** Return error of one square: true place less reckoned place, start facing +x. */
interface ReturnError {
  readonly xM: number;
  readonly yM: number;
}

interface PaperSquare {
  readonly clockwise: ReturnError;
  readonly counterClockwise: ReturnError;
  readonly alphaRad: number;
  readonly betaRad: number;
  /** Ratio of actual to nominal track width, and of right to left wheel. */
  readonly widthFactor: number;
  readonly wheelRatio: number;
  /** The larger distance of both centres of gravity from the start, m. */
  readonly worstM: number;
}

function centre(errors: readonly ReturnError[]): ReturnError {
  return { xM: mean(errors.map((e) => e.xM)), yM: mean(errors.map((e) => e.yM)) };
}

const distance = (e: ReturnError) => Math.sqrt(e.xM * e.xM + e.yM * e.yM);

/**
 * The paper's figures from squares both ways round. Holds for small angles only: with long sides and very unequal
 * wheels use fitSquares.
 * @param sideM - length of the square's side
 * @throws RangeError without squares of both ways
 */
export function paperSquare(
  clockwise: readonly ReturnError[],
  counterClockwise: readonly ReturnError[],
  sideM: number,
  trackWidthM: number,
): PaperSquare {
  if (clockwise.length === 0 || counterClockwise.length === 0)
    throw new RangeError("the square test needs squares both ways round");
  const cw = centre(clockwise);
  const ccw = centre(counterClockwise);
  const alpha = ((cw.xM + ccw.xM) / (-4 * sideM) + (cw.yM - ccw.yM) / (-4 * sideM)) / 2;
  const beta = ((cw.xM - ccw.xM) / (-4 * sideM) + (cw.yM + ccw.yM) / (-4 * sideM)) / 2;
  const s = sin(beta / 2);
  // R = (L/2) / sin(β/2); straight wheels have none.
  const inverseRadius = (2 * s) / sideM;
  const half = (trackWidthM * inverseRadius) / 2;
  return {
    clockwise: cw,
    counterClockwise: ccw,
    alphaRad: alpha,
    betaRad: beta,
    widthFactor: PI / 2 / (PI / 2 - alpha),
    wheelRatio: (1 + half) / (1 - half),
    worstM: Math.max(distance(cw), distance(ccw)),
  };
}

const ROUNDS = 12;

/** One recorded square: wheel travel by the old constants, sample by sample, and where the tape found the end. */
interface RecordedSquare {
  /** [left, right] interleaved increments, m. */
  readonly travelM: readonly number[];
  readonly endXM: number;
  readonly endYM: number;
}

/**
 * End of a drive from its wheel travel, from the origin facing +x; every sample a circular arc.
 * @param ratio - factor on right over left wheel, their mean kept
 * @returns [x m, y m, heading rad]
 */
export function replay(travelM: readonly number[], ratio: number, trackWidthM: number): [number, number, number] {
  const { left, right } = sideFactors(ratio);
  let x = 0;
  let y = 0;
  let heading = 0;
  for (let i = 0; i + 1 < travelM.length; i += 2) {
    const l = (travelM[i] as number) * left;
    const r = (travelM[i + 1] as number) * right;
    const turned = (r - l) / trackWidthM;
    const middle = heading + turned / 2;
    // Chord of the arc: its length shrinks with the angle by sin(t/2)/(t/2), to fourth order.
    const t2 = (turned * turned) / 24;
    const chord = ((l + r) / 2) * (1 - t2 + 0.3 * t2 * t2);
    x += chord * cos(middle);
    y += chord * sin(middle);
    heading += turned;
  }
  return [x, y, heading];
}

/**
 * Wheel ratio with which a recorded drive ends as far aside as the tape found it: holds whenever along the way the
 * wheels turned unequally, at the start above all. Newton's method on the replay.
 * @returns null when no ratio near 1 does
 */
export function ratioOfRecorded(travelM: readonly number[], asideM: number, trackWidthM: number): number | null {
  const off = (ratio: number) => replay(travelM, ratio, trackWidthM)[1] - asideM;
  let ratio = 1;
  for (let round = 0; round < ROUNDS; round += 1) {
    const now = off(ratio);
    const slope = (off(ratio + 1e-5) - now) / 1e-5;
    if (slope === 0) return null;
    const step = now / slope;
    ratio -= step;
    if (Math.abs(step) < 1e-10) break;
  }
  return ratio > 0.7 && ratio < 1.4 ? ratio : null;
}

interface SquareFit {
  readonly wheelRatio: Estimated;
  readonly trackWidthM: Estimated;
  /** Standard deviation of what the fit leaves, m. */
  readonly residualM: number;
  /** Mean return error of both ways before and after, the larger of the two, m. */
  readonly worstBeforeM: number;
  readonly worstAfterM: number;
}

/**
 * Wheel ratio and track width that explain all recorded squares together: Gauss-Newton on the replayed ends, both
 * coordinates, equal weights.
 * @returns null when the squares do not determine both
 */
export function fitSquares(squares: readonly RecordedSquare[], trackWidthM: number): SquareFit | null {
  let logRatio = 0;
  let width = trackWidthM;
  const step = { ratio: 1e-5, width: trackWidthM * 1e-5 };
  const off = (ratio: number, b: number) =>
    squares.flatMap(({ travelM, endXM, endYM }) => {
      const [x, y] = replay(travelM, ratio, b);
      return [x - endXM, y - endYM];
    });
  const before = off(1, trackWidthM);
  let a11 = 0;
  let a12 = 0;
  let a22 = 0;
  for (let round = 0; round < ROUNDS; round += 1) {
    const now = off(1 + logRatio, width);
    const byRatio = off(1 + logRatio + step.ratio, width).map((v, i) => (v - (now[i] as number)) / step.ratio);
    const byWidth = off(1 + logRatio, width + step.width).map((v, i) => (v - (now[i] as number)) / step.width);
    a11 = dot(byRatio, byRatio);
    a12 = dot(byRatio, byWidth);
    a22 = dot(byWidth, byWidth);
    const determinant = a11 * a22 - a12 * a12;
    if (!(determinant > 1e-12 * a11 * a22)) return null;
    const b1 = -dot(byRatio, now);
    const b2 = -dot(byWidth, now);
    const dRatio = (a22 * b1 - a12 * b2) / determinant;
    const dWidth = (a11 * b2 - a12 * b1) / determinant;
    logRatio += dRatio;
    width += dWidth;
    if (Math.abs(dRatio) < 1e-10 && Math.abs(dWidth) < 1e-10 * trackWidthM) break;
  }
  if (!(width > 0.2 * trackWidthM && width < 5 * trackWidthM && Math.abs(logRatio) < 0.3)) return null;
  const after = off(1 + logRatio, width);
  const freedom = after.length - 2;
  const residual = freedom > 0 ? Math.sqrt(dot(after, after) / freedom) : 0;
  const determinant = a11 * a22 - a12 * a12;
  const { length } = squares;
  return {
    wheelRatio: estimated(1 + logRatio, residual * Math.sqrt(a22 / determinant), length, freedom),
    trackWidthM: estimated(width, residual * Math.sqrt(a11 / determinant), length, freedom),
    residualM: residual,
    worstBeforeM: worst(squares, before),
    worstAfterM: worst(squares, after),
  };
}

function dot(a: readonly number[], b: readonly number[]): number {
  return a.reduce((sum, value, i) => sum + value * (b[i] as number), 0);
}

/** The larger distance of both ways' centres of gravity from nothing. */
function worst(squares: readonly RecordedSquare[], off: readonly number[]): number {
  const ways = [1, -1].map((way) => {
    const errors = squares.flatMap(({ travelM }, i) =>
      wayOf(travelM) === way ? [{ xM: off[2 * i] as number, yM: off[2 * i + 1] as number }] : [],
    );
    return errors.length === 0 ? 0 : distance(centre(errors));
  });
  return Math.max(...ways);
}

/** 1 for counter-clockwise, −1 for clockwise. */
export function wayOf(travelM: readonly number[]): 1 | -1 {
  let turned = 0;
  for (let i = 0; i + 1 < travelM.length; i += 2) turned += (travelM[i + 1] as number) - (travelM[i] as number);
  return turned >= 0 ? 1 : -1;
}

/** Scale of a gyro, true over read. */
export function gyroScale(runs: readonly { readonly trueRad: number; readonly readRad: number }[]): Estimated {
  // What drifts at rest adds to the reading one way round and takes from it the other: each way has its own mean,
  // the scale lies in the middle, and the scatter is that within each way.
  const sides = [1, -1].map((way) =>
    runs.filter(({ trueRad }) => trueRad * way > 0).map((run) => run.trueRad / run.readRad),
  );
  const [left, right] = sides as [number[], number[]];
  if (left.length < 2 || right.length < 2) return meanOf([...left, ...right]);
  const freedom = runs.length - 2;
  const squares = sides.reduce((sum, side) => sum + deviation(side) * deviation(side) * (side.length - 1), 0);
  const error = Math.sqrt((squares / freedom) * (1 / left.length + 1 / right.length)) / 2;
  return estimated((mean(left) + mean(right)) / 2, error, runs.length, freedom);
}

/** A full turn's error for an error of the track width, rad. */
export function turnError(trackWidthM: Estimated): number | null {
  return trackWidthM.standardError === null ? null : (2 * PI * trackWidthM.standardError) / trackWidthM.value;
}
