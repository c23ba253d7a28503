// MicroPython for boards: the written files of a mission, and the interpreter itself as a brain on this computer.
import { readFile } from "node:fs/promises";
import { createRequire } from "node:module";
import path from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";
import {
  boardRobot,
  boardWatched,
  type Commands,
  type DealtPins,
  type Program,
  pythonMission,
  pythonPins,
  pythonRobot,
  pythonText,
  type RawSenses,
  type Robot,
} from "@giddy-pebble/core";
import { type BrainTick, ordersFromNumbers, sensesAsNumbers, type TickBrain } from "./brain.js";
import { MOST_NAME, textsIn, versionOf, type Written } from "./cpp.js";

const here = path.dirname(fileURLToPath(import.meta.url));
const RUNTIME = path.join(here, "..", "runtime", "micropython");
const HOST = path.join(here, "..", "runtime", "host", "host.py");
/** Each needs only those before it. */
const ORDER = "robot state drive motions line wall path parts sense values tasks hand mission host".split(" ");
/** Collecting garbage takes as long as the heap is large: this is about twice what a board has. */
const HEAP_BYTES = 512 * 1024;

/** A mission as MicroPython, without the runtime: robot.py and mission.py. */
export function writePython(program: Program, robot: Robot): Written & { readonly pins: DealtPins } {
  const board = boardRobot(robot);
  const mission = pythonMission(program, board);
  const pins = pythonPins(board);
  const files = new Map([
    ["robot.py", pythonRobot(board)],
    ["mission.py", mission.text],
    ["pins.py", pins.text],
  ]);
  return {
    files,
    pins: pins.pins,
    version: versionOf(files),
    watched: boardWatched(program, board).map(({ id }) => id),
    steps: mission.steps,
    problems: mission.problems,
  };
}

/** For the board's link: which program it holds, of which robot, and the places of the readings that it tells of. */
export function versionModule(version: number, robot: Robot, watched: readonly { readonly slot: number }[]): string {
  return `# What the board says of itself when it is asked over its link.
VERSION = ${version}
NAME = ${pythonText(robot.name.slice(0, MOST_NAME))}
WATCHED = (${watched.map(({ slot }) => `${slot},`).join(" ")})
`;
}

/** The runtime in MicroPython, without a board. */
export function pythonRuntime(): Promise<Map<string, string>> {
  return textsIn(RUNTIME);
}

/** The board's own files in MicroPython: its loop, and its drivers by `machine`. */
export function pythonBoardFiles(): Promise<Map<string, string>> {
  return textsIn(path.join(here, "..", "runtime", "micropython-board"));
}

type Row = readonly [
  number[],
  [number, number, number, number, string][],
  [string, string][],
  [string, number, number] | null,
];

/** As much of the interpreter as is used here. */
interface MicroPython {
  readonly FS: { writeFile(path: string, text: string): void };
  readonly globals: { get(name: string): unknown };
  registerJsModule(name: string, module: object): void;
  runPython(code: string): unknown;
}

/**
 * A copy of the interpreter's module. It keeps what it lends to the other language in the page's own globals, so that each
 * of two interpreters has to find its own there.
 */
class Copy {
  private readonly own = new Map<string, unknown>();

  constructor(
    readonly module: { loadMicroPython(options: { heapsize: number; linebuffer: boolean }): Promise<MicroPython> },
  ) {}

  /** Does something with its globals in place. */
  async during<T>(act: () => Promise<T>): Promise<T> {
    this.enter();
    try {
      return await act();
    } finally {
      this.leave();
    }
  }

  enter(): void {
    for (const name of SHARED) (globalThis as Record<string, unknown>)[name] = this.own.get(name);
  }

  leave(): void {
    for (const name of SHARED) this.own.set(name, (globalThis as Record<string, unknown>)[name]);
  }
}
const SHARED = [
  "proxy_js_ref",
  "proxy_js_ref_map",
  "proxy_js_ref_next",
  "proxy_js_map",
  "proxy_js_existing",
  "pyProxyFinalizationRegistry",
  "Module",
];
/** What is lent goes with its interpreter: nothing is to be given back later, when another one may be in place. */
class NothingToFinalize {
  register(): void {}
  unregister(): void {}
}

