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
    expect(await writeByStk500(board.line, made.image, watch)).toEqual({ ok: true });
    board.order({ kind: "hello" });
    expect(await board.until("greeting", 100)).toMatchObject({ robot: "Fog", version: made.version, speaks: 1 });
    expect(await board.bench({ do: "wire", pins: made.pins as never })).toMatchObject({ told: "done" });
    const begin = beginOf(made.prepared.mission, made.field);
    expect(await board.bench({ do: "field", field: made.field })).toMatchObject({ told: "done" });
    expect(await board.bench({ do: "place", begin, how: "eye", keepField: true })).toMatchObject({ told: "done" });
    board.order({ kind: "tell", ask: 1, everyTicks: 2 });
    board.order({ kind: "run", ask: 2, limitTicks: 0 });
    const t0 = performance.now();
    await board.pass(1500);
    console.log("ms", performance.now() - t0, (globalThis as any).T);
    const poses = board.words.filter((word) => word.kind === "pose");
    console.log(
      board.words.filter((w) => w.kind !== "pose" && w.kind !== "values").slice(0, 30),
      poses.at(-1),
      poses.length,
      board.reader.bad,
    );
  });
});
