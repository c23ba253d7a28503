// Followers on made courses, whole robots in the physics: lines with corners, gaps, crossings and curves; walls with
// ends and corners. The benches bench/lines.mjs and bench/walls.mjs try many more.
import { describe, expect, test } from "vitest";
import {
  type Field,
  fieldSchema,
  openFloor,
  prepareMission,
  Rehearsal,
  type Robot,
  rehearse,
  robotPose,
} from "../../src/index.js";
import { demoRobot, drizzle } from "../support/demo.js";

type Point = [number, number];
type Layout = "single" | "pair" | "row";

const AHEAD_M = 0.065;

function withFloor(layout: Layout): Robot {
  return drizzle((body) => {
    for (const sensor of body.sensors)
      if (sensor.kind === "floor")
        Object.assign(sensor, {
          layout,
          count: layout === "row" ? 5 : layout === "pair" ? 2 : 1,
          spacingM: layout === "row" ? 0.012 : 0.024,
        });
  });
}

/** Lines on an open floor, the robot at the begin of the first, looking along x. */
function floorWith(lines: readonly Point[][], besideM: number): Field {
  return fieldSchema.parse({
    ...openFloor(),
    size: { widthM: 6, heightM: 6 },
    surface: { reflectance: 0.82 },
    marks: lines.map((points) => ({
      kind: "line",
      pointsM: points.map(([x, y]) => [x + 2, y + 3]),
      widthM: 0.022,
      reflectance: 0.06,
      colour: "#222222",
    })),
    begins: [{ name: "start", xM: 2.06, yM: 3 + besideM, headingRad: 0 }],
  });
}

/** How the step ended, and how far the sensor came from each of some places at the nearest, m. */
function follow(step: string, layout: Layout, lines: readonly Point[][], places: readonly Point[], seed = 1) {
  const besideM = step.includes("left edge") ? 0.011 : step.includes("right edge") ? -0.011 : 0;
  const robot = withFloor(layout);
  const text = `cairn 1\nrobot "Drizzle"\nfield "x"\nbegin "start"\nmission\n  follow line ${step} until clock > 40 s\n`;
  const run = new Rehearsal(prepareMission(text, robot, floorWith(lines, besideM)), { seed, ideal: false });
  const nearest = places.map(() => Number.POSITIVE_INFINITY);
  while (!run.done) {
    run.advance(1);
    const { xM, yM, headingRad } = robotPose(robot, run.run.body.world);
    const [sx, sy] = [xM + AHEAD_M * Math.cos(headingRad) - 2, yM + AHEAD_M * Math.sin(headingRad) - 3];
    places.forEach(([x, y], i) => {
      nearest[i] = Math.min(nearest[i] as number, Math.hypot(sx - x, sy - y));
    });
  }
  return { ended: run.result().summary.steps[0]?.endedBy, nearest };
}

const WAYS = [
  ["on left edge with floor at 20 cm/s", "single"],
  ["on right edge with floor at 20 cm/s", "single"],
  ["on centre with floor at 20 cm/s", "pair"],
  ["on centre with floor at 20 cm/s", "row"],
] as const;

describe.each(WAYS)("follow line %s (%s)", (step, layout) => {
  test("turns right angles both ways, and a corner of 60 deg, and ends as lost where the line ends", () => {
    const line: Point[] = [
      [0, 0],
      [0.4, 0],
      [0.4, 0.35],
      [0.75, 0.35],
      [0.75, 0],
    ];
    const back: Point = [0.75 + 0.35 * Math.sin(Math.PI / 3), 0.35 * Math.cos(Math.PI / 3)];
    const { ended, nearest } = follow(
      step,
      layout,
      [[...line, back]],
      [[0.4, 0.2], [0.6, 0.35], [0.75, 0.15], [(0.75 + back[0]) / 2, back[1] / 2], back],
    );
    expect(ended).toBe("lost");
    for (const far of nearest) expect(far).toBeLessThan(0.03);
  });

  test("goes on over a gap of 12 cm and over crossings", () => {
    const across = (x: number): Point[] => [
      [x, -0.2],
      [x + 0.05, 0.2],
    ];
    const lines: Point[][] = [
      [
        [0, 0],
        [0.5, 0],
      ],
      [
        [0.62, 0],
        [1.4, 0],
      ],
      across(0.3),
      across(1),
    ];
    const { nearest } = follow(step, layout, lines, [
      [0.8, 0],
      [1.38, 0],
    ]);
    for (const far of nearest) expect(far).toBeLessThan(0.03);
  });

  test("keeps to a curve of one track width", () => {
    const round = Array.from({ length: 31 }, (_, i): Point => {
      const a = (i * Math.PI) / 30;
      return [0.4 + 0.138 * Math.sin(a), 0.138 * (1 - Math.cos(a))];
    });
    const { nearest } = follow(
      step,
      layout,
      [[[0, 0], ...round, [0, 0.276]]],
      [
        [0.538, 0.138],
        [0.4, 0.276],
        [0.1, 0.276],
      ],
    );
    for (const far of nearest) expect(far).toBeLessThan(0.03);
  });
});

