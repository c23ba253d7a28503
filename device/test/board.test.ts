// Boards of this computer: an emulated chip with its bootloader, on a robot that stands on a table.
import { mkdtempSync, rmSync, statSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { beginOf } from "@giddy-pebble/core";
import { afterEach, describe, expect, test } from "vitest";
import { BoardOnBench, expectSilenceOfHands, expectToGoRound, exportedFor, WANDER } from "./boardSupport.js";

let bench: BoardOnBench | null = null;
afterEach(() => bench?.close());

async function board(robot: string): Promise<BoardOnBench> {
  bench = await BoardOnBench.avr(robot);
  return bench;
}

describe("an emulated chip", () => {
  test("takes Fog's wandering through its bootloader, and goes round three boulders or walls in 30 s", async () => {
    const made = await exportedFor("avr", WANDER, "boulder-slope", "fog");
    const chip = await board("fog");
    // An empty chip waits for whoever comes late, too.
    await chip.pass(150);
    await chip.give(made);
    chip.order({ kind: "tell", ask: 1, everyTicks: 2 });
    chip.order({ kind: "run", ask: 2, limitTicks: 0 });
    await expectToGoRound(chip, 3, 3000);
    expect(chip.way).toBeGreaterThan(2);
    expect(chip.reader.bad).toBe(0);
  });

  test("follows the trail to the mast by its pins alone", async () => {
    const made = await exportedFor("avr", "trail-to-the-mast", "fellside", "drizzle");
    const chip = await board("drizzle");
    await chip.give(made);
    chip.order({ kind: "tell", ask: 1, everyTicks: 2 });
    chip.order({ kind: "run", ask: 2, limitTicks: 0 });
    const ended = await chip.until("ended", 6000);
    expect(ended.why).toBe("finished");
    // At the mast, 1.8 m along the field and 1.1 m across it; the tape, from where it began, says so too.
    expect(Math.hypot(chip.seen.xM - 1.85, chip.seen.yM - 1.15)).toBeLessThan(0.08);
    const tape = await chip.bench({ do: "tape" });
    if (tape.told !== "tape") throw new Error("the tape was not read");
    const begin = beginOf(made.prepared.mission, made.field);
    expect(tape.alongM).toBeCloseTo(chip.seen.xM - begin.xM, 1);
    expect(tape.asideM).toBeCloseTo(chip.seen.yM - begin.yM, 1);
  });

  test("keeps what was put on it while it is switched off", async () => {
    const folder = mkdtempSync(path.join(os.tmpdir(), "giddy-board-"));
    const made = await exportedFor("avr", WANDER, "boulder-slope", "fog");
    const first = await BoardOnBench.avr("fog", folder);
    await first.give(made);
    await first.close();
    // The whole of its 32 KB.
    expect(statSync(path.join(folder, "memory")).size).toBe(32_768);
    bench = await BoardOnBench.avr("fog", folder);
    await bench.pass(10);
    bench.order({ kind: "hello" });
    expect((await bench.until("greeting", 50)).version).toBe(made.version);
    await bench.close();
    rmSync(folder, { recursive: true, force: true });
  });

  test("whose driver fell silent waits until the sticks were let go, and says so", async () => {
    await expectSilenceOfHands(await board("drizzle"), "avr");
  });

  test("driven by hand it moves as it is held, and stands 300 ms after the last that it heard", async () => {
    const made = await exportedFor("avr", "trail-to-the-mast", "fellside", "drizzle");
    const chip = await board("drizzle");
    await chip.give(made);
    const from = chip.seen;
    for (let i = 0; i < 25; i += 1) {
      chip.order({ kind: "drive", seq: i, left: 0.4, right: 0.4 });
      await chip.pass(2);
    }
    expect(Math.hypot(chip.seen.xM - from.xM, chip.seen.yM - from.yM)).toBeGreaterThan(0.05);
    const ended = await chip.until("ended", 33);
    expect(ended.why).toBe("silent");
    await chip.pass(30);
    const stood = chip.seen;
    await chip.pass(50);
    expect(Math.hypot(chip.seen.xM - stood.xM, chip.seen.yM - stood.yM)).toBeLessThan(0.002);
  });
});
