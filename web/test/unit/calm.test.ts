// What changes fifty times a second, and how often and when it is told.
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { createStore } from "zustand/vanilla";
import { calmTeller, LIVE_EVERY_MS, READ_EVERY_MS, subscribeCalmly } from "../../src/shared/calm.js";

const store = createStore(() => ({ n: 0 }));
let told: number[];
let end: () => void;
beforeEach(() => {
  vi.useFakeTimers({ toFake: ["performance", "setTimeout", "clearTimeout"] });
  store.setState({ n: 0 });
  told = [];
  end = subscribeCalmly(store, READ_EVERY_MS, () => told.push(store.getState().n));
});
afterEach(() => {
  end();
  vi.useRealTimers();
});

/** Changes, one every 20 ms. */
function change(times: number): void {
  for (let i = 0; i < times; i += 1) {
    store.setState(({ n }) => ({ n: n + 1 }));
    vi.advanceTimersByTime(20);
  }
}

test("the first change is told at once", () => {
  store.setState({ n: 7 });
  expect(told).toEqual([7]);
});

test("of fifty a second every sixth is told, and the last of all", () => {
  change(52);
  expect(told).toEqual([1, 6, 12, 18, 24, 30, 36, 42, 48]);
  vi.advanceTimersByTime(READ_EVERY_MS);
  expect(told.at(-1)).toBe(52);
  vi.advanceTimersByTime(10 * READ_EVERY_MS);
  expect(told).toHaveLength(10);
});

test("whoever began to listen, and whenever: all are told on one beat", () => {
  const beats: number[][] = [[], []];
  const tellers = [LIVE_EVERY_MS, READ_EVERY_MS].map((every, i) =>
    calmTeller(every, () => beats[i]?.push(performance.now())),
  );
  vi.advanceTimersByTime(7);
  // They hear of it at other times of the beat, too, and one of them not in each beat.
  for (let i = 0; i < 60; i += 1) {
    tellers[0]?.happened();
    vi.advanceTimersByTime(29);
    tellers[1]?.happened();
    vi.advanceTimersByTime(22);
  }
  const [often = [], seldom = []] = beats;
  // The first is told at once, each by itself.
  expect([often.shift(), seldom.shift()]).toEqual([7, 36]);
  expect(often.length).toBeGreaterThan(50);
  expect(seldom.length).toBeGreaterThan(20);
  for (const at of often) expect(at % LIVE_EVERY_MS).toBe(0);
  for (const at of seldom) expect(at % READ_EVERY_MS).toBe(0);
});

test("after a while of silence the next change is told at once again", () => {
  change(3);
  vi.advanceTimersByTime(10 * READ_EVERY_MS + 50);
  store.setState({ n: 99 });
  expect(told.at(-1)).toBe(99);
});

test("nothing is told once it is ended, not even what waited", () => {
  change(3);
  end();
  vi.advanceTimersByTime(10 * READ_EVERY_MS);
  change(3);
  expect(told).toEqual([1]);
});
