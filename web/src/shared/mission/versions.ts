// Versions of the open mission: listed, named, compared with what is on the screen, restored; and which one last
// met its goal.

import { prepareMission } from "@giddy-pebble/core";
import { Rehearser } from "../../workers/rehearser.js";
import { api, type ListedRevision, type StudyView } from "../api.js";
import { whenLeft } from "../visit.js";
import { cutRevision } from "./draft.js";
import { lastWorked } from "./lastWorked.js";
import { GrowingPath } from "./planning.js";
import { type Path, useMission } from "./state.js";
import { dispatch } from "./store.js";

const get = useMission.getState;
const set = useMission.setState;
const ghosts = new Rehearser();
whenLeft(() => ghosts.cancel());

export interface Versions {
  readonly list: readonly ListedRevision[];
  readonly next: string | null;
  readonly studies: readonly StudyView[];
}

/** An earlier version shown under the present one. */
export interface Ghost {
  readonly number: number;
  readonly text: string;
  /** Its planned path; null while it is rehearsed, or when it cannot be. */
  readonly path: Path | null;
}

export async function loadVersions(): Promise<void> {
  const { open } = get();
  if (!open) return;
  const [list, studies] = await Promise.all([api.revisions(open.id, null), api.studies(open.id)]);
  if (!list.ok) return set({ message: list.message });
  set({
    versions: { list: list.value.revisions, next: list.value.next, studies: studies.ok ? studies.value.studies : [] },
  });
}

export async function olderVersions(): Promise<void> {
  const { open, versions } = get();
  if (!open || !versions?.next) return;
  const more = await api.revisions(open.id, versions.next);
  if (!more.ok) return set({ message: more.message });
  set({ versions: { ...versions, list: [...versions.list, ...more.value.revisions], next: more.value.next } });
}

/** Keeps what is on the screen as a named version. */
export async function nameVersion(name: string): Promise<boolean> {
  const cut = await cutRevision(get().history.present.text, "named", name);
  if (cut) await loadVersions();
  return cut !== null;
}

/** The text of an earlier version; null when it cannot be had, which the page then says. */
async function textOf(number: number): Promise<string | null> {
  const { open } = get();
  if (!open) return null;
  const found = await api.revision(open.id, number);
  if (found.ok) return found.value.text ?? "";
  set({ message: `Version ${number} could not be read. ${found.message}` });
  return null;
}

/** Brings an earlier version's text back, as an edit that can be undone. */
export async function restoreVersion(number: number): Promise<void> {
  const text = await textOf(number);
  if (text === null) return;
  dispatch({ type: "edit", text, label: `restoring version ${number}` });
  set({ message: `Version ${number} is back on the screen. Undo brings back what was there.` });
}

/** The newest version whose trials met the goal, from its studies and its single runs. */
export function lastThatWorked(): number | null {
  const { versions, trials } = get();
  return lastWorked(versions?.studies ?? [], trials);
}

/** Shows an earlier version: its text beside the present one, its path under it. */
export async function showGhost(number: number): Promise<void> {
  const text = await textOf(number);
  if (text === null) return;
  const robot = get().robot?.document;
  const field = get().field?.document;
  set({ ghost: { number, text, path: null } });
  if (!robot || !field) return;
  const { program } = prepareMission(text, robot, field, undefined, get().collections);
  if (!program) return;
  const growing = new GrowingPath();
  ghosts.start(
    { program, robot, field, seed: 1, ideal: true },
    {
      rows: (from, columns) => growing.add(from, columns),
      done: (summary, trace) => {
        const { ghost } = get();
        if (ghost?.number === number) set({ ghost: { ...ghost, path: growing.view(summary, trace) } });
      },
      refused: (reason) => set({ message: `Version ${number} has no path to show. ${reason}` }),
    },
  );
}

export function dropGhost(): void {
  ghosts.cancel();
  set({ ghost: null });
}
