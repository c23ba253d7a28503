// Steps that take time but do not drive: waits, motors, arms, heads; and the book-keeping of every timed step.

import { LAST } from "../cairn/readings.js";
import { HomePart, type PartMotion, TurnPart } from "../control/partMotion.js";
import type { Endings } from "./driveSteps.js";
import { type ActiveStep, type Condition, clockOf, type EndedBy, type NumberOf, resetHeld, type Task } from "./task.js";

/** What `wait` ends on, compiled. */
export interface WaitEndings {
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

/** A motor that is not one of the drive's, at a duty until one of its endings. */
export function motorStep(task: Task, motor: string, duty: number, endings: Endings): ActiveStep {
  const { machine, runner } = task;
  runner.takePart(task, motor, endings.label, false);
  machine.motorPower(motor, "drive", duty);
  const ends = new PartEnds(task, endings, null);
  const release = () => {
    if (endings.ending !== "keep") machine.motorPower(motor, endings.ending === "coast" ? "coast" : "brake", 0);
    runner.freePart(task, motor);
  };
  return {
    timed: false,
    drop: release,
    tick: () => {
      const ended = ends.tick(null);
      if (ended) release();
      return ended;
    },
  };
}

/** What a `move` is told, compiled. */
export interface MoveOrder {
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

/** To or by an angle, and then hold; a motor against a stop ends as stalled. */
export function moveStep(task: Task, order: MoveOrder, endings: Endings): ActiveStep {
  const { machine, runner } = task;
  runner.takePart(task, order.part, endings.label, false);
  const motion = startMove(task, order);
  const ends = new PartEnds(task, endings, motion.expectedSec);
  const stopsHere = () => {
    const part = machine.part(order.part);
    machine.movePart(order.part, new TurnPart(part, 0, 1, 1, 1));
    runner.freePart(task, order.part);
  };
  return {
    timed: false,
    drop: stopsHere,
    tick: () => {
      const ended = ends.tick(motion.stalled ? "stalled" : motion.arrived ? "done" : null);
      if (ended === "until" || ended === "for" || ended === "limit") stopsHere();
      else if (ended) runner.freePart(task, order.part);
      return ended;
    },
  };
}

const HOME_DUTY = 0.35;

export function homeStep(
  task: Task,
  part: string,
  toward: "low" | "high",
  using: NumberOf | null,
  endings: Endings,
): ActiveStep {
  const { machine, runner } = task;
  const duty = using ? Math.max(0.02, Math.min(1, Math.abs(using(task)))) : HOME_DUTY;
  let motion = begin();
  const ends = new PartEnds(task, endings, motion.expectedSec);
  function begin(): HomePart {
    runner.takePart(task, part, endings.label, false);
    const made = new HomePart(toward === "low" ? -1 : 1, duty);
    machine.movePart(part, made);
    return made;
  }
  const release = () => {
    machine.motorPower(part, "brake", 0);
    runner.freePart(task, part);
  };
  return {
    timed: false,
    pause: release,
    resume: () => {
      motion = begin();
    },
    drop: release,
    tick: () => {
      const ended = ends.tick(motion.arrived ? "done" : null);
      if (ended) release();
      return ended;
    },
  };
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

export function aimStep(task: Task, head: string, angle: NumberOf, endings: Endings): ActiveStep {
  const { runner } = task;
  const begin = () => {
    runner.takePart(task, head, endings.label, false);
    return new Look(task, head, angle(task));
  };
  let look = begin();
  const ends = new PartEnds(task, endings, 1);
  return {
    timed: false,
    pause: () => runner.freePart(task, head),
    resume: () => {
      look = begin();
    },
    drop: () => runner.freePart(task, head),
    tick: () => {
      const ended = ends.tick(look.done ? "done" : null);
      if (ended) runner.freePart(task, head);
      return ended;
    },
  };
}

/** Several looks from one side to the other: keeps the angles of the nearest and of the clearest. */
export function scanStep(
  task: Task,
  head: string,
  range: { from: NumberOf; to: NumberOf; looks: NumberOf },
  endings: Endings,
): ActiveStep {
  const { machine, runner } = task;
  const from = range.from(task);
  const to = range.to(task);
  const looks = Math.max(2, Math.min(60, Math.floor(range.looks(task) + 0.5)));
  const angleOf = (i: number) => from + ((to - from) * i) / (looks - 1);
  let index = 0;
  let seen: number[] = [];
  let look = begin();
  const ends = new PartEnds(task, endings, looks);
  function begin(): Look {
    runner.takePart(task, head, endings.label, false);
    index = 0;
    seen = [];
    return new Look(task, head, from);
  }
  const advance = (): EndedBy | null => {
    if (!look.done) return null;
    seen.push(machine.part(head).eyeDistanceM);
    index += 1;
    if (index < looks) {
      look = new Look(task, head, angleOf(index));
      return null;
    }
    const nearest = seen.indexOf(Math.min(...seen));
    machine.part(head).found(angleOf(nearest), angleOf(middleOfLargest(seen)));
    return "done";
  };
  return {
    timed: false,
    pause: () => runner.freePart(task, head),
    resume: () => {
      look = begin();
    },
    drop: () => runner.freePart(task, head),
    tick: () => {
      const ended = ends.tick(advance());
      if (ended) runner.freePart(task, head);
      return ended;
    },
  };
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
  task.counters[task.counters.length - 3] = drive.travelM;
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
  last[LAST.travel] = machine.drive.travelM - (counters[n - 3] as number);
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
