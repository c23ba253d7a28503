// From workplace to workplace within the page: links, Back and Forward show another workplace without a new load.
// An address that is none of ours, or a workplace that cannot be fetched, is left to the browser.
import { type ComponentType, useEffect, useSyncExternalStore } from "react";
import { visitOf } from "./place.js";
import { endVisit, saveAll } from "./visit.js";

/** What fetches each workplace, by the path of its address. */
export type Pages = Readonly<Record<string, () => Promise<ComponentType>>>;

interface Shown {
  /** Differs from visit to visit; the history of the browser knows it too. */
  readonly visit: string;
  readonly Workplace: ComponentType;
}

let pages: Pages = {};
/** "unfetched" when the first could not be had. */
let shown: Shown | "unfetched" | null = null;
/** Asked for latest: who presses two links goes where the second leads. */
let asked = 0;
let visits = 0;
const listeners = new Set<() => void>();

function show(next: Shown): void {
  shown = next;
  // Style sheets of workplaces go by it.
  document.documentElement.dataset.page = pathOf(window.location).slice(1) || "home";
  tell();
}

function tell(): void {
  for (const listener of listeners) listener();
}

/** The visit that is shown; null before the first. */
const shownVisit = () => (shown === null || shown === "unfetched" ? null : shown.visit);

/** A name that no other visit has, of this page or of one before. */
function newVisit(): string {
  visits += 1;
  return `${performance.timeOrigin} ${visits}`;
}

/** "/mission/" is "/mission". */
const pathOf = ({ pathname }: { readonly pathname: string }) => pathname.replace(/(?<=.)\/+$/, "");

function isOurs(url: URL): boolean {
  return url.origin === window.location.origin && Object.hasOwn(pages, pathOf(url));
}

/** @returns the workplace of a path; null when it is none, or cannot be fetched */
async function fetched(path: string): Promise<ComponentType | null> {
  try {
    return (await pages[path]?.()) ?? null;
  } catch {
    return null;
  }
}

/** Fetches what the address says, when the page was loaded: before anything is shown. @param all - the pages there are */
export async function begin(all: Pages): Promise<void> {
  pages = all;
  const visit = visitOf(window.history.state) ?? newVisit();
  window.history.replaceState({ visit }, "");
  const Workplace = await fetched(pathOf(window.location));
  if (Workplace) return show({ visit, Workplace });
  shown = "unfetched";
  tell();
}

/** @param back - the visit that Back or Forward returned to; the address is there already */
async function enter(url: URL, back: string | null): Promise<void> {
  asked += 1;
  const mine = asked;
  const { dataset } = document.documentElement;
  dataset.going = "";
  const [Workplace] = await Promise.all([fetched(pathOf(url)), saveAll()]);
  if (mine !== asked) return;
  delete dataset.going;
  if (!Workplace) return back === null ? window.location.assign(url) : window.location.reload();
  endVisit();
  const visit = back ?? newVisit();
  if (back === null) window.history.pushState({ visit }, "", url);
  show({ visit, Workplace });
}

/** Goes to an address: within this page if it is a workplace's. */
export function go(href: string): void {
  const url = new URL(href, window.location.href);
  if (isOurs(url)) void enter(url, null);
  else window.location.assign(url);
}

/** A press on a link that the browser would follow in this very window. */
function pressed(event: MouseEvent): void {
  if (event.defaultPrevented || event.button !== 0) return;
  if (event.metaKey || event.ctrlKey || event.shiftKey || event.altKey) return;
  const link = event.target instanceof Element ? event.target.closest("a[href]") : null;
  if (!(link instanceof HTMLAnchorElement) || link.hasAttribute("download")) return;
  if (link.target !== "" && link.target !== "_self") return;
  const url = new URL(link.href);
  if (!isOurs(url)) return;
  const { pathname, search } = window.location;
  // A place on this same page: the browser leads there.
  if (url.hash !== "" && url.pathname === pathname && url.search === search) return;
  event.preventDefault();
  void enter(url, null);
}

/** Back and Forward between visits; within one, the workplace itself hears of it. */
function returned(): void {
  const visit = visitOf(window.history.state);
  // A place on the page got its own entry from the browser: it is of this visit.
  if (visit === null) return window.history.replaceState({ visit: shownVisit() }, "");
  if (visit !== shownVisit()) void enter(new URL(window.location.href), visit);
}

/** @returns the workplace that is shown now; null until the first is there, "unfetched" when it could not be had */
export function useShown(): typeof shown {
  useEffect(() => {
    document.addEventListener("click", pressed);
    window.addEventListener("popstate", returned);
    return () => {
      document.removeEventListener("click", pressed);
      window.removeEventListener("popstate", returned);
    };
  }, []);
  return useSyncExternalStore(hear, () => shown);
}

function hear(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
