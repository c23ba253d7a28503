// A rehearsal that is planned again and again while its mission is written: it keeps a moment of every second, and a change
// of a later step goes on from the last one before that step.
import type { Program } from "../program/instructions.js";
import type { Moment } from "../run/run.js";
import type { Runnable } from "./prepare.js";
import { Rehearsal, type RunOptions } from "./rehearsal.js";

/** A moment is kept after so many ticks at first; of a long run every second one is let go. */
const EVERY_TICKS = 100;
const MOST_MOMENTS = 64;

export class Replan extends Rehearsal {
  private moments: Moment[] = [];
  private every = EVERY_TICKS;
  private next = 0;

  constructor(runnable: Runnable, options: RunOptions) {
    super(runnable, options);
    this.keep();
  }

  override advance(ticks: number): boolean {
    let left = ticks;
    while (left > 0 && !this.done) {
      const stretch = Math.min(left, Math.max(1, this.next - this.tick));
      super.advance(stretch);
      left -= stretch;
      if (this.tick >= this.next && !this.done) this.keep();
    }
    return this.done;
  }

  private keep(): void {
    this.moments.push(this.run.moment());
    if (this.moments.length > MOST_MOMENTS) {
      this.moments = this.moments.filter((_, i) => i % 2 === 0);
      this.every *= 2;
    }
    this.next = this.tick + this.every;
  }

  /**
   * Goes on with another program from the last moment before it differs.
   * @returns the tick it went back to; null when the two differ from the start on, and it has to be made anew
   */
  change(program: Program): number | null {
    const { runner } = this.run.brain;
    const tick = firstDifference(runner.program, program, runner.firstRun);
    if (tick === null) return null;
    const before = this.moments.filter((moment) => moment.tick < tick);
    const moment = before.at(-1);
    if (!moment) return null;
    moment.restore();
    runner.change(program);
    this.moments = before;
    this.next = moment.tick + this.every;
    return moment.tick;
  }
}

/** What has to be the same so that a run can go on: where values, counters and signals lie, and how they begin. */
function layoutOf(program: Program): string {
  const { instructions, goal, endOfTask, ...rest } = program;
  return JSON.stringify({ ...rest, endOfTask: starts(program) ? endOfTask : null });
}

function starts({ instructions }: Program): boolean {
  return instructions.some(({ op }) => op === "start");
}

/**
 * First tick in which a run met an instruction that another program has otherwise.
 * @param firstRun - of each instruction: the tick it ran in first, plus one; 0 while it never did
 * @returns infinity when it met none; null when nothing of the run can be used
 */
function firstDifference(before: Program, after: Program, firstRun: Int32Array): number | null {
  if (layoutOf(before) !== layoutOf(after)) return null;
  let first = Number.POSITIVE_INFINITY;
  for (let i = 0; i < before.instructions.length; i += 1) {
    const ran = firstRun[i] as number;
    if (ran === 0 || ran - 1 >= first) continue;
    if (JSON.stringify(before.instructions[i]) !== JSON.stringify(after.instructions[i])) first = ran - 1;
  }
  return first;
}
