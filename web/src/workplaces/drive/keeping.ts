// What becomes of a drive: steps that go where it went, and the same drive again with nobody looking.
import {
  driveKind,
  drivenByItself,
  type FitTolerance,
  type FittedDrive,
  fitSteps,
  HAND_COLUMNS,
  PI,
  type Program,
  parseMission,
  prepareMission,
  type RunSummary,
  TICK_SEC,
  type Trace,
  traceColumn,
  USUAL_TOLERANCE,
} from "@giddy-pebble/core";
import { create } from "zustand";
import { api } from "../../shared/api.js";
import { go } from "../../shared/going.js";
import { useMission } from "../../shared/mission/state.js";
import { whenLeft } from "../../shared/visit.js";
import { Rehearser } from "../../workers/rehearser.js";

export interface Blind {
  /** Ways of runs with the same hands, and of the fitted steps, each with its own small chances. */
  readonly hands: readonly { readonly x: Float32Array; readonly y: Float32Array }[];
  readonly steps: readonly { readonly x: Float32Array; readonly y: Float32Array }[];
  /** Mean distance between the ends and the drive's own end, m. */
  readonly handsMissM: number;
  readonly stepsMissM: number;
}

interface KeepState {
  tolerance: FitTolerance;
  fitted: FittedDrive | null;
  blind: Blind | null;
  busy: string | null;
}

const AT_FIRST: KeepState = { tolerance: USUAL_TOLERANCE, fitted: null, blind: null, busy: null };
export const useKeep = create<KeepState>(() => AT_FIRST);

/** How often a drive is driven again. */
export const BLIND_RUNS = 8;
const set = useKeep.setState;
const get = useKeep.getState;
let running: Rehearser | null = null;
whenLeft(() => {
  cancelBlind();
  set(AT_FIRST);
});

/** Rows of a run during which a driver was heard; null for a run nobody drove. */
function drivenRows(trace: Trace): { readonly from: number; readonly to: number } | null {
  const buttons = traceColumn(trace, "hand:buttons");
  if (!buttons) return null;
  const from = buttons.findIndex((value) => value >= 0);
  if (from === -1) return null;
  let to = buttons.length - 1;
  while (to > from && (buttons[to] as number) < 0) to -= 1;
  return { from, to };
}

/** Whether the shown run was driven by hand. */
export function isDrive(trace: Trace | null): boolean {
  return trace !== null && drivenRows(trace) !== null;
}

/** Fits steps to the shown run anew. */
export function fitShown(tolerance: FitTolerance = get().tolerance): void {
  const { run } = useMission.getState();
  const rows = run && drivenRows(run.trace);
  if (!run || !rows) {
    useMission.setState({ ways: [] });
    return set({ tolerance, fitted: null, blind: null });
  }
  const cut = (id: string) => (traceColumn(run.trace, id) ?? new Float32Array(0)).slice(rows.from, rows.to + 1);
  const drive = useMission.getState().robot?.document.drive;
  const slides = drive !== undefined && driveKind(drive).slides;
  const way = { x: cut("x"), y: cut("y"), heading: cut("heading"), tickSec: TICK_SEC, slides };
  const fitted = fitSteps(way, tolerance);
  set({ tolerance, fitted, blind: null });
  const none = fitted.steps.length === 0;
  useMission.setState({ ways: none ? [] : [{ x: fitted.x, y: fitted.y, look: "steps" }] });
}

/** The mission with the fitted steps where the driver was. */
function keptText(): string | null {
  const { fitted } = get();
  const { mission } = useMission.getState();
  if (!fitted || fitted.steps.length === 0) return null;
  return drivenByItself(
    mission,
    fitted.steps.map(({ text }) => text),
  );
}

/** Opens the fitted steps as a mission of their own. */
export async function keepAsSteps(): Promise<void> {
  const { open } = useMission.getState();
  const text = keptText();
  if (text === null || !open || !parseMission(text).body) return;
  const name = `${open.name} in steps`.slice(0, 58);
  set({ busy: "Making the mission…" });
  const taken = await api.documents("mission");
  const names = new Set(taken.ok ? taken.value.documents.map((document) => document.name) : []);
  let free = name;
  for (let i = 2; names.has(free); i += 1) free = `${name} ${i}`;
  const made = await api.create("mission", free, text, "kept from a drive");
  set({ busy: null });
  if (made.ok) go(`/mission?mission=${made.value.document.id}`);
  else useMission.setState({ message: `The steps were not kept: ${made.message}` });
}

function rehearseOnce(
  runner: Rehearser,
  program: Program,
  seed: number,
  hands: readonly Float32Array[] | null,
): Promise<{ summary: RunSummary; x: Float32Array; y: Float32Array } | string> {
  const { robot, field } = useMission.getState();
  return new Promise((resolve) =>
    runner.start(
      { program, robot: robot?.document, field: field?.document, seed, ideal: false, ...(hands ? { hands } : {}) },
      {
        rows: () => {},
        done: (summary, trace) =>
          resolve({
            summary,
            x: traceColumn(trace, "x") ?? new Float32Array(0),
            y: traceColumn(trace, "y") ?? new Float32Array(0),
          }),
        refused: resolve,
      },
    ),
  );
}

/** Drives the same hands again, and the fitted steps, each some times with the usual scatter of a rehearsal. */
export async function driveBlind(): Promise<void> {
  const { run, prepared, robot, field, collections } = useMission.getState();
  const text = keptText();
  const end = run?.path;
  if (!run || !end || text === null || !robot || !field) return;
  const steps = prepareMission(text, robot.document, field.document, undefined, collections).program;
  const programs = { hands: prepared?.program, steps };
  if (!programs.hands || !steps) return useMission.setState({ message: "The mission has problems to fix first." });
  const hands = HAND_COLUMNS.map(({ id }) => traceColumn(run.trace, id) ?? new Float32Array(0));
  const runner = new Rehearser();
  running = runner;
  const [x, y] = [end.x.at(-1) ?? 0, end.y.at(-1) ?? 0];
  const found: Record<"hands" | "steps", { x: Float32Array; y: Float32Array }[]> = { hands: [], steps: [] };
  for (let i = 0; i < BLIND_RUNS && running === runner; i += 1) {
    set({ busy: `Driving it again, ${i + 1} of ${BLIND_RUNS}…` });
    for (const kind of ["hands", "steps"] as const) {
      const program = kind === "hands" ? (programs.hands as Program) : steps;
      const one = await rehearseOnce(runner, program, i + 1, kind === "hands" ? hands : null);
      if (typeof one === "string") {
        set({ busy: null });
        runner.dispose();
        return useMission.setState({ message: one });
      }
      found[kind].push(one);
    }
  }
  runner.dispose();
  if (running !== runner) return;
  running = null;
  const ways = (["hands", "steps"] as const).flatMap((look) => found[look].map((one) => ({ ...one, look })));
  useMission.setState({ ways });
  const miss = (runs: readonly { x: Float32Array; y: Float32Array }[]) =>
    runs.reduce((sum, one) => sum + Math.hypot((one.x.at(-1) ?? 0) - x, (one.y.at(-1) ?? 0) - y), 0) / runs.length;
  set({ busy: null, blind: { ...found, handsMissM: miss(found.hands), stepsMissM: miss(found.steps) } });
}

export function cancelBlind(): void {
  running?.dispose();
  running = null;
  set({ busy: null });
}

export function degrees(rad: number): string {
  return ((rad * 180) / PI).toFixed(0);
}
