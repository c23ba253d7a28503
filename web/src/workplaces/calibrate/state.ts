// The Calibrate workplace's state. What changes it is in store.ts and measuring.ts.
import type { Procedure, Robot, Settings, TableRow, Worth } from "@giddy-pebble/core";
import { defaultSettings, PROCEDURES } from "@giddy-pebble/core";
import { create } from "zustand";
import type { CalibrationView, DocumentView } from "../../shared/api.js";
import type { Phase } from "../../shared/shell/Shell.js";
import { whenLeft } from "../../shared/visit.js";

export interface OpenRobot {
  readonly id: string;
  readonly robot: Robot;
  readonly number: number;
  readonly baseRevision: number;
  readonly draftVersion: number;
}

/** One square of the check drive. */
export interface CheckRun {
  /** Robot revision that drove it. */
  readonly number: number;
  readonly way: 1 | -1;
  readonly xM: number;
  readonly yM: number;
}

export interface CalibrateState {
  phase: Phase;
  robots: readonly DocumentView[];
  open: OpenRobot | null;
  procedure: Procedure;
  /** Rows by procedure, for the robot on the page. */
  tables: Readonly<Record<string, readonly TableRow[]>>;
  settings: Readonly<Record<string, Settings>>;
  /** Runs in progress: which of how many; null when none. */
  running: {
    readonly at: number;
    readonly of: number;
    readonly what: "rows" | "check";
    /** Which procedure it measures. */
    readonly procedure: Procedure;
  } | null;
  /** A result is being put into the robot: once is enough. */
  applying: boolean;
  /** Robot that was asked for last, also when it cannot be calibrated. */
  wanted: string | null;
  history: readonly CalibrationView[];
  checks: readonly CheckRun[];
  missions: readonly DocumentView[];
  worthMission: string | null;
  worth: readonly Worth[] | null;
  message: string | null;
  undo: readonly { readonly label: string; readonly procedure: string; readonly rows: readonly TableRow[] }[];
}

const AT_FIRST: CalibrateState = {
  phase: { is: "loading" },
  robots: [],
  open: null,
  procedure: PROCEDURES[0] as Procedure,
  tables: {},
  settings: {},
  running: null,
  applying: false,
  wanted: null,
  history: [],
  checks: [],
  missions: [],
  worthMission: null,
  worth: null,
  message: null,
  undo: [],
};
export const useCalibrate = create<CalibrateState>(() => AT_FIRST);
whenLeft(() => useCalibrate.setState(AT_FIRST, true));

// The same empty table and the same defaults each time: a store's reader must not get a new object at every look.
const NO_ROWS: readonly TableRow[] = [];
const DEFAULTS = new Map(PROCEDURES.map((procedure) => [procedure.id, defaultSettings(procedure)]));

export function rowsOf(state: CalibrateState, procedure: Procedure = state.procedure): readonly TableRow[] {
  return state.tables[procedure.id] ?? NO_ROWS;
}

export function settingsOf(state: CalibrateState, procedure: Procedure = state.procedure): Settings {
  return state.settings[procedure.id] ?? DEFAULTS.get(procedure.id) ?? {};
}
