// The shelf on disk and the robot's time: what outlives a restart, what is left alone, what comes due when.
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { packageSchema, SHELF_ROOM } from "@giddy-pebble/core";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { TestClock } from "../src/host/clock.js";
import { Shelf, sha256 } from "../src/host/shelf.js";
import { demoRobot } from "./support.js";

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-shelf-"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

function packed(text: string): string {
  return JSON.stringify({
    format: "giddy-pebble/package",
    version: 1,
    text,
    robot: demoRobot("drizzle"),
    field: null,
  });
}

function put(shelf: Shelf, name: string, text = "cairn 1\nmission\n  beep\n"): string {
  const payload = packed(text);
  const from = { name, label: "version 1", origin: "here", savedAt: "2026-11-23T12:00:00Z" };
  shelf.put(from, payload, packageSchema.parse(JSON.parse(payload)));
  return payload;
}

describe("a shelf", () => {
  it("is there again after a restart, with what was said of each mission", () => {
    const payload = put(new Shelf(folder), "First roll out");
    const [entry] = new Shelf(folder).entries;
    expect(entry).toEqual({
      name: "First roll out",
      label: "version 1",
      origin: "here",
      savedAt: "2026-11-23T12:00:00Z",
      sha256: sha256(payload),
      bytes: Buffer.byteLength(payload),
    });
    expect(new Shelf(folder).get("First roll out")?.program.text).toBe("cairn 1\nmission\n  beep\n");
  });

  it("holds a dozen, and a thirteenth only in place of one", () => {
    const shelf = new Shelf(folder);
    for (let i = 0; i < SHELF_ROOM; i += 1) put(shelf, `Mission ${i}`);
    expect(shelf.entries).toHaveLength(12);
    expect(shelf.hasRoomFor("Another")).toBe(false);
    expect(shelf.hasRoomFor("Mission 3")).toBe(true);
    expect(shelf.remove("Mission 3")).toBe(true);
    expect(shelf.remove("Mission 3")).toBe(false);
    expect(shelf.hasRoomFor("Another")).toBe(true);
    expect(new Shelf(folder).entries).toHaveLength(11);
  });

  it("sorts by name, and a mission sent again takes the place of its older self", () => {
    const shelf = new Shelf(folder);
    for (const name of ["Zig", "Alp", "Mid"]) put(shelf, name);
    put(shelf, "Mid", "cairn 1\nmission\n  wait 1 s\n");
    expect(shelf.entries.map(({ name }) => name)).toEqual(["Alp", "Mid", "Zig"]);
    expect(readdirSync(folder)).toHaveLength(3);
    expect(shelf.get("Mid")?.program.text).toContain("wait 1 s");
  });

  it("takes no name for a path", () => {
    const shelf = new Shelf(folder);
    for (const name of ["../../etc/passwd", "a/b", "..", "C:\\x", "\u0000", "ß".repeat(60)]) put(shelf, name);
    const files = readdirSync(folder);
    expect(files).toHaveLength(6);
    for (const file of files) expect(file).toMatch(/^[0-9a-f]{24}\.json$/);
    expect(new Shelf(folder).get("../../etc/passwd")).not.toBeNull();
  });

  it("leaves files alone that it cannot read, and lists the others", () => {
    put(new Shelf(folder), "Whole");
    writeFileSync(path.join(folder, "half.json"), '{"from":{"name":"Half"');
    writeFileSync(
      path.join(folder, "other.json"),
      '{"from":{"name":"Other","label":"","origin":"","savedAt":""},"payload":"{}"}',
    );
    writeFileSync(path.join(folder, "note.txt"), "hello");
    const shelf = new Shelf(folder);
    expect(shelf.entries.map(({ name }) => name)).toEqual(["Whole"]);
    expect(readFileSync(path.join(folder, "half.json"), "utf8")).toContain("Half");
  });

  it("that was killed between writing and renaming has the old one whole", () => {
    const shelf = new Shelf(folder);
    put(shelf, "Kept");
    const [file = ""] = readdirSync(folder);
    writeFileSync(path.join(folder, `${file}.new`), "half of a new o");
    expect(new Shelf(folder).get("Kept")?.program.text).toBe("cairn 1\nmission\n  beep\n");
  });
});

describe("a clock that tests move", () => {
  it("calls what is due in its order, with the time it was due at", () => {
    const clock = new TestClock();
    const heard: string[] = [];
    clock.every(10, () => heard.push(`tick ${clock.now()}`));
    clock.after(25, () => heard.push(`once ${clock.now()}`));
    clock.pass(9);
    expect(heard).toEqual([]);
    clock.pass(21);
    expect(heard).toEqual(["tick 10", "tick 20", "once 25", "tick 30"]);
    expect(clock.now()).toBe(30);
  });

  it("calls nothing that was ended, not even by one that came before it", () => {
    const clock = new TestClock();
    let calls = 0;
    const end = clock.every(10, () => {
      calls += 1;
    });
    clock.after(15, () => end());
    clock.pass(100);
    expect(calls).toBe(1);
  });

  it("lets a call set up another that is due in the same stretch", () => {
    const clock = new TestClock();
    const heard: number[] = [];
    clock.after(5, () => clock.after(5, () => heard.push(clock.now())));
    clock.pass(50);
    expect(heard).toEqual([10]);
  });
});
