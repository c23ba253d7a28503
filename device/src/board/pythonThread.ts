// The thread of a board with MicroPython: the real interpreter with its REPL, and a file system that outlives it. Its program
// runs until it has used up the time that it was given; then it waits, wherever it is.
import { readFileSync, writeFileSync } from "node:fs";
import { type MessagePort, parentPort, receiveMessageOnPort, workerData } from "node:worker_threads";
import type { LineOut, LinesIn } from "./processor.js";
import type { FromPython, PythonStart, ToPython } from "./pythonMessages.js";

const { interpreter, prelude, memory, flag } = workerData as PythonStart;
const port = parentPort as MessagePort;
const raised = new Int32Array(flag);

/** A look at the clock takes so long, us: as on a board of some hundred MHz. */
const LOOK_US = 25;
const HEAP_BYTES = 4 * 1024 * 1024;
const PYSTACK_BYTES = 64 * 1024;
const MOST_UNREAD = 256 * 1024;
const SERVO_HZ = 50;
const GYRO = { device: 0x68, high: 0x47, low: 0x48 } as const;
const COLOUR = { device: 0x29, from: 0xa0 | 0x16 } as const;

/** As much of the interpreter as is used here. */
interface MicroPython {
  readonly FS: {
    writeFile(path: string, data: Uint8Array): void;
    readFile(path: string): Uint8Array;
    readdir(path: string): string[];
    isFile(mode: number): boolean;
    stat(path: string): { mode: number };
  };
  registerJsModule(name: string, module: object): void;
  runPython(code: string): unknown;
  replInit(): void;
  replProcessChar(char: number): number;
}
const { loadMicroPython } = (await import(/* @vite-ignore */ interpreter)) as {
  loadMicroPython(options: object): Promise<MicroPython>;
};

/** Its reset line was pulled, or it asked to begin anew: whatever runs is over. */
class Restart extends Error {}

/** Files of the board by their names. */
const files = new Map<string, Uint8Array>();
try {
  const kept = JSON.parse(readFileSync(memory, "utf8")) as Record<string, string>;
  for (const [name, text] of Object.entries(kept)) files.set(name, Buffer.from(text, "base64"));
} catch {
  // A new board holds nothing.
}

const NOTHING: LinesIn = { levels: new Map(), volts: new Map(), turns: [], echoes: [], gyroRaw: 0, light: [0, 0, 0] };

class Board {
  private now = 0;
  private granted = 0;
  private lines = NOTHING;
  private readonly outs = new Map<string, LineOut>();
  private readonly inputs: number[] = [];
  private said: number[] = [];
  private readonly levels = new Map<string, number>();
  private edges: number[] = [];
  private restarting = false;
  private softReset = false;
  /** Somebody waits for an answer to the time that was given. */
  private owes = false;

  constructor(private readonly python: MicroPython) {}

  /** What the interpreter's own modules ask for. */
  readonly module = {
    ticks: () => this.ticks(LOOK_US),
    sleep: (us: number) => void this.ticks(us),
    level: (pin: number, high: number) =>
      void this.outs.set(String(pin), { out: true, share: high ? 1 : 0, pulseUs: 0 }),
    input: (pin: number, pulled: number) => {
      if (!this.levels.has(String(pin))) this.levels.set(String(pin), pulled);
    },
    read: (pin: number) => this.levels.get(String(pin)) ?? 0,
    pulse: (pin: number, share: number, hz: number) =>
      void this.outs.set(String(pin), { out: true, share, pulseUs: hz === SERVO_HZ ? (share * 1e6) / hz : 0 }),
    voltage: (pin: number) => Math.round(((this.lines.volts.get(String(pin)) ?? 0) / 5) * 65_535),
    bus: (device: number, register: number) => this.bus(device, register),
    echo: (pin: number) => {
      const us = this.lines.echoes.find(({ pins }) => pins[1] === String(pin))?.us ?? 0;
      return us > 0 ? Math.round(us) : -2;
    },
    edge: () => {
      const pin = this.edges.shift();
      if (pin === undefined) return -1;
      // Two numbers lie one behind the other: the line, and how it is from now on.
      this.levels.set(String(pin), this.edges.shift() ?? 0);
      return pin;
    },
    waiting: () => this.inputs.length,
    take: () => this.inputs.shift() ?? 0,
    say: (byte: number) => void this.said.push(byte),
    soft_reset: () => {
      this.softReset = true;
      throw new Restart("begins anew");
    },
  };

  stdout(bytes: Uint8Array): void {
    for (const byte of bytes) this.said.push(byte);
  }

