// A handset's movements as columns of a trace, and back: what a drive is replayed from.
import { type ColumnInfo, type Trace, traceColumn } from "../trials/trace.js";
import type { Handset } from "./handset.js";

/** Columns of a handset; `buttons` is −1 while nothing was heard of the driver. */
export const HAND_COLUMNS: readonly ColumnInfo[] = [
  { id: "hand:leftForward", quantity: "left stick, forward", unit: "1" },
  { id: "hand:leftAcross", quantity: "left stick, to the left", unit: "1" },
  { id: "hand:rightForward", quantity: "right stick, forward", unit: "1" },
  { id: "hand:rightAcross", quantity: "right stick, to the left", unit: "1" },
  { id: "hand:triggerLeft", quantity: "left trigger", unit: "1" },
  { id: "hand:triggerRight", quantity: "right trigger", unit: "1" },
  { id: "hand:sliderOne", quantity: "first slider", unit: "1" },
  { id: "hand:sliderTwo", quantity: "second slider", unit: "1" },
  { id: "hand:buttons", quantity: "buttons that are down", unit: "1" },
];

/** One row of HAND_COLUMNS. */
export function handRow(handset: Handset | null): number[] {
  return handset ? [...handset.sticks, ...handset.levels, handset.buttons] : [0, 0, 0, 0, 0, 0, 0, 0, -1];
}

/** What was held at each tick of a recorded drive; null for a trace without a driver. */
export function recordedHands(trace: Trace): ((tick: number) => Handset | null) | null {
  const columns = HAND_COLUMNS.map(({ id }) => traceColumn(trace, id));
  const buttons = columns[8];
  if (!buttons || columns.some((column) => column === undefined || column === null)) return null;
  return (tick) => {
    const row = Math.max(0, Math.floor(tick));
    if (row >= buttons.length || (buttons[row] as number) < 0) return null;
    const at = (i: number) => columns[i]?.[row] ?? 0;
    return {
      sticks: [at(0), at(1), at(2), at(3)],
      levels: [at(4), at(5), at(6), at(7)],
      buttons: buttons[row] as number,
    };
  };
}
