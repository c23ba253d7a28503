// One open document of a kind, as Robot and Field have it: opening, changes with undo, drafts that are kept, revisions,
// another name, another document. What the document is, its workplace says.
import { api, type DocumentView, type OpenView } from "../api.js";
import { moveTo, type PlaceKey, placed } from "../place.js";
import { DraftSaver, type SaveBase, type SaveState } from "../saving.js";
import { goesOn, heldEdit, type SmallEdit, smallEdit } from "../smallEdits.js";
import { findUnsaved } from "../unsaved.js";
import { beforeLeaving, inThisVisit, inTurn, whenLeft } from "../visit.js";
import type { Phase } from "./Shell.js";

export interface Entry<T> {
  readonly document: T;
  /** What the edit after this did, for "Undid: …". */
  readonly label: string;
}

/** What every workplace with an open document has in its state. */
export interface DocumentSlice<T> {
  phase: Phase;
  library: readonly DocumentView[];
  open: { readonly id: string; readonly name: string; readonly headRevision: number } | null;
  past: readonly Entry<T>[];
  future: readonly Entry<T>[];
  /** Small edits of one place within a moment are one for undo. */
  typing: SmallEdit | null;
  save: SaveState;
  message: string | null;
}

export function emptySlice<T>(): DocumentSlice<T> {
  return {
    phase: { is: "loading" },
    library: [],
    open: null,
    past: [],
    future: [],
    typing: null,
    save: { is: "saved" },
    message: null,
  };
}

type Reading<T> =
  | { readonly ok: true; readonly document: T }
  | { readonly ok: false; readonly problems: readonly string[] };

interface DocumentKindOptions<T extends { readonly name: string }> {
  readonly kind: "robot" | "field" | "notebook";
  readonly place: PlaceKey;
  get(): DocumentSlice<T>;
  set(changes: Partial<DocumentSlice<T>>): void;
  /** The document on the screen. */
  present(): T;
  /** Puts a document on the screen, with everything that follows from it. @param fresh - another one is opened */
  put(document: T, changes: Partial<DocumentSlice<T>>, fresh: boolean): void;
  read(body: unknown): Reading<T>;
  /** What of it is kept on the server. */
  stored?(document: T): T;
  /** Fetches what belongs to it. */
  complete?(document: T): Promise<T>;
  /** After it got another name, there and in the missions that name it. */
  onRenamed?(document: T, before: string): void;
}

const LONGEST_HISTORY = 300;

