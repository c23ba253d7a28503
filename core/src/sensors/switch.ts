// A bumper, whisker or button: a switch to ground, read as pressed when the line is low. It bounces after each
// change; wired without a pull-up its line floats, and an open switch reads anything.
import type { RandomStream } from "../math/random.js";

interface SwitchTruth {
  /** Push that closes it, N. */
  readonly forceN: number;
  readonly bounceTicks: number;
  readonly pullUp: boolean;
}

/** A floating line picks up hum: it changes its mind about this often a tick. */
const FLOAT_CHANGES = 0.2;

export class SwitchSensor {
  pressed = false;
  private closed = false;
  private bouncing = 0;

  constructor(
    readonly truth: SwitchTruth,
    private readonly chance: RandomStream,
    /** Ideal rehearsals do not bounce; a floating line floats all the same. */
    private readonly noisy: boolean,
  ) {}

  tick(forceN: number): void {
    // Opens at two thirds of the push that closes it.
    const closed = forceN >= this.truth.forceN * (this.closed ? 0.67 : 1) && forceN > 0;
    if (closed !== this.closed) {
      this.closed = closed;
      this.bouncing = this.noisy ? this.truth.bounceTicks : 0;
    }
    if (this.bouncing > 0) {
      this.bouncing -= 1;
      this.pressed = this.chance.uniform() < 0.5;
      return;
    }
    if (closed || this.truth.pullUp) this.pressed = closed;
    else if (this.chance.uniform() < FLOAT_CHANGES) this.pressed = this.chance.uniform() < 0.5;
  }
}
