// What one link may cost a robot in a second: what is beyond waits for the next one, and only a crowd is refused.
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { type FromRobot, LINK_PROTOCOL, type ToRobot } from "@giddy-pebble/core";
import { afterAll, expect, test } from "vitest";
import { type FrameSocket, RobotHost, RobotLink, Shelf, StandIn, TestClock } from "../src/index.js";
import { demoRobot } from "./support.js";

const folder = mkdtempSync(path.join(os.tmpdir(), "giddy-patience-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A robot on a computer that takes so long over putting it somewhere, ms. */
function slowRobot(placeMs: number) {
  const said: FromRobot[] = [];
  let take = (_data: Buffer, _isBinary: boolean) => {};
  const socket: FrameSocket = {
    open: true,
    waiting: 0,
    send: (data) => void (typeof data === "string" && said.push(JSON.parse(data))),
    close: () => {},
    terminate: () => {},
    onMessage: (next) => {
      take = next;
    },
    onClose: () => {},
  };
  const time = new TestClock();
  let spentMs = 0;
  const clock = {
    now: () => time.now() + spentMs,
    every: time.every.bind(time),
    after: time.after.bind(time),
  };
  const host = new RobotHost("drizzle", new StandIn(demoRobot("drizzle"), 1), new Shelf(folder), clock);
  const usual = host.place.bind(host);
  host.place = (...how) => {
    spentMs += placeMs;
    return usual(...how);
  };
  new RobotLink(socket, host, clock);
  const send = (frame: ToRobot) => take(Buffer.from(JSON.stringify(frame)), false);
  send({ kind: "hello", protocol: LINK_PROTOCOL, who: "test" });
  const place = (ask: number) =>
    send({ kind: "place", ask, begin: { name: "here", xM: 0, yM: 0, headingRad: 0 }, how: "eye", fieldOf: null });
  /** Numbers of the requests that got an answer of this kind. */
  const answered = (kind: "done" | "refused") =>
    said.flatMap((frame) => (frame.kind === kind && frame.ask !== null ? [frame.ask] : []));
  return { time, said, send, place, answered };
}

test("a computer that takes long over what is asked does it in the next seconds, in order, and refuses none", () => {
  const { time, send, place, answered } = slowRobot(700);
  place(1);
  place(2);
  send({ kind: "readings", ask: 3, on: true });
  expect(answered("done")).toEqual([1]);
  // The first took 700 ms of its second.
  time.pass(299);
  expect(answered("done")).toEqual([1]);
  time.pass(1);
  expect(answered("done")).toEqual([1, 2]);
  time.pass(300);
  expect(answered("done")).toEqual([1, 2, 3]);
  expect(answered("refused")).toEqual([]);
});

test("what takes no long is done at once, however often it is asked for", () => {
  const { place, answered } = slowRobot(1);
  for (let ask = 1; ask <= 200; ask += 1) place(ask);
  expect(answered("done")).toHaveLength(200);
});

test("a crowd of requests is refused but for those that wait, and the robot goes on", () => {
  const { time, place, answered } = slowRobot(700);
  for (let ask = 1; ask <= 100; ask += 1) place(ask);
  expect(answered("done")).toEqual([1]);
  expect(answered("refused")).toHaveLength(100 - 1 - 32);
  time.pass(40_000);
  expect(answered("done")).toEqual(Array.from({ length: 33 }, (_, i) => i + 1));
});

test("a halt is taken at once, and nothing begins after it that was asked for before", () => {
  const { time, said, send, place, answered } = slowRobot(700);
  place(1);
  send({ kind: "run", ask: 2, name: "anything" });
  send({ kind: "halt", ask: 3 });
  expect(answered("done")).toEqual([1, 3]);
  expect(said).toContainEqual({ kind: "refused", ask: 2, why: "The robot was halted before it came to this." });
  time.pass(5000);
  expect(answered("refused")).toEqual([2]);
});

test("whoever halts again and again gets no more of the robot's time for it", () => {
  const { time, send, place, answered } = slowRobot(700);
  place(0);
  for (let round = 0; round < 50; round += 1) {
    place(100 + round);
    send({ kind: "halt", ask: 200 + round });
  }
  for (let ask = 1; ask <= 10; ask += 1) place(ask);
  const placed = () => answered("done").filter((ask) => ask <= 10);
  expect(placed()).toEqual([0]);
  time.pass(300);
  expect(placed()).toEqual([0, 1]);
});

test("a driver's sticks are heard while requests wait", () => {
  const { said, send, place } = slowRobot(700);
  place(1);
  place(2);
  send({ kind: "drive", seq: 1, left: 0.5, right: 0.5 });
  const states = said.filter((frame) => frame.kind === "state");
  expect(states.at(-1)).toMatchObject({ doing: "driven" });
});
