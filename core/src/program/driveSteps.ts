// Driving steps at run time: which motion a step starts, what ends it, and how it goes on after a handler.

import { SLOT } from "../cairn/readings.js";
import type { DriveControl } from "../control/drive.js";
import { Press } from "../control/follow.js";
import { type CrossingChoice, FollowLine, type LineLook, USUAL_BRIDGE_M } from "../control/followLine.js";
import { FollowWall } from "../control/followWall.js";
import {
  arcMotion,
  type Motion,
  type MotionOptions,
  Power,
  Roll,
  slideMotion,
  straightMotion,
  turnMotion,
  Wheels,
} from "../control/motions.js";
import { pathMotion } from "../control/pathMotion.js";
import { Timed, type TimedPlan } from "../control/timed.js";
import { wrapAngle } from "../geometry/pose.js";
import { atan, cos, sin } from "../math/trig.js";
import { segmentDistanceSquare } from "../physics/contacts.js";
import {
  type ActiveStep,
  type Condition,
  clockOf,
  type EndedBy,
  type MotionMaker,
  type NumberOf,
  resetHeld,
  type StartedMotion,
  type Task,
} from "./task.js";

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

/** Extra time before a step that should have ended stops the mission: three times what it should take, and this. */
const BOUND_EXTRA_SEC = 2;
const BOUND_FACTOR = 3;
const BOUND_OPEN_SEC = 60;

/** Starts a driving step; it ends by arriving, or by the first of its endings. */
export function beginDrive(task: Task, make: MotionMaker, endings: Endings): ActiveStep {
  const started = make(task);
  task.runner.takeDrive(task, endings.label);
  task.passing = null;
  task.machine.setMotion(started.motion);
  resetHeld(task, endings.until);
  return new DriveStep(task, started, endings);
}

class DriveStep implements ActiveStep {
  readonly timed: boolean;
  readonly drives = true;
  private readonly startClock: number;
  private startTravelM: number;
  private startHeadingRad: number;
  private readonly forSec: number | null;
  private readonly limit: number | null;
  private readonly boundSec: number | null;
  private readonly drive: DriveControl;
  private motion: Motion;
  private halting: EndedBy | null = null;
  private heldUp = false;
  /** How far the motions before the present one came. */
  private done = 0;
  private pausedTravelM = 0;
  private pausedHeadingRad = 0;

  constructor(
    task: Task,
    private readonly started: StartedMotion,
    private readonly endings: Endings,
  ) {
    this.drive = task.machine.drive;
    this.motion = started.motion;
    this.timed = this.motion.timed;
    this.startClock = clockOf(task);
    this.startTravelM = this.drive.wayM;
    this.startHeadingRad = this.drive.headingRad;
    this.forSec = endings.forTime ? endings.forTime(task) : null;
    this.limit = endings.limit ? Math.abs(endings.limit(task)) : null;
    const expected = this.motion.expectedSec ?? this.forSec;
    this.boundSec =
      this.limit !== null ? null : expected === null ? BOUND_OPEN_SEC : BOUND_FACTOR * expected + BOUND_EXTRA_SEC;
  }

  tick(task: Task): EndedBy | null {
    const { machine } = task;
    // A handler that came while it slowed down left it standing, or drove on: either way this step is over.
    if (this.halting !== null) return machine.motionArrived || this.heldUp ? this.over(task, this.halting) : null;
    const elapsed = (clockOf(task) - this.startClock) * machine.tickSec;
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
    if (until && until.test(task) !== 0) return this.motion.wallEnded ? "ended" : "until";
    if (task.machine.motionArrived && elapsed > 0) return this.motion.arrivedBy ?? "done";
    if (this.forSec !== null && elapsed >= this.forSec - 1e-9) return "for";
    if (this.limit !== null && this.measured(elapsed) >= this.limit - 1e-9) return "limit";
    if (this.boundSec !== null && elapsed >= this.boundSec) return "bound";
    return null;
  }

