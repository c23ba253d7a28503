// Motions of a robot without encoders: a duty for a time worked out from the known speed at power, at the
// pack voltage of the moment. Marked as timed, because nothing measures whether it got there.
import { atan } from "../math/trig.js";
import type { DriveControl } from "./drive.js";
import type { Motion } from "./motions.js";

export interface TimedPlan {
  /** Path of each side, m, signed. */
  readonly leftM: number;
  readonly rightM: number;
  /** Speed of the faster side, m/s, > 0. */
  readonly speedMS: number;
  /** Of a car type: the curve its axle shall drive, 1/m, left positive. */
  readonly curvature?: number;
}

/** Volts each side needs to push its wheels round: slip across is met by the whole grip on any curve. */
function scrubOf({ model }: DriveControl, { leftM, rightM }: TimedPlan): number {
  if (model.scrubN === 0 || Math.abs(rightM - leftM) < 1e-6) return 0;
  return (model.scrubN * model.left.voltsPerNewton) / model.driverShare;
}

export class Timed implements Motion {
  readonly timed = true;
  readonly expectedSec: number;
  private readonly leftDuty: number;
  private readonly rightDuty: number;
  private readonly steerRad: number;
  private elapsedSec = 0;

  /** @throws RangeError when the robot's speed at power is not known (the checker refuses such a mission) */
  constructor(drive: DriveControl, plan: TimedPlan) {
    const known = drive.model.timed;
    if (!known) throw new RangeError("timed motion without a known speed at power");
    const { dropVolts, steering, timedTurn, turnRadS, trackWidthM } = drive.model;
    const spin = plan.leftM === -plan.rightM && plan.leftM !== 0 && !steering;
    // A turn that names no rate of its own is driven as turns were tried: the same volts, however full the pack.
    if (timedTurn && spin && Math.abs(plan.speedMS - (turnRadS * trackWidthM) / 2) < 1e-9) {
      const duty = Math.min(1, timedTurn.volts / Math.max(0.5, drive.packVolts - dropVolts));
      this.steerRad = 0;
      this.leftDuty = plan.leftM > 0 ? duty : -duty;
      this.rightDuty = -this.leftDuty;
      this.expectedSec = timedTurn.deadTimeSec + (2 * Math.abs(plan.leftM)) / trackWidthM / timedTurn.rateRadS;
      return;
    }
    this.steerRad = steering ? atan(steering.wheelbaseM * (plan.curvature ?? 0)) : 0;
    const far = Math.max(Math.abs(plan.leftM), Math.abs(plan.rightM));
    const scrubVolts = scrubOf(drive, plan);
    // What is left of the pack after scrubbing is there for speed.
    const left = Math.max(0.2, drive.packVolts - scrubVolts - known.deadVolts);
    const speed = Math.min(plan.speedMS, known.speedPerVolt * left);
    const side = (travelM: number, scrub: number) => {
      const dead = travelM > 0 ? known.deadVolts : travelM < 0 ? -known.deadVolts : 0;
      return far > 0 ? ((speed * travelM) / far / known.speedPerVolt + dead + scrub) / drive.packVolts : 0;
    };
    const turns = plan.rightM > plan.leftM ? 1 : plan.rightM < plan.leftM ? -1 : 0;
    this.leftDuty = Math.max(-1, Math.min(1, side(plan.leftM, -turns * scrubVolts)));
    this.rightDuty = Math.max(-1, Math.min(1, side(plan.rightM, turns * scrubVolts)));
    this.expectedSec = Math.max(0, known.deadTimeSec + far / speed);
  }

  /** Share of its time gone, 0..1. */
  progress(): number {
    return Math.min(1, this.elapsedSec / this.expectedSec);
  }

  tick(drive: DriveControl, dt: number): boolean {
    this.elapsedSec += dt;
    if (this.elapsedSec < this.expectedSec) {
      drive.steerRad = this.steerRad;
      drive.power(this.leftDuty, this.rightDuty);
      return false;
    }
    drive.release("brake");
    return true;
  }
}
