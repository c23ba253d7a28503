// A board on this computer, reached as any program reaches one: through a serial port.
import { type ChildProcessWithoutNullStreams, execFile, spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { readBoardWord, SERIAL_BAUD, SerialReader, writeBoardOrder } from "@giddy-pebble/core";
import { SerialPort } from "serialport";
import { afterAll, afterEach, beforeAll, describe, expect, test } from "vitest";
import { giddyBin, giddyProcess, type Said } from "./support.js";

let folder = "";
beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-put-"));
});
/** Boards that are on. */
const on = new Set<ChildProcessWithoutNullStreams>();
afterEach(async () => {
  // A test that failed left its board on.
  for (const child of on) {
    const gone = new Promise((resolve) => child.once("exit", resolve));
    child.kill("SIGTERM");
    await gone;
  }
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function mission(name: string, steps: string): string {
  const file = path.join(folder, `${name}.cairn`);
  writeFileSync(file, `cairn 1\nrobot "Drizzle"\nmission\n${steps.replace(/^/gm, "  ")}\n`);
  return file;
}

const giddy = (...args: string[]) => giddyProcess(folder, args);

/** A board that is switched on, and what hands do to it. */
class Bench {
  private out = "";

  private constructor(private readonly child: ChildProcessWithoutNullStreams) {
    on.add(child);
    child.once("exit", () => on.delete(child));
    child.stdout.on("data", (part: Buffer) => {
      this.out += part.toString();
    });
  }

  static async on(file: string, target: string): Promise<Bench> {
    const child = spawn(process.execPath, [giddyBin, "board", file, "--target", target], { cwd: folder });
    const bench = new Bench(child);
    await expect.poll(() => bench.out, { timeout: 60_000 }).toContain("Ctrl-C switches it off.");
    return bench;
  }

  get port(): string {
    return /Its serial line is (\S+)/.exec(this.out)?.[1] ?? "";
  }

  /** @returns what is said to it */
  async hands(words: string): Promise<string> {
    const before = this.out.length;
    this.child.stdin.write(`${words}\n`);
    await expect.poll(() => this.out.slice(before)).toMatch(/\n$/);
    return this.out.slice(before).trim();
  }

  async off(how: "off" | "SIGINT"): Promise<number | null> {
    const gone = new Promise<number | null>((resolve) => this.child.once("exit", resolve));
    if (how === "off") this.child.stdin.write("off\n");
    else this.child.kill(how);
    return gone;
  }
}

/** How far along and how far aside the tape finds it, cm, once it has come that far. */
async function tapeOnce(bench: Bench, along: number): Promise<readonly [number, number]> {
  let found: readonly [number, number] = [Number.NaN, Number.NaN];
  await expect
    .poll(
      async () => {
        const words = await bench.hands("tape");
        const [, a, b] = /^The tape: (-?[\d.]+) cm along, (-?[\d.]+) cm/.exec(words) ?? [];
        found = [Number(a), Number(b)];
        return found[0];
      },
      { timeout: 60_000 },
    )
    .toBeGreaterThan(along);
  return found;
}

/** Opens a port as any program does, and says hello until the board greets. */
async function greeted(path: string): Promise<void> {
  const port = new SerialPort({ path, baudRate: SERIAL_BAUD });
  const heard: string[] = [];
  const reader = new SerialReader();
  port.on("data", (bytes: Buffer) => {
    for (const frame of reader.take(bytes)) {
      const word = readBoardWord(frame);
      if (word) heard.push(word.kind);
    }
  });
  // What is said while a board starts is lost on it.
  await expect
    .poll(() => {
      port.write(Buffer.from(writeBoardOrder({ kind: "hello" })));
      return heard;
    })
    .toContain("greeting");
  await new Promise<void>((resolve) => port.close(() => resolve()));
}

describe.each(["avr", "micropython"])("a board of this computer, %s", (target) => {
  test("takes a mission through its port, runs it by itself, is read with the tape, and greets who opens the port", async () => {
    const file = mission("half", "go 50 cm");
    const bench = await Bench.on(file, target);
    const put = await giddy("put", file, "--target", target, "--port", bench.port, "--json");
    expect([put.status, JSON.parse(put.out)]).toEqual([
      0,
      { ok: true, target, robot: "Drizzle", port: bench.port, link: "live" },
    ]);
    expect(put.err).toContain("Writing it: 100 %");
    const [along, aside] = await tapeOnce(bench, 40);
    // A robot that nobody calibrated, put down by eye.
    expect(Math.abs(along - 50)).toBeLessThan(5);
    expect(Math.abs(aside)).toBeLessThan(10);
    expect(await bench.hands("where")).toMatch(/^It is at [\d.]+ cm, [\d.]+ cm, heading -?[\d.]+ deg\.$/);
    expect(await bench.hands("dance")).toContain("press BUTTON");
    await greeted(bench.port);
    expect(await bench.off("off")).toBe(0);
  });
});

test("Ctrl-C stops writing and says what the board holds then; avrdude writes it too, as README.md says", async () => {
  const file = mission("long", "go 20 cm");
  const bench = await Bench.on(file, "avr");
  const child = spawn(process.execPath, [giddyBin, "put", file, "--target", "avr", "--port", bench.port]);
  let said = "";
  let pressed = false;
  child.stderr.on("data", (part: Buffer) => {
    said += part.toString();
    if (pressed || !said.includes("Writing it: 10 %")) return;
    pressed = true;
    child.kill("SIGINT");
  });
  expect(await new Promise((resolve) => child.once("exit", resolve))).toBe(1);
  expect(said).toContain("It was cancelled. The board holds only a part: put the mission on it again.");
  // Another program takes over, by the words that an exported mission brings along.
  const out = path.join(folder, "exported");
  expect((await giddy("export", file, "--target", "avr", "--out", out)).status).toBe(0);
  const [, command = ""] = /`(avrdude [^`]+)`/.exec(readFileSync(path.join(out, "README.md"), "utf8")) ?? [];
  const [program = "", ...args] = command.replace("PORT", bench.port).split(" ");
  const written = await new Promise<Said>((resolve) => {
    execFile(program, args, { cwd: out }, (error, outText, err) => {
      resolve({ status: error ? Number(error.code) : 0, out: outText, err });
    });
  });
  expect(written.err).toContain("bytes of flash verified");
  expect(written.status).toBe(0);
  expect((await tapeOnce(bench, 15))[0]).toBeLessThan(25);
  expect(await bench.off("SIGINT")).toBe(0);
});

describe("a port", () => {
  test.each([
    ["that is not there", () => path.join(folder, "none"), "there is no such port"],
    ["that is a file", () => mission("plain", "wait 1 s"), "it is not a serial port"],
  ])("%s is told so", async (_which, port, why) => {
    const file = mission("any", "wait 1 s");
    const put = await giddy("put", file, "--target", "micropython", "--port", port());
    expect([put.status, put.out]).toEqual([2, ""]);
    expect(put.err).toContain(`cannot be opened: ${why}. `);
  });

  test("with a board of the other kind is told so, and keeps what it holds", async () => {
    const file = mission("other", "wait 1 s");
    const bench = await Bench.on(file, "micropython");
    const put = await giddy("put", file, "--target", "avr", "--port", bench.port);
    expect([put.status, put.out]).toEqual([1, ""]);
    expect(put.err).toContain("bootloader does not answer");
    expect(await bench.off("off")).toBe(0);
  });

  test("is not opened for a mission with problems, or a target that there is not", async () => {
    const bad = mission("bad", "go until noon");
    expect((await giddy("put", bad, "--target", "avr", "--port", "/dev/none")).err).toContain("bad.cairn:4:");
    const good = mission("good", "wait 1 s");
    const put = await giddy("put", good, "--target", "cpp", "--port", "/dev/none");
    expect([put.status, put.err]).toEqual([2, '--target must be avr or micropython, not "cpp".\n']);
  });
});
