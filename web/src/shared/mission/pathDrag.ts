// Dragging a pebble on the planned path: the distance of its step follows, and the turn right before it, when both
// are plain numbers. A turn alone follows the direction of the pointer.
import {
  amountOf,
  findUnit,
  placeAtLine,
  plainDigits,
  type Statement,
  type StepSummary,
  statementsOf,
  type TextChange,
  TICK_MS,
} from "@giddy-pebble/core";
import { useMission } from "./state.js";
import { edit } from "./store.js";

export interface PathDrag {
  readonly line: number;
  /** Where the step begins in the plan: place and heading. */
  readonly xM: number;
  readonly yM: number;
  readonly headingRad: number;
  /** Heading before the turn that comes right before it; null when there is none to change. */
  readonly before: { readonly line: number; readonly headingRad: number } | null;
}

function wrapped(rad: number): number {
  return Math.atan2(Math.sin(rad), Math.cos(rad));
}

/** Digits as people would write them: whole degrees and millimetres, half centimetres. */
function roundedIn(value: number, unit: string): string {
  const scale = findUnit(unit)?.scale ?? 1;
  const shown = value / scale;
  if (unit === "cm") return plainDigits(Math.round(shown * 2) / 2, 1);
  return plainDigits(shown, unit === "m" || unit === "ft" ? 2 : unit === "in" ? 1 : 0);
}

/** Begins a drag at a step's pebble; null for steps that have no number to follow. */
export function beginPathDrag(step: StepSummary): PathDrag | null {
  const { mission, planned } = useMission.getState();
  const line = step.line - 1;
  const place = placeAtLine(mission, line);
  if (!place || !planned?.summary || !amountOf(place.statement)) return null;
  const at = (ms: number) => Math.max(0, Math.min(planned.x.length - 1, Math.round(ms / TICK_MS)));
  const start = at(step.startMs);
  const steps = statementsOf(place.block);
  const previous = steps[steps.indexOf(place.statement) - 1];
  const turned =
    place.statement.type === "go" && previous?.type === "turn" && amountOf(previous)
      ? planned.summary.steps.filter((other) => other.line - 1 === previous.line).at(-1)
      : undefined;
  return {
    line,
    xM: planned.x[start] ?? 0,
    yM: planned.y[start] ?? 0,
    headingRad: planned.heading[start] ?? 0,
    before: turned && previous ? { line: previous.line, headingRad: planned.heading[at(turned.startMs)] ?? 0 } : null,
  };
}

function angleChange(statement: Statement, rad: number): TextChange | null {
  if (statement.type !== "turn" && statement.type !== "arc") return null;
  const { amount } = statement;
  if (!amount) return null;
  const degrees = Math.round((Math.abs(rad) * 180) / Math.PI);
  return { start: amount.start, end: amount.end, insert: `${rad < 0 ? "right" : "left"} ${degrees} deg` };
}

function lengthChange(statement: Statement, metres: number): TextChange | null {
  const { mission } = useMission.getState();
  const amount = amountOf(statement);
  if (!amount) return null;
  const unit = /[a-z]+$/.exec(mission.text.slice(amount.start, amount.end))?.[0] ?? "cm";
  return { start: amount.start, end: amount.end, insert: `${roundedIn(Math.max(0.005, metres), unit)} ${unit}` };
}

/** Follows the pointer to a place on the field. */
export function dragPathTo(drag: PathDrag, xM: number, yM: number): void {
  const { mission } = useMission.getState();
  const statement = placeAtLine(mission, drag.line)?.statement;
  if (!statement) return;
  const dx = xM - drag.xM;
  const dy = yM - drag.yM;
  const direction = Math.atan2(dy, dx);
  const changes: (TextChange | null)[] = [];
  if (statement.type === "go") {
    const back = statement.back ? Math.PI : 0;
    if (drag.before) {
      const turn = placeAtLine(mission, drag.before.line)?.statement;
      changes.push(lengthChange(statement, Math.hypot(dx, dy)));
      if (turn) changes.push(angleChange(turn, wrapped(direction + back - drag.before.headingRad)));
    } else {
      const heading = drag.headingRad + back;
      changes.push(lengthChange(statement, dx * Math.cos(heading) + dy * Math.sin(heading)));
    }
  } else if (statement.type === "slide") {
    // To its left or right, whichever it slides to.
    const side = statement.side === "right" ? -1 : 1;
    changes.push(lengthChange(statement, side * (dy * Math.cos(drag.headingRad) - dx * Math.sin(drag.headingRad))));
  } else changes.push(angleChange(statement, wrapped(direction - drag.headingRad)));
  const real = changes.filter((change): change is TextChange => change !== null).sort((a, b) => b.start - a.start);
  const [last] = real;
  const first = real.at(-1);
  if (!last || !first) return;
  let stretch = mission.text.slice(first.start, last.end);
  for (const change of real)
    stretch = stretch.slice(0, change.start - first.start) + change.insert + stretch.slice(change.end - first.start);
  edit({ start: first.start, end: last.end, insert: stretch }, "dragging the path", undefined, `path/${drag.line}`);
}
