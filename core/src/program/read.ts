// Reading a program that came from outside: its form by the schema, and that nothing in it points outside of it. What is
// refused is told with its place, and never run.
import { PLAIN } from "../words/plainFault.js";
import { type Code, codeFault, FUNCTIONS, type Item } from "./code.js";
import { type Instruction, type Program, programSchema } from "./instructions.js";

/** Where something is wrong: "instructions[4].condition.code", and what. */
interface ProgramFault {
  readonly place: string;
  readonly message: string;
}

type ProgramRead =
  | { readonly ok: true; readonly program: Program }
  | { readonly ok: false; readonly faults: readonly ProgramFault[] };

/** Readings of `last` that a task has. */
const LAST_READINGS = 7;
/** More than these are not listed: one mistake often makes many. */
const MOST_FAULTS = 20;

export function readProgram(value: unknown): ProgramRead {
  const read = programSchema.safeParse(value, PLAIN);
  if (!read.success) {
    const faults = read.error.issues.map(({ path, message }) => ({
      place: placeOf(path),
      message: told(value, path, message),
    }));
    return { ok: false, faults: faults.slice(0, MOST_FAULTS) };
  }
  const faults = new References(read.data).all();
  return faults.length === 0 ? { ok: true, program: read.data } : { ok: false, faults: faults.slice(0, MOST_FAULTS) };
}

function placeOf(path: readonly PropertyKey[]): string {
  return path.reduce<string>(
    (all, key) => (typeof key === "number" ? `${all}[${key}]` : all === "" ? String(key) : `${all}.${String(key)}`),
    "",
  );
}

/** An unknown instruction is called by its name. */
function told(value: unknown, path: readonly PropertyKey[], message: string): string {
  if (path.at(-1) !== "op") return message;
  const op = path.reduce<unknown>((at, key) => (at as Record<PropertyKey, unknown> | null)?.[key], value);
  return `there is no instruction ${JSON.stringify(op) ?? "without a name"}`;
}

/** Looks at every place, slot, counter, list, signal and routine that a program names. */
class References {
  private readonly faults: ProgramFault[] = [];

  constructor(private readonly program: Program) {}

  all(): readonly ProgramFault[] {
    const { program } = this;
    this.goal("start", program.start);
    this.goal("endOfTask", program.endOfTask);
    if (program.instructions[program.endOfTask]?.op !== "end")
      this.fault("endOfTask", "a task has to end there, and it does not");
    program.instructions.forEach((instruction, i) => {
      this.instruction(instruction, `instructions[${i}]`);
    });
    // The last instruction must not run on beyond the end.
    const last = program.instructions.at(-1);
    if (last && !["end", "idle", "jump", "again", "give", "resume", "leave", "guard ends"].includes(last.op))
      this.fault(`instructions[${program.instructions.length - 1}]`, "the program runs on beyond its end");
    const { instructions, ...rest } = program;
    this.walk(rest, "");
    return this.faults;
  }

  private instruction(instruction: Instruction, place: string): void {
    if (instruction.op === "hand over" && this.program.remote === null)
      this.fault(place, "it hands over, and there is nothing that a driver could do");
    this.walk(instruction, place);
  }

  /** Every property by its name, however deep. */
  private walk(value: unknown, place: string): void {
    if (Array.isArray(value)) {
      for (let i = 0; i < value.length; i += 1) this.walk(value[i], `${place}[${i}]`);
      return;
    }
    if (typeof value !== "object" || value === null) return;
    for (const [key, one] of Object.entries(value))
      this.property(key, one, place === "" ? key : `${place}.${key}`, value);
  }

  private property(key: string, value: unknown, place: string, owner: object): void {
    if (isCode(key, value)) return this.code(value, place);
    if (key === "args" || key === "values") {
      (value as unknown[]).forEach((one, i) => {
        if (isCode("code", one)) this.code(one, `${place}[${i}]`);
        else this.walk(one, `${place}[${i}]`);
      });
      return;
    }
    if (typeof value === "number" && (GOALS.has(key) || key === "ending")) return this.goal(place, value);
    if (key === "entries") {
      for (const to of value as number[]) this.goal(place, to);
      return;
    }
    const counted = this.countOf(key);
    if (counted !== null && (typeof value === "number" || NUMBERS.has(key))) {
      for (const index of [value as number | number[]].flat()) this.within(place, index, counted[0], counted[1]);
      return;
    }
    if (key === "routine" && typeof value === "number") return this.routine(place, value, owner);
    this.walk(value, place);
  }

