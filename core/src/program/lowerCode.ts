// Expressions of a checked mission to the program's postfix lists.
import { kindOf, literalValue } from "../cairn/expressionKinds.js";
import { type Kind, quantityKind, TRUTH } from "../cairn/kinds.js";
import type { Reading } from "../cairn/readings.js";
import type { Symbols } from "../cairn/symbols.js";
import type { Expression } from "../cairn/tree.js";
import { COLOUR_NAMES } from "../field/colours.js";
import { PI } from "../math/trig.js";
import { NUMBER } from "../units/dimension.js";
import { largestOf } from "../units/ranges.js";
import { dimensionUnit } from "../units/units.js";
import type { ListWord } from "../words/language.js";
import { type Code, FUNCTIONS, type FunctionName, type Item, type Wording } from "./code.js";

/** Names as they are seen at one place of the text. */
export interface LowerScope {
  readonly symbols: Symbols;
  readonly readings: ReadonlyMap<string, Reading>;
  /** Routine being lowered, if any. */
  readonly routine: string | null;
  /** What the condition in hand turns out to use. */
  readonly uses: Uses;
  /** Asked at one moment instead of watched over time. */
  readonly asksOnce: boolean;
  /** A fresh counter of the task, for `held`. */
  newCounter(): number;
  /** Index of a signal by its name. */
  signal(name: string): number;
  /** A routine that takes no time, for the value it gives. */
  callRoutine(name: string, args: readonly Expression[]): Code;
}

/** What a condition uses: counters to set to -1 when it begins, signals it hears, readings it looks at. */
export interface Uses {
  readonly held: number[];
  readonly heard: number[];
  readonly slots: number[];
  /** Chance, or a routine: it may come true by itself. */
  other: boolean;
}

export function newUses(): Uses {
  return { held: [], heard: [], slots: [], other: false };
}

type Of<T extends Expression["type"]> = Extract<Expression, { type: T }>;

/** A value of any kind: a number, a truth, a colour, a text. */
export function lowerValue(expression: Expression, scope: LowerScope): Code {
  switch (expression.type) {
    case "number":
      return [expression.value];
    case "truth":
      return [expression.value ? 1 : 0];
    case "text":
      return [["text", expression.value]];
    case "group":
      return lowerValue(expression.inner, scope);
    case "minus":
      return [...lowerValue(expression.operand, scope), "negate"];
    case "sided": {
      const inner = lowerValue(expression.operand, scope);
      return expression.side === "left" ? inner : [...inner, "negate"];
    }
    case "binary":
      return lowerBinary(expression, scope);
    case "name":
      return [lowerName(expression, scope)];
    case "call":
      return lowerCall(expression, scope);
    case "inside":
      return [["inside", expression.zone]];
    case "heard": {
      const signal = scope.signal(expression.signal);
      scope.uses.heard.push(signal);
      return [["signal", signal]];
    }
    case "item":
      return [...lowerOther(expression.index, scope), ["item", listIndex(expression.list.name, scope)]];
    case "has":
      return [...lowerOther(expression.key, scope), ["has", listIndex(expression.list.name, scope)]];
    case "untouched":
      return [["untouched", [...expression.but]]];
    case "wall ends":
      return ["wall ends"];
    case "missing":
      throw new RangeError("cannot lower what is missing");
    case "compare":
      return [...lowerValue(expression.left, scope), ...lowerValue(expression.right, scope), expression.operator];
    case "is":
      return lowerIs(expression, scope);
    case "not":
      return [...lowerValue(expression.operand, scope), "not"];
    case "logic": {
      const parts = expression.parts.map((part) => lowerValue(part, scope));
      return [...parts.flat(), [expression.operator, parts.length]];
    }
    case "held": {
      const inner = lowerValue(expression.operand, scope);
      const duration = lowerValue(expression.duration, scope);
      const counter = scope.newCounter();
      scope.uses.held.push(counter);
      return [...inner, ...duration, ["held", counter]];
    }
  }
}

/** A value that may come true by itself. */
function lowerOther(expression: Expression, scope: LowerScope): Code {
  scope.uses.other = true;
  return lowerValue(expression, scope);
}

function listIndex(name: string, scope: LowerScope): number {
  const symbol = scope.symbols.lists.get(name);
  if (!symbol) throw new RangeError(`no list "${name}"`);
  return symbol.index;
}

function lowerBinary(expression: Of<"binary">, scope: LowerScope): Code {
  const left = lowerValue(expression.left, scope);
  const right = lowerValue(expression.right, scope);
  const { operator } = expression;
  if (operator === "^") return [...left, ["^", literalValue(expression.right) ?? 1]];
  if (operator !== "+" || kindInScope(expression, scope).is !== "text") return [...left, ...right, operator];
  // Texts joined, and values in words between them.
  return [...inWords(left, expression.left, scope), ...inWords(right, expression.right, scope), "join"];
}

