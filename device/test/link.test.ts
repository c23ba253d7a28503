// The robot link against the real server: what is asked, refused, lost and kept. Time is moved by hand.

import { type ChildProcess, fork } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { LINK_PROTOCOL, readTraceRows, SHELF_ROOM, WATCHDOG_MS } from "@giddy-pebble/core";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { WebSocket } from "ws";
import { DeviceServer, TestClock } from "../src/index.js";
import { demoRobot, TestLink } from "./support.js";

const GO = "cairn 1\nmission\n  go 1 m\n";
const BEGIN = { name: "here", xM: 1, yM: 2, headingRad: 0 };

let folder: string;
let clock: TestClock;
let server: DeviceServer;
let port: number;
const robot = demoRobot("drizzle");

beforeEach(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-robots-"));
  clock = new TestClock();
  server = new DeviceServer({ folder, port: 0, clock });
  server.build(robot, 7);
  port = await server.listen();
});

afterEach(async () => {
  await server.close();
  rmSync(folder, { recursive: true, force: true });
});

/** Lets the robot live until a frame comes that fits. */
async function live(
  link: TestLink,
  fits: (frame: TestLink["frames"][number]) => boolean,
  mostMs = 60_000,
): Promise<void> {
  for (let passed = 0; passed < mostMs && !link.frames.some(fits); passed += 100) {
    clock.pass(100);
    // A request and its answer: whatever was sent before has arrived by then.
    await link.ask({ kind: "shelf" });
  }
  expect(link.frames.some(fits)).toBe(true);
}

describe("a link", () => {
  it("says hello with what the robot is, and refuses another protocol", async () => {
    const link = await TestLink.open(port, "drizzle");
    expect(link.frames[0]).toMatchObject({ kind: "hello", protocol: LINK_PROTOCOL, robot: "Drizzle", simulated: true });
    const other = await TestLink.open(port, "drizzle", false);
    other.send({ kind: "hello", protocol: "pebble-link.9", who: "test" });
    const refused = await other.until((frame) => frame.kind === "refused");
    expect(refused).toMatchObject({ why: expect.stringContaining("pebble-link.1") });
  });

  it("is not to be had from another site's page, or for a robot that is not there", async () => {
    const tried = (address: string, headers: Record<string, string>) =>
      new Promise((resolve) => {
        const socket = new WebSocket(`ws://127.0.0.1:${port}${address}`, LINK_PROTOCOL, { headers });
        socket.on("unexpected-response", (_request, response) => resolve(response.statusCode));
        socket.on("open", () => resolve("open"));
        socket.on("error", () => {});
      });
    expect(await tried("/robots/drizzle", { origin: "http://elsewhere.example" })).toBe(403);
    expect(await tried("/robots/nobody", {})).toBe(404);
  });

  it("puts a mission in parts, checks its SHA-256 and keeps it over a restart", async () => {
    const link = await TestLink.open(port, "drizzle");
    expect(await link.put("Short go", GO, robot, { partChars: 1000 })).toMatchObject({ kind: "done" });
    expect(await link.put("Broken", GO, robot, { sha256: "0".repeat(64) })).toMatchObject({
      kind: "refused",
      why: expect.stringContaining("SHA-256"),
    });
    await server.close();
    server = new DeviceServer({ folder, port: 0, clock });
    port = await server.listen();
    const again = await TestLink.open(port, "drizzle");
    const shelf = await again.ask({ kind: "shelf" });
    expect(shelf).toMatchObject({ entries: [{ name: "Short go", label: "version 1" }] });
  });

  it("refuses a thirteenth mission, and takes it once there is room", async () => {
    const link = await TestLink.open(port, "drizzle");
    for (let i = 0; i < SHELF_ROOM; i += 1)
      expect(await link.put(`Mission ${i}`, GO, robot)).toMatchObject({ kind: "done" });
    expect(await link.put("One more", GO, robot)).toMatchObject({
      kind: "refused",
      why: expect.stringContaining("full"),
    });
    await link.ask({ kind: "remove", name: "Mission 3" });
    expect(await link.put("One more", GO, robot)).toMatchObject({ kind: "done" });
  });

  it("refuses a drawing with parts the robot was not built with", async () => {
    const link = await TestLink.open(port, "drizzle");
    const fewer = { ...robot, sensors: robot.sensors.filter(({ kind }) => kind !== "eye") };
    expect(await link.put("Other", GO, fewer)).toMatchObject({
      kind: "refused",
      why: expect.stringContaining("Build it again"),
    });
  });

  it("answers a thousand damaged frames and goes on", async () => {
    const link = await TestLink.open(port, "drizzle");
    const bad = [
      "",
      "{",
      "null",
      "[]",
      '{"kind":"put"}',
      '{"kind":"__proto__"}',
      '{"kind":"drive","seq":-1,"left":9,"right":"x"}',
      "x".repeat(40_000),
    ];
    for (let i = 0; i < 1000; i += 1) {
      link.socket.send(i % 50 === 49 ? Buffer.alloc(64) : (bad[i % bad.length] as string));
      // Within the rate: a second of the robot's own time for every three hundred.
      if (i % 300 === 299) {
        await link.ask({ kind: "shelf" });
        clock.pass(1000);
      }
    }
    clock.pass(1000);
    await link.ask({ kind: "shelf" });
    expect(link.frames.filter((frame) => frame.kind === "refused")).toHaveLength(1000);
    expect(link.closed).toBe(false);
    expect(await link.put("Still well", GO, robot)).toMatchObject({ kind: "done" });
  });

  it("refuses what comes faster than the rate", async () => {
    const link = await TestLink.open(port, "drizzle");
    for (let i = 0; i < 500; i += 1) link.send({ kind: "shelf", ask: 10_000 + i });
    const refused = await link.until((frame) => frame.kind === "refused");
    expect(refused).toMatchObject({ why: expect.stringContaining("frames a second") });
  });
});

