// A tilt sensor: how steep the robot stands, by the pull of gravity. It settles with a lag, so that bumps hardly show, and
// reads no further than its range.
import { exp } from "../math/exponential.js";
import type { RandomStream } from "../math/random.js";
import { atan2 } from "../math/trig.js";
import { GRAVITY } from "../physics/constants.js";

interface TiltTruth {
  readonly settleSec: number;
  readonly noiseRad: number;
  readonly rangeRad: number;
  readonly periodTicks: number;
}

/**
 * Angle of a direction of the robot against the level.
 * @param pullMS2 - pull of gravity along that direction, m/s²; g sin θ down a slope
 * @returns rad; positive where that direction points up
 */
export function tiltRad(pullMS2: number): number {
  const sine = Math.max(-1, Math.min(1, -pullMS2 / GRAVITY));
  return atan2(sine, Math.sqrt(1 - sine * sine));
}

export class TiltSensor {
  /** Newest reading, rad: nose up, and left side up. */
  pitchRad = 0;
  rollRad = 0;
  private pitch = 0;
  private roll = 0;
  private ticks: number;
  private begun = false;

  constructor(
    private readonly truth: TiltTruth,
    private readonly chance: RandomStream | null,
  ) {
    this.ticks = truth.periodTicks - 1;
  }

  /** @param forwardMS2 - pull of gravity along the robot's forward, leftMS2 along its left */
  tick(forwardMS2: number, leftMS2: number, tickSec: number): void {
    const { settleSec, noiseRad, rangeRad, periodTicks } = this.truth;
    // It has settled before it is switched on.
    const share = this.begun && settleSec > 0 ? 1 - exp(-tickSec / settleSec) : 1;
    this.begun = true;
    this.pitch += share * (tiltRad(forwardMS2) - this.pitch);
    this.roll += share * (tiltRad(leftMS2) - this.roll);
    this.ticks += 1;
    if (this.ticks % periodTicks !== 0) return;
    const read = (angle: number) => {
      const noise = this.chance ? noiseRad * this.chance.normal() : 0;
      return Math.max(-rangeRad, Math.min(rangeRad, angle + noise));
    };
    this.pitchRad = read(this.pitch);
    this.rollRad = read(this.roll);
  }
}
