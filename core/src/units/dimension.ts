// Dimensions as exponents of five bases, so that any product or quotient of quantities has one.
// Number and share (%) are both the empty dimension.

/** Exponents of length, angle, time, voltage, mass. */
export interface Dimension {
  readonly length: number;
  readonly angle: number;
  readonly time: number;
  readonly voltage: number;
  readonly mass: number;
}

function dimension(length: number, angle: number, time: number, voltage = 0, mass = 0): Dimension {
  return { length, angle, time, voltage, mass };
}

export const NUMBER = dimension(0, 0, 0);
export const LENGTH = dimension(1, 0, 0);
export const ANGLE = dimension(0, 1, 0);
export const TIME = dimension(0, 0, 1);
export const SPEED = dimension(1, 0, -1);
export const TURN_RATE = dimension(0, 1, -1);
export const ACCELERATION = dimension(1, 0, -2);
export const TURN_ACCELERATION = dimension(0, 1, -2);
export const VOLTAGE = dimension(0, 0, 0, 1);
/** An ampere is a newton metre a second for each volt. */
export const CURRENT = dimension(2, 0, -3, -1, 1);
export const FREQUENCY = dimension(0, 0, -1);
export const MASS = dimension(0, 0, 0, 0, 1);
export const FORCE = dimension(1, 0, -2, 0, 1);

export function sameDimension(a: Dimension, b: Dimension): boolean {
  return (
    a.length === b.length && a.angle === b.angle && a.time === b.time && a.voltage === b.voltage && a.mass === b.mass
  );
}

export function timesDimension(a: Dimension, b: Dimension): Dimension {
  return dimension(a.length + b.length, a.angle + b.angle, a.time + b.time, a.voltage + b.voltage, a.mass + b.mass);
}

export function overDimension(a: Dimension, b: Dimension): Dimension {
  return dimension(a.length - b.length, a.angle - b.angle, a.time - b.time, a.voltage - b.voltage, a.mass - b.mass);
}

/** Square root of a dimension, or null when an exponent is odd. */
export function rootDimension(a: Dimension): Dimension | null {
  const halves = [a.length / 2, a.angle / 2, a.time / 2, a.voltage / 2, a.mass / 2] as const;
  return halves.every(Number.isInteger) ? dimension(...halves) : null;
}

const NAMED: readonly (readonly [Dimension, string])[] = [
  [NUMBER, "a number"],
  [LENGTH, "a length"],
  [ANGLE, "an angle"],
  [TIME, "a time"],
  [SPEED, "a speed"],
  [TURN_RATE, "a turning rate"],
  [ACCELERATION, "an acceleration"],
  [TURN_ACCELERATION, "a turning acceleration"],
  [VOLTAGE, "a voltage"],
  [CURRENT, "a current"],
  [FREQUENCY, "a pitch"],
  [MASS, "a mass"],
  [FORCE, "a force"],
];

/** Words for a dimension, with its article: "a length". */
export function dimensionWords(d: Dimension): string {
  return NAMED.find(([known]) => sameDimension(known, d))?.[1] ?? "a mixed quantity";
}
