// The notebook on paper and as files.
import {
  matchPage,
  type NotebookPage,
  notebookHtml,
  notebookMarkdown,
  type PageBlock,
  pitPage,
  type WholePage,
} from "@giddy-pebble/core";
import { strToU8, zipSync } from "fflate";
import { api } from "../../shared/api.js";
import { markdownHtml } from "../../shared/paper/markdown.js";
import { whenLeft } from "../../shared/visit.js";
import { titleOf, useNotebook } from "./state.js";
import { gatherAll } from "./store.js";

/** What stands on a page now: frozen, made, or written. */
export function blocksOf(page: NotebookPage): readonly PageBlock[] {
  if (page.kind === "own")
    return [
      { kind: "markdown", text: page.text },
      ...page.photos.map((photo): PageBlock => ({ kind: "photo", ...photo })),
    ];
  if (page.kind === "match") return matchPage(page);
  if (page.kind === "pit") return pitPage(page);
  if (page.frozen) return page.frozen.blocks;
  const made = useNotebook.getState().made.get(page.id);
  if (!made) return [];
  return "blocks" in made ? made.blocks : [{ kind: "text", text: made.trouble, from: null }];
}

/** Whether a page has something on it: own pages that nobody wrote on are not put out. */
export function isWritten(page: NotebookPage): boolean {
  return page.kind !== "own" || page.text.trim() !== "" || page.photos.length > 0;
}

function wholePages(): WholePage[] {
  return useNotebook
    .getState()
    .notebook.pages.filter(isWritten)
    .map((page) => ({
      id: page.id,
      title: titleOf(page),
      blocks: blocksOf(page),
      frozenAt: page.kind === "made" ? (page.frozen?.at ?? null) : null,
    }));
}

function save(name: string, bytes: BlobPart, type: string): void {
  const address = URL.createObjectURL(new Blob([bytes], { type }));
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}

function stem(): string {
  const { name } = useNotebook.getState().notebook;
  return (
    name
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, "-")
      .replaceAll(/^-|-$/g, "") || "notebook"
  );
}

async function photoBytes(pages: readonly WholePage[]): Promise<Map<string, Uint8Array>> {
  const assets = new Set(
    pages.flatMap(({ blocks }) => blocks.flatMap((one) => (one.kind === "photo" ? [one.asset] : []))),
  );
  const found = new Map<string, Uint8Array>();
  for (const asset of assets) {
    const answer = await fetch(`/api/assets/${asset}`);
    if (answer.ok) found.set(asset, new Uint8Array(await answer.arrayBuffer()));
  }
  return found;
}

function dataAddress(bytes: Uint8Array): string {
  let text = "";
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return `data:image/jpeg;base64,${btoa(text)}`;
}

/** Everything as HTML that stands alone; null when gathering it was cancelled. */
async function wholeHtml(): Promise<string | null> {
  if (!(await gatherAll())) return null;
  const pages = wholePages();
  const photos = await photoBytes(pages);
  return notebookHtml(useNotebook.getState().notebook.name, pages, {
    site: window.location.origin,
    markdown: markdownHtml,
    photo: (asset) => {
      const bytes = photos.get(asset);
      return bytes ? dataAddress(bytes) : "";
    },
  });
}

/** One HTML file that holds everything. */
export async function saveHtml(): Promise<void> {
  const html = await wholeHtml();
  if (html !== null) save(`${stem()}.html`, html, "text/html");
}

let printing: AbortController | null = null;
whenLeft(() => printing?.abort());

/** PDF, made by the server's own browser. */
export async function savePdf(paper: "a4" | "letter"): Promise<void> {
  const html = await wholeHtml();
  if (html === null) return;
  printing = new AbortController();
  useNotebook.setState({ making: "pdf" });
  const made = await api.printPdf(html, paper, printing.signal);
  const cancelled = printing.signal.aborted;
  printing = null;
  useNotebook.setState({ making: null });
  if (made.ok) save(`${stem()}.pdf`, made.value as Uint8Array<ArrayBuffer>, "application/pdf");
  else useNotebook.setState({ message: cancelled ? "No PDF was made." : `No PDF was made: ${made.message}` });
}

export const stopPdf = () => printing?.abort();

/** Markdown with its pictures, in one .zip. */
export async function saveMarkdown(): Promise<void> {
  if (!(await gatherAll())) return;
  const pages = wholePages();
  const photos = await photoBytes(pages);
  const files = notebookMarkdown(useNotebook.getState().notebook.name, pages, (asset) => `pictures/${asset}.jpg`);
  const zip = zipSync(
    Object.fromEntries([
      ...files.map(({ name, text }) => [name, strToU8(text)] as const),
      ...[...photos].map(([asset, bytes]) => [`pictures/${asset}.jpg`, bytes] as const),
    ]),
  );
  save(`${stem()}.zip`, zip as Uint8Array<ArrayBuffer>, "application/zip");
}

/** Paper, or PDF by the browser's own printing: all pages are laid out, then printed. */
export async function print(): Promise<void> {
  if (!(await gatherAll())) return;
  useNotebook.setState({ printing: true });
  // After the pages are on the page, and their pictures in it.
  await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
  await Promise.all(
    [...document.querySelectorAll<HTMLImageElement>(".paperall img")].map((one) => one.decode().catch(() => {})),
  );
  window.print();
  useNotebook.setState({ printing: false });
}
