// Robots in threads of their own: one that hangs or dies takes no other along, and is started again.
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { pathToFileURL } from "node:url";
import { MOST_LINKS } from "@giddy-pebble/core";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { WebSocket } from "ws";
import { DeviceServer, LocalSeat, type RobotPlan, TestClock, ThreadSeat } from "../src/index.js";
import { demoRobot, TestLink } from "./support.js";

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-threads-"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

function plan(): RobotPlan {
  return { id: "drizzle", robot: demoRobot("drizzle"), seed: 7, shelf: path.join(folder, "drizzle.shelf") };
}

/** A script for a thread, as text. */
function script(text: string): URL {
  const file = path.join(folder, "thread.mjs");
  writeFileSync(file, text);
  return pathToFileURL(file);
}

const BEAT = `parentPort.postMessage({ kind: "beat", info: { id: "drizzle", name: "Drizzle", simulated: true, doing: "idle", packVolts: 8 } });`;

describe("a thread", () => {
  it("that hangs is ended and started again, and says so", async () => {
    const said: string[] = [];
    const seat = new ThreadSeat(plan(), {
      // Beats once, then never gives its thread back.
      script: script(`import { parentPort } from "node:worker_threads"; ${BEAT} setTimeout(() => { for (;;); }, 50);`),
      silentMs: 600,
      tell: (sentence) => said.push(sentence),
    });
    seat.begin();
    await expect.poll(() => said, { timeout: 15_000 }).toContain("The robot Drizzle hangs and is ended.");
    await expect.poll(() => said.join(" "), { timeout: 15_000 }).toContain("is started again");
    await expect.poll(() => seat.info.doing, { timeout: 15_000 }).toBe("idle");
    await seat.dispose();
  });

  it("stands until somebody links, and says what its pack holds", async () => {
    const asleep = new ThreadSeat(plan(), { script: script("throw new Error();") });
    const { doing, packVolts } = asleep.info;
    expect(doing).toBe("idle");
    const awake = new LocalSeat(plan(), new TestClock()).info;
    expect(Math.abs(packVolts - awake.packVolts)).toBeLessThan(0.05);
    await asleep.dispose();
  });

  it("that fails again and again is started with growing pauses", async () => {
    const said: string[] = [];
    const seat = new ThreadSeat(plan(), {
      script: script(`throw new Error("this robot is broken");`),
      tell: (sentence) => said.push(sentence),
    });
    seat.begin();
    const pauses = () => said.flatMap((sentence) => /in (\d+) ms/.exec(sentence)?.[1] ?? []).map(Number);
    await expect.poll(() => pauses().length, { timeout: 20_000 }).toBeGreaterThanOrEqual(3);
    expect(said[0]).toBe("The robot Drizzle failed: this robot is broken");
    const [first = 0, second = 0, third = 0] = pauses();
    expect(second).toBeGreaterThan(first);
    expect(third).toBeGreaterThan(second);
    expect(seat.info.doing).toBe("restarting");
    await seat.dispose();
  });
});

