// Everyday words: what was meant is offered, it is a step without problems, and it does what the words say.
import { describe, expect, test } from "vitest";
import { applyChange, parseMission, prepareMission, type Robot, wordProblems } from "../../src/index.js";
import { demoRobot, drizzle, fellside, missionOf, problemsOf, runSteps } from "../support/demo.js";

function firstProblem(step: string) {
  const text = missionOf(step);
  const { problems } = prepareMission(text, drizzle(), fellside()).check;
  const problem = problems.find(({ severity }) => severity === "error");
  const mend = problem?.mend;
  return { problem, mended: mend ? applyChange(text, { start: mend.start, end: mend.end, insert: mend.text }) : text };
}

const MEANT: readonly (readonly [typed: string, meant: string])[] = [
  ["drive 1 m", "go 1 m"],
  ["drive forward 30 centimeters", "go 30 cm"],
  ["forward 30", "go 30 cm"],
  ["move 2 meters", "go 2 m"],
  ["go straight 50cm", "go 50 cm"],
  ["backward 20", "back 20 cm"],
  ["go backwards 20 cm", "back 20 cm"],
  ["10 inches", "go 10 in"],
  ["go 10 inches", "go 10 in"],
  ["drive 1 foot", "go 1 ft"],
  ["drive 5 s", "go for 5 s"],
  ["left 90", "turn left 90 deg"],
  ["left", "turn left 90 deg"],
  ["right 45 degrees", "turn right 45 deg"],
  ["turn left 90", "turn left 90 deg"],
  ["turn 90 degrees right", "turn right 90 deg"],
  ["rotate left 90°", "turn left 90 deg"],
  ["turn around", "turn left 180 deg"],
  ["speed 20", "set cruise = 20 cm/s"],
  ["wait 2 seconds", "wait 2 s"],
  ["sleep 500 ms", "wait 500 ms"],
  ["pause 1 minute", "wait 60 s"],
  ["stop at 15 cm from wall", "go until eye.distance < 15 cm"],
  ["stop 20 cm before the wall", "go until eye.distance < 20 cm"],
  ["drive until the wall", "go until eye.distance < 15 cm"],
  ["halt", "stop"],
  ["x = 5", "set x = 5"],
  ["print clock", "show clock"],
  ["go 3 cm and stop", "go 3 cm"],
  ["go 3 and stop", "go 3 cm"],
  ["const a = 3", "set a = 3"],
  ["set a = 7 mod 3", "set a = mod(7, 3)"],
  ["go while bumper.pressed", "go until not (bumper.pressed)"],
  ["gyro.reset()", "reset gyro"],
  ["arm to 30", "move arm to 30 deg"],
  ["go to 30 cm, 10 cm at 15 cm/s facing left 90 deg", "go to 30 cm, 10 cm facing left 90 deg at 15 cm/s"],
  ["roll 10 cm/s for 2 s turning left 20 deg/s", "roll 10 cm/s turning left 20 deg/s for 2 s"],
  ["arc left 90 deg at 10 cm/s radius 20 cm", "arc left 90 deg radius 20 cm at 10 cm/s"],
  ["turn left 90 deg at 60 deg/s about left wheel", "turn left 90 deg about left wheel at 60 deg/s"],
];

/** Said although it does not fit here: the next problem says why. */
const MEANT_ANYWAY: readonly (readonly [typed: string, meant: string, next: string])[] = [
  ["kill x()", "stop x", "unknown-motor"],
  ["lock steering", "steer 0 deg", "cannot-steer"],
];

/** What takes several lines, or has steps below it. */
const MEANT_LINES: readonly (readonly [typed: string, meant: string])[] = [
  ["turn right 90 and go 20", "turn right 90 deg\ngo 20 cm"],
  ["go 20 cm then turn left", "go 20 cm\nturn left 90 deg"],
  ["if bumper.pressed then stop", "if bumper.pressed\n  stop"],
  ["if bumper.pressed then back 10", "if bumper.pressed\n  back 10 cm"],
  ["while bumper.pressed:\n  wait 1 s", "repeat while bumper.pressed\n  wait 1 s"],
  ["for i in 1 to 3\n  go 1 cm", "repeat 3 times as i\n  go 1 cm"],
  ["for i from 1 to 3:\n  go 1 cm", "repeat 3 times as i\n  go 1 cm"],
];

const errorsOf = (text: string) =>
  problemsOf(text)
    .filter(({ severity }) => severity === "error")
    .map(({ code }) => code);

