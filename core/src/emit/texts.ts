// Which values of a program are texts. A board keeps a text as its number in a table, so that a value is always a number.
import { type Code, type Item, takes } from "../program/code.js";
import type { Program, Store } from "../program/instructions.js";
import { codesOf } from "./regions.js";

/** Places that hold a text, as "global 3", "local 1 0", "list 2", "given". */
export type TextPlaces = ReadonlySet<string>;

function placeKey(store: Store): string {
  return "global" in store ? `global ${store.global}` : `local ${store.routine} ${store.local}`;
}

/** Whether a postfix list leaves a text. */
export function isText(code: Code, texts: TextPlaces): boolean {
  const item = code[code.length - 1] as Item;
  if (item === "join") return true;
  if (item === "given") return texts.has("given");
  if (!Array.isArray(item)) return false;
  switch (item[0]) {
    case "text":
    case "words":
      return true;
    case "global":
      return texts.has(`global ${item[1]}`);
    case "local":
      return texts.has(`local ${item[1]} ${item[2]}`);
    case "routine":
      return texts.has("given");
    case "item":
      return texts.has(`list ${item[1]}`);
    case "of list":
      return item[2] !== "count" && texts.has(`list ${item[1]}`);
    case "bound value":
      return isText(code.slice(0, -1), texts);
    default:
      return false;
  }
}

/** Found by going round until nothing new is found. */
export function textPlaces(program: Program): TextPlaces {
  const texts = new Set<string>();
  let before = -1;
  const put = (key: string, code: Code) => {
    if (isText(code, texts)) texts.add(key);
  };
  while (texts.size !== before) {
    before = texts.size;
    for (const { global, value } of program.sets) put(`global ${global}`, value);
    for (const instruction of program.instructions) {
      if (instruction.op === "set") put(placeKey(instruction.store), instruction.value);
      if (instruction.op === "add" || instruction.op === "put") put(`list ${instruction.list}`, instruction.value);
      if (instruction.op === "put") put(`keys ${instruction.list}`, instruction.index);
      if (instruction.op === "give") put("given", instruction.value);
      if (instruction.op === "call" || instruction.op === "start")
        for (const [i, code] of instruction.args.entries()) put(`local ${instruction.routine} ${i}`, code);
      if (instruction.op === "next pass" && instruction.each) {
        const { list, store } = instruction.each;
        const table = program.lists[list]?.table ?? false;
        if (texts.has(`${table ? "keys" : "list"} ${list}`)) texts.add(placeKey(store));
      }
      for (const code of codesOf(instruction)) argumentsInValues(code, put);
    }
  }
  return texts;
}

/** What routines inside a value are given. */
function argumentsInValues(code: Code, put: (key: string, code: Code) => void): void {
  for (let i = 0; i < code.length; i += 1) {
    const item = code[i] as Item;
    if (!Array.isArray(item) || item[0] !== "routine") continue;
    let end = i;
    for (let k = (item[4] as number) - 1; k >= 0; k -= 1) {
      const begin = beginOf(code, end);
      put(`local ${item[2]} ${k}`, code.slice(begin, end));
      end = begin;
    }
  }
}

/** Where the value that ends before `end` begins. */
export function beginOf(code: Code, end: number): number {
  let wanted = 1;
  let at = end;
  while (wanted > 0 && at > 0) {
    at -= 1;
    wanted += takes(code[at] as Item) - 1;
  }
  return at;
}