  private bus(device: number, register: number): number {
    const { gyroRaw, light } = this.lines;
    if (device === GYRO.device)
      return register === GYRO.high ? (gyroRaw >> 8) & 255 : register === GYRO.low ? gyroRaw & 255 : 0;
    const at = register - COLOUR.from;
    if (device !== COLOUR.device || at < 0 || at > 5) return 0;
    return ((light[at >> 1] ?? 0) >> (at & 1 ? 8 : 0)) & 255;
  }

  /** Time goes by; where none is left, whoever gives it is waited for. */
  private ticks(us: number): number {
    if (this.restarting || this.softReset) throw new Restart("begins anew");
    this.now += us;
    while (this.now >= this.granted) this.wait();
    return this.now % 0x40000000;
  }

  private answer(): void {
    if (!this.owes) return;
    this.owes = false;
    const told: FromPython = { outs: new Map(this.outs), said: Uint8Array.from(this.said) };
    this.said = [];
    port.postMessage(told);
  }

  /** Takes the next message; bytes wait until they are read. @throws Restart */
  wait(): void {
    this.answer();
    for (;;) {
      const found = receiveMessageOnPort(port)?.message as ToPython | undefined;
      if (!found) {
        Atomics.wait(raised, 0, 0);
        Atomics.store(raised, 0, 0);
        continue;
      }
      if (found.kind === "end") {
        try {
          keep(this.python);
        } finally {
          // Also where its files could not be kept.
          process.exit(0);
        }
      }
      if (found.kind === "reset") {
        this.restarting = true;
        throw new Restart("its reset line was pulled");
      }
      this.owes = true;
      this.granted += found.us;
      this.lines = found.lines;
      for (const [pin, high] of found.lines.levels) this.levels.set(pin, high ? 1 : 0);
      this.turn(found.lines);
      // A program that reads nothing is given no more than this.
      if (this.inputs.length < MOST_UNREAD) for (const byte of found.bytes) this.inputs.push(byte);
      return;
    }
  }

  /** Encoders: each step changes one of their lines. In the order 00, 10, 11, 01 it turns forward here. */
  private turn(lines: LinesIn): void {
    for (const { pins, steps } of lines.turns) {
      const [a, b] = pins;
      let [x, y] = [this.levels.get(a) ?? 0, this.levels.get(b) ?? 0];
      for (let i = 0; i < Math.abs(steps); i += 1) {
        const first = x === y ? steps > 0 : steps < 0;
        if (first) x = 1 - x;
        else y = 1 - y;
        this.edges.push(Number(first ? a : b), first ? x : y);
      }
      // Until they are handled the lines are as they were.
    }
  }

  /** Runs its program, then its REPL, until it begins anew. */
  live(): void {
    try {
      if (this.python.FS.readdir("/").includes("main.py")) this.program();
      this.python.replInit();
      for (;;) {
        while (this.inputs.length > 0) {
          const soft = this.python.replProcessChar(this.inputs.shift() as number);
          // Ctrl-D on an empty line.
          if (soft !== 0) return;
          if (this.softReset) return;
        }
        this.now = this.granted;
        this.wait();
      }
    } catch (error) {
      if (!(error instanceof Restart) && !this.restarting && !this.softReset) throw error;
    } finally {
      // Whoever gave it time has his answer; what is left of it is lost with the start.
      this.answer();
    }
  }

  private program(): void {
    try {
      this.python.runPython("exec(open('/main.py').read(), {'__name__': '__main__'})");
    } catch (error) {
      if (this.restarting || this.softReset) return this.over();
      // What a program fails with is said, and the REPL goes on.
      for (const byte of Buffer.from(`${error instanceof Error ? error.message : String(error)}\r\n`))
        this.said.push(byte);
    }
    this.over();
  }

  private over(): void {
    if (this.restarting || this.softReset) throw new Restart("begins anew");
  }
}

/** Keeps its files over a start. */
function keep(python: MicroPython): void {
  files.clear();
  for (const name of python.FS.readdir("/")) {
    const place = `/${name}`;
    if (name.startsWith(".") || !python.FS.isFile(python.FS.stat(place).mode)) continue;
    files.set(name, Uint8Array.from(python.FS.readFile(place)));
  }
  const kept = Object.fromEntries([...files].map(([name, bytes]) => [name, Buffer.from(bytes).toString("base64")]));
  writeFileSync(memory, JSON.stringify(kept));
}

let running: Board | null = null;
for (;;) {
  const python = await loadMicroPython({
    heapsize: HEAP_BYTES,
    pystack: PYSTACK_BYTES,
    linebuffer: false,
    stdout: (bytes: Uint8Array) => running?.stdout(bytes),
  });
  const board: Board = new Board(python);
  running = board;
  python.registerJsModule("_lines", board.module);
  for (const [name, bytes] of files) python.FS.writeFile(`/${name}`, bytes);
  python.runPython(prelude);
  board.live();
  keep(python);
}
