// One step's line, by its first word. A parser takes the cursor on the first word and returns the step's
// own fields; place and line are added by the caller.
import { ANGLE } from "../units/dimension.js";
import { CORNER_CHOICES, CROSSING_CHOICES, FOLLOW_STARTS, TAIL_STARTS, type TailWord } from "../words/language.js";
import { type LineCursor, takeName } from "./expressions.js";
import { misreadName, tailTwice } from "./problems.js";
import type { Arm, Expression, Name, Side, Statement, Tail } from "./tree.js";

type Placed = "line" | "start" | "end";
type WithoutPlace<T> = T extends unknown ? Omit<T, Placed> : never;
export type Step = WithoutPlace<Statement>;

const PARSERS: Readonly<Record<string, (cursor: LineCursor) => Step>> = {
  go: (cursor) => {
    const way = goWay(cursor);
    return way ?? { type: "go", back: false, distance: beforeTails(cursor), tails: tails(cursor) };
  },
  back: (cursor) => ({ type: "go", back: true, distance: beforeTails(cursor), tails: tails(cursor) }),
  slide,
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
  set,
  add: (cursor) => {
    const value = cursor.done ? cursor.missing("a value", " clock to looks") : cursor.condition();
    if (!cursor.takeWord("to")) cursor.missing('"to" and a list', " to looks");
    return { type: "add", value, list: takeName(cursor, "the name of a list") ?? nameless(cursor) };
  },
  clear: (cursor) => ({ type: "clear", list: takeName(cursor, "the name of a list") ?? nameless(cursor) }),
  note: (cursor) => ({ type: "note", ...named(cursor, "a name for the note") }),
  steer: (cursor) => ({
    type: "steer",
    angle: cursor.done ? cursor.missing("an angle", " left 20 deg") : cursor.angle(),
  }),
  press: (cursor) => {
    const way = cursor.takeWord("forward", "back");
    if (!way) cursor.missing('"forward" or "back"', " forward");
    return { type: "press", back: way === "back", tails: tails(cursor) };
  },
  follow,
  move: (cursor) => {
    const part = partName(cursor) ?? nameless(cursor);
    const how = cursor.takeWord("to", "by") as "to" | "by" | null;
    return { type: "move", part, how, angle: how ? cursor.angle() : null, tails: tails(cursor) };
  },
  home: (cursor) => {
    const part = partName(cursor) ?? nameless(cursor);
    if (!cursor.failed && !cursor.takeWord("toward")) cursor.missing('"toward"', " toward low");
    const toward = cursor.takeWord("low", "high") as "low" | "high" | null;
    if (!toward) cursor.missing('"low" or "high"', " low");
    return { type: "home", part, toward: toward ?? "low", tails: tails(cursor) };
  },
  aim: (cursor) => {
    const part = partName(cursor) ?? nameless(cursor);
    if (!cursor.failed && !cursor.takeWord("to")) cursor.missing('"to" and an angle', " to left 45 deg");
    return { type: "aim", part, angle: cursor.angle() };
  },
  scan,
  show: (cursor) => ({ type: "show", values: listed(cursor) }),
  light: (cursor) => ({ type: "light", share: cursor.done ? cursor.missing("a share", " 50 %") : cursor.sum() }),
  beep: (cursor) => {
    // In a line of remote the words after it belong to the button.
    const pitch = cursor.done || cursor.isWord("for", "again", "release") ? null : cursor.sum();
    return { type: "beep", pitch, duration: cursor.takeWord("for") ? cursor.sum() : null };
  },
  reset: (cursor) => ({ type: "reset", what: takeRobot(cursor) ?? partName(cursor) ?? nameless(cursor) }),
  send: (cursor) => ({ type: "send", signal: takeName(cursor, "a name for the signal", true) ?? nameless(cursor) }),
  start: (cursor) => {
    const name = takeName(cursor, "a routine's name") ?? nameless(cursor);
    if (!cursor.failed && !cursor.isSymbol("(")) cursor.missing('"(" and ")"', "()");
    return { type: "start", name, args: cursor.failed ? [] : cursor.arguments() };
  },
  next: () => ({ type: "next" }),
  leave: () => ({ type: "leave" }),
  skip: () => ({ type: "skip" }),
  resume: () => ({ type: "resume" }),
  give: (cursor) => ({ type: "give", value: cursor.done ? null : cursor.condition() }),
  finish: () => ({ type: "finish" }),
  hand: (cursor) => {
    if (!cursor.takeWord("over")) cursor.missing('"over"', " over");
    return { type: "hand over", tails: tails(cursor) };
  },
};

export function nameless(cursor: LineCursor): Name {
  return { name: "", ...cursor.gap };
}

function takeRobot(cursor: LineCursor): Name | null {
  const token = cursor.token;
  if (!token || !cursor.takeWord("robot")) return null;
  return { name: "robot", start: token.start, end: token.end };
}

function listed(cursor: LineCursor): Expression[] {
  const values: Expression[] = [];
  do values.push(cursor.condition());
  while (!cursor.failed && cursor.takeSymbol(","));
  return values;
}

