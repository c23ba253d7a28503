// Versions of the open mission: listed, named, compared with what is on the screen, restored; and which one last
// met its goal.
import type { Field, Robot } from "@giddy-pebble/core";
import { api, type RevisionView, type StudyView } from "../../shared/api.js";
import { Rehearser } from "../../workers/rehearser.js";
import { cutRevision } from "./draft.js";
import { GrowingPath } from "./planning.js";
import { type Path, useMission } from "./state.js";
import { dispatch } from "./store.js";

const get = useMission.getState;
const set = useMission.setState;
const ghosts = new Rehearser();

export interface Versions {
  readonly list: readonly RevisionView[];
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

/** A study speaks for its version when this share of it met the goal; a single run when it did. */
const WORKED_SHARE = 0.95;

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

/** Brings an earlier version's text back, as an edit that can be undone. */
export function restoreVersion(number: number, text: string): void {
  dispatch({ type: "edit", text, label: `restoring version ${number}` });
  set({ message: `Version ${number} is back on the screen. Undo brings back what was there.` });
}

/** The newest version whose trials met the goal, from its studies and its single runs. */
export function lastThatWorked(): number | null {
  const { versions, trials } = get();
  const good = [
    ...(versions?.studies ?? [])
      .filter((study) => study.successes >= WORKED_SHARE * study.runs)
      .map((study) => study.mission.number),
    ...trials.filter((trial) => trial.success).map((trial) => trial.mission.number),
  ];
  const studied = new Set((versions?.studies ?? []).map((study) => study.mission.number));
  const bad = new Set(
    [...studied].filter((number) =>
      (versions?.studies ?? []).every(
        (study) => study.mission.number !== number || study.successes < WORKED_SHARE * study.runs,
      ),
    ),
  );
  // One lucky run does not outweigh a study of the same version.
  const left = good.filter((number) => !bad.has(number));
  return left.length > 0 ? Math.max(...left) : null;
}

/** Shows an earlier version: its text beside the present one, its path under it. */
export function showGhost(number: number, text: string, robot: Robot | null, field: Field | null): void {
  set({ ghost: { number, text, path: null } });
  if (!robot || !field) return;
  const growing = new GrowingPath();
  ghosts.start(
    { text, robot, field, seed: 1, ideal: true },
    {
      rows: (from, columns) => growing.add(from, columns),
      done: (summary, trace) => {
        const { ghost } = get();
        if (ghost?.number === number) set({ ghost: { ...ghost, path: growing.view(summary, trace) } });
      },
      refused: () => {},
    },
  );
}

export function dropGhost(): void {
  ghosts.cancel();
  set({ ghost: null });
}

/** Lines of two texts side by side by a longest common subsequence. */
export type LineChange = { readonly is: "same" | "gone" | "new"; readonly text: string; readonly line: number };

export function compareTexts(before: string, after: string): LineChange[] {
  const a = before.replace(/\n$/, "").split("\n");
  const b = after.replace(/\n$/, "").split("\n");
  const width = b.length + 1;
  const common = new Uint16Array((a.length + 1) * width);
  for (let i = a.length - 1; i >= 0; i -= 1)
    for (let j = b.length - 1; j >= 0; j -= 1)
      common[i * width + j] =
        a[i] === b[j]
          ? (common[(i + 1) * width + j + 1] as number) + 1
          : Math.max(common[(i + 1) * width + j] as number, common[i * width + j + 1] as number);
  const changes: LineChange[] = [];
  let i = 0;
  let j = 0;
  while (i < a.length || j < b.length) {
    if (i < a.length && j < b.length && a[i] === b[j]) {
      changes.push({ is: "same", text: a[i] as string, line: j });
      i += 1;
      j += 1;
    } else if (
      j >= b.length ||
      (i < a.length && (common[(i + 1) * width + j] as number) >= (common[i * width + j + 1] as number))
    ) {
      changes.push({ is: "gone", text: a[i] as string, line: i });
      i += 1;
    } else {
      changes.push({ is: "new", text: b[j] as string, line: j });
      j += 1;
    }
  }
  return changes;
}
