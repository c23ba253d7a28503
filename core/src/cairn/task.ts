// What a running mission is made of: tasks with a place in the program and values, and the step in hand.
import type { DriveControl } from "../control/drive.js";
import type { Motion } from "../control/motions.js";
import type { RandomStream } from "../math/random.js";

export type Value = number | string;
export type EndedBy = "done" | "until" | "for" | "limit" | "stalled" | "bound" | "interrupted";

export interface StepRecord {
  readonly step: string;
  readonly pass: number;
  readonly text: string;
  /** Line of the text, from 1. */
  readonly line: number;
  readonly startTick: number;
  endTick: number;
  endedBy: EndedBy;
  readonly timed: boolean;
}

/** A step that takes time; ticked once per control tick until it says how it ended. */
export interface ActiveStep {
  readonly timed: boolean;
  tick(task: Task): EndedBy | null;
}

/** One instruction: moves the task's place on; false when the task is through for this tick. */
export type Op = (task: Task) => boolean;
export type NumberOf = (task: Task) => number;
export type ValueOf = (task: Task) => Value;

/** What steps do to the world around the program. */
export interface Machine {
  readonly drive: DriveControl;
  readonly tickSec: number;
  tick: number;
  /** Readings of this tick, by slot. */
  readonly snapshot: Float64Array;
  readonly globals: Value[];
  readonly chance: RandomStream;
  /** The motion the drive follows; it goes on across steps until another takes over. */
  setMotion(motion: Motion | null): void;
  /** Whether that motion has arrived. */
  readonly motionArrived: boolean;
  /** Duty of a motor that is not one of the drive's. */
  motorPower(name: string, mode: "drive" | "brake" | "coast", duty: number): void;
  note(name: string, value: Value): void;
  finish(): void;
  stop(reason: string): void;
  openRecord(step: string, text: string, line: number, timed: boolean): StepRecord;
}

export interface Frame {
  readonly returnTo: number;
  readonly base: number;
}

export interface Task {
  readonly machine: Machine;
  at: number;
  /** Values of routines in progress, one stretch per call, starting at `base`. */
  readonly locals: Value[];
  base: number;
  readonly frames: Frame[];
  /** Loop counters and hold timers, one per place in the text. */
  readonly counters: Float64Array;
  /** Readings of `last`. */
  readonly last: Float64Array;
  active: ActiveStep | null;
  record: StepRecord | null;
  ended: boolean;
}
