// Charts, wiring, decisions and the page of one run: every number stands where it belongs.

import { describe, expect, test } from "vitest";
import { openFloor } from "../../src/field/read.js";
import { chartDrawing } from "../../src/notebook/charts.js";
import { decisionsPage } from "../../src/notebook/decisions.js";
import { calibrationDrawing, robotPage, trialsPage } from "../../src/notebook/pages.js";
import { type PageRun, runPage } from "../../src/notebook/runPage.js";
import type { PageBlock } from "../../src/notebook/schema.js";
import { prepareMission } from "../../src/rehearse/prepare.js";
import { rehearse } from "../../src/rehearse/rehearsal.js";
import { addStage, setStages } from "../../src/robot/edits.js";
import { deviceTerminals } from "../../src/robot/needs.js";
import { wiringSketch } from "../../src/robot/wiringSketch.js";
import { demoField, demoRobot } from "../support/demo.js";

const numbers = (text: string) => [...text.matchAll(/-?\d+(?:\.\d+)?/g)].map(([n]) => Number(n));
/** Places of the dots of a chart. */
const dots = (svg: string) =>
  [...svg.matchAll(/<circle cx="([\d.]+)" cy="([\d.]+)" r="4"/g)].map(([, x, y]) => [Number(x), Number(y)] as const);
/** Where the ticks of an axis stand, by what they say. */
function ticksOf(svg: string, anchor: "middle" | "end"): Map<number, number> {
  const at = anchor === "middle" ? 1 : 2;
  return new Map(
    [
      ...svg.matchAll(new RegExp(`<text x="([\\d.]+)" y="([\\d.]+)" text-anchor="${anchor}">(-?[\\d.]+)</text>`, "g")),
    ].map((match) => [Number(match[3]), Number(match[at])]),
  );
}

describe("a chart", () => {
  const plan = (points: [number, number][]) => ({
    x: { label: "along", unit: "m" },
    y: { label: "aside", unit: "mm" },
    lines: [{ label: "runs", points, colour: "#000", line: false }],
  });

  test("puts points on the straight line between its ticks", () => {
    const svg = chartDrawing(
      plan([
        [0, -20],
        [1, 0],
        [2, 40],
      ]),
    );
    const [x, y] = [ticksOf(svg, "middle"), ticksOf(svg, "end")];
    const [x0 = 0, x1 = 0] = [x.get(0), x.get(1)];
    const [y0 = 0, y20 = 0] = [y.get(0), y.get(20)];
    for (const [i, [along, aside]] of [
      [0, -20],
      [1, 0],
      [2, 40],
    ].entries()) {
      const [cx = 0, cy = 0] = dots(svg)[i] ?? [];
      expect(cx).toBeCloseTo(x0 + (along ?? 0) * (x1 - x0), 0);
      // Labels stand 4 px under their line.
      expect(cy).toBeCloseTo(y0 - 4 + ((aside ?? 0) / 20) * (y20 - y0), 0);
    }
    expect(svg).toContain("along (m)");
    expect(svg).toContain("aside (mm)");
  });

  test.each([
    ["one point", [[3, 7]]],
    [
      "equal values",
      [
        [0, 5],
        [1, 5],
      ],
    ],
    [
      "values that are none",
      [
        [0, Number.NaN],
        [1, 2],
        [Number.POSITIVE_INFINITY, 3],
      ],
    ],
    [
      "very small ones",
      [
        [0, 1e-7],
        [1, 3e-7],
      ],
    ],
    ["more points than paper shows", Array.from({ length: 50_000 }, (_, i) => [i, i % 7])],
  ])("of %s is drawn without a number that is none, and stays small", (_, points) => {
    const svg = chartDrawing(plan(points as [number, number][]));
    expect(svg).not.toMatch(/NaN|Infinity/);
    expect(svg.length).toBeLessThan(100_000);
    expect(dots(svg).length).toBeGreaterThan(0);
  });

  test("of nothing is not drawn", () => {
    expect(chartDrawing(plan([]))).toBe("");
    expect(chartDrawing(plan([[Number.NaN, 1]]))).toBe("");
  });

  test("of a calibration is in the units people read", () => {
    const shown = { unit: "mm", perSi: 1000, digits: 1 };
    const svg = calibrationDrawing({
      title: "t",
      x: { label: "row", shown: { unit: "", perSi: 1, digits: 0 } },
      y: { label: "travel", shown },
      series: [
        {
          label: "rows",
          role: "measured",
          points: [
            [1, 0.1941],
            [2, 0.1959],
          ],
          line: false,
        },
      ],
    });
    const ticks = [...ticksOf(svg, "end").keys()];
    expect(Math.min(...ticks)).toBeGreaterThan(193);
    expect(Math.max(...ticks)).toBeLessThan(197);
  });

  test("with a hostile name holds no tag of it", () => {
    const svg = chartDrawing({ ...plan([[0, 1]]), x: { label: "<script>", unit: '"' } });
    expect(svg).not.toContain("<script>");
  });
});

