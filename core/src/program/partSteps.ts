// Steps that take time but do not drive: waits, motors, arms, heads; and the book-keeping of every timed step.

import { LAST } from "../cairn/readings.js";
import { HomePart, type PartMotion, TurnPart } from "../control/partMotion.js";
import type { Endings } from "./driveSteps.js";
import { type ActiveStep, type Condition, clockOf, type EndedBy, type NumberOf, resetHeld, type Task } from "./task.js";

/** What `wait` ends on, compiled. */
interface WaitEndings {
  readonly duration: NumberOf | null;
  /** Ends it quietly. */
  readonly atMost: NumberOf | null;
  readonly until: Condition | null;
  readonly limit: NumberOf | null;
}

export function waitStep(task: Task, { duration, atMost, until, limit }: WaitEndings): ActiveStep {
  const startClock = clockOf(task);
  const seconds = duration ? duration(task) : null;
  const limitSec = limit ? limit(task) : null;
  const mostSec = atMost ? atMost(task) : null;
  resetHeld(task, until);
  return {
    timed: false,
    signal: until?.signalOnly && limitSec === null && mostSec === null && seconds === null ? until.text : "",
    looksAt: until?.looksAt ?? [],
    resume: () => resetHeld(task, until),
    tick: ({ machine }) => {
      const elapsed = (clockOf(task) - startClock) * machine.tickSec;
      if (until && until.test(task) !== 0) return "until";
      if (mostSec !== null && elapsed >= mostSec - 1e-9) return "for";
      if (seconds !== null && elapsed >= seconds - 1e-9) return "done";
      return limitSec !== null && elapsed >= limitSec - 1e-9 ? "limit" : null;
    },
  };
}

/** Longest an open step with a part may take, s, and how much longer than expected. */
const BOUND = { openSec: 60, factor: 3, extraSec: 2 } as const;

/** What ends a step with a part: its endings, looked at in the order they are written. */
class PartEnds {
  private readonly startClock: number;
  private readonly forSec: number | null;
  private readonly limitSec: number | null;
  private readonly boundSec: number;

  constructor(
    private readonly task: Task,
    private readonly endings: Endings,
    expectedSec: number | null,
  ) {
    this.startClock = clockOf(task);
    this.forSec = endings.forTime ? endings.forTime(task) : null;
    this.limitSec = endings.limit ? endings.limit(task) : null;
    const expected = expectedSec ?? this.forSec;
    this.boundSec = expected === null ? BOUND.openSec : BOUND.factor * expected + BOUND.extraSec;
    resetHeld(task, endings.until);
  }

  tick(arrived: EndedBy | null): EndedBy | null {
    const { task, endings } = this;
    const elapsed = (clockOf(task) - this.startClock) * task.machine.tickSec;
    if (endings.until && endings.until.test(task) !== 0) return "until";
    if (arrived) return arrived;
    if (this.forSec !== null && elapsed >= this.forSec - 1e-9) return "for";
    if (this.limitSec !== null && elapsed >= this.limitSec - 1e-9) return "limit";
    if (this.limitSec !== null || elapsed < this.boundSec) return null;
    task.machine.stop(
      `step ${endings.label} never ended: "${endings.until?.text ?? endings.text}" did not come true within ${Math.floor(elapsed + 0.5)} s`,
    );
    return "bound";
  }
}

/** Steps with parts keep all that changes in their fields, so that a run can be put back to an earlier moment. */
abstract class PartStep implements ActiveStep {
  readonly timed = false;
  protected abstract readonly ends: PartEnds;

  constructor(
    protected readonly task: Task,
    protected readonly part: string,
    protected readonly endings: Endings,
  ) {}

  protected take(): void {
    this.task.runner.takePart(this.task, this.part, this.endings.label, false);
  }

  protected free(): void {
    this.task.runner.freePart(this.task, this.part);
  }

  abstract tick(): EndedBy | null;
}

class MotorStep extends PartStep {
  protected readonly ends: PartEnds;

  constructor(task: Task, motor: string, duty: number, endings: Endings) {
    super(task, motor, endings);
    this.take();
    task.machine.motorPower(motor, "drive", duty);
    this.ends = new PartEnds(task, endings, null);
  }

  tick(): EndedBy | null {
    const ended = this.ends.tick(null);
    if (ended) this.drop();
    return ended;
  }

  drop(): void {
    const { ending } = this.endings;
    if (ending !== "keep") this.task.machine.motorPower(this.part, ending === "coast" ? "coast" : "brake", 0);
    this.free();
  }
}

