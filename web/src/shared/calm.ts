// Numbers that change fifty times a second are shown ten times a second: faster nobody reads them, and each time the page is
// laid out and painted anew.
import { useSyncExternalStore } from "react";
import type { StoreApi } from "zustand";

/** Between two showings of a number, ms. */
export const READ_EVERY_MS = 100;

type Watched<S> = Pick<StoreApi<S>, "getState" | "subscribe">;

/** Tells of what happens: of the first at once, of what follows soon after it together, so that the last is always told. */
export interface Teller {
  readonly happened: () => void;
  readonly end: () => void;
}

/** @param everyMs - between two tellings, ms */
export function calmTeller(everyMs: number, tell: () => void): Teller {
  let next = 0;
  let timer: ReturnType<typeof setTimeout> | null = null;
  const now = () => {
    timer = null;
    next = performance.now() + everyMs;
    tell();
  };
  return {
    happened: () => {
      if (timer !== null) return;
      const wait = next - performance.now();
      if (wait <= 0) now();
      else timer = setTimeout(now, wait);
    },
    end: () => {
      if (timer !== null) clearTimeout(timer);
    },
  };
}

/** @param everyMs - between two tellings of a change, ms @returns what ends it */
export function subscribeCalmly<S>(store: Watched<S>, everyMs: number, tell: () => void): () => void {
  const teller = calmTeller(everyMs, tell);
  const off = store.subscribe(teller.happened);
  return () => {
    off();
    teller.end();
  };
}

/** @returns a hook like the store's own, whose component is drawn ten times a second at most */
export function calmly<S>(store: Watched<S>): <T>(select: (state: S) => T) => T {
  const subscribe = (tell: () => void) => subscribeCalmly(store, READ_EVERY_MS, tell);
  return (select) => {
    const snapshot = () => select(store.getState());
    return useSyncExternalStore(subscribe, snapshot, snapshot);
  };
}
