// The Mission workplace's state: the open mission and its history, what it is rehearsed with, the planned
// path, the run on show, and where the playhead is.
import {
  applyChange,
  CORE_VERSION,
  type Field,
  headerValue,
  type Mission,
  noRobotAtAll,
  openFloor,
  type PreparedMission,
  type Problem,
  packTrace,
  parseMission,
  placeAtLine,
  prepareMission,
  type Robot,
  type RunSummary,
  readField,
  readRobot,
  type TextChange,
  type Trace,
  traceColumn,
  unknownDocument,
  unpackTrace,
} from "@giddy-pebble/core";
import { create } from "zustand";
import { api, type DocumentView, type OpenView, type TrialView } from "../../shared/api.js";
import { findUnsaved, forgetUnsaved } from "../../shared/unsaved.js";
import { Rehearser } from "../../workers/rehearser.js";
import { type Action, type History, reduce, startHistory } from "./history.js";
import { DraftSaver, type SaveState } from "./saving.js";

export interface StoredDocument<T> {
  readonly document: T;
  readonly revisionId: string;
  readonly revisionNumber: number;
}

/** A path on the field: the run's columns, and its steps once it is over. */
export interface Path {
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly heading: Float32Array;
  readonly summary: RunSummary | null;
}

export interface Run {
  readonly trialId: string | null;
  readonly summary: RunSummary;
  readonly trace: Trace;
  readonly path: Path;
  /** Version of the mission it ran; null when it could not be kept. */
  readonly number: number | null;
}

export type Phase =
  | { readonly is: "loading" }
  | { readonly is: "failed"; readonly message: string }
  | { readonly is: "empty" }
  | { readonly is: "ready" };

export interface MissionState {
  phase: Phase;
  missions: readonly DocumentView[];
  robots: ReadonlyMap<string, StoredDocument<Robot>>;
  fields: ReadonlyMap<string, StoredDocument<Field>>;
  open: { readonly id: string; readonly name: string; readonly headRevision: number } | null;
  history: History;
  mission: Mission;
  prepared: PreparedMission | null;
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
}

const EMPTY = "cairn 1\n\nmission\n  wait 1 s\n";

function initialState(): MissionState {
  return {
    phase: { is: "loading" },
    missions: [],
    robots: new Map(),
    fields: new Map(),
    open: null,
    history: startHistory(EMPTY),
    mission: parseMission(EMPTY),
    prepared: null,
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
  };
}

export const useMission = create<MissionState>(initialState);
const get = useMission.getState;
const set = useMission.setState;

const planner = new Rehearser();
const runner = new Rehearser();
let saver: DraftSaver | null = null;

/** Where the playhead is, ticks of 10 ms; read by the drawing loops, not by React. */
export const playhead = { tick: 0, listeners: new Set<() => void>() };

export function movePlayhead(tick: number): void {
  playhead.tick = tick;
  for (const listener of playhead.listeners) listener();
}

async function loadAll<T>(
  kind: string,
  read: (body: unknown) => { ok: true; document: T } | { ok: false },
): Promise<Map<string, StoredDocument<T>> | string> {
  const list = await api.documents(kind);
  if (!list.ok) return list.message;
  const found = new Map<string, StoredDocument<T>>();
  for (const { id, name } of list.value.documents) {
    const opened = await api.open(id);
    if (!opened.ok) return opened.message;
    const document = read(opened.value.head.body);
    if (document.ok)
      found.set(name, {
        document: document.document,
        revisionId: opened.value.head.id,
        revisionNumber: opened.value.head.number,
      });
  }
  return found;
}

/** Loads robots, fields and the list of missions, then opens the one asked for, or the first. */
export async function start(missionId: string | null): Promise<void> {
  planner.warmUp();
  const [robots, fields, missions] = await Promise.all([
    loadAll("robot", readRobot),
    loadAll("field", readField),
    api.documents("mission"),
  ]);
  if (typeof robots === "string" || typeof fields === "string" || !missions.ok) {
    const message =
      typeof robots === "string" ? robots : typeof fields === "string" ? fields : missions.ok ? "" : missions.message;
    set({ phase: { is: "failed", message } });
    return;
  }
  set({ robots, fields, missions: missions.value.documents });
  const wanted = missions.value.documents.find((mission) => mission.id === missionId) ?? missions.value.documents[0];
  if (wanted) await openMission(wanted.id);
  else set({ phase: { is: "empty" } });
}