describe("tails of follow line", () => {
  const cross: Point[][] = [
    [
      [0, 0],
      [1.2, 0],
    ],
    [
      [0.6, -0.6],
      [0.6, 0.6],
    ],
  ];

  test.each([
    ["left", [0.6, 0.4]],
    ["right", [0.6, -0.4]],
    ["straight", [1.1, 0]],
  ] as const)("at crossings %s goes that way", (way, place) => {
    const { nearest } = follow(`on centre with floor at 15 cm/s at crossings ${way}`, "pair", cross, [[...place]]);
    expect(nearest[0]).toBeLessThan(0.02);
  });

  test("at crossings stop ends the step there", () => {
    const { ended, nearest } = follow("on centre with floor at 15 cm/s at crossings stop", "pair", cross, [
      [0.6, 0],
      [0.8, 0],
    ]);
    expect(ended).toBe("done");
    expect(nearest[0]).toBeLessThan(0.03);
    expect(nearest[1]).toBeGreaterThan(0.1);
  });

  test("bridge says how long a gap may be", () => {
    const lines: Point[][] = [
      [
        [0, 0],
        [0.4, 0],
      ],
      [
        [0.5, 0],
        [0.9, 0],
      ],
    ];
    const over = (bridge: string) =>
      follow(`on centre with floor at 15 cm/s bridge ${bridge}`, "pair", lines, [[0.85, 0]]);
    expect(over("15 cm").nearest[0]).toBeLessThan(0.02);
    expect(over("4 cm").nearest[0]).toBeGreaterThan(0.2);
  });
});

describe("follow wall", () => {
  const sleet = demoRobot("sleet");
  const along = (walls: readonly [number, number, number, number][], step: string) => {
    const field = fieldSchema.parse({
      ...openFloor(),
      size: { widthM: 6, heightM: 6 },
      walls: walls.map(([ax, ay, bx, by]) => ({ fromM: [2 + ax, 3 + ay], toM: [2 + bx, 3 + by], heightM: 0.3 })),
      begins: [{ name: "start", xM: 2, yM: 3, headingRad: 0 }],
    });
    const text = `cairn 1\nrobot "Sleet"\nfield "x"\nmission\n  follow wall on right 20 cm away with side_eye at 15 cm/s ${step}\n  note ended = last.ended\n`;
    const { summary } = rehearse(prepareMission(text, sleet, field), { seed: 3, ideal: false });
    return { x: summary.end.xM - 2, y: summary.end.yM - 3, deg: summary.end.headingDeg, summary };
  };
  const WALL: [number, number, number, number] = [-0.5, -0.26, 0.9, -0.26];

  test("until wall ends: ends there, as ended", () => {
    const { x, deg, summary } = along([WALL], "until wall ends limit 20 s");
    // The eye is 12 cm ahead of the axle.
    expect(x + 0.12).toBeGreaterThan(0.88);
    expect(x + 0.12).toBeLessThan(1.05);
    expect(Math.abs(deg)).toBeLessThan(5);
    expect(summary.steps[0]?.endedBy).toBe("ended");
    expect(summary.notes[0]?.value).toBe(1);
  });

  test("goes straight on behind the end, whatever lies there", () => {
    const { y, deg } = along([WALL, [0.7, -0.8, 2.5, -0.8]], "until robot.travel > 1.7 m limit 20 s");
    expect(Math.abs(deg)).toBeLessThan(6);
    expect(Math.abs(y)).toBeLessThan(0.1);
  });

  test("at corners turn goes round an outer corner and away from an inner one", () => {
    const outer = along([WALL, [0.9, -0.26, 0.9, -2]], "at corners turn until robot.travel > 2.2 m limit 30 s");
    expect(Math.abs(outer.deg + 90)).toBeLessThan(10);
    const inner = along(
      [
        [-0.5, -0.26, 1.3, -0.26],
        [1.3, -0.26, 1.3, 2],
      ],
      "at corners turn until robot.y > 60 cm limit 40 s",
    );
    expect(Math.abs(inner.deg - 90)).toBeLessThan(15);
    expect(inner.summary.success).toBe(true);
  });
});
