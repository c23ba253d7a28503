// A program as text, for people: one line for each instruction, with its place, what it does, and the step it came from.
import type { Code, Item, Wording } from "./code.js";
import { takes } from "./code.js";
import type { ConditionCode, EndingsCode, Instruction, MotionCode, Program, Store } from "./instructions.js";

/** Names of readings by their slot, for a listing that says `eye.distance` instead of `reading 17`. */
type ReadingNames = ReadonlyMap<number, string>;

/** @returns lines */
export function printProgram(program: Program, names: ReadingNames = new Map()): string[] {
  return new Printer(program, names).lines();
}

class Printer {
  constructor(
    private readonly program: Program,
    private readonly names: ReadingNames,
  ) {}

  lines(): string[] {
    const { program } = this;
    const head = [
      `${program.instructions.length} instructions, ${program.globals.length} values, ${program.counters} counters`,
      ...(program.begin === null ? [] : [`begins at "${program.begin}"`]),
      ...program.routines.map(({ name, values }, i) => `routine ${i}: ${name}(${values.join(", ")})`),
      ...program.lists.map(({ name, most, table }, i) => `${table ? "table" : "list"} ${i}: ${name}, at most ${most}`),
      ...program.signals.map((name, i) => `signal ${i}: ${name}`),
      ...program.sets.map(({ global, value }) => `${this.global(global)} begins as ${this.value(value)}`),
      ...program.remembered.map(({ name, global }) => `${this.global(global)} is kept as ${name}`),
    ];
    const width = String(program.instructions.length - 1).length;
    const body = program.instructions.map((instruction, i) => {
      const mark = i === program.start ? ">" : " ";
      const step = "step" in instruction ? `   # ${instruction.step}` : "";
      return `${mark} ${String(i).padStart(width)}  ${this.instruction(instruction)}${step}`;
    });
    const { goal, remote } = program;
    return [
      ...head,
      ...body,
      ...(remote === null
        ? []
        : [
            ...(remote.sticks ? [`driver: ${remote.sticks.mode}`] : []),
            ...remote.bindings.map(
              ({ how, button, entry, ending, ceiling }) =>
                `button ${button}, ${how}: ${ceiling ? `at most ${this.value(ceiling)}` : `from ${entry}`}, then ${ending}`,
            ),
            ...remote.dials.map(
              ({ level, part, from, to }) => `slider ${level}: ${part} from ${this.value(from)} to ${this.value(to)}`,
            ),
          ]),
      ...(goal === null ? [] : [`goal: ${this.value(goal.code)}`]),
    ];
  }

