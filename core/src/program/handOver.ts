// `hand over` at run time: the driver's sticks have the wheels, buttons start and end what `remote` binds to them.

import { WHEELS } from "../cairn/effects.js";
import { TurnPart } from "../control/partMotion.js";
import { HandMotion } from "../remote/handMotion.js";
import { atRest, type Handset } from "../remote/handset.js";
import { mapSticks, type StickMode, USUAL_SHAPE } from "../remote/mapping.js";
import type { Endings } from "./driveSteps.js";
import { type ActiveStep, clockOf, type EndedBy, type NumberOf, resetHeld, type Task } from "./task.js";

/** The `drive` line, compiled; each null for what is usual. */
interface StickProgram {
  readonly mode: StickMode;
  readonly at: NumberOf | null;
  readonly turning: NumberOf | null;
  readonly dead: NumberOf | null;
  readonly curve: NumberOf | null;
  readonly ramp: NumberOf | null;
  readonly switching: NumberOf | null;
}

/** One button, compiled. */
interface BindingProgram {
  readonly how: "hold" | "toggle" | "tap";
  /** Index among the buttons. */
  readonly button: number;
  readonly ceiling: NumberOf | null;
  /** Where its step begins; null for a ceiling. */
  readonly entry: number | null;
  /** It is a routine, which ends by itself. */
  readonly routine: boolean;
  readonly ending: "stop" | "keep" | number;
  /** What it can move. */
  readonly moves: ReadonlySet<string>;
}

interface DialProgram {
  /** Index among the levels. */
  readonly level: number;
  readonly part: string;
  readonly from: NumberOf;
  readonly to: NumberOf;
}

export interface RemoteProgram {
  readonly sticks: StickProgram | null;
  readonly bindings: readonly BindingProgram[];
  readonly dials: readonly DialProgram[];
  /** Greatest steering angle of a car type, rad; null for two sides. */
  readonly steerRad: number | null;
}

/** Share of the top speed that is the ceiling when none is given. */
const USUAL_CEILING = 0.7;
/** A slider has to be moved this far before it moves anything. */
const DIAL_STEP = 0.004;

class Buttons {
  private readonly live: (Task | null)[];
  private readonly on: boolean[];
  private before = 0;

  constructor(
    private readonly task: Task,
    private readonly bindings: readonly BindingProgram[],
  ) {
    this.live = bindings.map(() => null);
    this.on = bindings.map(() => false);
  }

  /** A routine that drives has the wheels for itself. */
  get drives(): boolean {
    return this.bindings.some(({ moves }, i) => moves.has(WHEELS) && this.runs(i));
  }

  /** Lowest of the ceilings that are held or on; null when none is. */
  ceiling(): number | null {
    let least: number | null = null;
    this.bindings.forEach(({ ceiling }, i) => {
      if (!ceiling || !this.on[i]) return;
      const value = ceiling(this.task);
      if (least === null || value < least) least = value;
    });
    return least;
  }

  tick(buttons: number): void {
    this.bindings.forEach((binding, i) => {
      const bit = 1 << binding.button;
      const down = (buttons & bit) !== 0;
      if (down === ((this.before & bit) !== 0)) return;
      if (binding.how === "hold") this.turn(i, down);
      else if (down) this.turn(i, !this.isOn(i));
    });
    this.before = buttons;
  }

  /** Everything a button began ends, as if nobody had pressed it. */
  endAll(): void {
    this.live.forEach((live, i) => {
      if (live) this.task.runner.end(live);
      this.live[i] = null;
      this.on[i] = false;
    });
    this.before = 0;
  }

  private runs(i: number): boolean {
    const live = this.live[i];
    return live !== null && live !== undefined && !live.ended;
  }

  /** Whether a press would be the second one. */
  private isOn(i: number): boolean {
    const { routine, ending } = this.bindings[i] as BindingProgram;
    if (routine) return this.runs(i);
    return ending === "keep" ? false : (this.on[i] as boolean);
  }

  private turn(i: number, on: boolean): void {
    const { entry, ending, ceiling, routine } = this.bindings[i] as BindingProgram;
    this.on[i] = on;
    if (ceiling || entry === null) return;
    if (on) return this.begin(i, entry);
    if (ending === "keep" && (routine || this.bindings[i]?.how === "hold")) return;
    if (typeof ending === "number") return this.begin(i, ending);
    this.end(i);
  }

  private end(i: number): void {
    const live = this.live[i];
    if (live) this.task.runner.end(live);
    this.live[i] = null;
  }

  private begin(i: number, entry: number): void {
    const { task, bindings } = this;
    const { moves } = bindings[i] as BindingProgram;
    // What another button began with the same part gives way: the press that came last has it.
    bindings.forEach((other, k) => {
      if (k === i || [...other.moves].every((part) => !moves.has(part))) return;
      this.end(k);
      this.on[k] = false;
    });
    this.end(i);
    this.live[i] = task.runner.branch(task, entry, null);
  }
}

/** Lasts until one of its endings; where nobody can drive at all, as in a rehearsal, it is skipped. */
export function handOverStep(task: Task, remote: RemoteProgram, endings: Endings): ActiveStep {
  return new HandOver(task, remote, endings);
}