export async function openMission(id: string): Promise<void> {
  await saver?.flush();
  saver?.dispose();
  const opened = await api.open(id);
  if (!opened.ok) {
    set({ phase: { is: "failed", message: opened.message } });
    return;
  }
  const { document, head, draft } = opened.value;
  const serverText = draft?.text ?? head.text ?? "";
  const kept = await findUnsaved(id).catch(() => null);
  const base = { documentId: id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 };
  saver = new DraftSaver(base, (save) => set({ save }));
  set({
    ...initialState(),
    phase: { is: "ready" },
    missions: get().missions,
    robots: get().robots,
    fields: get().fields,
    view: get().view,
    open: { id, name: document.name, headRevision: document.headRevision },
    history: startHistory(serverText),
  });
  movePlayhead(0);
  rememberAddress(id);
  if (kept && kept.text !== serverText)
    restore(kept.text, kept.overVersion === base.draftVersion && kept.baseRevision === base.baseRevision, opened.value);
  afterText();
  await loadTrials();
  const newest = get().trials[0];
  if (newest) await showTrial(newest);
}

/** Text typed while the server was away: saved on, or held beside what somebody else saved meanwhile. */
function restore(text: string, follows: boolean, theirs: OpenView): void {
  set({ history: reduce(get().history, { type: "edit", text, label: "typing from before the reload" }) });
  if (follows) {
    set({ message: "What you typed before the reload is back." });
    saver?.typed(text);
  } else set({ save: { is: "conflict", theirs } });
}

function rememberAddress(id: string): void {
  const url = new URL(window.location.href);
  url.searchParams.set("mission", id);
  window.history.replaceState(null, "", url);
}

async function loadTrials(): Promise<void> {
  const { open } = get();
  if (!open) return;
  const list = await api.trials(open.id);
  if (list.ok) set({ trials: list.value.trials });
}

/** Every change of text comes through here. */
export function dispatch(action: Action): void {
  const before = get().history;
  const history = reduce(before, action);
  if (history === before) return;
  const undone =
    action.type === "undo"
      ? before.past.at(-1)?.label
      : action.type === "redo"
        ? before.future.at(-1)?.label
        : undefined;
  set({
    history,
    message: undone === undefined ? get().message : `${action.type === "undo" ? "Undid" : "Did again"}: ${undone}`,
  });
  if (history.present.text === before.present.text) return;
  if (get().save.is !== "conflict") saver?.typed(history.present.text);
  afterText();
}

/**
 * Applies an edit of the step list.
 * @param selectLine - line to select afterwards; undefined leaves the selection
 * @param typing - names the place, when small edits one after another are one for undo
 */
export function edit(change: TextChange | null, label: string, selectLine?: number | null, typing?: string): void {
  if (!change) return;
  const { text } = get().history.present;
  dispatch({
    type: "edit",
    text: applyChange(text, change),
    label,
    ...(selectLine === undefined ? {} : { selectLine }),
    ...(typing === undefined ? {} : { typing: { key: typing, at: Date.now() } }),
  });
}

export function undo(): void {
  dispatch({ type: "undo" });
}

export function redo(): void {
  dispatch({ type: "redo" });
}

/** Parses and checks the text, and starts a new planned path. */
function afterText(): void {
  const { history, robots, fields } = get();
  const { text } = history.present;
  const parsed = parseMission(text);
  const robotName = headerValue(parsed, "robot");
  const fieldName = headerValue(parsed, "field");
  const robot = (robotName === null ? [...robots.values()][0] : robots.get(robotName)) ?? null;
  const field =
    fieldName === null ? { document: openFloor(), revisionId: "", revisionNumber: 0 } : (fields.get(fieldName) ?? null);
  const extra = documentProblems(parsed, robot !== null, field !== null);
  if (!robot || !field) {
    planner.cancel();
    set({
      mission: parsed,
      prepared: null,
      robot,
      field: field ?? get().field,
      problems: [...parsed.problems, ...extra].sort((a, b) => a.start - b.start),
      plannedStale: true,
    });
    return;
  }
  const prepared = prepareMission(text, robot.document, field.document);
  set({ mission: prepared.mission, prepared, robot, field, problems: prepared.check.problems });
  if (prepared.program) plan(text, robot.document, field.document);
  else {
    planner.cancel();
    set({ plannedStale: true });
  }
}

