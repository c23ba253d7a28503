// Pressing against a wall, and what followers are told.

import type { DriveControl } from "./drive.js";
import { approach, type Motion } from "./motions.js";

export interface FollowOptions {
  readonly speedMS: number;
  readonly rampMS2: number;
  readonly mostDuty: number;
}

/** Speed it comes up at, m/s, and how long both sides have to stand, s. */
const PRESS = { speedMS: 0.08, stillMS: 0.006, stillSec: 0.2 } as const;

/** Drives gently until both sides stand still against something: squares the robot up. */
export class Press implements Motion {
  readonly expectedSec = null;
  readonly timed = false;
  private speedMS = 0;
  private stillSec = 0;

  constructor(
    private readonly sign: 1 | -1,
    private readonly mostDuty: number,
  ) {}

  tick(drive: DriveControl, dt: number): boolean {
    this.speedMS = approach(this.speedMS, PRESS.speedMS, 0.3 * dt);
    drive.sides(this.sign * this.speedMS, this.sign * this.speedMS, 0, 0, this.mostDuty);
    drive.wantedMS = this.sign * this.speedMS;
    drive.wantedRadS = 0;
    const still = Math.abs(drive.left.speedMS) < PRESS.stillMS && Math.abs(drive.right.speedMS) < PRESS.stillMS;
    this.stillSec = still && this.speedMS >= PRESS.speedMS ? this.stillSec + dt : 0;
    if (this.stillSec < PRESS.stillSec) return false;
    drive.release("brake");
    return true;
  }
}
