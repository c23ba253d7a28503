// The line tuner: what it changes in a text, how it counts, and that its best beats what a step said before.
import { describe, expect, test } from "vitest";
import {
  bestCell,
  driveModel,
  type LineCell,
  type LineStep,
  lineCell,
  lineGrid,
  lineSetting,
  lineSteps,
  parseMission,
  prepareMission,
  runSeed,
  tuneRun,
  withLineCode,
  withLineSetting,
} from "../../src/index.js";
import { demoField, demoRobot } from "../support/demo.js";

const robot = demoRobot("drizzle");
const field = demoField("fellside");
const model = driveModel(robot);

const text = (line: string, top = "") =>
  `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\n${top}mission\n  wait 0.2 s\n  ${line}  # on the trail\n`;

function only(source: string): { source: string; step: LineStep } {
  return { source, step: lineSteps(parseMission(source))[0] as LineStep };
}

describe("what a step says now", () => {
  test.each([
    ["follow line on centre with floor at 16 cm/s gain 130 % until clock > 5 s", "", 0.16, 1.3],
    ["follow line on centre with floor at cruise until clock > 5 s", "set cruise = 12 cm/s\n", 0.12, 1],
    ["follow line on centre with floor until clock > 5 s", "", model.cruiseMS, 1],
    ["follow line on centre with floor at 5 cm/s + 6 cm/s until clock > 5 s", "", 0.11, 1],
  ])("%s", (line, top, speedMS, gain) => {
    const { source, step } = only(text(line, top));
    const now = lineSetting(parseMission(source), step, model);
    expect(now.speedMS).toBeCloseTo(speedMS, 9);
    expect(now.gain).toBeCloseTo(gain, 9);
  });

  test("the grid holds the present setting itself, and nothing the wheels cannot do", () => {
    const now = { speedMS: 0.163, gain: 1.1 };
    const grid = lineGrid(now, model);
    expect(grid.flat()).toContainEqual(now);
    for (const row of grid) {
      expect(new Set(row.map(({ gain }) => gain)).size).toBe(1);
      expect(row.map(({ speedMS }) => speedMS)).toEqual(grid[0]?.map(({ speedMS }) => speedMS));
      for (const { speedMS } of row) expect(speedMS).toBeLessThanOrEqual(model.topSpeedMS);
    }
  });
});

describe("another setting in the text", () => {
  test.each([
    [
      "follow line on centre with floor at 16 cm/s until clock > 5 s",
      "follow line on centre with floor at 24 cm/s gain 125 % until clock > 5 s",
    ],
    [
      "follow line on left edge with floor.left at cruise at crossings straight until clock > 5 s",
      "follow line on left edge with floor.left at 24 cm/s gain 125 % at crossings straight until clock > 5 s",
    ],
    [
      "follow line on centre with floor bridge 10 cm at crossings stop limit 9 s",
      "follow line on centre with floor at 24 cm/s gain 125 % bridge 10 cm at crossings stop limit 9 s",
    ],
    [
      "follow line on centre with floor at 9 cm/s using 60 % gain 80 % damp 120 % limit 9 s until clock > 5 s",
      "follow line on centre with floor at 24 cm/s using 60 % gain 125 % damp 120 % limit 9 s until clock > 5 s",
    ],
  ])("%s", (before, after) => {
    // A value used twice stays what it is.
    const source = `${text(before, "set cruise = 12 cm/s\n")}  go 5 cm at cruise\n`;
    const { step } = only(source);
    const changed = withLineSetting(parseMission(source), step.line, { speedMS: 0.24, gain: 1.25 }) as string;
    expect(changed).toBe(source.replace(before, after));
    const back = lineSetting(parseMission(changed), only(changed).step, model);
    expect([back.speedMS, back.gain]).toEqual([expect.closeTo(0.24, 9), expect.closeTo(1.25, 9)]);
  });

  test("a name that stands for this speed alone gets the new value; one that is used elsewhere stays as it is", () => {
    const alone = text(
      "follow line on centre with floor at trail_speed until clock > 5 s",
      "set trail_speed = 12 cm/s\n",
    );
    const setting = { speedMS: 0.24, gain: 1 };
    expect(withLineSetting(parseMission(alone), only(alone).step.line, setting)).toBe(
      alone.replace("12 cm/s", "24 cm/s"),
    );
    const shared = `${alone}  go 10 cm at trail_speed\n`;
    expect(withLineSetting(parseMission(shared), only(shared).step.line, setting)).toBe(
      shared.replace("floor at trail_speed", "floor at 24 cm/s"),
    );
  });

  test("the robot's own gain is not written where nothing was written; another step's line is no place for it", () => {
    const source = text("follow line on centre with floor at 16 cm/s until clock > 5 s");
    const { step } = only(source);
    const mission = parseMission(source);
    expect(withLineSetting(mission, step.line, { speedMS: 0.2, gain: 1 })).toBe(source.replace("16 cm/s", "20 cm/s"));
    expect(withLineSetting(mission, step.line - 1, { speedMS: 0.2, gain: 1 })).toBeNull();
  });
});

