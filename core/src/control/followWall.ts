// Following a wall by an eye that looks to the side: keeps a distance, knows where the wall ends, and goes round its
// corners if it is asked to.
//
// The distance d changes with the heading against the wall, so its slope over the way is fed back as damping
// (proportional and derivative). A distance that leaps is not this wall any more: the robot keeps the heading it had
// along it until the wall is there again, or has ended.
import { clamp } from "../math/clamp.js";
import { PI } from "../math/trig.js";
import type { DriveControl } from "./drive.js";
import type { FollowOptions } from "./follow.js";
import { approach, type Motion } from "./motions.js";

/** Natural rate of the closed loop, 1/s, its damping, the smoothing of the slope, s, and the steepest approach. */
const WALL = { perSec: 2.4, damping: 1.1, smoothSec: 0.12, mostRad: 0.6 } as const;
/** A reading that leaps by more than this, m, or this share of the distance, is something else. */
const LEAP = { leastM: 0.05, share: 0.3 } as const;
/** The wall has ended once it was not heard for this long, m. */
const ENDED_M = 0.03;
/** Round an outer corner it looks for the wall up to this far. */
const ROUND_RAD = (200 * PI) / 180;
const INNER_RAD = PI / 2;

interface WallSense {
  readonly distanceM: () => number;
  readonly seen: () => boolean;
  readonly side: "left" | "right";
  readonly awayM: number;
  /** Where the eye sits: ahead of the axle, and to its side, m. */
  readonly aheadM: number;
  readonly besideM: number;
  /** How far its foremost point lies ahead of the axle, m. */
  readonly noseM: number;
  /** Turns at corners instead of going on. */
  readonly corners: "turn" | "stop" | null;
  /** Whether something stands close ahead; null without a sensor that could tell. */
  readonly blocked: (() => boolean) | null;
}

type Phase = "along" | "gone" | "round" | "inner" | "backing";

export class FollowWall implements Motion {
  readonly expectedSec = null;
  readonly timed = false;
  wallEnded = false;
  arrivedBy: "ended" | null = null;
  private phase: Phase = "along";
  private speedMS: number;
  private before: number | null = null;
  private slope = 0;
  private rate = 0;
  private wayM = 0;
  private turnedRad = 0;
  private travelBefore: number;
  private headingBefore: number;
  private heardM = 0;
  private keptRad = 0;
  private fromRad = 0;
  private fromM = 0;
  private readonly sign: 1 | -1;

  constructor(
    drive: DriveControl,
    private readonly sense: WallSense,
    private readonly options: FollowOptions,
  ) {
    this.speedMS = drive.wantedMS;
    this.travelBefore = drive.travelM;
    this.headingBefore = drive.headingRad;
    this.sign = sense.side === "left" ? 1 : -1;
  }

  tick(drive: DriveControl, dt: number): boolean {
    const was = this.speedMS;
    this.measure(drive, dt);
    const wall = this.hears();
    if (this.phase === "along" || this.phase === "gone") this.along(drive, wall, dt);
    else this.corner(drive, wall, dt);
    if (this.arrivedBy) {
      drive.release("brake");
      return true;
    }
    drive.follow(this.speedMS, (this.speedMS - was) / dt, this.rate, 0, 0, 0, this.options.mostDuty);
    return false;
  }

  private measure(drive: DriveControl, dt: number): void {
    const { hasEncoders } = drive.model;
    this.wayM += hasEncoders ? drive.travelM - this.travelBefore : this.speedMS * dt;
    this.turnedRad += hasEncoders || drive.hasGyro ? drive.headingRad - this.headingBefore : this.rate * dt;
    this.travelBefore = drive.travelM;
    this.headingBefore = drive.headingRad;
  }

  /** Whether what the eye hears is the wall it follows. */
  private hears(): boolean {
    const { sense } = this;
    if (!sense.seen()) return false;
    const distance = sense.distanceM();
    // At first any wall will do; later only one that lies where it was.
    const expected = this.before ?? distance;
    const leap = Math.max(LEAP.leastM, LEAP.share * expected);
    return distance - expected < leap;
  }

