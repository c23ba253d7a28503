// Motions of a drive: each is ticked once per control tick until it says it is done.

import type { DriveControl } from "./drive.js";
import { Profile } from "./profile.js";

export interface MotionOptions {
  /** Cruise speed (m/s) or turn rate (rad/s), ramp in the same unit per second. */
  readonly cruise: number;
  readonly ramp: number;
  /** Rolls on into the next step instead of stopping. */
  readonly keep: boolean;
  readonly mostDuty: number;
}

export interface Motion {
  /** Seconds it should take; null when nothing in it ends by itself. */
  readonly expectedSec: number | null;
  /** Runs on time instead of encoders. */
  readonly timed: boolean;
  /** @returns true once it has arrived */
  tick(drive: DriveControl, dt: number): boolean;
}

/** Arrived when this near and this slow, or after this long at the end of the plan. */
const ARRIVED = { distanceM: 0.0007, speedMS: 0.012, headingRad: 0.0012, rateRadS: 0.04, settleSec: 0.5 } as const;
/** A plan waits for a robot further behind than this. */
const LEAD = { distanceM: 0.025, headingRad: 0.3 } as const;

/** Straight ahead or back: holds the heading found at its start. */
export class Straight implements Motion {
  readonly expectedSec: number | null;
  readonly timed = false;
  private readonly profile: Profile;
  private readonly startTravelM: number;
  private readonly headingRad: number;
  private settling = 0;

  /** @param lengthM - signed, forward positive; a null `lengthM` goes on, in the direction of `sign` */
  constructor(
    drive: DriveControl,
    lengthM: number | null,
    private readonly sign: 1 | -1,
    private readonly options: MotionOptions,
  ) {
    const rolling = Math.max(0, drive.wantedMS * sign);
    const length = lengthM === null ? Number.POSITIVE_INFINITY : Math.abs(lengthM);
    this.profile = new Profile(length, options.cruise, options.ramp, rolling, options.keep ? options.cruise : 0);
    this.expectedSec = lengthM === null ? null : this.profile.expectedSec();
    this.startTravelM = drive.travelM;
    this.headingRad = drive.headingRad;
  }

  tick(drive: DriveControl, dt: number): boolean {
    const { profile, sign, options } = this;
    const travelled = (drive.travelM - this.startTravelM) * sign;
    if (profile.distance - travelled < LEAD.distanceM) profile.advance(dt);
    const behind = profile.distance - travelled;
    drive.follow(
      sign * profile.speed,
      sign * profile.acceleration,
      0,
      0,
      sign * behind,
      this.headingRad - drive.headingRad,
      options.mostDuty,
    );
    if (!profile.done) return false;
    if (options.keep) return true;
    this.settling += dt;
    const near = Math.abs(behind) < ARRIVED.distanceM && Math.abs(drive.speedMS) < ARRIVED.speedMS;
    return near || this.settling >= ARRIVED.settleSec;
  }
}

/** On the spot, or swinging about one wheel. */
export class Turn implements Motion {
  readonly expectedSec: number | null;
  readonly timed = false;
  private readonly profile: Profile;
  private readonly startHeadingRad: number;
  private readonly startTravelM: number;
  private settling = 0;

  /**
   * @param angleRad - signed, left positive; null turns on, in the direction of `sign`
   * @param arm - metres the middle moves per radian: 0 on the spot, half the track about a wheel, signed by forward
   */
  constructor(
    drive: DriveControl,
    angleRad: number | null,
    private readonly sign: 1 | -1,
    private readonly arm: number,
    private readonly options: MotionOptions,
  ) {
    const length = angleRad === null ? Number.POSITIVE_INFINITY : Math.abs(angleRad);
    const turning = Math.max(0, drive.wantedRadS * sign);
    this.profile = new Profile(length, options.cruise, options.ramp, turning, options.keep ? options.cruise : 0);
    this.expectedSec = angleRad === null ? null : this.profile.expectedSec();
    this.startHeadingRad = drive.headingRad;
    this.startTravelM = drive.travelM;
  }

