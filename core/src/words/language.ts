// The words of Cairn: which start a step, which belong to the grammar, which are planned for later.
import { UNIT_WORDS } from "../units/units.js";

/** Steps of this version, each with a short form for completion. */
export const STEP_FORMS: Readonly<Record<string, string>> = {
  go: "go 30 cm",
  back: "back 10 cm",
  slide: "slide left 20 cm",
  turn: "turn left 90 deg",
  face: "face begin",
  arc: "arc left 90 deg radius 25 cm",
  roll: "roll 20 cm/s turning left 30 deg/s for 2 s",
  wheels: "wheels left 20 cm/s right 20 cm/s for 1 s",
  power: "power left 40 % right 40 % for 1 s",
  wait: "wait 1 s",
  stop: "stop",
  coast: "coast",
  repeat: "repeat 4 times",
  if: "if gyro.heading > 45 deg",
  set: "set cruise = 28 cm/s",
  note: "note heading = gyro.heading",
  follow: "follow line on centre with floor until floor.crossing",
  press: "press forward",
  steer: "steer left 20 deg",
  move: "move arm to 90 deg",
  home: "home arm toward low",
  aim: "aim head to left 45 deg",
  scan: "scan head from left 60 deg to right 60 deg with 5 looks",
  every: "every 20 ms",
  choose: "choose tag.colour",
  together: "together",
  during: "during",
  start: "start look()",
  send: "send ready",
  show: "show clock",
  light: "light 50 %",
  beep: "beep",
  reset: "reset robot",
  next: "next",
  leave: "leave",
  skip: "skip",
  resume: "resume",
  give: "give 30 cm",
  finish: "finish",
  hand: "hand over",
  add: "add clock to looks",
  clear: "clear looks",
};

/** Other ways some steps are written, offered after the first. */
export const MORE_FORMS: Readonly<Record<string, readonly string[]>> = {
  go: ["go to 40 cm, 25 cm", "go to begin", "go along round"],
  repeat: [
    "repeat 4 times as pass",
    "repeat while eye.distance > 20 cm",
    "repeat until bumper.pressed",
    "repeat for each look in looks",
  ],
  wait: ["wait until bumper.pressed for 1 s"],
  set: ["set looks[1] = 20 cm"],
  beep: ["beep 440 Hz for 0.2 s"],
  follow: ["follow wall on right 20 cm away with eye until wall ends"],
};

/** Lines of `remote`, each with a short form for completion. */
export const REMOTE_FORMS: Readonly<Record<string, string>> = {
  drive: "drive one stick at 34 cm/s turning 60 % dead 12 % curve 1.8 ramp 80 cm/s/s",
  hold: "hold trigger.left at 12 cm/s",
  toggle: "toggle thumb.upper light 100 % again light 0 %",
  tap: "tap thumb.right drop() again stop",
  with: "with slider.one move arm from 0 deg to 90 deg",
};

/** What shapes the sticks, in the order it is written. */
export const STICK_WORDS = ["at", "turning", "dead", "curve", "ramp", "switching"] as const;
export type StickWord = (typeof STICK_WORDS)[number];

/** Words that continue a block at its head's own indent, with the heads they continue; arms of `choose` stand inside. */
export const PARTNERS: Readonly<Record<string, string>> = {
  else: "if",
  also: "together",
  whenever: "during",
  otherwise: "choose",
};

/** Tails in the order they are written. */
export const TAIL_ORDER = [
  "at",
  "using",
  "gain",
  "damp",
  "bridge",
  "crossings",
  "corners",
  "ramp",
  "for",
  "until",
  "limit",
  "then",
] as const;
export type TailWord = (typeof TAIL_ORDER)[number];
/** Tails that any driving step may have begin with these; the others belong to following. */
export const TAIL_STARTS: readonly TailWord[] = ["at", "using", "ramp", "for", "until", "limit", "then"];
export const FOLLOW_STARTS: readonly TailWord[] = [...TAIL_STARTS, "gain", "damp", "bridge"];
/** What a follower does where two lines cross, and a wall follower at a corner. */
export const CROSSING_CHOICES = ["straight", "left", "right", "stop"] as const;
export type CrossingWord = (typeof CROSSING_CHOICES)[number];
export const CORNER_CHOICES = ["turn", "stop"] as const;
export type CornerWord = (typeof CORNER_CHOICES)[number];

export const TYPES = [
  "length",
  "angle",
  "time",
  "speed",
  "rate",
  "share",
  "number",
  "truth",
  "colour",
  "text",
  "voltage",
] as const;
export type TypeWord = (typeof TYPES)[number];