  private measured(elapsed: number): number {
    if (this.endings.limitBy === "travel") return Math.abs(this.drive.wayM - this.startTravelM);
    if (this.endings.limitBy === "turn") return Math.abs(this.drive.headingRad - this.startHeadingRad);
    return elapsed;
  }

  /** `then`: roll on, coast, or slow down and stand (the step lasts until it stands). */
  private leave(task: Task, ended: EndedBy): EndedBy | null {
    const { machine } = task;
    const { drive } = this;
    const { ending } = this.endings;
    if (ending === "keep") {
      const { wantedMS, wantedRadS, wantedAsideMS } = drive;
      const { rampMS2, turnRampRadS2 } = drive.model;
      const again = () => new Roll(drive, wantedMS, wantedRadS, rampMS2, turnRampRadS2, wantedAsideMS);
      task.runner.passOn(task, { motion: again(), again }, this.endings.label);
      return ended;
    }
    if (ending === "coast" || task.machine.motionArrived) {
      machine.setMotion(null);
      drive.release(ending === "coast" ? "coast" : "brake");
      return this.over(task, ended);
    }
    if (!task.runner.halt(task)) return this.over(task, ended);
    this.halting = ended;
    return null;
  }

  private over(task: Task, ended: EndedBy): EndedBy {
    task.runner.freeDrive(task);
    return ended;
  }

  pause(task: Task): void {
    this.done = this.motion.progress?.(this.drive) ?? 0;
    this.pausedTravelM = this.drive.wayM;
    this.pausedHeadingRad = this.drive.headingRad;
    if (this.halting === null) task.runner.halt(task);
  }

  resume(task: Task, drove: boolean): void {
    const { drive } = this;
    this.startTravelM += drive.wayM - this.pausedTravelM;
    this.startHeadingRad += drive.headingRad - this.pausedHeadingRad;
    task.runner.takeDrive(task, this.endings.label);
    if (this.halting !== null) {
      this.heldUp = true;
      return;
    }
    // Braking went on along the way, unless the handler drove somewhere else.
    const done = drove ? this.done : (this.motion.progress?.(drive) ?? this.done);
    this.motion = this.started.again(drive, done, drove ? null : (this.motion.keptHeadingRad ?? null));
    task.machine.setMotion(this.motion);
    resetHeld(task, this.endings.until);
  }

  drop(task: Task): void {
    if (!task.runner.drivesWith(task)) return;
    task.runner.halt(task);
    task.runner.freeDrive(task);
  }
}

/** A motion that begins anew when it is taken up again. */
function anew(make: (drive: DriveControl) => Motion): (task: Task) => StartedMotion {
  return ({ machine }) => ({ motion: make(machine.drive), again: make });
}

export function straight(lengthM: NumberOf | null, back: boolean, options: (task: Task) => MotionOptions): MotionMaker {
  return (task) => {
    const { drive } = task.machine;
    const length = lengthM ? (back ? -1 : 1) * lengthM(task) : null;
    const sign = length === null ? (back ? -1 : 1) : length < 0 ? -1 : 1;
    const chosen = options(task);
    if (length !== null && !drive.model.hasEncoders)
      return new ResumedByTime(drive, { leftM: length, rightM: length, speedMS: chosen.cruise });
    const rest = (done: number) => (length === null ? null : sign * Math.max(0, Math.abs(length) - done));
    return new Resumed(straightMotion(drive, length, sign, chosen), (done, headingRad) =>
      straightMotion(drive, rest(done), sign, chosen, headingRad ?? undefined),
    );
  };
}

/** Sideways, the heading held. @param side - where to; a length below nothing goes the other way */
export function slide(lengthM: NumberOf | null, side: 1 | -1, options: (task: Task) => MotionOptions): MotionMaker {
  return (task) => {
    const { drive } = task.machine;
    const length = lengthM ? side * lengthM(task) : null;
    const sign = length === null ? side : length < 0 ? -1 : 1;
    const chosen = options(task);
    const rest = (done: number) => (length === null ? null : Math.max(0, Math.abs(length) - done));
    return new Resumed(slideMotion(drive, rest(0), sign, chosen), (done, headingRad) =>
      slideMotion(drive, rest(done), sign, chosen, headingRad ?? undefined),
    );
  };
}

