// What a person does in the Robot workplace: opening robots, editing parts, undo, revisions, files.
import { emptyRobot, findPart, openRobot, type Robot } from "@giddy-pebble/core";
import { api, type OpenView } from "../../shared/api.js";
import { renameStandIn } from "../../shared/link/linkStore.js";
import { moveTo } from "../../shared/place.js";
import { DraftSaver, type SaveBase } from "../../shared/saving.js";
import { findUnsaved } from "../../shared/unsaved.js";
import { derived, initialState, type SidePanel, useRobot } from "./state.js";

const get = useRobot.getState;
const set = useRobot.setState;
const SAME_TYPING_MS = 900;
const LONGEST_HISTORY = 300;
let saver: DraftSaver | null = null;

function newSaver(base: SaveBase): DraftSaver {
  return new DraftSaver(
    base,
    (save) => set({ save }),
    (id, baseRevision, text, over) => api.saveDraftBody(id, baseRevision, JSON.parse(text), over),
  );
}

function readText(text: string): Robot | null {
  try {
    const read = openRobot(JSON.parse(text));
    return read.ok ? read.document : null;
  } catch {
    return null;
  }
}

/** Opens the robot asked for, or the first. */
export async function start(id: string | null): Promise<void> {
  const robots = await api.documents("robot");
  if (!robots.ok) {
    set({ phase: { is: "failed", message: robots.message } });
    return;
  }
  set({ robots: robots.value.documents });
  const wanted = robots.value.documents.find((robot) => robot.id === id) ?? robots.value.documents[0];
  if (wanted) await openRobotDocument(wanted.id, "first");
  else set({ phase: { is: "empty" } });
}

/** Back and Forward: opens the robot the address names now, if another one is open. */
export async function returnTo(id: string | null): Promise<void> {
  if (id !== null && id !== get().open?.id && get().robots.some((robot) => robot.id === id))
    await openRobotDocument(id, "returned");
}

/** @param how - "chosen" by the person, so that Back returns from it; "first" of the page, or "returned" to by Back */
export async function openRobotDocument(id: string, how: "chosen" | "first" | "returned" = "chosen"): Promise<void> {
  await saver?.flush();
  saver?.dispose();
  const opened = await api.open(id);
  if (!opened.ok) {
    set({ phase: { is: "failed", message: opened.message } });
    return;
  }
  const { document, head, draft } = opened.value;
  const read = openRobot(draft?.body ?? head.body);
  if (!read.ok) {
    set({ phase: { is: "failed", message: `This robot cannot be read: ${read.problems.join("; ")}.` } });
    return;
  }
  const base = { documentId: id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 };
  saver = newSaver(base);
  const { robots, view, mirror, bottom } = get();
  set({
    ...initialState(),
    phase: { is: "ready" },
    robots,
    view,
    mirror,
    bottom,
    open: { id, name: document.name, headRevision: document.headRevision },
    robot: read.document,
    ...derived(read.document),
  });
  if (how !== "returned") moveTo({ robot: id }, how === "chosen" ? "push" : "replace");
  await restoreUnsaved(base, read.document, opened.value);
}

/** What was changed while the server was away is still on this computer. */
async function restoreUnsaved(base: SaveBase, shown: Robot, theirs: OpenView): Promise<void> {
  const kept = await findUnsaved(base.documentId).catch(() => null);
  const robot = kept ? readText(kept.text) : null;
  if (!kept || !robot || JSON.stringify(robot) === JSON.stringify(shown)) return;
  if (kept.overVersion === base.draftVersion && kept.baseRevision === base.baseRevision) {
    change(robot, "changes from before the reload");
    set({ message: "What you changed before the reload is back." });
  } else {
    set({
      robot,
      ...derived(robot),
      past: [{ robot: shown, label: "changes from before the reload" }],
      save: { is: "conflict", theirs },
    });
  }
}

/**
 * Every change of the robot comes through here.
 * @param typing - names the place, when small edits one after another are one for undo
 */
export function change(robot: Robot, label: string, typing?: string): void {
  const { robot: before, past, typing: last } = get();
  if (robot === before) return;
  const now = Date.now();
  const goesOn = typing !== undefined && last?.key === typing && now - last.at < SAME_TYPING_MS && past.length > 0;
  set({
    robot,
    past: goesOn ? past : [...past, { robot: before, label }].slice(-LONGEST_HISTORY),
    future: [],
    typing: typing === undefined ? null : { key: typing, at: now },
    ...derived(robot),
  });
  keep(robot);
}

function keep(robot: Robot): void {
  const text = JSON.stringify(robot);
  if (get().save.is === "conflict") saver?.hold(text);
  else saver?.typed(text);
  const { open } = get();
  if (open && robot.name !== open.name) void takeName(open.name, robot.name);
}