/** A sensor with the words that say which of it: `floor`, `floor.left`, `floor[2]`. */
function sensorName(cursor: LineCursor): Name {
  const start = cursor.gap;
  const value = cursor.done ? cursor.missing("the name of a sensor") : cursor.sum();
  if (value.type === "name") return { name: value.path.join("."), start: value.start, end: value.end };
  if (value.type !== "missing") cursor.missing("the name of a sensor");
  return { name: "", ...start };
}

function follow(cursor: LineCursor): Step {
  const what = cursor.takeWord("line", "wall");
  if (!what) cursor.missing('"line" or "wall"', " line on centre with floor");
  if (!cursor.failed && !cursor.takeWord("on")) cursor.missing('"on"', what === "wall" ? " on left" : " on centre");
  const side = cursor.takeSide();
  if (what === "wall") {
    if (!side) cursor.missing('"left" or "right"');
    const away: Expression = cursor.failed ? { type: "missing", ...cursor.gap } : cursor.sum();
    if (!cursor.takeWord("away")) cursor.missing('"away"', " away");
    if (!cursor.takeWord("with")) cursor.missing('"with" and a distance sensor');
    return {
      type: "follow wall",
      side: side ?? "left",
      away,
      sensor: sensorName(cursor),
      tails: tails(cursor, TAIL_STARTS, ["corners"]),
    };
  }
  if (side ? !cursor.takeWord("edge") : !cursor.takeWord("centre"))
    cursor.missing(side ? '"edge"' : '"left edge", "right edge" or "centre"', side ? " edge" : " centre");
  if (!cursor.takeWord("with")) cursor.missing('"with" and a light sensor', " with floor");
  return {
    type: "follow line",
    edge: side,
    sensor: sensorName(cursor),
    tails: tails(cursor, FOLLOW_STARTS, ["crossings"]),
  };
}

function scan(cursor: LineCursor): Step {
  const part = partName(cursor) ?? nameless(cursor);
  if (!cursor.failed && !cursor.takeWord("from")) cursor.missing('"from" and an angle');
  const from = cursor.angle();
  if (!cursor.takeWord("to")) cursor.missing('"to" and an angle');
  const to = cursor.angle();
  if (!cursor.takeWord("with")) cursor.missing('"with" and how many looks', " with 5 looks");
  const looks = cursor.sum();
  if (!cursor.takeWord("looks")) cursor.missing('"looks"', " looks");
  return { type: "scan", part, from, to, looks };
}

/** An arm of `choose`: `is` with values and ranges, or a comparison; null when the line is neither. */
export function parseArm(cursor: LineCursor): Omit<Arm, "body" | Placed> | null {
  const compare = cursor.token;
  if (compare?.kind === "symbol" && ["<", ">", "<=", ">="].includes(compare.text)) {
    cursor.at += 1;
    const operator = compare.text as "<" | ">" | "<=" | ">=";
    return { values: [], compare: { operator, value: cursor.angle() } };
  }
  if (!cursor.takeWord("is")) return null;
  const values: { from: Expression; to: Expression | null }[] = [];
  do {
    const from = cursor.angle();
    values.push({ from, to: cursor.takeWord("to") ? cursor.angle() : null });
  } while (!cursor.failed && cursor.takeWord("or"));
  return { values, compare: null };
}

