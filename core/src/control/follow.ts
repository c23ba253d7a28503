// Following a line by floor light or a wall by a side eye, and pressing against a wall. A follower drives at its
// speed and turns by what its sensor is off.
//
// Line: a spot ahead of the axle by x sees an error y across the line; turning at rate w moves it by x w, so with
// w = k y the error dies with time constant 1 / (k x), whatever the speed. Wall: the distance d changes with the
// heading against the wall, so its slope over the way is fed back as damping (proportional and derivative).

import type { DriveControl } from "./drive.js";
import { approach, type Motion } from "./motions.js";

export interface FollowOptions {
  readonly speedMS: number;
  readonly rampMS2: number;
  readonly mostDuty: number;
}

/** Natural rate of the closed loop, 1/s, its damping, and the smoothing of the slope, s. */
const WALL = { perSec: 2.4, damping: 1.1, smoothSec: 0.12, mostRad: 0.6 } as const;

export interface WallSense {
  readonly distanceM: () => number;
  readonly seen: () => boolean;
  readonly side: "left" | "right";
  readonly awayM: number;
}

export class FollowWall implements Motion {
  readonly expectedSec = null;
  readonly timed = false;
  private speedMS: number;
  private before: number | null = null;
  private slope = 0;
  private rate = 0;

  constructor(
    drive: DriveControl,
    private readonly sense: WallSense,
    private readonly options: FollowOptions,
  ) {
    this.speedMS = drive.wantedMS;
  }

  tick(drive: DriveControl, dt: number): boolean {
    const { options, sense } = this;
    const was = this.speedMS;
    this.speedMS = approach(this.speedMS, options.speedMS, options.rampMS2 * dt);
    if (sense.seen()) this.steer(sense.distanceM(), dt);
    else this.rate = 0;
    drive.follow(this.speedMS, (this.speedMS - was) / dt, this.rate, 0, 0, 0, options.mostDuty);
    return false;
  }

  /** Left wall: too far means turn left, which is positive. */
  private steer(distanceM: number, dt: number): void {
    const speed = Math.max(0.05, Math.abs(this.speedMS));
    const moved = this.before === null ? 0 : (distanceM - this.before) / dt;
    this.before = distanceM;
    this.slope += (dt / (WALL.smoothSec + dt)) * (moved - this.slope);
    const off = clamp(distanceM - this.sense.awayM, (WALL.mostRad * 2 * WALL.damping * speed) / WALL.perSec);
    const rate = (WALL.perSec * WALL.perSec * off + 2 * WALL.damping * WALL.perSec * this.slope) / speed;
    this.rate = clamp((this.sense.side === "left" ? 1 : -1) * rate, 1.5);
  }
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

function clamp(value: number, most: number): number {
  return Math.max(-most, Math.min(most, value));
}