function inWords(code: Code, expression: Expression, scope: LowerScope): Code {
  return [...code, ["words", wordingOf(kindInScope(expression, scope))]];
}

/** How values of a kind are told. */
export function wordingOf(kind: Kind): Wording {
  if (kind.is === "truth" || kind.is === "colour") return kind.is;
  if (kind.is !== "quantity") return "plain";
  const { unit, scale } = dimensionUnit(kind.dimension);
  return { unit, scale };
}

function lowerName(expression: Of<"name">, scope: LowerScope): Item {
  const full = expression.path.join(".");
  if (full === "score") return "score";
  if (full === "robot.touching") return "touching";
  if (full === "pi") return PI;
  const { symbols, uses } = scope;
  const list = symbols.lists.get(expression.path[0] ?? "");
  if (list) {
    uses.other = true;
    return ["of list", list.index, (expression.path[1] ?? "count") as ListWord];
  }
  const reading = scope.readings.get(full);
  if (reading) {
    const { slot } = reading;
    uses.slots.push(slot);
    if (reading.counts) return lowerTapped(slot, scope);
    return [reading.ofTask ? "last" : "reading", slot];
  }
  const colour = (COLOUR_NAMES as readonly string[]).indexOf(full);
  if (colour >= 0) return colour;
  const routine = scope.routine === null ? undefined : symbols.routines.get(scope.routine);
  const local = routine?.locals.get(full);
  if (routine && local) return ["local", routine.index, local.slot];
  const global = symbols.globals.get(full);
  if (!global) throw new RangeError(`no value "${full}"`);
  return ["global", global.slot];
}

/** A count of taps as "tapped since this watch began", or since it was last asked. */
function lowerTapped(slot: number, scope: LowerScope): Item {
  const counter = scope.newCounter();
  if (scope.asksOnce) return ["grew anew", slot, counter];
  scope.uses.held.push(counter);
  return ["grew", slot, counter];
}

function lowerCall(expression: Of<"call">, scope: LowerScope): Code {
  const { name, args } = expression;
  if (scope.symbols.routines.has(name)) {
    scope.uses.other = true;
    return scope.callRoutine(name, args);
  }
  const given = args.map((arg) => lowerValue(arg, scope));
  if (name === "random") {
    scope.uses.other = true;
    return [...given.flat(), "random"];
  }
  if (!(name in FUNCTIONS)) throw new RangeError(`no function "${name}"`);
  return [...given.flat(), ["call", name as FunctionName, given.length]];
}

function lowerIs(expression: Of<"is">, scope: LowerScope): Code {
  const left = lowerValue(expression.left, scope);
  const right = lowerValue(expression.right, scope);
  const test: Code = expression.to
    ? [...left, ...right, ...lowerValue(expression.to, scope), "within"]
    : [...left, ...right, "same"];
  return expression.negated ? [...test, "not"] : test;
}

/** As written, shortened: for the reason a mission stopped. */
const LONGEST_QUOTE = 40;

function quote(text: string): string {
  return text.length > LONGEST_QUOTE ? `${text.slice(0, LONGEST_QUOTE)}…` : text;
}

/** A number a step acts on: in its physical range, or it ends the mission. @param text - the expression as written */
export function boundedNumber(code: Code, expression: Expression, text: string, scope: LowerScope): Code {
  if (expression.type === "number" || expression.type === "truth") return code;
  const kind = kindInScope(expression, scope);
  const { most, words } = largestOf(kind.is === "quantity" ? kind.dimension : NUMBER);
  return [...code, ["bound", most, words, quote(text)]];
}

/** The same for what is kept or told: a text, or a number of any dimension. */
export function boundedValue(code: Code, expression: Expression, text: string): Code {
  if (expression.type === "number" || expression.type === "truth" || expression.type === "text") return code;
  return [...code, ["bound value", quote(text)]];
}

/** Kind of an expression that the checker has accepted, in the scope it is lowered in. */
export function kindInScope(expression: Expression, scope: LowerScope): Kind {
  const { symbols, readings, routine } = scope;
  return kindOf(expression, {
    inGoal: false,
    report: () => {},
    checkZone: () => {},
    list: (name) => symbols.lists.get(name.name) ?? null,
    callRoutine: (call) => symbols.routines.get(call.name)?.gives ?? null,
    compared: () => {},
    lookUp: (name) => {
      const full = name.path.join(".");
      if (full === "pi") return { kind: quantityKind(NUMBER), measured: false };
      const list = symbols.lists.get(name.path[0] ?? "");
      if (list) return { kind: name.path[1] === "count" ? quantityKind(NUMBER) : list.of, measured: false };
      if (full === "robot.touching") return { kind: TRUTH, measured: false };
      const local = routine === null ? undefined : symbols.routines.get(routine)?.locals.get(full);
      const kind = readings.get(full)?.kind ?? (local ?? symbols.globals.get(full))?.kind ?? { is: "unknown" as const };
      return { kind, measured: false };
    },
  });
}
