// What moves with the playhead: all of it while it is moved by hand; numbers ten times a second while it runs.
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { hearPlayhead } from "../../src/shared/mission/follow.js";
import { movePlayhead, playhead, useMission } from "../../src/shared/mission/state.js";

let seen: number[];
let end = () => {};
const listen = (calm: boolean) => {
  seen = [];
  end = hearPlayhead(() => seen.push(playhead.tick), calm);
};

beforeEach(() => vi.useFakeTimers());
afterEach(() => {
  end();
  useMission.setState({ playing: false });
  movePlayhead(0);
  vi.useRealTimers();
});

/** A second of frames. */
function run(): void {
  useMission.setState({ playing: true });
  for (let tick = 1; tick <= 60; tick += 1) {
    movePlayhead(tick);
    vi.advanceTimersByTime(1000 / 60);
  }
}

test("what is drawn with it is drawn each time", () => {
  listen(false);
  run();
  expect(seen).toEqual(Array.from({ length: 60 }, (_, i) => i + 1));
});

test("numbers change ten times a second while it runs, and come to where it stops", () => {
  listen(true);
  run();
  expect(seen.length).toBeGreaterThanOrEqual(9);
  expect(seen.length).toBeLessThanOrEqual(11);
  useMission.setState({ playing: false });
  vi.advanceTimersByTime(100);
  expect(seen.at(-1)).toBe(60);
});

test("numbers follow each move of a hand", () => {
  listen(true);
  for (const tick of [3, 9, 4]) movePlayhead(tick);
  expect(seen).toEqual([3, 9, 4]);
});

test("who has left hears nothing more", () => {
  listen(true);
  run();
  const heard = seen.length;
  movePlayhead(61);
  end();
  vi.advanceTimersByTime(1000);
  expect(seen.length - heard).toBeLessThanOrEqual(1);
});