/** @returns null when the first word starts no step and no call */
export function parseStep(cursor: LineCursor): Step | null {
  const first = cursor.token;
  if (first?.kind !== "word") return null;
  const parser = PARSERS[first.text];
  const after = cursor.line.tokens[cursor.at + 1];
  const calls = after?.text === "(" && !after.spaceBefore && cursor.names.routines.has(first.text);
  if (parser && !calls && Object.hasOwn(PARSERS, first.text)) {
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
  return cursor.done || cursor.isWord(...TAIL_STARTS) ? null : cursor.sum();
}

/** A side with an amount, a side alone, or an amount. */
function amount(cursor: LineCursor): { amount: Expression | null; side: Side | null } {
  const next = cursor.line.tokens[cursor.at + 1];
  const sideAlone =
    cursor.isWord("left", "right") &&
    (next === undefined ||
      (next.kind === "word" && ([...TAIL_STARTS, "about", "radius"] as string[]).includes(next.text)));
  if (sideAlone) return { amount: null, side: cursor.takeSide() };
  if (cursor.done) return { amount: cursor.missing("an angle, such as left 90 deg,", " left 90 deg"), side: null };
  return { amount: cursor.angle(), side: null };
}

function slide(cursor: LineCursor): Step {
  const side = cursor.takeSide();
  if (side === null) cursor.missing('"left" or "right"', " left 20 cm");
  return { type: "slide", side, distance: cursor.failed ? null : beforeTails(cursor), tails: tails(cursor) };
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
  const place = cursor.token;
  const fromBegin = cursor.takeWord("begin") !== null;
  if (fromBegin && place && cursor.names.all.has("begin")) cursor.fail(misreadName(place, "begin"));
  if (!fromBegin && cursor.done) cursor.missing('"begin" or an angle', " begin");
  const bare = cursor.done || cursor.isWord(...TAIL_STARTS);
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
  let atMost: Expression | null = null;
  let limit: Expression | null = null;
  for (let word = cursor.takeWord("for", "limit"); word; word = cursor.takeWord("for", "limit")) {
    if (word === "for" ? atMost : limit) cursor.fail(tailTwice(cursor.gap, word));
    if (word === "for") atMost = cursor.sum();
    else limit = cursor.sum();
  }
  return { type: "wait", duration, until, atMost, limit };
}

/** `to X, Y`, `to begin`, `along PATH`, all of them with `back`; null when it is a plain way. */
function goWay(cursor: LineCursor): Step | null {
  const next = cursor.line.tokens[cursor.at + 1];
  const back = cursor.isWord("back") && (next?.text === "to" || next?.text === "along");
  if (back) cursor.at += 1;
  if (cursor.takeWord("along")) {
    const path = takeName(cursor, "the name of a path") ?? nameless(cursor);
    const look = cursor.takeWord("look") ? cursor.sum() : null;
    return { type: "go along", back, path, look, tails: tails(cursor) };
  }
  if (!cursor.takeWord("to")) return null;
  let place: { x: Expression; y: Expression } | null = null;
  if (!cursor.takeWord("begin")) {
    const x = cursor.done ? cursor.missing("a place, such as 40 cm, 25 cm,", " 40 cm, 25 cm") : cursor.sum();
    if (!cursor.takeSymbol(",")) cursor.missing('"," and how far to the left', ", 0 cm");
    place = { x, y: cursor.failed ? { type: "missing", ...cursor.gap } : cursor.sum() };
  }
  const facing = cursor.takeWord("facing") ? headingAt(cursor) : null;
  return { type: "go to", back, place, facing, tails: tails(cursor) };
}

/** A heading from the begin place; `begin` is the one the robot began with. */
function headingAt(cursor: LineCursor): Expression {
  const token = cursor.token;
  if (!token || !cursor.takeWord("begin")) return cursor.angle();
  const { start, end } = token;
  return { type: "number", value: 0, digits: "0", unit: "deg", dimension: ANGLE, start, end };
}

function set(cursor: LineCursor): Step {
  const next = cursor.line.tokens[cursor.at + 1];
  if (next?.text !== "[" || next.spaceBefore) return { type: "set", ...named(cursor, "a name for the value") };
  const list = takeName(cursor, "the name of a list or a table") ?? nameless(cursor);
  cursor.takeSymbol("[");
  const index = cursor.angle();
  if (!cursor.takeSymbol("]")) cursor.missing('a closing "]"', "]");
  if (!cursor.failed && !cursor.takeSymbol("=")) cursor.missing('"="', " = ");
  return { type: "put", list, index, value: cursor.failed ? { type: "missing", ...cursor.gap } : cursor.condition() };
}

function named(cursor: LineCursor, what: string): { name: Name; value: Expression } {
  const name = takeName(cursor, what, true) ?? { name: "", ...cursor.gap };
  if (!cursor.failed && !cursor.takeSymbol("=")) cursor.missing('"="', " = ");
  return { name, value: cursor.failed ? { type: "missing", ...cursor.gap } : cursor.condition() };
}

export function partName(cursor: LineCursor): Name | null {
  return takeName(cursor, "the name of a motor");
}

/**
 * Tails at the cursor.
 * @param starts - words that begin one here
 * @param places - what `at` may speak of besides a speed: crossings of lines, corners of walls
 */
function tails(
  cursor: LineCursor,
  starts: readonly TailWord[] = TAIL_STARTS,
  places: readonly ("crossings" | "corners")[] = [],
): Tail[] {
  const list: Tail[] = [];
  while (!cursor.failed && cursor.isWord(...starts)) {
    const token = cursor.token;
    if (!token) break;
    cursor.at += 1;
    const place = token.text === "at" ? (cursor.takeWord(...places) as "crossings" | "corners" | null) : null;
    const word = place ?? (token.text as TailWord);
    if (list.some((tail) => tail.word === word)) cursor.fail(tailTwice(token, place ? `at ${place}` : word));
    list.push(tailOf(cursor, word, token.start));
  }
  return list;
}

function tailOf(cursor: LineCursor, word: TailWord, start: number): Tail {
  let value: Expression | null = null;
  let ending: Tail["ending"] = null;
  let choice: Tail["choice"] = null;
  if (word === "then") {
    ending = cursor.takeWord("stop", "coast", "keep") as Tail["ending"];
    if (!ending) cursor.missing("stop, coast or keep", " stop");
  } else if (word === "crossings" || word === "corners") {
    const choices = word === "crossings" ? CROSSING_CHOICES : CORNER_CHOICES;
    choice = cursor.takeWord(...choices) as Tail["choice"];
    if (!choice)
      cursor.missing(word === "crossings" ? "straight, left, right or stop" : "turn or stop", ` ${choices[0]}`);
  } else value = word === "until" ? cursor.condition() : cursor.sum();
  return { word, value, ending, choice, start, end: cursor.gap.end };
}
