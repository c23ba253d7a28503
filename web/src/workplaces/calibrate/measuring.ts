// Rows and checks from the linked robot: put down, measured, run, measured again.
import {
  defaultSettings,
  type FrameOf,
  type Measured,
  measuredOf,
  type Procedure,
  procedureOf,
  rowOfRun,
  rowPlan,
  type Settings,
  STAGE_BEGIN,
  type TableRow,
} from "@giddy-pebble/core";
import {
  ask,
  haltRobot,
  packageHash,
  packageText,
  runOnRobot,
  sendPackage,
  useLink,
} from "../../shared/link/linkStore.js";
import { whenLeft } from "../../shared/visit.js";
import { rowsOf, settingsOf, useCalibrate } from "./state.js";
import { addCheck, changeRows } from "./store.js";

const get = useCalibrate.getState;
const set = useCalibrate.setState;
/** Name of the runs of procedures on the robot's shelf. */
const SHELF_NAME = "Calibration run";
const CHECK_SIDE_M = 0.6;

let cancelled = false;
whenLeft(() => {
  cancelled = true;
});

export function cancelRuns(): void {
  cancelled = true;
  haltRobot();
}

/** Why the linked robot cannot measure now; null when it can. */
export function whyNotMeasured(): string | null {
  const { is, hello, state } = useLink.getState();
  const { open, running, applying } = get();
  if (is !== "linked" || !hello) return "No robot is linked. Link one at the top right, or type what you measured.";
  if (!open || hello.robot !== open.robot.name)
    return `${hello.robot} is linked, but these are the knowns of ${open?.robot.name ?? "another"}.`;
  if (running) return "A measurement is in progress.";
  if (applying) return "The result is being put into the robot.";
  if (state && state.doing !== "idle") return `${hello.robot} is busy.`;
  return null;
}

/** The same for what is shown: asked again whenever one of its reasons changes. */
export function useWhyNotMeasured(): string | null {
  useLink((state) => `${state.is} ${state.hello?.robot} ${state.state?.doing}`);
  useCalibrate(({ open, running, applying }) => `${open?.id} ${running?.at} ${applying}`);
  return whyNotMeasured();
}

async function tape(): Promise<FrameOf<"tape"> | null> {
  const frame = await ask({ kind: "tape" });
  return frame?.kind === "tape" ? frame : null;
}

/** One run of a procedure; null after saying why not. */
async function measure(procedure: Procedure, settings: Settings, index: number): Promise<Measured | null> {
  const { open } = get();
  const plan = open && rowPlan(procedure, open.robot, settings, index);
  if (!open || !plan) return null;
  const payload = packageText(plan.text, open.robot, plan.field);
  const held = useLink.getState().shelf.find(({ name }) => name === SHELF_NAME);
  if (held?.sha256 !== (await packageHash(payload))) {
    const sent = await sendPackage(SHELF_NAME, payload, procedure.title, "");
    if (!sent.ok) return say(`Not sent: ${sent.why}`);
  }
  if (!(await ask({ kind: "place", begin: STAGE_BEGIN, how: plan.put, fieldOf: SHELF_NAME }))) return null;
  const before = plan.from ?? (await tape());
  if (!before) return null;
  const run = await runOnRobot(SHELF_NAME);
  if (!run.ok) return say(run.why);
  if (run.summary.outcome === "stopped") return say(`The run does not count: ${run.summary.reason}.`);
  const after = await tape();
  if (!after) return null;
  return measuredOf(run, before, after, useLink.getState().state?.packVolts ?? null);
}

function say(message: string): null {
  set({ message });
  return null;
}

/** Runs the open procedure some more times; each run adds its row at once, so that a stop keeps what was measured. */
export async function runMore(times: number): Promise<void> {
  const why = whyNotMeasured();
  const { procedure } = get();
  if (why !== null) return set({ message: why });
  cancelled = false;
  try {
    for (let i = 0; i < times && !cancelled; i += 1) {
      set({ running: { at: i + 1, of: times, what: "rows", procedure } });
      const { open } = get();
      const index = rowsOf(get(), procedure).length;
      const measured = await measure(procedure, settingsOf(get(), procedure), index);
      if (!measured || !open || cancelled) break;
      const row: TableRow = rowOfRun(procedure, open.robot, measured, index);
      changeRows([...rowsOf(get(), procedure), row], `run ${index + 1}`, procedure);
    }
  } finally {
    set({ running: null });
  }
}

/** The check: squares both ways, by the version in force. */
export async function runCheck(each: number): Promise<void> {
  const why = whyNotMeasured();
  const square = procedureOf("square");
  if (why !== null || !square) return set({ message: why });
  cancelled = false;
  try {
    for (let i = 0; i < 2 * each && !cancelled; i += 1) {
      set({ running: { at: i + 1, of: 2 * each, what: "check", procedure: get().procedure } });
      const { open } = get();
      const measured = await measure(square, { ...defaultSettings(square), sideM: CHECK_SIDE_M }, i);
      if (!measured?.tape || !open || cancelled) break;
      addCheck({ number: open.number, way: i % 2 === 0 ? 1 : -1, xM: measured.tape.alongM, yM: measured.tape.asideM });
    }
  } finally {
    set({ running: null });
  }
}

export { CHECK_SIDE_M };
