// The Notebook workplace's state: the open notebook with its history, the page on the screen, what pages are made of.
import { type MadeOf, NOTEBOOK_FORMAT, type Notebook, type NotebookPage, type PageBlock } from "@giddy-pebble/core";
import { create } from "zustand";
import type { ListedDocument } from "../../shared/api.js";
import { type DocumentSlice, emptySlice } from "../../shared/shell/documentStore.js";
import { whenLeft } from "../../shared/visit.js";

/** What a page is made of now; a sentence when it could not be made. */
export type Made = { readonly blocks: readonly PageBlock[] } | { readonly trouble: string };

interface NotebookState extends DocumentSlice<Notebook> {
  notebook: Notebook;
  /** Id of the page on the screen. */
  page: string | null;
  /** By page id. */
  made: ReadonlyMap<string, Made>;
  /** Everything pages can be made of. */
  project: readonly ListedDocument[];
  panel: "none" | "versions" | "add";
  /** Id of the match sheet whose practice clock is open. */
  practising: string | null;
  /** Pages are gathered for paper or a file: how many of them are there. */
  gathering: { readonly done: number; readonly of: number } | null;
  printing: boolean;
  /** The server prints a PDF. */
  making: "pdf" | null;
  /** Whether the server can. */
  canPdf: boolean;
}

export function emptyNotebook(name: string): Notebook {
  return { format: NOTEBOOK_FORMAT, version: 1, name, pages: [] };
}

export function initialState(): NotebookState {
  return {
    ...emptySlice<Notebook>(),
    notebook: emptyNotebook("Notebook"),
    page: null,
    made: new Map(),
    project: [],
    panel: "none",
    practising: null,
    gathering: null,
    printing: false,
    making: null,
    canPdf: false,
  };
}

export const useNotebook = create<NotebookState>(initialState);
whenLeft(() => useNotebook.setState(initialState(), true));

const TITLES = {
  robot: (name: string) => `Robot ${name}`,
  calibrations: (name: string) => `What was measured on ${name}`,
  field: (name: string) => `Field ${name}`,
  mission: (name: string) => `Mission ${name}`,
  trials: () => "Trials",
  decisions: () => "Decisions",
  timeline: () => "Timeline",
} as const;

export function titleOf(page: NotebookPage): string {
  if (page.kind !== "made") return page.title.trim() || "Without a title";
  return TITLES[page.of](page.name ?? "");
}

/** An id that no page has yet. */
export function freeId(notebook: Notebook, stem: string): string {
  const plain =
    stem
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, "-")
      .replaceAll(/^-|-$/g, "")
      .slice(0, 50) || "page";
  const taken = new Set(notebook.pages.map(({ id }) => id));
  if (!taken.has(plain)) return plain;
  for (let n = 2; ; n += 1) if (!taken.has(`${plain}-${n}`)) return `${plain}-${n}`;
}

/** A page for each robot, what was measured on it, each field, each mission, the runs, and what happened. */
export function everyPage(project: readonly Pick<ListedDocument, "kind" | "name">[]): NotebookPage[] {
  const named = (kind: string) => project.filter((one) => one.kind === kind).map(({ name }) => name);
  const made = (of: MadeOf, name: string | null) => ({
    kind: "made" as const,
    id: "",
    of,
    name,
    frozen: null,
  });
  const pages: NotebookPage[] = [
    { kind: "own", id: "", title: "About this season", text: "", photos: [] },
    made("timeline", null),
    made("decisions", null),
    ...named("robot").flatMap((name) => [made("robot", name), made("calibrations", name)]),
    ...named("field").map((name) => made("field", name)),
    ...named("mission").map((name) => made("mission", name)),
    made("trials", null),
  ];
  let notebook = emptyNotebook("Notebook");
  for (const page of pages) {
    const id = freeId(notebook, titleOf(page));
    notebook = { ...notebook, pages: [...notebook.pages, { ...page, id }] };
  }
  return [...notebook.pages];
}