describe("everyday words", () => {
  test.each(MEANT_ANYWAY)("%s is said to be %s, and then comes %s", (typed, meant, next) => {
    const { problem, mended } = firstProblem(typed);
    expect(problem).toMatchObject({ code: "meant", message: `In a mission this is written "${meant}".` });
    expect(prepareMission(mended, drizzle(), fellside()).check.problems.map(({ code }) => code)).toContain(next);
  });

  test.each(MEANT_LINES)("%j is fixed to %j, and that is a good mission", (typed, meant) => {
    const text = missionOf(typed);
    expect(errorsOf(text)).toEqual(["meant"]);
    const { mended } = firstProblem(typed);
    expect(mended).toBe(missionOf(meant));
    expect(errorsOf(mended)).toEqual([]);
  });

  test.each(MEANT)("%s is offered as %s", (typed, meant) => {
    const { problem, mended } = firstProblem(typed);
    expect(problem).toMatchObject({ code: "meant", message: `In a mission this is written "${meant}".` });
    expect(mended).toBe(missionOf(meant));
    const left = prepareMission(mended, drizzle(), fellside()).check.problems;
    expect(left.filter(({ severity }) => severity === "error")).toEqual([]);
  });

  /** What is wrong by its words alone, whatever robot it is for. */
  const byWords = MEANT.filter(
    ([typed]) => typed !== "arm to 30" && parseMission(missionOf(typed)).problems.length > 0,
  );

  test.each(byWords)("%s is offered as %s while robot and field are still on their way", (typed, meant) => {
    const [problem] = wordProblems(parseMission(missionOf(typed)));
    expect(problem).toMatchObject({ code: "meant", message: `In a mission this is written "${meant}".` });
  });

  test("most of them are wrong by their words alone; what may be a motor's is left until the robot is known", () => {
    expect(byWords.length).toBeGreaterThan(MEANT.length / 2);
    expect(wordProblems(parseMission(missionOf("arm to 30"))).map(({ code }) => code)).not.toContain("meant");
  });

  test.each([
    ["strafe left 20", "slide left 20 cm"],
    ["move sideways right 30 centimeters", "slide right 30 cm"],
    ["slide 25 cm to the left", "slide left 25 cm"],
    ["sidestep 5 cm right", "slide right 5 cm"],
  ])("on roller wheels %s is offered as %s, on others it is not", (typed, meant) => {
    const flurry = demoRobot("flurry");
    const problems = (robot: Robot) => {
      const text = missionOf(typed).replace("Drizzle", robot.name);
      return prepareMission(text, robot, fellside()).check.problems.filter(({ severity }) => severity === "error");
    };
    expect(problems(flurry)[0]).toMatchObject({ code: "meant", message: `In a mission this is written "${meant}".` });
    expect(problems(drizzle()).map(({ code }) => code)).not.toContain("meant");
  });

  test("go home becomes the step that leads there, from wherever it is", () => {
    const { mended } = firstProblem("go home");
    const home = mended.split("\n").filter((line) => /go to begin/.test(line));
    const { summary } = runSteps(`go 40 cm\nturn left 70 deg\ngo 30 cm\n${home.map((line) => line.trim()).join("\n")}`);
    expect(summary.reason).toBe("");
    expect(Math.hypot(summary.end.xM - summary.start.xM, summary.end.yM - summary.start.yM)).toBeLessThan(0.01);
  });

  test("a distance sensor of another name is the one that is named", () => {
    const robot = drizzle((body) => {
      for (const sensor of body.sensors) if (sensor.kind === "eye") sensor.name = "sonar";
    });
    const { problems } = prepareMission(missionOf("stop at wall"), robot, fellside()).check;
    expect(problems.find(({ severity }) => severity === "error")?.mend?.text).toBe("go until sonar.distance < 15 cm");
  });

  test.each([
    ["trun left 90 deg", "unknown-step"],
    ["go 90", "dimension"],
    ["go 30 cn", "unknown-unit"],
    ["forward", "unknown-step"],
    ["drive 5 bananas", "unknown-step"],
    ["the quick brown fox", "unknown-step"],
  ])("%s keeps its own problem", (typed, code) => {
    expect(firstProblem(typed).problem?.code).toBe(code);
  });

  test("nothing is offered that would be no step on this robot", () => {
    const robot = drizzle((body) => {
      body.sensors = body.sensors.filter(({ kind }) => kind !== "eye");
    });
    const { problems } = prepareMission(missionOf("stop at wall"), robot, fellside()).check;
    expect(problems[0]?.code).not.toBe("meant");
  });
});

describe("a goal that was not met", () => {
  const reason = (goal: string, steps: string) =>
    runSteps(steps, { field: fellside() }, `field "Fellside"\ngoal ${goal}`).summary.reason;

  test("says which part of it failed, what was found, and by how much", () => {
    expect(reason("clock < 1 s and robot.travel > 5 cm", "wait 1.5 s\ngo 10 cm")).toMatch(
      /^the goal was not met: clock < 1 s \(clock was \d\.\d+ s, \d\.\d+ s too much\)$/,
    );
    expect(reason("robot.travel > 50 cm", "go 20 cm")).toMatch(
      /^the goal was not met: robot\.travel > 50 cm \(robot\.travel was (19\.\d+|20\.?\d*) cm, (30|29)\.?\d* cm too little\)$/,
    );
  });

  test("names every part that failed, and none that was met", () => {
    const words = reason("clock < 1 s and robot.travel > 50 cm and robot.travel > 1 cm", "wait 1.5 s\ngo 20 cm");
    expect(words).toContain("clock < 1 s (");
    expect(words).toContain("; robot.travel > 50 cm (");
    expect(words).not.toContain("robot.travel > 1 cm");
  });

  test("says how far outside of a zone the robot stands", () => {
    const words = reason('inside "mast yard"', "go 10 cm");
    expect(words).toMatch(/^the goal was not met: inside "mast yard" \(the robot stands \d+(\.\d)? cm outside\)$/);
  });
});
