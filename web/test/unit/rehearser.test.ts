// The page's side of the worker: the newest request wins, a silent worker is replaced once.

import type { Program } from "@giddy-pebble/core";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { Rehearser } from "../../src/workers/rehearser.js";
import { shortSummary } from "../support/server.js";

class FakeWorker {
  static made: FakeWorker[] = [];
  onmessage: ((event: { data: unknown }) => void) | null = null;
  sent: { type: string; generation: number }[] = [];
  ended = false;
  constructor() {
    FakeWorker.made.push(this);
  }
  postMessage(message: { type: string; generation: number }): void {
    this.sent.push(message);
  }
  terminate(): void {
    this.ended = true;
  }
  say(data: unknown): void {
    this.onmessage?.({ data });
  }
}

const request = { program: {} as Program, robot: {}, field: {}, seed: 1, ideal: true };
let heard: string[] = [];
const listener = {
  rows: (from: number) => void heard.push(`rows ${from}`),
  done: () => void heard.push("done"),
  refused: (reason: string) => void heard.push(reason),
};
const last = () => FakeWorker.made.at(-1) as FakeWorker;
const rows = (generation: number, from = 0) => ({ type: "rows", generation, from, columns: [new Float32Array(1)] });
const done = (generation: number) => ({
  type: "done",
  generation,
  summary: shortSummary(),
  trace: { tickMs: 10, columns: [], events: [] },
});

beforeEach(() => {
  vi.useFakeTimers();
  FakeWorker.made = [];
  heard = [];
  vi.stubGlobal("Worker", FakeWorker);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("one warm worker", () => {
  test("is made once and answers in order", () => {
    const rehearser = new Rehearser();
    rehearser.warmUp();
    rehearser.start(request, listener);
    last().say(rows(1));
    last().say(done(1));
    rehearser.start(request, listener);
    last().say(done(2));
    expect(heard).toEqual(["rows 0", "done", "done"]);
    expect(FakeWorker.made).toHaveLength(1);
  });

  test("answers of an older request are not heard, nor those of a cancelled one", () => {
    const rehearser = new Rehearser();
    rehearser.start(request, listener);
    rehearser.start(request, listener);
    last().say(done(1));
    expect(heard).toEqual([]);
    rehearser.cancel();
    last().say(done(2));
    expect(heard).toEqual([]);
    expect(last().sent.at(-1)).toEqual({ type: "stop", generation: 3 });
  });

  test("one that falls silent at work is replaced and asked again; a second silence is said", async () => {
    const rehearser = new Rehearser();
    rehearser.start(request, listener);
    last().say(rows(1));
    await vi.advanceTimersByTimeAsync(600);
    expect(FakeWorker.made).toHaveLength(2);
    expect(FakeWorker.made[0]?.ended).toBe(true);
    expect(last().sent.map((message) => message.type)).toEqual(["rehearse"]);
    await vi.advanceTimersByTimeAsync(10_100);
    expect(heard.at(-1)).toContain("did not answer");
  });

  test("the one in its place may be slow, as on a computer with much else to do; five seconds of silence are said", async () => {
    const rehearser = new Rehearser();
    rehearser.start(request, listener);
    last().say(rows(1));
    await vi.advanceTimersByTimeAsync(600);
    for (let i = 0; i < 4; i += 1) {
      await vi.advanceTimersByTimeAsync(4000);
      last().say(rows(1));
    }
    expect(FakeWorker.made).toHaveLength(2);
    expect(heard).toEqual(Array.from({ length: 5 }, () => "rows 0"));
    await vi.advanceTimersByTimeAsync(5100);
    expect(heard.at(-1)).toContain("did not answer");
  });

  test("a cold one is given time to load", async () => {
    const rehearser = new Rehearser();
    rehearser.start(request, listener);
    await vi.advanceTimersByTimeAsync(5000);
    expect(FakeWorker.made).toHaveLength(1);
    last().say(done(1));
    await vi.advanceTimersByTimeAsync(20_000);
    expect(heard).toEqual(["done"]);
  });
});
