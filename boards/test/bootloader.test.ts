// The bootloader of emulated boards, on a chip on its bench: how long it waits, and how it leaves the chip to a program.
import { type ChildProcessWithoutNullStreams, spawn } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { createInterface } from "node:readline";
import { afterEach, beforeEach, expect, test } from "vitest";
import { buildBootloader, buildEmulator } from "../src/index.js";

/** Says how timer 1 goes and what it noted, byte after byte, as soon as it begins. */
const TELLS_TIMER = Buffer.from(
  [
    ["88e0", "8093c100"], // r24 = 8: the serial line sends
    ["80918100", "8093c600"], // TCCR1B goes out
    ["8091c000", "85ff", "fccf"], // until there is room for one more
    ["86b3", "8093c600"], // TIFR1 goes out
    ["ffcf"], // there it stays
  ]
    .flat()
    .join(""),
  "hex",
);

let folder: string;
let chip: ChildProcessWithoutNullStreams;
let answers: AsyncIterator<string>;
beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-boot-"));
});
afterEach(() => {
  chip.kill();
  rmSync(folder, { recursive: true, force: true });
});

async function ask(order: string): Promise<string> {
  chip.stdin.write(`${order}\n`);
  return (await answers.next()).value;
}

/** A chip whose reset line was just pulled. @param program - in its memory; without one it is empty */
async function reset(program?: Buffer): Promise<void> {
  const memory = path.join(folder, "memory");
  if (program) writeFileSync(memory, program);
  chip = spawn(await buildEmulator("bench"), ["atmega328p", memory, await buildBootloader()]);
  answers = createInterface({ input: chip.stdout })[Symbol.asyncIterator]();
  expect(await ask("reset")).toBe("ok");
}

/** @returns what the chip said in so many milliseconds, in hexadecimal */
async function saysIn(ms: number): Promise<string> {
  expect(await ask(`run ${ms * 1000}`)).toMatch(/^at \d+$/);
  return (await ask("serial")).replace(".", "");
}

test("waits a second and a twentieth for a byte, and leaves timer 1 as a reset does", async () => {
  await reset(TELLS_TIMER);
  expect(await saysIn(1040)).toBe("");
  expect(await saysIn(20)).toBe("0000");
});

test("waits as long again after each byte, and answers a question that came in pieces", async () => {
  await reset(TELLS_TIMER);
  expect(await saysIn(900)).toBe("");
  await ask("send 30");
  expect(await saysIn(900)).toBe("");
  await ask("send 20");
  expect(await saysIn(1)).toBe("1410");
  expect(await saysIn(1040)).toBe("");
  expect(await saysIn(20)).toBe("0000");
});

test("goes on waiting where there is no program", async () => {
  await reset();
  expect(await saysIn(60_000)).toBe("");
  await ask("send 3020");
  expect(await saysIn(1)).toBe("1410");
});

test("time goes on the same in one piece and in many", async () => {
  await reset();
  const whole = await ask("run 20000");
  chip.kill();
  await reset();
  for (let i = 0; i < 19; i += 1) await ask("run 1000");
  const pieces = await ask("run 1000");
  const cycle = (said: string) => Number(said.replace("at ", ""));
  // Each piece ends with the instruction during which its time is over.
  expect(cycle(pieces) - cycle(whole)).toBeGreaterThanOrEqual(0);
  expect(cycle(pieces) - cycle(whole)).toBeLessThan(20 * 5);
});