/** Lines above the mission that declare something, each with a short form for completion. */
export const TOP_FORMS: Readonly<Record<string, string>> = {
  set: "set cruise = 28 cm/s",
  remember: "remember dark = 45 %",
  list: "list looks of length, at most 7",
  table: "table worth of number by colour, at most 8",
  path: "path round",
  routine: "routine corner(side: angle)",
  use: 'use "Moves"',
};

/** Words that lines at the left edge start with. */
export const TOP_WORDS: readonly string[] = [
  "cairn",
  "collection",
  "robot",
  "field",
  "begin",
  "use",
  "goal",
  "set",
  "remember",
  "list",
  "table",
  "path",
  "routine",
  "mission",
  "remote",
];

export const FUNCTIONS = [
  "abs",
  "min",
  "max",
  "clamp",
  "sign",
  "sqrt",
  "sin",
  "cos",
  "tan",
  "atan2",
  "wrap",
  "mod",
  "floor",
  "ceil",
  "round",
  "random",
] as const;
export type FunctionName = (typeof FUNCTIONS)[number];

const GRAMMAR_WORDS = [
  "cairn",
  "robot",
  "field",
  "begin",
  "goal",
  "routine",
  "mission",
  "times",
  "about",
  "wheel",
  "radius",
  "turning",
  "left",
  "right",
  "both",
  "not",
  "and",
  "or",
  "is",
  "to",
  "by",
  "held",
  "yes",
  "no",
  "heard",
  "inside",
  "line",
  "on",
  "centre",
  "edge",
  "with",
  "wall",
  "away",
  "over",
  "forward",
  "toward",
  "low",
  "high",
  "looks",
  "from",
  "one",
  "ends",
  "remote",
  "clock",
  "score",
  "last",
  "battery",
  "keep",
  "release",
  "again",
  "dead",
  "curve",
  "switching",
  "list",
  "table",
  "path",
  "remember",
  "use",
  "collection",
  "of",
  "most",
  "rolling",
  "each",
  "in",
  "as",
  "while",
  "has",
  "pi",
  "along",
  "look",
  "facing",
  "corners",
  "untouched",
  "but",
];

/** What tells about a list. */
export const LIST_WORDS = ["count", "min", "max", "mean", "sum", "last"] as const;
export type ListWord = (typeof LIST_WORDS)[number];

/**
 * Words that can always be read as the language's own, and so are never names. Every other word of the language may be
 * one: it is read as a name wherever the grammar wants a value or a name.
 */
export const NEVER_NAMES: ReadonlySet<string> = new Set([
  "yes",
  "no",
  "not",
  "and",
  "or",
  "is",
  "left",
  "right",
  "both",
  "heard",
  "inside",
  "untouched",
  "robot",
  "battery",
  "last",
  "clock",
  "score",
  "pi",
]);

/** Words of the language: names of parts are none of them, and names of values only where they are declared. */
export const RESERVED: ReadonlySet<string> = new Set([
  ...Object.keys(STEP_FORMS),
  ...Object.keys(REMOTE_FORMS),
  ...Object.keys(PARTNERS),
  ...TAIL_ORDER,
  ...GRAMMAR_WORDS,
  ...UNIT_WORDS,
]);

/** Edit distance of two words, at most `most` + 1 (then it stops counting). */
function editDistance(a: string, b: string, most: number): number {
  if (Math.abs(a.length - b.length) > most) return most + 1;
  let previous = Array.from({ length: b.length + 1 }, (_, j) => j);
  let before: number[] = [];
  for (let i = 1; i <= a.length; i += 1) {
    const row = [i];
    for (let j = 1; j <= b.length; j += 1) {
      const same = a[i - 1] === b[j - 1] ? 0 : 1;
      let cost = Math.min((row[j - 1] as number) + 1, (previous[j] as number) + 1, (previous[j - 1] as number) + same);
      const swapped = i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1];
      if (swapped) cost = Math.min(cost, (before[j - 2] as number) + 1);
      row.push(cost);
    }
    before = previous;
    previous = row;
  }
  return previous[b.length] as number;
}

/** The known word nearest to a mistyped one, or null when none is near. */
export function nearestWord(typed: string, known: Iterable<string>): string | null {
  if (typed.length > 40) return null;
  const most = typed.length <= 4 ? 1 : 2;
  let best: string | null = null;
  let bestDistance = most + 1;
  for (const word of known) {
    const distance = editDistance(typed.toLowerCase(), word, most);
    if (distance < bestDistance) {
      best = word;
      bestDistance = distance;
    }
  }
  return best;
}