describe("counting", () => {
  const run = (held: boolean, ms: number, losses = 0) => ({
    held,
    ms,
    losses,
    rmsM: 0.001,
    reason: held ? "" : "lost",
  });
  const setting = { speedMS: 0.2, gain: 1 };

  test("the time is the median of the runs that held; losses are the mean of all", () => {
    const cell = lineCell(setting, [run(true, 9000), run(true, 8000), run(true, 8500), run(false, 1000, 2)]);
    expect(cell).toMatchObject({ runs: 4, held: 3, ms: 8500, losses: 0.5 });
  });

  test("holding counts before straying, and that before time", () => {
    const cell = (held: number, losses: number, ms: number): LineCell => ({
      ...setting,
      runs: 4,
      held,
      losses,
      ms,
      rmsM: null,
    });
    expect(bestCell([cell(3, 0, 1000), cell(4, 1, 9000), cell(4, 0, 8000), cell(4, 0, 7000)])).toMatchObject({
      ms: 7000,
    });
    expect(bestCell([cell(3, 0, 1000), cell(4, 1, 9000)])).toMatchObject({ held: 4 });
    expect(bestCell([])).toBeNull();
  });
});

const prepared = (source: string) => {
  const made = prepareMission(source, robot, field);
  expect(made.check.problems.filter(({ severity }) => severity === "error")).toEqual([]);
  return made;
};

describe("runs", () => {
  const trail = text("follow line on centre with floor at 12 cm/s until robot.travel > 90 cm limit 20 s");

  test("a run says how long the step took and how far off it was", () => {
    const { step } = only(trail);
    const found = tuneRun(prepared(trail), step, runSeed(5, 0));
    expect(found).toMatchObject({ held: true, losses: 0, reason: "" });
    // 90 cm at 12 cm/s, and the way up to speed.
    expect(found.ms).toBeGreaterThan(7400);
    expect(found.ms).toBeLessThan(8600);
    expect(found.rmsM).toBeLessThan(0.003);
  });

  test("a line that is not there was lost, and a run with a limit reached did not hold", () => {
    const lost = `${text("follow line on centre with floor at 12 cm/s until robot.travel > 90 cm limit 20 s", "").replace("wait 0.2 s", "turn left 180 deg")}`;
    expect(tuneRun(prepared(lost), only(lost).step, 3)).toMatchObject({
      held: false,
      reason: "the line was lost",
    });
    const limited = text("follow line on centre with floor at 12 cm/s until robot.travel > 90 cm limit 2 s");
    expect(tuneRun(prepared(limited), only(limited).step, 3).reason).toMatch(/limit/);
  });

  test("a setting put into the program runs as one that is written", () => {
    const { source, step } = only(trail);
    const whole = prepared(source);
    if (!whole.program) throw new Error("no program");
    const setting = { speedMS: 0.2, gain: 1.25 };
    const written = prepared(withLineSetting(parseMission(source), step.line, setting) as string);
    const changed = { ...whole, program: withLineCode(whole.program, step.line, setting) };
    expect(tuneRun(changed, step, 7)).toEqual(tuneRun(written, step, 7));
    expect(tuneRun(changed, step, 7)).not.toEqual(tuneRun(whole, step, 7));
    expect(withLineCode(whole.program, step.line - 1, setting)).toEqual(whole.program);
  });

  test("the best of the map beats what the step said, with other seeds too", () => {
    const { source, step } = only(trail);
    const mission = parseMission(source);
    const now = lineSetting(mission, step, model);
    const cellOf = (setting: typeof now, runs: number, seed: number) => {
      const mission2 = prepared(withLineSetting(mission, step.line, setting) as string);
      return lineCell(
        setting,
        Array.from({ length: runs }, (_, i) => tuneRun(mission2, step, runSeed(seed, i))),
      );
    };
    const cells = lineGrid(now, model)
      .flat()
      .filter(({ gain }) => gain === 1)
      .map((setting) => cellOf(setting, 2, 11));
    const best = bestCell(cells) as LineCell;
    const [again, before] = [cellOf(best, 8, 77), cellOf(now, 8, 77)];
    expect(again.held).toBe(8);
    expect(again.ms).toBeLessThan(before.ms * 0.7);
  });
});