describe("a run", () => {
  it("is told step by step, with readings, notes and a trace in float32", async () => {
    const link = await TestLink.open(port, "drizzle");
    await link.put("Noting", 'cairn 1\nmission\n  go 20 cm\n  note way = robot.travel\n  show "there"\n', robot);
    await link.ask({ kind: "readings", on: true });
    await link.ask({ kind: "place", begin: BEGIN, how: "jig", fieldOf: null });
    expect(await link.ask({ kind: "run", name: "Noting" })).toMatchObject({ kind: "done" });
    await live(link, (frame) => frame.kind === "ended");
    const kinds = new Set(link.frames.map((frame) => frame.kind));
    for (const kind of ["step", "readings", "note", "ended"]) expect(kinds).toContain(kind);
    expect(link.frames.find((frame) => frame.kind === "note")).toMatchObject({
      name: "way",
      value: expect.closeTo(0.2, 2),
    });
    link.send({ kind: "trace", ask: 9000 });
    const head = await link.until((frame) => frame.kind === "trace");
    if (head.kind !== "trace") throw new Error("a trace was asked for");
    await link.ask({ kind: "shelf" });
    const rows = link.binary.map((bytes) => readTraceRows(bytes)).reduce((sum, part) => sum + (part?.rows ?? 0), 0);
    expect(rows).toBe(head.rows);
    expect(head.columns.map(({ id }) => id)).toContain("leftCounts");
  });

  it("over a link with late packets still comes whole and in order", async () => {
    const link = await TestLink.open(port, "drizzle");
    await link.put("Short", "cairn 1\nmission\n  go 10 cm\n", robot);
    link.send({ kind: "fault", ask: 600, fault: "late-packets", part: "" });
    link.send({ kind: "run", ask: 700, name: "Short" });
    // Nothing goes out until the clock goes on; the socket only has to bring what was sent.
    const wait = async (fits: (frame: TestLink["frames"][number]) => boolean) => {
      while (!link.frames.some(fits)) {
        clock.pass(200);
        await new Promise((resolve) => setImmediate(resolve));
      }
    };
    await wait((frame) => frame.kind === "ended");
    link.send({ kind: "trace", ask: 701 });
    await wait((frame) => frame.kind === "trace");
    const head = link.frames.find((frame) => frame.kind === "trace");
    if (head?.kind !== "trace") throw new Error("a trace was asked for");
    const rows = () => link.binary.reduce((sum, bytes) => sum + (readTraceRows(bytes)?.rows ?? 0), 0);
    while (rows() < head.rows) {
      clock.pass(200);
      await new Promise((resolve) => setImmediate(resolve));
    }
    expect(rows()).toBe(head.rows);
    const ticks = link.frames.flatMap((frame) => (frame.kind === "readings" ? [frame.tick] : []));
    expect(ticks).toEqual([...ticks].sort((a, b) => a - b));
  });

  it("is stopped by anyone, and says why", async () => {
    const one = await TestLink.open(port, "drizzle");
    const two = await TestLink.open(port, "drizzle");
    await one.put("Long", GO, robot);
    await one.ask({ kind: "run", name: "Long" });
    clock.pass(500);
    expect(await two.ask({ kind: "run", name: "Long" })).toMatchObject({
      kind: "refused",
      why: expect.stringContaining("Somebody else"),
    });
    await two.ask({ kind: "halt" });
    await live(one, (frame) => frame.kind === "ended");
    expect(one.frames.find((frame) => frame.kind === "ended")).toMatchObject({
      summary: { outcome: "stopped", reason: "it was halted" },
    });
  });

  it("stops when the link of whoever started it is cut", async () => {
    const one = await TestLink.open(port, "drizzle");
    const two = await TestLink.open(port, "drizzle");
    await one.put("Long", GO, robot);
    await one.ask({ kind: "run", name: "Long" });
    clock.pass(500);
    await two.ask({ kind: "fault", fault: "link-drops", part: "" }).catch(() => null);
    await one.untilClosed();
    clock.pass(2000);
    const three = await TestLink.open(port, "drizzle");
    expect(three.frames.find((frame) => frame.kind === "state")).toMatchObject({
      doing: "idle",
      why: "the link was lost",
    });
  });

  it("ends when the board restarts, and another is taken once it is up", async () => {
    const link = await TestLink.open(port, "drizzle");
    await link.put("Long", GO, robot);
    await link.ask({ kind: "run", name: "Long" });
    clock.pass(300);
    await link.ask({ kind: "fault", fault: "restart", part: "" });
    expect(link.frames.find((frame) => frame.kind === "ended")).toMatchObject({
      summary: { reason: "the board restarted" },
    });
    expect(await link.ask({ kind: "run", name: "Long" })).toMatchObject({ kind: "refused" });
    clock.pass(2000);
    expect(await link.ask({ kind: "run", name: "Long" })).toMatchObject({ kind: "done" });
  });
});

