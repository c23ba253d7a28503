// Postfix lists to closures, for speed: what an item takes is linked into it, so that nothing is pushed while it runs.
import { COLOUR_NAMES } from "../field/colours.js";
import { wrapAngle } from "../geometry/pose.js";
import { atan2, cos, sin, tan } from "../math/trig.js";
import { plainDigits } from "../units/quantity.js";
import { LARGEST_NUMBER } from "../units/ranges.js";
import { type Code, codeFault, type FunctionName, type Item, takes, type Wording } from "./code.js";
import type { ConditionCode } from "./instructions.js";
import type { ListState } from "./lists.js";
import type { Condition, NumberOf, Task, Value, ValueOf } from "./task.js";

/** A text a mission makes is no longer than this: what a display could show. */
const LONGEST_TEXT_VALUE = 400;

const FUNCTION_OF: Readonly<Record<FunctionName, (...values: number[]) => number>> = {
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

/** @throws RangeError when the list runs dry or leaves more than one value */
export function linkValue(code: Code): ValueOf {
  const fault = codeFault(code);
  if (fault !== null) throw new RangeError(fault);
  const stack: ValueOf[] = [];
  for (const item of code) {
    const taken = takes(item);
    stack.push(linkItem(item, stack.splice(stack.length - taken, taken)));
  }
  return stack[0] as ValueOf;
}

/** The same for what is a number. */
export function linkNumber(code: Code): NumberOf {
  return linkValue(code) as NumberOf;
}

export function linkMaybe(code: Code | null): NumberOf | null {
  return code === null ? null : linkNumber(code);
}

export function linkCondition({ code, held, heard, looksAt, signalOnly, text }: ConditionCode): Condition {
  const inner = linkNumber(code);
  const test: NumberOf =
    heard.length === 0
      ? inner
      : (task) => {
          const met = inner(task);
          if (met !== 0) for (const signal of heard) task.signals[signal] = 0;
          return met;
        };
  return { test, held, text, signalOnly, looksAt };
}

function linkItem(item: Item, taken: readonly ValueOf[]): ValueOf {
  if (typeof item === "number") return () => item;
  if (typeof item === "string") return linkPlain(item, taken as readonly NumberOf[]);
  const [a, b] = taken as readonly [NumberOf, NumberOf];
  switch (item[0]) {
    case "text": {
      const text = item[1];
      return () => text;
    }
    case "reading": {
      const slot = item[1];
      return (task) => task.machine.snapshot[slot] as number;
    }
    case "last": {
      const slot = item[1];
      return (task) => task.last[slot] as number;
    }
    case "global": {
      const slot = item[1];
      return (task) => task.machine.globals[slot] as Value;
    }
    case "local": {
      const [, routine, slot] = item;
      return (task) => (task.values[routine] as Value[])[slot] as Value;
    }
    case "grew":
      return linkGrew(item[1], item[2]);
    case "grew anew":
      return linkGrewAnew(item[1], item[2]);
    case "signal": {
      const signal = item[1];
      return (task) => task.signals[signal] as number;
    }
    case "inside": {
      const zone = item[1];
      return (task) => (task.machine.judge.inside(zone) ? 1 : 0);
    }
    case "untouched": {
      const but = item[1];
      return (task) => (task.machine.judge.touched(but) === "" ? 1 : 0);
    }
    case "^":
      return linkPower(a, item[1]);
    case "and":
    case "or":
      return linkLogic(item[0], taken as readonly NumberOf[]);
    case "held":
      return linkHeld(a, b, item[1]);
    case "call":
      return linkCall(item[1], taken as readonly NumberOf[]);
    case "routine":
      return linkRoutine(item, taken);
    case "item":
      return linkListItem(taken[0] as ValueOf, item[1]);
    case "has":
      return linkHas(taken[0] as ValueOf, item[1]);
    case "of list": {
      const [, list, word] = item;
      return (task) => {
        const state = task.machine.lists[list] as ListState;
        return state.tell(word) ?? outside(task, `"${state.name}" is empty, so it has no ${word}`);
      };
    }
    case "words":
      return linkWords(taken[0] as ValueOf, item[1]);
    case "bound":
      return linkBound(a, item[1], item[2], item[3]);
    case "bound value":
      return linkBoundValue(taken[0] as ValueOf, item[1]);
  }
}

function linkPlain(item: Extract<Item, string>, taken: readonly NumberOf[]): ValueOf {
  const [a, b, c] = taken as readonly [NumberOf, NumberOf, NumberOf];
  switch (item) {
    case "negate":
      return (task) => -a(task);
    case "+":
      return (task) => a(task) + b(task);
    case "-":
      return (task) => a(task) - b(task);
    case "*":
      return (task) => a(task) * b(task);
    case "/":
      // A division by zero reads 0: a robot must not be sent to infinity.
      return (task) => {
        const divisor = b(task);
        return divisor === 0 ? 0 : a(task) / divisor;
      };
    case "<":
      return (task) => (a(task) < b(task) ? 1 : 0);
    case ">":
      return (task) => (a(task) > b(task) ? 1 : 0);
    case "<=":
      return (task) => (a(task) <= b(task) ? 1 : 0);
    case ">=":
      return (task) => (a(task) >= b(task) ? 1 : 0);
    case "same":
      return (task) => (a(task) === b(task) ? 1 : 0);
    case "within":
      return (task) => (within(a(task), b(task), c(task)) ? 1 : 0);
    case "not":
      return (task) => (a(task) === 0 ? 1 : 0);
    case "join":
      return linkJoin(a as ValueOf, b as ValueOf);
    case "random":
      return (task) => a(task) + (b(task) - a(task)) * task.machine.chance.uniform();
    case "given":
      return (task) => task.given;
    case "score":
      return (task) => task.machine.judge.score();
    case "touching":
      return (task) => (task.machine.judge.touching() ? 1 : 0);
    case "wall ends":
      return (task) => (task.machine.wallEnded ? 1 : 0);
  }
}

/** Between two values, whichever is the larger; for texts by their letters. */
export function within(value: Value, a: Value, b: Value): boolean {
  return a <= b ? value >= a && value <= b : value >= b && value <= a;
}

/** Of an empty list, or outside of one: ends the mission with a sentence. */
function outside(task: Task, why: string): number {
  task.machine.stop(why);
  return 0;
}

/** A reading that counts, since the counter was set to -1. */
function linkGrew(slot: number, counter: number): NumberOf {
  return (task) => {
    const count = task.machine.snapshot[slot] as number;
    if ((task.counters[counter] as number) < 0) task.counters[counter] = count;
    return count > (task.counters[counter] as number) ? 1 : 0;
  };
}

/** A reading that counts, since it was asked last. */
function linkGrewAnew(slot: number, counter: number): NumberOf {
  return (task) => {
    const count = task.machine.snapshot[slot] as number;
    const before = Math.max(0, task.counters[counter] as number);
    task.counters[counter] = count;
    return count > before ? 1 : 0;
  };
}

function linkPower(base: NumberOf, times: number): NumberOf {
  return (task) => {
    const factor = base(task);
    let product = 1;
    for (let i = 0; i < Math.abs(times); i += 1) product *= factor;
    return times >= 0 ? product : product === 0 ? 0 : 1 / product;
  };
}

/** Every part is looked at each tick, so that `held` inside brackets keeps its time. */
function linkLogic(word: "and" | "or", parts: readonly NumberOf[]): NumberOf {
  if (word === "and") return (task) => parts.reduce((all, part) => (part(task) !== 0 ? all : 0), 1);
  return (task) => parts.reduce((met, part) => (part(task) !== 0 ? 1 : met), 0);
}

function linkHeld(inner: NumberOf, duration: NumberOf, counter: number): NumberOf {
  return (task) => {
    if (inner(task) === 0) {
      task.counters[counter] = -1;
      return 0;
    }
    const { tick } = task.machine;
    if ((task.counters[counter] as number) < 0) task.counters[counter] = tick;
    return (tick - (task.counters[counter] as number)) * task.machine.tickSec >= duration(task) - 1e-9 ? 1 : 0;
  };
}

function linkCall(name: FunctionName, args: readonly NumberOf[]): NumberOf {
  const apply = FUNCTION_OF[name];
  const [a, b, c] = args as readonly [NumberOf, NumberOf?, NumberOf?];
  if (!b) return (task) => apply(a(task));
  if (!c) return (task) => apply(a(task), b(task));
  if (args.length === 3) return (task) => apply(a(task), b(task), c(task));
  return (task) => apply(...args.map((arg) => arg(task)));
}

/** Values a routine begins with. @param args - what it is given; the others are 0 */
export function linkArguments(size: number, args: readonly ValueOf[]): (task: Task) => Value[] {
  return (task) => {
    const values = new Array<Value>(size).fill(0);
    for (let i = 0; i < args.length; i += 1) values[i] = (args[i] as ValueOf)(task);
    return values;
  };
}

function linkRoutine(
  [, entry, routine, size]: Extract<Item, readonly ["routine", ...unknown[]]>,
  args: readonly ValueOf[],
): ValueOf {
  const values = linkArguments(size, args);
  return (task) => task.runner.callNow(task, entry, routine, values(task));
}

function linkListItem(at: ValueOf, list: number): ValueOf {
  return (task) => {
    const state = task.machine.lists[list] as ListState;
    const key = at(task);
    const place = state.placeOf(key);
    return place < 0 ? outside(task, state.outside(key)) : (state.values[place] as Value);
  };
}

function linkHas(wanted: ValueOf, list: number): NumberOf {
  return (task) => {
    const { keys, values } = task.machine.lists[list] as ListState;
    return (keys ?? values).includes(wanted(task)) ? 1 : 0;
  };
}

/** @param value - SI; truths 1 and 0, colours by their number; texts stay */
export function wordsOf(wording: Wording, value: Value): string {
  if (typeof value === "string") return value;
  if (wording === "truth") return value !== 0 ? "yes" : "no";
  if (wording === "colour") return COLOUR_NAMES[value] ?? "?";
  if (wording === "plain") return plainDigits(value, 3);
  const { unit, scale } = wording;
  return `${plainDigits(value / scale, 2)}${unit === "" ? "" : ` ${unit}`}`;
}

function linkWords(value: ValueOf, wording: Wording): ValueOf {
  return (task) => wordsOf(wording, value(task));
}

function linkJoin(left: ValueOf, right: ValueOf): ValueOf {
  return (task) => {
    const joined = `${left(task)}${right(task)}`;
    if (joined.length <= LONGEST_TEXT_VALUE) return joined;
    task.machine.stop(`a text grew longer than ${LONGEST_TEXT_VALUE} letters, the most there is here`);
    return "";
  };
}

function beyond(task: Task, quote: string, words: string): void {
  const where = task.record ? `, after step ${task.record.step}` : "";
  task.machine.stop(`the value of "${quote}" grew beyond ${words}, the most there is here${where}`);
}

/** @returns its value, 0 once it is beyond its range */
function linkBound(inner: NumberOf, most: number, words: string, quote: string): NumberOf {
  return (task) => {
    const value = inner(task);
    if (value >= -most && value <= most) return value;
    beyond(task, quote, words);
    return 0;
  };
}

function linkBoundValue(inner: ValueOf, quote: string): ValueOf {
  return (task) => {
    const value = inner(task);
    if (typeof value !== "number" || (value >= -LARGEST_NUMBER && value <= LARGEST_NUMBER)) return value;
    beyond(task, quote, "1000000000000");
    return 0;
  };
}