/** A motion whose way adds up over several interruptions. */
class Resumed implements StartedMotion {
  private before = 0;

  constructor(
    readonly motion: Motion,
    private readonly make: (doneInAll: number, headingRad: number | null) => Motion,
  ) {}

  again(_drive: DriveControl, done: number, headingRad: number | null): Motion {
    this.before += done;
    return this.make(this.before, headingRad);
  }
}

/** By time: what is left is a share of the plan. */
class ResumedByTime implements StartedMotion {
  readonly motion: Motion;
  private left = 1;

  constructor(
    drive: DriveControl,
    private readonly plan: TimedPlan,
  ) {
    this.motion = new Timed(drive, plan);
  }

  again(drive: DriveControl, done: number): Motion {
    this.left *= 1 - done;
    const { plan, left } = this;
    return new Timed(drive, { ...plan, leftM: plan.leftM * left, rightM: plan.rightM * left });
  }
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
): StartedMotion {
  const half = drive.model.trackWidthM / 2;
  const arm = wheel === null ? 0 : wheel === "left" ? half : -half;
  if (angle !== null && !byGyro && !drive.model.hasEncoders) {
    return new ResumedByTime(drive, {
      leftM: angle * (arm - half),
      rightM: angle * (arm + half),
      speedMS: options.cruise * (half + Math.abs(arm)),
    });
  }
  const rest = (done: number) => (angle === null ? null : sign * Math.max(0, Math.abs(angle) - done));
  return new Resumed(turnMotion(drive, angle, sign, arm, options), (done) =>
    turnMotion(drive, rest(done), sign, arm, options),
  );
}

/** To an absolute heading from the begin place, the shorter way. */
export function face(headingRad: NumberOf, options: (task: Task) => MotionOptions, byGyro: boolean): MotionMaker {
  return (task) => {
    const { drive, snapshot } = task.machine;
    const target = headingRad(task);
    const chosen = options(task);
    // `reset robot` moves what headings are counted from; the snapshot tells it.
    const start = (): StartedMotion => {
      const angle = wrapAngle(target - (snapshot[SLOT.heading] as number));
      return turning(drive, angle, angle < 0 ? -1 : 1, null, chosen, byGyro);
    };
    return { motion: start().motion, again: () => start().motion };
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
      return new ResumedByTime(drive, {
        leftM: far * (radius - half),
        rightM: far * (radius + half),
        speedMS: cruise * (1 + trackWidthM / (2 * radius)),
        curvature: centre / radius,
      });
    }
    const round = (left: number | null) =>
      arcMotion(drive, { angleRad: left, centre, radiusM: radius, sign }, { ...chosen, cruise });
    const whole = angle === null ? null : Math.abs(angle);
    // An arc's way is measured along the curve.
    return new Resumed(round(whole), (done) => round(whole === null ? null : Math.max(0, whole - done / radius)));
  };
}

/** Places from the begin place, as `robot.x` and `robot.y` tell them. */
interface PlacesOrder {
  readonly places: readonly { readonly x: NumberOf; readonly y: NumberOf }[];
  readonly facing: NumberOf | null;
  readonly back: boolean;
  readonly lookM: NumberOf | null;
}

/** To a place, or along a path of them; after a pause on from where the robot is. */
export function goPlaces(order: PlacesOrder, options: (task: Task) => MotionOptions): MotionMaker {
  return (task) => {
    const { drive, snapshot } = task.machine;
    const chosen = options(task);
    const facing = order.facing ? order.facing(task) : null;
    const look = order.lookM ? Math.max(0.01, order.lookM(task)) : null;
    const wanted = order.places.map(({ x, y }) => [x(task), y(task)] as const);
    const start = (passed: number): Motion => {
      // From the frame of the begin place, which `reset robot` moves, to the drive's own.
      const turned = drive.headingRad - (snapshot[SLOT.heading] as number);
      const [c, s] = [cos(turned), sin(turned)];
      const places = wanted.slice(passed).map(([x, y]): readonly [number, number] => {
        const dx = x - (snapshot[SLOT.x] as number);
        const dy = y - (snapshot[SLOT.y] as number);
        return [drive.xM + c * dx - s * dy, drive.yM + s * dx + c * dy];
      });
      return pathMotion(
        drive,
        { places, facingRad: facing === null ? null : facing + turned, back: order.back, lookM: look },
        chosen,
      );
    };
    return { motion: start(0), again: () => start(nearestLeg(wanted, snapshot)) };
  };
}