/** A motor that is not one of the drive's, at a duty until one of its endings. */
export function motorStep(task: Task, motor: string, duty: number, endings: Endings): ActiveStep {
  return new MotorStep(task, motor, duty, endings);
}

/** What a `move` is told, compiled. */
interface MoveOrder {
  readonly part: string;
  readonly how: "to" | "by" | null;
  readonly angle: NumberOf | null;
  readonly at: NumberOf | null;
  readonly using: NumberOf | null;
}

/** Half of what it can, unless a speed is given. */
const USUAL_RATE_SHARE = 0.5;

export function startMove(task: Task, order: MoveOrder): PartMotion {
  const part = task.machine.part(order.part);
  const rate = order.at ? order.at(task) : part.topRateRadS * USUAL_RATE_SHARE;
  const most = order.using ? Math.max(0.02, Math.min(1, Math.abs(order.using(task)))) : 1;
  const angle = order.angle ? order.angle(task) : null;
  const way = angle === null ? null : order.how === "by" ? angle : angle - part.angleRad;
  const motion = new TurnPart(part, way, rate < 0 ? -1 : 1, Math.abs(rate), most);
  task.machine.movePart(order.part, motion);
  return motion;
}

class MoveStep extends PartStep {
  protected readonly ends: PartEnds;
  private readonly motion: PartMotion;

  constructor(task: Task, order: MoveOrder, endings: Endings) {
    super(task, order.part, endings);
    this.take();
    this.motion = startMove(task, order);
    this.ends = new PartEnds(task, endings, this.motion.expectedSec);
  }

  tick(): EndedBy | null {
    const { motion } = this;
    const ended = this.ends.tick(motion.stalled ? "stalled" : motion.arrived ? "done" : null);
    if (ended === "until" || ended === "for" || ended === "limit") this.drop();
    else if (ended) this.free();
    return ended;
  }

  /** Holds where it is. */
  drop(): void {
    const { machine } = this.task;
    machine.movePart(this.part, new TurnPart(machine.part(this.part), 0, 1, 1, 1));
    this.free();
  }
}

/** To or by an angle, and then hold; a motor against a stop ends as stalled. */
export function moveStep(task: Task, order: MoveOrder, endings: Endings): ActiveStep {
  return new MoveStep(task, order, endings);
}

const HOME_DUTY = 0.35;

class HomeStep extends PartStep {
  protected readonly ends: PartEnds;
  private motion: HomePart;

  constructor(
    task: Task,
    part: string,
    private readonly toward: "low" | "high",
    private readonly duty: number,
    endings: Endings,
  ) {
    super(task, part, endings);
    this.motion = this.begin();
    this.ends = new PartEnds(task, endings, this.motion.expectedSec);
  }

  private begin(): HomePart {
    this.take();
    const made = new HomePart(this.toward === "low" ? -1 : 1, this.duty);
    this.task.machine.movePart(this.part, made);
    return made;
  }

  tick(): EndedBy | null {
    const ended = this.ends.tick(this.motion.arrived ? "done" : null);
    if (ended) this.drop();
    return ended;
  }

  pause(): void {
    this.drop();
  }

  resume(): void {
    this.motion = this.begin();
  }

  drop(): void {
    this.task.machine.motorPower(this.part, "brake", 0);
    this.free();
  }
}

export function homeStep(
  task: Task,
  part: string,
  toward: "low" | "high",
  using: NumberOf | null,
  endings: Endings,
): ActiveStep {
  const duty = using ? Math.max(0.02, Math.min(1, Math.abs(using(task)))) : HOME_DUTY;
  return new HomeStep(task, part, toward, duty, endings);
}

/** Turns a head, waits until it stands, and until every eye on it has looked anew. */
class Look {
  private settledAt = -1;

  constructor(
    private readonly task: Task,
    private readonly head: string,
    readonly rad: number,
  ) {
    const { machine } = task;
    const part = machine.part(head);
    machine.movePart(head, new TurnPart(part, rad - part.angleRad, 1, part.topRateRadS, 1));
    part.aim(rad);
  }

  get done(): boolean {
    const { machine } = this.task;
    const part = machine.part(this.head);
    if (!part.settled || Math.abs(part.angleRad - this.rad) > 0.02) {
      this.settledAt = -1;
      return false;
    }
    if (this.settledAt < 0) this.settledAt = machine.tick;
    return part.eyeAgeTicks === null || part.eyeAgeTicks < machine.tick - this.settledAt;
  }
}

/** A step with a head: it begins to look anew after a pause. */
abstract class HeadStep extends PartStep {
  protected abstract look: Look;