describe("the wiring", () => {
  test.each(["drizzle", "gust", "sleet", "fog", "thaw"])("of %s has one line a wire, within the drawing", (name) => {
    const robot = demoRobot(name);
    const svg = wiringSketch(robot) ?? "";
    const terminals = deviceTerminals(robot);
    const wired = robot.wiring.filter(({ part, terminal }) =>
      terminals.some((one) => one.part === part && one.terminal === terminal),
    );
    const lines = [...svg.matchAll(/<path d="M([^"]+)"/g)].map(([, d]) => numbers(d ?? ""));
    expect(lines).toHaveLength(wired.length);
    const height = numbers(/viewBox="([^"]+)"/.exec(svg)?.[1] ?? "")[3] ?? 0;
    for (const [, from = -1] of lines) expect(from > 0 && from < height).toBe(true);
    for (const line of lines) expect((line.at(-1) ?? -1) > 0 && (line.at(-1) ?? -1) < height).toBe(true);
  });

  test("of nothing is not drawn", () => {
    expect(
      wiringSketch(
        demoRobot("gust", (robot) => {
          robot.wiring = [];
        }),
      ),
    ).toBeNull();
    expect(
      wiringSketch(
        demoRobot("gust", (robot) => {
          robot.board.profile = "nobody's";
        }),
      ),
    ).toBeNull();
  });
});

const words = (blocks: readonly PageBlock[]) => JSON.stringify(blocks.filter(({ kind }) => kind !== "drawing"));

test("why these gears: the fitted ones stand against a slower and a faster choice, whose lines cross", () => {
  const robot = demoRobot("gust");
  const stages = addStage([]).map((gear) => ({ ...gear, driverTeeth: 20, drivenTeeth: 12 }));
  const blocks = robotPage(setStages(robot, stages), { name: "Gust", href: "/robot", versions: [] }, null);
  expect(words(blocks)).toContain("Fitted, 20 : 12:");
  expect(words(blocks)).toContain("Instead, 20 : 16:");
  expect(words(blocks)).toContain("Instead, 20 : 8:");
  const chart = blocks.flatMap((block) =>
    block.kind === "drawing" && block.caption.startsWith("Speed") ? [block] : [],
  )[0];
  const lines = [...(chart?.svg ?? "").matchAll(/<polyline points="([^"]+)"/g)].map(([, points]) =>
    numbers(points ?? ""),
  );
  const [fitted = [], slower = [], faster = []] = lines;
  // [x, y] of the free speed, then of the stall; up is less.
  expect((faster[1] ?? 0) < (fitted[1] ?? 0) && (fitted[1] ?? 0) < (slower[1] ?? 0)).toBe(true);
  expect((faster[2] ?? 0) < (fitted[2] ?? 0) && (fitted[2] ?? 0) < (slower[2] ?? 0)).toBe(true);
});

