// The robot's drawing: what its window holds, how it fits a pane, and the words beside it.

import { readFileSync } from "node:fs";
import path from "node:path";
import { addPart, CATALOGUE, emptyRobot, findPart, openRobot, type Robot } from "@giddy-pebble/core";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { fitWindow, gridStep, planWindow, sideWindow } from "../../src/workplaces/robot/geometry.js";
import { derived } from "../../src/workplaces/robot/state.js";
import { figuresFor, partFact, partTitle } from "../../src/workplaces/robot/words.js";

function demo(name: string): Robot {
  const file = path.resolve(import.meta.dirname, `../../../demo/${name}.robot.json`);
  const read = openRobot(JSON.parse(readFileSync(file, "utf8")));
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
}

describe("the window of the drawing", () => {
  test("holds every corner, wheel and part of every demo robot", () => {
    for (const name of ["drizzle", "gust", "sleet", "fog"]) {
      const robot = demo(name);
      const { x, y, width, height } = planWindow(robot);
      const inside = (xM: number, yM: number) => {
        expect(xM * 1000, name).toBeGreaterThan(x);
        expect(xM * 1000, name).toBeLessThan(x + width);
        expect(-yM * 1000, name).toBeGreaterThan(y);
        expect(-yM * 1000, name).toBeLessThan(y + height);
      };
      for (const [xM, yM] of robot.chassis.outlineM) inside(xM, yM);
      for (const part of [...robot.wheels, ...robot.sensors, ...robot.attachments]) inside(part.xM, part.yM);
      const side = sideWindow(robot);
      expect(-robot.chassis.heightM * 1000).toBeGreaterThan(side.y);
      expect(side.y + side.height).toBeGreaterThan(0);
    }
  });

  test("stays finite whatever numbers a robot has", () => {
    fc.assert(
      fc.property(fc.double({ noNaN: true }), fc.double({ noNaN: true }), (xM, yM) => {
        const robot = demo("drizzle");
        const wild = { ...robot, sensors: robot.sensors.map((sensor) => ({ ...sensor, xM, yM })) };
        const window = planWindow(wild);
        expect(Object.values(window).every(Number.isFinite)).toBe(true);
        expect(window.width).toBeLessThan(5000);
      }),
    );
  });

  test("fits its pane evenly, in the middle", () => {
    const window = { x: -100, y: -50, width: 200, height: 100 };
    expect(fitWindow(window, 400, 400)).toEqual({ scale: 2, left: 0, top: 100 });
    expect(fitWindow(window, 4000, 100)).toEqual({ scale: 1, left: 1900, top: 0 });
    expect([0.3, 1, 2, 5].map(gridStep)).toEqual([100, 20, 10, 5]);
  });
});

describe("words beside parts", () => {
  test("every part of the catalogue has a title, a fact that can be read, and figures", () => {
    for (const { id } of CATALOGUE) {
      const { robot, ref } = addPart(emptyRobot("Test"), id);
      const part = findPart(robot, ref);
      if (!part) throw new Error(id);
      expect(partTitle(robot, part)).toMatch(/^[A-Z][a-z0-9 ]+$/);
      expect(partFact(robot, part)).not.toMatch(/NaN|undefined/);
      expect(figuresFor(part.kind).length).toBeGreaterThan(2);
    }
  });

  test("a motor's place and its reversal stand beside it", () => {
    const robot = demo("drizzle");
    const fact = (ref: string) => partFact(robot, findPart(robot, ref) as NonNullable<ReturnType<typeof findPart>>);
    expect(fact("right_motor")).toBe("2, reversed");
    expect(fact("left_wheel")).toBe("62 mm");
    expect(fact("drive")).toBe("2 wheels");
    expect(fact("support")).toBe("rear");
    expect(fact("pack")).toBe("7.4 V");
  });
});

describe("what follows from a robot", () => {
  test("figures and loads for a sound one, problems alone for one that is not", () => {
    const sound = derived(demo("gust"));
    expect(sound.problems).toEqual([]);
    expect(sound.figures.length).toBeGreaterThan(8);
    expect(sound.loads).toHaveLength(3);
    const empty = derived(emptyRobot("Test"));
    expect(empty.problems[0]?.code).toBe("no-wheels");
    expect([empty.figures, empty.loads]).toEqual([[], []]);
  });
});