/** @returns what a person can do with the open document */
export function documentActions<T extends { readonly name: string }>(options: DocumentKindOptions<T>) {
  const { kind, get, set, present, put, read } = options;
  const stored = options.stored ?? ((document: T) => document);
  const complete = async (document: T) => await inThisVisit(options.complete?.(document) ?? Promise.resolve(document));
  let saver: DraftSaver | null = null;
  beforeLeaving(async () => saver?.flush());
  whenLeft(() => {
    saver?.dispose();
    saver = null;
  });

  function newSaver(base: SaveBase): DraftSaver {
    return new DraftSaver(
      base,
      (save) => set({ save }),
      (id, baseRevision, text, over) => api.saveDraftBody(id, baseRevision, JSON.parse(text), over),
    );
  }

  function readText(text: string): T | null {
    try {
      const found = read(JSON.parse(text));
      return found.ok ? found.document : null;
    } catch {
      return null;
    }
  }

  /** Opens the document asked for, or the first. */
  async function start(id: string | null): Promise<void> {
    const trouble = await look();
    if (trouble !== null) return set({ phase: { is: "failed", message: trouble } });
    const { library } = get();
    const wanted = library.find((one) => one.id === id) ?? library[0];
    if (wanted) await openDocument(wanted.id, "first");
    else set({ phase: { is: "empty" } });
  }

  /** Back and Forward: opens the document the address names now, if another one is open. */
  async function returnTo(id: string | null): Promise<void> {
    if (id === null || id === get().open?.id) return;
    const known = () => get().library.some((one) => one.id === id);
    // It may have been made in another window meanwhile.
    if (!known()) await look(true);
    // Meanwhile the person may have gone on.
    if (known() && placed(options.place) === id) await openDocument(id, "returned");
  }

  /** Looks what there is. @returns what went wrong, as a sentence; null when it is known */
  async function look(anew = false): Promise<string | null> {
    const found = await api.documents(kind, anew);
    if (!found.ok) return found.message;
    set({ library: found.value.documents });
    return null;
  }

  /** @param how - "chosen" by the person, so that Back returns from it; "first" of the page, or "returned" to by Back */
  async function openDocument(id: string, how: "chosen" | "first" | "returned" = "chosen"): Promise<void> {
    await saver?.flush();
    saver?.dispose();
    const opened = await api.open(id);
    if (!opened.ok) return set({ phase: { is: "failed", message: opened.message } });
    const { document, head, draft } = opened.value;
    const found = read(draft?.body ?? head.body);
    if (!found.ok)
      return set({
        phase: { is: "failed", message: `This ${kind} cannot be read: ${found.problems.join("; ")}.` },
      });
    const shown = await complete(found.document);
    const base = { documentId: id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 };
    saver = newSaver(base);
    const { library } = get();
    put(
      shown,
      {
        ...emptySlice<T>(),
        phase: { is: "ready" },
        library,
        open: { id, name: document.name, headRevision: document.headRevision },
      },
      true,
    );
    if (how !== "returned") moveTo({ [options.place]: id }, how === "chosen" ? "push" : "replace");
    await restoreUnsaved(base, shown, opened.value);
  }

  /** What was changed while the server was away is still on this computer. */
  async function restoreUnsaved(base: SaveBase, shown: T, theirs: OpenView): Promise<void> {
    const kept = await inThisVisit(findUnsaved(base.documentId));
    const mine = kept ? readText(kept.text) : null;
    if (!kept || !mine || JSON.stringify(stored(mine)) === JSON.stringify(stored(shown))) return;
    const whole = await complete(mine);
    const label = "changes from before the reload";
    if (kept.overVersion === base.draftVersion && kept.baseRevision === base.baseRevision) {
      change(whole, label);
      set({ message: "What you changed before the reload is back." });
    } else put(whole, { past: [{ document: shown, label }], save: { is: "conflict", theirs } }, false);
  }

  /**
   * Every change of the document comes through here.
   * @param typing - names the place, when small edits one after another are one for undo
   */
  function change(document: T, label: string, typing?: string): void {
    const before = present();
    if (document === before) return;
    const { past, typing: last } = get();
    const small = typing === undefined ? heldEdit(label) : smallEdit(typing);
    const same = small !== null && goesOn(last, small) && past.length > 0;
    put(
      document,
      {
        past: same ? past : [...past, { document: before, label }].slice(-LONGEST_HISTORY),
        future: [],
        typing: small,
      },
      false,
    );
    keep(document);
  }

  function keep(document: T): void {
    const text = JSON.stringify(stored(document));
    if (get().save.is === "conflict") saver?.hold(text);
    else saver?.typed(text);
    const { open } = get();
    if (open && document.name !== open.name) void takeName(open.name, document.name);
  }

  /** A new name counts everywhere at once: lists, and the missions that name it. Typed or undone alike. */
  async function takeName(before: string, after: string): Promise<void> {
    const failed = await nameRevision("", `renamed from ${before} to ${after}`);
    const document = present();
    if (failed === null) {
      options.onRenamed?.(document, before);
      return set({
        message: `It is called ${after} now${kind === "notebook" ? "" : ", in the missions that name it as well"}.`,
      });
    }
    set({ message: `It is still called ${before}. ${failed}` });
    if (get().save.is !== "conflict" && document.name === after) {
      const old = { ...document, name: before };
      put(old, {}, false);
      keep(old);
    }
  }

  function step(from: "past" | "future"): void {
    const state = get();
    const entry = state[from].at(-1);
    if (!entry) return;
    const other = from === "past" ? "future" : "past";
    put(
      entry.document,
      {
        [from]: state[from].slice(0, -1),
        [other]: [...state[other], { document: present(), label: entry.label }],
        typing: null,
        message: `${from === "past" ? "Undid" : "Redid"}: ${entry.label}`,
      },
      false,
    );
    keep(entry.document);
  }

  /** Takes over the server's numbers after a save. */
  function adopt({ document, draft }: OpenView): void {
    saver?.rebase({ documentId: document.id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 });
    set({
      open: { id: document.id, name: document.name, headRevision: document.headRevision },
      library: get().library.map((one) => (one.id === document.id ? document : one)),
      save: { is: "saved" },
    });
  }

  const cutting = inTurn();

  /** Cuts a revision with a name and a reason. @returns what went wrong, as a sentence; null when it is there */
  function nameRevision(name: string, reason: string): Promise<string | null> {
    return cutting(() => cutNow(name, reason));
  }

  async function cutNow(name: string, reason: string): Promise<string | null> {
    const { open } = get();
    if (!open || !saver) return `No ${kind} is open.`;
    await saver.flush();
    const { baseRevision, draftVersion } = saver.current;
    const body = stored(present());
    const cut = await api.cutBody(open.id, baseRevision, body, reason, name === "" ? null : name, draftVersion);
    if (!cut.ok) {
      if (cut.code === "stale" && cut.current) set({ save: { is: "conflict", theirs: cut.current } });
      return cut.message;
    }
    adopt(cut.value);
    return null;
  }

  /** An older revision becomes the newest again. */
  async function restoreRevision(number: number, document: T): Promise<string | null> {
    change(await complete(document), `back to version ${number}`);
    return nameRevision("", `restored from version ${number}`);
  }

  /** A document of its own. @returns what went wrong, as a sentence; null when it is open */
  async function make(document: T, reason: string): Promise<string | null> {
    const made = await api.createBody(kind, document.name, stored(document), reason);
    if (!made.ok) return made.message;
    const found = await api.documents(kind);
    if (found.ok) set({ library: found.value.documents });
    await openDocument(made.value.document.id);
    return null;
  }

  /** A name that no document of the kind has yet. */
  function freeName(name: string): string {
    const names = new Set(get().library.map((one) => one.name));
    if (!names.has(name)) return name;
    for (let n = 2; ; n += 1) if (!names.has(`${name} ${n}`)) return `${name} ${n}`;
  }

  /** During a conflict: go on with what is on the screen, or with what the other window saved. */
  function settle(which: "mine" | "theirs"): void {
    const { save } = get();
    if (save.is !== "conflict" || !saver) return;
    const { document, draft, head } = save.theirs;
    saver.rebase({ documentId: document.id, baseRevision: document.headRevision, draftVersion: draft?.version ?? 0 });
    set({ save: { is: "saved" }, open: { id: document.id, name: document.name, headRevision: document.headRevision } });
    const theirs = read(draft?.body ?? head.body);
    if (which === "theirs" && theirs.ok) {
      const other = theirs.document;
      void complete(other).then((whole) => change(whole, "taking the other window's version"));
    } else keep(present());
  }

  return {
    start,
    returnTo,
    openDocument,
    change,
    undo: () => step("past"),
    redo: () => step("future"),
    nameRevision,
    restoreRevision,
    make,
    freeName,
    settle,
  };
}
