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
  /** How far it is along its way, m or rad, or the share of a timed one; nothing for motions without an end of their own. */
  progress?(drive: DriveControl): number;
  /** Why it arrived, where that is not that it got there: the line is gone, the wall came to its end. */
  readonly arrivedBy?: "lost" | "ended" | null;
  /** The wall it followed is not beside it any more. */
  readonly wallEnded?: boolean;
  /** Heading it keeps, for a straight way. */
  readonly keptHeadingRad?: number | undefined;
  /** @returns true once it has arrived */
  tick(drive: DriveControl, dt: number): boolean;
}

/** Arrived when this near and this slow, or after this long at the end of the plan. */
const ARRIVED = { distanceM: 0.0007, speedMS: 0.012, headingRad: 0.0012, rateRadS: 0.04, settleSec: 0.5 } as const;
/** A plan waits for a robot further behind than this. */
const LEAD = { distanceM: 0.025, headingRad: 0.3 } as const;

/** What a motion along a profile is made of; everything else is alike for straight, turn and arc. */
interface Way {
  /** Length of the profile: metres, or radians for a turn; null goes on until told otherwise. */
  readonly length: number | null;
  /** Speed or rate along the way it begins with. */
  readonly rolling: number;
  /** The plan waits for a robot further behind than this. */
  readonly lead: number;
  /** How far the robot is along the way. */
  measure(drive: DriveControl): number;
  /** Commands the drive for where the plan is; `behind` is the plan less the measure. */
  follow(drive: DriveControl, plan: Profile, behind: number): void;
  /** Whether it is there, and slow enough, once the plan is done. */
  arrived(drive: DriveControl, behind: number): boolean;
}

/** A motion that follows a profile to its end and settles there. */
class Along implements Motion {
  readonly expectedSec: number | null;
  readonly timed = false;
  private readonly profile: Profile;
  private settlingSec = 0;

  constructor(
    private readonly way: Way,
    private readonly options: MotionOptions,
    readonly keptHeadingRad?: number,
  ) {
    const { cruise, ramp, keep } = options;
    const length = way.length ?? Number.POSITIVE_INFINITY;
    this.profile = new Profile(length, cruise, ramp, Math.max(0, way.rolling), keep ? cruise : 0);
    this.expectedSec = way.length === null ? null : this.profile.expectedSec();
  }

  progress(drive: DriveControl): number {
    return Math.max(0, this.way.measure(drive));
  }

  tick(drive: DriveControl, dt: number): boolean {
    const { profile, way } = this;
    const measured = way.measure(drive);
    if (profile.distance - measured < way.lead) profile.advance(dt);
    const behind = profile.distance - measured;
    way.follow(drive, profile, behind);
    if (!profile.done) return false;
    if (this.options.keep) return true;
    this.settlingSec += dt;
    return way.arrived(drive, behind) || this.settlingSec >= ARRIVED.settleSec;
  }
}

function stopped(drive: DriveControl): boolean {
  return Math.abs(drive.speedMS) < ARRIVED.speedMS && Math.abs(drive.asideMS) < ARRIVED.speedMS;
}

/**
 * Straight ahead or back: holds the heading found at its start.
 * @param lengthM - signed, forward positive; null goes on, in the direction of `sign`
 * @param headingRad - kept on the way, the one it has by default
 */
export function straightMotion(
  drive: DriveControl,
  lengthM: number | null,
  sign: 1 | -1,
  options: MotionOptions,
  headingRad = drive.headingRad,
): Motion {
  const startM = drive.travelM;
  return new Along(
    {
      length: lengthM === null ? null : Math.abs(lengthM),
      rolling: drive.wantedMS * sign,
      lead: LEAD.distanceM,
      measure: (now) => (now.travelM - startM) * sign,
      follow: (now, plan, behind) =>
        now.follow(
          sign * plan.speed,
          sign * plan.acceleration,
          0,
          0,
          // Without encoders nothing tells how far behind it is.
          now.model.hasEncoders ? sign * behind : 0,
          headingRad - now.headingRad,
          options.mostDuty,
        ),
      arrived: (now, behind) => Math.abs(behind) < ARRIVED.distanceM && stopped(now),
    },
    options,
    headingRad,
  );
}

/**
 * Sideways, for drives that can: holds the heading it began with, and the line across it.
 * @param lengthM - how far, ≥ 0; null goes on
 * @param sign - 1 to the left, -1 to the right
 * @param headingRad - kept on the way, the one it has by default
 */