class HandOver implements ActiveStep {
  readonly timed = false;
  readonly looksAt: readonly number[];
  private readonly startClock: number;
  private readonly forSec: number | null;
  private readonly limitSec: number | null;
  private readonly buttons: Buttons;
  private readonly motion = new HandMotion();
  private readonly dials: number[];
  private holding = false;
  private silent = false;

  constructor(
    private readonly task: Task,
    private readonly remote: RemoteProgram,
    private readonly endings: Endings,
  ) {
    this.startClock = clockOf(task);
    this.forSec = endings.forTime ? endings.forTime(task) : null;
    this.limitSec = endings.limit ? endings.limit(task) : null;
    resetHeld(task, endings.until);
    this.buttons = new Buttons(task, remote.bindings);
    this.dials = remote.dials.map(() => Number.NaN);
    this.looksAt = endings.until?.looksAt ?? [];
  }

  tick(): EndedBy | null {
    const { task, endings } = this;
    const { machine } = task;
    const elapsed = (clockOf(task) - this.startClock) * machine.tickSec;
    const ended = handEnd(task, endings, elapsed, this.forSec, this.limitSec);
    if (ended) {
      this.drop();
      return ended;
    }
    machine.handedOver = true;
    const { handset } = machine;
    if (!handset) this.drop();
    // After a silence nothing moves before the sticks were let go once.
    this.silent = !handset || (this.silent && !atRest(handset));
    machine.handSilent = this.silent;
    if (handset && !this.silent) this.hear(handset);
    return null;
  }

  pause(): void {
    this.drop();
  }

  drop(): void {
    this.buttons.endAll();
    this.letGo();
  }

  private letGo(): void {
    const { machine, runner } = this.task;
    if (this.holding) {
      machine.setMotion(null);
      machine.drive.release("brake");
      runner.freeDrive(this.task);
    }
    this.holding = false;
  }

  private hear(handset: Handset): void {
    const { task, remote, buttons } = this;
    buttons.tick(handset.buttons);
    turnDials(task, remote.dials, handset, this.dials, this.endings.label);
    // A routine that drives finds the wheels at rest, even if it waits first.
    if (buttons.drives) this.letGo();
    else if (remote.sticks) this.drive(remote.sticks, handset);
  }

  private drive(sticks: StickProgram, handset: Handset): void {
    const { task, motion } = this;
    const { machine } = task;
    if (!this.holding) {
      task.runner.takeDrive(task, this.endings.label);
      motion.begin(machine.drive);
      machine.setMotion(motion);
      this.holding = true;
    }
    steerByHand(task, sticks, handset, motion, this.buttons.ceiling(), this.remote.steerRad);
  }
}

function handEnd(
  task: Task,
  endings: Endings,
  elapsed: number,
  forSec: number | null,
  limitSec: number | null,
): EndedBy | null {
  if (!task.machine.driven) return "skipped";
  if (endings.until && endings.until.test(task) !== 0) return "until";
  if (forSec !== null && elapsed >= forSec - 1e-9) return "for";
  return limitSec !== null && elapsed >= limitSec - 1e-9 ? "limit" : null;
}

function steerByHand(
  task: Task,
  sticks: StickProgram,
  handset: Handset,
  motion: HandMotion,
  held: number | null,
  steerRad: number | null,
): void {
  const { machine } = task;
  const { topSpeedMS } = machine.drive.model;
  const usual = sticks.at ? sticks.at(task) : topSpeedMS * USUAL_CEILING;
  const ceiling = Math.max(0.01, Math.min(topSpeedMS, held ?? usual));
  const wanted = mapSticks(handset, sticks.mode, {
    dead: sticks.dead ? sticks.dead(task) : USUAL_SHAPE.dead,
    curve: sticks.curve ? sticks.curve(task) : USUAL_SHAPE.curve,
    turning: sticks.turning ? sticks.turning(task) : USUAL_SHAPE.turning,
  });
  const { wish } = motion;
  wish.ceilingMS = ceiling;
  wish.rampMS2 = sticks.ramp ? Math.max(0.01, sticks.ramp(task)) : 0;
  wish.switching = sticks.switching ? Math.max(0.05, sticks.switching(task)) : 0;
  if (steerRad === null) {
    const { mixing } = machine.drive.model;
    wish.leftMS = wanted.left * ceiling;
    wish.rightMS = wanted.right * ceiling;
    wish.asideMS = mixing ? wanted.aside * Math.min(ceiling, mixing.topAsideMS) : 0;
    return;
  }
  const speed = ((wanted.left + wanted.right) / 2) * ceiling;
  wish.leftMS = speed;
  wish.rightMS = speed;
  machine.steer(wanted.steer * steerRad);
}

function turnDials(task: Task, dials: readonly DialProgram[], handset: Handset, stood: number[], label: string): void {
  dials.forEach(({ level, part: name, from, to }, i) => {
    const share = handset.levels[level] as number;
    const before = stood[i] as number;
    // Where it stands at first moves nothing; NaN is "not seen yet".
    if (Number.isNaN(before)) stood[i] = share;
    if (!(Math.abs(share - before) > DIAL_STEP)) return;
    stood[i] = share;
    const low = from(task);
    const target = low + (to(task) - low) * share;
    const part = task.machine.part(name);
    task.runner.takePart(task, name, label, true);
    task.machine.movePart(name, new TurnPart(part, target - part.angleRad, 1, part.topRateRadS, 1));
  });
}