  tick(drive: DriveControl, dt: number): boolean {
    const { profile, sign, arm, options } = this;
    const turned = (drive.headingRad - this.startHeadingRad) * sign;
    if (profile.distance - turned < LEAD.headingRad) profile.advance(dt);
    const off = profile.distance - turned;
    const travelled = drive.travelM - this.startTravelM;
    const behind = drive.model.hasEncoders ? arm * sign * profile.distance - travelled : 0;
    drive.follow(
      arm * sign * profile.speed,
      arm * sign * profile.acceleration,
      sign * profile.speed,
      sign * profile.acceleration,
      behind,
      sign * off,
      options.mostDuty,
    );
    if (!profile.done) return false;
    if (options.keep) return true;
    this.settling += dt;
    const near = Math.abs(off) < ARRIVED.headingRad && Math.abs(drive.turnRateRadS) < ARRIVED.rateRadS;
    return near || this.settling >= ARRIVED.settleSec;
  }
}

/** A circle of the robot's middle. */
export class Arc implements Motion {
  readonly expectedSec: number | null;
  readonly timed = false;
  private readonly profile: Profile;
  private readonly startHeadingRad: number;
  private readonly startTravelM: number;
  private settling = 0;

  /**
   * @param angleRad - how far round, ≥ 0; null goes on round
   * @param centre - 1 when the circle's centre lies to the left, -1 to the right
   * @param sign - 1 forward, -1 back
   */
  constructor(
    drive: DriveControl,
    angleRad: number | null,
    private readonly centre: 1 | -1,
    private readonly radiusM: number,
    private readonly sign: 1 | -1,
    private readonly options: MotionOptions,
  ) {
    const length = angleRad === null ? Number.POSITIVE_INFINITY : angleRad * radiusM;
    const rolling = Math.max(0, drive.wantedMS * sign);
    this.profile = new Profile(length, options.cruise, options.ramp, rolling, options.keep ? options.cruise : 0);
    this.expectedSec = angleRad === null ? null : this.profile.expectedSec();
    this.startHeadingRad = drive.headingRad;
    this.startTravelM = drive.travelM;
  }

  tick(drive: DriveControl, dt: number): boolean {
    const { profile, sign, options } = this;
    const travelled = (drive.travelM - this.startTravelM) * sign;
    if (profile.distance - travelled < LEAD.distanceM) profile.advance(dt);
    const perMetre = (sign * this.centre) / this.radiusM;
    const behind = profile.distance - travelled;
    const off = this.startHeadingRad + perMetre * profile.distance - drive.headingRad;
    drive.follow(
      sign * profile.speed,
      sign * profile.acceleration,
      perMetre * profile.speed,
      perMetre * profile.acceleration,
      sign * behind,
      off,
      options.mostDuty,
    );
    if (!profile.done) return false;
    if (options.keep) return true;
    this.settling += dt;
    const near =
      Math.abs(behind) < ARRIVED.distanceM &&
      Math.abs(off) < ARRIVED.headingRad &&
      Math.abs(drive.speedMS) < ARRIVED.speedMS;
    return near || this.settling >= ARRIVED.settleSec;
  }
}

/** Keeps a body speed and turn rate, ramping to them. */
export class Roll implements Motion {
  readonly expectedSec = null;
  readonly timed = false;
  private speedMS: number;
  private rateRadS: number;
  private plannedRad: number;

  constructor(
    drive: DriveControl,
    private readonly toMS: number,
    private readonly toRadS: number,
    private readonly rampMS2: number,
    private readonly rampRadS2: number,
  ) {
    this.speedMS = drive.wantedMS;
    this.rateRadS = drive.wantedRadS;
    this.plannedRad = drive.headingRad;
  }