function documentProblems(mission: Mission, hasRobot: boolean, hasField: boolean): Problem[] {
  const { robots, fields } = get();
  const problems: Problem[] = [];
  const header = (word: "robot" | "field") => mission.headers.find((candidate) => candidate.word === word);
  const robot = header("robot");
  if (!hasRobot)
    problems.push(
      robot
        ? unknownDocument(robot.valueSpan, "robot", robot.value, [...robots.keys()])
        : noRobotAtAll({ start: 0, end: mission.lines[0]?.end ?? 0 }),
    );
  const field = header("field");
  if (!hasField && field) problems.push(unknownDocument(field.valueSpan, "field", field.value, [...fields.keys()]));
  return problems;
}

class GrowingPath {
  private x = new Float32Array(4096);
  private y = new Float32Array(4096);
  private heading = new Float32Array(4096);
  count = 0;

  add(from: number, columns: readonly Float32Array[]): void {
    const [x, y, heading] = columns;
    if (!x || !y || !heading) return;
    while (from + x.length > this.x.length) this.grow();
    this.x.set(x, from);
    this.y.set(y, from);
    this.heading.set(heading, from);
    this.count = from + x.length;
  }

  private grow(): void {
    const wider = (old: Float32Array) => {
      const grown = new Float32Array(old.length * 2);
      grown.set(old);
      return grown;
    };
    this.x = wider(this.x);
    this.y = wider(this.y);
    this.heading = wider(this.heading);
  }

  view(summary: RunSummary | null): Path {
    const { count } = this;
    return {
      x: this.x.subarray(0, count),
      y: this.y.subarray(0, count),
      heading: this.heading.subarray(0, count),
      summary,
    };
  }
}

const DRAW_PARTIAL_MS = 120;

/** Milliseconds from the latest keystroke to its whole planned path, for the bench. */
export const planTiming = { typedAt: 0, elapsedMs: 0 };

function plan(text: string, robot: Robot, field: Field): void {
  const growing = new GrowingPath();
  planTiming.typedAt = performance.now();
  planner.start(
    { text, robot, field, seed: 1, ideal: true },
    {
      rows: (from, columns) => {
        growing.add(from, columns);
        // A quick plan replaces the old one whole; a long one is drawn as it comes.
        if (performance.now() - planTiming.typedAt > DRAW_PARTIAL_MS)
          set({ planned: growing.view(null), plannedStale: false });
      },
      done: (summary) => {
        planTiming.elapsedMs = performance.now() - planTiming.typedAt;
        set({ planned: growing.view(summary), plannedStale: false });
      },
      refused: (reason) => set({ plannedStale: true, message: reason }),
    },
  );
}

function randomSeed(): number {
  return crypto.getRandomValues(new Int32Array(1))[0] ?? 1;
}

