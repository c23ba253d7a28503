// A board with MicroPython on this computer: given its files through the raw REPL, on a robot that stands on a table.
import { afterEach, describe, expect, test } from "vitest";
import { WHOLE } from "../../core/test/support/search.js";
import { BoardOnBench, expectSilenceOfHands, expectToGoRound, exportedFor, WANDER } from "./boardSupport.js";

let bench: BoardOnBench | null = null;
afterEach(() => bench?.close());

async function board(robot: string): Promise<BoardOnBench> {
  bench = await BoardOnBench.micropython(robot);
  return bench;
}

describe("a board with MicroPython", () => {
  test("takes Fog's wandering through its REPL, and goes round a boulder", async () => {
    const made = await exportedFor("micropython", WANDER, "boulder-slope", "fog");
    const python = await board("fog");
    await python.give(made);
    python.order({ kind: "run", ask: 2, limitTicks: 0 });
    await expectToGoRound(python, 1, 1200);
    expect(python.way).toBeGreaterThan(0.7);
  });

  // By its pins goes the wandering above, too.
  test.runIf(WHOLE)("follows the trail to the mast by its pins alone", async () => {
    const made = await exportedFor("micropython", "trail-to-the-mast", "fellside", "drizzle");
    const python = await board("drizzle");
    await python.give(made);
    python.order({ kind: "run", ask: 2, limitTicks: 0 });
    const ended = await python.until("ended", 6000);
    expect(ended.why).toBe("finished");
    expect(Math.hypot(python.seen.xM - 1.85, python.seen.yM - 1.15)).toBeLessThan(0.08);
  });

  test("whose driver fell silent waits until the sticks were let go, and says so", async () => {
    await expectSilenceOfHands(await board("drizzle"), "micropython");
  });

  test("halts, runs again from the start, stops when nobody is heard, and takes another mission", async () => {
    const first = await exportedFor("micropython", WAITS, "fellside", "drizzle");
    const python = await board("drizzle");
    await python.give(first);
    python.order({ kind: "run", ask: 1, limitTicks: 0 });
    await python.pass(50);
    python.order({ kind: "halt", ask: 2 });
    expect((await python.until("ended", 10)).why).toBe("halted");
    python.order({ kind: "run", ask: 3, limitTicks: 30 });
    expect((await python.until("greeting", 100)).version).toBe(first.version);
    expect((await python.until("state", 10)).doing).toBe("running");
    const ended = await python.until("ended", 60);
    expect(ended.why).toBe("silent");
    expect(ended.tick).toBeGreaterThan(25);
    expect(ended.tick).toBeLessThan(35);
    const second = await exportedFor("micropython", WAITS.replace("40", "30"), "fellside", "drizzle");
    expect(second.version).not.toBe(first.version);
    await python.give(second);
    python.order({ kind: "hello" });
    expect((await python.until("greeting", 50)).version).toBe(second.version);
  });
});

const WAITS = `cairn 1
robot "Drizzle"
field "Fellside"
begin "hut dock"

mission
  go 10 cm
  wait 40 s
`;