  tick(drive: DriveControl, dt: number): boolean {
    const speedBefore = this.speedMS;
    const rateBefore = this.rateRadS;
    this.speedMS = approach(this.speedMS, this.toMS, this.rampMS2 * dt);
    this.rateRadS = approach(this.rateRadS, this.toRadS, this.rampRadS2 * dt);
    const planned = this.plannedRad + this.rateRadS * dt;
    // The planned heading waits for a robot that cannot follow.
    if (Math.abs(planned - drive.headingRad) < LEAD.headingRad) this.plannedRad = planned;
    drive.follow(
      this.speedMS,
      (this.speedMS - speedBefore) / dt,
      this.rateRadS,
      (this.rateRadS - rateBefore) / dt,
      0,
      this.plannedRad - drive.headingRad,
      1,
    );
    return false;
  }
}

/** Each side at its own speed, without heading hold. */
export class Wheels implements Motion {
  readonly expectedSec = null;
  readonly timed = false;
  private leftMS: number;
  private rightMS: number;

  constructor(
    drive: DriveControl,
    private readonly toLeftMS: number,
    private readonly toRightMS: number,
    private readonly rampMS2: number,
  ) {
    const half = (drive.wantedRadS * drive.model.trackWidthM) / 2;
    this.leftMS = drive.wantedMS - half;
    this.rightMS = drive.wantedMS + half;
  }

  tick(drive: DriveControl, dt: number): boolean {
    this.leftMS = approach(this.leftMS, this.toLeftMS, this.rampMS2 * dt);
    this.rightMS = approach(this.rightMS, this.toRightMS, this.rampMS2 * dt);
    drive.sides(this.leftMS, this.rightMS, 0, 0, 1);
    drive.wantedMS = (this.leftMS + this.rightMS) / 2;
    drive.wantedRadS = (this.rightMS - this.leftMS) / drive.model.trackWidthM;
    return false;
  }
}

/** Open-loop duties. */
export class Power implements Motion {
  readonly expectedSec = null;
  readonly timed = false;

  constructor(
    private readonly left: number,
    private readonly right: number,
  ) {}

  tick(drive: DriveControl): boolean {
    drive.power(this.left, this.right);
    return false;
  }
}

/** Slows down along the way it was going, then brakes until it stands. */
export class Halt implements Motion {
  readonly expectedSec = 0.5;
  readonly timed = false;
  private speedMS: number;
  private rateRadS: number;
  private readonly falling: number;
  private readonly fallingRate: number;
  private braking = 0;

  constructor(drive: DriveControl, rampMS2: number, rampRadS2: number) {
    this.speedMS = drive.wantedMS;
    this.rateRadS = drive.wantedRadS;
    // Speed and rate reach zero together, so that a curve stays a curve.
    const seconds = Math.max(Math.abs(this.speedMS) / rampMS2, Math.abs(this.rateRadS) / rampRadS2, 0.01);
    this.falling = Math.abs(this.speedMS) / seconds;
    this.fallingRate = Math.abs(this.rateRadS) / seconds;
  }

  tick(drive: DriveControl, dt: number): boolean {
    if (this.speedMS !== 0 || this.rateRadS !== 0) {
      const speedBefore = this.speedMS;
      const rateBefore = this.rateRadS;
      this.speedMS = approach(this.speedMS, 0, this.falling * dt);
      this.rateRadS = approach(this.rateRadS, 0, this.fallingRate * dt);
      drive.follow(
        this.speedMS,
        (this.speedMS - speedBefore) / dt,
        this.rateRadS,
        (this.rateRadS - rateBefore) / dt,
        0,
        0,
        1,
      );
      return false;
    }
    drive.release("brake");
    this.braking += dt;
    return drive.isStill || this.braking >= 0.4;
  }
}

function approach(value: number, target: number, most: number): number {
  return value < target ? Math.min(target, value + most) : Math.max(target, value - most);
}
