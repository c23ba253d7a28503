// What changes fifty times a second is drawn less often, and all of it on one beat: each time that something is drawn, the
// page is laid out and painted anew.
import { useSyncExternalStore } from "react";
import type { StoreApi } from "zustand";

/** The beat, ms: of a robot that is watched live every other reading. A computer without graphics draws slowly. */
export const LIVE_EVERY_MS = 40;
/** Between two showings of a number, ms: faster nobody reads them. */
export const READ_EVERY_MS = 3 * LIVE_EVERY_MS;
/** A timer may be this early, ms. */
const EARLY_MS = 1;

type Watched<S> = Pick<StoreApi<S>, "getState" | "subscribe">;

/**
 * Tells of what happens: of the first after a whole turn of silence at once, of what follows soon after it together at the
 * end of a turn, so that the last is always told.
 */
export interface Teller {
  readonly happened: () => void;
  readonly end: () => void;
}

/** @param everyMs - between two tellings, ms: whole beats */
export function calmTeller(everyMs: number, tell: () => void): Teller {
  const turnAt = (ms: number) => Math.floor((ms + EARLY_MS) / everyMs);
  let told = Number.NEGATIVE_INFINITY;
  let timer: ReturnType<typeof setTimeout> | null = null;
  const now = () => {
    timer = null;
    told = turnAt(performance.now());
    tell();
  };
  return {
    happened: () => {
      if (timer !== null) return;
      const at = performance.now();
      const turn = turnAt(at);
      if (turn > told + 1) now();
      else timer = setTimeout(now, (turn + 1) * everyMs - at);
    },
    end: () => {
      if (timer !== null) clearTimeout(timer);
    },
  };
}

/** @param everyMs - between two tellings of a change, ms: whole beats @returns what ends it */
export function subscribeCalmly<S>(store: Watched<S>, everyMs: number, tell: () => void): () => void {
  const teller = calmTeller(everyMs, tell);
  const off = store.subscribe(teller.happened);
  return () => {
    off();
    teller.end();
  };
}

/** @returns a hook like the store's own, whose component is drawn eight times a second at most */
export function calmly<S>(store: Watched<S>): <T>(select: (state: S) => T) => T {
  const subscribe = (tell: () => void) => subscribeCalmly(store, READ_EVERY_MS, tell);
  return (select) => {
    const snapshot = () => select(store.getState());
    return useSyncExternalStore(subscribe, snapshot, snapshot);
  };
}
