// The step slide: how exactly it goes, with every tail, interrupted, and on robots that cannot.
import { describe, expect, test } from "vitest";
import { openFloor, prepareMission, type Robot, rehearse } from "../../src/index.js";
import { demoField, demoRobot, missionFile } from "../support/demo.js";
import { threeRollers } from "../support/rollers.js";

function run(robot: Robot, steps: string, { seed = 1, ideal = true } = {}) {
  const text = `cairn 1\nrobot "${robot.name}"\n\nmission\n  ${steps.replaceAll("\n", "\n  ")}\n`;
  const prepared = prepareMission(text, robot, openFloor());
  if (!prepared.program) throw new Error(prepared.check.problems.map(({ message }) => message).join("; "));
  const { summary } = rehearse(prepared, { seed, ideal });
  const { start, end } = summary;
  return {
    summary,
    forwardM: end.xM - start.xM,
    leftM: end.yM - start.yM,
    turnedDeg: end.headingDeg - start.headingDeg,
    notes: new Map(summary.notes.map(({ name, value }) => [name, value])),
  };
}

const robots = [
  ["four", demoRobot("flurry")],
  ["three", threeRollers()],
] as const;

describe.each(robots)("%s roller wheels", (_, robot) => {
  test("a square by sliding closes within 10 mm and 1 deg", () => {
    for (const side of [20, 40, 90]) {
      const steps = `slide left ${side} cm\ngo ${side} cm\nslide right ${side} cm\nback ${side} cm`;
      const { forwardM, leftM, turnedDeg, summary } = run(robot, steps);
      expect(summary.outcome).toBe("finished");
      expect(Math.sqrt(forwardM ** 2 + leftM ** 2)).toBeLessThan(0.01);
      expect(Math.abs(turnedDeg)).toBeLessThan(1);
    }
  });

  test("left and right by lengths, at speeds, with ramps", () => {
    for (const [steps, wanted] of [
      ["slide left 60 cm", 0.6],
      ["slide right 25 cm at 10 cm/s", -0.25],
      ["slide left 80 cm at 25 cm/s ramp 50 cm/s/s", 0.8],
      ["slide left -30 cm", -0.3],
    ] as const) {
      const { leftM, forwardM, turnedDeg } = run(robot, steps);
      expect(leftM).toBeCloseTo(wanted, 2);
      expect(Math.abs(forwardM)).toBeLessThan(0.005);
      expect(Math.abs(turnedDeg)).toBeLessThan(0.5);
    }
  });

  test("until, for and limit end it; then keep slides on into the next step", () => {
    expect(run(robot, "slide left until robot.aside > 30 cm").leftM).toBeGreaterThan(0.3);
    expect(run(robot, "slide right at 15 cm/s for 2 s").leftM).toBeLessThan(-0.2);
    expect(run(robot, "slide left 2 m limit 30 cm").leftM).toBeLessThan(0.45);
    const kept = run(robot, "slide left 30 cm at 20 cm/s then keep\nwait 1 s\nstop\nnote aside = robot.aside");
    expect(kept.notes.get("aside")).toBeGreaterThan(0.45);
    expect(kept.leftM).toBeGreaterThan(0.45);
  });

  test("robot.aside, robot.x, robot.y and last.travel tell it", () => {
    const { notes } = run(
      robot,
      "slide left 40 cm\nnote way = last.travel\ngo 5 cm\nnote ahead = last.travel\nback 5 cm\nturn left 90 deg\nslide right 10 cm\nnote aside = robot.aside\nnote x = robot.x\nnote y = robot.y",
    );
    expect(notes.get("way")).toBeCloseTo(0.4, 2);
    // Of the step alone, not of the way aside before it.
    expect(notes.get("ahead")).toBeCloseTo(0.05, 2);
    expect(notes.get("aside")).toBeCloseTo(0.3, 2);
    // Looking left, its right is where it looked at first.
    expect(notes.get("x")).toBeCloseTo(0.1, 2);
    expect(notes.get("y")).toBeCloseTo(0.4, 2);
  });

  test("an interrupted slide does what remains", () => {
    const { leftM, forwardM } = run(
      robot,
      "during\n  slide left 60 cm at 20 cm/s\nwhenever robot.aside > 20 cm\n  wait 0.5 s\n  leave\nnote aside = robot.aside",
    );
    expect(leftM).toBeGreaterThan(0.2);
    expect(leftM).toBeLessThan(0.3);
    const resumed = run(
      robot,
      "set seen = 0\nduring\n  slide left 60 cm at 20 cm/s\nwhenever robot.aside > 20 cm and seen is 0\n  set seen = 1\n  wait 0.5 s\n  resume",
    );
    expect(resumed.leftM).toBeCloseTo(0.6, 2);
    expect(Math.abs(resumed.forwardM - forwardM)).toBeLessThan(0.01);
  });

  test("it holds its heading against unequal motors and a bumpy floor", () => {
    for (let seed = 1; seed <= 8; seed += 1) {
      const { turnedDeg, leftM } = run(robot, "slide left 1 m at 20 cm/s", { seed, ideal: false });
      expect(Math.abs(turnedDeg)).toBeLessThan(2);
      expect(Math.abs(leftM - 1)).toBeLessThan(0.12);
    }
  });

  test("go, turn, arc and roll work as on any robot", () => {
    expect(run(robot, "go 70 cm").forwardM).toBeCloseTo(0.7, 2);
    expect(run(robot, "turn right 120 deg").turnedDeg).toBeCloseTo(-120, 0);
    const arc = run(robot, "arc left 90 deg radius 30 cm");
    expect(arc.forwardM).toBeCloseTo(0.3, 2);
    expect(arc.leftM).toBeCloseTo(0.3, 2);
    expect(run(robot, "roll 20 cm/s turning left 30 deg/s for 2 s then stop").turnedDeg).toBeGreaterThan(45);
    expect(run(robot, "wheels left 20 cm/s right 20 cm/s for 2 s then stop").forwardM).toBeGreaterThan(0.3);
    expect(run(robot, "power left 40 % right 40 % for 1 s\nstop").forwardM).toBeGreaterThan(0.1);
  });
});

test("the crab keeps its eye on the cliff and comes home", () => {
  const robot = demoRobot("flurry");
  const prepared = prepareMission(missionFile("missions/crab-along-the-cliff.cairn"), robot, demoField("cliff-run"));
  let good = 0;
  for (let seed = 1; seed <= 20; seed += 1) {
    const { summary } = rehearse(prepared, { seed, ideal: false });
    if (summary.success) good += 1;
    const notes = new Map(summary.notes.map(({ name, value }) => [name, value as number]));
    expect(Math.abs((notes.get("left_gap") ?? 0) - (notes.get("right_gap") ?? 1))).toBeLessThan(0.04);
    expect(notes.get("pressed")).toBeGreaterThan(1.5);
  }
  expect(good).toBeGreaterThanOrEqual(19);
});
