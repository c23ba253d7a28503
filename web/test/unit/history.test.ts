import { describe, expect, test } from "vitest";
import { carryIds, type History, reduce, startHistory } from "../../src/shared/mission/history.js";

const start = startHistory("a\nb\nc");
const edit = (history: History, text: string, label = "edit", typing?: { key: string; at: number; press?: number }) =>
  reduce(history, { type: "edit", text, label, ...(typing ? { typing: { press: null, ...typing } } : {}) });

describe("history", () => {
  test("undo and redo walk the same texts, and an edit ends redo", () => {
    const two = edit(edit(start, "a\nb\nc\nd"), "b\nc\nd");
    const undone = reduce(reduce(two, { type: "undo" }), { type: "undo" });
    expect(undone.present).toEqual(start.present);
    const redone = reduce(undone, { type: "redo" });
    expect(redone.present.text).toBe("a\nb\nc\nd");
    expect(reduce(edit(redone, "x"), { type: "redo" }).present.text).toBe("x");
    expect(reduce(start, { type: "undo" })).toBe(start);
  });

  test("typing in one place within a moment is one entry, elsewhere or later another", () => {
    let history = edit(start, "a1\nb\nc", "typing", { key: "text/1", at: 0 });
    history = edit(history, "a12\nb\nc", "typing", { key: "text/1", at: 500 });
    expect(history.past).toHaveLength(1);
    history = edit(history, "a12\nb1\nc", "typing", { key: "text/2", at: 600 });
    history = edit(history, "a12\nb12\nc", "typing", { key: "text/2", at: 6000 });
    expect(history.past).toHaveLength(3);
  });

  test("a drag is one entry from its press to its end, however long it is held still", () => {
    let history = edit(start, "a1\nb\nc", "dragging", { key: "number/0", at: 0, press: 4 });
    history = edit(history, "a2\nb\nc", "dragging", { key: "number/0", at: 60_000, press: 4 });
    expect(history.past).toHaveLength(1);
    history = edit(history, "a3\nb\nc", "dragging", { key: "number/0", at: 120_000, press: 5 });
    history = edit(history, "a3\nb1\nc", "dragging", { key: "number/9", at: 120_001, press: 5 });
    expect(history.past).toHaveLength(3);
  });

  test("lines keep their ids through edits elsewhere, moves and changes in place", () => {
    const ids = (text: string) => carryIds(start.present, text, 10).ids;
    const [a, b, c] = start.present.lineIds;
    expect(ids("a\nnew\nb\nc")).toEqual([a, "l11", b, c]);
    expect(ids("b\na\nc")).toEqual([b, a, c]);
    expect(ids("a\nchanged\nc")).toEqual([a, b, c]);
    expect(ids("c")).toEqual([c]);
    expect(new Set(ids("a\nb\nb\nb\nc")).size).toBe(5);
  });

  test("selection follows its line, and undo brings it back", () => {
    const selected = reduce(start, { type: "select", line: 2 });
    const moved = reduce(selected, { type: "edit", text: "c\na\nb", label: "moving" });
    expect(moved.present.lineIds.indexOf(moved.present.selected ?? "")).toBe(0);
    expect(reduce(moved, { type: "undo" }).present.selected).toBe(selected.present.selected);
  });

  test("an edit that changes nothing is no entry", () => {
    expect(edit(start, "a\nb\nc")).toBe(start);
  });
});
