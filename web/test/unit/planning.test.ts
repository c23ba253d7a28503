// How often a plan that grows is drawn: the worker sends rows a hundred times a second, and each drawing of the whole page
// takes longer than that.
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { DRAW_EVERY_MS, plan } from "../../src/shared/mission/planning.js";
import { type Path, useMission } from "../../src/shared/mission/state.js";
import { paced } from "../../src/shared/paced.js";

interface Listener {
  rows(from: number, columns: readonly Float32Array[]): void;
  done(summary: unknown, trace: unknown): void;
}
let listener: Listener;
vi.mock("../../src/workers/rehearser.js", () => ({
  Rehearser: class {
    start(_request: unknown, own: Listener) {
      listener = own;
    }
  },
}));

let drawn: (Path | null)[];
let end: () => void;
beforeEach(() => {
  vi.useFakeTimers({ toFake: ["performance"] });
  useMission.setState({ planned: null, plannedStale: true });
  drawn = [];
  end = useMission.subscribe((state, before) => {
    if (state.planned !== before.planned) drawn.push(state.planned);
  });
  plan(null as never, null as never, null as never);
});
afterEach(() => {
  end();
  vi.useRealTimers();
});

/** So many pieces of 10 rows each, one every 8 ms. */
function arrive(pieces: number, from = 0): void {
  for (let i = from; i < from + pieces; i += 1) {
    vi.advanceTimersByTime(8);
    const column = Float32Array.from({ length: 10 }, (_, row) => 10 * i + row);
    listener.rows(10 * i, [column, column, column]);
  }
}

test("a quick plan is drawn once, whole", () => {
  arrive(14);
  listener.done({}, {});
  expect(drawn.map((path) => path?.x.length)).toEqual([140]);
  expect(drawn[0]?.summary).not.toBeNull();
});

test("a long plan is drawn as it comes, seven times a second at most, and whole at its end", () => {
  arrive(125);
  expect(drawn.length).toBeGreaterThan(4);
  expect(drawn.length).toBeLessThanOrEqual(1 + Math.floor(1000 / DRAW_EVERY_MS));
  expect(drawn.at(-1)?.summary).toBeNull();
  listener.done({}, {});
  const whole = drawn.at(-1);
  expect(Array.from(whole?.x ?? [])).toEqual(Array.from({ length: 1250 }, (_, i) => i));
  expect(useMission.getState().plannedStale).toBe(false);
});

test("however long a showing takes, the pause after it is as long", () => {
  const shown: number[] = [];
  const show = paced(100);
  for (let i = 0; i < 60; i += 1) {
    show(() => {
      shown.push(performance.now());
      vi.advanceTimersByTime(70);
    });
    vi.advanceTimersByTime(10);
  }
  expect(shown.length).toBeGreaterThan(3);
  for (const [i, at] of shown.slice(1).entries()) expect(at - (shown[i] ?? 0)).toBeGreaterThanOrEqual(170);
});
