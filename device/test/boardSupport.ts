// A board of this computer with its time moved by hand, and a line to it as a page or a program has one.
import { createHash } from "node:crypto";
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { exportMission } from "@giddy-pebble/boards";
import {
  type BoardOrder,
  type BoardWord,
  type ByteLine,
  beginOf,
  boardWriter,
  type FromBench,
  fieldPieces,
  fromBenchSchema,
  openField,
  prepareMission,
  readBoardWord,
  SerialReader,
  type ToBench,
  writeBoardOrder,
} from "@giddy-pebble/core";
import { expect } from "vitest";
import { AvrChip, type FrameSocket, PythonBoard, StandInBoard, TestClock } from "../src/index.js";
import { demoRobot, demoText } from "./support.js";

type WithoutAsk<T> = T extends { ask: number } ? Omit<T, "ask"> : never;

/** Goes on until it touches something, backs off, turns away, and so on for ever. */
export const WANDER = `cairn 1
robot "Fog"
field "Boulder slope"
begin "hut"

mission
  repeat
    go at 18 cm/s until left_whisker.pressed or right_whisker.pressed
    back 12 cm at 15 cm/s
    turn left 75 deg
`;

/** Hands over soon: nobody is waited for who was not heard before. */
const BY_HAND = `cairn 1
robot "Drizzle"

mission
  wait 0.5 s
  hand over until heard done

remote
  drive one stick at 30 cm/s
  tap middle.right send done again keep
`;

const scratch = () => mkdtempSync(path.join(os.tmpdir(), "giddy-board-"));

/** Both ends of a cable. */
export class Cable implements FrameSocket {
  open = true;
  readonly waiting = 0;
  readonly bytes: Uint8Array[] = [];
  readonly told: FromBench[] = [];
  private take: (data: Buffer, isBinary: boolean) => void = () => {};
  private gone: () => void = () => {};

  send(data: string | Uint8Array): void {
    if (typeof data === "string") this.told.push(fromBenchSchema.parse(JSON.parse(data)));
    else this.bytes.push(data);
  }
  close(): void {
    this.open = false;
    this.gone();
  }
  terminate(): void {
    this.close();
  }
  onMessage(take: (data: Buffer, isBinary: boolean) => void): void {
    this.take = take;
  }
  onClose(call: () => void): void {
    this.gone = call;
  }
  out(data: Uint8Array | string): void {
    this.take(Buffer.from(data), typeof data !== "string");
  }
}

export class BoardOnBench {
  readonly cable = new Cable();
  readonly words: BoardWord[] = [];
  readonly reader = new SerialReader();
  private nextAsk = 1;

  private constructor(
    readonly board: StandInBoard,
    /** Made for it alone. */
    private readonly folder: string | null,
  ) {
    board.open(this.cable);
  }

  /** @param kept - folder where the chip keeps what it holds; left out, one that goes with it */
  static async avr(robot: string, kept: string | null = null, seed = 5): Promise<BoardOnBench> {
    const folder = kept ?? scratch();
    const chip = await AvrChip.start(path.join(folder, "memory"));
    return BoardOnBench.with("avr", chip, robot, seed, kept === null ? folder : null);
  }

  static async micropython(robot: string, seed = 5): Promise<BoardOnBench> {
    const folder = scratch();
    const thread = new URL("../dist/board/pythonThread.js", import.meta.url);
    const python = await PythonBoard.start(path.join(folder, "memory"), thread);
    return BoardOnBench.with("micropython", python, robot, seed, folder);
  }

  private static with(
    kind: "avr" | "micropython",
    processor: AvrChip | PythonBoard,
    robot: string,
    seed: number,
    folder: string | null,
  ): BoardOnBench {
    const failed = (why: string) => {
      throw new Error(why);
    };
    return new BoardOnBench(new StandInBoard(demoRobot(robot), seed, kind, processor, new TestClock(), failed), folder);
  }

  /** Lets ticks pass and takes what the board says. */
  async pass(ticks: number): Promise<void> {
    for (let i = 0; i < ticks; i += 1) await this.board.tick();
    this.hear();
  }

  private hear(): void {
    for (const bytes of this.cable.bytes.splice(0))
      for (const frame of this.reader.take(bytes)) {
        const word = readBoardWord(frame);
        if (word) this.words.push(word);
      }
  }

  /** Ticks until a word fits. @throws Error when none came within these ticks */
  async until<K extends BoardWord["kind"]>(
    kind: K,
    ticks: number,
    fits: (word: Extract<BoardWord, { kind: K }>) => boolean = () => true,
  ): Promise<Extract<BoardWord, { kind: K }>> {
    for (let i = 0; i <= ticks; i += 1) {
      if (i > 0) await this.pass(1);
      const at = this.words.findIndex((word) => word.kind === kind && fits(word as Extract<BoardWord, { kind: K }>));
      if (at >= 0) return this.words.splice(0, at + 1).at(-1) as Extract<BoardWord, { kind: K }>;
    }
    throw new Error(`no ${kind} came; there were ${this.words.map((word) => word.kind).join(" ")}`);
  }

  order(order: BoardOrder): void {
    this.cable.out(writeBoardOrder(order));
  }

  /** What hands do: reset, wire, put down, read the tape. */
  async bench(what: WithoutAsk<ToBench>): Promise<FromBench> {
    const ask = this.nextAsk;
    this.nextAsk += 1;
    this.cable.out(JSON.stringify({ ...what, ask }));
    for (let i = 0; i < 300; i += 1) {
      await new Promise((resolve) => setImmediate(resolve));
      await this.pass(1);
      const found = this.cable.told.find((frame) => "ask" in frame && frame.ask === ask);
      if (found) return found;
    }
    throw new Error(`the board never answered ${what.do}`);
  }

