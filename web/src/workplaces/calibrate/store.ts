// Opening a robot, editing the table, applying what was found.
import {
  applyEstimate,
  type Estimate,
  PROCEDURES,
  type Procedure,
  readRobot,
  openRobot as readRobotDocument,
  type TableRow,
} from "@giddy-pebble/core";
import { z } from "zod";
import { api, type OpenView } from "../../shared/api.js";
import { moveTo, placed } from "../../shared/place.js";
import { beingKept } from "../../shared/visit.js";
import { type CalibrateState, type CheckRun, type OpenRobot, rowsOf, useCalibrate } from "./state.js";
import { weigh } from "./weighing.js";

const get = useCalibrate.getState;
const set = useCalibrate.setState;

const rowSchema = z.object({
  values: z.record(z.string(), z.number().nullable()),
  struck: z.boolean(),
  recorded: z.array(z.number()).optional(),
});
const keptSchema = z.object({
  tables: z.record(z.string(), z.array(rowSchema)),
  settings: z.record(z.string(), z.record(z.string(), z.number())),
  checks: z.array(
    z.object({ number: z.number(), way: z.union([z.literal(1), z.literal(-1)]), xM: z.number(), yM: z.number() }),
  ),
});

const keyOf = (robot: string) => `giddy-pebble calibration ${robot}`;

/** Rows nobody applied yet stay in this browser, robot by robot. */
function keep(): void {
  const { open, tables, settings, checks } = get();
  if (!open) return;
  try {
    localStorage.setItem(keyOf(open.id), JSON.stringify({ tables, settings, checks }));
  } catch {
    set({
      message: "These rows could not be kept on this computer: its storage is full. Export them before you leave.",
    });
  }
}

function kept(robot: string): Pick<CalibrateState, "tables" | "settings" | "checks"> {
  try {
    const read = keptSchema.parse(JSON.parse(localStorage.getItem(keyOf(robot)) ?? ""));
    return { tables: read.tables as CalibrateState["tables"], settings: read.settings, checks: read.checks };
  } catch {
    return { tables: {}, settings: {}, checks: [] };
  }
}

export async function start(wanted: string | null, procedure: string | null): Promise<void> {
  const [robots, missions] = await Promise.all([api.documents("robot"), api.documents("mission")]);
  if (!robots.ok) return set({ phase: { is: "failed", message: robots.message } });
  if (robots.value.documents.length === 0) return set({ phase: { is: "empty" } });
  set({
    robots: robots.value.documents,
    missions: missions.ok ? missions.value.documents : [],
    procedure: PROCEDURES.find(({ id }) => id === procedure) ?? (PROCEDURES[0] as Procedure),
  });
  const first =
    robots.value.documents.find(({ id, name }) => id === wanted || name === wanted) ?? robots.value.documents[0];
  if (first) await openRobot(first.id, "first");
}

/** Back and Forward: what the address names now. */
export async function returnTo(id: string | null, known: string | null): Promise<void> {
  const procedure = PROCEDURES.find((one) => one.id === known);
  if (procedure) set({ procedure });
  if (id === null || id === get().open?.id) return;
  const isKnown = () => get().robots.some((robot) => robot.id === id);
  if (!isKnown()) {
    // It may have been made in another window meanwhile.
    const robots = await api.documents("robot", true);
    if (robots.ok) set({ robots: robots.value.documents });
  }
  // Meanwhile the person may have gone on.
  if (isKnown() && placed("robot") === id) await openRobot(id, "returned");
}

/** @param how - "chosen" by the person, so that Back returns from it; "first" of the page, or "returned" to by Back */
export async function openRobot(id: string, how: "chosen" | "first" | "returned" = "chosen"): Promise<void> {
  if (get().running) return set({ message: "A measurement is in progress. Stop it before you open another robot." });
  if (how !== "returned") moveTo({ robot: id }, how === "chosen" ? "push" : "replace");
  set({ wanted: id });
  const open = await api.open(id);
  if (!open.ok) return set({ phase: { is: "failed", message: open.message } });
  if (!adopt(open.value)) return;
  set({ phase: { is: "ready" }, ...kept(id), undo: [], worth: null });
  await loadHistory();
  await weigh();
}

function adopt(open: OpenView): boolean {
  const body = open.draft?.body ?? open.head.body;
  const shape = readRobotDocument(body);
  const read = shape.ok ? readRobot(shape.document) : shape;
  if (!read.ok) {
    set({
      phase: {
        is: "failed",
        message: `This robot has to be fixed in the Robot workplace before it can be calibrated: ${read.problems[0]}.`,
      },
    });
    return false;
  }
  const robot: OpenRobot = {
    id: open.document.id,
    robot: read.document,
    number: open.head.number,
    baseRevision: open.draft?.baseRevision ?? open.head.number,
    draftVersion: open.draft?.version ?? 0,
  };
  set({ open: robot });
  return true;
}