/** How many places of a path lie behind: the robot goes on toward the end of the leg it is nearest to. */
function nearestLeg(places: readonly (readonly [number, number])[], snapshot: Float64Array): number {
  const [x, y] = [snapshot[SLOT.x] as number, snapshot[SLOT.y] as number];
  let best = Number.POSITIVE_INFINITY;
  let passed = 0;
  for (let i = 1; i < places.length; i += 1) {
    const d = segmentDistanceSquare(places[i - 1] as [number, number], places[i] as [number, number], x, y);
    if (d >= best) continue;
    best = d;
    passed = i;
  }
  return passed;
}

export function roll(speedMS: NumberOf, rateRadS: NumberOf | null, rampMS2: NumberOf | null): MotionMaker {
  return (task) => {
    const { model } = task.machine.drive;
    const speed = speedMS(task);
    const rate = rateRadS ? rateRadS(task) : 0;
    const ramp = rampMS2 ? rampMS2(task) : model.rampMS2;
    return anew((drive) => new Roll(drive, speed, rate, ramp, model.turnRampRadS2))(task);
  };
}

export function wheels(leftMS: NumberOf, rightMS: NumberOf, rampMS2: NumberOf | null): MotionMaker {
  return (task) => {
    const left = leftMS(task);
    const right = rightMS(task);
    const ramp = rampMS2 ? rampMS2(task) : task.machine.drive.model.rampMS2 * 2;
    return anew((drive) => new Wheels(drive, left, right, ramp))(task);
  };
}

export function power(left: NumberOf, right: NumberOf): MotionMaker {
  return (task) => {
    const [l, r] = [left(task), right(task)];
    return anew(() => new Power(l, r))(task);
  };
}

export function press(back: boolean, using: NumberOf | null): MotionMaker {
  return (task) => {
    const { model } = task.machine.drive;
    const most = using ? Math.max(0.02, Math.min(1, Math.abs(using(task)))) : model.pressDuty;
    return anew(() => new Press(back ? -1 : 1, most))(task);
  };
}

/** Places of a line's edge or centre as a floor sensor tells it. */
interface LineReadings {
  /** Slots of the lights it looks at, left first. */
  readonly slots: readonly number[];
  /** Places across the robot of those, m. */
  readonly offsetsM: readonly number[];
  readonly aheadM: number;
  readonly spotM: number;
  readonly dark: number;
  /** 1: dark lies to the right of the edge, -1: to the left, 0: follows the centre. */
  readonly edge: 1 | -1 | 0;
}

/** What a step says about the way a line is followed; null leaves it to the robot. */
interface LineTails {
  readonly gain: NumberOf | null;
  readonly damp: NumberOf | null;
  readonly bridgeM: NumberOf | null;
  readonly crossings: CrossingChoice;
}

export function followLine(line: LineReadings, tails: LineTails, options: (task: Task) => MotionOptions): MotionMaker {
  return (task) => {
    const { cruise, ramp, mostDuty } = options(task);
    const { snapshot } = task.machine;
    const reader = new LineReader(line, snapshot);
    const follow = {
      speedMS: cruise,
      rampMS2: ramp,
      mostDuty,
      gain: tails.gain ? Math.max(0.05, Math.min(10, tails.gain(task))) : 1,
      damp: tails.damp ? Math.max(0, Math.min(20, tails.damp(task))) : 1,
      bridgeM: tails.bridgeM ? Math.max(0, Math.min(2, tails.bridgeM(task))) : USUAL_BRIDGE_M,
      crossings: tails.crossings,
    };
    return anew((drive) => new FollowLine(drive, reader, follow))(task);
  };
}