describe("decisions", () => {
  const version = { number: 2, name: null, reason: "it slipped", madeAt: "2026-11-28T10:00:00Z" };

  test("of a robot say what was changed and which figures it moved", () => {
    const before = demoRobot("gust");
    const after = demoRobot("gust", (robot) => {
      robot.chassis.massKg *= 2;
    });
    const [, table] = decisionsPage([
      { kind: "robot", name: "Gust", href: "/robot", changes: [{ ...version, before, after }] },
    ]);
    const [number, why, what, did, when] = (table?.kind === "table" && table.rows[0]) || [];
    expect([number, why, when]).toEqual(["2", "it slipped", "28 Nov 2026"]);
    expect(what).toMatch(/^chassis, .* 0\.62 kg → 1\.24 kg/);
    expect(did).toMatch(/Top speed .* → /);
  });

  test.each([
    [
      [
        { number: 1, runs: 10, successes: 3 },
        { number: 2, runs: 10, successes: 9 },
      ],
      "worked 3 of 10 before, 9 of 10 now",
    ],
    [[{ number: 2, runs: 10, successes: 9 }], "worked 9 of 10"],
    [[{ number: 1, runs: 10, successes: 3 }], "not run yet"],
  ])("of a mission say its lines and how often it worked: %j", (rates, expected) => {
    const change = { ...version, before: "mission\n  go 10 cm\n  stop\n", after: "mission\n  go 12 cm\n  stop\n" };
    const [, table] = decisionsPage([{ kind: "mission", name: "A", href: "/mission", changes: [change], rates }]);
    const [, , what, did] = (table?.kind === "table" && table.rows[0]) || [];
    expect(what).toBe("− go 10 cm\n+ go 12 cm");
    expect(did).toBe(expected);
  });

  test("without a change say that there is none", () => {
    expect(words(decisionsPage([]))).toContain("Nothing was changed");
    expect(words(decisionsPage([{ kind: "robot", name: "A", href: "/", changes: [] }]))).toContain(
      "Nothing was changed",
    );
  });
});

describe("a run's page", () => {
  const field = demoField("fellside");
  const prepared = prepareMission(
    "cairn 1\nmission\n  go 40 cm\n  turn left 90 deg\n",
    demoRobot("drizzle"),
    openFloor(),
  );
  const { trace, summary } = rehearse(prepared, { seed: 3, ideal: true });
  const run: PageRun = {
    mission: { name: "Out", number: 4, href: "/mission?mission=1" },
    robot: { name: "Drizzle", number: 2, href: "/robot?robot=1" },
    field,
    source: "rehearsal",
    ideal: true,
    seed: 3,
    worked: summary.success,
    score: 20,
    seconds: summary.durationMs / 1000,
    note: "new tyres",
    tags: ["slope"],
    tape: null,
    at: "2026-11-28T10:05:00Z",
    trace,
    summary,
  };

  test("tells what ran, where it ended, its way, its readings and each step with its time", () => {
    const blocks = runPage(run);
    for (const said of [
      "Out, version 4",
      "Drizzle, version 2",
      "28 Nov 2026, 10:05 UTC",
      "new tyres",
      "slope",
      "go 40 cm",
      "turn left 90 deg",
    ])
      expect(words(blocks), said).toContain(said);
    const drawn = blocks.flatMap((block) => (block.kind === "drawing" ? [block.caption] : []));
    expect(drawn).toEqual(expect.arrayContaining(["Its way on the field", "Speed of the wheels", "Heading"]));
    const steps = blocks.filter(({ kind }) => kind === "table").at(-1);
    const took = (steps?.kind === "table" && steps.rows.map(([, , , time]) => Number.parseFloat(time ?? ""))) || [];
    expect(took).toHaveLength(2);
    expect(took.reduce((sum, time) => sum + time, 0)).toBeLessThanOrEqual(run.seconds + 0.01);
  });

  test("tells where the tape found the robot, behind and to the right too", () => {
    const tape = { alongM: -0.012, asideM: -0.0304, headingRad: null };
    expect(words(runPage({ ...run, tape }))).toContain("1.2 cm behind, 3 cm to the right, from where it began");
    const row = {
      mission: "Out",
      version: 1,
      source: "robot",
      worked: true,
      seconds: 3,
      note: "",
      at: run.at,
      href: "/run?run=1",
    };
    const table = trialsPage(
      [
        { ...row, tape },
        { ...row, tape: null },
      ],
      2,
      2,
    ).find(({ kind }) => kind === "table");
    expect(table?.kind === "table" && table.rows.map((cells) => cells[5])).toEqual([
      "1.2 cm behind, 3 cm to the right",
      "",
    ]);
    expect(table?.kind === "table" && table.hrefs).toEqual(["/run?run=1", "/run?run=1"]);
  });

  test("without a recording says so, and draws nothing", () => {
    const blocks = runPage({ ...run, source: "practice", trace: null, summary: {}, worked: false });
    expect(words(blocks)).toContain("timed by hand");
    expect(words(blocks)).toContain("It did not work.");
    expect(blocks.some(({ kind }) => kind === "drawing")).toBe(false);
  });
});
