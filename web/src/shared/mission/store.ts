// What a person does in the Mission workplace: opening missions, editing, undo. Runs are in running.ts, the
// planned path in planning.ts, two windows on one mission in settling.ts.
import {
  applyChange,
  faultyDocument,
  headerValue,
  type Mission,
  noRobotAtAll,
  openField,
  openFloor,
  type Problem,
  parseMission,
  prepareMission,
  readRobot,
  type TextChange,
  unknownDocument,
  wordProblems,
} from "@giddy-pebble/core";
import { api, type DocumentView, type OpenView } from "../api.js";
import { cleanText } from "../cleanText.js";
import { collectionTexts } from "../collections.js";
import { withPng } from "../field/pictures.js";
import { missionText } from "../newMission.js";
import { moveTo, placed } from "../place.js";
import { smallEdit } from "../smallEdits.js";
import { findUnsaved } from "../unsaved.js";
import { inThisVisit, whenLeft } from "../visit.js";
import { closeDraft, openDraft, typed } from "./draft.js";
import { type Action, reduce, startHistory } from "./history.js";
import { dropPlan, plan, warmUp } from "./planning.js";
import { loadTrials, showTrial } from "./running.js";
import { initialState, movePlayhead, namesOf, type StoredDocument, useMission } from "./state.js";

const get = useMission.getState;
const set = useMission.setState;

type Reader<T> = (body: unknown) => { ok: true; document: T } | { ok: false };

/** Reads one robot or field, with what was typed over its newest revision. */
async function readStored<T>(id: string, read: Reader<T>): Promise<StoredDocument<T> | null> {
  const opened = await api.open(id);
  if (!opened.ok) return null;
  const { head, draft } = opened.value;
  const typed = draft && JSON.stringify(draft.body) !== JSON.stringify(head.body) ? read(draft.body) : null;
  const document = typed?.ok ? typed : read(head.body);
  if (!document.ok) return null;
  return {
    document: document.document,
    revisionId: head.id,
    revisionNumber: head.number,
    pending:
      typed?.ok && draft ? { id, baseRevision: opened.value.document.headRevision, version: draft.version } : null,
  };
}

/** Documents that are being read or could not be, by kind and name: none is asked for twice at a time. */
const asked = new Map<string, "reading" | "unreadable">();
whenLeft(() => asked.clear());

/** Reads a robot or field the text names, and looks at the text again once it is there. */
async function fetchNamed(kind: "robot" | "field", name: string): Promise<void> {
  const key = `${kind} ${name}`;
  if (asked.has(key)) return;
  asked.set(key, "reading");
  let view = get().library.find((document) => document.kind === kind && document.name === name);
  if (!view) {
    // It may have been made or renamed in another window meanwhile.
    await lookAgain(true);
    view = get().library.find((document) => document.kind === kind && document.name === name);
  }
  let found = false;
  if (view && kind === "robot") {
    const robot = await readStored(view.id, readRobot);
    if (robot) set({ robots: new Map(get().robots).set(name, robot) });
    found = robot !== null;
  } else if (view) {
    const stored = await readStored(view.id, openField);
    const field = stored ? { ...stored, document: await inThisVisit(withPng(stored.document)) } : null;
    if (field) set({ fields: new Map(get().fields).set(name, field) });
    found = field !== null;
  }
  if (found) asked.delete(key);
  else asked.set(key, "unreadable");
  afterText();
}

/** The robot was changed elsewhere: it is read anew, and the mission looked at with it. */
export async function readRobotAgain(name: string): Promise<void> {
  asked.delete(`robot ${name}`);
  await fetchNamed("robot", name);
}

/** Looks what there is. @param anew - asks the server even if it said a moment ago */
async function lookAgain(anew = false): Promise<string | null> {
  const list = await api.documents(undefined, anew);
  if (!list.ok) return list.message;
  const library = list.value.documents;
  // What could not be read may have been mended since.
  for (const [key, state] of asked) if (state === "unreadable") asked.delete(key);
  const listed = library.filter(({ kind }) => kind === "mission" || kind === "collection");
  set({ library, missions: listed, collections: await collectionTexts(library) });
  return null;
}

