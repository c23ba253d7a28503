// Where a person is, across workplaces: the robot, mission and field they chose go along in every address, so that no
// workplace forgets them, Back returns to them, and an address can be kept or sent on.

/** What goes along from workplace to workplace, and what belongs to one page only. */
const SHARED = ["robot", "mission", "field", "notebook"] as const;
export type PlaceKey = (typeof SHARED)[number] | "known" | "view" | "run" | "page" | "new";

const KEPT_KEY = "giddy-pebble place";

type Listener = () => void;
const listeners = new Set<Listener>();

function address(): URL {
  return new URL(window.location.href);
}

/** What this browser was at last, for addresses that say nothing. */
function kept(): URLSearchParams {
  return new URLSearchParams(localStorage.getItem(KEPT_KEY) ?? "");
}

/** @returns what the address says, else for what is shared what was chosen last; null when there is neither */
export function placed(key: PlaceKey): string | null {
  const said = address().searchParams.get(key);
  if (said !== null) return said;
  return (SHARED as readonly string[]).includes(key) ? kept().get(key) : null;
}

/**
 * Writes down where the person is now.
 * @param how - "push" makes a place that Back returns from; "replace" only says more of this one
 */
export function moveTo(changes: Partial<Record<PlaceKey, string | null>>, how: "push" | "replace"): void {
  const url = address();
  for (const [key, value] of Object.entries(changes)) {
    if (value === null) url.searchParams.delete(key);
    else url.searchParams.set(key, value);
  }
  const shared = kept();
  for (const key of SHARED) {
    const value = url.searchParams.get(key) ?? shared.get(key);
    if (value !== null) shared.set(key, value);
  }
  try {
    localStorage.setItem(KEPT_KEY, shared.toString());
  } catch {
    // A browser whose storage is full still has its addresses.
  }
  if (url.href === window.location.href) return;
  // It is of the same visit.
  const { state } = window.history;
  if (how === "push") window.history.pushState(state, "", url);
  else window.history.replaceState(state, "", url);
  for (const listener of listeners) listener();
}

/** @returns the address of another page with what was chosen; what belongs to this page stays here */
export function linkTo(path: string): string {
  const [page = path, query = ""] = path.split("?");
  const params = new URLSearchParams(query);
  for (const key of SHARED) {
    const value = placed(key);
    if (value !== null && !params.has(key)) params.set(key, value);
  }
  const said = params.toString();
  return said === "" ? page : `${page}?${said}`;
}

/** @returns whether the address asks for something new; it does so once */
export function askedForNew(): boolean {
  const asked = placed("new") !== null;
  if (asked) moveTo({ new: null }, "replace");
  return asked;
}

/** @returns what ends hearing of changes of the place */
export function hearPlace(listener: Listener): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** @returns the visit that an entry of the browser's history belongs to; null when it does not say */
export function visitOf(state: unknown): string | null {
  const visit = (state as { visit?: unknown } | null)?.visit;
  return typeof visit === "string" ? visit : null;
}

/** Calls when Back or Forward changed the address within this visit. @returns what ends it */
export function onReturn(call: () => void): () => void {
  const visit = visitOf(window.history.state);
  const returned = () => {
    // An entry that does not say yet is of this visit: the browser made it, and whoever marks it may hear of it later.
    const now = visitOf(window.history.state);
    if (now !== null && now !== visit) return;
    call();
    for (const listener of listeners) listener();
  };
  window.addEventListener("popstate", returned);
  return () => window.removeEventListener("popstate", returned);
}

/** The title of the tab: the document, then the workplace. */
export function titled(document_: string | null, workplace: string): void {
  document.title = `${document_ ? `${document_} · ` : ""}${workplace} · Giddy Pebble`;
}
