// What a person does in the Notebook workplace: pages put in, moved, taken out, written, frozen.
import { changedSince, type Notebook, type NotebookPage, openNotebook, type PracticeRound } from "@giddy-pebble/core";
import { api } from "../../shared/api.js";
import { moveTo, placed } from "../../shared/place.js";
import { documentActions } from "../../shared/shell/documentStore.js";
import { beingKept } from "../../shared/visit.js";
import { makePage } from "./gathering.js";
import { emptyNotebook, everyPage, freeId, initialState, titleOf, useNotebook } from "./state.js";

const get = useNotebook.getState;
const set = useNotebook.setState;

const actions = documentActions<Notebook>({
  kind: "notebook",
  place: "notebook",
  get,
  set,
  present: () => get().notebook,
  put: (notebook, changes, fresh) => {
    const { page, project, made, canPdf } = get();
    const there = notebook.pages.some(({ id }) => id === page);
    set({
      ...(fresh ? { ...initialState(), project, canPdf, made: new Map() } : { made }),
      ...changes,
      notebook,
      page: there ? page : (notebook.pages[0]?.id ?? null),
    });
    void makeShown();
  },
  read: openNotebook,
});

export const { returnTo, change, undo, redo, nameRevision, restoreRevision, make, settle } = actions;

export async function start(id: string | null): Promise<void> {
  const [project, pdf] = await Promise.all([api.documents(), api.canPdf()]);
  set({ canPdf: pdf.ok && pdf.value.available });
  if (project.ok) set({ project: project.value.documents });
  await actions.start(id);
  const page = placed("page");
  if (page !== null) showPage(page, "replace");
}

/** The first notebook: a page of everything there is. */
export async function makeFirst(): Promise<string | null> {
  return make({ ...emptyNotebook("Notebook"), pages: everyPage(get().project) }, "made with a page of everything");
}

export function showPage(id: string, how: "push" | "replace" = "push"): void {
  if (!get().notebook.pages.some((page) => page.id === id)) return;
  set({ page: id });
  moveTo({ page: id }, how);
  void makeShown();
}

/** Makes the page on the screen of what is there now. */
async function makeShown(): Promise<void> {
  const { notebook, page: id, project } = get();
  const page = notebook.pages.find((one) => one.id === id);
  if (page?.kind !== "made") return;
  const made = await makePage(page, project);
  set({ made: new Map(get().made).set(page.id, made) });
}

/** Every page, one after the other. @returns whether it came to its end */
export async function gatherAll(): Promise<boolean> {
  const { notebook, project } = get();
  const pages = notebook.pages.filter((page) => page.kind === "made" && page.frozen === null);
  set({ gathering: { done: 0, of: pages.length } });
  for (const [i, page] of pages.entries()) {
    if (page.kind !== "made") continue;
    const made = await makePage(page, project);
    if (get().gathering === null) return false;
    set({ made: new Map(get().made).set(page.id, made), gathering: { done: i + 1, of: pages.length } });
  }
  set({ gathering: null });
  return true;
}

export const stopGathering = () => set({ gathering: null });

function changePages(label: string, pages: readonly NotebookPage[], typing?: string): void {
  const { notebook } = get();
  change({ ...notebook, pages: [...pages] }, label, typing);
}

function place(page: NotebookPage): NotebookPage {
  return { ...page, id: freeId(get().notebook, titleOf(page)) };
}

export function addPage(page: NotebookPage): void {
  const { notebook, page: at } = get();
  const put = place(page);
  const behind = notebook.pages.findIndex(({ id }) => id === at) + 1;
  changePages(
    `adding ${titleOf(put)}`,
    notebook.pages.toSpliced(behind === 0 ? notebook.pages.length : behind, 0, put),
  );
  showPage(put.id);
}

export function removePage(id: string): void {
  const { notebook } = get();
  const at = notebook.pages.findIndex((page) => page.id === id);
  const page = notebook.pages[at];
  if (!page) return;
  changePages(`taking out ${titleOf(page)}`, notebook.pages.toSpliced(at, 1));
  const next = get().notebook.pages[Math.min(at, get().notebook.pages.length - 1)];
  if (next) showPage(next.id, "replace");
}

