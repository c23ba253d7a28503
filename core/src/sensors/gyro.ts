// A rate gyro: reads the mean turning rate of each period, off by a scale and a rest drift, with noise and a
// range. `scale` is true over read.
import type { RandomStream } from "../math/random.js";

interface GyroTruth {
  readonly scale: number;
  /** For turning clockwise; left out where it is the same. */
  readonly scaleClockwise?: number;
  readonly restRadS: number;
  readonly noiseRadS: number;
  readonly rangeRadS: number;
  readonly periodTicks: number;
  /** Random walk of the rest drift, rad/s for the square root of a second. */
  readonly wanderRadS: number;
}

export class GyroSensor {
  /** Latest delivered reading, rad/s. */
  rateRadS = 0;
  private lastTrueRad: number;
  private ticks = 0;
  private wanderedRadS = 0;

  constructor(
    readonly truth: GyroTruth,
    startHeadingRad: number,
    private readonly chance: RandomStream | null,
  ) {
    this.lastTrueRad = startHeadingRad;
  }

  /** Called once a tick with the true heading. @returns whether a new reading was delivered */
  tick(trueHeadingRad: number, tickSec: number): boolean {
    this.ticks += 1;
    if (this.ticks % this.truth.periodTicks !== 0) return false;
    const period = tickSec * this.truth.periodTicks;
    const { restRadS, noiseRadS, rangeRadS } = this.truth;
    const noise = this.chance ? noiseRadS * this.chance.normal() : 0;
    const turned = trueHeadingRad - this.lastTrueRad;
    const scale = turned < 0 ? (this.truth.scaleClockwise ?? this.truth.scale) : this.truth.scale;
    const read = turned / period / scale + restRadS + this.wander(period) + noise;
    this.lastTrueRad = trueHeadingRad;
    this.rateRadS = Math.max(-rangeRadS, Math.min(rangeRadS, read));
    return true;
  }

  private wander(periodSec: number): number {
    const { wanderRadS } = this.truth;
    if (this.chance && wanderRadS > 0) this.wanderedRadS += wanderRadS * Math.sqrt(periodSec) * this.chance.normal();
    return this.wanderedRadS;
  }
}