  protected abstract begin(): Look;

  pause(): void {
    this.free();
  }

  resume(): void {
    this.look = this.begin();
  }

  drop(): void {
    this.free();
  }
}

class AimStep extends HeadStep {
  protected readonly ends: PartEnds;
  protected look: Look;

  constructor(
    task: Task,
    head: string,
    private readonly angle: NumberOf,
    endings: Endings,
  ) {
    super(task, head, endings);
    this.look = this.begin();
    this.ends = new PartEnds(task, endings, 1);
  }

  protected begin(): Look {
    this.take();
    return new Look(this.task, this.part, this.angle(this.task));
  }

  tick(): EndedBy | null {
    const ended = this.ends.tick(this.look.done ? "done" : null);
    if (ended) this.free();
    return ended;
  }
}

export function aimStep(task: Task, head: string, angle: NumberOf, endings: Endings): ActiveStep {
  return new AimStep(task, head, angle, endings);
}

/** Several looks from one side to the other: keeps the angles of the nearest and of the clearest. */
class ScanStep extends HeadStep {
  protected readonly ends: PartEnds;
  private index = 0;
  private seen: number[] = [];
  protected look: Look;

  constructor(
    task: Task,
    head: string,
    private readonly from: number,
    private readonly to: number,
    private readonly looks: number,
    endings: Endings,
  ) {
    super(task, head, endings);
    this.look = this.begin();
    this.ends = new PartEnds(task, endings, looks);
  }

  protected begin(): Look {
    this.take();
    this.index = 0;
    this.seen = [];
    return new Look(this.task, this.part, this.from);
  }

  private angleOf(i: number): number {
    return this.from + ((this.to - this.from) * i) / (this.looks - 1);
  }

  private advance(): EndedBy | null {
    if (!this.look.done) return null;
    const { task, part: head, seen } = this;
    const part = task.machine.part(head);
    seen.push(part.eyeDistanceM);
    this.index += 1;
    if (this.index < this.looks) {
      this.look = new Look(task, head, this.angleOf(this.index));
      return null;
    }
    const nearest = seen.indexOf(Math.min(...seen));
    part.found(this.angleOf(nearest), this.angleOf(middleOfLargest(seen)));
    return "done";
  }

  tick(): EndedBy | null {
    const ended = this.ends.tick(this.advance());
    if (ended) this.free();
    return ended;
  }
}

export function scanStep(
  task: Task,
  head: string,
  range: { from: NumberOf; to: NumberOf; looks: NumberOf },
  endings: Endings,
): ActiveStep {
  const [from, to] = [range.from(task), range.to(task)];
  const looks = Math.max(2, Math.min(60, Math.floor(range.looks(task) + 0.5)));
  return new ScanStep(task, head, from, to, looks, endings);
}

/** Of equally clear looks side by side the middle one: the way there is widest. */
function middleOfLargest(values: readonly number[]): number {
  const most = Math.max(...values) - 1e-3;
  let best = 0;
  let bestLength = 0;
  for (let i = 0; i < values.length; i += 1) {
    let end = i;
    while (end < values.length && (values[end] as number) >= most) end += 1;
    if (end - i > bestLength) {
      bestLength = end - i;
      best = Math.floor((i + end - 1) / 2);
    }
  }
  return best;
}

/** Starts measuring for `last`; the last three counters of a task are kept for this. */
export function openLast(task: Task): void {
  const { drive } = task.machine;
  task.counters[task.counters.length - 3] = drive.wayM;
  task.counters[task.counters.length - 2] = drive.headingRad;
  task.counters[task.counters.length - 1] = clockOf(task);
}

/** Writes down how a step ended, for the record and for `last`. */
export function closeStep(task: Task, ended: EndedBy): void {
  const { machine, last, counters, record } = task;
  const n = counters.length;
  last[LAST.limited] = ended === "limit" ? 1 : 0;
  last[LAST.stalled] = ended === "stalled" || machine.drive.stalled ? 1 : 0;
  last[LAST.lost] = ended === "lost" ? 1 : 0;
  last[LAST.ended] = ended === "ended" ? 1 : 0;
  last[LAST.travel] = machine.drive.wayM - (counters[n - 3] as number);
  last[LAST.turned] = machine.drive.headingRad - (counters[n - 2] as number);
  last[LAST.time] = (clockOf(task) - (counters[n - 1] as number)) * machine.tickSec;
  if (record) {
    record.endTick = machine.tick;
    record.endedBy = ended;
  }
  task.active = null;
  task.record = null;
  task.skip = false;
  task.stepsEnded += 1;
}