describe("the robots' port", () => {
  let server: DeviceServer;
  let port: number;
  beforeEach(async () => {
    server = new DeviceServer({ folder, port: 0, clock: new TestClock() });
    server.build(demoRobot("drizzle"), 7);
    port = await server.listen();
  });
  afterEach(() => server.close());

  const tried = (headers: Record<string, string>): Promise<WebSocket | number> =>
    new Promise((resolve) => {
      const socket = new WebSocket(`ws://127.0.0.1:${port}/robots/drizzle`, "pebble-link.1", { headers });
      socket.on("unexpected-response", (_request, response) => resolve(response.statusCode ?? 0));
      socket.on("open", () => resolve(socket));
      socket.on("error", () => {});
    });

  it("checks where a page comes from as strictly as the page's own server: host and port", async () => {
    for (const origin of ["http://evil.example", "http://127.0.0.1:1", "http://localhost", "null", "https://x"])
      expect(await tried({ origin }), origin).toBe(403);
    const own = await tried({ origin: `http://127.0.0.1:${port}` });
    expect(own).toBeInstanceOf(WebSocket);
  });

  it("counts links from the connection on: those that never say hello take places too", async () => {
    const silent = await Promise.all(Array.from({ length: MOST_LINKS }, () => tried({})));
    expect(silent.every((socket) => socket instanceof WebSocket)).toBe(true);
    expect(await tried({})).toBe(503);
    (silent[0] as WebSocket).terminate();
    await expect.poll(() => tried({}), { timeout: 5000 }).toBeInstanceOf(WebSocket);
  });

  it("closes a link that does not say hello in ten seconds", async () => {
    const clock = new TestClock();
    const patient = new DeviceServer({ folder: mkdtempSync(path.join(folder, "b")), port: 0, clock });
    patient.build(demoRobot("drizzle"), 7);
    const silent = await TestLink.open(await patient.listen(), "drizzle", false);
    await silent.until((frame) => frame.kind === "hello");
    clock.pass(9_900);
    expect(silent.closed).toBe(false);
    clock.pass(200);
    await silent.untilClosed();
    await patient.close();
  });

  it.each([
    ["a place far off", { xM: 1e18, yM: 0, headingRad: 0 }],
    ["a heading beyond all turns", { xM: 0, yM: 0, headingRad: 1e308 }],
    ["a place beyond every field", { xM: 0, yM: -101, headingRad: 0 }],
  ])("%s is refused in words, and the robot stands where it stood", async (_, pose) => {
    const link = await TestLink.open(port, "drizzle");
    const before = await link.ask({ kind: "tape" });
    expect(before.kind).toBe("tape");
    link.send({ kind: "place", ask: 99, begin: { name: "far", ...pose }, how: "eye", fieldOf: null });
    const refused = await link.until((frame) => frame.kind === "refused");
    expect(refused).toMatchObject({ why: expect.stringContaining("begin") });
    const after = await link.ask({ kind: "tape" });
    for (const value of Object.values(after)) if (typeof value === "number") expect(Number.isFinite(value)).toBe(true);
  });

  it("sends one trace at a time, and none to a reader that does not read", async () => {
    const link = await TestLink.open(port, "drizzle");
    expect(await link.ask({ kind: "trace" })).toMatchObject({ kind: "refused" });
  });
});

describe("a simulated robot", () => {
  it("takes another name with its seed and its shelf", async () => {
    const server = new DeviceServer({ folder, port: 0, clock: new TestClock() });
    const robot = demoRobot("drizzle");
    server.build(robot, 4242);
    const port = await server.listen();
    const link = await TestLink.open(port, "drizzle");
    await link.put("Kept", "cairn 1\nmission\n  go 1 m\n", robot);
    const answer = await fetch(`http://127.0.0.1:${port}/robots`, {
      method: "POST",
      body: JSON.stringify({ robot: { ...robot, name: "Mizzle" }, formerly: "Drizzle" }),
    });
    expect([answer.status, ((await answer.json()) as { id: string }).id]).toEqual([201, "mizzle"]);
    expect([...server.hosts.keys()]).toEqual(["mizzle"]);
    expect(server.hosts.get("mizzle")?.standIn.seed).toBe(4242);
    expect(server.hosts.get("mizzle")?.shelf.entries.map(({ name }) => name)).toEqual(["Kept"]);
    await server.close();
  });

  it("whose mission notes without end is halted at the next look, and the notes come after", async () => {
    const clock = new TestClock();
    const server = new DeviceServer({ folder, port: 0, clock });
    const robot = demoRobot("drizzle");
    server.build(robot, 7);
    const link = await TestLink.open(await server.listen(), "drizzle");
    await link.put("Notes", "cairn 1\nmission\n  repeat 9000 times\n    note a = clock\n  wait 60 s\n", robot);
    await link.ask({ kind: "run", name: "Notes" });
    clock.pass(50);
    await link.ask({ kind: "halt" });
    clock.pass(20);
    await link.ask({ kind: "shelf" });
    // What was told until then is bounded by the looks at the clock, not by what the mission noted.
    expect(link.frames.filter(({ kind }) => kind === "note").length).toBeLessThan(400);
    await server.close();
  });
});