  private instruction(one: Instruction): string {
    switch (one.op) {
      case "jump":
        return `jump to ${one.to}`;
      case "again":
        return `again from ${one.to}, next tick`;
      case "if":
        return `if ${this.condition(one.condition)}, else to ${one.otherwise}`;
      case "choose": {
        const arms = one.arms.map(({ compare, values, to }) => {
          const fits = compare
            ? `${compare.operator} ${this.value(compare.value)}`
            : values
                .map((value) => this.value(value.from) + (value.to ? ` to ${this.value(value.to)}` : ""))
                .join(", ");
          return `${fits}: to ${to}`;
        });
        return `choose ${this.value(one.subject)}: ${[...arms, `else to ${one.otherwise}`].join("; ")}`;
      }
      case "call":
      case "start":
        return `${one.op} ${this.program.routines[one.routine]?.name}(${one.args.map((arg) => this.value(arg)).join(", ")}), from ${one.entry}`;
      case "give":
        return `give ${this.value(one.value)}`;
      case "repeat":
        return one.times ? `repeat ${this.value(one.times)} times` : "repeat";
      case "next pass": {
        const asked = one.condition ? ` ${one.how} ${this.condition(one.condition)}` : "";
        const each = one.each ? `, each of list ${one.each.list} into ${this.store(one.each.store)}` : "";
        const count = one.count ? `, its number into ${this.store(one.count)}` : "";
        return `next pass${asked}${each}${count}, else to ${one.after}`;
      }
      case "every":
        return `every${one.until ? ` until ${this.condition(one.until)}` : ""}${this.after(" limit ", one.limit)}`;
      case "next beat":
        return `next beat after ${this.value(one.period)} s, else to ${one.exit}`;
      case "leave":
        return `${one.pass ? "next pass" : "leave"} of ${one.kind}, to ${one.to}`;
      case "together":
        return `together ${one.entries.join(", ")}${one.untilOne ? " until one ends" : ""}, then to ${one.after}`;
      case "guard": {
        const handlers = one.handlers.map(
          ({ condition, entry }) => `whenever ${this.condition(condition)}: to ${entry}`,
        );
        return `guard: ${handlers.join("; ")}`;
      }
      case "guard ends":
        return `guard ends, to ${one.to}`;
      case "resume":
        return one.skip ? "skip" : "resume";
      case "stop routine":
        return `stop ${this.program.routines[one.routine]?.name}`;
      case "set":
        return `set ${this.store(one.store)} = ${this.value(one.value)}`;
      case "add":
        return `add ${this.value(one.value)} to list ${one.list}`;
      case "put":
        return `put ${this.value(one.value)} into list ${one.list} at ${this.value(one.index)}`;
      case "clear":
        return `clear list ${one.list}`;
      case "roll on":
        return `${this.motion(one.motion)}, and on`;
      case "motor on":
        return `motor ${one.motor} ${this.value(one.duty)}, and on`;
      case "move on":
        return `move ${one.part}${this.after(one.how === null ? " " : ` ${one.how} `, one.angle)}, and on`;
      case "stop motor":
        return `stop motor ${one.motor}, ${one.mode}`;
      case "stop drive":
        return `stop drive, ${one.mode}`;
      case "steer":
        return `steer ${this.value(one.angle)}`;
      case "note":
        return `note ${one.name} = ${this.value(one.value)}`;
      case "show":
        return `show ${one.values.map(({ value }) => this.value(value)).join(", ")}`;
      case "light":
        return `light ${this.value(one.share)}`;
      case "beep":
        return `beep${this.after(" ", one.pitch)}${this.after(" for ", one.duration)}`;
      case "reset":
        return `reset ${one.what}`;
      case "send":
        return `send signal ${one.signal}`;
      case "wait":
        return `wait${this.after(" ", one.duration)}${one.until ? ` until ${this.condition(one.until)}` : ""}${this.after(" at most ", one.atMost)}${this.after(" limit ", one.limit)}`;
      case "drive":
        return `drive: ${this.motion(one.motion)}${this.endings(one.endings)}`;
      case "motor":
        return `motor ${one.motor} ${this.value(one.duty)}${this.endings(one.endings)}`;
      case "move":
        return `move ${one.part}${this.after(one.how === null ? " " : ` ${one.how} `, one.angle)}${this.endings(one.endings)}`;
      case "home":
        return `home ${one.part} toward ${one.toward}${this.endings(one.endings)}`;
      case "aim":
        return `aim ${one.head} to ${this.value(one.angle)}`;
      case "scan":
        return `scan ${one.head} from ${this.value(one.from)} to ${this.value(one.to)} in ${this.value(one.looks)}`;
      case "hand over":
        return `hand over${this.endings(one.endings)}`;
      default:
        return one.op;
    }
  }