/** Less of the line than this share of a spot is none of it; more than the other is nothing but line. */
const SEEN = { least: 0.25, most: 0.85 } as const;

/** Where the line lies, from the lights of a spot, a pair or a row. Learns how light and how dark the floor is. */
class LineReader {
  readonly aheadM: number;
  readonly spotM: number;
  readonly edge: 1 | -1 | 0;
  readonly mostOffM: number;
  readonly blindM: number;
  readonly wideRad: number;
  private light: number;
  private darkest: number;

  constructor(
    private readonly line: LineReadings,
    private readonly snapshot: Float64Array,
  ) {
    const { aheadM, spotM, edge, offsetsM, dark } = line;
    this.aheadM = aheadM;
    this.spotM = spotM;
    this.edge = edge;
    const widest = Math.max(0, ...offsetsM.map(Math.abs));
    this.mostOffM = edge !== 0 ? spotM / 2 : offsetsM.length === 2 ? widest / 2 : widest;
    this.wideRad = edge !== 0 ? 0 : atan(widest / Math.max(0.02, Math.abs(aheadM)));
    this.blindM = edge !== 0 ? spotM : offsetsM.length === 2 ? 0.02 : 0.004;
    // White is about twice the middle value, a line half of it.
    this.light = Math.min(1, 2 * dark);
    this.darkest = 0.3 * dark;
  }

  /** Share of a spot that is line, 0..1. */
  private darkness(i: number): number {
    const value = this.snapshot[this.line.slots[i] as number] as number;
    this.light = Math.max(this.light, value);
    this.darkest = Math.min(this.darkest, value);
    return Math.max(0, Math.min(1, (this.light - value) / Math.max(0.05, this.light - this.darkest)));
  }

  look = (into: LineLook): void => {
    const { slots, offsetsM } = this.line;
    if (this.edge !== 0) {
      const share = this.darkness(0);
      into.off = this.edge * (share - 0.5) * this.spotM;
      into.sees = share < 0.2 ? "light" : share > 0.85 ? "dark" : "on";
      return;
    }
    let weight = 0;
    let sum = 0;
    let most = 0;
    let dark = 0;
    for (let i = 0; i < slots.length; i += 1) {
      const share = this.darkness(i);
      weight += share;
      sum += share * (offsetsM[i] as number);
      most = Math.max(most, share);
      if (share > SEEN.most) dark += 1;
    }
    into.sees = most < SEEN.least ? "light" : dark >= Math.max(2, slots.length * 0.7) ? "dark" : "on";
    into.off = slots.length === 2 ? sum / 2 : weight > 0.15 ? sum / weight : 0;
  };
}

/** Where the readings of a wall follower lie, and what it does at corners. */
interface WallReadings {
  readonly slot: number;
  readonly side: "left" | "right";
  readonly aheadM: number;
  readonly besideM: number;
  readonly noseM: number;
  readonly corners: "turn" | "stop" | null;
  /** Slot of an eye that looks ahead, with the distance at which it stands before something; of a bumper, 0. */
  readonly ahead: { readonly slot: number; readonly nearM: number } | null;
}

export function followWall(wall: WallReadings, awayM: NumberOf, options: (task: Task) => MotionOptions): MotionMaker {
  return (task) => {
    const { cruise, ramp, mostDuty } = options(task);
    const { snapshot } = task.machine;
    const { slot, ahead } = wall;
    const sense = {
      ...wall,
      distanceM: () => snapshot[slot] as number,
      seen: () => snapshot[slot + 1] !== 0,
      awayM: awayM(task),
      blocked:
        ahead === null
          ? null
          : () =>
              ahead.nearM === 0
                ? snapshot[ahead.slot] !== 0
                : snapshot[ahead.slot + 1] !== 0 && (snapshot[ahead.slot] as number) < ahead.nearM,
    };
    return anew((drive) => new FollowWall(drive, sense, { speedMS: cruise, rampMS2: ramp, mostDuty }))(task);
  };
}
