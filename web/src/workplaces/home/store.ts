// The home page: every document, found, renamed, copied, put away and brought back; each act can be undone.
import { create } from "zustand";
import { api, type ListedDocument, type Uses } from "../../shared/api.js";
import { linkTo } from "../../shared/place.js";
import type { Phase } from "../../shared/shell/Shell.js";
import { whenLeft } from "../../shared/visit.js";

export const KINDS = ["mission", "robot", "field", "collection", "notebook"] as const;
export type Kind = (typeof KINDS)[number];

export const KIND_WORDS: Readonly<Record<Kind, readonly [one: string, many: string]>> = {
  mission: ["Mission", "Missions"],
  robot: ["Robot", "Robots"],
  field: ["Field", "Fields"],
  collection: ["Collection", "Collections"],
  notebook: ["Notebook", "Notebooks"],
};

/** What is asked of a person about one document. */
export type Question =
  | { readonly is: "rename"; readonly document: ListedDocument }
  | { readonly is: "duplicate"; readonly document: ListedDocument }
  | { readonly is: "uses"; readonly document: ListedDocument; readonly uses: Uses }
  | { readonly is: "delete"; readonly document: ListedDocument; readonly uses: Uses };

/** An act that can be taken back, and done again. */
interface Act {
  readonly label: string;
  readonly back: () => Promise<string | null>;
  readonly again: () => Promise<string | null>;
}

export interface HomeState {
  phase: Phase;
  used: readonly ListedDocument[];
  archived: readonly ListedDocument[];
  shelf: "used" | "archived";
  kind: Kind | "all";
  wanted: string;
  question: Question | null;
  past: readonly Act[];
  future: readonly Act[];
  message: string | null;
}

const AT_FIRST: HomeState = {
  phase: { is: "loading" },
  used: [],
  archived: [],
  shelf: "used",
  kind: "all",
  wanted: "",
  question: null,
  past: [],
  future: [],
  message: null,
};
export const useHome = create<HomeState>(() => AT_FIRST);
whenLeft(() => useHome.setState(AT_FIRST, true));

const get = useHome.getState;
const set = useHome.setState;

export async function start(): Promise<void> {
  const [used, archived] = await Promise.all([api.documents(), api.archived()]);
  if (!used.ok) return set({ phase: { is: "failed", message: used.message } });
  set({
    phase: { is: "ready" },
    used: used.value.documents,
    archived: archived.ok ? archived.value.documents : [],
  });
}

const folded = (text: string) =>
  text
    .normalize("NFKD")
    .replaceAll(/[\u0300-\u036f]/g, "")
    .toLowerCase();

/** The documents of a shelf that a person looks for, newest change first. */
export function found({ used, archived, shelf, kind, wanted }: HomeState): readonly ListedDocument[] {
  const words = folded(wanted).split(/\s+/).filter(Boolean);
  return (shelf === "used" ? used : archived)
    .filter((one) => kind === "all" || one.kind === kind)
    .filter((one) => {
      const text = folded(`${one.name} ${one.kind} ${one.robot ?? ""} ${one.field ?? ""}`);
      return words.every((word) => text.includes(word));
    })
    .toSorted((a, b) => (a.changedAt < b.changedAt ? 1 : -1));
}

/** Where a document is opened. */
export function pageOf({ kind, id }: Pick<ListedDocument, "kind" | "id">): string {
  const [page, key] =
    kind === "robot"
      ? ["robot", "robot"]
      : kind === "field"
        ? ["field", "field"]
        : kind === "notebook"
          ? ["notebook", "notebook"]
          : ["mission", "mission"];
  return linkTo(`/${page}?${key}=${id}`);
}

/** Does something that can be undone. @returns what went wrong, as a sentence; null when it is done */
async function act(done: Act): Promise<string | null> {
  const failed = await done.again();
  if (failed !== null) return failed;
  await start();
  set({ past: [...get().past, done].slice(-100), future: [], message: `${done.label}.` });
  return null;
}

async function step(from: "past" | "future"): Promise<void> {
  const done = get()[from].at(-1);
  if (!done) return;
  const failed = await (from === "past" ? done.back() : done.again());
  if (failed !== null) return set({ message: failed });
  const other = from === "past" ? "future" : "past";
  await start();
  set({
    [from]: get()[from].slice(0, -1),
    [other]: [...get()[other], done],
    message: `${from === "past" ? "Undid" : "Redid"}: ${done.label.toLowerCase()}.`,
  } as Partial<HomeState>);
}

export const undo = () => void step("past");
export const redo = () => void step("future");

const say = async (answer: Promise<{ ok: true } | { ok: false; message: string }>): Promise<string | null> => {
  const given = await answer;
  return given.ok ? null : given.message;
};

export async function rename({ id, name: before }: ListedDocument, name: string): Promise<string | null> {
  const wanted = name.trim();
  if (wanted === "") return "Give it a name.";
  if (wanted === before) return null;
  return act({
    label: `${before} is called ${wanted} now, in what names it as well`,
    again: () => say(api.rename(id, wanted)),
    back: () => say(api.rename(id, before)),
  });
}

/** A name that no document of the kind has yet. */
export function freeName({ kind, name }: ListedDocument): string {
  const names = new Set(
    get()
      .used.filter((one) => one.kind === kind)
      .map((one) => one.name),
  );
  for (let n = 2; ; n += 1) if (!names.has(`${name} ${n}`)) return `${name} ${n}`;
}

export async function duplicate({ id, name: from }: ListedDocument, name: string): Promise<string | null> {
  const wanted = name.trim();
  if (wanted === "") return "Give the copy a name.";
  let copy: string | null = null;
  return act({
    label: `${wanted} is a copy of ${from}`,
    again: async () => {
      if (copy !== null) return say(api.archive(copy, false));
      const made = await api.duplicate(id, wanted);
      if (made.ok) copy = made.value.document.id;
      return made.ok ? null : made.message;
    },
    back: () => (copy === null ? Promise.resolve(null) : say(api.archive(copy, true))),
  });
}

export async function putAway({ id, name }: ListedDocument): Promise<void> {
  const failed = await act({
    label: `${name} is archived`,
    again: () => say(api.archive(id, true)),
    back: () => say(api.archive(id, false)),
  });
  if (failed !== null) set({ message: failed });
}

export async function bringBack({ id, name }: ListedDocument): Promise<void> {
  const failed = await act({
    label: `${name} is back`,
    again: () => say(api.archive(id, false)),
    back: () => say(api.archive(id, true)),
  });
  if (failed !== null) set({ message: `${failed} Rename the one that has its name now, then bring ${name} back.` });
}

export async function askUses(document: ListedDocument, is: "uses" | "delete"): Promise<void> {
  const uses = await api.uses(document.id);
  if (uses.ok) set({ question: { is, document, uses: uses.value } });
  else set({ message: uses.message });
}

/** Deletes for good: this cannot be undone, and acts before it on the same document cannot either. */
export async function removeForGood({ id, name }: ListedDocument): Promise<string | null> {
  const failed = await say(api.remove(id, true));
  if (failed !== null) return failed;
  await start();
  set({ past: [], future: [], message: `${name} is deleted for good.` });
  return null;
}
