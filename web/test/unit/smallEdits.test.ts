// A press of a pointer, from its begin to its end, as the page is told of it: what is changed within one is one step back.
import { afterAll, beforeAll, beforeEach, expect, test, vi } from "vitest";
import type { SmallEdit } from "../../src/shared/smallEdits.js";

const page = new EventTarget();
let edits: typeof import("../../src/shared/smallEdits.js");
beforeAll(async () => {
  vi.stubGlobal("window", page);
  edits = await import("../../src/shared/smallEdits.js");
});
beforeEach(() => vi.useFakeTimers());
afterAll(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const MOUSE = 1;
const FINGER = 2;

/** Tells the page of a pointer. @param buttons - that are down then */
function tell(what: "pointerdown" | "pointermove" | "pointerup" | "pointercancel", pointerId: number, buttons: number) {
  page.dispatchEvent(Object.assign(new Event(what), { pointerId, buttons }));
  vi.advanceTimersByTime(1);
}

/** The same change again, after longer than typing in one place may pause. */
function later(first: SmallEdit): boolean {
  vi.advanceTimersByTime(5000);
  return edits.goesOn(first, edits.smallEdit(first.key));
}

test("a change within a press goes on with the one before, however long it is held still", () => {
  tell("pointerdown", MOUSE, 1);
  const first = edits.smallEdit("length");
  tell("pointermove", MOUSE, 1);
  expect(later(first)).toBe(true);
  tell("pointerup", MOUSE, 0);
  expect(later(first)).toBe(false);
});

test.each(["pointerup", "pointercancel"] as const)("%s ends it once what was dragged is put down", (end) => {
  tell("pointerdown", MOUSE, 1);
  const before = edits.heldEdit("move");
  page.dispatchEvent(Object.assign(new Event(end), { pointerId: MOUSE, buttons: 0 }));
  expect(edits.heldEdit("move")?.key).toBe(before?.key);
  vi.advanceTimersByTime(1);
  expect(edits.heldEdit("move")).toBeNull();
});

test("a press whose end was never told ends when its pointer moves with no button down", () => {
  tell("pointerdown", MOUSE, 1);
  const first = edits.smallEdit("length");
  tell("pointermove", MOUSE, 0);
  expect(later(first)).toBe(false);
  expect(edits.heldEdit("move")).toBeNull();
});

test.each(["pointermove", "pointerup"] as const)("%s of another pointer ends no press", (what) => {
  tell("pointerdown", FINGER, 1);
  const first = edits.smallEdit("length");
  tell(what, MOUSE, 0);
  expect(later(first)).toBe(true);
  tell("pointerup", FINGER, 0);
});

test("two presses are two steps back", () => {
  tell("pointerdown", MOUSE, 1);
  const first = edits.heldEdit("move");
  tell("pointerup", MOUSE, 0);
  tell("pointerdown", MOUSE, 1);
  expect(edits.heldEdit("move")?.key).not.toBe(first?.key);
  tell("pointerup", MOUSE, 0);
});
