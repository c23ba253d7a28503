// Postfix lists to expressions of a written language. What changes something, or can end the mission, is put into a value
// of its own first, so that everything happens in the order it is written in.
import { type Code, type Item, takes } from "../program/code.js";
import { LARGEST_NUMBER } from "../units/ranges.js";
import { beginOf } from "./texts.js";

/** How a language writes what a list can hold. All but `keep` return an expression. */
export interface Language {
  number(value: number): string;
  /** A text by its place in the table of texts. */
  text(words: string): string;
  reading(slot: number): string;
  last(slot: number): string;
  global(index: number): string;
  local(routine: number, index: number): string;
  operation(word: string, parts: readonly string[]): string;
  call(name: string, parts: readonly string[]): string;
  /** A name that nothing in the same stretch of code has yet. */
  newName(): string;
  /** What a list always is; null for one that depends on the moment. */
  constant(code: Code): number | null;
  /** A statement that gives an expression a name. */
  keep(name: string, expression: string): string;
  routine(entry: number, routine: number, size: number, parts: readonly string[], name: string): string[];
}

interface Entry {
  readonly words: string;
  /** Nothing that happens later can change it. */
  readonly fixed: boolean;
}

/** Words of items that change something, or can end the mission. */
const ACTS = new Set(["grew", "grew anew", "held", "random", "routine", "item", "of list", "bound", "bound value"]);

function isBound(item: Item): item is Extract<Item, readonly ["bound" | "bound value", ...unknown[]]> {
  return Array.isArray(item) && (item[0] === "bound" || item[0] === "bound value");
}

/** What a list of plain arithmetic comes to. @param value - of a named constant, null for others */
export function constantOf(code: Code, value: (global: number) => number | null): number | null {
  const stack: (number | null)[] = [];
  for (const item of code) {
    const [a = null, b = null] = stack.splice(stack.length - takes(item), takes(item));
    if (typeof item === "number") stack.push(item);
    else if (Array.isArray(item) && item[0] === "global") stack.push(value(item[1] as number));
    else if (isBound(item)) stack.push(a);
    else if (item === "negate") stack.push(a === null ? null : -a);
    else if (a === null || b === null) stack.push(null);
    else if (item === "+") stack.push(a + b);
    else if (item === "-") stack.push(a - b);
    else if (item === "*") stack.push(a * b);
    else if (item === "/") stack.push(b === 0 ? 0 : a / b);
    else stack.push(null);
  }
  return stack[0] ?? null;
}

/** What a board has no way to know. */
export class CannotSay extends Error {}

export class Expressions {
  /** Statements that come before the expression. */
  readonly before: string[] = [];

  constructor(private readonly language: Language) {}

  /** @throws CannotSay for what boards cannot answer */
  write(code: Code): string {
    const stack: Entry[] = [];
    for (let at = 0; at < code.length; at += 1) {
      const item = code[at] as Item;
      const taken = takes(item);
      if (isBound(item) && this.isWithin(item, code, at)) continue;
      const parts = stack.splice(stack.length - taken, taken);
      const word = Array.isArray(item) ? item[0] : "";
      if (ACTS.has(word) || item === "random") {
        this.settle(stack);
        stack.push({
          words: this.act(
            item,
            parts.map((part) => part.words),
          ),
          fixed: true,
        });
      } else stack.push(this.plain(item, parts));
    }
    return stack[0]?.words ?? this.language.number(0);
  }

  /** Whether what is looked at is always within its range, so that nobody has to look. */
  private isWithin(item: Item, code: Code, at: number): boolean {
    const value = this.language.constant(code.slice(beginOf(code, at), at));
    const most = Array.isArray(item) && item[0] === "bound" ? (item[1] as number) : LARGEST_NUMBER;
    return value !== null && value >= -most && value <= most;
  }

  /** Without brackets around the whole. */
  bare(code: Code): string {
    return unbracketed(this.write(code));
  }

  /** Everything below happens before what follows. */
  private settle(stack: Entry[]): void {
    for (let i = 0; i < stack.length; i += 1) {
      const entry = stack[i] as Entry;
      if (!entry.fixed) stack[i] = { words: this.named(entry.words), fixed: true };
    }
  }

  private named(expression: string): string {
    const name = this.language.newName();
    this.before.push(this.language.keep(name, unbracketed(expression)));
    return name;
  }

  private act(item: Item, parts: readonly string[]): string {
    const { language } = this;
    if (Array.isArray(item) && item[0] === "routine") {
      const name = language.newName();
      this.before.push(...language.routine(item[1] as number, item[2] as number, item[3] as number, parts, name));
      return name;
    }
    if (typeof item === "string") return this.named(language.operation(item, parts));
    const [word, ...rest] = item as readonly [string, ...(number | string)[]];
    return this.named(language.operation(word, [...rest.map(String), ...parts]));
  }

  private plain(item: Item, parts: readonly Entry[]): Entry {
    const { language } = this;
    const words = parts.map((part) => part.words);
    const fixed = parts.every((part) => part.fixed);
    if (typeof item === "number") return { words: language.number(item), fixed: true };
    if (typeof item === "string") {
      if (item === "score" || item === "touching")
        throw new CannotSay(`A board cannot tell ${item === "score" ? "the score" : "what the robot touches"}.`);
      const nothing = parts.length === 0;
      return { words: language.operation(item, words), fixed: fixed && !nothing };
    }
    switch (item[0]) {
      case "text":
        return { words: language.text(item[1]), fixed: true };
      case "reading":
        return { words: language.reading(item[1]), fixed: false };
      case "last":
        return { words: language.last(item[1]), fixed: false };
      case "global":
        return { words: language.global(item[1]), fixed: false };
      case "local":
        return { words: language.local(item[1], item[2]), fixed: false };
      case "inside":
      case "untouched":
        throw new CannotSay("A board cannot tell where the robot stands on the field, or what it touched.");
      case "words":
        throw new CannotSay("A board cannot keep a text that it puts together. Show it, or note the number itself.");
      case "call":
        return { words: language.call(item[1], words), fixed };
      default:
        return { words: language.operation(item[0], [...item.slice(1).map(String), ...words]), fixed: false };
    }
  }
}

/** "(a + b)" without its brackets, if they are one pair. */
export function unbracketed(expression: string): string {
  if (!expression.startsWith("(") || !expression.endsWith(")")) return expression;
  let depth = 0;
  for (let i = 0; i < expression.length; i += 1) {
    if (expression[i] === "(") depth += 1;
    else if (expression[i] === ")") depth -= 1;
    if (depth === 0 && i < expression.length - 1) return expression;
  }
  return expression.slice(1, -1);
}
