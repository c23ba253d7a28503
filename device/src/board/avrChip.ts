// An emulated ATmega328P with a bootloader, in a process of its own. What was put on it stays when it is switched off.
import { type ChildProcessWithoutNullStreams, spawn } from "node:child_process";
import { createInterface } from "node:readline";
import { buildBootloader, buildEmulator } from "@giddy-pebble/boards";
import type { LineOut, LinesIn, Processor } from "./processor.js";

const TICK_US = 10_000;
const CHIP = "atmega328p";
/** The line takes so many bytes in a tick, and so many may wait for it. */
const LINE_BYTES = 128;
const MOST_WAITING = 64 * 1024;
/** For the emulator to end by itself, ms. */
const ENDING_MS = 2000;
/** A bootloader has written its program by then, ticks. */
const KEPT_AFTER_TICKS = 1000;

export class AvrChip implements Processor {
  private readonly child: ChildProcessWithoutNullStreams;
  /** Who waits for the next lines of its answer, in order. */
  private readonly waiting: ((line: string | null) => void)[] = [];
  private ended = false;
  private readonly heard: Uint8Array[] = [];
  private keptAfter = 0;
  private toSend: Buffer = Buffer.alloc(0);
  /** What it was told of its lines last: only what changes is told again. */
  private readonly told = new Map<string, string>();

  private constructor(
    emulator: string,
    boot: string,
    private readonly memory: string,
  ) {
    this.child = spawn(emulator, [CHIP, memory, boot], { stdio: ["pipe", "pipe", "pipe"] });
    this.child.stdin.on("error", () => {});
    this.child.stderr.resume();
    createInterface({ input: this.child.stdout }).on("line", (line) => this.waiting.shift()?.(line));
    const end = () => {
      this.ended = true;
      for (const settle of this.waiting.splice(0)) settle(null);
    };
    this.child.on("exit", end);
    this.child.on("error", end);
  }

  /** @param memory - file of what the chip holds @throws MissingTool, Error when it does not start */
  static async start(memory: string): Promise<AvrChip> {
    return new AvrChip(await buildEmulator("bench"), await buildBootloader(), memory);
  }

  /** Gives orders, one a line. @returns an answer for each @throws Error when the emulator ended */
  private async ask(orders: readonly string[]): Promise<string[]> {
    const answers = orders.map(() => new Promise<string | null>((resolve) => this.waiting.push(resolve)));
    if (this.ended) throw new Error("The emulator of the chip has ended.");
    this.child.stdin.write(`${orders.join("\n")}\n`);
    const lines = await Promise.all(answers);
    return lines.map((line) => {
      if (line === null) throw new Error("The emulator of the chip has ended.");
      return line;
    });
  }

  receive(bytes: Uint8Array): void {
    // What comes faster than the line takes it waits, up to a bound; beyond, it is lost as on a real one.
    if (this.toSend.length + bytes.length <= MOST_WAITING) this.toSend = Buffer.concat([this.toSend, bytes]);
  }

  async live(into: LinesIn, looked: readonly string[]): Promise<ReadonlyMap<string, LineOut>> {
    const orders: string[] = [];
    const tell = (key: string, order: string) => {
      if (this.told.get(key) === order) return;
      this.told.set(key, order);
      orders.push(order);
    };
    for (const [pin, high] of into.levels) tell(`level ${pin}`, `set ${pin} ${high ? 1 : 0}`);
    for (const [pin, volts] of into.volts) tell(`volts ${pin}`, `volts ${pin} ${Math.round(volts * 1000)}`);
    for (const { pins, us } of into.echoes) tell(`echo ${pins}`, `echo ${pins.join(" ")} ${Math.round(us)}`);
    tell("gyro", `gyro ${into.gyroRaw}`);
    tell("colour", `colour ${into.light.join(" ")}`);
    for (const { pins, steps } of into.turns)
      if (steps !== 0) orders.push(`turn ${pins.join(" ")} ${steps} ${TICK_US}`);
    if (this.toSend.length > 0) {
      orders.push(`send ${this.toSend.subarray(0, LINE_BYTES).toString("hex")}`);
      this.toSend = this.toSend.subarray(LINE_BYTES);
    }
    orders.push(`run ${TICK_US}`, ...looked.map((pin) => `look ${pin}`), "serial");
    // Whatever was written after a reset is kept, so that it is there again after the computer was off.
    if (this.keptAfter > 0) {
      this.keptAfter -= 1;
      if (this.keptAfter === 0) orders.unshift(`keep ${this.memory}`);
    }
    const answers = await this.ask(orders);
    const hex = answers[answers.length - 1]?.slice(0, -1) ?? "";
    if (hex !== "") this.heard.push(Buffer.from(hex, "hex"));
    const from = answers.length - 1 - looked.length;
    return new Map(
      looked.map((pin, i) => {
        const [way, share, pulse] = (answers[from + i] ?? "").split(" ");
        return [pin, { out: way === "out", share: Number(share), pulseUs: Number(pulse) }];
      }),
    );
  }

  async reset(): Promise<void> {
    await this.ask(["reset"]);
    this.keptAfter = KEPT_AFTER_TICKS;
  }

  said(): Uint8Array {
    return Buffer.concat(this.heard.splice(0));
  }

  close(): Promise<void> {
    if (this.ended) return Promise.resolve();
    return new Promise((resolve) => {
      // It writes down what it holds, and ends with its orders.
      this.child.stdin.end(`keep ${this.memory}\n`);
      const stuck = setTimeout(() => this.child.kill(), ENDING_MS);
      this.child.on("exit", () => {
        clearTimeout(stuck);
        resolve();
      });
    });
  }
}
