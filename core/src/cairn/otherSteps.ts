// Steps that take time but do not drive, and the book-keeping of every step that takes time.
import { type Condition, type Endings, resetHeld } from "./driveSteps.js";
import { LAST } from "./readings.js";
import type { ActiveStep, EndedBy, NumberOf, Task } from "./task.js";

/** What `wait` ends on, compiled. */
export interface WaitEndings {
  readonly duration: NumberOf | null;
  readonly until: Condition | null;
  readonly limit: NumberOf | null;
}

export function waitStep(task: Task, { duration, until, limit }: WaitEndings): ActiveStep {
  const startTick = task.machine.tick;
  const seconds = duration ? duration(task) : null;
  const limitSec = limit ? limit(task) : null;
  resetHeld(task, until);
  return {
    timed: false,
    tick: ({ machine }) => {
      const elapsed = (machine.tick - startTick) * machine.tickSec;
      if (until && until.test(task) !== 0) return "until";
      if (seconds !== null && elapsed >= seconds - 1e-9) return "done";
      return limitSec !== null && elapsed >= limitSec - 1e-9 ? "limit" : null;
    },
  };
}

/** A motor that is not one of the drive's, at a duty until one of its endings. */
export function motorStep(task: Task, motor: string, duty: number, endings: Endings): ActiveStep {
  const { machine } = task;
  const startTick = machine.tick;
  const forSec = endings.forTime ? endings.forTime(task) : null;
  const limitSec = endings.limit ? endings.limit(task) : null;
  machine.motorPower(motor, "drive", duty);
  resetHeld(task, endings.until);
  const end = (by: EndedBy): EndedBy => {
    if (endings.ending !== "keep") machine.motorPower(motor, endings.ending === "coast" ? "coast" : "brake", 0);
    return by;
  };
  return {
    timed: false,
    tick: () => {
      const elapsed = (machine.tick - startTick) * machine.tickSec;
      if (endings.until && endings.until.test(task) !== 0) return end("until");
      if (forSec !== null && elapsed >= forSec - 1e-9) return end("for");
      if (limitSec !== null && elapsed >= limitSec - 1e-9) return end("limit");
      if (limitSec === null && elapsed >= (forSec ?? 20) * 3) {
        machine.stop(`step ${endings.label} never ended: "${endings.until?.text ?? endings.text}" did not come true`);
        return end("bound");
      }
      return null;
    },
  };
}

/** Starts measuring for `last`; the last three counters of a task are kept for this. */
export function openLast(task: Task): void {
  const { drive, tick } = task.machine;
  task.counters[task.counters.length - 3] = drive.travelM;
  task.counters[task.counters.length - 2] = drive.headingRad;
  task.counters[task.counters.length - 1] = tick;
}

/** Writes down how a step ended, for the record and for `last`. */
export function closeStep(task: Task, ended: EndedBy): void {
  const { machine, last, counters, record } = task;
  const n = counters.length;
  last[LAST.limited] = ended === "limit" ? 1 : 0;
  last[LAST.stalled] = ended === "stalled" || machine.drive.stalled ? 1 : 0;
  last[LAST.travel] = machine.drive.travelM - (counters[n - 3] as number);
  last[LAST.turned] = machine.drive.headingRad - (counters[n - 2] as number);
  last[LAST.time] = (machine.tick - (counters[n - 1] as number)) * machine.tickSec;
  if (record) {
    record.endTick = machine.tick;
    record.endedBy = ended;
  }
  task.active = null;
  task.record = null;
}