export function slideMotion(
  drive: DriveControl,
  lengthM: number | null,
  sign: 1 | -1,
  options: MotionOptions,
  headingRad = drive.headingRad,
): Motion {
  const { asideM: startM, travelM: startAheadM } = drive;
  return new Along(
    {
      length: lengthM,
      rolling: drive.wantedAsideMS * sign,
      lead: LEAD.distanceM,
      measure: (now) => (now.asideM - startM) * sign,
      follow: (now, plan, behind) =>
        now.slide(
          sign * plan.speed,
          sign * plan.acceleration,
          sign * behind,
          now.travelM - startAheadM,
          headingRad - now.headingRad,
          options.mostDuty,
        ),
      arrived: (now, behind) =>
        Math.abs(behind) < ARRIVED.distanceM &&
        Math.abs(headingRad - now.headingRad) < ARRIVED.headingRad &&
        stopped(now),
    },
    options,
    headingRad,
  );
}

/**
 * On the spot, or swinging about one wheel.
 * @param angleRad - signed, left positive; null turns on, in the direction of `sign`
 * @param arm - metres the middle moves per radian: 0 on the spot, half the track about a wheel, signed by forward
 */
export function turnMotion(
  drive: DriveControl,
  angleRad: number | null,
  sign: 1 | -1,
  arm: number,
  options: MotionOptions,
): Motion {
  const startM = drive.travelM;
  const startRad = drive.headingRad;
  return new Along(
    {
      length: angleRad === null ? null : turnLength(Math.abs(angleRad), drive, options),
      rolling: drive.wantedRadS * sign,
      lead: LEAD.headingRad,
      measure: (now) => (now.headingRad - startRad) * sign,
      follow: (now, plan, off) => {
        const behindM = now.model.hasEncoders ? arm * sign * plan.distance - (now.travelM - startM) : 0;
        const speed = sign * plan.speed;
        const change = sign * plan.acceleration;
        now.follow(arm * speed, arm * change, speed, change, behindM, sign * off, options.mostDuty);
      },
      arrived: (now, off) => Math.abs(off) < ARRIVED.headingRad && Math.abs(now.turnRateRadS) < ARRIVED.rateRadS,
    },
    options,
  );
}

/** A turn that stops aims short of its angle by what was found to come on top; at most by half of it. */
function turnLength(angleRad: number, { model }: DriveControl, { keep }: MotionOptions): number {
  return keep ? angleRad : angleRad - Math.min(angleRad / 2, model.turnPastRad);
}

interface ArcPlan {
  /** How far round, ≥ 0; null goes on round. */
  readonly angleRad: number | null;
  /** 1 when the circle's centre lies to the left, -1 to the right. */
  readonly centre: 1 | -1;
  readonly radiusM: number;
  /** 1 forward, -1 back. */
  readonly sign: 1 | -1;
}

/** A circle of the robot's middle. */
export function arcMotion(
  drive: DriveControl,
  { angleRad, centre, radiusM, sign }: ArcPlan,
  options: MotionOptions,
): Motion {
  const startM = drive.travelM;
  const startRad = drive.headingRad;
  const perMetre = (sign * centre) / radiusM;
  const off = (now: DriveControl, distance: number) => startRad + perMetre * distance - now.headingRad;
  return new Along(
    {
      length: angleRad === null ? null : angleRad * radiusM,
      rolling: drive.wantedMS * sign,
      lead: LEAD.distanceM,
      measure: (now) => (now.travelM - startM) * sign,
      follow: (now, { speed, acceleration, distance }, behind) =>
        now.follow(
          sign * speed,
          sign * acceleration,
          perMetre * speed,
          perMetre * acceleration,
          sign * behind,
          off(now, distance),
          options.mostDuty,
        ),
      arrived: (now, behind) =>
        Math.abs(behind) < ARRIVED.distanceM &&
        Math.abs(off(now, (angleRad ?? 0) * radiusM)) < ARRIVED.headingRad &&
        stopped(now),
    },
    options,
  );
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
    private readonly toAsideMS = 0,
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
      this.toAsideMS,
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
    if (this.speedMS !== 0 || this.rateRadS !== 0 || drive.wantedAsideMS !== 0) {
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

export function approach(value: number, target: number, most: number): number {
  return value < target ? Math.min(target, value + most) : Math.max(target, value - most);
}