  private along(drive: DriveControl, wall: boolean, dt: number): void {
    const { options, sense } = this;
    this.speedMS = approach(this.speedMS, options.speedMS, options.rampMS2 * dt);
    if (sense.corners && sense.blocked?.()) return this.meets(drive);
    if (wall) {
      this.phase = "along";
      this.wallEnded = false;
      this.heardM = this.wayM;
      this.steer(sense.distanceM(), dt);
      // The heading along the wall: what is left once it does not come nearer or go farther.
      const along = this.turnedRad - (this.sign * this.slope) / Math.max(0.05, Math.abs(this.speedMS));
      this.keptRad += (dt / (0.3 + dt)) * (along - this.keptRad);
      return;
    }
    if (this.before === null) this.keptRad = this.turnedRad;
    this.phase = "gone";
    this.slope = 0;
    this.rate = clamp(4 * (this.keptRad - this.turnedRad), 1);
    if (this.before === null || this.wayM - this.heardM < ENDED_M) return;
    this.wallEnded = true;
    if (sense.corners === "stop") this.arrivedBy = "ended";
    if (sense.corners !== "turn") return;
    // The axle comes abreast of the end, then round it at the same distance.
    if (this.wayM - this.heardM < sense.aheadM) return;
    this.phase = "round";
    this.fromRad = this.turnedRad;
  }

  /** Something stands ahead: an inner corner. */
  private meets(drive: DriveControl): void {
    if (this.sense.corners === "stop") {
      this.arrivedBy = "ended";
      this.wallEnded = true;
      return;
    }
    this.fromRad = this.keptRad;
    this.fromM = this.wayM;
    this.phase = drive.model.steering ? "backing" : "inner";
  }

  private corner(drive: DriveControl, wall: boolean, dt: number): void {
    const { sense, options, sign } = this;
    const turned = (this.turnedRad - this.fromRad) * sign;
    if (this.phase === "round") {
      const least = drive.model.steering?.leastRadiusM ?? 0.02;
      const radius = Math.max(least, sense.awayM + Math.abs(sense.besideM));
      this.speedMS = approach(this.speedMS, Math.min(options.speedMS, 0.15), options.rampMS2 * dt);
      this.rate = (sign * Math.abs(this.speedMS)) / radius;
      if (turned > 0.5 && sense.seen() && sense.distanceM() < sense.awayM * 1.35 + LEAP.leastM) return this.again();
      if (turned > ROUND_RAD) this.arrivedBy = "ended";
      return;
    }
    const { steering } = drive.model;
    const leastM = (steering?.leastRadiusM ?? 0) * 1.05;
    if (this.phase === "backing") {
      // A steered axle needs room for its circle: straight back until the wall ahead will lie as far away as the other.
      this.speedMS = approach(this.speedMS, -0.12, options.rampMS2 * dt);
      this.rate = clamp(3 * (this.keptRad - this.turnedRad), 0.4);
      const room = sense.awayM + Math.abs(sense.besideM) + leastM - sense.noseM;
      if (this.fromM - this.wayM >= Math.max(0.03, room)) this.phase = "inner";
      return;
    }
    if (steering) {
      this.speedMS = approach(this.speedMS, Math.min(options.speedMS, 0.15), options.rampMS2 * dt);
      this.rate = this.speedMS > 0 ? (-sign * this.speedMS) / leastM : 0;
    } else {
      this.speedMS = approach(this.speedMS, 0, options.rampMS2 * 1.5 * dt);
      this.rate = -sign * Math.min(drive.model.turnRadS, 1.5);
    }
    if (-turned >= INNER_RAD && (wall || -turned >= INNER_RAD * 1.2)) this.again();
  }

  private again(): void {
    this.phase = "along";
    this.before = null;
    this.slope = 0;
    this.heardM = this.wayM;
    this.keptRad = this.turnedRad;
    this.wallEnded = false;
  }

  /** Left wall: too far means turn left, which is positive. */
  private steer(distanceM: number, dt: number): void {
    const speed = Math.max(0.05, Math.abs(this.speedMS));
    const moved = this.before === null ? 0 : (distanceM - this.before) / dt;
    this.before = distanceM;
    this.slope += (dt / (WALL.smoothSec + dt)) * (moved - this.slope);
    const off = clamp(distanceM - this.sense.awayM, (WALL.mostRad * 2 * WALL.damping * speed) / WALL.perSec);
    const rate = (WALL.perSec * WALL.perSec * off + 2 * WALL.damping * WALL.perSec * this.slope) / speed;
    this.rate = clamp(this.sign * rate, 1.5);
  }
}
