// Draws with the playhead, without React.
import { useEffect, useRef } from "react";
import { playhead } from "./state.js";

/** Calls the newest `draw` after each rendering, and whenever the playhead moves. */
export function useFollow(draw: () => void): void {
  const latest = useRef(draw);
  latest.current = draw;
  useEffect(() => latest.current());
  useEffect(() => {
    const listener = () => latest.current();
    playhead.listeners.add(listener);
    return () => {
      playhead.listeners.delete(listener);
    };
  }, []);
}
