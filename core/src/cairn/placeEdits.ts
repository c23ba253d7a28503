// Places as edits of text. One taken from the field becomes the numbers of a `go to`, or the next of a path.
import { plainDigits } from "../units/quantity.js";
import { insertStep, type Place, placeAtLine, type TextChange } from "./edits.js";
import { literalValue } from "./expressionKinds.js";
import { smallestChange } from "./stepEdits.js";
import type { Expression, Mission, PathLine } from "./tree.js";

/** A place as it is written, to half a centimetre: "42.5 cm, -10 cm". */
function placeWords(xM: number, yM: number): string {
  const cm = (value: number) => `${plainDigits(Math.floor(value * 200 + 0.5) / 2, 1)} cm`;
  return `${cm(xM)}, ${cm(yM)}`;
}

/** Places of a path that are plain numbers, m, from the begin place; the others are left out. */
export function placesOfPath({ places }: PathLine): (readonly [number, number])[] {
  return places.flatMap(({ x, y }) => {
    const [ahead, aside] = [literalValue(x), literalValue(y)];
    return ahead === null || aside === null ? [] : [[ahead, aside] as const];
  });
}

/** The step on a line if its place can be taken from the field: `go to` with a place of its own. */
function goesTo(mission: Mission, line: number | null): { x: Expression; y: Expression } | null {
  const statement = line === null ? null : placeAtLine(mission, line)?.statement;
  return statement?.type === "go to" ? statement.place : null;
}

/** The path a place belongs to: the one that the step on this line drives along, else the last one. */
function pathFor(mission: Mission, line: number | null): PathLine | null {
  const statement = line === null ? null : placeAtLine(mission, line)?.statement;
  const name = statement?.type === "go along" ? statement.path.name : null;
  return mission.paths.find((path) => path.name.name === name) ?? mission.paths.at(-1) ?? null;
}

/**
 * Takes a place from the field: into the `go to` on the line, or to the end of a path. Without a path one is made, with a
 * step that drives along it.
 * @param line - of the chosen step, from 0; null when none is chosen
 * @param xM - ahead of the begin place; yM - to its left
 */
export function takePlace(mission: Mission, line: number | null, xM: number, yM: number): TextChange | null {
  const words = placeWords(xM, yM);
  const step = goesTo(mission, line);
  if (step) return { start: step.x.start, end: step.y.end, insert: words };
  const path = pathFor(mission, line);
  if (path) {
    const last = path.places.at(-1) ?? path;
    const end = mission.lines[last.line]?.end ?? mission.text.length;
    return { start: end, end, insert: `\n  ${words}` };
  }
  const after: Place | null = line === null ? null : placeAtLine(mission, line);
  const added = insertStep(mission, "go along way", after);
  const withStep = mission.text.slice(0, added.start) + added.insert + mission.text.slice(added.end);
  const heads = [...mission.routines.map((routine) => routine.line), mission.body?.headLine ?? mission.lines.length];
  const at = mission.lines[Math.min(...heads)]?.start ?? 0;
  const whole = `${withStep.slice(0, at)}path way\n  ${words}\n\n${withStep.slice(at)}`;
  return smallestChange(mission.text, whole);
}
