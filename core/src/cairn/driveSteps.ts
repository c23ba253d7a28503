// Driving steps at run time: which motion a step starts, and what ends it.

import type { DriveControl } from "../control/drive.js";
import {
  arcMotion,
  Halt,
  type Motion,
  type MotionOptions,
  Power,
  Roll,
  straightMotion,
  turnMotion,
  Wheels,
} from "../control/motions.js";
import { Timed, type TimedPlan } from "../control/timed.js";
import { wrapAngle } from "../geometry/pose.js";
import type { ActiveStep, EndedBy, NumberOf, Task } from "./task.js";

export interface Condition {
  readonly test: NumberOf;
  /** Hold timers to start afresh with the step. */
  readonly held: readonly number[];
  /** As written, for the reason a mission stopped. */
  readonly text: string;
}

/** A step's tails, compiled. */
export interface Endings {
  readonly forTime: NumberOf | null;
  readonly until: Condition | null;
  readonly limit: NumberOf | null;
  readonly limitBy: "time" | "travel" | "turn" | null;
  readonly ending: "stop" | "coast" | "keep";
  readonly label: string;
  /** The step's words, for the reason a mission stopped. */
  readonly text: string;
}

export type MotionMaker = (task: Task) => Motion;

/** Extra time before a step that should have ended stops the mission: three times what it should take, and this. */
const BOUND_EXTRA_SEC = 2;
const BOUND_FACTOR = 3;
const BOUND_OPEN_SEC = 60;

export function resetHeld(task: Task, condition: Condition | null): void {
  if (condition) for (const counter of condition.held) task.counters[counter] = -1;
}

/** Starts a driving step; it ends by arriving, or by the first of its endings. */
export function beginDrive(task: Task, make: MotionMaker, endings: Endings): ActiveStep {
  const { machine } = task;
  const { drive } = machine;
  const motion = make(task);
  machine.setMotion(motion);
  resetHeld(task, endings.until);
  return new DriveStep(task, motion, endings, drive);
}

class DriveStep implements ActiveStep {
  readonly timed: boolean;
  private readonly startTick: number;
  private readonly startTravelM: number;
  private readonly startHeadingRad: number;
  private readonly forSec: number | null;
  private readonly limit: number | null;
  private readonly boundSec: number | null;
  private halting: EndedBy | null = null;

  constructor(
    task: Task,
    motion: Motion,
    private readonly endings: Endings,
    private readonly drive: DriveControl,
  ) {
    this.timed = motion.timed;
    this.startTick = task.machine.tick;
    this.startTravelM = drive.travelM;
    this.startHeadingRad = drive.headingRad;
    this.forSec = endings.forTime ? endings.forTime(task) : null;
    this.limit = endings.limit ? Math.abs(endings.limit(task)) : null;
    const expected = motion.expectedSec ?? this.forSec;
    this.boundSec =
      this.limit !== null ? null : expected === null ? BOUND_OPEN_SEC : BOUND_FACTOR * expected + BOUND_EXTRA_SEC;
  }

  tick(task: Task): EndedBy | null {
    const { machine } = task;
    if (this.halting !== null) return machine.motionArrived ? this.halting : null;
    const elapsed = (machine.tick - this.startTick) * machine.tickSec;
    const ended = this.endedBy(task, elapsed);
    if (ended === null) return null;
    if (ended === "bound") {
      const { until, text, label } = this.endings;
      machine.stop(
        `step ${label} never ended: ${until ? `"${until.text}" did not come true` : `"${text}" did not get there`} within ${Math.floor(elapsed + 0.5)} s`,
      );
      return ended;
    }
    return this.leave(task, ended);
  }

  private endedBy(task: Task, elapsed: number): EndedBy | null {
    const { until } = this.endings;
    if (until && until.test(task) !== 0) return "until";
    if (task.machine.motionArrived && elapsed > 0) return "done";
    if (this.forSec !== null && elapsed >= this.forSec - 1e-9) return "for";
    if (this.limit !== null && this.measured(elapsed) >= this.limit - 1e-9) return "limit";
    if (this.boundSec !== null && elapsed >= this.boundSec) return "bound";
    return null;
  }

  private measured(elapsed: number): number {
    if (this.endings.limitBy === "travel") return Math.abs(this.drive.travelM - this.startTravelM);
    if (this.endings.limitBy === "turn") return Math.abs(this.drive.headingRad - this.startHeadingRad);
    return elapsed;
  }

  /** `then`: roll on, coast, or slow down and stand (the step lasts until it stands). */
  private leave(task: Task, ended: EndedBy): EndedBy | null {
    const { machine } = task;
    const { drive } = this;
    const { ending } = this.endings;
    if (ending === "keep") {
      const { model } = drive;
      machine.setMotion(new Roll(drive, drive.wantedMS, drive.wantedRadS, model.rampMS2, model.turnRampRadS2));
      return ended;
    }
    if (ending === "coast" || ended === "done") {
      machine.setMotion(null);
      drive.release(ending === "coast" ? "coast" : "brake");
      return ended;
    }
    machine.setMotion(new Halt(drive, drive.model.rampMS2 * 1.5, drive.model.turnRampRadS2 * 1.5));
    this.halting = ended;
    return null;
  }
}

