// The error on a line, against closed forms.
import { describe, expect, test } from "vitest";
import { drawnLines } from "../../src/helpers/lineWay.js";
import {
  aheadOfLine,
  type Field,
  type LineStep,
  lineFigures,
  lineSteps,
  lineWays,
  openField,
  parseMission,
  type Robot,
  type Trace,
} from "../../src/index.js";
import { demoRobot } from "../support/demo.js";

const WIDTH = 0.02;
const drizzle = demoRobot("drizzle");
/** Its spots sit on the axle, so that the robot's own way is the sensor's. */
const robot: Robot = {
  ...drizzle,
  sensors: drizzle.sensors.map((sensor) => (sensor.kind === "floor" ? { ...sensor, xM: 0, yM: 0 } : sensor)),
};

function field(marks: unknown[]): Field {
  const opened = openField({
    format: "giddy-pebble/field",
    version: 2,
    name: "Course",
    surface: { reflectance: 0.82 },
    size: { widthM: 4, heightM: 4 },
    marks,
    begins: [],
  });
  if (!opened.ok) throw new Error(opened.problems.join());
  return opened.document;
}

const straight = field([
  {
    kind: "line",
    pointsM: [
      [0.5, 1],
      [3.5, 1],
    ],
    widthM: WIDTH,
    reflectance: 0.06,
    colour: "#222222",
  },
]);

function step(how: string): LineStep {
  const mission = parseMission(`cairn 1\nmission\n  follow line ${how} at 10 cm/s until clock > 5 s\n`);
  return lineSteps(mission)[0] as LineStep;
}

/** A trace along points [x, y, heading], one a tick. */
function along(points: readonly (readonly [number, number, number])[]): Trace {
  const column = (id: string, i: 0 | 1 | 2) => ({
    id,
    quantity: id,
    unit: "m",
    startTick: 0,
    everyTicks: 1,
    values: Float32Array.from(points, (point) => point[i]),
  });
  return { tickMs: 10, events: [], columns: [column("x", 0), column("y", 1), column("heading", 2)] };
}

function waysOf(trace: Trace, how: string, on: Field) {
  const ends = ((trace.columns[0]?.values.length ?? 1) - 1) * 10;
  const steps = [{ line: 3, startMs: 0, endMs: ends }] as never;
  return lineWays(trace, { steps }, step(how), robot, on);
}

const beside = (y: number, heading = 0) =>
  along(Array.from({ length: 101 }, (_, i) => [1 + (heading === 0 ? i : 100 - i) * 0.01, y, heading] as const));

