// Pads, keys and fingers as one handset: layouts, learning by moving, broken values, and pads that go.
import { BUTTONS } from "@giddy-pebble/core";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import {
  arrowsAreRightStick,
  forgetLayout,
  held,
  isHandKey,
  keyMoved,
  learn,
  letGo,
  readHands,
  tapsSent,
  touchButton,
  touched,
  useHands,
} from "../../src/workplaces/drive/hands.js";

interface Pad {
  id: string;
  index: number;
  mapping: string;
  connected: boolean;
  axes: unknown[];
  buttons: { value: number }[];
}

let pad: Pad | null = null;
const kept = new Map<string, string>();
const padOf = (id: string, mapping = "standard", axes = 4, buttons = 17): Pad => ({
  id,
  index: 0,
  mapping,
  connected: true,
  axes: new Array(axes).fill(0),
  buttons: Array.from({ length: buttons }, () => ({ value: 0 })),
});
const sticks = () => held.now.sticks.map((value) => value + 0);
const pressed = () => BUTTONS.filter((_, i) => (held.now.buttons & (1 << i)) !== 0);

beforeEach(() => {
  pad = null;
  kept.clear();
  vi.stubGlobal("navigator", { getGamepads: () => [pad] });
  vi.stubGlobal("localStorage", {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
    removeItem: (key: string) => kept.delete(key),
  });
  // A pad of the test before is noticed to be gone, and everything is let go.
  readHands();
  readHands();
  letGo();
});
afterEach(() => vi.unstubAllGlobals());

describe("keys", () => {
  test("are the left stick; the arrows the same one, or the right one with tank", () => {
    keyMoved("KeyW", true);
    keyMoved("ArrowLeft", true);
    readHands();
    expect(sticks()).toEqual([1, 1, 0, 1]);
    keyMoved("KeyW", false);
    keyMoved("ArrowLeft", false);
    arrowsAreRightStick(true);
    keyMoved("KeyS", true);
    keyMoved("ArrowUp", true);
    readHands();
    expect(sticks()).toEqual([-1, 0, 1, 0]);
    arrowsAreRightStick(false);
  });

  test("press buttons; a tap between two frames counts once", () => {
    keyMoved("Space", true);
    keyMoved("Space", false);
    readHands();
    expect(pressed()).toEqual(["thumb.lower"]);
    tapsSent();
    readHands();
    expect(pressed()).toEqual([]);
  });

  test("that do not drive are the page's", () => {
    expect([isHandKey("KeyW"), isHandKey("Space"), isHandKey("KeyM"), isHandKey("toString")]).toEqual([
      true,
      true,
      false,
      false,
    ]);
  });
});

describe("a finger", () => {
  test("pulls the stick no further than its end, and letting go of the page lets go of all", () => {
    touched.sticks = [1.0000000000000002, Number.NaN, 0, 0];
    touchButton(2, true);
    readHands();
    expect(sticks()).toEqual([1, 0, 0, 0]);
    expect(pressed()).toEqual(["thumb.left"]);
    letGo();
    readHands();
    expect([sticks(), pressed()]).toEqual([[0, 0, 0, 0], []]);
  });
});

test("a quick tap is held until a frame with it was sent, once", () => {
  touchButton(2, true);
  touchButton(2, false);
  readHands();
  expect(pressed()).toEqual(["thumb.left"]);
  // The link did not keep up: nothing was sent, and the tap waits.
  readHands();
  expect(pressed()).toEqual(["thumb.left"]);
  tapsSent();
  readHands();
  expect(pressed()).toEqual([]);
});

describe("a gamepad", () => {
  test("of the standard layout counts forward and left as positive", () => {
    pad = padOf("one");
    pad.axes = [-0.5, -1, 0.25, 0.75];
    pad.buttons[7] = { value: 0.8 };
    readHands();
    expect(sticks()).toEqual([1, 0.5, -0.75, -0.25]);
    expect(pressed()).toEqual(["trigger.right"]);
    expect(held.now.levels[1]).toBe(0.8);
  });

  test("with broken values is at rest where they are", () => {
    pad = padOf("broken", "", 2, 3);
    pad.axes = [Number.NaN, "up"];
    pad.buttons = [{ value: Number.NaN }, { value: 1 }, { value: Number.POSITIVE_INFINITY }];
    readHands();
    expect(sticks()).toEqual([0, 0, 0, 0]);
    expect(pressed()).toEqual(["thumb.right", "thumb.left"]);
  });

  test("is learned by moving it, in the direction asked for, and remembered", () => {
    pad = padOf("odd", "", 8, 32);
    pad.axes[6] = 0.3;
    readHands();
    learn({ what: "stick", index: 0 });
    pad.axes[6] = -0.9;
    readHands();
    expect(useHands.getState().learning).toBeNull();
    expect(sticks()[0]).toBeCloseTo(0.9, 12);
    learn({ what: "button", index: 5 });
    // While one is looked for, nothing moves the robot.
    expect(readHands()).toEqual({ padGone: false });
    expect(sticks()[0]).toBe(0);
    pad.buttons[30] = { value: 1 };
    readHands();
    readHands();
    expect(pressed()).toEqual(["shoulder.right"]);
    expect(JSON.parse([...kept.values()][0] ?? "{}").axes[0]).toEqual({ axis: 6, sign: -1 });
    forgetLayout();
    expect(kept.size).toBe(0);
  });

  test("with a layout that was damaged where it is kept has the usual one", () => {
    kept.set("giddy-pebble pad damaged", '{"axes":[1,2]}');
    pad = padOf("damaged");
    pad.axes[1] = -1;
    readHands();
    expect(sticks()[0]).toBe(1);
  });

  test("that goes is told once, and leaves nothing held", () => {
    pad = padOf("loose");
    pad.axes[1] = -1;
    readHands();
    pad = null;
    expect(readHands()).toEqual({ padGone: true });
    expect(sticks()).toEqual([0, 0, 0, 0]);
    expect(useHands.getState()).toMatchObject({ pad: null, message: "loose is gone." });
    expect(readHands()).toEqual({ padGone: false });
  });
});
