// What a program needs of a board's memory: how many tasks at once, how deep calls and interrupts go. Everything is an
// upper bound: a board takes nothing from a heap, so its room is laid out before it starts.
import type { Code, Item } from "../program/code.js";
import type { Instruction, Program } from "../program/instructions.js";

interface ProgramNeeds {
  readonly tasks: number;
  /** Calls in progress in one task. */
  readonly frames: number;
  /** Interrupts open in one task, and in all. */
  readonly guards: number;
  readonly guardPool: number;
  readonly everies: number;
}

/** All postfix lists of an instruction, those of its conditions too. */
export function codesOf(instruction: Instruction): Code[] {
  const found: Code[] = [];
  const look = (value: unknown): void => {
    if (Array.isArray(value)) {
      if (isCode(value)) found.push(value as Code);
      else value.forEach(look);
    } else if (value !== null && typeof value === "object") Object.values(value).forEach(look);
  };
  look(Object.values(instruction));
  return found;
}

/** Lists of places and slots are taken for values too: they are numbers, and nothing is called in them. */
function isCode(value: readonly unknown[]): boolean {
  return value.some((item) => typeof item === "number" || typeof item === "string" || isItem(item));
}

function isItem(item: unknown): boolean {
  return Array.isArray(item) && typeof item[0] === "string";
}

/** Routines that an instruction calls inside a value. */
function calledInValues(instruction: Instruction): number[] {
  return codesOf(instruction).flatMap((code) =>
    code.flatMap((item: Item) => (Array.isArray(item) && item[0] === "routine" ? [item[1] as number] : [])),
  );
}

/** Where an instruction can go on, within its own stretch of code. */
function successors(instruction: Instruction, at: number): number[] {
  switch (instruction.op) {
    case "jump":
    case "again":
      return [instruction.to];
    case "end":
    case "idle":
    case "give":
    case "finish":
    case "resume":
      return [];
    case "if":
      return [at + 1, instruction.otherwise];
    case "choose":
      return [...instruction.arms.map(({ to }) => to), instruction.otherwise];
    case "next pass":
      return [at + 1, instruction.after];
    case "next beat":
      return [at + 1, instruction.exit];
    case "leave":
    case "guard ends":
      return [instruction.to];
    case "together":
      return [...instruction.entries, instruction.after];
    case "guard":
      return [at + 1, ...instruction.handlers.map(({ entry }) => entry)];
    default:
      return [at + 1];
  }
}

/** Instructions that can be reached from an entry without calls. */
function region(program: Program, entry: number): Set<number> {
  const seen = new Set<number>();
  const open = [entry];
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    const instruction = program.instructions[at];
    if (!instruction || seen.has(at)) continue;
    seen.add(at);
    open.push(...successors(instruction, at));
  }
  return seen;
}

interface Need {
  readonly tasks: number;
  readonly frames: number;
  readonly guards: number;
  readonly everies: number;
}

/** More of anything than this does not fit a byte. */
const MOST = 250;

export function programNeeds(program: Program): ProgramNeeds {
  const known = new Map<number, Need>();
  const needOf = (entry: number): Need => {
    const before = known.get(entry);
    if (before) return before;
    // Routines cannot call themselves: what a damaged program says otherwise ends here.
    known.set(entry, { tasks: 0, frames: 0, guards: 0, everies: 0 });
    let [tasks, frames, guards, everies] = [0, 0, 0, 0];
    for (const at of region(program, entry)) {
      const instruction = program.instructions[at] as Instruction;
      if (instruction.op === "guard") guards += 1;
      if (instruction.op === "every") everies += 1;
      if (instruction.op === "together") tasks += instruction.entries.length;
      if (instruction.op === "start") tasks += 1 + needOf(instruction.entry).tasks;
      const called = calledInValues(instruction);
      if (instruction.op === "call") called.push(instruction.entry);
      for (const callee of called) {
        const need = needOf(callee);
        tasks += need.tasks;
        guards += need.guards;
        everies += need.everies;
        frames = Math.max(frames, 1 + need.frames);
      }
    }
    const need = { tasks, frames, guards, everies };
    known.set(entry, need);
    return need;
  };
  const roots = [program.start, ...startedEntries(program)];
  const needs = roots.map(needOf);
  const most = (key: keyof Need) => Math.min(MOST, Math.max(...needs.map((need) => need[key])));
  const bound = program.remote?.bindings ?? [];
  const handTasks = bound.reduce(
    (sum, { entry, ending }) =>
      sum + 1 + (entry === null ? 0 : needOf(entry).tasks) + (typeof ending === "number" ? needOf(ending).tasks : 0),
    0,
  );
  const tasks = Math.min(MOST, 1 + (needs[0] as Need).tasks + handTasks);
  return {
    tasks,
    // A routine that runs as a task of its own stands in a frame too.
    frames: most("frames") + 1,
    guards: most("guards"),
    guardPool: Math.min(
      MOST,
      needs.reduce((sum, { guards }) => sum + guards, 0),
    ),
    everies: most("everies"),
  };
}

/** Where tasks begin besides the mission: started routines, and what buttons do. */
function startedEntries(program: Program): number[] {
  const started = program.instructions.flatMap((instruction) =>
    instruction.op === "start" ? [instruction.entry] : [],
  );
  const bound = (program.remote?.bindings ?? []).flatMap(({ entry, ending }) => [
    ...(entry === null ? [] : [entry]),
    ...(typeof ending === "number" ? [ending] : []),
  ]);
  return [...new Set([...started, ...bound])];
}

/** Entry of each routine, by its index; null for one that nothing calls. */
export function routineEntries(program: Program): (number | null)[] {
  const entries = program.routines.map((): number | null => null);
  for (const instruction of program.instructions) {
    if (instruction.op === "call" || instruction.op === "start") entries[instruction.routine] = instruction.entry;
    for (const code of codesOf(instruction))
      for (const item of code)
        if (Array.isArray(item) && item[0] === "routine") entries[item[2] as number] = item[1] as number;
  }
  return entries;
}
