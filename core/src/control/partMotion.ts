// Motions of a motor or servo that turns a part: to an angle along a trapezoid of speed, then hold; on and on at a
// speed; or gently against an end stop.
import { clamp } from "../math/clamp.js";
import { PI } from "../math/trig.js";
import { Profile } from "./profile.js";

/** A part as its controller feels it. Angles from its zero, rad. */
export interface PartControl {
  readonly servo: boolean;
  readonly angleRad: number;
  readonly rateRadS: number;
  /** Speed at full duty without load. */
  readonly topRateRadS: number;
  /** A servo stands where it was told to. */
  readonly settled: boolean;
  /** Ticks since the oldest newest reading of the eyes it carries was taken; null when it carries none. */
  readonly eyeAgeTicks: number | null;
  /** Distance its first eye reads, m. */
  readonly eyeDistanceM: number;
  aim(rad: number): void;
  power(mode: "drive" | "brake" | "coast", duty: number): void;
  /** This angle is zero from now on. */
  zero(): void;
  /** Keeps what a scan found: angles of the nearest and of the clearest look. */
  found(nearestRad: number, clearestRad: number): void;
}

export interface PartMotion {
  readonly expectedSec: number | null;
  readonly arrived: boolean;
  readonly stalled: boolean;
  /** Called each tick, also after it arrived: it holds. */
  tick(part: PartControl, dt: number): void;
}

/** Found on the demo robots: a lever of 30 g holds within 2 deg and does not ring. */
const GAIN = { proportional: 5, integral: 8, most: 0.5 } as const;
const ARRIVED = { angleRad: PI / 120, rateRadS: 0.35, settleSec: 0.6 } as const;
/** The plan waits for a part further behind than this. */
const LEAD_RAD = 0.25;
const STALL = { duty: 0.25, rateRadS: 0.06, sec: 0.15 } as const;

/** Notices a part that is pushed and does not move. */
class StallWatch {
  private sec = 0;

  tick(duty: number, rateRadS: number, dt: number): boolean {
    const stuck = Math.abs(duty) > STALL.duty && Math.abs(rateRadS) < STALL.rateRadS;
    this.sec = stuck ? this.sec + dt : 0;
    return this.sec >= STALL.sec;
  }
}

/** @param wayRad - signed; null goes on and on in the direction of `sign` */
export class TurnPart implements PartMotion {
  readonly expectedSec: number | null;
  arrived = false;
  stalled = false;
  private readonly startRad: number;
  private readonly sign: 1 | -1;
  private readonly profile: Profile;
  private readonly stall = new StallWatch();
  private integral = 0;
  private settlingSec = 0;
  private heldRad: number | null = null;

  constructor(
    part: PartControl,
    private readonly wayRad: number | null,
    sign: 1 | -1,
    rateRadS: number,
    private readonly mostDuty: number,
  ) {
    this.startRad = part.angleRad;
    this.sign = wayRad === null ? sign : wayRad < 0 ? -1 : 1;
    const length = wayRad === null ? Number.POSITIVE_INFINITY : Math.abs(wayRad);
    const rate = Math.max(0.02, rateRadS);
    this.profile = new Profile(length, rate, Math.max(4, rate * 5), 0, 0);
    this.expectedSec = wayRad === null ? null : this.profile.expectedSec() + 0.2;
  }

  tick(part: PartControl, dt: number): void {
    const { profile } = this;
    if (this.heldRad === null) {
      const behind = this.sign * (this.startRad + this.sign * profile.distance - part.angleRad);
      if (behind < LEAD_RAD) profile.advance(dt);
    }
    const wanted = this.heldRad ?? this.startRad + this.sign * profile.distance;
    if (part.servo) part.aim(wanted);
    else this.drive(part, wanted, dt);
    if (this.wayRad === null || !profile.done || this.arrived) return;
    this.settlingSec += dt;
    const there = part.servo
      ? part.settled
      : Math.abs(wanted - part.angleRad) < ARRIVED.angleRad && Math.abs(part.rateRadS) < ARRIVED.rateRadS;
    if (there || this.settlingSec >= ARRIVED.settleSec) this.arrived = true;
  }

  private drive(part: PartControl, wanted: number, dt: number): void {
    const off = wanted - part.angleRad;
    const planned = this.heldRad === null && !this.profile.done ? this.sign * this.profile.speed : 0;
    this.integral = clamp(this.integral + GAIN.integral * off * dt, GAIN.most);
    const duty = clamp(planned / part.topRateRadS + GAIN.proportional * off + this.integral, this.mostDuty);
    part.power("drive", duty);
    if (this.heldRad === null && this.stall.tick(duty, part.rateRadS, dt)) {
      this.stalled = true;
      this.integral = 0;
      this.heldRad = part.angleRad;
    }
  }
}

/** Turns gently until the end stop is felt, and makes that angle zero. */
export class HomePart implements PartMotion {
  readonly expectedSec = 6;
  arrived = false;
  readonly stalled = false;
  private readonly stall = new StallWatch();
  private sec = 0;

  constructor(
    private readonly sign: 1 | -1,
    private readonly duty: number,
  ) {}

  tick(part: PartControl, dt: number): void {
    if (this.arrived) return part.power("brake", 0);
    this.sec += dt;
    part.power("drive", this.sign * this.duty);
    if (!this.stall.tick(this.duty, part.rateRadS, dt)) return;
    part.zero();
    this.arrived = true;
  }
}
