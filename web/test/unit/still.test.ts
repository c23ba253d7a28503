// The picture of what lies still: drawn once, anew for each thing that it depends on, and put where it was drawn.
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Pen } from "../../src/shared/field/drawField.js";
import { Still } from "../../src/shared/field/still.js";

interface FakeCanvas {
  width: number;
  height: number;
  context: FakeContext | null;
  getContext(): FakeContext | null;
}

class FakeContext {
  calls: string[] = [];
  constructor(readonly canvas: { width: number; height: number }) {}
  getTransform = () => "twice as large";
  setTransform = (how: string) => this.calls.push(`as ${how}`);
  save = () => this.calls.push("save");
  resetTransform = () => this.calls.push("plain");
  drawImage = (image: unknown, x: number, y: number) =>
    this.calls.push(`put ${made.indexOf(image as never)} ${x} ${y}`);
  restore = () => this.calls.push("restore");
}

let made: FakeCanvas[] = [];
let withContext = true;
let screen: FakeContext;
let drawnOn: unknown[] = [];

beforeEach(() => {
  made = [];
  drawnOn = [];
  withContext = true;
  screen = new FakeContext({ width: 400, height: 300 });
  vi.stubGlobal("document", {
    createElement: () => {
      const canvas: FakeCanvas = {
        width: 0,
        height: 0,
        context: null,
        getContext: () => {
          if (withContext) canvas.context ??= new FakeContext(canvas);
          return canvas.context;
        },
      };
      made.push(canvas);
      return canvas;
    },
  });
});
afterEach(() => vi.unstubAllGlobals());

const COLOURS = { ink: "black" };
const pen = (changes: Partial<Pen> = {}): Pen => ({
  context: screen as never,
  view: { scale: 200, originX: 10, originY: 290 },
  colours: COLOURS,
  dark: false,
  blocked: [{ left: 0, top: 0, right: 50, bottom: 20 }],
  ...changes,
});
const draw = (own: Pen) => void drawnOn.push(own.context);

test("the same is drawn once, and put on every frame where it was drawn", () => {
  const still = new Still();
  const field = {};
  for (let frame = 0; frame < 3; frame += 1) still.put(pen(), [field, 3, null], draw);
  expect(drawnOn).toEqual([made[0]?.context]);
  expect(made).toHaveLength(1);
  expect(made[0]).toMatchObject({ width: 400, height: 300 });
  expect(made[0]?.context?.calls).toEqual(["as twice as large"]);
  const one = ["save", "plain", "put 0 0 0", "restore"];
  expect(screen.calls).toEqual([...one, ...one, ...one]);
});

test.each<[string, Partial<Pen>, unknown[]]>([
  ["a thing that it depends on", {}, [{}, 3]],
  ["one thing more", {}, [1, 3, null]],
  ["the scale", { view: { scale: 201, originX: 10, originY: 290 } }, [1, 3]],
  ["the place of the field", { view: { scale: 200, originX: 11, originY: 290 } }, [1, 3]],
  ["the colours", { colours: { ink: "black" } }, [1, 3]],
  ["light or dark", { dark: true }, [1, 3]],
  ["where the page's words lie", { blocked: [{ left: 0, top: 0, right: 51, bottom: 20 }] }, [1, 3]],
  ["that no words lie there any more", { blocked: [] }, [1, 3]],
])("%s makes it be drawn anew, once", (_what, changes, of) => {
  const still = new Still();
  still.put(pen(), [1, 3], draw);
  still.put(pen(changes), of, draw);
  still.put(pen(changes), of, draw);
  expect(drawnOn).toHaveLength(2);
  expect(made).toHaveLength(1);
});

test("a canvas of another size makes it be drawn anew in that size", () => {
  const still = new Still();
  still.put(pen(), [1], draw);
  screen.canvas.width = 500;
  still.put(pen(), [1], draw);
  expect(drawnOn).toHaveLength(2);
  expect(made[0]).toMatchObject({ width: 500, height: 300 });
});

test("a canvas without room gets nothing, and one that cannot be made is done without", () => {
  const still = new Still();
  screen.canvas.height = 0;
  still.put(pen(), [1], draw);
  expect(drawnOn).toEqual([]);
  screen.canvas.height = 300;
  withContext = false;
  still.put(pen(), [1], draw);
  expect(drawnOn).toEqual([screen]);
  expect(screen.calls).toEqual([]);
});

test("of a line that gets longer only the new points are drawn, from the last that was there", () => {
  const still = new Still();
  const drawn: [unknown, number, number][] = [];
  const put = (count: number, of: readonly unknown[] = [1]) =>
    still.put(pen(), of, draw, { count, draw: (own, from) => drawn.push([own.context, from, count]) });
  const newest = () => drawn.at(-1)?.slice(1);
  put(5);
  expect(drawn[0]?.[0]).toBe(made[0]?.context);
  expect(newest()).toEqual([0, 5]);
  put(5);
  expect(drawn).toHaveLength(1);
  put(9);
  expect(newest()).toEqual([4, 9]);
  expect(drawnOn).toHaveLength(1);
  // Under it something changed: all of it is drawn over that.
  put(9, [2]);
  expect(newest()).toEqual([0, 9]);
  // Another line that is shorter as yet, and none at all.
  put(2, [2]);
  expect(newest()).toEqual([0, 2]);
  expect(drawnOn).toHaveLength(3);
  still.put(pen(), [2], draw);
  expect(drawnOn).toHaveLength(4);
  put(2, [2]);
  expect(newest()).toEqual([0, 2]);
  expect(drawnOn).toHaveLength(4);
  withContext = false;
  const bare = new Still();
  bare.put(pen(), [1], draw, { count: 7, draw: (own, from) => drawn.push([own.context, from, 7]) });
  expect(drawn.at(-1)).toEqual([screen, 0, 7]);
});
