// Kept runs: listed, filtered, chosen for comparison, noted on.
import {
  type Field,
  foundAt,
  openField,
  openFloor,
  openRobot,
  type Pose,
  type Robot,
  type RunSummary,
  type Trace,
  type TypedTape,
  unpackTrace,
} from "@giddy-pebble/core";
import { create } from "zustand";
import { api, type StudyView, type TrialView } from "../../shared/api.js";
import { withPng } from "../../shared/field/pictures.js";
import type { Phase } from "../../shared/shell/Shell.js";

/** A chosen run with everything it recorded. */
export interface ShownTrial {
  readonly trial: TrialView;
  readonly trace: Trace;
  readonly summary: RunSummary;
  /** Text of the mission version it ran. */
  readonly text: string;
  /** The version of the robot that ran it; null when it cannot be read any more. */
  readonly robot: Robot | null;
}

export interface Filter {
  readonly mission: string;
  readonly source: string;
  readonly result: "" | "worked" | "failed";
}

interface TrialsState {
  phase: Phase;
  trials: readonly TrialView[];
  /** Many rehearsals at once, each one row. */
  studies: readonly StudyView[];
  next: string | null;
  filter: Filter;
  shown: readonly ShownTrial[];
  field: Field;
  reading: string;
  message: string | null;
}

export const MOST_SHOWN = 4;

export const useTrials = create<TrialsState>(() => ({
  phase: { is: "loading" },
  trials: [],
  studies: [],
  next: null,
  filter: { mission: "", source: "", result: "" },
  shown: [],
  field: openFloor(),
  reading: "heading",
  message: null,
}));

const get = useTrials.getState;
const set = useTrials.setState;

export async function start(): Promise<void> {
  const [list, studies] = await Promise.all([api.trialsFrom(null), api.studies(null)]);
  if (!list.ok) return set({ phase: { is: "failed", message: list.message } });
  set({
    phase: { is: "ready" },
    trials: list.value.trials,
    studies: studies.ok ? studies.value.studies : [],
    next: list.value.next,
  });
}

export async function older(): Promise<void> {
  const { next, trials } = get();
  if (!next) return;
  const list = await api.trialsFrom(next);
  if (!list.ok) return set({ message: list.message });
  set({ trials: [...trials, ...list.value.trials], next: list.value.next });
}

export function filtered({ trials, filter }: Pick<TrialsState, "trials" | "filter">): TrialView[] {
  return trials.filter(
    ({ mission, source, success }) =>
      (filter.mission === "" || mission.document === filter.mission) &&
      (filter.source === "" || source === filter.source) &&
      (filter.result === "" || success === (filter.result === "worked")),
  );
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
      createdAt >= oldest,
  );
}

/** Takes a run into the comparison, or out of it. */
export async function toggle(trial: TrialView): Promise<void> {
  const { shown } = get();
  if (shown.some((one) => one.trial.id === trial.id))
    return set({ shown: shown.filter((one) => one.trial.id !== trial.id) });
  if (shown.length >= MOST_SHOWN)
    return set({ message: `${MOST_SHOWN} runs are compared at most. Take one out first.` });
  const [bytes, whole, revision, own] = await Promise.all([
    api.trace(trial.id),
    api.trial(trial.id),
    api.revision(trial.mission.document, trial.mission.number),
    api.revision(trial.robot.document, trial.robot.number),
  ]);
  const robot = own.ok ? openRobot(own.value.body) : null;
  if (!bytes.ok) return set({ message: bytes.message });
  if (!whole.ok) return set({ message: whole.message });
  const read = unpackTrace(bytes.value);
  if (!read.ok) return set({ message: `This run cannot be shown: ${read.message}.` });
  const one: ShownTrial = {
    trial,
    trace: read.trace,
    summary: whole.value.summary as unknown as RunSummary,
    text: revision.ok ? (revision.value.text ?? "") : "",
    robot: robot?.ok ? robot.document : null,
  };
  set({ shown: [...get().shown, one] });
  if (get().shown.length === 1) set({ field: await fieldOf(trial) });
}

async function fieldOf(trial: TrialView): Promise<Field> {
  const fields = await api.documents("field");
  const found = fields.ok ? fields.value.documents.find(({ name }) => name === trial.field?.name) : undefined;
  const open = found ? await api.open(found.id) : null;
  const read = open?.ok ? openField(open.value.draft?.body ?? open.value.head.body) : null;
  return read?.ok ? withPng(read.document) : openFloor();
}

/** Where the robot was found after a run: typed by a person, else by the stand-in's own tape. */
export function tapeOf({ trial, trace, summary }: ShownTrial): Pose | null {
  return foundAt(trace, trial.tape, summary as unknown as { tape?: unknown });
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
