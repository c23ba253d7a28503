// A force sensor: how hard its bar is pressed. It settles with a lag, reads no push as none, and no further than its range.
import { exp } from "../math/exponential.js";
import type { RandomStream } from "../math/random.js";

interface ForceTruth {
  readonly settleSec: number;
  readonly noiseN: number;
  readonly rangeN: number;
  readonly periodTicks: number;
}

export class ForceSensor {
  /** Newest reading, N. */
  forceN = 0;
  private settled = 0;
  private ticks: number;

  constructor(
    private readonly truth: ForceTruth,
    private readonly chance: RandomStream | null,
  ) {
    this.ticks = truth.periodTicks - 1;
  }

  /** @param pushN - what presses its bar, mean over the latest step of the world, N */
  tick(pushN: number, tickSec: number): void {
    const { settleSec, noiseN, rangeN, periodTicks } = this.truth;
    // First-order lag: after t it has come 1 - exp(-t / settle) of the way.
    const share = settleSec > 0 ? 1 - exp(-tickSec / settleSec) : 1;
    this.settled += share * (pushN - this.settled);
    this.ticks += 1;
    if (this.ticks % periodTicks !== 0) return;
    const noise = this.chance ? noiseN * this.chance.normal() : 0;
    this.forceN = Math.max(0, Math.min(rangeN, this.settled + noise));
  }
}
