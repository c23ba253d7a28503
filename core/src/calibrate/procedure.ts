// What a calibration procedure is: how to place the robot, the little program it drives, what to measure, and how
// rows of measurements become knowns. Everything is plain data and pure functions; nothing here knows how a robot
// is reached, or what it truly is.

import type { PlacedBy } from "../robot/placing.js";
import type { ShownUnit } from "../robot/quantities.js";
import type { Robot } from "../robot/schema.js";
import type { Trace } from "../trials/trace.js";
import type { Estimated } from "./statistics.js";

/** Where the robot stood after a run, seen from where it was measured before; else from its begin place. */
export interface Taped {
  readonly alongM: number;
  readonly asideM: number;
  readonly headingRad: number;
}

/** One run as it was measured. */
export interface Measured {
  readonly notes: ReadonlyMap<string, number>;
  readonly tape: Taped | null;
  readonly trace: Trace | null;
  readonly packVolts: number | null;
}

export interface Column {
  readonly id: string;
  readonly label: string;
  readonly shown: ShownUnit;
  readonly hint?: string;
  /** Must be positive, or at least and at most; SI. */
  readonly least?: number;
  readonly most?: number;
  /** May stay empty: what then counts is said in `hint`. */
  readonly optional?: true;
  /** The only values there are, shown and chosen by their words. */
  readonly choices?: readonly { readonly value: number; readonly words: string }[];
  /** From a run of a linked robot; null when it does not tell. */
  from?(measured: Measured, row: number): number | null;
}

/** One row of a table: values in SI by column, null where empty. */
export interface TableRow {
  readonly values: Readonly<Record<string, number | null>>;
  readonly struck: boolean;
  /** Recorded beside what people see: wheel travel of a square, headings at rest. */
  readonly recorded?: readonly number[];
}

interface Setting {
  readonly id: string;
  readonly label: string;
  readonly shown: ShownUnit;
  readonly value: number;
  readonly least: number;
  readonly most: number;
  /** Its values are places in this list. */
  readonly choices?: readonly string[];
}
export type Settings = Readonly<Record<string, number>>;

/** What a calibration gives, as people see it. */
export interface Result {
  readonly id: string;
  readonly label: string;
  readonly shown: ShownUnit;
  readonly estimate: Estimated;
}

/** A known to set: a part of the robot and the path of the number in it. */
export interface KnownEdit {
  readonly ref: string;
  readonly path: string;
  readonly value: number;
  readonly standardError: number | null;
}

export interface ChartSeries {
  readonly label: string;
  readonly role: "measured" | "struck" | "fit" | "after";
  readonly points: readonly (readonly [x: number, y: number])[];
  /** Joined by a line; else dots. */
  readonly line: boolean;
}

export interface Chart {
  readonly title: string;
  readonly x: { readonly label: string; readonly shown: ShownUnit };
  readonly y: { readonly label: string; readonly shown: ShownUnit };
  readonly series: readonly ChartSeries[];
}

export interface Verdict {
  readonly title: string;
  readonly text: string;
}

export type Estimate =
  | { readonly ok: false; readonly why: string }
  | {
      readonly ok: true;
      readonly results: readonly Result[];
      readonly verdict: Verdict;
      /** What "Use it" changes on the robot; empty when the result is only to be known. */
      readonly edits: readonly KnownEdit[];
      /** Rows to look at again, each with the reason. */
      readonly doubtful: readonly { readonly row: number; readonly why: string }[];
      /** How the knowns came about, where the procedure's title does not say it all. */
      readonly method?: string;
      /** Name of the interval's method. */
      readonly interval: string;
      /** More than sentences tell: a head and rows of short texts. */
      readonly table?: { readonly title: string; readonly rows: readonly (readonly string[])[] };
    };

/** Where a run of a procedure begins, and what stands around it. */
export interface CalibrationStage {
  /** A plain floor, one with a dark stripe across, one with a board ahead, or a plate before the tag reader. */
  readonly floor: "open" | "stripe" | "board" | "plate";
  /** Distance of stripe or board ahead of the robot's origin, m. */
  readonly aheadM: number;
  /** By how much the board is turned out of square, rad. */
  readonly slantRad?: number;
  /** Colour of the plate before the tag reader, "#RRGGBB". */
  readonly colour?: string;
}

export interface Procedure {
  readonly id: string;
  readonly title: string;
  /** One sentence: what is done and what is measured. */
  readonly purpose: string;
  readonly place: string;
  readonly measure: string;
  /** Rows worth having. */
  readonly rowsWanted: number;
  readonly settings: readonly Setting[];
  /** Why it cannot be done with this robot; null when it can. */
  unfit(robot: Robot): string | null;
  columns(robot: Robot): readonly Column[];
  /** The program of one run; null for procedures without one. */
  program(robot: Robot, settings: Settings, row: number): string | null;
  stage?(settings: Settings, row: number, robot: Robot): CalibrationStage;
  /** What the next row needs in its place, in a sentence; for procedures whose rows differ in it. */
  next?(settings: Settings, row: number, robot: Robot): string;
  /**
   * For what measures the putting down itself: how that is done. The tape is then read from the begin place. All
   * others put the robot into a jig, and read the tape from where it stood before.
   */
  placing?(settings: Settings): PlacedBy;
  /** What is kept beside a row's columns. */
  record?(robot: Robot, measured: Measured): readonly number[] | undefined;
  estimate(robot: Robot, rows: readonly TableRow[], settings: Settings): Estimate;
  chart(robot: Robot, rows: readonly TableRow[], settings: Settings): Chart | null;
  /** What is in force now, for the list of knowns. */
  present(robot: Robot): readonly Result[];
}

export function defaultSettings(procedure: Procedure): Record<string, number> {
  return Object.fromEntries(procedure.settings.map(({ id, value }) => [id, value]));
}
