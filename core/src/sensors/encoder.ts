// A shaft encoder: whole counts by floor of the shaft's angle.
import { TAU } from "../math/trig.js";

/** Counts at a shaft angle, rad. @param countsPerTurn - of that shaft, > 0 */
export function encoderCounts(shaftAngleRad: number, countsPerTurn: number): number {
  return Math.floor((shaftAngleRad * countsPerTurn) / TAU);
}