  /** How many there are of what a property counts, and what it is; null for another property. */
  private countOf(key: string): readonly [number, string] | null {
    const { program } = this;
    if (COUNTERS.has(key)) return [program.counters, "counter"];
    if (key === "heard" || key === "signal") return [program.signals.length, "signal"];
    if (key === "looksAt" || key === "slots" || key === "slot") return [program.readings, "reading"];
    if (key === "list") return [program.lists.length, "list"];
    return key === "global" ? [program.globals.length, "value"] : null;
  }

  /** A routine, with how many values it is said to have, or which of them is meant. */
  private routine(place: string, index: number, owner: object): void {
    this.within(place, index, this.program.routines.length, "routine");
    const values = this.program.routines[index]?.values.length ?? 0;
    if ("local" in owner) this.within(place, owner.local as number, values, `value of routine ${index}`);
    if ("size" in owner && "args" in owner)
      this.size(place, owner.size as number, values, (owner.args as readonly Code[]).length);
  }

  private size(place: string, size: number, values: number, given: number): void {
    if (size !== values) this.fault(place, `it calls a routine with ${size} values, and that has ${values}`);
    if (given > size) this.fault(place, `${given} values are given to a routine that has ${size}`);
  }

  private code(code: Code, place: string): void {
    const fault = codeFault(code);
    if (fault !== null) this.fault(place, fault);
    code.forEach((item, i) => {
      this.item(item, `${place}[${i}]`);
    });
  }

  private item(item: Item, place: string): void {
    if (typeof item !== "object") return;
    const { program } = this;
    switch (item[0]) {
      case "reading":
        return this.within(place, item[1], program.readings, "reading");
      case "last":
        return this.within(place, item[1], LAST_READINGS, "reading of the last step");
      case "global":
        return this.within(place, item[1], program.globals.length, "value");
      case "local":
        this.within(place, item[1], program.routines.length, "routine");
        return this.within(
          place,
          item[2],
          program.routines[item[1]]?.values.length ?? 0,
          `value of routine ${item[1]}`,
        );
      case "grew":
      case "grew anew":
        this.within(place, item[1], program.readings, "reading");
        return this.within(place, item[2], program.counters, "counter");
      case "held":
        return this.within(place, item[1], program.counters, "counter");
      case "signal":
        return this.within(place, item[1], program.signals.length, "signal");
      case "item":
      case "has":
      case "of list":
        return this.within(place, item[1], program.lists.length, "list");
      case "routine":
        this.goal(place, item[1]);
        this.within(place, item[2], program.routines.length, "routine");
        return this.size(place, item[3], program.routines[item[2]]?.values.length ?? 0, item[4]);
      case "call": {
        const [least, most] = FUNCTIONS[item[1]];
        if (item[2] < least || item[2] > most) this.fault(place, `${item[1]} is given ${item[2]} values`);
      }
    }
  }

  private goal(place: string, to: number): void {
    const { length } = this.program.instructions;
    if (to >= length) this.fault(place, `it goes to instruction ${to}, and the last one is ${length - 1}`);
  }

  private within(place: string, index: number, count: number, what: string): void {
    if (index >= count) this.fault(place, `there is no ${what} ${index}: there ${count === 1 ? "is" : "are"} ${count}`);
  }

  private fault(place: string, message: string): void {
    this.faults.push({ place, message });
  }
}

/** Names of properties that are places among the instructions. */
const GOALS = new Set(["to", "otherwise", "after", "exit", "entry"]);
const COUNTERS = new Set(["left", "passes", "counter", "held"]);
/** Names of properties that are lists of numbers. */
const NUMBERS = new Set(["held", "heard", "looksAt", "slots"]);
/** Names under which a list is something else than code. */
const NOT_CODE = new Set([
  "held",
  "heard",
  "looksAt",
  "slots",
  "offsetsM",
  "entries",
  "but",
  "moves",
  "args",
  "values",
  "places",
  "arms",
  "handlers",
  "signals",
  "sets",
  "remembered",
  "lists",
  "parts",
  "globals",
  "routines",
  "bindings",
  "dials",
]);

function isCode(key: string, value: unknown): value is Code {
  return Array.isArray(value) && !NOT_CODE.has(key);
}
