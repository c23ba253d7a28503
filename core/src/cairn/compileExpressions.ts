// Expressions to closures. Values are SI numbers (truths 1 and 0) or texts.
import { COLOUR_NAMES } from "../field/colours.js";
import { wrapAngle } from "../geometry/pose.js";
import { atan2, cos, PI, sin, tan } from "../math/trig.js";
import { NUMBER } from "../units/dimension.js";
import { kindOf, literalValue } from "./expressionKinds.js";
import { type Kind, quantityKind, TRUTH } from "./kinds.js";
import type { ListState } from "./lists.js";
import type { Reading } from "./readings.js";
import type { Symbols } from "./symbols.js";
import type { NumberOf, Task, Value, ValueOf } from "./task.js";
import type { Expression } from "./tree.js";
import { valueWords } from "./wording.js";
import type { ListWord } from "./words.js";

/** A text a mission makes is no longer than this: what a display could show. */
const LONGEST_TEXT_VALUE = 400;

/** Names as the compiler sees them at one place of the text. */
export interface CompileScope {
  readonly symbols: Symbols;
  readonly readings: ReadonlyMap<string, Reading>;
  /** Routine being compiled, if any. */
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
  callRoutine(name: string, args: readonly Expression[]): ValueOf;
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

export function compileNumber(expression: Expression, scope: CompileScope): NumberOf {
  switch (expression.type) {
    case "number": {
      const value = expression.value;
      return () => value;
    }
    case "truth": {
      const value = expression.value ? 1 : 0;
      return () => value;
    }
    case "group":
      return compileNumber(expression.inner, scope);
    case "minus": {
      const inner = compileNumber(expression.operand, scope);
      return (task) => -inner(task);
    }
    case "sided": {
      const inner = compileNumber(expression.operand, scope);
      return expression.side === "left" ? inner : (task) => -inner(task);
    }
    case "binary":
      return compileBinary(expression, scope);
    case "name":
      return compileName(expression, scope) as NumberOf;
    case "call":
      return compileCall(expression, scope);
    case "inside": {
      const { zone } = expression;
      return (task) => (task.machine.judge.inside(zone) ? 1 : 0);
    }
    case "heard": {
      const signal = scope.signal(expression.signal);
      scope.uses.heard.push(signal);
      return (task) => task.signals[signal] as number;
    }
    case "item":
      return compileItem(expression, scope) as NumberOf;
    case "has":
      return compileHas(expression, scope);
    case "untouched": {
      const { but } = expression;
      return (task) => (task.machine.judge.touched(but) === "" ? 1 : 0);
    }
    case "wall ends":
      return (task) => (task.machine.wallEnded ? 1 : 0);
    case "missing":
    case "text":
      throw new RangeError(`cannot compile a ${expression.type} as a number`);
    default:
      return compileCondition(expression, scope);
  }
}

export function compileValue(expression: Expression, scope: CompileScope): ValueOf {
  if (expression.type === "text") {
    const text = expression.value;
    return () => text;
  }
  if (expression.type === "name") return compileName(expression, scope);
  if (expression.type === "group") return compileValue(expression.inner, scope);
  if (expression.type === "item") return compileItem(expression, scope);
  if (expression.type === "binary" && expression.operator === "+" && kindInScope(expression, scope).is === "text")
    return compileJoin(expression, scope);
  if (expression.type === "call" && scope.symbols.routines.has(expression.name)) return calledValue(expression, scope);
  return compileNumber(expression, scope);
}

function calledValue(expression: Of<"call">, scope: CompileScope): ValueOf {
  scope.uses.other = true;
  return scope.callRoutine(expression.name, expression.args);
}

type Of<T extends Expression["type"]> = Extract<Expression, { type: T }>;

/** Of an empty list, or outside of one: ends the mission with a sentence. */
function outside(task: Task, why: string): number {
  task.machine.stop(why);
  return 0;
}

function compileItem({ list, index }: Of<"item">, scope: CompileScope): ValueOf {
  const symbol = scope.symbols.lists.get(list.name);
  if (!symbol) throw new RangeError(`no list "${list.name}"`);
  const at = compileValue(index, scope);
  scope.uses.other = true;
  return (task) => {
    const state = task.machine.lists[symbol.index] as ListState;
    const key = at(task);
    const place = state.placeOf(key);
    return place < 0 ? outside(task, state.outside(key)) : (state.values[place] as Value);
  };
}

function compileOfList(name: string, word: ListWord, scope: CompileScope): ValueOf {
  const index = scope.symbols.lists.get(name)?.index ?? 0;
  scope.uses.other = true;
  return (task) => {
    const state = task.machine.lists[index] as ListState;
    return state.tell(word) ?? outside(task, `"${name}" is empty, so it has no ${word}`);
  };
}

function compileHas({ list, key }: Of<"has">, scope: CompileScope): NumberOf {
  const symbol = scope.symbols.lists.get(list.name);
  if (!symbol) throw new RangeError(`no list "${list.name}"`);
  const wanted = compileValue(key, scope);
  scope.uses.other = true;
  return (task) => {
    const { keys, values } = task.machine.lists[symbol.index] as ListState;
    return (keys ?? values).includes(wanted(task)) ? 1 : 0;
  };
}

/** Texts joined, and values in words between them. */
function compileJoin(expression: Of<"binary">, scope: CompileScope): ValueOf {
  const sides = [expression.left, expression.right].map((side) => {
    const value = compileValue(side, scope);
    const kind = kindInScope(side, scope);
    return (task: Task) => valueWords(kind, value(task));
  });
  const [left, right] = sides as [(task: Task) => string, (task: Task) => string];
  return (task) => {
    const joined = left(task) + right(task);
    if (joined.length <= LONGEST_TEXT_VALUE) return joined;
    task.machine.stop(`a text grew longer than ${LONGEST_TEXT_VALUE} letters, the most there is here`);
    return "";
  };
}

function compileBinary(expression: Of<"binary">, scope: CompileScope): NumberOf {
  const left = compileNumber(expression.left, scope);
  const right = compileNumber(expression.right, scope);
  switch (expression.operator) {
    case "+":
      return (task) => left(task) + right(task);
    case "^": {
      const times = literalValue(expression.right) ?? 1;
      return (task) => {
        const base = left(task);
        let product = 1;
        for (let i = 0; i < Math.abs(times); i += 1) product *= base;
        return times >= 0 ? product : product === 0 ? 0 : 1 / product;
      };
    }
    case "-":
      return (task) => left(task) - right(task);
    case "*":
      return (task) => left(task) * right(task);
    default:
      // A division by zero reads 0: a robot must not be sent to infinity.
      return (task) => {
        const divisor = right(task);
        return divisor === 0 ? 0 : left(task) / divisor;
      };
  }
}

function compileName(expression: Of<"name">, scope: CompileScope): ValueOf {
  const full = expression.path.join(".");
  if (full === "score") return (task) => task.machine.judge.score();
  if (full === "robot.touching") return (task) => (task.machine.judge.touching() ? 1 : 0);
  if (full === "pi") return () => PI;
  const list = scope.symbols.lists.get(expression.path[0] ?? "");
  if (list) return compileOfList(list.line.name.name, (expression.path[1] ?? "count") as ListWord, scope);
  const reading = scope.readings.get(full);
  if (reading) {
    const slot = reading.slot;
    scope.uses.slots.push(slot);
    if (reading.counts) return compileTapped(slot, scope);
    return reading.ofTask ? (task) => task.last[slot] as number : (task) => task.machine.snapshot[slot] as number;
  }
  const colour = (COLOUR_NAMES as readonly string[]).indexOf(full);
  if (colour >= 0) return () => colour;
  const routine = scope.routine === null ? undefined : scope.symbols.routines.get(scope.routine);
  const local = routine?.locals.get(full);
  if (routine && local) {
    const { slot } = local;
    const { index } = routine;
    return (task) => (task.values[index] as Value[])[slot] as Value;
  }
  const global = scope.symbols.globals.get(full);
  if (!global) throw new RangeError(`no value "${full}"`);
  const slot = global.slot;
  return (task) => task.machine.globals[slot] as number | string;
}

/** A count of taps as "tapped since this watch began", or since it was last asked. */
function compileTapped(slot: number, scope: CompileScope): NumberOf {
  const counter = scope.newCounter();
  if (!scope.asksOnce) {
    scope.uses.held.push(counter);
    return (task) => {
      const taps = task.machine.snapshot[slot] as number;
      if ((task.counters[counter] as number) < 0) task.counters[counter] = taps;
      return taps > (task.counters[counter] as number) ? 1 : 0;
    };
  }
  return (task) => {
    const taps = task.machine.snapshot[slot] as number;
    const before = Math.max(0, task.counters[counter] as number);
    task.counters[counter] = taps;
    return taps > before ? 1 : 0;
  };
}

const FUNCTION_OF: Readonly<Record<string, (...values: number[]) => number>> = {
  abs: Math.abs,
  min: Math.min,
  max: Math.max,
  clamp: (value = 0, low = 0, high = 0) => Math.max(low, Math.min(high, value)),
  sign: (value = 0) => (value > 0 ? 1 : value < 0 ? -1 : 0),
  sqrt: (value = 0) => Math.sqrt(Math.max(0, value)),
  sin,
  cos,
  tan,
  atan2,
  wrap: wrapAngle,
  /** What is left over: has the sign of the divisor, so that angles and passes go round. */
  mod: (value = 0, by = 1) => (by === 0 ? 0 : value - by * Math.floor(value / by)),
  floor: (value = 0, step = 1) => (step === 0 ? value : Math.floor(value / step + 1e-9) * step),
  ceil: (value = 0, step = 1) => (step === 0 ? value : -Math.floor(-value / step + 1e-9) * step),
  round: (value = 0, step = 1) => (step === 0 ? value : Math.floor(value / step + 0.5) * step),
};

function compileCall(expression: Of<"call">, scope: CompileScope): NumberOf {
  if (scope.symbols.routines.has(expression.name)) return calledValue(expression, scope) as NumberOf;
  const args = expression.args.map((arg) => compileNumber(arg, scope));
  if (expression.name === "random") {
    const [low, high] = args as [NumberOf, NumberOf];
    scope.uses.other = true;
    return (task) => low(task) + (high(task) - low(task)) * task.machine.chance.uniform();
  }
  const apply = FUNCTION_OF[expression.name];
  if (!apply) throw new RangeError(`no function "${expression.name}"`);
  const [a, b, c] = args as [NumberOf, NumberOf?, NumberOf?];
  if (!b) return (task) => apply(a(task));
  if (!c) return (task) => apply(a(task), b(task));
  if (args.length === 3) return (task) => apply(a(task), b(task), c(task));
  return (task) => apply(...args.map((arg) => arg(task)));
}

export function compileCondition(expression: Expression, scope: CompileScope): NumberOf {
  switch (expression.type) {
    case "compare":
      return compileCompare(expression, scope);
    case "is":
      return compileIs(expression, scope);
    case "not": {
      const inner = compileCondition(expression.operand, scope);
      return (task) => (inner(task) === 0 ? 1 : 0);
    }
    case "logic": {
      const parts = expression.parts.map((part) => compileCondition(part, scope));
      // Every part is looked at each tick, so that `held` inside brackets keeps its time.
      if (expression.operator === "and") return (task) => parts.reduce((all, part) => (part(task) !== 0 ? all : 0), 1);
      return (task) => parts.reduce((met, part) => (part(task) !== 0 ? 1 : met), 0);
    }
    case "held":
      return compileHeld(expression, scope);
    default:
      return compileNumber(expression, scope);
  }
}

function compileCompare(expression: Of<"compare">, scope: CompileScope): NumberOf {
  const left = compileNumber(expression.left, scope);
  const right = compileNumber(expression.right, scope);
  switch (expression.operator) {
    case "<":
      return (task) => (left(task) < right(task) ? 1 : 0);
    case ">":
      return (task) => (left(task) > right(task) ? 1 : 0);
    case "<=":
      return (task) => (left(task) <= right(task) ? 1 : 0);
    default:
      return (task) => (left(task) >= right(task) ? 1 : 0);
  }
}

function compileIs(expression: Of<"is">, scope: CompileScope): NumberOf {
  const left = compileValue(expression.left, scope);
  const right = compileValue(expression.right, scope);
  const to = expression.to ? compileValue(expression.to, scope) : null;
  const wanted = expression.negated ? 0 : 1;
  const test = (task: Task): boolean => {
    if (!to) return left(task) === right(task);
    const value = left(task);
    const a = right(task);
    const b = to(task);
    return a <= b ? value >= a && value <= b : value >= b && value <= a;
  };
  return (task) => (test(task) ? wanted : 1 - wanted);
}

function compileHeld(expression: Of<"held">, scope: CompileScope): NumberOf {
  const inner = compileCondition(expression.operand, scope);
  const duration = compileNumber(expression.duration, scope);
  const counter = scope.newCounter();
  scope.uses.held.push(counter);
  return (task) => {
    if (inner(task) === 0) {
      task.counters[counter] = -1;
      return 0;
    }
    const tick = task.machine.tick;
    if ((task.counters[counter] as number) < 0) task.counters[counter] = tick;
    return (tick - (task.counters[counter] as number)) * task.machine.tickSec >= duration(task) - 1e-9 ? 1 : 0;
  };
}

/** Kind of an expression that the checker has accepted, in the scope it is compiled in. */
export function kindInScope(expression: Expression, scope: CompileScope): Kind {
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