/** A new name counts everywhere at once: lists, and the missions that name the robot. Typed or undone alike. */
async function takeName(before: string, after: string): Promise<void> {
  const failed = await nameRevision("", `renamed from ${before} to ${after}`);
  const { robot } = get();
  if (failed === null) {
    void renameStandIn(robot, before);
    return set({ message: `It is called ${after} now, in the missions that name it as well.` });
  }
  set({ message: `It is still called ${before}. ${failed}` });
  if (get().save.is !== "conflict" && robot.name === after) {
    const old = { ...robot, name: before };
    set({ robot: old, ...derived(old) });
    keep(old);
  }
}

function step(from: "past" | "future"): void {
  const state = get();
  const entry = state[from].at(-1);
  if (!entry) return;
  const other = from === "past" ? "future" : "past";
  set({
    robot: entry.robot,
    [from]: state[from].slice(0, -1),
    [other]: [...state[other], { robot: state.robot, label: entry.label }],
    typing: null,
    message: `${from === "past" ? "Undid" : "Redid"}: ${entry.label}`,
    selected: findPart(entry.robot, state.selected) ? state.selected : "chassis",
    ...derived(entry.robot),
  });
  keep(entry.robot);
}

export function undo(): void {
  step("past");
}

export function redo(): void {
  step("future");
}

export function select(ref: string): void {
  set({ selected: ref });
}

export function showPanel(panel: SidePanel): void {
  set({ panel: get().panel === panel ? "none" : panel });
}

/** Takes over the server's numbers after a save. */
function adopt(opened: OpenView): void {
  const { document, draft } = opened;
  saver?.rebase({ documentId: document.id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 });
  set({
    open: { id: document.id, name: document.name, headRevision: document.headRevision },
    robots: get().robots.map((robot) => (robot.id === document.id ? document : robot)),
    save: { is: "saved" },
  });
}

/** Cuts a revision with a name and a reason. @returns what went wrong, as a sentence; null when it is there */
export async function nameRevision(name: string, reason: string): Promise<string | null> {
  const { open, robot } = get();
  if (!open || !saver) return "No robot is open.";
  await saver.flush();
  const { baseRevision, draftVersion } = saver.current;
  const cut = await api.cutBody(open.id, baseRevision, robot, reason, name === "" ? null : name, draftVersion);
  if (!cut.ok) {
    if (cut.code === "stale" && cut.current) set({ save: { is: "conflict", theirs: cut.current } });
    return cut.message;
  }
  adopt(cut.value);
  return null;
}

/** An older revision becomes the newest again. */
export async function restoreRevision(number: number, robot: Robot): Promise<string | null> {
  change(robot, `back to revision ${number}`);
  return nameRevision("", `restored from revision ${number}`);
}

/** A robot of its own, from nothing or from the one that is open. */
export async function makeRobot(name: string, from: "empty" | "this", body?: Robot): Promise<string | null> {
  const robot = { ...(body ?? (from === "this" ? get().robot : emptyRobot(name))), name };
  const made = await api.createBody(
    "robot",
    name,
    robot,
    body ? "imported" : from === "this" ? `made from ${get().robot.name}` : "made",
  );
  if (!made.ok) return made.message;
  const robots = await api.documents("robot");
  if (robots.ok) set({ robots: robots.value.documents });
  await openRobotDocument(made.value.document.id);
  return null;
}

const LARGEST_FILE = 2_000_000;

/** Reads a robot file and makes it a robot of its own. @returns what is wrong with it, as a sentence */
export async function importRobot(file: File): Promise<string | null> {
  if (file.size > LARGEST_FILE)
    return `${file.name} has ${Math.round(file.size / 1e6)} MB. A robot file has 2 MB at most; choose one that was exported here.`;
  let value: unknown;
  try {
    value = JSON.parse(await file.text());
  } catch {
    return `${file.name} is not JSON. Choose a file that was exported here.`;
  }
  const read = openRobot(value);
  if (!read.ok) return `${file.name} cannot be taken: ${read.problems.slice(0, 3).join("; ")}.`;
  const names = new Set(get().robots.map((robot) => robot.name));
  let { name } = read.document;
  for (let n = 2; names.has(name); n += 1) name = `${read.document.name} ${n}`;
  return makeRobot(name, "this", read.document);
}

/** During a conflict: go on with what is on the screen, or with what the other window saved. */
export function settle(which: "mine" | "theirs"): void {
  const { save, robot } = get();
  if (save.is !== "conflict" || !saver) return;
  const { document, draft, head } = save.theirs;
  saver.rebase({ documentId: document.id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 });
  set({ save: { is: "saved" }, open: { id: document.id, name: document.name, headRevision: document.headRevision } });
  const theirs = openRobot(draft?.body ?? head.body);
  if (which === "theirs" && theirs.ok) change(theirs.document, "taking the other window's version");
  else keep(robot);
}
