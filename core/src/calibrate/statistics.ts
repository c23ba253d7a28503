// Means, intervals and lines through points: what every estimator is made of. Two-sided 95 % intervals by
// Student's t, named so wherever they are shown.

export interface Estimated {
  readonly value: number;
  /** One standard error; null with fewer than three rows, for then nothing is known of the scatter. */
  readonly standardError: number | null;
  readonly low: number | null;
  readonly high: number | null;
  readonly count: number;
}

/** Two-sided 95 % quantiles of Student's t for 1 to 30 degrees of freedom. Source: Abramowitz and Stegun, table 26.10. */
const T95 = [
  12.706, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228, 2.201, 2.179, 2.16, 2.145, 2.131, 2.12, 2.11,
  2.101, 2.093, 2.086, 2.08, 2.074, 2.069, 2.064, 2.06, 2.056, 2.052, 2.048, 2.045, 2.042,
];

/** @param freedom - degrees of freedom, >= 1 @throws RangeError below 1 */
export function studentT95(freedom: number): number {
  if (!(freedom >= 1)) throw new RangeError(`Student's t needs at least one degree of freedom, not ${freedom}`);
  const whole = Math.floor(freedom);
  if (whole <= T95.length) return T95[whole - 1] as number;
  // Cornish-Fisher, first terms: within 0.0002 of the table beyond 30.
  const z = 1.959964;
  const z3 = z * z * z;
  return z + (z3 + z) / (4 * freedom) + (5 * z3 * z * z + 16 * z3 + 3 * z) / (96 * freedom * freedom);
}

export function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}

/** Standard deviation with n − 1; 0 for fewer than two values. */
export function deviation(values: readonly number[]): number {
  if (values.length < 2) return 0;
  const middle = mean(values);
  const squares = values.reduce((sum, value) => sum + (value - middle) * (value - middle), 0);
  return Math.sqrt(squares / (values.length - 1));
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const half = Math.floor(sorted.length / 2);
  return sorted.length % 2 === 1
    ? (sorted[half] as number)
    : ((sorted[half - 1] as number) + (sorted[half] as number)) / 2;
}

/** Value with its error and 95 % interval. @param freedom - degrees of freedom of the error */
export function estimated(value: number, standardError: number, count: number, freedom: number): Estimated {
  if (count < 3 || freedom < 1) return { value, standardError: null, low: null, high: null, count };
  const reach = studentT95(freedom) * standardError;
  return { value, standardError, low: value - reach, high: value + reach, count };
}

/** The mean of repeated measurements. @throws RangeError without any */
export function meanOf(values: readonly number[]): Estimated {
  if (values.length === 0) throw new RangeError("there is no mean of nothing");
  return estimated(mean(values), deviation(values) / Math.sqrt(values.length), values.length, values.length - 1);
}

/**
 * The same value with an error from elsewhere added in quadrature; the interval grows likewise.
 * @param otherReach - half the other error's own 95 % interval, in its standard errors: Student's t of its rows
 */
export function widened(from: Estimated, otherError: number, otherReach = 2): Estimated {
  const { value, standardError, low, high } = from;
  if (standardError === null || low === null || high === null) return from;
  const whole = Math.sqrt(standardError * standardError + otherError * otherError);
  const reach = (end: number) => {
    const half = Math.abs(end - value);
    return Math.sqrt(half * half + otherReach * otherReach * otherError * otherError);
  };
  return { ...from, standardError: whole, low: value - reach(low), high: value + reach(high) };
}

/** Another quantity that follows from an estimated one; the interval's ends follow too. */
export function through(from: Estimated, map: (value: number) => number): Estimated {
  const value = map(from.value);
  if (from.standardError === null || from.low === null || from.high === null)
    return { value, standardError: null, low: null, high: null, count: from.count };
  const [a, b] = [map(from.low), map(from.high)];
  const slope = Math.abs(map(from.value + from.standardError / 2) - map(from.value - from.standardError / 2));
  return { value, standardError: slope, low: Math.min(a, b), high: Math.max(a, b), count: from.count };
}

/** Scaled median deviations beyond which a row is offered for striking. */
const OUTLIER = 3.5;
/** Makes the median deviation of normal scatter its standard deviation. */
const MAD_SCALE = 1.4826;

/**
 * Which values lie far from the others: more than 3.5 scaled median deviations from the median, and more than
 * `least`, so that five equal readings do not make a sixth suspicious for a rounding.
 * @returns indices
 */
export function outliers(values: readonly number[], least = 0): number[] {
  if (values.length < 4) return [];
  const middle = median(values);
  const spread = MAD_SCALE * median(values.map((value) => Math.abs(value - middle)));
  const reach = Math.max(least, OUTLIER * spread);
  return values.flatMap((value, i) => (Math.abs(value - middle) > reach && reach > 0 ? [i] : []));
}

export interface FittedLine {
  readonly slope: number;
  readonly intercept: number;
  readonly slopeError: number;
  readonly interceptError: number;
  /** Standard deviation of the points about the line. */
  readonly residual: number;
  /** Share of the scatter the line explains. */
  readonly rSquared: number;
  readonly count: number;
}

/** What a fitted line says at an x, with its own error there. */
export function lineAt(line: FittedLine, xs: readonly number[], x: number): Estimated {
  const middle = mean(xs);
  const sxx = xs.reduce((sum, one) => sum + (one - middle) * (one - middle), 0);
  const error = line.residual * Math.sqrt(1 / line.count + ((x - middle) * (x - middle)) / sxx);
  return estimated(line.intercept + line.slope * x, error, line.count, line.count - 2);
}

/** Least squares line y = intercept + slope·x. @returns null for fewer than two different x */
export function fitLine(points: readonly (readonly [x: number, y: number])[]): FittedLine | null {
  const n = points.length;
  if (n < 2) return null;
  const mx = mean(points.map(([x]) => x));
  const my = mean(points.map(([, y]) => y));
  let sxx = 0;
  let sxy = 0;
  let syy = 0;
  for (const [x, y] of points) {
    sxx += (x - mx) * (x - mx);
    sxy += (x - mx) * (y - my);
    syy += (y - my) * (y - my);
  }
  if (sxx === 0) return null;
  const slope = sxy / sxx;
  const left = Math.max(0, syy - slope * sxy);
  const residual = n > 2 ? Math.sqrt(left / (n - 2)) : 0;
  return {
    slope,
    intercept: my - slope * mx,
    slopeError: residual / Math.sqrt(sxx),
    interceptError: residual * Math.sqrt(1 / n + (mx * mx) / sxx),
    residual,
    rSquared: syy === 0 ? 1 : 1 - left / syy,
    count: n,
  };
}