/** Starts a motion that goes on across steps (ruling 15) and passes on at once. */
export function passOn(task: Task, make: MotionMaker): void {
  task.machine.setMotion(make(task));
}

export function straight(lengthM: NumberOf | null, back: boolean, options: (task: Task) => MotionOptions): MotionMaker {
  return (task) => {
    const { drive } = task.machine;
    const length = lengthM ? (back ? -1 : 1) * lengthM(task) : null;
    const sign = length === null ? (back ? -1 : 1) : length < 0 ? -1 : 1;
    const chosen = options(task);
    if (length !== null && !drive.model.hasEncoders)
      return new Timed(drive, { leftM: length, rightM: length, speedMS: chosen.cruise });
    return straightMotion(drive, length, sign, chosen);
  };
}

/** @param wheel - the wheel that stands still, or null for a turn on the spot */
export function turn(
  angleRad: NumberOf | null,
  side: 1 | -1,
  wheel: "left" | "right" | null,
  options: (task: Task) => MotionOptions,
  byGyro: boolean,
): MotionMaker {
  return (task) => {
    const { drive } = task.machine;
    const angle = angleRad ? angleRad(task) : null;
    return turning(drive, angle, angle === null ? side : angle < 0 ? -1 : 1, wheel, options(task), byGyro);
  };
}

function turning(
  drive: DriveControl,
  angle: number | null,
  sign: 1 | -1,
  wheel: "left" | "right" | null,
  options: MotionOptions,
  byGyro: boolean,
): Motion {
  const half = drive.model.trackWidthM / 2;
  const arm = wheel === null ? 0 : wheel === "left" ? half : -half;
  if (angle !== null && !byGyro && !drive.model.hasEncoders) {
    const plan: TimedPlan = {
      leftM: angle * (arm - half),
      rightM: angle * (arm + half),
      speedMS: options.cruise * (half + Math.abs(arm)),
    };
    return new Timed(drive, plan);
  }
  return turnMotion(drive, angle, sign, arm, options);
}

/** To an absolute heading from the begin place, the shorter way. */
export function face(headingRad: NumberOf, options: (task: Task) => MotionOptions, byGyro: boolean): MotionMaker {
  return (task) => {
    const { drive } = task.machine;
    const angle = wrapAngle(headingRad(task) - drive.headingRad);
    return turning(drive, angle, angle < 0 ? -1 : 1, null, options(task), byGyro);
  };
}

export function arc(
  angleRad: NumberOf | null,
  side: 1 | -1,
  radiusM: NumberOf,
  back: boolean,
  options: (task: Task) => MotionOptions,
): MotionMaker {
  return (task) => {
    const { drive } = task.machine;
    const { trackWidthM, topSpeedMS, hasEncoders } = drive.model;
    const angle = angleRad ? angleRad(task) : null;
    const centre = angle === null ? side : angle < 0 ? -1 : 1;
    const radius = Math.max(0.001, radiusM(task));
    const chosen = options(task);
    // The outer wheel must be able to follow.
    const cruise = Math.min(chosen.cruise, (0.92 * topSpeedMS) / (1 + trackWidthM / (2 * radius)));
    const sign = back ? -1 : 1;
    if (angle !== null && !hasEncoders) {
      const far = Math.abs(angle) * sign;
      const half = (centre * trackWidthM) / 2;
      return new Timed(drive, {
        leftM: far * (radius - half),
        rightM: far * (radius + half),
        speedMS: cruise * (1 + trackWidthM / (2 * radius)),
        curvature: centre / radius,
      });
    }
    return arcMotion(
      drive,
      { angleRad: angle === null ? null : Math.abs(angle), centre, radiusM: radius, sign },
      { ...chosen, cruise },
    );
  };
}

export function roll(speedMS: NumberOf, rateRadS: NumberOf | null, rampMS2: NumberOf | null): MotionMaker {
  return (task) => {
    const { drive } = task.machine;
    return new Roll(
      drive,
      speedMS(task),
      rateRadS ? rateRadS(task) : 0,
      rampMS2 ? rampMS2(task) : drive.model.rampMS2,
      drive.model.turnRampRadS2,
    );
  };
}

export function wheels(leftMS: NumberOf, rightMS: NumberOf, rampMS2: NumberOf | null): MotionMaker {
  return (task) => {
    const { drive } = task.machine;
    return new Wheels(drive, leftMS(task), rightMS(task), rampMS2 ? rampMS2(task) : drive.model.rampMS2 * 2);
  };
}

export function power(left: NumberOf, right: NumberOf): MotionMaker {
  return (task) => new Power(left(task), right(task));
}
