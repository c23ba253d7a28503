// Small edits one after another that are one for undo: typing in one place, and a drag from its press to its end.

export interface SmallEdit {
  /** Names the place. */
  readonly key: string;
  /** When, ms. */
  readonly at: number;
  /** The press of a pointer that is held meanwhile, counted; null while none is. */
  readonly press: number | null;
}

const SAME_TYPING_MS = 900;

/** Whether an edit goes on with the last one. A hand that holds still within a drag has not ended it. */
export function goesOn(last: SmallEdit | null, now: SmallEdit): boolean {
  if (last?.key !== now.key) return false;
  return now.at - last.at < SAME_TYPING_MS || (now.press !== null && now.press === last.press);
}

let presses = 0;
let held: number | null = null;
/** The pointer that holds it. */
let heldBy = 0;

if (typeof window !== "undefined") {
  const down = ({ pointerId }: PointerEvent) => {
    presses += 1;
    held = presses;
    heldBy = pointerId;
  };
  const up = ({ pointerId }: PointerEvent) => {
    // Another finger may be let go meanwhile.
    if (pointerId !== heldBy) return;
    const ended = held;
    // What is dragged is put down while the end of its press is being told.
    setTimeout(() => {
      if (held === ended) held = null;
    });
  };
  window.addEventListener("pointerdown", down, { capture: true });
  window.addEventListener("pointerup", up, { capture: true });
  window.addEventListener("pointercancel", up, { capture: true });
  // The end of a press may never be told: it was let go over another program. Then its pointer moves with no button down.
  const move = (event: PointerEvent) => {
    if (held !== null && event.buttons === 0) up(event);
  };
  window.addEventListener("pointermove", move, { capture: true });
}

export function smallEdit(key: string): SmallEdit {
  return { key, at: Date.now(), press: held };
}

/** An edit that names no place: while a press is held, the same one again goes on with it. @param label - what it does */
export function heldEdit(label: string): SmallEdit | null {
  return held === null ? null : smallEdit(`press/${held}/${label}`);
}
