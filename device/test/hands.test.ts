// A driver's hands over the link: a mission that hands over, silence, a bad radio, two drivers. Time is moved by hand.
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { BUTTONS, HANDSET_AT_REST, readTraceRows, recordedHands, type ToRobot, WATCHDOG_MS } from "@giddy-pebble/core";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { DeviceServer, lossAt, Radio, TestClock } from "../src/index.js";
import { demoRobot, TestLink } from "./support.js";

const DRIVEN = "cairn 1\nmission\n  hand over\n\nremote\n  drive one stick at 30 cm/s curve 1\n";

let folder: string;
let clock: TestClock;
let server: DeviceServer;
let link: TestLink;
const robot = demoRobot("drizzle");

beforeEach(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-hands-"));
  clock = new TestClock();
  server = new DeviceServer({ folder, port: 0, clock });
  server.build(robot, 7);
  link = await TestLink.open(await server.listen(), "drizzle");
  await link.put("By hand", DRIVEN, robot);
});

afterEach(async () => {
  await server.close();
  rmSync(folder, { recursive: true, force: true });
});

const standIn = () => {
  const host = server.hosts.get("drizzle");
  if (!host) throw new Error("no robot");
  return host.standIn;
};
const hands = (seq: number, forward: number): ToRobot => ({
  kind: "hands",
  seq,
  ...HANDSET_AT_REST,
  sticks: [forward, 0, 0, 0],
  levels: [0, 0, 0, 0],
});
/** Sends one frame and waits until it has arrived. */
async function hold(seq: number, forward: number, by = link): Promise<void> {
  by.send(hands(seq, forward));
  await by.ask({ kind: "shelf" });
}
/** Holds the stick for a time, 50 frames a second. */
async function push(forward: number, ms: number, from: number): Promise<number> {
  let seq = from;
  for (let passed = 0; passed < ms; passed += 20) {
    await hold(seq, forward);
    seq += 1;
    clock.pass(20);
  }
  return seq;
}
const speed = () => standIn().running?.run.brain.drive.speedMS ?? 0;

