// A shaft encoder: whole counts by floor of the shaft's angle. It sits on the motor's output shaft, so free play
// in the gears shows as counts without travel each time the drive changes direction.
import { TAU } from "../math/trig.js";

/** Counts at a shaft angle, rad. @param countsPerTurn - of that shaft, > 0 */
export function encoderCounts(shaftAngleRad: number, countsPerTurn: number): number {
  return Math.floor((shaftAngleRad * countsPerTurn) / TAU);
}

/** Free play between a driving and a driven shaft: which flank of the gap the driving one lies on. */
export class GearPlay {
  /** Lead of the driving shaft over the driven one, at the driven shaft, rad: -play/2 .. play/2. */
  leadRad = 0;

  constructor(private readonly playRad: number) {}

  /** @param push - sign of the torque the motor gives; reachRad - how far the free shaft turns in this tick */
  tick(push: number, reachRad: number): void {
    if (this.playRad === 0 || push === 0) return;
    const target = push > 0 ? this.playRad / 2 : -this.playRad / 2;
    const off = target - this.leadRad;
    this.leadRad += Math.max(-reachRad, Math.min(reachRad, off));
  }
}
