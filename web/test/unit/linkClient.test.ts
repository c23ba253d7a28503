// The page's end of the robot link against a socket that says what it is told to: answers matched, traces put
// together, silence and loss told once.
import type { AddressInfo } from "node:net";
import { type FromRobot, LINK_PROTOCOL, writeTraceRows } from "@giddy-pebble/core";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { WebSocket, WebSocketServer } from "ws";
import { LINK_LOST, LinkClient, robotSocket } from "../../src/shared/link/linkClient.js";

let server: WebSocketServer;
let robot: WebSocket;
let client: LinkClient;
let asked: Record<string, unknown>[];
let frames: FromRobot[];
let closed: string[];

/** Waits until something holds; the test's own time limit is the only one. */
async function until(holds: () => boolean): Promise<void> {
  while (!holds()) await new Promise((resolve) => setImmediate(resolve));
}

beforeEach(async () => {
  // Browsers have it; this is what stands for it here.
  Object.assign(globalThis, { WebSocket });
  asked = [];
  frames = [];
  closed = [];
  server = new WebSocketServer({ port: 0, host: "127.0.0.1", handleProtocols: (offered) => [...offered][0] ?? false });
  await new Promise((resolve) => server.once("listening", resolve));
  const linked = new Promise<WebSocket>((resolve) => server.once("connection", resolve));
  client = new LinkClient(
    robotSocket(`ws://127.0.0.1:${(server.address() as AddressInfo).port}/link/drizzle`),
    "test",
    {
      frame: (frame) => frames.push(frame),
      closed: (why) => closed.push(why),
    },
  );
  robot = await linked;
  robot.on("message", (data) => asked.push(JSON.parse(data.toString())));
  await until(() => asked.length === 1);
});
afterEach(() => {
  client.close();
  for (const one of server.clients) one.terminate();
  server.close();
});

const say = (frame: object | string) => robot.send(typeof frame === "string" ? frame : JSON.stringify(frame));
const askOf = (i: number) => asked[i]?.ask as number;

describe("a link", () => {
  test("greets with the protocol it speaks and who it is", () => {
    expect(asked[0]).toEqual({ kind: "hello", protocol: LINK_PROTOCOL, who: "test" });
    expect(robot.protocol).toBe(LINK_PROTOCOL);
    expect(client.open).toBe(true);
    expect(client.behind).toBe(false);
  });

  test("matches answers to what was asked, in whatever order they come", async () => {
    const [halt, press] = [client.ask({ kind: "halt" }), client.ask({ kind: "pace", times: 5 })];
    await until(() => asked.length === 3);
    say({ kind: "done", ask: askOf(2) });
    say({ kind: "refused", ask: askOf(1), why: "It stands already." });
    expect(await press).toMatchObject({ ok: true });
    expect(await halt).toEqual({ ok: false, why: "It stands already." });
  });

  test("an answer that nobody waits for, and one given twice, change nothing", async () => {
    say({ kind: "done", ask: 77 });
    const halt = client.ask({ kind: "halt" });
    await until(() => asked.length === 2);
    say({ kind: "done", ask: askOf(1) });
    say({ kind: "refused", ask: askOf(1), why: "too late" });
    expect(await halt).toMatchObject({ ok: true });
    expect(client.open).toBe(true);
  });

  test("leaves alone what it cannot read, and hears the next frame", async () => {
    for (const odd of ["", "{", "[]", "null", '{"kind":"song"}', '{"kind":"step"}', "\u0000", "9".repeat(1000)])
      say(odd);
    robot.send(Buffer.from([1, 2, 3]));
    say({ kind: "refused", ask: null, why: "A frame could not be read." });
    await until(() => frames.length === 1);
    expect(frames[0]).toMatchObject({ kind: "refused", ask: null });
    expect(closed).toEqual([]);
  });

  test("a question without an answer ends with a sentence, and its late answer is nobody's", async () => {
    const answer = await client.ask({ kind: "halt" }, 30);
    expect(answer).toEqual({ ok: false, why: "The robot did not answer. Try again." });
    say({ kind: "done", ask: askOf(1) });
    const next = client.ask({ kind: "halt" });
    await until(() => asked.length === 3);
    say({ kind: "done", ask: askOf(2) });
    expect(await next).toMatchObject({ ok: true });
  });

  test("that is cut answers all that wait, and is told of once", async () => {
    const waiting = [client.ask({ kind: "halt" }), client.ask({ kind: "tape" })];
    await until(() => asked.length === 3);
    robot.terminate();
    for (const answer of waiting) expect(await answer).toEqual({ ok: false, why: LINK_LOST });
    await until(() => closed.length > 0);
    expect(closed).toEqual([LINK_LOST]);
    expect(await client.ask({ kind: "halt" })).toEqual({ ok: false, why: LINK_LOST });
    expect(client.open).toBe(false);
  });

  test("that was closed by the page itself is no loss", async () => {
    const waiting = client.ask({ kind: "halt" });
    client.close();
    expect(await waiting).toEqual({ ok: false, why: LINK_LOST });
    await until(() => server.clients.size === 0);
    expect(closed).toEqual([]);
  });
});

describe("a run's trace", () => {
  const column = { id: "x", quantity: "x", unit: "m", startTick: 0, everyTicks: 1 };
  const header = (ask: number, rows: number) => ({
    kind: "trace",
    ask,
    run: 1,
    tickMs: 10,
    events: [],
    columns: [{ id: "x", quantity: "x", unit: "m" }],
    rows,
  });

  /** Rows from one on, as the robot sends them. */
  function rowsFrame(first: number, values: number[]): Uint8Array {
    const all = Float32Array.from([...new Array(first).fill(0), ...values]);
    return writeTraceRows({ tickMs: 10, events: [], columns: [{ ...column, values: all }] }, 1, first, values.length);
  }

  test("comes in pieces and is put together", async () => {
    const trace = client.trace();
    await until(() => asked.length === 2);
    say(header(askOf(1), 4));
    robot.send(rowsFrame(0, [1, 2]));
    robot.send(rowsFrame(2, [3, 4]));
    const read = await trace;
    expect(read.ok && [...(read.trace.columns[0]?.values ?? [])]).toEqual([1, 2, 3, 4]);
  });

  test("without rows is whole at once", async () => {
    const trace = client.trace();
    await until(() => asked.length === 2);
    say(header(askOf(1), 0));
    const read = await trace;
    expect(read.ok && read.trace.columns[0]?.values.length).toBe(0);
  });

  test("whose pieces do not fit is told so, and the link goes on", async () => {
    const trace = client.trace();
    await until(() => asked.length === 2);
    say(header(askOf(1), 4));
    robot.send(rowsFrame(2, [3, 4]));
    expect(await trace).toEqual({ ok: false, why: "The run's trace arrived in pieces that do not fit." });
    // Rows that belong to nothing are left alone.
    robot.send(rowsFrame(0, [1, 2]));
    const halt = client.ask({ kind: "halt" });
    await until(() => asked.length === 3);
    say({ kind: "done", ask: askOf(2) });
    expect(await halt).toMatchObject({ ok: true });
  });
});