async function loadHistory(): Promise<void> {
  const { open } = get();
  if (!open) return;
  const list = await api.calibrations(open.id);
  if (list.ok) set({ history: list.value.calibrations });
}

export function choose(procedure: Procedure): void {
  set({ procedure });
  moveTo({ known: procedure.id }, "replace");
}

/** Every change of a table goes through here, so that it can be undone and is kept. */
export function changeRows(rows: readonly TableRow[], label: string, procedure: Procedure = get().procedure): void {
  const { tables, undo } = get();
  const before = rowsOf(get(), procedure);
  set({
    tables: { ...tables, [procedure.id]: rows },
    undo: [...undo.slice(-99), { label, procedure: procedure.id, rows: before }],
  });
  keep();
}

export function undoRows(): void {
  const { undo, tables } = get();
  const last = undo.at(-1);
  if (!last) return;
  set({
    undo: undo.slice(0, -1),
    tables: { ...tables, [last.procedure]: last.rows },
    message: `Undone: ${last.label}`,
  });
  keep();
}

export function changeSetting(procedure: Procedure, id: string, value: number): void {
  const { settings } = get();
  set({ settings: { ...settings, [procedure.id]: { ...(settings[procedure.id] ?? {}), [id]: value } } });
  keep();
}

export function addCheck(run: CheckRun): void {
  set({ checks: [...get().checks, run].slice(-40) });
  keep();
}

export function clearChecks(): void {
  set({ checks: [] });
  keep();
}

function recordOf(estimate: Estimate & { ok: true }) {
  return {
    title: estimate.verdict.title,
    words: estimate.verdict.text,
    interval: estimate.interval,
    results: estimate.results.map(({ id, label, shown, estimate: value }) => ({
      id,
      label,
      unit: shown.unit,
      perSi: shown.perSi,
      ...value,
    })),
    edits: estimate.edits,
  };
}

/** Keeps the rows and what they say, without changing the robot. */
export async function keepAsIs(estimate: Estimate & { ok: true }): Promise<void> {
  const { open, procedure } = get();
  if (!open) return;
  const stored = await beingKept(
    api.storeCalibration({
      robot: open.id,
      quantity: procedure.id,
      rows: rowsOf(get()),
      result: recordOf(estimate),
      appliedRevision: null,
    }),
  );
  set({ message: stored.ok ? "Kept in the history. The robot stays as it is." : stored.message });
  await loadHistory();
}

/** Why a result cannot be used now; null when it can. */
export function whyNotApplied({ running, applying }: Pick<CalibrateState, "running" | "applying">): string | null {
  if (running) return "A measurement is in progress: its rows are not all there yet. Stop it or wait.";
  return applying ? "The result is being put into the robot." : null;
}

/** Puts the result into the robot as a revision of its own: one, however often it is asked for. */
export async function applyToRobot(estimate: Estimate & { ok: true }, conditions: string): Promise<void> {
  const why = whyNotApplied(get());
  if (why !== null) return set({ message: why });
  set({ applying: true });
  try {
    await beingKept(apply(estimate, conditions));
  } finally {
    set({ applying: false });
  }
  // What it is worth now is worked out while the robot can be used again.
  await loadHistory();
  await weigh();
}

async function apply(estimate: Estimate & { ok: true }, conditions: string): Promise<void> {
  const { open, procedure } = get();
  if (!open) return;
  const count = Math.max(...estimate.results.map(({ estimate: { count: rows } }) => rows));
  const robot = applyEstimate(open.robot, estimate.edits, {
    method: estimate.method ?? procedure.title,
    conditions,
    measuredAt: new Date().toISOString(),
    count,
  });
  const reason = `calibrated: ${procedure.title}, ${estimate.verdict.title}`.slice(0, 190);
  const cut = await api.cutBody(open.id, open.baseRevision, robot, reason, null, open.draftVersion);
  if (!cut.ok) {
    const stale = cut.code === "stale" ? " Reload the page to see its newer version; the rows stay." : "";
    return set({ message: `Not applied: ${cut.message}${stale}` });
  }
  adopt(cut.value);
  const stored = await api.storeCalibration({
    robot: open.id,
    quantity: procedure.id,
    rows: rowsOf(get(), procedure),
    result: recordOf(estimate),
    appliedRevision: cut.value.head.id,
  });
  // The rows were measured with what was in force before: they have done their work.
  changeRows([], `applying ${procedure.title.toLowerCase()}`, procedure);
  set({
    message: stored.ok
      ? `${open.robot.name} is at version ${cut.value.head.number} now. Every step and every rehearsal uses it.`
      : `Applied, but not written into the history: ${stored.message}`,
  });
}
