// Rehearsals: run, kept, shown again, played.
import {
  CORE_VERSION,
  type Field,
  foundAt,
  keptRunSchema,
  packTrace,
  type Remembered,
  type Robot,
  type RunSummary,
  type Trace,
  traceColumn,
  unpackTrace,
} from "@giddy-pebble/core";
import { Rehearser } from "../../workers/rehearser.js";
import { api, type OpenView, type TrialView } from "../api.js";
import { toBase64 } from "../base64.js";
import { paced } from "../paced.js";
import { beingKept, inTurn, whenLeft } from "../visit.js";
import { cutRevision } from "./draft.js";
import { DRAW_EVERY_MS, GrowingPath } from "./planning.js";
import { movePlayhead, playhead, type StoredDocument, useMission } from "./state.js";

const get = useMission.getState;
const set = useMission.setState;
const runner = new Rehearser();
whenLeft(() => runner.cancel());

function randomSeed(): number {
  return crypto.getRandomValues(new Int32Array(1))[0] ?? 1;
}

/** What the robot kept in its latest run of this mission. */
function keptByRobot(): Remembered | null {
  const kept = get().robotResult?.summary.remembered ?? [];
  return kept.length === 0 ? null : Object.fromEntries(kept.map((one) => [one.name, one]));
}

/** Rehearse: cuts a revision, runs it seeded, keeps it as a trial, plays it. */
export async function rehearse(): Promise<void> {
  const { open, prepared, robot, field, rehearsing, history, save } = get();
  if (!open || !prepared?.program || !robot || !field || rehearsing || save.is === "conflict") return;
  set({ rehearsing: { tick: 0 }, playing: false, message: null, tape: null });
  const cut = await cutRevision(history.present.text, "rehearsed");
  // Without the server the run can be watched, but not kept; a conflict has to be settled first.
  if (!cut && get().save.is !== "away") return set({ rehearsing: null });
  const seed = randomSeed();
  const { text } = history.present;
  const growing = new GrowingPath();
  const partly = paced(DRAW_EVERY_MS);
  runner.start(
    {
      program: prepared.program,
      robot: robot.document,
      field: field.document,
      seed,
      ideal: false,
      remembered: get().fromMemory ? keptByRobot() : null,
    },
    {
      rows: (from, columns) => {
        growing.add(from, columns);
        partly(() => set({ rehearsing: { tick: growing.count } }));
      },
      done: (summary, trace) => {
        set({
          rehearsing: null,
          run: {
            trialId: null,
            summary,
            trace,
            path: growing.view(summary, trace),
            number: cut?.head.number ?? null,
            text,
          },
        });
        movePlayhead(0);
        play();
        if (cut) void beingKept(keep(cut, robot, field, seed, summary, trace));
        else set({ message: "This run is not kept, because the server does not answer." });
      },
      refused: (reason) => set({ rehearsing: null, message: reason }),
    },
  );
}

export function cancelRehearsal(): void {
  runner.cancel();
  set({ rehearsing: null, message: "The rehearsal was cancelled. Nothing was kept of it." });
}

const cutting = inTurn();

/** The revision a run is kept with: changes of the robot that none holds yet become one now. */
export function robotRevisionOf(robot: StoredDocument<Robot>): Promise<string | null> {
  return cutting(() => revisionNow(robot));
}

async function revisionNow(robot: StoredDocument<Robot>): Promise<string | null> {
  const { document } = robot;
  // Another run that was kept a moment ago may have cut it.
  const latest = get().robots.get(document.name);
  const { pending, revisionId } = latest?.document === document ? latest : robot;
  if (!pending) return revisionId;
  const cut = await api.cutBody(pending.id, pending.baseRevision, document, "rehearsed", null, pending.version);
  if (!cut.ok) {
    set({ message: `This run was not kept: the robot was changed elsewhere meanwhile. ${cut.message}` });
    return null;
  }
  const kept = { document, revisionId: cut.value.head.id, revisionNumber: cut.value.head.number, pending: null };
  set({ robots: new Map(get().robots).set(document.name, kept), robot: get().robot === robot ? kept : get().robot });
  return kept.revisionId;
}

async function keep(
  cut: OpenView,
  robot: StoredDocument<Robot>,
  field: StoredDocument<Field>,
  seed: number,
  summary: RunSummary,
  trace: Trace,
): Promise<void> {
  const robotRevision = await robotRevisionOf(robot);
  if (robotRevision === null) return;
  const stored = await api.storeTrial({
    missionRevision: cut.head.id,
    robotRevision,
    fieldRevision: field.revisionId === "" ? null : field.revisionId,
    coreVersion: CORE_VERSION,
    source: "rehearsal",
    seed,
    ideal: false,
    outcome: summary.outcome,
    success: summary.success,
    score: summary.score,
    durationMs: summary.durationMs,
    summary,
    trace: toBase64(packTrace(trace)),
  });
  if (!stored.ok) return set({ message: `This run was not kept: ${stored.message}` });
  const { run } = get();
  if (run && run.summary === summary) set({ run: { ...run, trialId: stored.value.id } });
  await loadTrials();
}

const NOT_WHOLE = "This run cannot be shown: what was kept of it is not whole.";

/** Shows a kept run with its trace. */
export async function showTrial(listed: TrialView): Promise<void> {
  const [bytes, whole, version] = await Promise.all([
    api.trace(listed.id),
    api.trial(listed.id),
    api.revision(listed.mission.document, listed.mission.number),
  ]);
  if (!bytes.ok) return set({ message: bytes.message });
  if (!whole.ok) return set({ message: whole.message });
  const trial = whole.value;
  const read = unpackTrace(bytes.value);
  if (!read.ok) return set({ message: `This run cannot be shown: ${read.message}.` });
  const { trace } = read;
  const empty = new Float32Array(0);
  const kept = keptRunSchema.safeParse(trial.summary);
  if (!kept.success) return set({ message: NOT_WHOLE });
  const summary = kept.data;
  const path = {
    x: traceColumn(trace, "x") ?? empty,
    y: traceColumn(trace, "y") ?? empty,
    heading: traceColumn(trace, "heading") ?? empty,
    summary,
    trace,
  };
  set({
    run: {
      trialId: trial.id,
      summary,
      trace,
      path,
      number: trial.mission.number,
      text: version.ok ? version.value.text : null,
      ...(trial.source !== "rehearsal" ? { by: trial.robot.name } : {}),
    },
    tape: foundAt(trace, trial.tape, summary),
    playing: false,
  });
  movePlayhead(path.x.length - 1);
}

export function play(): void {
  const { run, planned } = get();
  const length = (run?.path ?? planned)?.x.length ?? 0;
  if (length === 0) return;
  if (playhead.tick >= length - 1) movePlayhead(0);
  set({ playing: true });
}

export function pause(): void {
  set({ playing: false });
}

/** The open mission's newest runs. */
export async function loadTrials(): Promise<void> {
  const { open } = get();
  if (!open) return;
  const list = await api.trials(open.id);
  // What was timed by hand in practice has no recording to show.
  if (list.ok) set({ trials: list.value.trials.filter(({ source }) => source !== "practice") });
}
