// Kept runs: listed, filtered, chosen for comparison, noted on.
import {
  type Field,
  foundAt,
  type KeptRun,
  keptRunSchema,
  openFloor,
  type Pose,
  type Robot,
  type Trace,
  type TypedTape,
} from "@giddy-pebble/core";
import { create } from "zustand";
import {
  api,
  type DocumentView,
  type StudyView,
  type TrialCounts,
  type TrialFilter,
  type TrialView,
} from "../../shared/api.js";
import { moveTo, placed } from "../../shared/place.js";
import { fieldOf, robotOf, traceOf } from "../../shared/runs.js";
import type { Phase } from "../../shared/shell/Shell.js";
import { whenLeft } from "../../shared/visit.js";

/** A chosen run with everything it recorded. */
export interface ShownTrial {
  readonly trial: TrialView;
  readonly trace: Trace;
  readonly summary: KeptRun;
  /** Text of the mission version it ran. */
  readonly text: string;
  /** The version of the robot that ran it; null when it cannot be read any more. */
  readonly robot: Robot | null;
}

interface TrialsState {
  phase: Phase;
  trials: readonly TrialView[];
  /** Many rehearsals at once, each one row. */
  studies: readonly StudyView[];
  next: string | null;
  filter: TrialFilter;
  /** Of everything that fits, not only of what is listed. */
  counts: TrialCounts | null;
  missions: readonly DocumentView[];
  /** Runs that were marked for a tag or a note, by id. */
  marked: ReadonlySet<string>;
  shown: readonly ShownTrial[];
  field: Field;
  readings: readonly string[];
  message: string | null;
}

export const MOST_SHOWN = 4;
export const ALL_TRIALS: TrialFilter = { mission: "", source: "", result: "", tag: "", words: "" };

const AT_FIRST: TrialsState = {
  phase: { is: "loading" },
  trials: [],
  studies: [],
  next: null,
  filter: ALL_TRIALS,
  counts: null,
  missions: [],
  marked: new Set(),
  shown: [],
  field: openFloor(),
  readings: ["heading"],
  message: null,
};
export const useTrials = create<TrialsState>(() => AT_FIRST);
whenLeft(() => useTrials.setState(AT_FIRST, true));

const get = useTrials.getState;
const set = useTrials.setState;

/** Asks for the runs and counts of the filter; an answer that a later one overtook is left out. */
let asked = 0;
async function look(): Promise<string | null> {
  asked += 1;
  const mine = asked;
  const { filter } = get();
  const [list, counts] = await Promise.all([api.trialsFrom(filter, null), api.trialCounts(filter)]);
  if (mine !== asked) return null;
  if (!list.ok) return list.message;
  set({
    trials: filter.source === "study" ? [] : list.value.trials,
    next: filter.source === "study" ? null : list.value.next,
    counts: counts.ok ? counts.value : null,
  });
  return null;
}

export async function start(): Promise<void> {
  set({ filter: { ...ALL_TRIALS, mission: new URL(window.location.href).searchParams.get("of") ?? "" } });
  const [failed, studies, missions] = await Promise.all([look(), api.studies(null), api.documents("mission")]);
  if (failed !== null) return set({ phase: { is: "failed", message: failed } });
  set({
    phase: { is: "ready" },
    studies: studies.ok ? studies.value.studies : [],
    missions: missions.ok ? missions.value.documents : [],
  });
  const run = placed("run");
  if (run !== null && get().shown.length === 0) {
    const found = await api.trial(run);
    if (found.ok) await toggle(found.value);
    else set({ message: "The run of this address is not here any more." });
  }
}

export async function narrow(change: Partial<TrialFilter>): Promise<void> {
  set({ filter: { ...get().filter, ...change }, marked: new Set() });
  const failed = await look();
  if (failed !== null) set({ message: failed });
}

export async function older(): Promise<void> {
  const { next, trials, filter } = get();
  if (!next) return;
  const list = await api.trialsFrom(filter, next);
  if (!list.ok) return set({ message: list.message });
  set({ trials: [...trials, ...list.value.trials], next: list.value.next });
}

/** Many rehearsals that fit the filters; those older than the runs listed so far come with them. */
export function filteredStudies({
  studies,
  filter,
  trials,
  next,
}: Pick<TrialsState, "studies" | "filter" | "trials" | "next">): StudyView[] {
  const oldest = next === null ? "" : (trials.at(-1)?.startedAt ?? "");
  return studies.filter(
    ({ mission, createdAt }) =>
      (filter.mission === "" || mission.document === filter.mission) &&
      (filter.source === "" || filter.source === "study") &&
      filter.result === "" &&
      filter.tag === "" &&
      mission.name.toLowerCase().includes(filter.words.trim().toLowerCase()) &&
      createdAt >= oldest,
  );
}

