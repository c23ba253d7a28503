// Wheels that follow a hand: towards what is wanted, no faster than the slew lets them.
import type { DriveControl } from "../control/drive.js";
import { approach, type Motion } from "../control/motions.js";
import { switched } from "./mapping.js";

/** What the sticks ask for right now. */
interface HandWish {
  /** Speeds of the sides, m/s; of a car type both are its speed. */
  leftMS: number;
  rightMS: number;
  /** Speed to the left, m/s: for drives that slide. */
  asideMS: number;
  /** Gain of speed allowed, m/s²; 0 for any. Slowing down may be twice as quick: stopping must never wait. */
  rampMS2: number;
  /** For drivers that are only on or off: share of the ceiling from which a side is on; 0 for smooth drivers. */
  switching: number;
  ceilingMS: number;
}

/** Speeds that lie this near are the same, m/s: a board's numbers have seven digits. */
const ROUNDING_MS = 1e-5;

/** @param most - change allowed while gaining speed, m/s; 0 for any */
export function slewed(speed: number, wish: number, most: number): number {
  if (most <= 0) return wish;
  const slowing = speed * wish < 0 || Math.abs(wish) < Math.abs(speed);
  // Slowing through zero is slowing only up to zero.
  const target = slowing && speed * wish < 0 ? 0 : wish;
  const change = slowing ? 2 * most : most;
  // What is left after whole steps is rounding: it must not cost a tick.
  return Math.abs(target - speed) <= change + ROUNDING_MS ? target : approach(speed, target, change);
}

export class HandMotion implements Motion {
  readonly expectedSec = null;
  readonly timed = false;
  readonly wish: HandWish = { leftMS: 0, rightMS: 0, asideMS: 0, rampMS2: 0, switching: 0, ceilingMS: 1 };
  private leftMS = 0;
  private rightMS = 0;
  private asideMS = 0;
  private onLeft = 0;
  private onRight = 0;

  /** Begins at the speeds it has. */
  begin(drive: DriveControl): void {
    if (drive.model.mixing) {
      const across = (drive.turnRateRadS * drive.model.trackWidthM) / 2;
      this.leftMS = drive.speedMS - across;
      this.rightMS = drive.speedMS + across;
      this.asideMS = drive.asideMS;
      return;
    }
    this.leftMS = drive.left.speedMS;
    this.rightMS = drive.right.speedMS;
  }

  tick(drive: DriveControl, dt: number): boolean {
    const { wish } = this;
    if (wish.switching > 0) {
      this.onLeft = switched(wish.leftMS / wish.ceilingMS, this.onLeft, wish.switching);
      this.onRight = switched(wish.rightMS / wish.ceilingMS, this.onRight, wish.switching);
      if (this.onLeft === 0 && this.onRight === 0) drive.release("brake");
      else drive.power(this.onLeft, this.onRight);
      return false;
    }
    this.leftMS = slewed(this.leftMS, wish.leftMS, wish.rampMS2 * dt);
    this.rightMS = slewed(this.rightMS, wish.rightMS, wish.rampMS2 * dt);
    this.asideMS = drive.model.mixing ? slewed(this.asideMS, wish.asideMS, wish.rampMS2 * dt) : 0;
    if (this.leftMS === 0 && this.rightMS === 0 && this.asideMS === 0) drive.release("brake");
    else if (drive.model.mixing) {
      const rate = (this.rightMS - this.leftMS) / drive.model.trackWidthM;
      drive.roam([(this.leftMS + this.rightMS) / 2, this.asideMS, rate], 1);
    } else {
      drive.sides(this.leftMS, this.rightMS, 0, 0, 1);
      drive.wantedMS = (this.leftMS + this.rightMS) / 2;
      drive.wantedRadS = (this.rightMS - this.leftMS) / drive.model.trackWidthM;
    }
    return false;
  }
}
