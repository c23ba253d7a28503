// A quantity as it stands in the text: arrow keys and a sideways drag change it by its last digit, Shift by ten.
import { type KeyboardEvent, type PointerEvent, type Ref, useRef } from "react";
import { dragged, stepped, written } from "./reading.js";

const PIXELS_PER_STEP = 6;

export function Spinner({
  ref,
  digits,
  unit,
  label,
  describedBy,
  refuse,
  onStep,
  onEdit,
  onName,
}: {
  ref: Ref<HTMLSpanElement>;
  digits: string;
  unit: string;
  label: string;
  describedBy: string | undefined;
  refuse: ((digits: string) => string | null) | undefined;
  onStep: (digits: string) => void;
  /** Begins to edit; with what a key typed, or all of it. */
  onEdit: (text: string) => void;
  /** Left out where a number can have no name. */
  onName: (() => void) | undefined;
}) {
  const drag = useRef<{ x: number; start: number; moved: boolean } | null>(null);
  const step = (by: number): void => {
    const next = stepped(digits, unit, by);
    if (next !== digits && !refuse?.(next)) onStep(next);
  };
  const keys = (event: KeyboardEvent): void => {
    const act = actOf(event);
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
  const actOf = (event: KeyboardEvent): (() => void) | null => {
    const { key } = event;
    const plain = !event.ctrlKey && !event.metaKey;
    if (key === "ArrowUp" || key === "ArrowDown") {
      if (event.altKey) return null;
      return () => step((key === "ArrowUp" ? 1 : -1) * (event.shiftKey ? 10 : 1));
    }
    if (key === "Enter" || key === "F2") return () => onEdit(written(digits, unit));
    if (onName && key.toLowerCase() === "n" && plain && !event.altKey) return onName;
    return /^[0-9]$/.test(key) && plain ? () => onEdit(key) : null;
  };
  const down = (event: PointerEvent): void => {
    drag.current = { x: event.clientX, start: Number(digits), moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent): void => {
    const held = drag.current;
    if (!held) return;
    const steps = Math.trunc((event.clientX - held.x) / PIXELS_PER_STEP);
    if (steps === 0 && !held.moved) return;
    held.moved = true;
    const next = dragged(digits, held.start, steps * (event.shiftKey ? 10 : 1));
    if (next !== digits && (refuse ? !refuse(next) : Number(next) >= 0 || held.start < 0)) onStep(next);
  };
  const up = (): void => {
    const held = drag.current;
    drag.current = null;
    if (held && !held.moved) onEdit(written(digits, unit));
  };
  return (
    <span
      ref={ref}
      className="field-q quantity"
      role="spinbutton"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={Number(digits)}
      aria-valuetext={written(digits, unit)}
      aria-describedby={describedBy}
      onKeyDown={keys}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={() => {
        drag.current = null;
      }}
    >
      {written(digits, unit)}
    </span>
  );
}
