// Completions of one line of steps: forms of steps, units for bare numbers, this robot's readings and parts, tails.

import { MORE_FORMS, STEP_FORMS, TAIL_ORDER } from "../words/language.js";
import { readingHelp, WORD_HELP } from "./help.js";
import type { Kind } from "./kinds.js";
import { lexLines, type Token } from "./lexer.js";
import type { Reading } from "./readings.js";

export interface CompletionNames {
  readonly readings: ReadonlyMap<string, Reading>;
  /** Values with their kinds. */
  readonly values: ReadonlyMap<string, Kind>;
  readonly routines: readonly string[];
  /** What can be moved; heads among them. */
  readonly parts: readonly string[];
}

export interface Completion {
  /** The whole line with it. */
  readonly text: string;
  readonly label: string;
  readonly help: string;
}

const MOST = 9;

/** Units a number is usually meant in, by the word before it. */
const UNIT_AFTER: Readonly<Record<string, readonly string[]>> = {
  go: ["cm", "mm", "m"],
  back: ["cm", "mm", "m"],
  turn: ["deg"],
  left: ["deg", "%", "cm/s"],
  right: ["deg", "%", "cm/s"],
  arc: ["deg"],
  face: ["deg"],
  radius: ["cm", "m"],
  roll: ["cm/s"],
  turning: ["deg/s"],
  wait: ["s", "ms"],
  every: ["ms", "s"],
  for: ["s", "ms"],
  limit: ["s", "cm", "deg"],
  held: ["ms", "s"],
  at: ["cm/s", "deg/s"],
  ramp: ["cm/s/s"],
  using: ["%"],
  light: ["%"],
  power: ["%"],
  both: ["%"],
  repeat: ["times"],
  to: ["deg", "cm"],
  by: ["deg"],
  from: ["deg"],
  on: ["cm"],
  with: ["looks"],
};

const CONDITION_WORDS = new Set(["until", "if", "whenever", "and", "or", "not", "("]);
const TAIL_DEFAULTS: Readonly<Record<string, string>> = {
  at: "at 20 cm/s",
  until: "until",
  for: "for 2 s",
  limit: "limit 10 s",
  // biome-ignore lint/suspicious/noThenProperty: a word of the language, looked up by name and never awaited
  then: "then keep",
};
/** Tails of followers, by what they follow. */
const FOLLOW_DEFAULTS: Readonly<Record<string, string>> = {
  "line gain": "gain 120 %",
  "line damp": "damp 150 %",
  "line bridge": "bridge 20 cm",
  "line crossings": "at crossings straight",
  "wall corners": "at corners turn",
};
const DRIVING = new Set([
  "go",
  "back",
  "slide",
  "turn",
  "face",
  "arc",
  "roll",
  "wheels",
  "follow",
  "power",
  "press",
  "move",
]);
const TURNS = new Set(["turn", "face", "move"]);

/** @param line - one step as typed so far, without its indent */
export function completeStep(line: string, names: CompletionNames): Completion[] {
  const tokens = lexLines(line, () => {})[0]?.tokens ?? [];
  const last = tokens.at(-1);
  if (!last) return forms("", names);
  const typing = !/\s$/.test(line);
  if (tokens.length === 1 && typing && last.kind === "word") return forms(last.text, names);
  if (last.kind === "number" && last.unit === "") return unitsFor(line, tokens);
  if (last.kind === "number" && typing) return tails(line, tokens);
  const before = typing ? tokens[tokens.length - 2] : last;
  const partial = typing ? partialName(line) : "";
  const stem = line.slice(0, line.length - partial.length);
  const wants = wanted(before, tokens[0]?.text ?? "");
  if (wants === "condition") return nameList(stem, partial, names, () => true);
  if (wants === "part") return partList(stem, partial, names);
  if (wants === "floor" || wants === "value")
    return nameList(stem, partial, names, (name) => !typing || name !== partial);
  if (typing && names.readings.has(partial)) return comparisons(line, names.readings.get(partial) as Reading);
  if (typing) {
    const known = [...names.values.keys(), ...names.readings.keys()].some((name) => name.startsWith(partial));
    if (known && partial !== "" && !names.values.has(partial)) return nameList(stem, partial, names, () => true);
  }
  return tails(line, tokens);
}

function partialName(line: string): string {
  return /[A-Za-z_][\w.[\]]*$/.exec(line)?.[0] ?? "";
}

function wanted(before: Token | undefined, first: string): "condition" | "part" | "value" | "floor" | null {
  if (!before) return null;
  const { text } = before;
  if (CONDITION_WORDS.has(text)) return "condition";
  if (["move", "home", "aim", "scan", "reset", "stop", "coast"].includes(text)) return "part";
  if (text === "with" && first === "follow") return "floor";
  if (["choose", "show", "=", "<", ">", "<=", ">=", "at", "+", "-", "*", "/"].includes(text)) return "value";
  return null;
}