async function loadAlone({ module }: Copy): Promise<MicroPython> {
  const usual = globalThis.FinalizationRegistry;
  (globalThis as { FinalizationRegistry: unknown }).FinalizationRegistry = NothingToFinalize;
  try {
    return await module.loadMicroPython({ heapsize: HEAP_BYTES, linebuffer: true });
  } finally {
    globalThis.FinalizationRegistry = usual;
  }
}

const free: Copy[] = [];
let copies = 0;

async function takeCopy(): Promise<Copy> {
  const known = free.pop();
  if (known) return known;
  copies += 1;
  const file = createRequire(import.meta.url).resolve("@micropython/micropython-webassembly-pyscript");
  const url = `${pathToFileURL(file).href}?copy=${copies}`;
  return new Copy((await import(/* @vite-ignore */ url)) as Copy["module"]);
}

/** The real interpreter, in this process. */
export class Interpreter {
  private constructor(
    private readonly copy: Copy,
    private readonly micropython: MicroPython,
  ) {}

  /** @param files - texts it can import, by their names */
  static async start(
    files: ReadonlyMap<string, string>,
    modules: Readonly<Record<string, object>> = {},
  ): Promise<Interpreter> {
    const copy = await takeCopy();
    return copy.during(async () => {
      const micropython = await loadAlone(copy);
      for (const [name, text] of files) micropython.FS.writeFile(`/${name}`, text);
      for (const [name, module] of Object.entries(modules)) micropython.registerJsModule(name, module);
      micropython.runPython("import json");
      return new Interpreter(copy, micropython);
    });
  }

  /** @throws Error with what the interpreter said */
  run(code: string): void {
    this.copy.enter();
    try {
      this.micropython.runPython(code);
    } finally {
      this.copy.leave();
    }
  }

  /** An expression's value as JSON. */
  text(expression: string): string {
    this.run(`_told = json.dumps(${expression})`);
    return this.get("_told") as string;
  }

  get(name: string): unknown {
    this.copy.enter();
    try {
      return this.micropython.globals.get(name);
    } finally {
      this.copy.leave();
    }
  }

  /** Calls a function of its globals. Text goes over at once, a list number by number. */
  call(ask: (text: string) => string, text: string): string {
    this.copy.enter();
    try {
      return ask(text);
    } finally {
      this.copy.leave();
    }
  }

  close(): void {
    free.push(this.copy);
  }
}

/** The interpreter with a mission in it. */
export class PythonBrain implements TickBrain {
  private chance: () => number = () => 0.5;

  private constructor(
    private readonly shafts: number,
    private readonly interpreter: Interpreter,
    private readonly ask: (text: string) => string,
    host: { next: () => number },
  ) {
    host.next = () => this.chance();
  }

  /** @param files - all files of the mission and the runtime @throws Error with what the interpreter said */
  static async start(files: ReadonlyMap<string, string>, shafts: number): Promise<PythonBrain> {
    const host = { next: () => 0.5 };
    const all = new Map([...files, ["host.py", await readFile(HOST, "utf8")]]);
    const interpreter = await Interpreter.start(all, { host_chance: { next: () => host.next() } });
    // One after another: files that import files that import files are too deep for the interpreter's stack here.
    for (const name of ORDER) interpreter.run(`import ${name}`);
    interpreter.run("tick = host.tick");
    const ask = interpreter.get("tick") as (text: string) => string;
    return new PythonBrain(shafts, interpreter, ask, host);
  }

  tick(raw: RawSenses, driven: boolean, into: Commands, chance: () => number): BrainTick {
    this.chance = chance;
    const answer = this.interpreter.call(this.ask, sensesAsNumbers(raw, driven, this.shafts).join(" "));
    const [orders, steps, said, end] = JSON.parse(answer) as Row;
    ordersFromNumbers(orders, this.shafts, into);
    return {
      steps: steps.map(([step, task, from, to, how]) => ({ step, task, from, to, how })),
      said: said.map(([kind, text]) => ({ kind, text })),
      end: end && { why: end[0], a: end[1], b: end[2] },
    };
  }

  close(): void {
    this.interpreter.close();
  }
}

/** A board's own modules on this computer, and where the interpreter is. */
export async function pythonLines(): Promise<{ readonly prelude: string; readonly interpreter: string }> {
  const file = createRequire(import.meta.url).resolve("@micropython/micropython-webassembly-pyscript");
  const prelude = await readFile(path.join(here, "..", "runtime", "lines", "lines.py"), "utf8");
  return { prelude, interpreter: pathToFileURL(file).href };
}
