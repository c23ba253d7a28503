// What a person does in the Mission workplace: opening missions, editing, undo. Runs are in running.ts, the
// planned path in planning.ts, two windows on one mission in settling.ts.
import {
  applyChange,
  headerValue,
  type Mission,
  noRobotAtAll,
  openFloor,
  type Problem,
  parseMission,
  prepareMission,
  readField,
  readRobot,
  type TextChange,
  unknownDocument,
} from "@giddy-pebble/core";
import { api, type OpenView } from "../../shared/api.js";
import { findUnsaved } from "../../shared/unsaved.js";
import { closeDraft, openDraft, typed } from "./draft.js";
import { type Action, reduce, startHistory } from "./history.js";
import { dropPlan, plan, warmUp } from "./planning.js";
import { loadTrials, showTrial } from "./running.js";
import { initialState, movePlayhead, type StoredDocument, useMission } from "./state.js";

const get = useMission.getState;
const set = useMission.setState;

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
    const { head, draft } = opened.value;
    const typed = draft && JSON.stringify(draft.body) !== JSON.stringify(head.body) ? read(draft.body) : null;
    const document = typed?.ok ? typed : read(head.body);
    if (document.ok)
      found.set(name, {
        document: document.document,
        revisionId: head.id,
        revisionNumber: head.number,
        pending:
          typed?.ok && draft ? { id, baseRevision: opened.value.document.headRevision, version: draft.version } : null,
      });
  }
  return found;
}

/** Loads robots, fields and the list of missions, then opens the one asked for, or the first. */
export async function start(missionId: string | null): Promise<void> {
  warmUp();
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
  const oldest = [...missions.value.documents].sort((a, b) => a.createdAt.localeCompare(b.createdAt))[0];
  const wanted = missions.value.documents.find((mission) => mission.id === missionId) ?? oldest;
  if (wanted) await openMission(wanted.id);
  else set({ phase: { is: "empty" } });
}

export async function openMission(id: string): Promise<void> {
  await closeDraft();
  const opened = await api.open(id);
  if (!opened.ok) {
    set({ phase: { is: "failed", message: opened.message } });
    return;
  }
  const { document, head, draft } = opened.value;
  const serverText = draft?.text ?? head.text ?? "";
  const kept = await findUnsaved(id).catch(() => null);
  const base = { documentId: id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 };
  openDraft(base);
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
    typed(text);
  } else set({ save: { is: "conflict", theirs } });
}

function rememberAddress(id: string): void {
  const url = new URL(window.location.href);
  url.searchParams.set("mission", id);
  window.history.replaceState(null, "", url);
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
export function afterText(): void {
  const { history, robots, fields } = get();
  const { text } = history.present;
  const parsed = parseMission(text);
  const robotName = headerValue(parsed, "robot");
  const fieldName = headerValue(parsed, "field");
  const robot = (robotName === null ? [...robots.values()][0] : robots.get(robotName)) ?? null;
  const field =
    fieldName === null
      ? { document: openFloor(), revisionId: "", revisionNumber: 0, pending: null }
      : (fields.get(fieldName) ?? null);
  const extra = documentProblems(parsed, robot !== null, field !== null);
  if (!robot || !field) {
    dropPlan();
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
    dropPlan();
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

export async function createFrom(name: string, text: string, reason: string): Promise<string | null> {
  const made = await api.create("mission", name, text, reason);
  if (!made.ok) return made.message;
  const list = await api.documents("mission");
  if (list.ok) set({ missions: list.value.documents });
  await openMission(made.value.document.id);
  return null;
}

/** Selects the step on a line of the text. */
export function selectLine(line: number | null): void {
  dispatch({ type: "select", line });
}
