// Boards of this computer: an emulated chip with its bootloader, on a robot that stands on a table.
import { beginOf, writeByStk500 } from "@giddy-pebble/core";
import { afterEach, describe, expect, test } from "vitest";
import { BoardOnBench, exportedFor } from "./boardSupport.js";

let bench: BoardOnBench | null = null;
afterEach(() => bench?.close());

const watch = { progress: () => {}, cancelled: false };

describe("an emulated chip", () => {
  test("takes Fog's wandering through its bootloader, and avoids boulders for 30 s", async () => {
    const made = await exportedFor("avr", "boulders-by-whiskers", "boulder-slope", "fog");
    expect(made.problems).toEqual([]);
    bench = await BoardOnBench.avr("fog");
    const board = bench;
    if (!made.image || !made.pins) throw new Error("nothing to write");
    // An empty chip waits for whoever comes late, too.
    await board.pass(150);
    expect(await writeByStk500(board.line, made.image, watch)).toEqual({ ok: true });
    board.order({ kind: "hello" });
    expect(await board.until("greeting", 100)).toMatchObject({ robot: "Fog", version: made.version, speaks: 1 });
    expect(await board.bench({ do: "wire", pins: made.pins })).toMatchObject({ told: "done" });
    const begin = beginOf(made.prepared.mission, made.field);
    expect(await board.bench({ do: "field", field: made.field })).toMatchObject({ told: "done" });
    expect(await board.bench({ do: "place", begin, how: "eye", keepField: true })).toMatchObject({ told: "done" });
    board.order({ kind: "tell", ask: 1, everyTicks: 2 });
    board.order({ kind: "run", ask: 2, limitTicks: 0 });
    await board.pass(3000);
    const steps = board.words.filter((word) => word.kind === "step");
    // It met boulders, turned away from each, and went on.
    expect(steps.length).toBeGreaterThan(12);
    const places = board.cable.told.filter((frame) => frame.told === "seen");
    const ways = places.map(({ xM, yM }, i) =>
      Math.hypot(xM - (places[i - 1]?.xM ?? xM), yM - (places[i - 1]?.yM ?? yM)),
    );
    expect(ways.reduce((sum, way) => sum + way, 0)).toBeGreaterThan(2);
    expect(board.reader.bad).toBe(0);
  });
});
