// The line tuner of a page: a step that follows a line is tried at several speeds and gains, then the best of them and
// what the step says now once more, with other seeds.
import {
  bestCell,
  type Field,
  type LineCell,
  type LineRun,
  type LineSetting,
  lineCell,
  lineGrid,
  lineSetting,
  lineSteps,
  type PreparedMission,
  type Robot,
  smallestChange,
  withLineCode,
  withLineSetting,
} from "@giddy-pebble/core";
import { create } from "zustand";
import { useMission } from "../../shared/mission/state.js";
import { edit } from "../../shared/mission/store.js";
import { whenLeft } from "../../shared/visit.js";
import { StudyPool } from "../../workers/studyPool.js";

/** Rehearsals that settle it, for the best and for what the step says now. */
const PROOF_RUNS = 20;

export interface Tuning {
  /** The text it was started for. */
  readonly text: string;
  /** Of the step, from 0. */
  readonly line: number;
  readonly now: LineSetting;
  /** By gain, then by speed. */
  readonly grid: readonly (readonly LineSetting[])[];
  /** As the grid; null until all its runs are in. */
  readonly cells: readonly (readonly (LineCell | null)[])[];
  readonly done: number;
  readonly all: number;
  readonly running: boolean;
  /** Twenty runs each, with seeds of their own. */
  readonly proof: { readonly best: LineCell; readonly now: LineCell } | null;
}

export const useTuning = create<{ tuning: Tuning | null }>(() => ({ tuning: null }));
const get = () => useTuning.getState().tuning;
const set = (tuning: Tuning | null) => useTuning.setState({ tuning });
const pool = { of: null as StudyPool | null };
whenLeft(() => {
  pool.of?.dispose();
  set(null);
});

function same(a: LineSetting, b: LineSetting): boolean {
  return a.speedMS === b.speedMS && a.gain === b.gain;
}

interface Job {
  readonly prepared: PreparedMission;
  readonly robot: Robot;
  readonly field: Field;
  readonly line: number;
}

/** Rehearses settings of one step. @param each - called with every setting whose runs are all in */
function tryAll(
  { prepared, robot, field, line }: Job,
  settings: readonly LineSetting[],
  runs: number,
  each: (i: number, cell: LineCell, runsOfIt: readonly LineRun[]) => void,
  done: () => void,
): void {
  const { program, mission } = prepared;
  const step = lineSteps(mission).find((one) => one.line === line);
  if (!program || !step) return;
  const programs = settings.map((setting) => withLineCode(program, line, setting));
  const found = settings.map((): LineRun[] => []);
  pool.of ??= new StudyPool();
  const seed = crypto.getRandomValues(new Int32Array(1))[0] ?? 1;
  pool.of.start(
    { programs, robot, field, seed },
    settings.map((_, i) => ({ runs, adjustments: {}, program: i, step })),
    {
      digests: () => {},
      lines: (i, more) => {
        const all = found[i] as LineRun[];
        all.push(...more);
        const tuning = get();
        if (tuning) set({ ...tuning, done: tuning.done + more.length });
        if (all.length >= runs) each(i, lineCell(settings[i] as LineSetting, all), all);
      },
      done,
      refused: (reason) => {
        set(null);
        useMission.setState({ message: reason });
      },
    },
  );
}

export function tune(line: number, runs: number): void {
  const { prepared, robot, field, history } = useMission.getState();
  const step = prepared && lineSteps(prepared.mission).find((one) => one.line === line);
  if (!prepared?.program || !robot || !field || !step) return;
  const now = lineSetting(prepared.mission, step, prepared.context.drive);
  const grid = lineGrid(now, prepared.context.drive);
  const settings = grid.flat();
  const job = { prepared, robot: robot.document, field: field.document, line };
  const wide = grid[0]?.length ?? 1;
  const cells = settings.map((): LineCell | null => null);
  const all = settings.length * runs + 2 * PROOF_RUNS;
  set({
    text: history.present.text,
    line,
    now,
    grid,
    cells: grid.map((row) => row.map(() => null)),
    done: 0,
    all,
    running: true,
    proof: null,
  });
  tryAll(
    job,
    settings,
    runs,
    (i, cell) => {
      cells[i] = cell;
      const tuning = get();
      if (tuning) set({ ...tuning, cells: grid.map((row, r) => row.map((_, c) => cells[r * wide + c] ?? null)) });
    },
    () => prove(job, cells),
  );
}

/** The best of a few runs may have been lucky: it and the present setting are tried again. */
function prove(job: Job, cells: readonly (LineCell | null)[]): void {
  const tuning = get();
  const best = bestCell(cells.filter((cell) => cell !== null));
  if (!tuning || !best) return;
  const settings = same(best, tuning.now) ? [tuning.now] : [best, tuning.now];
  const proven: LineCell[] = [];
  tryAll(
    job,
    settings,
    PROOF_RUNS,
    (i, cell) => {
      proven[i] = cell;
    },
    () => {
      const last = get();
      const [first] = proven;
      const now = proven.at(-1);
      if (!last || !first || !now) return;
      set({ ...last, running: false, done: last.all, proof: { best: bestCell([now, first]) ?? now, now } });
    },
  );
}

/** What was found so far stays on the screen. */
export function cancelTuning(): void {
  pool.of?.cancel();
  const tuning = get();
  if (tuning) set({ ...tuning, running: false });
}

/** Whether the step still says what was tuned. */
export function isFresh(tuning: Tuning, text: string): boolean {
  return tuning.text === text;
}

/** Writes a setting into the step; undo takes it back. */
export function takeSetting(setting: LineSetting): void {
  const tuning = get();
  const { history, mission } = useMission.getState();
  if (!tuning || !isFresh(tuning, history.present.text)) return;
  const text = withLineSetting(mission, tuning.line, setting);
  if (text === null) return;
  edit(smallestChange(history.present.text, text), "using what the tuner found", tuning.line);
  set({ ...tuning, text: useMission.getState().history.present.text, now: setting });
}
