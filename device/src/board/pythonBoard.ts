// A board with MicroPython on this computer: the interpreter in a thread of its own, given its time tick by tick.
import { Worker } from "node:worker_threads";
import { pythonLines } from "@giddy-pebble/boards";
import type { LineOut, LinesIn, Processor } from "./processor.js";
import type { FromPython, PythonStart, ToPython } from "./pythonMessages.js";

const TICK_US = 10_000;
/** Bytes that may wait for a tick. */
const MOST_WAITING = 64 * 1024;
/** A tick that takes longer hangs, ms: an upload's files are written in one. */
const HANGS_MS = 10_000;
/** For the thread to end by itself, ms. */
const ENDING_MS = 2000;

export class PythonBoard implements Processor {
  private readonly worker: Worker;
  private readonly flag = new SharedArrayBuffer(4);
  private settle: ((told: FromPython | null) => void) | null = null;
  private ended = false;
  private readonly toSend: Uint8Array[] = [];
  private heard: Uint8Array[] = [];

  private constructor(start: Omit<PythonStart, "flag">, thread: URL) {
    this.worker = new Worker(thread, {
      workerData: { ...start, flag: this.flag } satisfies PythonStart,
    });
    this.worker.on("message", (told: FromPython) => this.settle?.(told));
    this.worker.on("error", () => this.settle?.(null));
    this.worker.on("exit", () => {
      this.ended = true;
      this.settle?.(null);
    });
  }

  /** @param memory - file of what the board's files hold; thread - its script, where that is not beside this one */
  static async start(memory: string, thread = new URL("./pythonThread.js", import.meta.url)): Promise<PythonBoard> {
    return new PythonBoard({ ...(await pythonLines()), memory }, thread);
  }

  private post(message: ToPython): void {
    this.worker.postMessage(message);
    const raised = new Int32Array(this.flag);
    Atomics.store(raised, 0, 1);
    Atomics.notify(raised, 0);
  }

  receive(bytes: Uint8Array): void {
    // What comes faster than it is taken is lost beyond a bound.
    const waiting = this.toSend.reduce((sum, one) => sum + one.length, 0);
    if (waiting + bytes.length <= MOST_WAITING) this.toSend.push(bytes);
  }

  async live(lines: LinesIn, looked: readonly string[]): Promise<ReadonlyMap<string, LineOut>> {
    const told = await new Promise<FromPython | null>((resolve) => {
      const hangs = setTimeout(() => resolve(null), HANGS_MS);
      this.settle = (answer) => {
        clearTimeout(hangs);
        this.settle = null;
        resolve(answer);
      };
      this.post({ kind: "live", us: TICK_US, lines, bytes: Buffer.concat(this.toSend.splice(0)) });
    });
    if (!told) throw new Error("The interpreter of the board has ended.");
    if (told.said.length > 0) this.heard.push(told.said);
    const off: LineOut = { out: false, share: 0, pulseUs: 0 };
    return new Map(looked.map((pin) => [pin, told.outs.get(pin) ?? off]));
  }

  reset(): Promise<void> {
    this.post({ kind: "reset" });
    return Promise.resolve();
  }

  said(): Uint8Array {
    const said = Buffer.concat(this.heard);
    this.heard = [];
    return said;
  }

  close(): Promise<void> {
    if (this.ended) return Promise.resolve();
    return new Promise((resolve) => {
      const stuck = setTimeout(() => void this.worker.terminate(), ENDING_MS);
      this.worker.on("exit", () => {
        clearTimeout(stuck);
        resolve();
      });
      this.post({ kind: "end" });
    });
  }
}
