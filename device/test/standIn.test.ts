// The stand-in: what it does is what its hidden truth says, and a tape shows it.

import { openFloor, PI, readField, sensorSchema } from "@giddy-pebble/core";
import { describe, expect, it } from "vitest";
import { beginOfText, dealTruth, StandIn } from "../src/index.js";
import { demoRobot, demoText } from "./support.js";

function finish(standIn: StandIn): void {
  for (let i = 0; standIn.running && i < 70_000; i += 1) standIn.tick();
}

function place(standIn: StandIn): void {
  const field = openFloor();
  standIn.place(field, { name: "middle", xM: 1, yM: 2, headingRad: 0 }, "jig");
}

describe("the simulated robot", () => {
  it("rolls further than it believes by just its hidden wheel size", () => {
    const robot = demoRobot("drizzle");
    for (const seed of [1, 2, 3]) {
      const standIn = new StandIn(robot, seed, false);
      const truth = dealTruth(robot, seed, false);
      place(standIn);
      expect(standIn.run("cairn 1\nmission\n  go 1.5 m at 20 cm/s\n").ok).toBe(true);
      finish(standIn);
      const mean = (truth.rollLeft + truth.rollRight) / 2;
      // Tape 1 mm, placing 0.4 mm, the end of a go 1 mm: three standard deviations of all together.
      expect(Math.abs(standIn.tape().alongM - 1.5 * mean)).toBeLessThan(0.006);
    }
  });

  it("reckons where it believes to be, not where it is", () => {
    const standIn = new StandIn(demoRobot("drizzle"), 4, false);
    place(standIn);
    standIn.run("cairn 1\nmission\n  go 1 m\n");
    finish(standIn);
    const end = standIn.last?.summary.end;
    expect(Math.abs((end?.xM ?? 0) - 2)).toBeLessThan(0.003);
  });

  it("deals equal truths for equal seeds, within the stated widths", () => {
    const robot = demoRobot("drizzle");
    expect(dealTruth(robot, 9)).toEqual(dealTruth(robot, 9));
    for (let seed = 0; seed < 200; seed += 1) {
      const truth = dealTruth(robot, seed);
      expect(Math.abs(truth.rollRight / truth.rollLeft - 1)).toBeLessThan(0.0152);
      expect(Math.abs(truth.trackWidth - 1)).toBeLessThanOrEqual(0.05);
      expect(Math.abs(truth.gyroRestRadS)).toBeLessThanOrEqual((0.3 * PI) / 180);
    }
  });

  it("uses up its pack, and runs the next mission on what is left", () => {
    const standIn = new StandIn(demoRobot("drizzle"), 5);
    place(standIn);
    const full = standIn.charge;
    standIn.run("cairn 1\nmission\n  go 1 m\n");
    finish(standIn);
    const after = standIn.charge;
    expect(after).toBeLessThan(full);
    place(standIn);
    expect(standIn.charge).toBe(after);
    standIn.rest(3600);
    expect(standIn.charge).toBeLessThan(after);
  });

  it("stops a run when its board restarts, and takes none until it is up again", () => {
    const standIn = new StandIn(demoRobot("drizzle"), 6);
    place(standIn);
    standIn.run("cairn 1\nmission\n  go 1 m\n");
    for (let i = 0; i < 50; i += 1) standIn.tick();
    standIn.restart();
    expect(standIn.last?.summary.reason).toBe("the board restarted");
    expect(standIn.run("cairn 1\nmission\n  go 1 m\n").ok).toBe(false);
    for (let i = 0; i < 151; i += 1) standIn.tick();
    expect(standIn.run("cairn 1\nmission\n  go 10 cm\n").ok).toBe(true);
  });

  it("waits for a button until somebody presses it", () => {
    const plain = demoRobot("drizzle");
    const button = sensorSchema.parse({ kind: "button", name: "go_button", xM: 0, yM: 0 });
    const standIn = new StandIn({ ...plain, sensors: [...plain.sensors, button] }, 7);
    place(standIn);
    standIn.run("cairn 1\nmission\n  wait until go_button.pressed\n  note done = 1\n");
    for (let i = 0; i < 1000; i += 1) standIn.tick();
    expect(standIn.doing).toBe("running");
    standIn.press("go_button", true);
    finish(standIn);
    expect(standIn.last?.summary.notes).toHaveLength(1);
  });

  it("shows, lights and beeps in one tick: the last of each stands until the next run", () => {
    const standIn = new StandIn(demoRobot("drizzle"), 7);
    place(standIn);
    standIn.run('cairn 1\nmission\n  show "one"\n  show "two"\n  light 60 %\n  beep\n  wait 1 s\n');
    for (let i = 0; i < 20; i += 1) standIn.tick();
    expect([standIn.display, standIn.light]).toEqual(["two", "60 %"]);
    finish(standIn);
    expect([standIn.display, standIn.light]).toEqual(["two", "60 %"]);
    expect(standIn.last?.summary.signs.map(({ kind }) => kind)).toEqual(["show", "show", "light", "beep"]);
    standIn.run("cairn 1\nmission\n  wait 1 s\n");
    expect([standIn.display, standIn.light]).toEqual(["", ""]);
  });

  it("counts no more with an encoder's plug out, and says the wheels do not turn", () => {
    const standIn = new StandIn(demoRobot("drizzle"), 8);
    standIn.unplugged.add("left_motor");
    place(standIn);
    standIn.run("cairn 1\nmission\n  go 1 m for 3 s\n");
    finish(standIn);
    const counts = standIn.last?.trace.columns.find(({ id }) => id === "leftCounts")?.values;
    expect(counts && new Set(counts).size).toBe(1);
  });

  it("stands on a field's start place and keeps pushed loads where they are", () => {
    const field = readField(JSON.parse(demoText("fellside.field.json")));
    if (!field.ok) throw new Error("Fellside reads");
    const text = demoText("missions/first-roll-out.cairn");
    const standIn = new StandIn(demoRobot("drizzle"), 9);
    standIn.place(field.document, beginOfText(text, field.document), "eye");
    expect(standIn.run(text).ok).toBe(true);
    finish(standIn);
    expect(standIn.last?.summary).toMatchObject({ outcome: "finished", success: true });
    expect(standIn.tape().alongM).toBeLessThan(0.1);
  });

  it("counts a zone with a time of its own when that comes, by its own count", () => {
    const robot = demoRobot("drizzle");
    const zoneAt = (name: string, xM: number, beforeSec: number | null) => ({
      name,
      shape: { kind: "ellipse" as const, centreM: [xM, 2] as const, radiusXM: 0.3, radiusYM: 0.3 },
      colour: "#3B7A57",
      points: 5,
      rule: "inside" as const,
      counts: "robot" as const,
      only: null,
      upright: false,
      most: 1,
      beforeSec,
    });
    const read = readField({
      ...openFloor(),
      zones: [zoneAt("early", 1, 1), zoneAt("late", 1, 60), zoneAt("end", 2, 60), zoneAt("always", 2, null)],
    });
    if (!read.ok) throw new Error(read.problems.join("; "));
    const standIn = new StandIn(robot, 3);
    standIn.place(read.document, { name: "middle", xM: 1, yM: 2, headingRad: 0 }, "jig");
    // It stands in the first zone for its one second, and ends in the others.
    standIn.run("cairn 1\nmission\n  wait 1.2 s\n  go 1 m at 30 cm/s\n  wait 1 s\n");
    finish(standIn);
    const { summary } = standIn.last ?? {};
    expect(summary?.zones.map(({ zone, points }) => [zone, points])).toEqual([
      ["early", 5],
      ["end", 5],
      ["always", 5],
    ]);
    expect(summary?.score).toBe(15);
  });

  it("fails where a step reached its limit, as a rehearsal does", () => {
    const standIn = new StandIn(demoRobot("drizzle"), 3);
    place(standIn);
    standIn.run("cairn 1\nmission\n  go at 20 cm/s until bumper.pressed limit 20 cm\n");
    finish(standIn);
    expect(standIn.last?.summary).toMatchObject({ success: false, outcome: "finished" });
    expect(standIn.last?.summary.reason).toMatch(/^step 1 reached its limit/);
  });

  it("answers by the names of its parts when its drawing lists them in another order", () => {
    const robot = demoRobot("drizzle");
    const turned = structuredClone(robot);
    turned.motors.reverse();
    turned.servos.push({ ...(turned.servos[0] as (typeof turned.servos)[number]), name: "spare" });
    turned.servos.reverse();
    const text =
      "cairn 1\nmission\n  move lever to 40 deg\n  aim head to left 30 deg\n  note lever = arm.angle\n  note head = head.angle\n  go 50 cm\n";
    const notes = (believed: typeof robot) => {
      const standIn = new StandIn(robot, 6);
      place(standIn);
      expect(standIn.run(text, believed)).toEqual({ ok: true });
      finish(standIn);
      return standIn.last?.summary.notes;
    };
    expect(notes(turned)).toEqual(notes(robot));
    expect(notes(robot)).toHaveLength(2);
  });
});
