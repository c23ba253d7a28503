// Numbers spread evenly over a range. fast-check's own doubles are spread evenly over the bits: half of those from
// -1 to 1 are nearer to nothing than 1e-150, and a scene made of them stands still.
import fc from "fast-check";

const STEPS = 1 << 30;

/** A number from `min` to `max`, every part of the range as likely; its ends are tried too. */
export function evenly(min: number, max: number): fc.Arbitrary<number> {
  return fc.integer({ min: 0, max: STEPS }).map((step) => min + ((max - min) * step) / STEPS);
}
