// Runs the tasks of a mission: one after another in the order they started, each until it has to wait. Keeps who
// has the wheels and the parts, carries signals, and notices tasks that can only wait for each other.

import { LAST_COUNT } from "../cairn/readings.js";
import { Halt } from "../control/motions.js";
import { unwindGuards, watchGuards } from "./guards.js";
import type { Program } from "./instructions.js";
import { type LinkedProgram, linkProgram } from "./link.js";
import type { EndedBy, EveryState, Machine, StartedMotion, Task, Tasks, Value } from "./task.js";

/** A tick runs at most this many instructions: more would be a loop that never gives up the tick. */
const MOST_OPS = 20_000;

interface Claim {
  readonly task: Task;
  readonly label: string;
  readonly serial: number;
  readonly passing: boolean;
}

export class Runner implements Tasks {
  readonly mission: Task;
  linked: LinkedProgram;
  /** Of each instruction: the tick it ran in first, plus one; 0 while it never did. */
  firstRun: Int32Array;
  private readonly tasks: Task[] = [];
  private readonly parts = new Map<string, Claim>();
  private wheels: Claim | null = null;
  private nextId = 0;
  private opsLeft = 0;
  /** How often anything was claimed so far. */
  claims = 0;

  constructor(
    public program: Program,
    private readonly machine: Machine,
  ) {
    this.linked = linkProgram(program);
    this.firstRun = new Int32Array(program.instructions.length);
    this.mission = this.add(null, program.start);
    this.linked.initialise(this.mission);
  }

  /** Goes on with another program. All that ran so far has to be the same in both. */
  change(program: Program): void {
    const ran = this.firstRun.subarray(0, program.instructions.length);
    this.firstRun = new Int32Array(program.instructions.length);
    this.firstRun.set(ran);
    this.program = program;
    this.linked = linkProgram(program);
  }

  private add(parent: Task | null, at: number): Task {
    const { program, machine } = this;
    const task: Task = {
      id: this.nextId,
      machine,
      runner: this,
      parent,
      at,
      frames: [],
      values: [],
      given: 0,
      counters: new Float64Array(program.counters + 3).fill(-1),
      last: new Float64Array(LAST_COUNT),
      signals: parent ? parent.signals.slice() : new Uint8Array(program.signals.length),
      active: null,
      record: null,
      children: [],
      guards: [],
      everies: [],
      passing: null,
      lostTicks: 0,
      pauses: 0,
      pausedClock: 0,
      skip: false,
      quiet: 0,
      stepsEnded: 0,
      ended: false,
    };
    this.nextId += 1;
    this.tasks.push(task);
    return task;
  }

  /** A branch of `together`: shares the values of the routines it stands in. */
  branch(parent: Task, entry: number, routine: number | null): Task {
    const task = this.add(parent, entry);
    if (routine !== null) task.values[routine] = parent.values[routine];
    return task;
  }

  /** A routine as a task of its own. */
  start(entry: number, routine: number, values: Value[]): void {
    const task = this.add(null, entry);
    task.values[routine] = values;
    task.frames.push({ returnTo: this.program.endOfTask, routine, guards: 0, everies: 0 });
  }

  /** Ends the tasks that a routine was started as: what they drove brakes, their parts are let go. */
  stopRoutine(routine: number): void {
    for (const task of this.tasks)
      if (task !== this.mission && task.parent === null && task.frames[0]?.routine === routine) this.end(task);
  }

  send(signal: number): void {
    for (const task of this.tasks) task.signals[signal] = 1;
  }

  tick(): void {
    const { machine, tasks } = this;
    this.opsLeft = MOST_OPS;
    let moved = false;
    for (let i = 0; i < tasks.length && !machine.ended; i += 1) {
      const task = tasks[i] as Task;
      if (task.ended || task.pauses > 0) continue;
      if (task.guards.length > 0) watchGuards(task);
      moved = this.run(task) || moved;
      if (task.ended) this.close(task);
    }
    if (this.mission.ended) machine.finish();
    for (let i = tasks.length - 1; i > 0; i -= 1) if ((tasks[i] as Task).ended) tasks.splice(i, 1);
    if (!moved && !machine.ended) this.watchWaiting();
  }

  /** Runs a task until it waits. @returns whether anything but waiting happened */
  private run(task: Task): boolean {
    const { machine } = this;
    const { ops } = this.linked;
    const before = task.at;
    while (!machine.ended) {
      this.opsLeft -= 1;
      if (this.opsLeft < 0) return true;
      if (this.firstRun[task.at] === 0) this.firstRun[task.at] = machine.tick + 1;
      const op = ops[task.at];
      if (!op?.(task)) break;
    }
    return task.at !== before || task.ended;
  }

  /** Runs a routine that takes no time to its end, and returns what it gave. */
  callNow(task: Task, entry: number, routine: number, values: Value[]): Value {
    const { ops } = this.linked;
    const { at } = task;
    const depth = task.frames.length;
    task.values[routine] = values;
    task.frames.push({ returnTo: at, routine, guards: task.guards.length, everies: task.everies.length });
    task.at = entry;
    task.given = 0;
    task.quiet += 1;
    while (task.frames.length > depth && !this.machine.ended) {
      this.opsLeft -= 1;
      if (this.opsLeft < 0) {
        this.machine.stop("a routine inside a value takes more than 20,000 steps at once: give it less to do");
        break;
      }
      if (this.firstRun[task.at] === 0) this.firstRun[task.at] = this.machine.tick + 1;
      const op = ops[task.at];
      if (!op?.(task) && task.ended) break;
    }
    task.quiet -= 1;
    task.at = at;
    return task.given;
  }