export function movePage(id: string, by: 1 | -1): void {
  const { pages } = get().notebook;
  const at = pages.findIndex((page) => page.id === id);
  const [page] = pages.slice(at, at + 1);
  if (!page || at + by < 0 || at + by >= pages.length) return;
  changePages(`moving ${titleOf(page)}`, pages.toSpliced(at, 1).toSpliced(at + by, 0, page));
}

export function replace(page: NotebookPage, label: string, typing?: string): void {
  changePages(
    label,
    get().notebook.pages.map((one) => (one.id === page.id ? page : one)),
    typing,
  );
}

type Own = Extract<NotebookPage, { kind: "own" }>;

export function writePage(page: Own, changes: Partial<Pick<Own, "title" | "text" | "photos">>): void {
  const [what = "page"] = Object.keys(changes);
  replace({ ...page, ...changes }, `writing ${titleOf(page)}`, `${page.id}/${what}`);
}

/** Keeps a round of practice on its sheet, and what was ticked off in it as runs. */
export function keepRound(
  page: Extract<NotebookPage, { kind: "match" }>,
  marks: PracticeRound["marks"],
  points: number,
  begun: Date,
): void {
  const round = { at: begun.toISOString(), marks, points };
  replace({ ...page, rounds: [...page.rounds, round].slice(-500) }, "keeping a round of practice");
  if (marks.length === 0) return set({ message: "The round is kept. Nothing was ticked off in it." });
  const worth = new Map(page.entries.map((entry) => [entry.name, entry.points]));
  const runs = marks.map(({ name, atS, worked }, i) => ({
    mission: name,
    atS,
    tookS: Math.max(0, Math.round((atS - (marks[i - 1]?.atS ?? 0)) * 1000) / 1000),
    worked,
    points: worth.get(name) ?? 0,
  }));
  void beingKept(api.keepPractice({ at: round.at, marks: runs })).then((kept) => {
    if (!kept.ok) return set({ message: `The round is kept here, but not in Trials: ${kept.message}` });
    const { kept: count, unknown } = kept.value;
    const left =
      unknown.length === 0 ? "" : ` Not in Trials: ${unknown.join(", ")}. No mission with a robot has that name.`;
    set({ message: `The round is kept. ${count} run${count === 1 ? "" : "s"} of it stand in Trials.${left}` });
  });
}

const LARGEST_PHOTO = 30 * 1024 * 1024;

/** Adds photographs to a page. @returns what went wrong, as a sentence; null when all are there */
export function addPhotos(id: string, files: readonly File[]): Promise<string | null> {
  return beingKept(photosAdded(id, files));
}

async function photosAdded(id: string, files: readonly File[]): Promise<string | null> {
  for (const file of files) {
    if (file.size > LARGEST_PHOTO)
      return `${file.name} has ${Math.round(file.size / 1e6)} MB. 30 MB is the most: make the picture smaller.`;
    const kept = await api.keepPhoto(file);
    if (!kept.ok) return `${file.name}: ${kept.message}`;
    const page = get().notebook.pages.find((one) => one.id === id);
    if (page?.kind !== "own") return null;
    const caption = file.name.replace(/\.[a-z0-9]+$/i, "").replaceAll(/[-_]+/g, " ");
    replace({ ...page, photos: [...page.photos, { asset: kept.value.asset, caption }] }, `adding ${file.name}`);
  }
  return null;
}

/** Keeps the page as it is now, or lets it make itself again. */
export function freeze(id: string): void {
  const page = get().notebook.pages.find((one) => one.id === id);
  if (page?.kind !== "made") return;
  if (page.frozen) return replace({ ...page, frozen: null }, `letting ${titleOf(page)} change again`);
  const made = get().made.get(id);
  if (!made || !("blocks" in made)) return;
  replace({ ...page, frozen: { at: new Date().toISOString(), blocks: [...made.blocks] } }, `freezing ${titleOf(page)}`);
}

/** What changed since a page was frozen. */
export function sinceFrozen(page: NotebookPage): readonly string[] {
  const made = page.kind === "made" ? get().made.get(page.id) : undefined;
  if (page.kind !== "made" || !page.frozen || !made || !("blocks" in made)) return [];
  return changedSince(page.frozen.blocks, made.blocks);
}