describe("a mission that hands over", () => {
  it("is driven by what arrives, and every frame is answered", async () => {
    await link.ask({ kind: "run", name: "By hand" });
    await push(1, 1000, 1);
    expect(speed()).toBeCloseTo(0.3, 1);
    const heard = link.frames.filter((frame) => frame.kind === "heard");
    expect(heard.at(-1)).toMatchObject({ seq: 50, drives: true });
    expect(standIn().hand).toBe("driver");
  });

  it("takes a tap that was pressed and let go between two ticks", async () => {
    await link.put(
      "Lit",
      "cairn 1\nmission\n  hand over\n\nremote\n  drive one stick at 30 cm/s curve 1\n  toggle thumb.left light 100 % again light 0 %\n",
      robot,
    );
    await link.ask({ kind: "run", name: "Lit" });
    await hold(1, 0);
    clock.pass(20);
    const tap = BUTTONS.indexOf("thumb.left");
    link.send({ ...hands(2, 0), buttons: 1 << tap } as ToRobot);
    await hold(3, 0);
    const buttons = () => standIn().running?.run.handset?.buttons;
    expect(buttons()).toBe(1 << tap);
    clock.pass(20);
    expect(buttons()).toBe(0);
    expect(standIn().running?.run.brain.signs).toMatchObject([{ kind: "light", text: "100 %" }]);
  });

  it(`stands ${WATCHDOG_MS} ms after the last frame, says so, and waits for the sticks to be let go`, async () => {
    await link.ask({ kind: "run", name: "By hand" });
    let seq = await push(1, 1000, 1);
    clock.pass(WATCHDOG_MS - 40);
    expect(speed()).toBeGreaterThan(0.2);
    clock.pass(80);
    expect(standIn().hand).toBe("silent");
    expect(standIn().running?.run.brain.drive.mode).toBe("brake");
    const state = await link.until((frame) => frame.kind === "state" && frame.hand === "silent");
    expect(state).toMatchObject({ doing: "running", why: expect.stringContaining("300 ms") });
    clock.pass(500);
    seq = await push(1, 400, seq);
    expect(Math.abs(speed())).toBeLessThan(0.01);
    // It is still nobody's, and says so, until the sticks were let go.
    expect(standIn().hand).toBe("silent");
    seq = await push(0, 100, seq);
    expect(standIn().hand).toBe("driver");
    await push(1, 600, seq);
    expect(speed()).toBeGreaterThan(0.2);
  });

  it("ignores frames that come after newer ones, and those of another link", async () => {
    await link.ask({ kind: "run", name: "By hand" });
    await hold(10, 0.5);
    await hold(4, -1);
    expect(standIn().running?.run.handset?.sticks[0]).toBe(0.5);
    const other = await TestLink.open(Number(new URL(link.socket.url).port), "drizzle");
    const begin = { name: "here", xM: 1, yM: 1, headingRad: 0 };
    expect(await other.ask({ kind: "place", begin, how: "eye", fieldOf: null })).toMatchObject({ kind: "refused" });
    expect(standIn().doing).toBe("running");
    await hold(99, -1, other);
    expect(standIn().running?.run.handset?.sticks[0]).toBe(0.5);
    expect(await other.until((frame) => frame.kind === "heard")).toMatchObject({ seq: 99, drives: false });
  });

  it("stops when its driver's link is gone", async () => {
    await link.ask({ kind: "run", name: "By hand" });
    await push(1, 400, 1);
    link.socket.terminate();
    await new Promise<void>((resolve) => {
      const look = () => (server.hosts.get("drizzle")?.links.size === 0 ? resolve() : setImmediate(look));
      look();
    });
    clock.pass(20);
    expect(standIn().running?.run.brain.end).toMatchObject({ reason: "the link was lost" });
  });

  it("is seen by its driver roughly, as from beside the table, and not told to missions without one", async () => {
    await link.ask({ kind: "readings", on: true });
    await link.ask({ kind: "run", name: "By hand" });
    await push(1, 600, 1);
    const seen = link.frames.filter((frame) => frame.kind === "readings").at(-1)?.seen;
    const { xM } = standIn().seen?.robot ?? { xM: 0 };
    expect(Math.abs((seen?.robot.xM ?? 9) - xM)).toBeLessThan(0.03);
    expect(Math.abs(xM / 0.002 - Math.round(xM / 0.002))).toBeLessThan(1e-6);
    await link.ask({ kind: "halt" });
    clock.pass(2000);
    await link.put("Alone", "cairn 1\nmission\n  go 30 cm\n", robot);
    await link.ask({ kind: "run", name: "Alone" });
    clock.pass(200);
    expect(standIn().seen).toBeNull();
  });

  it("records what was held, to be driven again", async () => {
    await link.ask({ kind: "run", name: "By hand" });
    await push(0.75, 600, 1);
    await link.ask({ kind: "halt" });
    clock.pass(2000);
    const trace = standIn().last?.trace;
    const held = trace ? recordedHands(trace) : null;
    expect(held?.(40)?.sticks[0]).toBe(0.75);
    expect(readTraceRows(new Uint8Array(0))).toBeNull();
  });

  it("refuses hands that no person has", async () => {
    for (const bad of [
      { ...hands(1, 1), sticks: [Number.NaN, 0, 0, 0] },
      { ...hands(2, 1), sticks: [2, 0, 0, 0] },
      { ...hands(3, 1), buttons: 2 ** 20 },
      { ...hands(4, 1), levels: [0, 0] },
    ])
      link.send(bad as unknown as ToRobot);
    await link.ask({ kind: "shelf" });
    expect(link.frames.filter((frame) => frame.kind === "refused")).toHaveLength(4);
  });
});

describe("a bad radio", () => {
  it("delays, and loses its share", () => {
    const radio = new Radio(clock, 3);
    radio.manners = { delayMs: 60, jitterMs: 40, loss: 0.25, rangeM: null };
    let arrived = 0;
    const times: number[] = [];
    const sent = clock.now();
    for (let i = 0; i < 2000; i += 1)
      radio.pass(0, () => {
        arrived += 1;
        times.push(clock.now() - sent);
      });
    clock.pass(59);
    expect(arrived).toBe(0);
    clock.pass(41);
    // Binomial, 2,000 tries: within four standard deviations.
    expect(Math.abs(arrived / 2000 - 0.75)).toBeLessThan(4 * Math.sqrt((0.75 * 0.25) / 2000));
    expect(Math.min(...times)).toBeGreaterThanOrEqual(60);
    expect(Math.max(...times)).toBeLessThanOrEqual(100);
  });

  it("loses more with the fourth power of the distance, and everything at its range", () => {
    const manners = { delayMs: 0, jitterMs: 0, loss: 0.1, rangeM: 2 };
    expect(lossAt(manners, 0)).toBeCloseTo(0.1, 12);
    expect(lossAt(manners, 1)).toBeCloseTo(0.1 + 0.9 / 16, 12);
    expect(lossAt(manners, 2)).toBe(1);
    expect(lossAt(manners, 9)).toBe(1);
    expect(lossAt({ ...manners, rangeM: null }, 9)).toBe(0.1);
  });

  it("between driver and robot stops it once frames stay away", async () => {
    await link.ask({ kind: "run", name: "By hand" });
    const seq = await push(1, 400, 1);
    await link.ask({ kind: "radio", delayMs: 0, jitterMs: 0, loss: 0, rangeM: 0.2 });
    standIn().begin = { ...standIn().begin, xM: standIn().begin.xM + 5 };
    await push(1, WATCHDOG_MS + 60, seq);
    expect(standIn().hand).toBe("silent");
  });
});
