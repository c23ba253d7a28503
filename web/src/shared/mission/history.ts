// The one history of a mission's text, for both views: a pure reducer. Lines carry ids that outlive edits.

import { goesOn, type SmallEdit } from "../smallEdits.js";

interface Snapshot {
  readonly text: string;
  /** One id per line of the text. */
  readonly lineIds: readonly string[];
  /** Id of the selected line, if any. */
  readonly selected: string | null;
}

export interface Entry extends Snapshot {
  /** What the edit after this snapshot did, for "Undid: …". */
  readonly label: string;
}

export interface History {
  readonly present: Snapshot;
  readonly past: readonly Entry[];
  readonly future: readonly Entry[];
  /** The last edit, where it was a small one: what goes on with it is the same entry. */
  readonly typing: SmallEdit | null;
  readonly nextId: number;
}

export type Action =
  | {
      readonly type: "edit";
      readonly text: string;
      readonly label: string;
      readonly selectLine?: number | null;
      readonly typing?: SmallEdit;
    }
  | { readonly type: "select"; readonly line: number | null }
  | { readonly type: "undo" }
  | { readonly type: "redo" };

const LONGEST_HISTORY = 500;

export function startHistory(text: string): History {
  const lines = text.split("\n");
  return {
    present: { text, lineIds: lines.map((_, i) => `l${i}`), selected: null },
    past: [],
    future: [],
    typing: null,
    nextId: lines.length,
  };
}

/** Ids for new lines: kept outside the changed stretch, inside it by equal content, then by place. */
export function carryIds(before: Snapshot, text: string, nextId: number): { ids: string[]; nextId: number } {
  const old = before.text.split("\n");
  const now = text.split("\n");
  let head = 0;
  while (head < old.length && head < now.length && old[head] === now[head]) head += 1;
  let tail = 0;
  while (
    tail < old.length - head &&
    tail < now.length - head &&
    old[old.length - 1 - tail] === now[now.length - 1 - tail]
  )
    tail += 1;
  const free = new Map<string, { readonly ids: string[]; next: number }>();
  for (let i = head; i < old.length - tail; i += 1) {
    const content = (old[i] ?? "").trim();
    const known = free.get(content);
    if (known) known.ids.push(before.lineIds[i] ?? "");
    else free.set(content, { ids: [before.lineIds[i] ?? ""], next: 0 });
  }
  const takeFree = (content: string): string | null => {
    const known = free.get(content);
    if (!known) return null;
    known.next += 1;
    return known.ids[known.next - 1] ?? null;
  };
  const ids: (string | null)[] = now.map((line, i) => {
    if (i < head) return before.lineIds[i] ?? null;
    if (i >= now.length - tail) return before.lineIds[i - now.length + old.length] ?? null;
    return takeFree(line.trim());
  });
  const used = new Set(ids);
  let next = nextId;
  const filled = ids.map((id, i) => {
    if (id !== null && id !== "") return id;
    const inPlace = i < old.length - tail ? before.lineIds[i] : undefined;
    if (inPlace !== undefined && old.length === now.length && !used.has(inPlace)) {
      used.add(inPlace);
      return inPlace;
    }
    next += 1;
    return `l${next}`;
  });
  return { ids: filled, nextId: next };
}

export function reduce(history: History, action: Action): History {
  switch (action.type) {
    case "edit":
      return edit(history, action);
    case "select": {
      const selected = action.line === null ? null : (history.present.lineIds[action.line] ?? null);
      return selected === history.present.selected
        ? history
        : { ...history, present: { ...history.present, selected }, typing: null };
    }
    case "undo": {
      const entry = history.past.at(-1);
      if (!entry) return history;
      const { label, ...snapshot } = entry;
      return {
        ...history,
        present: snapshot,
        past: history.past.slice(0, -1),
        future: [...history.future, { ...history.present, label }],
        typing: null,
      };
    }
    case "redo": {
      const entry = history.future.at(-1);
      if (!entry) return history;
      const { label, ...snapshot } = entry;
      return {
        ...history,
        present: snapshot,
        past: [...history.past, { ...history.present, label }],
        future: history.future.slice(0, -1),
        typing: null,
      };
    }
  }
}

function edit(history: History, action: Extract<Action, { type: "edit" }>): History {
  if (action.text === history.present.text) return history;
  const { ids, nextId } = carryIds(history.present, action.text, history.nextId);
  const selected =
    action.selectLine === undefined
      ? history.present.selected
      : action.selectLine === null
        ? null
        : (ids[action.selectLine] ?? null);
  const present = { text: action.text, lineIds: ids, selected };
  const { typing } = action;
  const same = typing !== undefined && goesOn(history.typing, typing) && history.past.length > 0;
  const past = same
    ? history.past
    : [...history.past, { ...history.present, label: action.label }].slice(-LONGEST_HISTORY);
  return { present, past, future: [], typing: typing ?? null, nextId };
}