describe("the error on a line", () => {
  test.each([
    ["on centre with floor", 1.03, 0, 0.03],
    ["on centre with floor", 0.98, 0, -0.02],
    // Driving the other way, left and right change sides.
    ["on centre with floor", 1.03, Math.PI, -0.03],
  ] as const)("%s at y %d, heading %d: %d m", (how, y, heading, off) => {
    const [way] = waysOf(beside(y, heading), how, straight);
    expect(way?.offM[50]).toBeCloseTo(off, 6);
    expect(way?.wayM.at(-1)).toBeCloseTo(1, 5);
  });

  test("an edge lies half a width from the middle, and each spot has its own place", () => {
    const half = (drizzle.sensors.find(({ kind }) => kind === "floor") as { spacingM: number }).spacingM / 2;
    // The left spot is half a spacing to the left of the robot's middle.
    const left = waysOf(beside(1 - half + WIDTH / 2), "on left edge with floor.left", straight)[0];
    expect(left?.offM[50]).toBeCloseTo(0, 6);
    const right = waysOf(beside(1 - half + WIDTH / 2), "on right edge with floor.left", straight)[0];
    expect(right?.offM[50]).toBeCloseTo(WIDTH, 6);
    const other = waysOf(beside(1 + half), "on right edge with floor.right", straight)[0];
    expect(other?.offM[50]).toBeCloseTo(WIDTH / 2, 6);
  });

  test("round a circle drawn as a curve, a robot 20 mm further out is 20 mm to the right of it", () => {
    const k = 0.5522847498;
    const r = 0.5;
    const nodes = [
      [r, 0, 0, k * r],
      [0, r, -k * r, 0],
      [-r, 0, 0, -k * r],
      [0, -r, k * r, 0],
    ].map(([x, y, hx, hy]) => ({
      atM: [2 + (x as number), 2 + (y as number)],
      inM: [2 + (x as number) - (hx as number), 2 + (y as number) - (hy as number)],
      outM: [2 + (x as number) + (hx as number), 2 + (y as number) + (hy as number)],
    }));
    const circle = field([{ kind: "curve", nodes, closed: true, widthM: WIDTH, reflectance: 0.06, colour: "#222222" }]);
    expect(drawnLines(circle)).toHaveLength(1);
    const points = Array.from({ length: 201 }, (_, i) => {
      const a = (i / 200) * Math.PI;
      return [2 + 0.52 * Math.cos(a), 2 + 0.52 * Math.sin(a), a + Math.PI / 2] as const;
    });
    const [way] = waysOf(along(points), "on centre with floor", circle);
    for (const off of way?.offM ?? []) expect(off).toBeCloseTo(-0.02, 3);
    expect(way?.wayM.at(-1)).toBeCloseTo(0.52 * Math.PI, 3);
  });

  test("a weaving robot: root mean square is amplitude by root two, never astray", () => {
    const waves = along(
      Array.from({ length: 401 }, (_, i) => [1 + i * 0.005, 1 + 0.01 * Math.sin((2 * Math.PI * i) / 100), 0] as const),
    );
    const figures = lineFigures(waysOf(waves, "on centre with floor", straight), 0);
    expect(figures?.rmsM).toBeCloseTo(0.01 / Math.SQRT2, 4);
    expect(figures?.worstM).toBeCloseTo(0.01, 5);
    expect(figures?.losses).toBe(0);
  });

  test("leaving the line twice counts two losses, and a corner overshot by what the sensor looks ahead counts none", () => {
    const bumps = (high: number) =>
      along(
        Array.from({ length: 401 }, (_, i) => {
          const out = (i > 80 && i < 140) || (i > 250 && i < 300);
          return [1 + i * 0.005, 1 + (out ? high : 0), 0] as const;
        }),
      );
    expect(lineFigures(waysOf(bumps(0.05), "on centre with floor", straight), 0)?.losses).toBe(2);
    expect(lineFigures(waysOf(bumps(0.05), "on centre with floor", straight), 0.04)?.losses).toBe(0);
  });

  test("gaps and dashes belong to the line; light marks, areas and an empty field do not", () => {
    const gapped = field([
      {
        kind: "line",
        pointsM: [
          [0.5, 1],
          [3.5, 1],
        ],
        widthM: WIDTH,
        reflectance: 0.06,
        colour: "#222222",
        gaps: [{ atM: 0.9, lengthM: 0.3 }],
      },
      {
        kind: "line",
        pointsM: [
          [0.5, 1.04],
          [3.5, 1.04],
        ],
        widthM: WIDTH,
        reflectance: 0.95,
        colour: "#ffffff",
      },
    ]);
    const [way] = waysOf(beside(1.03), "on centre with floor", gapped);
    expect(Math.max(...(way?.offM ?? []))).toBeCloseTo(0.03, 6);
    expect(Math.min(...(way?.offM ?? []))).toBeCloseTo(0.03, 6);
    expect(waysOf(beside(1), "on centre with floor", field([]))).toEqual([]);
    expect(lineFigures([], 0)).toBeNull();
  });

  test("steps are found in routines too, and a sensor's lead is its place ahead of the axle", () => {
    const mission = parseMission(
      "cairn 1\nroutine trail()\n  follow line on left edge with floor.left until clock > 1 s\nmission\n  repeat 2 times\n    follow line on centre with floor until clock > 1 s\n",
    );
    expect(lineSteps(mission).map(({ line, edge }) => [line, edge])).toEqual([
      [2, "left"],
      [5, null],
    ]);
    const floor = drizzle.sensors.find(({ kind }) => kind === "floor");
    expect(aheadOfLine(step("on centre with floor"), drizzle)).toBe(floor?.xM);
    expect(aheadOfLine(step("on centre with nothing"), drizzle)).toBe(0);
  });
});