  private motion(motion: MotionCode): string {
    switch (motion.is) {
      case "straight":
        return `go${motion.back ? " back" : ""}${this.after(" ", motion.length)}`;
      case "slide":
        return `slide ${motion.side === 1 ? "left" : "right"}${this.after(" ", motion.length)}`;
      case "places":
        return `go to ${motion.places.map(({ x, y }) => `(${this.value(x)}, ${this.value(y)})`).join(" ")}`;
      case "turn":
        return `turn ${motion.side === 1 ? "left" : "right"}${this.after(" ", motion.angle)}`;
      case "face":
        return `face ${this.value(motion.heading)}`;
      case "arc":
        return `arc ${motion.side === 1 ? "left" : "right"}${this.after(" ", motion.angle)} radius ${this.value(motion.radius)}`;
      case "roll":
        return `roll ${this.value(motion.speed)}${this.after(" turning ", motion.rate)}`;
      case "wheels":
        return `wheels ${this.value(motion.left)}, ${this.value(motion.right)}`;
      case "power":
        return `power ${this.value(motion.left)}, ${this.value(motion.right)}`;
      case "press":
        return motion.back ? "press back" : "press";
      case "follow line":
        return `follow line by ${motion.slots.map((slot) => this.reading(slot)).join(", ")}`;
      case "follow wall":
        return `follow wall ${motion.side} by ${this.reading(motion.slot)} away ${this.value(motion.away)}`;
    }
  }

  private endings({ forTime, until, limit, ending }: EndingsCode): string {
    const asked = until ? ` until ${this.condition(until)}` : "";
    const then = ending === "stop" ? "" : ` then ${ending}`;
    return `${this.after(" for ", forTime)}${asked}${this.after(" limit ", limit)}${then}`;
  }

  private after(words: string, code: Code | null): string {
    return code === null ? "" : `${words}${this.value(code)}`;
  }

  private store(store: Store): string {
    return "global" in store ? this.global(store.global) : this.local(store.routine, store.local);
  }

  private global(slot: number): string {
    return this.program.globals[slot] ?? `value ${slot}`;
  }

  private local(routine: number, slot: number): string {
    return this.program.routines[routine]?.values[slot] ?? `local ${slot}`;
  }

  private condition({ code }: ConditionCode): string {
    return this.value(code);
  }

  private reading(slot: number): string {
    return this.names.get(slot) ?? `reading ${slot}`;
  }

  /** In the order people read: brackets around whatever is made of two. */
  private value(code: Code): string {
    const stack: string[] = [];
    for (const item of code) {
      const taken = takes(item);
      stack.push(this.item(item, stack.splice(stack.length - taken, taken)));
    }
    const [whole = ""] = stack;
    return /^\([^()]*\)$/.test(whole) ? whole.slice(1, -1) : whole;
  }

  private item(item: Item, taken: readonly string[]): string {
    const [a = "", b = "", c = ""] = taken;
    if (typeof item === "number") return String(item);
    if (typeof item === "string") {
      if (item === "negate") return `-${a}`;
      if (item === "not") return `not ${a}`;
      if (item === "within") return `(${a} is ${b} to ${c})`;
      if (item === "random") return `random(${a}, ${b})`;
      if (taken.length === 2) return `(${a} ${item === "same" ? "is" : item === "join" ? "and then" : item} ${b})`;
      return item;
    }
    switch (item[0]) {
      case "text":
        return JSON.stringify(item[1]);
      case "reading":
        return this.reading(item[1]);
      case "global":
        return this.global(item[1]);
      case "local":
        return this.local(item[1], item[2]);
      case "grew":
      case "grew anew":
        return `${this.reading(item[1])} grew`;
      case "^":
        return `${a}^${item[1]}`;
      case "and":
      case "or":
        return `(${taken.join(` ${item[0]} `)})`;
      case "held":
        return `(${a} held ${b} s)`;
      case "call":
        return `${item[1]}(${taken.join(", ")})`;
      case "routine":
        return `${this.program.routines[item[2]]?.name}(${taken.join(", ")})`;
      case "item":
        return `list ${item[1]}[${a}]`;
      case "has":
        return `(list ${item[1]} has ${a})`;
      case "of list":
        return `list ${item[1]}.${item[2]}`;
      case "words":
        return `${a} in ${wordingWords(item[1])}`;
      case "bound":
      case "bound value":
        return a;
      default:
        return item.join(" ");
    }
  }
}

function wordingWords(wording: Wording): string {
  return typeof wording === "string" ? "words" : wording.unit || "words";
}