export function mark(id: string): void {
  const marked = new Set(get().marked);
  if (!marked.delete(id)) marked.add(id);
  set({ marked });
}

/** Puts a tag on every marked run, or takes it off. */
export async function tagMarked(tag: string, on: boolean, ids: readonly string[] = [...get().marked]): Promise<void> {
  const wanted = tag.trim();
  if (wanted === "" || ids.length === 0) return;
  const done = await api.markTrials({ ids, tag: wanted, on });
  if (!done.ok) return set({ message: done.message });
  const chosen = new Set(ids);
  const retag = (one: TrialView): TrialView =>
    chosen.has(one.id)
      ? { ...one, tags: [...one.tags.filter((other) => other !== wanted), ...(on ? [wanted] : [])] }
      : one;
  set({
    trials: get().trials.map(retag),
    shown: get().shown.map((one) => ({ ...one, trial: retag(one.trial) })),
    message: `${wanted} is ${on ? "on" : "taken off"} ${done.value.marked} run${done.value.marked === 1 ? "" : "s"}.`,
  });
  const counts = await api.trialCounts(get().filter);
  if (counts.ok) set({ counts: counts.value });
}

export async function noteMarked(note: string): Promise<void> {
  const ids = [...get().marked];
  const done = await api.markTrials({ ids, note });
  if (!done.ok) return set({ message: done.message });
  const chosen = new Set(ids);
  set({
    trials: get().trials.map((one) => (chosen.has(one.id) ? { ...one, note } : one)),
    message: `The note is on ${done.value.marked} run${done.value.marked === 1 ? "" : "s"}.`,
  });
}

/** The address of a page with one run leads to that run. */
function showing(shown: readonly ShownTrial[]): void {
  set({ shown });
  moveTo({ run: shown.length === 1 ? (shown[0]?.trial.id ?? null) : null }, "replace");
}

/** Takes a run into the comparison, or out of it. */
export async function toggle(trial: TrialView): Promise<void> {
  const { shown } = get();
  if (shown.some((one) => one.trial.id === trial.id)) return showing(shown.filter((one) => one.trial.id !== trial.id));
  if (shown.length >= MOST_SHOWN)
    return set({ message: `${MOST_SHOWN} runs are compared at most. Take one out first.` });
  const [trace, whole, revision, robot] = await Promise.all([
    traceOf(trial),
    api.trial(trial.id),
    api.revision(trial.mission.document, trial.mission.number),
    robotOf(trial),
  ]);
  if (!trace.ok) return set({ message: trace.message });
  if (!whole.ok) return set({ message: whole.message });
  const kept = keptRunSchema.safeParse(whole.value.summary);
  if (!kept.success) return set({ message: "This run cannot be shown: what was kept of it is not whole." });
  const one: ShownTrial = {
    trial,
    trace: trace.value,
    summary: kept.data,
    text: revision.ok ? (revision.value.text ?? "") : "",
    robot,
  };
  // The address of the page may have brought it meanwhile.
  if (get().shown.some((other) => other.trial.id === trial.id)) return;
  showing([...get().shown, one]);
  if (get().shown.length === 1) set({ field: await fieldOf(trial) });
}

/** Where the robot was found after a run: typed by a person, else by the stand-in's own tape. */
export function tapeOf({ trial, trace, summary }: ShownTrial): Pose | null {
  return foundAt(trace, trial.tape, summary);
}

function replaceTrial(changed: TrialView): void {
  const other = (one: TrialView) => (one.id === changed.id ? changed : one);
  set({
    trials: get().trials.map(other),
    shown: get().shown.map((one) => ({ ...one, trial: other(one.trial) })),
  });
}

export async function writeTape(trial: TrialView, tape: TypedTape | null): Promise<void> {
  const kept = await api.tapeTrial(trial.id, tape);
  if (!kept.ok) return set({ message: `The tape's reading was not kept: ${kept.message}` });
  replaceTrial({ ...trial, tape });
}

export async function writeNote(trial: TrialView, note: string): Promise<void> {
  if (note === trial.note) return;
  const kept = await api.noteTrial(trial.id, note);
  if (!kept.ok) return set({ message: `The note was not kept: ${kept.message}` });
  replaceTrial({ ...trial, note });
}