  /** Writes a mission into it, wires it, lays out its field, and puts it down. */
  async give(made: Awaited<ReturnType<typeof exportedFor>>): Promise<void> {
    const { pins } = made;
    const hash = (bytes: Uint8Array) => Promise.resolve(createHash("sha256").update(bytes).digest("hex"));
    const write = boardWriter(made.target, made.files, hash);
    if (made.problems.length > 0 || !pins || !write)
      throw new Error(made.problems.map(({ message }) => message).join(" ") || "nothing to write");
    const written = await write(this.line, { progress: () => {}, cancelled: false });
    if (!written.ok) throw new Error(written.why);
    // What is said while a board starts is lost on it.
    for (let i = 0; i < 20 && !this.words.some(({ kind }) => kind === "greeting"); i += 1) {
      this.order({ kind: "hello" });
      await this.pass(20);
    }
    await this.until("greeting", 1);
    const begin = beginOf(made.prepared.mission, made.field);
    const { field } = made;
    for (const what of [
      { do: "wire", pins },
      ...fieldPieces(field),
      { do: "place", begin, how: "eye", keepField: true },
    ] as const) {
      const answer = await this.bench(what);
      if (answer.told !== "done") throw new Error(JSON.stringify(answer));
    }
  }

  /** Where a person sees it now. */
  get seen(): { readonly xM: number; readonly yM: number; readonly headingRad: number } {
    const found = this.cable.told.filter((frame) => frame.told === "seen").at(-1);
    if (found?.told !== "seen") throw new Error("nobody saw it");
    return found;
  }

  /** How long its way was since it was linked, as a person saw it, m. */
  get way(): number {
    const places = this.cable.told.filter((frame) => frame.told === "seen");
    return places.reduce((sum, { xM, yM }, i) => {
      const before = places[i - 1];
      return before ? sum + Math.hypot(xM - before.xM, yM - before.yM) : sum;
    }, 0);
  }

  /** Its serial line as whoever writes a program through it has it. */
  get line(): ByteLine {
    const { cable } = this;
    let got = Buffer.alloc(0);
    return {
      write: (bytes) => {
        cable.out(bytes);
        return Promise.resolve();
      },
      read: async (count, withinMs) => {
        for (let i = 0; i <= withinMs / 10; i += 1) {
          got = Buffer.concat([got, ...cable.bytes.splice(0)]);
          if (got.length >= count) {
            const read = got.subarray(0, count);
            got = got.subarray(count);
            return read;
          }
          await this.board.tick();
        }
        return null;
      },
      drain: () => {
        got = Buffer.alloc(0);
        cable.bytes.length = 0;
      },
      reset: async () => void (await this.bench({ do: "reset" })),
    };
  }

  async close(): Promise<void> {
    await this.board.close();
    if (this.folder) rmSync(this.folder, { recursive: true, force: true });
  }
}

/** A demo mission, on the robot and the field that it names. */
export async function exportedFor(target: "avr" | "micropython", mission: string, field: string, robot: string) {
  const read = openField(JSON.parse(demoText(`${field}.field.json`)));
  if (!read.ok) throw new Error(read.problems.join("; "));
  const drawing = demoRobot(robot);
  const text = mission.startsWith("cairn") ? mission : demoText(`missions/${mission}.cairn`);
  const prepared = prepareMission(text, drawing, read.document);
  if (!prepared.program) throw new Error(prepared.check.problems.map(({ message }) => message).join("; "));
  const made = await exportMission(target, prepared.program, drawing, "A test");
  return { ...made, target, field: read.document, prepared };
}

/** Lets it wander until it has touched so many things, backed off and turned away from each; at most so many ticks. */
export async function expectToGoRound(board: BoardOnBench, times: number, mostTicks: number): Promise<void> {
  const ends = () => board.words.flatMap((word) => (word.kind === "step" ? [word.how] : []));
  for (let ticks = 0; ticks < mostTicks && ends().length < 3 * times; ticks += 50) await board.pass(50);
  const round = Array.from({ length: times }, () => ["until", "done", "done"]).flat();
  expect(ends().slice(0, 3 * times)).toEqual(round);
}

/** A driver pushes the stick, falls silent, pushes again without having let go, lets go, and pushes. */
export async function expectSilenceOfHands(board: BoardOnBench, target: "avr" | "micropython"): Promise<void> {
  await board.give(await exportedFor(target, BY_HAND, "fellside", "drizzle"));
  board.order({ kind: "run", ask: 2, limitTicks: 0 });
  let seq = 0;
  /** Long enough for two states to be told. @param forward - null: nothing is heard of the driver */
  const during = async (forward: number | null) => {
    const from = board.way;
    board.words.splice(0);
    for (let tick = 0; tick < 110; tick += 2) {
      seq += 1;
      const handset = { sticks: [forward ?? 0, 0, 0, 0], levels: [0, 0, 0, 0], buttons: 0 } as const;
      if (forward !== null) board.order({ kind: "hands", seq, handset });
      await board.pass(2);
    }
    const state = board.words.filter((word) => word.kind === "state").at(-1);
    return { hand: state?.hand, wentM: board.way - from };
  };
  await during(0);
  const pushed = await during(1);
  expect(pushed.hand).toBe("driver");
  expect(pushed.wentM).toBeGreaterThan(0.15);
  expect((await during(null)).hand).toBe("silent");
  const stillHeld = await during(1);
  expect(stillHeld.hand).toBe("silent");
  expect(stillHeld.wentM).toBeLessThan(0.002);
  expect((await during(0)).hand).toBe("driver");
  const again = await during(1);
  expect(again.hand).toBe("driver");
  expect(again.wentM).toBeGreaterThan(0.15);
}