/** Rehearse: cuts a revision, runs it seeded, keeps it as a trial, plays it. */
export async function rehearse(): Promise<void> {
  const { open, prepared, robot, field, rehearsing, history, save } = get();
  if (!open || !saver || !prepared?.program || !robot || !field || rehearsing || save.is === "conflict") return;
  set({ rehearsing: { tick: 0 }, playing: false, message: null });
  const cut = await cutRevision(history.present.text, "rehearsed");
  // Without the server the run can be watched, but not kept; a conflict has to be settled first.
  if (!cut && get().save.is !== "away") return set({ rehearsing: null });
  const seed = randomSeed();
  const growing = new GrowingPath();
  runner.start(
    { text: history.present.text, robot: robot.document, field: field.document, seed, ideal: false },
    {
      rows: (from, columns) => {
        growing.add(from, columns);
        set({ rehearsing: { tick: growing.count } });
      },
      done: (summary, trace) => {
        set({
          rehearsing: null,
          run: { trialId: null, summary, trace, path: growing.view(summary), number: cut?.head.number ?? null },
        });
        movePlayhead(0);
        play();
        if (cut) void keep(cut, robot, field, seed, summary, trace);
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

async function cutRevision(text: string, reason: string): Promise<OpenView | null> {
  const { open } = get();
  if (!open || !saver) return null;
  await saver.flush();
  const { baseRevision, draftVersion } = saver.current;
  const cut = await api.cutRevision(open.id, baseRevision, text, reason, draftVersion);
  if (cut.ok) {
    adopt(cut.value);
    return cut.value;
  }
  if (cut.code === "stale" && cut.current) set({ save: { is: "conflict", theirs: cut.current } });
  else if (cut.code === "unreachable") set({ save: { is: "away", message: cut.message } });
  else set({ message: cut.message });
  return null;
}

/** Takes over the server's numbers after a save. */
function adopt(opened: OpenView): void {
  const { document, draft } = opened;
  saver?.rebase({ documentId: document.id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 });
  set({ open: { id: document.id, name: document.name, headRevision: document.headRevision }, save: { is: "saved" } });
}

function toBase64(bytes: Uint8Array): string {
  let binary = "";
  for (let i = 0; i < bytes.length; i += 0x8000) binary += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(binary);
}

async function keep(
  cut: OpenView,
  robot: StoredDocument<Robot>,
  field: StoredDocument<Field>,
  seed: number,
  summary: RunSummary,
  trace: Trace,
): Promise<void> {
  const stored = await api.storeTrial({
    missionRevision: cut.head.id,
    robotRevision: robot.revisionId,
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

/** Shows a kept run with its trace. */
export async function showTrial(trial: TrialView): Promise<void> {
  const bytes = await api.trace(trial.id);
  if (!bytes.ok) return set({ message: bytes.message });
  const read = unpackTrace(bytes.value);
  if (!read.ok) return set({ message: `This run cannot be shown: ${read.message}.` });
  const { trace } = read;
  const empty = new Float32Array(0);
  const summary = trial.summary as unknown as RunSummary;
  const path = {
    x: traceColumn(trace, "x") ?? empty,
    y: traceColumn(trace, "y") ?? empty,
    heading: traceColumn(trace, "heading") ?? empty,
    summary,
  };
  set({ run: { trialId: trial.id, summary, trace, path, number: trial.mission.number }, playing: false });
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

export async function createMission(name: string): Promise<string | null> {
  const { robots, fields } = get();
  const robot = [...robots.keys()][0];
  const field = [...fields.entries()][0];
  const begin = field?.[1].document.begins[0]?.name;
  const lines = [
    "cairn 1",
    ...(robot ? [`robot "${robot}"`] : []),
    ...(field ? [`field "${field[0]}"`] : []),
    ...(begin ? [`begin "${begin}"`] : []),
    "",
    "mission",
    "  wait 1 s",
    "",
  ];
  return createFrom(name, lines.join("\n"), "made");
}

async function createFrom(name: string, text: string, reason: string): Promise<string | null> {
  const made = await api.create("mission", name, text, reason);
  if (!made.ok) return made.message;
  const list = await api.documents("mission");
  if (list.ok) set({ missions: list.value.documents });
  await openMission(made.value.document.id);
  return null;
}

/** Conflict, first way out: mine becomes a mission of its own, theirs stays. */
export async function keepBoth(): Promise<void> {
  const { open, history, missions } = get();
  if (!open) return;
  const names = new Set(missions.map((mission) => mission.name));
  let number = 2;
  while (names.has(`${open.name} (${number})`)) number += 1;
  const mine = history.present.text;
  const mineKept = open.id;
  saver?.dispose();
  const failed = await createFrom(`${open.name} (${number})`, mine, "kept beside another window's version");
  if (failed === null) await forgetUnsaved(mineKept, mine);
  set({ message: failed ?? `Both versions are kept: yours is now "${open.name} (${number})".` });
}

/** Second: theirs is cut as a revision, so that it can be found again, and mine goes on top. */
export async function keepMine(): Promise<void> {
  const { open, save, history } = get();
  if (!open || save.is !== "conflict" || !saver) return;
  const { document, draft, head } = save.theirs;
  const theirText = draft?.text ?? head.text ?? "";
  const cut = await api.cutRevision(
    open.id,
    document.headRevision,
    theirText,
    "kept before another window's version replaced it",
    draft?.version ?? 0,
  );
  if (!cut.ok) {
    if (cut.current) set({ save: { is: "conflict", theirs: cut.current } });
    return set({ message: cut.message });
  }
  adopt(cut.value);
  set({ message: `The other window's version is kept as version ${cut.value.head.number}; yours goes on from it.` });
  saver.typed(history.present.text);
}

/** Third: theirs replaces mine here; mine stays in the undo history. */
export function takeTheirs(): void {
  const { save } = get();
  if (save.is !== "conflict") return;
  const { draft, head } = save.theirs;
  const mine = get().history.present.text;
  adopt(save.theirs);
  const documentId = save.theirs.document.id;
  const history = reduce(get().history, {
    type: "edit",
    text: draft?.text ?? head.text ?? "",
    label: "taking the other window's version",
  });
  set({ history, message: "The other window's version is open. Undo brings yours back." });
  void forgetUnsaved(documentId, mine);
  afterText();
}

/** Selects the step on a line of the text. */
export function selectLine(line: number | null): void {
  dispatch({ type: "select", line });
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

/** The path the playhead runs on: the run if there is one, else the plan. */
export function shownPath(state: MissionState): Path | null {
  return state.run?.path ?? state.planned;
}
