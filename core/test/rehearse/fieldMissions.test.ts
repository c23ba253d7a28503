// The missions on fields of their own: each meets its goal in 19 of 20 rehearsals with the usual scatter. The first few are
// tried by npm test, all by npm run soak -- --searches.
import { readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import {
  headerValue,
  parseMission,
  prepareMission,
  type RunSummary,
  rehearse,
  toRemember,
  wrapAngle,
} from "../../src/index.js";
import { demoField, demoFolder, demoRobot } from "../support/demo.js";
import { part } from "../support/search.js";

const FIELDS: Readonly<Record<string, string>> = {
  "Cliff run": "cliff-run",
  "Gauge slope": "gauge-slope",
  "Boulder slope": "boulder-slope",
  "Garage lane": "garage-lane",
  "Snow maze": "snow-maze",
  "Shelter trail": "shelter-trail",
  "Plate docks": "plate-docks",
};

function prepared(name: string) {
  const text = readFileSync(path.join(demoFolder, "missions", `${name}.cairn`), "utf8");
  const mission = parseMission(text);
  const robot = demoRobot((headerValue(mission, "robot") ?? "").toLowerCase());
  const field = demoField(FIELDS[headerValue(mission, "field") ?? ""] ?? "fellside");
  return prepareMission(text, robot, field);
}

function runs(name: string, count: number): RunSummary[] {
  const mission = prepared(name);
  expect(mission.check.problems.filter(({ severity }) => severity === "error")).toEqual([]);
  return Array.from({ length: count }, (_, i) => rehearse(mission, { seed: i + 1, ideal: false }).summary);
}

const noted = (summary: RunSummary, name: string) =>
  summary.notes.filter((note) => note.name === name).map(({ value }) => Number(value));

describe("missions at walls, loads and boulders", () => {
  const TRIES = part(20, 20);

  test.each([
    "snow-gauge-to-its-bay",
    "snow-gauge-too-tall",
    "boulders-by-whiskers",
    "boulders-by-proximity",
    "boulders-by-head",
    "into-the-garage",
    "square-up-on-the-cliff",
    "cliff-race-there-and-back",
    "maze-by-wall",
    "maze-by-memory",
    "batteries-to-the-shelters",
    "plate-chooser",
  ])(`%s: of ${TRIES} rehearsals not more than 1 in 20 fails`, (name) => {
    const failed = runs(name, TRIES).filter(({ success }) => !success);
    expect(failed.length, failed.map(({ reason }) => reason).join("; ")).toBeLessThanOrEqual(TRIES / 20);
  });

  test("the sensor looks over the low gauge at the bank, and at the tall one itself", () => {
    const [low] = runs("snow-gauge-to-its-bay", 1);
    expect(low?.heard[0]?.what).toBe("snow bank");
    expect(low?.loads.find(({ name }) => name === "low gauge")?.upright).toBe(true);
    const [tall] = runs("snow-gauge-too-tall", 1);
    expect([tall?.heard[0]?.what, tall?.signs[0]?.text]).toEqual([
      "tall gauge",
      expect.stringMatching(/^I see the gauge, not the bank:/),
    ]);
  });

  test("the car's gap is measured to 10 cm, a beam's width at either end, and it decides by it", () => {
    for (const summary of runs("into-the-garage", 5)) {
      expect(Math.abs((noted(summary, "gap")[0] ?? 0) - 0.6)).toBeLessThan(0.1);
      expect(Math.abs(Math.abs(summary.end.headingDeg) - 90)).toBeLessThan(6);
    }
  });

  test("a long gap is driven into sideways: along the lane at the end", () => {
    const mission = prepared("into-the-garage");
    const { field } = mission.context;
    const shifted = (corners: readonly [number, number][]) => corners.map(([x, y]): [number, number] => [x + 0.5, y]);
    const long = {
      ...field,
      obstacles: field.obstacles.map((one) =>
        one.name === "second shed" ? { ...one, cornersM: shifted(one.cornersM) } : one,
      ),
      walls: field.walls.map((wall) => ({ ...wall, toM: [wall.toM[0] + 0.5, wall.toM[1]] as [number, number] })),
      zones: field.zones.map((zone) => ({
        ...zone,
        shape: {
          kind: "polygon" as const,
          cornersM: [
            [1.25, 0.1],
            [2.35, 0.1],
            [2.35, 0.42],
            [1.25, 0.42],
          ] as [number, number][],
        },
      })),
    };
    const text = readFileSync(path.join(demoFolder, "missions", "into-the-garage.cairn"), "utf8");
    const again = prepareMission(text, mission.context.robot, long);
    const done = Array.from({ length: 10 }, (_, i) => rehearse(again, { seed: i + 1, ideal: false }).summary);
    expect(done.filter(({ success }) => success).length).toBeGreaterThanOrEqual(9);
    for (const { end } of done) expect(Math.abs(end.headingDeg)).toBeLessThan(12);
  });

  test("batteries: each ends in the shelter of its colour; the motor rests before it cuts out, and without a rest it does", () => {
    const [done] = runs("batteries-to-the-shelters", 1);
    expect(done?.zones.map(({ zone, count }) => [zone, count])).toEqual([
      ["moss shelter", 2],
      ["slate shelter", 1],
      ["heather shelter", 1],
    ]);
    if (!done) return;
    expect(noted(done, "rested_at").length).toBeGreaterThan(0);
    for (const heat of noted(done, "heat")) expect(heat).toBeLessThan(0.6);
    const mission = prepared("batteries-to-the-shelters");
    const text = readFileSync(path.join(demoFolder, "missions", "batteries-to-the-shelters.cairn"), "utf8");
    const { robot, field } = mission.context;
    const restless = prepareMission(text.replace("set cool = 55 %", "set cool = 300 %"), robot, field);
    for (const seed of [1, 2, 3])
      expect(rehearse(restless, { seed, ideal: false }).summary.reason).toMatch(/clock < 180 s/);
  });

  test.each([
    ["moss plate", "moss yard", [20, 20]],
    ["slate plate", "slate yard", [20, 20]],
    ["no plate", "docks", [5, 5]],
  ])("%s: the robot ends in %s", (begin, zone, [least, most]) => {
    const mission = prepared("plate-chooser");
    const text = readFileSync(path.join(demoFolder, "missions", "plate-chooser.cairn"), "utf8")
      .replace('begin "moss plate"', `begin "${begin}"`)
      .replace('goal inside "moss yard" and score > 19', `goal inside "${zone}"`);
    const chosen = prepareMission(text, mission.context.robot, mission.context.field);
    for (const seed of [1, 2, 3, 4, 5]) {
      const { summary } = rehearse(chosen, { seed, ideal: false });
      expect([seed, summary.reason]).toEqual([seed, ""]);
      expect(summary.score).toBeGreaterThanOrEqual(least as number);
      expect(summary.score).toBeLessThanOrEqual(most as number);
      if (begin === "no plate") expect(summary.end.xM).toBeCloseTo(summary.start.xM, 3);
    }
  });

  test("the second run of the maze drives what the first remembered, in less time", () => {
    const mission = prepared("maze-by-memory");
    const first = rehearse(mission, { seed: 4, ideal: false }).summary;
    const known = first.remembered.find(({ name }) => name === "known");
    expect(Number(known?.value)).toBeGreaterThan(1000);
    const remembered = toRemember(first.remembered);
    const second = rehearse(mission, { seed: 5, ideal: false, remembered }).summary;
    expect([first.success, second.success]).toEqual([true, true]);
    expect(second.durationMs).toBeLessThan(0.75 * first.durationMs);
  });

  test("faster rounds of the race take less time; a turn by the clock is off by more than one by the gyro", () => {
    const [race] = runs("cliff-race-there-and-back", 1);
    if (!race) throw new Error("no run");
    const [slow = 0, middling = 0, fast = 0] = noted(race, "took");
    expect(slow > middling && middling > fast).toBe(true);
    // Notes are in rad; what is left of whole turns at the end is what the gyro's turns were off by.
    const byGyro = Math.abs(wrapAngle((race.end.headingDeg * Math.PI) / 180));
    expect(Math.abs(noted(race, "by_clock")[0] ?? 0)).toBeGreaterThan(byGyro);
  });
});

describe("an open go without encoders", () => {
  test("keeps the speed that a roll of the same speed has: nothing is added for a way that nobody measures", () => {
    const far = (steps: string) => {
      const prepared = prepareMission(
        `cairn 1\nrobot "Fog"\nmission\n  ${steps}\n`,
        demoRobot("fog"),
        demoField("cliff-run"),
      );
      const { start, end } = rehearse(prepared, { seed: 1, ideal: true }).summary;
      return end.xM - start.xM;
    };
    const [go, roll] = [far("go for 5 s at 18 cm/s"), far("roll 18 cm/s for 5 s")];
    expect(Math.abs(go - roll) / roll).toBeLessThan(0.12);
  });
});
