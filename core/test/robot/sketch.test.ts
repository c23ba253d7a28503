// Small pictures of robots and fields: to scale, whole, and sound as XML.

import { describe, expect, test } from "vitest";
import { findStart, makeField } from "../../src/field/starts.js";
import { importSvg } from "../../src/field/svg/import.js";
import { fieldSketch } from "../../src/field/svg/sketch.js";
import { robotSketch } from "../../src/robot/sketch.js";
import { demoField, demoRobot } from "../support/demo.js";

const numbers = (text: string | undefined) => (text ?? "").split(/[ ,]/).map(Number);

describe("a robot from above", () => {
  test.each(["drizzle", "gust", "sleet", "fog", "thaw"])(
    "%s is whole within the picture, with every wheel and sensor",
    (name) => {
      const robot = demoRobot(name);
      const svg = robotSketch(robot);
      const [left = 0, top = 0, width = 0, height = 0] = numbers(/viewBox="([^"]+)"/.exec(svg)?.[1]);
      const corners = (/points="([^"]+)"/.exec(svg)?.[1] ?? "").split(" ").map(numbers);
      for (const [x = 0, y = 0] of corners) {
        expect(x).toBeGreaterThan(left);
        expect(x).toBeLessThan(left + width);
        expect(y).toBeGreaterThan(top);
        expect(y).toBeLessThan(top + height);
      }
      expect(svg.match(/<rect /g)).toHaveLength(robot.wheels.length);
      expect(svg.match(/<circle /g)).toHaveLength(robot.sensors.length);
    },
  );

  test("lengths are in mm: a wheel is as long as it is across, and as wide", () => {
    const robot = demoRobot("drizzle");
    const [wheel] = robot.wheels;
    const [, width, height] = /<rect [^>]*width="([\d.]+)" height="([\d.]+)"/.exec(robotSketch(robot)) ?? [];
    expect([Number(width), Number(height)]).toEqual([
      Math.round((wheel?.diameterM ?? 0) * 10_000) / 10,
      Math.round((wheel?.widthM ?? 0) * 10_000) / 10,
    ]);
  });

  test("left is up: the left wheel is drawn above the right one", () => {
    const robot = demoRobot("gust");
    const ys = [...robotSketch(robot).matchAll(/<rect x="[-\d.]+" y="([-\d.]+)"/g)].map(([, y]) => Number(y));
    const left = robot.wheels.findIndex(({ side }) => side === "left");
    const right = robot.wheels.findIndex(({ side }) => side === "right");
    expect(ys[left]).toBeLessThan(ys[right] ?? 0);
  });
});

describe("a field", () => {
  test("is a drawing that reads as the same field", () => {
    const field = demoField("fellside");
    const read = importSvg(fieldSketch(field), field.name);
    expect(read.ok && read.field.size.widthM).toBe(field.size.widthM);
  });

  test("with a way has it where the robot was, with y up, and no more points than can be seen", () => {
    const table = findStart("table");
    if (!table) throw new Error("no table");
    const field = makeField(table, "T");
    const x = Float32Array.from({ length: 10_000 }, (_, i) => i / 10_000);
    const svg = fieldSketch(field, { x, y: x });
    const points = (/<polyline points="([^"]+)"/.exec(svg)?.[1] ?? "").split(" ").map(numbers);
    expect(points.length).toBeLessThanOrEqual(400);
    expect(points[0]).toEqual([0, Math.round(field.size.heightM * 10_000) / 10]);
    expect(points.at(-1)?.[1]).toBeLessThan(points[0]?.[1] ?? 0);
    expect(fieldSketch(field, { x: [], y: [] })).not.toContain("polyline");
  });
});
