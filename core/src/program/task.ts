// What a running mission is made of: the machine it acts on, and tasks with their place in the program, their
// values, the step in hand, and what interrupted it.
import type { DriveControl } from "../control/drive.js";
import type { Motion } from "../control/motions.js";
import type { PartControl, PartMotion } from "../control/partMotion.js";
import type { RandomStream } from "../math/random.js";
import type { Handset } from "../remote/handset.js";
import type { ListState, Value } from "./lists.js";

export type { Value } from "./lists.js";

export type EndedBy =
  | "done"
  | "until"
  | "for"
  | "limit"
  | "stalled"
  /** The line a step followed is gone; the wall came to its end. */
  | "lost"
  | "ended"
  | "skipped"
  | "bound"
  | "interrupted";

export interface StepRecord {
  readonly step: string;
  readonly pass: number;
  readonly text: string;
  /** Line of the text, from 1. */
  readonly line: number;
  /** Which task ran it: 0 is the mission itself. */
  readonly task: number;
  readonly startTick: number;
  endTick: number;
  endedBy: EndedBy;
  readonly timed: boolean;
}

/** A step that takes time; ticked once per control tick until it says how it ended. */
export interface ActiveStep {
  readonly timed: boolean;
  /** Has the wheels. */
  readonly drives?: boolean;
  /** Waits for branches of `together`. */
  readonly joins?: boolean;
  /** What a wait that only a signal can end waits for, as written; empty otherwise. */
  readonly signal?: string;
  /** Readings a wait looks at, by slot. */
  readonly looksAt?: readonly number[];
  tick(task: Task): EndedBy | null;
  /** A handler takes over. */
  pause?(task: Task): void;
  /** The handler is through. @param drove - whether it drove */
  resume?(task: Task, drove: boolean): void;
  /** Ended from outside: lets go of what it holds. */
  drop?(task: Task): void;
}

/** One instruction: moves the task's place on; false when the task is through for this tick. */
export type Op = (task: Task) => boolean;
export type NumberOf = (task: Task) => number;
export type ValueOf = (task: Task) => Value;

/** A motion, and how to go on with what is left of it after an interruption. */
export interface StartedMotion {
  readonly motion: Motion;
  /** @param doneM - how far it was along its way, m or rad; @param headingRad - heading to keep, null for the one it has */
  again(drive: DriveControl, done: number, headingRad: number | null): Motion;
}

export type MotionMaker = (task: Task) => StartedMotion;

/** What people see and hear. */
export type SignKind = "show" | "light" | "beep";

/** Who says how a run is going, seen from outside or by the robot's own count. Goals ask it. */
export interface Judge {
  inside(zone: string): boolean;
  /** How far the farthest corner of the robot is outside of a zone, m; 0 inside. */
  outsideM(zone: string): number;
  score(): number;
  /** What was touched but for the named things, in words; empty when nothing was. */
  touched(but: readonly string[]): string;
  /** Whether anything is touched at this moment. */
  touching(): boolean;
}

/** What steps do to the world around the program. */
export interface Machine {
  readonly judge: Judge;
  readonly drive: DriveControl;
  readonly tickSec: number;
  tick: number;
  /** Readings of this tick, by slot. */
  readonly snapshot: Float64Array;
  readonly globals: Value[];
  /** Lists and tables, as the mission declares them. */
  readonly lists: readonly ListState[];
  readonly chance: RandomStream;
  /** The motion the drive follows; it goes on across steps until another takes over. */
  setMotion(motion: Motion | null): void;
  /** Whether that motion has arrived. */
  readonly motionArrived: boolean;
  /** Whether the wall it follows is not beside it any more. */
  readonly wallEnded: boolean;
  /** Duty of a motor that is not one of the drive's. */
  motorPower(name: string, mode: "drive" | "brake" | "coast", duty: number): void;
  /** A motor or servo that can be told an angle; its motion goes on, and then holds, until another takes over. */
  part(name: string): PartControl;
  movePart(name: string, motion: PartMotion): void;
  steer(rad: number): void;
  /** Declares a zero: of the robot's own place, a gyro, a motor. */
  reset(name: string): void;
  sign(kind: SignKind, text: string): void;
  note(name: string, value: Value): void;
  finish(): void;
  stop(reason: string): void;
  /** Null for steps that are not written down, in loops that would fill memory. */
  openRecord(step: string, text: string, line: number, timed: boolean, task: number, once: boolean): StepRecord | null;
  readonly ended: boolean;
  /** Whether somebody can drive it by hand at all. */
  readonly driven: boolean;
  /** What the driver holds; null while nothing is heard of it. */
  readonly handset: Handset | null;
  /** A step hands over in this tick. */
  handedOver: boolean;
  /** It does, and stands: the driver fell silent, and has not let go of the sticks since. */
  handSilent: boolean;
}

