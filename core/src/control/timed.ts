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
    const { steering } = drive.model;
    this.steerRad = steering ? atan(steering.wheelbaseM * (plan.curvature ?? 0)) : 0;
    const far = Math.max(Math.abs(plan.leftM), Math.abs(plan.rightM));
    const duty = Math.min(1, plan.speedMS / (known.speedPerVolt * drive.packVolts));
    this.leftDuty = far > 0 ? (duty * plan.leftM) / far : 0;
    this.rightDuty = far > 0 ? (duty * plan.rightM) / far : 0;
    this.expectedSec = known.deadTimeSec + far / (known.speedPerVolt * drive.packVolts * duty);
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
