// The Mission workplace's state, and how to read it. What changes it is in store.ts and the files beside it.
import {
  type Field,
  type Mission,
  type Pose,
  type PreparedMission,
  type Problem,
  parseMission,
  placeAtLine,
  type Robot,
  type RunSummary,
  type Trace,
  traceColumn,
} from "@giddy-pebble/core";
import { create } from "zustand";
import type { DocumentView, TrialView } from "../api.js";
import type { SaveState } from "../saving.js";
import type { Phase } from "../shell/Shell.js";
import { whenLeft } from "../visit.js";
import { type History, startHistory } from "./history.js";
import type { LiveRun, RobotResult } from "./robotRun.js";
import type { Study } from "./studying.js";
import type { Ghost, Versions } from "./versions.js";

export interface StoredDocument<T> {
  readonly document: T;
  readonly revisionId: string;
  readonly revisionNumber: number;
  /** Changes that no revision holds yet; a rehearsal cuts one of them. */
  readonly pending: { readonly id: string; readonly baseRevision: number; readonly version: number } | null;
}

/** A path on the field: the run's columns, and its steps once it is over. */
export interface Path {
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly heading: Float32Array;
  readonly summary: RunSummary | null;
  /** Everything else the run recorded, once it is over. */
  readonly trace: Trace | null;
}

export interface Run {
  readonly trialId: string | null;
  readonly summary: RunSummary;
  readonly trace: Trace;
  readonly path: Path;
  /** Version of the mission it ran; null when it could not be kept. */
  readonly number: number | null;
  /** The text it ran; null when that cannot be had any more. */
  readonly text: string | null;
  /** Which run of a study it is, from 1; left out for a run of its own. */
  readonly of?: number;
  /** The robot that made it; left out for rehearsals. */
  readonly by?: string;
}

/** A way on the field, beside plan and run. */
export interface Way {
  readonly x: ArrayLike<number>;
  readonly y: ArrayLike<number>;
  readonly look: "steps" | "hands";
}

export interface MissionState {
  phase: Phase;
  /** Everything the server has, by name and kind. */
  library: readonly DocumentView[];
  missions: readonly DocumentView[];
  /** Robots and fields that were read so far, by name. */
  robots: ReadonlyMap<string, StoredDocument<Robot>>;
  fields: ReadonlyMap<string, StoredDocument<Field>>;
  open: { readonly id: string; readonly name: string; readonly headRevision: number } | null;
  history: History;
  mission: Mission;
  prepared: PreparedMission | null;
  /** Texts of all collections by name. */
  collections: ReadonlyMap<string, string>;
  robot: StoredDocument<Robot> | null;
  field: StoredDocument<Field> | null;
  problems: readonly Problem[];
  view: "steps" | "text";
  save: SaveState;
  planned: Path | null;
  plannedStale: boolean;
  run: Run | null;
  trials: readonly TrialView[];
  rehearsing: { readonly tick: number } | null;
  /** Line of the step under the pointer, from either side. */
  hoverLine: number | null;
  message: string | null;
  playing: boolean;
  speed: number;
  study: Study | null;
  /** What stands over the field's corner. */
  panel: "none" | "study" | "versions" | "runs" | "robot" | "sensors" | "board";
  /** Share of the package that is on the robot; null when nothing is being sent. */
  sending: number | null;
  live: LiveRun | null;
  robotResult: RobotResult | null;
  /** Where the tape found the robot after its run, field frame. */
  tape: Pose | null;
  versions: Versions | null;
  ghost: Ghost | null;
  /** Further ways drawn on the field: fitted steps, and runs beside a drive. */
  ways: readonly Way[];
  /** Readings shown under the field, by their column. */
  traces: readonly string[] | null;
  /** Further steps chosen beside the selected one, by line id. */
  chosen: ReadonlySet<string>;
  /** Two points on the field, m; null while nothing is measured. */
  /** Rehearsals begin with what the robot kept in its latest run of this mission. */
  fromMemory: boolean;
  /** Points on the field are taken as places. */
  placing: boolean;
  measure: readonly (readonly [number, number])[] | null;
}

const EMPTY = "cairn 1\n\nmission\n  wait 1 s\n";

export function initialState(): MissionState {
  return {
    phase: { is: "loading" },
    library: [],
    missions: [],
    robots: new Map(),
    fields: new Map(),
    open: null,
    history: startHistory(EMPTY),
    mission: parseMission(EMPTY),
    prepared: null,
    collections: new Map(),
    robot: null,
    field: null,
    problems: [],
    view: "steps",
    save: { is: "saved" },
    planned: null,
    plannedStale: false,
    run: null,
    trials: [],
    rehearsing: null,
    hoverLine: null,
    message: null,
    playing: false,
    speed: 1,
    study: null,
    panel: "none",
    sending: null,
    live: null,
    robotResult: null,
    tape: null,
    versions: null,
    ghost: null,
    ways: [],
    traces: null,
    chosen: new Set(),
    fromMemory: false,
    placing: false,
    measure: null,
  };
}

/** Names of what the library has of a kind, oldest first. */
export function namesOf(library: readonly DocumentView[], kind: "robot" | "field"): string[] {
  return library.filter((document) => document.kind === kind).map(({ name }) => name);
}

export const useMission = create<MissionState>(initialState);
whenLeft(() => {
  useMission.setState(initialState(), true);
  playhead.tick = 0;
});
/** Where the playhead is, ticks of 10 ms; read by the drawing loops, not by React. */
export const playhead = { tick: 0, listeners: new Set<() => void>() };

export function movePlayhead(tick: number): void {
  playhead.tick = tick;
  for (const listener of playhead.listeners) listener();
}

/** Line of the selected step, or null. */
export function selectedLine(state: MissionState): number | null {
  const { lineIds, selected } = state.history.present;
  const line = selected === null ? -1 : lineIds.indexOf(selected);
  return line === -1 ? null : line;
}

export function selectedPlace(state: MissionState): ReturnType<typeof placeAtLine> {
  const line = selectedLine(state);
  return line === null ? null : placeAtLine(state.mission, line);
}

/** Where a run had the field's loads at a moment; null when it does not tell. */
export function loadsAt(path: Path | null, field: Field, tick: number): Pose[] | null {
  const { trace } = path ?? {};
  if (!trace) return null;
  const poses = field.loads.map(({ name }) => {
    const [x, y, heading] = ["x", "y", "heading"].map((part) => traceColumn(trace, `load:${name}:${part}`));
    if (!x || !y || !heading) return null;
    const i = Math.max(0, Math.min(x.length - 1, Math.floor(tick)));
    return { xM: x[i] ?? 0, yM: y[i] ?? 0, headingRad: heading[i] ?? 0 };
  });
  return poses.every((pose) => pose !== null) ? poses : null;
}

/** Whether a run speaks of another text than the one on the screen. */
export function isBefore(run: Run, text: string): boolean {
  return run.text !== null && run.text !== text;
}

/** The path the playhead runs on: the run if there is one, else the plan. */
export function shownPath(state: MissionState): Path | null {
  return state.run?.path ?? state.planned;
}
