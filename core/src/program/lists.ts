// Lists and tables at run time: as long as they were declared, never longer.

import type { ListWord } from "../words/language.js";
import type { Program } from "./instructions.js";

export type Value = number | string;

export class ListState {
  readonly values: Value[] = [];
  /** Keys of a table, each with the value at the same place; null for a list. */
  readonly keys: Value[] | null;

  constructor(
    readonly name: string,
    private readonly most: number,
    private readonly rolling: boolean,
    table: boolean,
  ) {
    this.keys = table ? [] : null;
  }

  /** @returns what is wrong, in words; null when it was added */
  add(value: Value): string | null {
    if (this.values.length >= this.most) {
      if (!this.rolling) return `the list "${this.name}" is full: it holds at most ${this.most}`;
      this.values.shift();
    }
    this.values.push(value);
    return null;
  }

  /** Place of a number from 1, or of a key; -1 when there is none. */
  placeOf(index: Value): number {
    if (this.keys) return this.keys.indexOf(index);
    const at = typeof index === "number" ? Math.floor(index + 0.5) - 1 : -1;
    return at >= 0 && at < this.values.length ? at : -1;
  }

  /** Puts a value in a place: of a list one that is there, of a table under any key. */
  put(index: Value, value: Value): string | null {
    const at = this.placeOf(index);
    if (at >= 0) {
      this.values[at] = value;
      return null;
    }
    if (!this.keys) return this.outside(index);
    if (this.values.length >= this.most) return `the table "${this.name}" is full: it holds at most ${this.most}`;
    this.keys.push(index);
    this.values.push(value);
    return null;
  }

  outside(index: Value): string {
    if (this.keys) return `the table "${this.name}" has no value for that key yet`;
    const shown = typeof index === "number" ? Math.floor(index * 100 + 0.5) / 100 : index;
    const n = this.values.length;
    return `"${this.name}" has no value number ${shown}: it holds ${n} value${n === 1 ? "" : "s"}`;
  }

  clear(): void {
    this.values.length = 0;
    if (this.keys) this.keys.length = 0;
  }

  /** @returns null of an empty list, where there is nothing to tell */
  tell(word: ListWord): Value | null {
    const { values } = this;
    if (word === "count") return values.length;
    if (word === "sum") return values.reduce<number>((all, value) => all + (value as number), 0);
    const last = values[values.length - 1];
    if (last === undefined) return null;
    if (word === "last") return last;
    let result = word === "mean" ? 0 : (values[0] as number);
    for (const value of values as number[])
      result =
        word === "mean"
          ? result + value / values.length
          : word === "min"
            ? Math.min(result, value)
            : Math.max(result, value);
    return result;
  }
}

export function newLists(lists: Program["lists"]): ListState[] {
  return lists.map(({ name, most, rolling, table }) => new ListState(name, most, rolling, table));
}
