// Draws with the playhead, without React.
import { useEffect, useRef } from "react";
import { playhead, useMission } from "./state.js";

/** Nobody reads a number that changes more often while the playhead runs, ms. */
const READABLE_MS = 100;

/**
 * Listens to the playhead. @param calm - while it runs, only ten times a second; where it stands still is heard too
 * @returns what ends it
 */
export function hearPlayhead(listener: () => void, calm = false): () => void {
  let last = Number.NEGATIVE_INFINITY;
  let later: ReturnType<typeof setTimeout> | undefined;
  const call = () => {
    clearTimeout(later);
    later = undefined;
    last = performance.now();
    listener();
  };
  const heard = () => {
    const rest = last + READABLE_MS - performance.now();
    if (!useMission.getState().playing || rest <= 0) call();
    else later ??= setTimeout(call, rest);
  };
  const own = calm ? heard : listener;
  playhead.listeners.add(own);
  return () => {
    clearTimeout(later);
    playhead.listeners.delete(own);
  };
}

/** Calls the newest `draw` after each rendering, and whenever the playhead moves. @param calm - see {@link hearPlayhead} */
export function useFollow(draw: () => void, calm = false): void {
  const latest = useRef(draw);
  latest.current = draw;
  useEffect(() => latest.current());
  useEffect(() => hearPlayhead(() => latest.current(), calm), [calm]);
}