  /** Ends a task from outside, with all below it. */
  end(task: Task): void {
    if (task.ended) return;
    task.active?.drop?.(task);
    if (task.record) {
      task.record.endTick = this.machine.tick;
      task.record.endedBy = "interrupted";
    }
    task.ended = true;
    this.close(task);
  }

  private close(task: Task): void {
    unwindGuards(task, 0);
    this.cutEveries(task, 0);
    for (const child of task.children) this.end(child);
    task.active = null;
    this.letGo(task, 0);
  }

  /** Brakes what a task set and passed on since a claim. */
  private letGo(task: Task, since: number): void {
    if (this.wheels?.task === task && this.wheels.serial > since) {
      this.halt(task);
      this.wheels = null;
      task.passing = null;
    }
    for (const [name, claim] of this.parts) {
      if (claim.task !== task || claim.serial <= since) continue;
      if (claim.passing) this.machine.motorPower(name, "brake", 0);
      this.parts.delete(name);
    }
  }

  // The wheels and the parts: one owner each.

  private mayTake(claim: Claim | null | undefined, task: Task): boolean {
    if (!claim || claim.task === task || claim.task.ended || claim.task.pauses > 0) return true;
    return isBelow(task, claim.task) || isBelow(claim.task, task);
  }

  /** Claims the wheels; a clash stops the mission. */
  takeDrive(task: Task, label: string): void {
    if (!this.mayTake(this.wheels, task)) this.clash(this.wheels as Claim, label, "the wheels");
    this.claims += 1;
    this.wheels = { task, label: label || (this.wheels?.label ?? ""), serial: this.claims, passing: false };
  }

  takePart(task: Task, name: string, label: string, passing: boolean): void {
    const claim = this.parts.get(name);
    if (!this.mayTake(claim, task)) this.clash(claim as Claim, label, name);
    this.claims += 1;
    this.parts.set(name, { task, label, serial: this.claims, passing });
  }

  private clash(claim: Claim, label: string, what: string): void {
    this.machine.stop(`steps ${claim.label} and ${label} both want ${what} at the same time`);
  }

  /** The step is over: others may have them. */
  freeDrive(task: Task): void {
    if (this.wheels?.task === task) this.wheels = null;
  }

  freePart(task: Task, name: string): void {
    if (this.parts.get(name)?.task === task) this.parts.delete(name);
  }

  drivesWith(task: Task): boolean {
    return this.wheels?.task === task;
  }

  /** Slows down and stands. @returns false when it stands already, before any motion has moved it */
  halt(task: Task): boolean {
    const { drive } = task.machine;
    if (drive.mode !== "drive") {
      task.machine.setMotion(null);
      return false;
    }
    task.machine.setMotion(new Halt(drive, drive.model.rampMS2 * 1.5, drive.model.turnRampRadS2 * 1.5));
    return true;
  }

  passOn(task: Task, started: StartedMotion, label: string): void {
    this.takeDrive(task, label);
    task.passing = started;
    task.machine.setMotion(started.motion);
  }

  // Loops of `every`.

  cutEveries(task: Task, depth: number): void {
    while (task.everies.length > depth) {
      const state = task.everies.pop() as EveryState;
      if (state.record) {
        state.record.endTick = this.machine.tick;
        state.record.endedBy = state.ended;
      }
      this.letGo(task, state.claims);
    }
  }

  /** The run is over: steps still open end now. */
  closeAll(tick: number, endedBy: EndedBy): void {
    for (const task of this.tasks) {
      for (const record of [task.record, ...task.everies.map((state) => state.record)]) {
        if (!record) continue;
        record.endTick = tick;
        record.endedBy = endedBy;
      }
    }
  }

  /** Readings that waiting steps look at. */
  waitedSlots(): readonly number[] {
    const { tasks } = this;
    if (tasks.length === 1) return tasks[0]?.active?.looksAt ?? [];
    return tasks.flatMap((task) => (task.pauses === 0 ? (task.active?.looksAt ?? []) : []));
  }

  /** All that are left wait for signals only: nobody can send them any more. */
  private watchWaiting(): void {
    const live = this.tasks.filter((task) => !task.ended && task.pauses === 0);
    const waiting = live.filter((task) => task.active?.signal);
    if (waiting.length === 0) return;
    const stuck = live.every((task) => {
      const waits = task.active?.joins || Boolean(task.active?.signal);
      return waits && task.guards.every((guard) => guard.code.handlers.every(({ condition }) => condition.signalOnly));
    });
    if (!stuck) return;
    const words = waiting.map((task) => `step ${task.record?.step ?? "?"} waits until ${task.active?.signal}`);
    this.machine.stop(
      waiting.length === 1
        ? `${words[0]}, and nobody is left to send it`
        : `tasks wait for each other: ${words.join(", ")}`,
    );
  }
}

function isBelow(task: Task, above: Task): boolean {
  for (let at = task.parent; at; at = at.parent) if (at === above) return true;
  return false;
}
