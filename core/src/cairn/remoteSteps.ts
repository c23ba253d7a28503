// Lines of `remote`: how sticks drive, and what buttons and sliders do.
import { STICK_MODES, type StickMode } from "../remote/mapping.js";
import { STICK_WORDS, type StickWord } from "../words/language.js";
import type { LineCursor } from "./expressions.js";
import { tailTwice } from "./problems.js";
import { nameless, parseStep, partName, type Step } from "./steps.js";
import type { BindingEnd, Expression, Name, Statement, StickSetting } from "./tree.js";

interface Place {
  readonly line: number;
  readonly start: number;
  readonly end: number;
}

/** @returns null when the first word begins no line of `remote` */
export function parseRemoteLine(cursor: LineCursor, place: Place): Step | null {
  const how = cursor.takeWord("drive", "hold", "toggle", "tap", "with");
  if (how === "drive") return drive(cursor);
  if (how === "with") return dial(cursor);
  return how ? binding(cursor, how as "hold" | "toggle" | "tap", place) : null;
}

function drive(cursor: LineCursor): Step {
  const first = cursor.takeWord("one", "two", "tank", "curvature");
  if (!first) cursor.missing("how the sticks drive: one stick, two sticks, tank or curvature,", " one stick");
  let mode = (first ?? "tank") as StickMode;
  if (first === "one" || first === "two") {
    const word = first === "one" ? "stick" : "sticks";
    if (!cursor.takeWord(word)) cursor.missing(`"${word}"`, ` ${word}`);
    mode = STICK_MODES[first === "one" ? 0 : 1];
  }
  const settings: StickSetting[] = [];
  while (!cursor.failed && cursor.isWord(...STICK_WORDS)) {
    const token = cursor.token;
    if (!token) break;
    cursor.at += 1;
    const word = token.text as StickWord;
    if (settings.some((setting) => setting.word === word)) cursor.fail(tailTwice(token, word));
    const value: Expression = cursor.sum();
    settings.push({ word, value, start: token.start, end: cursor.gap.end });
  }
  return { type: "drive", mode, settings };
}

/** A button or slider: words that a point joins. */
function control(cursor: LineCursor, what: string, example: string): Name {
  const gap = cursor.gap;
  const value = cursor.done ? cursor.missing(what, example) : cursor.sum();
  if (value.type === "name") return { name: value.path.join("."), start: value.start, end: value.end };
  if (value.type !== "missing" && !cursor.failed) cursor.missing(what, example);
  return { name: "", ...gap };
}

function dial(cursor: LineCursor): Step {
  const from = control(cursor, "a slider, such as slider.one,", " slider.one");
  if (!cursor.failed && !cursor.takeWord("move")) cursor.missing('"move" and a servo', " move");
  const part = cursor.failed ? nameless(cursor) : (partName(cursor) ?? nameless(cursor));
  if (!cursor.failed && !cursor.takeWord("from")) cursor.missing('"from" and an angle', " from 0 deg");
  const low = cursor.angle();
  if (!cursor.failed && !cursor.takeWord("to")) cursor.missing('"to" and an angle', " to 90 deg");
  return { type: "dial", control: from, part, from: low, to: cursor.angle() };
}

function binding(cursor: LineCursor, how: "hold" | "toggle" | "tap", place: Place): Step {
  const button = control(cursor, "a button, such as thumb.lower,", " thumb.lower");
  if (!cursor.failed && cursor.takeWord("at"))
    return { type: "binding", how, control: button, action: null, ceiling: cursor.sum(), ending: null };
  const action = cursor.failed ? null : inner(cursor, place);
  const word = how === "hold" ? "release" : "again";
  const ending = !cursor.failed && cursor.takeWord(word) ? end(cursor, place) : null;
  return { type: "binding", how, control: button, action, ceiling: null, ending };
}

function end(cursor: LineCursor, place: Place): BindingEnd | null {
  const next = cursor.line.tokens[cursor.at + 1];
  // `stop` alone ends what the press began; with a name it is a step.
  if (cursor.isWord("keep") || (cursor.isWord("stop") && next === undefined))
    return { does: cursor.takeWord("keep", "stop") as "keep" | "stop" };
  const step = inner(cursor, place);
  return step ? { does: "step", step } : null;
}

function inner(cursor: LineCursor, place: Place): Statement | null {
  const start = cursor.token?.start ?? place.end;
  const step = cursor.done ? null : parseStep(cursor);
  if (step === null) {
    if (!cursor.failed) cursor.missing("a step, such as power belt 80 %, or a routine's name with (),");
    return null;
  }
  return { ...step, line: place.line, start, end: cursor.gap.end } as Statement;
}
