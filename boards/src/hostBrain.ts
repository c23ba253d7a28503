// A compiled brain on this computer, asked tick by tick through two named pipes: what it reads, and what it says.
import { spawn, spawnSync } from "node:child_process";
import { closeSync, mkdtempSync, openSync, readSync, rmSync, writeSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { BOARD_ENDS, BOARD_WHYS, type Commands, type RawSenses } from "@giddy-pebble/core";
import {
  type BrainStep,
  type BrainTick,
  type ChipLoad,
  orderCount,
  ordersFromNumbers,
  sensesAsNumbers,
  type TickBrain,
} from "./brain.js";

const SAID = ["note", "show", "light", "beep"] as const;
export class HostBrain implements TickBrain {
  private readonly folder: string;
  private readonly toBrain: number;
  private readonly fromBrain: number;
  private readonly word = Buffer.alloc(8);
  load: ChipLoad | null = null;

  /** @param command - what starts a compiled brain @throws Error when it does not start */
  constructor(
    command: readonly string[],
    private readonly shafts: number,
  ) {
    this.folder = mkdtempSync(path.join(os.tmpdir(), "giddy-brain-"));
    const [to, from] = [path.join(this.folder, "to"), path.join(this.folder, "from")];
    if (spawnSync("mkfifo", [to, from]).status !== 0) throw new Error("Named pipes cannot be made here.");
    // Its ends are opened as the brain opens its own; once it ends, reading says so.
    spawn("sh", ["-c", 'exec "$@" < to > from', "sh", ...command], { cwd: this.folder, stdio: "ignore" }).unref();
    this.toBrain = openSync(to, "w");
    this.fromBrain = openSync(from, "r");
  }

  /** Gives senses in and takes orders out. @param chance - asked for each number the mission draws */
  tick(raw: RawSenses, driven: boolean, into: Commands, chance: () => number): BrainTick {
    // The first number says that there is one more tick.
    const numbers = Float64Array.from([1, ...sensesAsNumbers(raw, driven, this.shafts)]);
    writeAll(this.toBrain, Buffer.from(numbers.buffer));
    const steps: BrainStep[] = [];
    const said: { kind: string; text: string }[] = [];
    let end: BrainTick["end"] = null;
    for (;;) {
      switch (String.fromCharCode(this.bytes(1)[0] as number)) {
        case "S": {
          const [step, task, from, to, how] = this.numbers(5) as [number, number, number, number, number];
          steps.push({ step, task, from, to, how: BOARD_ENDS[how] ?? "?" });
          break;
        }
        case "E": {
          const [why, a, b] = this.numbers(3) as [number, number, number];
          end = { why: BOARD_WHYS[why] ?? "?", a, b };
          break;
        }
        case "T": {
          const [kind, length] = this.numbers(2) as [number, number];
          said.push({ kind: SAID[kind] ?? "?", text: this.bytes(length).toString("utf8") });
          break;
        }
        case "M": {
          const [cycles, free] = this.numbers(2) as [number, number];
          const before = this.load ?? { mostCycles: 0, leastFree: free };
          this.load = {
            mostCycles: Math.max(before.mostCycles, cycles),
            leastFree: Math.min(before.leastFree, free),
          };
          break;
        }
        case "R":
          this.word.writeDoubleLE(chance());
          writeAll(this.toBrain, this.word);
          break;
        case "C":
          ordersFromNumbers(this.numbers(orderCount(into, this.shafts)), this.shafts, into);
          return { steps, said, end };
        default:
          throw new Error("The brain said something that is not in its language.");
      }
    }
  }

  private numbers(count: number): number[] {
    const bytes = this.bytes(8 * count);
    return Array.from({ length: count }, (_, i) => bytes.readDoubleLE(8 * i));
  }

  private bytes(count: number): Buffer {
    const bytes = Buffer.alloc(count);
    let have = 0;
    while (have < count) {
      const got = readSync(this.fromBrain, bytes, have, count - have, null);
      if (got === 0) throw new Error("The brain ended before its orders came.");
      have += got;
    }
    return bytes;
  }

  /** Ends it. */
  close(): void {
    closeSync(this.toBrain);
    closeSync(this.fromBrain);
    rmSync(this.folder, { recursive: true, force: true });
  }
}

function writeAll(to: number, bytes: Buffer): void {
  let done = 0;
  while (done < bytes.length) done += writeSync(to, bytes, done);
}