interface CallFrame {
  readonly returnTo: number;
  readonly routine: number;
  /** Guards and `every` loops that were open when it was called. */
  readonly guards: number;
  readonly everies: number;
}

/** A loop of `every` in progress. */
export interface EveryState {
  readonly startClock: number;
  dueClock: number;
  /** Count of claims when it began: what was set in it ends with it. */
  readonly claims: number;
  readonly record: StepRecord | null;
  /** How it ends, once it is known. */
  ended: EndedBy;
}

export interface Task {
  readonly id: number;
  readonly machine: Machine;
  readonly runner: Tasks;
  /** The task whose `together` it is a branch of. */
  readonly parent: Task | null;
  at: number;
  readonly frames: CallFrame[];
  /** Values of each routine while it runs in this task, by the routine's index. */
  readonly values: (Value[] | undefined)[];
  /** What the latest routine gave. */
  given: Value;
  /** Loop counters and hold timers, one per place in the text. */
  readonly counters: Float64Array;
  /** Readings of `last`. */
  readonly last: Float64Array;
  /** Signals sent and not yet heard here. */
  readonly signals: Uint8Array;
  active: ActiveStep | null;
  record: StepRecord | null;
  /** Branches it waits for. */
  children: Task[];
  readonly guards: Guard[];
  readonly everies: EveryState[];
  /** A motion it set and passed on. */
  passing: StartedMotion | null;
  /** Ticks during which its clocks stood still. */
  lostTicks: number;
  /** How many handlers of tasks above hold it. */
  pauses: number;
  pausedClock: number;
  /** The step in hand is to end at once. */
  skip: boolean;
  /** Steps are not written down while this is above 0. */
  quiet: number;
  stepsEnded: number;
  ended: boolean;
}

/** The task's own clock, in ticks: stands still while it is interrupted. */
export function clockOf(task: Task): number {
  return task.machine.tick - task.lostTicks;
}

export interface Condition {
  readonly test: NumberOf;
  /** Hold timers to start afresh with the step. */
  readonly held: readonly number[];
  /** As written, for the reason a mission stopped. */
  readonly text: string;
  /** Only a signal can make it come true. */
  readonly signalOnly: boolean;
  /** Readings it looks at, by slot. */
  readonly looksAt: readonly number[];
}

export function resetHeld(task: Task, condition: Condition | null): void {
  if (condition) for (const counter of condition.held) task.counters[counter] = -1;
}

/** One `during`: what its handlers wait for, and where they begin. */
export interface GuardCode {
  readonly handlers: readonly { readonly condition: Condition; readonly entry: number }[];
  readonly label: string;
}

/** A body that a handler interrupted. */
export interface Saved {
  readonly at: number;
  readonly active: ActiveStep | null;
  readonly record: StepRecord | null;
  readonly guards: readonly Guard[];
  readonly frames: readonly CallFrame[];
  /** Values and counters of routines in progress: a handler may call the same routines. */
  readonly values: readonly { readonly routine: number; readonly values: readonly Value[] }[];
  readonly counters: Float64Array | null;
  readonly children: Task[];
  /** Where the step in hand began, for `last`. */
  readonly opened: readonly number[];
  readonly clock: number;
  readonly claims: number;
}

export interface Guard {
  readonly code: GuardCode;
  readonly frames: number;
  readonly everies: number;
  saved: Saved | null;
  /** Firings since the body last got on. */
  firings: number;
  seenClock: number;
  seenSteps: number;
}

/** What tasks of a mission do with one another: who has the wheels and the parts, signals, tasks that start and end. */
export interface Tasks {
  readonly claims: number;
  start(entry: number, routine: number, values: Value[]): void;
  stopRoutine(routine: number): void;
  send(signal: number): void;
  branch(parent: Task, entry: number, routine: number | null): Task;
  end(task: Task): void;
  /** Runs a routine that takes no time to its end, and returns what it gave. */
  callNow(task: Task, entry: number, routine: number, values: Value[]): Value;
  takeDrive(task: Task, label: string): void;
  takePart(task: Task, name: string, label: string, passing: boolean): void;
  freeDrive(task: Task): void;
  freePart(task: Task, name: string): void;
  drivesWith(task: Task): boolean;
  /** Slows down and stands. @returns false when it stands already */
  halt(task: Task): boolean;
  passOn(task: Task, started: StartedMotion, label: string): void;
  cutEveries(task: Task, depth: number): void;
}
