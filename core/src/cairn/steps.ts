// One step's line, by its first word. A parser takes the cursor on the first word and returns the step's
// own fields; place and line are added by the caller.
import { type LineCursor, takeName } from "./expressions.js";
import { tailTwice } from "./problems.js";
import type { Expression, Name, Side, Statement, Tail } from "./tree.js";
import { TAIL_ORDER, type TailWord } from "./words.js";

type Placed = "line" | "start" | "end";
type WithoutPlace<T> = T extends unknown ? Omit<T, Placed> : never;
export type Step = WithoutPlace<Statement>;

const PARSERS: Readonly<Record<string, (cursor: LineCursor) => Step>> = {
  go: (cursor) => ({ type: "go", back: false, distance: beforeTails(cursor), tails: tails(cursor) }),
  back: (cursor) => ({ type: "go", back: true, distance: beforeTails(cursor), tails: tails(cursor) }),
  turn,
  face,
  arc,
  roll: (cursor) => {
    const speed = cursor.sum();
    return { type: "roll", speed, turning: cursor.takeWord("turning") ? cursor.angle() : null, tails: tails(cursor) };
  },
  wheels: (cursor) => ({ type: "wheels", ...sides(cursor), tails: tails(cursor) }),
  power,
  wait,
  stop: (cursor) => ({ type: "stop", motor: cursor.done ? null : partName(cursor) }),
  coast: (cursor) => ({ type: "coast", motor: cursor.done ? null : partName(cursor) }),
  set: (cursor) => ({ type: "set", ...named(cursor, "a name for the value") }),
  note: (cursor) => ({ type: "note", ...named(cursor, "a name for the note") }),
  finish: () => ({ type: "finish" }),
};

/** @returns null when the first word starts no step and no call */
export function parseStep(cursor: LineCursor): Step | null {
  const first = cursor.token;
  if (first?.kind !== "word") return null;
  const parser = PARSERS[first.text];
  if (parser && Object.hasOwn(PARSERS, first.text)) {
    cursor.at += 1;
    return parser(cursor);
  }
  const next = cursor.line.tokens[cursor.at + 1];
  if (next?.text !== "(" || next.spaceBefore) return null;
  const name = takeName(cursor, "a routine's name");
  if (!name) return { type: "broken" };
  return { type: "call", name, args: cursor.arguments() };
}

function beforeTails(cursor: LineCursor): Expression | null {
  return cursor.done || cursor.isWord(...TAIL_ORDER) ? null : cursor.sum();
}

/** A side with an amount, a side alone, or an amount. */
function amount(cursor: LineCursor): { amount: Expression | null; side: Side | null } {
  const next = cursor.line.tokens[cursor.at + 1];
  const sideAlone =
    cursor.isWord("left", "right") &&
    (next === undefined ||
      (next.kind === "word" && ([...TAIL_ORDER, "about", "radius"] as string[]).includes(next.text)));
  if (sideAlone) return { amount: null, side: cursor.takeSide() };
  if (cursor.done) return { amount: cursor.missing("an angle, such as left 90 deg,", " left 90 deg"), side: null };
  return { amount: cursor.angle(), side: null };
}

function turn(cursor: LineCursor): Step {
  const how = amount(cursor);
  let about: Side | null = null;
  if (cursor.takeWord("about")) {
    about = cursor.takeSide();
    if (about === null) cursor.missing('"left wheel" or "right wheel"');
    else if (!cursor.takeWord("wheel")) cursor.missing('"wheel"', " wheel");
  }
  return { type: "turn", ...how, about, tails: tails(cursor) };
}

function face(cursor: LineCursor): Step {
  const fromBegin = cursor.takeWord("begin") !== null;
  if (!fromBegin && cursor.done) cursor.missing('"begin" or an angle', " begin");
  const bare = cursor.done || cursor.isWord(...TAIL_ORDER);
  return { type: "face", fromBegin, angle: bare ? null : cursor.angle(), tails: tails(cursor) };
}

function arc(cursor: LineCursor): Step {
  const back = cursor.takeWord("back") !== null;
  const how = amount(cursor);
  if (!cursor.takeWord("radius")) cursor.missing('"radius" and a length', " radius 25 cm");
  return {
    type: "arc",
    back,
    ...how,
    radius: cursor.failed ? { type: "missing", ...cursor.gap } : cursor.sum(),
    tails: tails(cursor),
  };
}

function sides(cursor: LineCursor): { left: Expression; right: Expression } {
  const left = cursor.takeWord("left") ? cursor.sum() : cursor.missing('"left" and a value');
  const right = cursor.failed || cursor.takeWord("right") ? cursor.sum() : cursor.missing('"right" and a value');
  return { left, right };
}

function power(cursor: LineCursor): Step {
  if (cursor.isWord("left")) return { type: "power", ...sides(cursor), motor: null, tails: tails(cursor) };
  if (cursor.takeWord("both")) {
    const both = cursor.sum();
    return { type: "power", left: both, right: both, motor: null, tails: tails(cursor) };
  }
  const motor = partName(cursor);
  const value = cursor.failed ? ({ type: "missing", ...cursor.gap } as const) : cursor.sum();
  return { type: "power", left: value, right: value, motor, tails: tails(cursor) };
}

function wait(cursor: LineCursor): Step {
  let duration: Expression | null = null;
  let until: Expression | null = null;
  if (cursor.takeWord("until")) until = cursor.condition();
  else if (cursor.done) duration = cursor.missing("a time, or until and a condition,", " 1 s");
  else duration = cursor.sum();
  return { type: "wait", duration, until, limit: cursor.takeWord("limit") ? cursor.sum() : null };
}

function named(cursor: LineCursor, what: string): { name: Name; value: Expression } {
  const name = takeName(cursor, what) ?? { name: "", ...cursor.gap };
  if (!cursor.failed && !cursor.takeSymbol("=")) cursor.missing('"="', " = ");
  return { name, value: cursor.failed ? { type: "missing", ...cursor.gap } : cursor.condition() };
}

function partName(cursor: LineCursor): Name | null {
  return takeName(cursor, "the name of a motor");
}

function tails(cursor: LineCursor): Tail[] {
  const list: Tail[] = [];
  while (!cursor.failed && cursor.isWord(...TAIL_ORDER)) {
    const token = cursor.token;
    if (!token) break;
    const word = token.text as TailWord;
    cursor.at += 1;
    if (list.some((tail) => tail.word === word)) cursor.fail(tailTwice(token, word));
    let value: Expression | null = null;
    let ending: Tail["ending"] = null;
    if (word === "then") {
      ending = cursor.takeWord("stop", "coast", "keep") as Tail["ending"];
      if (!ending) cursor.missing("stop, coast or keep", " stop");
    } else value = word === "until" ? cursor.condition() : cursor.sum();
    list.push({ word, value, ending, start: token.start, end: cursor.gap.end });
  }
  return list;
}