/** Opens the mission asked for, or the first. */
export async function start(missionId: string | null): Promise<void> {
  warmUp();
  const trouble = await lookAgain();
  if (trouble !== null) return set({ phase: { is: "failed", message: trouble } });
  const { missions } = get();
  const oldest = missions
    .filter(({ kind }) => kind === "mission")
    .sort((a, b) => a.createdAt.localeCompare(b.createdAt))[0];
  const wanted = missions.find((mission) => mission.id === missionId) ?? oldest;
  if (wanted) await openMission(wanted.id, "first");
  else set({ phase: { is: "empty" } });
}

/** @param how - "chosen" by the person, so that Back returns from it; "first" of the page, or "returned" to by Back */
export async function openMission(id: string, how: "chosen" | "first" | "returned" = "chosen"): Promise<void> {
  await closeDraft();
  const opened = await api.open(id);
  if (!opened.ok) {
    set({ phase: { is: "failed", message: opened.message } });
    return;
  }
  const { document, head, draft } = opened.value;
  const serverText = draft?.text ?? head.text ?? "";
  const kept = await inThisVisit(findUnsaved(id));
  const base = { documentId: id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 };
  openDraft(base);
  set({
    ...initialState(),
    phase: { is: "ready" },
    library: get().library,
    missions: get().missions,
    robots: get().robots,
    fields: get().fields,
    collections: get().collections,
    view: get().view,
    open: { id, name: document.name, headRevision: document.headRevision },
    history: startHistory(serverText),
  });
  movePlayhead(0);
  // A mission that is chosen brings its robot along; a page that opens keeps the robot that was chosen elsewhere.
  const named = (kind: string, name: string | null) =>
    get().library.find((view) => view.kind === kind && view.name === name)?.id ?? null;
  const robot = (how === "first" ? placed("robot") : null) ?? named("robot", document.robot) ?? placed("robot");
  const field = named("field", document.field) ?? placed("field");
  if (how !== "returned") moveTo({ mission: id, robot, field }, how === "chosen" ? "push" : "replace");
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
    typed(text);
  } else set({ save: { is: "conflict", theirs } });
}

/** Steps or text; the address says which, so that a reload shows the same. */
export function showView(view: "steps" | "text"): void {
  set({ view });
  moveTo({ view: view === "text" ? "text" : null }, "replace");
}

/** Back and Forward: opens the mission the address names now, if another one is open. */
export async function returnTo(id: string | null): Promise<void> {
  if (id === null || id === get().open?.id) return;
  const known = () => get().missions.some((mission) => mission.id === id);
  // It may have been made in another window meanwhile.
  if (!known()) await lookAgain(true);
  // Meanwhile the person may have gone on.
  if (known() && placed("mission") === id) await openMission(id, "returned");
}

/** Every change of text comes through here. */
export function dispatch(asked: Action): void {
  const before = get().history;
  const action = asked.type === "edit" ? { ...asked, text: cleanText(asked.text) } : asked;
  if (action.type === "edit" && asked.type === "edit" && action.text !== asked.text)
    set({ message: "Signs that are no text were left out of what was pasted." });
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
  typed(history.present.text);
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
    ...(typing === undefined ? {} : { typing: smallEdit(typing) }),
  });
}

export function undo(): void {
  dispatch({ type: "undo" });
}

export function redo(): void {
  dispatch({ type: "redo" });
}

