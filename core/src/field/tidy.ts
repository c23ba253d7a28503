// Numbers of drawings as people can read them: lengths to a hundredth of a millimetre, angles to a hundred-thousandth
// of a radian.

const PER_UNIT = 1e5;

/** The nearest hundred-thousandth. */
function tidyNumber(value: number): number {
  return Number.isFinite(value) ? Math.floor(value * PER_UNIT + 0.5) / PER_UNIT : value;
}

/** A value of plain data with every number made tidy. */
export function tidyNumbers<T>(value: T): T {
  if (typeof value === "number") return (Number.isInteger(value) ? value : tidyNumber(value)) as T;
  if (Array.isArray(value)) return value.map(tidyNumbers) as T;
  if (typeof value === "object" && value !== null)
    return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, tidyNumbers(one)])) as T;
  return value;
}