function forms(start: string, names: CompletionNames): Completion[] {
  const steps = Object.entries(STEP_FORMS)
    .filter(([word]) => word.startsWith(start.toLowerCase()))
    .map(([word, form]) => ({ text: form, label: form, help: WORD_HELP[word] ?? "" }));
  const more = Object.entries(MORE_FORMS)
    .filter(([word]) => start !== "" && word.startsWith(start.toLowerCase()))
    .flatMap(([word, others]) => others.map((form) => ({ text: form, label: form, help: WORD_HELP[word] ?? "" })));
  steps.push(...more);
  const calls = names.routines
    .filter((name) => name.startsWith(start))
    .map((name) => ({ text: `${name}()`, label: `${name}()`, help: "A routine of this mission." }));
  return [...steps, ...calls].slice(0, start === "" ? steps.length + calls.length : MOST);
}

function unitsFor(line: string, tokens: readonly Token[]): Completion[] {
  const number = tokens[tokens.length - 1] as Token;
  let at = tokens.length - 2;
  while (at > 0 && tokens[at]?.kind === "symbol") at -= 1;
  const first = tokens[0]?.text ?? "";
  const word = tokens[at]?.text ?? "";
  let units = UNIT_AFTER[word] ?? UNIT_AFTER[first] ?? [];
  if (word === "at" && TURNS.has(first)) units = ["deg/s"];
  if ((word === "left" || word === "right") && first === "power") units = ["%"];
  if ((word === "left" || word === "right") && first === "wheels") units = ["cm/s"];
  if ((word === "left" || word === "right") && first === "turn") units = ["deg"];
  const bare = first === "turn" && word === "turn";
  return units.flatMap((unit) => {
    const head = line.slice(0, number.start);
    const written = `${number.text} ${unit}`;
    const sides = bare ? ["left ", "right "] : [""];
    return sides.map((side) => ({
      text: `${head}${side}${written}`,
      label: `${side}${written}`,
      help: "",
    }));
  });
}

function nameList(
  stem: string,
  partial: string,
  names: CompletionNames,
  fits: (name: string) => boolean,
): Completion[] {
  const readings = [...names.readings]
    .filter(([name]) => name.startsWith(partial) && fits(name))
    .map(([name, reading]) => ({ text: stem + name, label: name, help: readingHelp(name, reading) }));
  const values = [...names.values.keys()]
    .filter((name) => name.startsWith(partial) && fits(name))
    .map((name) => ({ text: stem + name, label: name, help: "A value of this mission." }));
  // What the robot's own sensors say comes before what it believes of itself.
  const own = readings.filter(({ label }) => !/^(robot|last|battery|clock)/.test(label));
  const others = readings.filter(({ label }) => /^(robot|last|battery|clock)/.test(label));
  return [...values, ...own, ...others].slice(0, 24);
}

function partList(stem: string, partial: string, names: CompletionNames): Completion[] {
  return names.parts
    .filter((name) => name.startsWith(partial))
    .map((name) => ({ text: stem + name, label: name, help: "A part of this robot." }));
}

function comparisons(line: string, reading: Reading): Completion[] {
  const { kind } = reading;
  if (kind.is !== "quantity") return tails(line, lexLines(line, () => {})[0]?.tokens ?? []);
  const { length, angle, time, voltage } = kind.dimension;
  const amount =
    length === 1 && time === 0
      ? "20 cm"
      : angle === 1 && time === 0
        ? "45 deg"
        : time === 1
          ? "5 s"
          : voltage === 1
            ? "7 V"
            : "50 %";
  return ["<", ">"].map((sign) => ({ text: `${line} ${sign} ${amount}`, label: `${sign} ${amount}`, help: "" }));
}

function tails(line: string, tokens: readonly Token[]): Completion[] {
  const first = tokens[0]?.text ?? "";
  if (!DRIVING.has(first)) return [];
  const used = new Set(tokens.map((token) => token.text));
  const what = tokens[1]?.text ?? "";
  const stem = line.replace(/\s+$/, "");
  return TAIL_ORDER.flatMap((word) => {
    const form = TAIL_DEFAULTS[word] ?? (first === "follow" ? FOLLOW_DEFAULTS[`${what} ${word}`] : undefined);
    if (!form || used.has(word)) return [];
    const fitting = word === "at" && TURNS.has(first) ? "at 90 deg/s" : form;
    return [{ text: `${stem} ${fitting}${word === "until" ? " " : ""}`, label: fitting, help: WORD_HELP[word] ?? "" }];
  });
}