/** Parses and checks the text, and starts a new planned path. */
export function afterText(): void {
  const { history, robots, fields } = get();
  const { text } = history.present;
  const parsed = parseMission(text);
  const robotName = headerValue(parsed, "robot");
  const fieldName = headerValue(parsed, "field");
  const wanted = robotName ?? namesOf(get().library, "robot")[0] ?? null;
  const robot = (wanted === null ? null : robots.get(wanted)) ?? null;
  const field =
    fieldName === null
      ? { document: openFloor(), revisionId: "", revisionNumber: 0, pending: null }
      : (fields.get(fieldName) ?? null);
  const reading = [
    !robot && wanted !== null && isReading("robot", wanted),
    !field && fieldName !== null && isReading("field", fieldName),
  ];
  const extra = documentProblems(parsed, robot !== null || reading[0] === true, field !== null || reading[1] === true);
  if (!robot || !field) {
    dropPlan();
    set({
      mission: parsed,
      prepared: null,
      robot,
      field: field ?? get().field,
      problems: [...wordProblems(parsed), ...extra].sort((a, b) => a.start - b.start),
      plannedStale: true,
    });
    return;
  }
  keepCollection(parsed);
  const prepared = prepareMission(parsed, robot.document, field.document, undefined, get().collections);
  set({ mission: parsed, prepared, robot, field, problems: prepared.check.problems });
  if (prepared.program) plan(prepared.program, robot.document, field.document);
  else {
    dropPlan();
    set({ plannedStale: true });
  }
}

/** A collection that is being written is what missions use from now on. */
function keepCollection(parsed: Mission): void {
  const name = parsed.isCollection ? get().open?.name : undefined;
  if (name !== undefined) set({ collections: new Map(get().collections).set(name, parsed.text) });
}

/** Whether a document is on its way; the first time anybody asks, it is fetched. */
function isReading(kind: "robot" | "field", name: string): boolean {
  const state = asked.get(`${kind} ${name}`);
  if (state === undefined) void fetchNamed(kind, name);
  return state !== "unreadable";
}

/** There is none of this name, or there is one that cannot be read. */
function missingDocument(
  { value, valueSpan }: Mission["headers"][number],
  kind: "robot" | "field",
  library: readonly DocumentView[],
): Problem {
  const known = namesOf(library, kind);
  return known.includes(value)
    ? faultyDocument(valueSpan, kind, value)
    : unknownDocument(valueSpan, kind, value, known);
}

function documentProblems(mission: Mission, hasRobot: boolean, hasField: boolean): Problem[] {
  const { library } = get();
  const problems: Problem[] = [];
  const header = (word: "robot" | "field") => mission.headers.find((candidate) => candidate.word === word);
  const robot = header("robot");
  if (!hasRobot)
    problems.push(
      robot ? missingDocument(robot, "robot", library) : noRobotAtAll({ start: 0, end: mission.lines[0]?.end ?? 0 }),
    );
  const field = header("field");
  if (!hasField && field) problems.push(missingDocument(field, "field", library));
  return problems;
}

export async function createCollection(name: string): Promise<string | null> {
  const made = await api.create(
    "collection",
    name,
    `cairn 1\ncollection "${name}"\n\n# What the routine is for.\nroutine my_move(way: length)\n  go way\n`,
    "made",
  );
  if (!made.ok) return made.message;
  const trouble = await lookAgain();
  if (trouble !== null) return trouble;
  await openMission(made.value.document.id);
  return null;
}

export async function createMission(name: string): Promise<string | null> {
  const { library, robot: shown } = get();
  const robot = shown?.document.name ?? namesOf(library, "robot")[0];
  const tables = library.filter(({ kind }) => kind === "field");
  const table = tables.find(({ id }) => id === placed("field")) ?? tables[0];
  const field = table ? await readStored(table.id, openField) : null;
  const text = missionText({ robot, field: field?.document.name, begin: field?.document.begins[0]?.name });
  return createFrom(name, text, "made");
}

export async function createFrom(name: string, text: string, reason: string): Promise<string | null> {
  const made = await api.create("mission", name, text, reason);
  if (!made.ok) return made.message;
  await lookAgain();
  await openMission(made.value.document.id);
  return null;
}

/** Selects the step on a line of the text. */
export function selectLine(line: number | null): void {
  dispatch({ type: "select", line });
}