describe("driving by hand", () => {
  it(`stops when nothing is heard for ${WATCHDOG_MS} ms`, async () => {
    const link = await TestLink.open(port, "drizzle");
    link.send({ kind: "drive", seq: 1, left: 0.5, right: 0.5 });
    await link.ask({ kind: "shelf" });
    clock.pass(WATCHDOG_MS - 20);
    expect(server.hosts.get("drizzle")?.standIn.running?.run.brain.ended).toBe(false);
    clock.pass(40);
    expect(server.hosts.get("drizzle")?.standIn.running?.run.brain.end).toMatchObject({
      reason: expect.stringContaining("300 ms"),
    });
    clock.pass(2000);
    expect(server.hosts.get("drizzle")?.standIn.doing).toBe("idle");
  });

  it("has one driver; others watch", async () => {
    const one = await TestLink.open(port, "drizzle");
    const two = await TestLink.open(port, "drizzle");
    one.send({ kind: "drive", seq: 1, left: 0.2, right: 0.2 });
    await one.ask({ kind: "shelf" });
    two.send({ kind: "drive", seq: 1, left: -1, right: -1 });
    expect(await two.until((frame) => frame.kind === "refused")).toMatchObject({
      why: expect.stringContaining("Somebody else"),
    });
  });

  it("ignores a frame that comes after a newer one", async () => {
    const link = await TestLink.open(port, "drizzle");
    for (const [seq, left] of [
      [5, 0.4],
      [3, -0.9],
    ] as const)
      link.send({ kind: "drive", seq, left, right: left });
    await link.ask({ kind: "shelf" });
    const hand = server.hosts.get("drizzle")?.standIn.running?.hand;
    expect(hand).toMatchObject({ left: 0.4, right: 0.4 });
  });
});

describe("the process", () => {
  /** The robots' process as npm start has it. */
  async function start(own: string, wanted = 0): Promise<{ child: ChildProcess; port: number }> {
    const main = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../dist/main.js");
    const { GIDDY_DEMO: _, ...env } = process.env;
    const child = fork(main, [], { env: { ...env, GIDDY_DEVICE_DATA: own, GIDDY_DEVICE_PORT: String(wanted) } });
    const bound = await new Promise<number>((resolve) =>
      child.once("message", (message: { port: number }) => resolve(message.port)),
    );
    return { child, port: bound };
  }

  const gone = (child: ChildProcess) => new Promise((resolve) => child.once("exit", resolve));

  it("killed during a put, a run and a drive, keeps its shelf whole and takes links again", async () => {
    const own = mkdtempSync(path.join(os.tmpdir(), "giddy-robots-"));
    let running = await start(own);
    const wanted = running.port;
    await fetch(`http://127.0.0.1:${wanted}/robots`, { method: "POST", body: JSON.stringify({ robot, seed: 7 }) });
    for (const during of ["put", "run", "drive"] as const) {
      const link = await TestLink.open(wanted, "drizzle");
      if (during === "put") {
        await link.put("Kept", GO, robot);
        link.send({ kind: "put", ask: 900, name: "Half", bytes: 5000, sha256: "0".repeat(64), label: "", origin: "" });
        link.send({ kind: "part", ask: 901, at: 0, text: "{" });
      } else if (during === "run") await link.ask({ kind: "run", name: "Kept" });
      else link.send({ kind: "drive", seq: 1, left: 0.3, right: 0.3 });
      running.child.kill("SIGKILL");
      await Promise.all([gone(running.child), link.untilClosed()]);
      running = await start(own, wanted);
      const again = await TestLink.open(wanted, "drizzle");
      expect(again.frames.find((frame) => frame.kind === "shelf")).toMatchObject({ entries: [{ name: "Kept" }] });
      expect(again.frames.find((frame) => frame.kind === "state")).toMatchObject({ doing: "idle" });
      again.close();
    }
    running.child.kill("SIGTERM");
    await gone(running.child);
    rmSync(own, { recursive: true, force: true });
  });
});
