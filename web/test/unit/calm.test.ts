// Numbers that change fifty times a second, and how often somebody is told.
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { createStore } from "zustand/vanilla";
import { READ_EVERY_MS, subscribeCalmly } from "../../src/shared/calm.js";

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

test("of fifty a second every fifth is told, and the last of all", () => {
  change(52);
  expect(told).toEqual([1, 5, 10, 15, 20, 25, 30, 35, 40, 45, 50]);
  vi.advanceTimersByTime(READ_EVERY_MS);
  expect(told.at(-1)).toBe(52);
  vi.advanceTimersByTime(10 * READ_EVERY_MS);
  expect(told).toHaveLength(12);
});

test("nothing is told once it is ended, not even what waited", () => {
  change(3);
  end();
  vi.advanceTimersByTime(10 * READ_EVERY_MS);
  change(3);
  expect(told).toEqual([1]);
});
