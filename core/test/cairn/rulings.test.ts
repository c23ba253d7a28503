// The numbered rulings of the language, each as a test. Those about words, values and dimensions that are
// problems have their sentence in problems.test; here is what they let through, and what running does.
import { describe, expect, test } from "vitest";
import { applyChange, formatMission, parseMission, type RunResult, traceColumn } from "../../src/index.js";
import { demoRobot, drizzle, fellside, missionOf, problemsOf, runSteps, runText } from "../support/demo.js";

const HEAD = 'cairn 1\nrobot "Drizzle"\n';

const codes = (text: string, robot = drizzle()) => problemsOf(text, robot).map((problem) => problem.code);

/** Values of a note, in order. */
function notes(run: RunResult, name: string): (number | string)[] {
  return run.summary.notes.filter((note) => note.name === name).map((note) => note.value);
}

const withTop = (top: string, steps: string) => `${HEAD}${top}\nmission\n${steps.replace(/^/gm, "  ")}\n`;

/** Where the robot ends, from a begin place at (2, 2) looking along x, cm and deg. */
function pose({ summary }: RunResult) {
  return { x: (summary.end.xM - 2) * 100, y: (summary.end.yM - 2) * 100, deg: summary.end.headingDeg };
}

const ended = ({ summary }: RunResult) => summary.steps.map((step) => [step.step, step.endedBy]);
const times = ({ summary }: RunResult) =>
  summary.steps.map((step) => [step.step, Math.round(step.startMs / 10) / 100, Math.round(step.endMs / 10) / 100]);

describe("words and literals", () => {
  test("1: notes and signals have names of their own, beside values and routines", () => {
    const text = withTop("set ready = 1 s", "send ready\nnote ready = clock\nwait until heard ready\nwait ready");
    expect(codes(text)).toEqual([]);
  });

  test("1: grammar words are free after a dot", () => {
    expect(codes(missionOf("wait until floor.left.dark limit 1 s"))).toEqual([]);
  });

  test("2: an unspaced / before a unit belongs to the literal, a spaced one divides", () => {
    const run = runSteps("note a = 30 cm/s\nnote b = 30 cm / 2\nnote c = 1.5 %/deg * 4 deg");
    expect(notes(run, "a")).toEqual([0.3]);
    expect(notes(run, "b")).toEqual([0.15]);
    expect(notes(run, "c")[0]).toBeCloseTo(0.06, 12);
  });

  test("3: a comment belongs to the next line, and moves with it", () => {
    const formatted = formatMission(missionOf("# first\ngo 10 cm\nwait 1 s # trailing"));
    expect(formatted.ok && formatted.text).toContain("  # first\n  go 10 cm\n  wait 1 s  # trailing\n");
  });

  test("4: left and right cover the whole sum; after power and wheels they are labels", () => {
    expect(pose(runSteps("turn right 30 deg + 15 deg")).deg).toBeCloseTo(-45, 0);
    expect(pose(runSteps("wheels left 10 cm/s right 20 cm/s for 1 s")).deg).toBeGreaterThan(20);
  });

  test("5: named angles carry their side", () => {
    expect(codes(withTop("set swing = right 30 deg", "turn swing\naim head to swing"))).toEqual([]);
    expect(pose(runText(withTop("set swing = right 30 deg", "turn swing"))).deg).toBeCloseTo(-30, 0);
    expect(codes(missionOf("aim head to 20 deg"))).toEqual(["which-side"]);
    expect(codes(missionOf("aim head to 0 deg"))).toEqual([]);
  });

  test("6: numbers and % share a dimension", () => {
    expect(notes(runSteps("note a = 50 % + 0.25"), "a")).toEqual([0.75]);
  });

  test("7: shaft angles and robot angles do not mix; literals fit both", () => {
    expect(codes(missionOf("move arm to gyro.heading"))).toEqual(["mixed-angles"]);
    expect(codes(missionOf("move arm to arm.angle + 20 deg\nturn gyro.heading + 20 deg"))).toEqual([]);
  });

  test("8: a range with is reads naturally on measured values", () => {
    expect(codes(missionOf("wait until eye.distance is 29 cm to 31 cm limit 1 s"))).toEqual([]);
  });

  test("9: held closes a whole condition, in whenever too", () => {
    const run = runSteps("during\n  wait 1 s\nwhenever clock > 0.3 s held 200 ms\n  note fired = clock\n  leave");
    expect(notes(run, "fired")[0]).toBeCloseTo(0.51, 2);
  });
});

describe("values and routines", () => {
  test("10: set assigns a mission value, or makes one local to its routine", () => {
    const text = withTop(
      "set count = 0\nroutine bump(amount: number)\n  set double = amount * 2\n  set count = count + double",
      "bump(3)\nbump(4)\nnote count = count",
    );
    expect(notes(runText(text), "count")).toEqual([14]);
  });

  test("11: a routine that takes time is a step or the whole right side of set", () => {
    const text = withTop(
      "routine measure(pause: time)\n  wait pause\n  give clock * 10 cm/s",
      "set far = measure(0.5 s)\nnote far = far",
    );
    expect(notes(runText(text), "far")[0]).toBeCloseTo(0.05, 3);
  });

  test("11: one that takes no time can stand in any value", () => {
    const text = withTop(
      "routine larger(a: length, b: length)\n  if a > b\n    give a\n  give b\nroutine sum3(a: length)\n  give larger(a, 20 cm) + larger(a, 5 cm)",
      "go sum3(10 cm)\nnote way = sum3(40 cm)",
    );
    const run = runText(text);
    expect(pose(run).x).toBeCloseTo(30, 0);
    expect(notes(run, "way")[0]).toBeCloseTo(0.8, 9);
  });

  test("12: readings are frozen within a tick", () => {
    const run = runSteps("go 20 cm then keep\nset a = robot.travel\nset b = robot.travel\nnote same = a - b");
    expect(notes(run, "same")).toEqual([0]);
  });

  test("12: a distance sensor that sees nothing reads its far limit and is not seen", () => {
    const run = runSteps("wait 0.5 s\nnote far = eye.distance\nnote seen = eye.seen");
    expect(notes(run, "far")[0]).toBeGreaterThan(1);
    expect(notes(run, "seen")).toEqual([0]);
  });
});

describe("driving", () => {
  test("13: tails may come in any order and are put into theirs", () => {
    const formatted = formatMission(missionOf("go 30 cm then stop limit 4 s at 10 cm/s"));
    expect(formatted.ok && formatted.text).toContain("go 30 cm at 10 cm/s limit 4 s then stop");
  });

  test("13: a step whose until is true from the start ends at once, and the robot stands", () => {
    const run = runSteps("go 10 cm\nturn left until clock > 0 s limit 1 s\nwait 0.2 s");
    expect(run.summary.reason).toBe("");
    expect(run.summary.steps[1]).toMatchObject({ endedBy: "until" });
    expect(run.summary.steps[1]?.endMs).toBe(run.summary.steps[1]?.startMs);
    expect(Math.abs(pose(run).deg)).toBeLessThan(1);
  });

  test("14: without an amount a driving step ends on for or until", () => {
    expect(
      ended(runSteps("go for 1 s\nturn left until gyro.heading > 30 deg\narc right radius 30 cm for 1 s")),
    ).toEqual([
      ["1", "for"],
      ["2", "until"],
      ["3", "for"],
    ]);
  });

  test("15: what was passed on ends with its every and with its task, then the robot brakes", () => {
    const run = runSteps(
      "every 20 ms limit 1 s\n  roll 20 cm/s\nnote way = robot.travel\nwait 1 s\nnote after = robot.travel",
    );
    const [way] = notes(run, "way") as number[];
    const [after] = notes(run, "after") as number[];
    expect(way).toBeGreaterThan(0.12);
    expect((after as number) - (way as number)).toBeLessThan(0.05);
    const branch = runSteps("together\n  roll 20 cm/s\n  wait 0.5 s\nalso\n  wait 2 s\nnote end = robot.travel");
    expect(notes(branch, "end")[0]).toBeLessThan(0.14);
  });

  test("16: every keeps its period, and its steps may drive by what they read", () => {
    const run = runSteps(
      "set n = 0\nevery 50 ms until n is 5\n  set n = n + 1\n  note due = clock\n  roll 20 cm/s turning -2 * gyro.heading / 1 s",
    );
    const at = (notes(run, "due") as number[]).map((t) => Math.round(t * 1000));
    expect(at.slice(1).map((t, i) => t - (at[i] as number))).toEqual([50, 50, 50, 50]);
  });

  test("17: then keep rolls on into the next step without stopping", () => {
    const run = runSteps("go 20 cm then keep\ngo 20 cm");
    const x = traceColumn(run.trace, "x");
    const at = (run.summary.steps[1]?.startMs ?? 0) / 10;
    expect(((x?.[at + 1] as number) - (x?.[at] as number)) / 0.01).toBeGreaterThan(0.15);
  });

  test("18: face measures from the start place; reset robot declares it stands there", () => {
    expect(pose(runSteps("turn left 50 deg\nface begin")).deg).toBeCloseTo(0, 0);
    const run = runSteps(
      "go 20 cm\nturn left 50 deg\nreset robot\nnote x = robot.x\nnote h = robot.heading\nface left 10 deg",
    );
    expect(notes(run, "x")).toEqual([0]);
    expect(notes(run, "h")).toEqual([0]);
    expect(pose(run).deg).toBeCloseTo(60, 0);
  });

  test("18: resetting the gyro leaves the robot's own heading alone", () => {
    const run = runSteps("turn left 40 deg\nreset gyro\nnote zeroed = gyro.heading\nnote h = robot.heading");
    expect(notes(run, "zeroed")).toEqual([0]);
    expect(notes(run, "h")[0]).toBeCloseTo(0.698, 1);
  });

  test("19: an open step is bounded, and says what did not come", () => {
    const run = runSteps("go at 1 cm/s until bumper.pressed");
    expect(run.summary.reason).toBe('step 1 never ended: "bumper.pressed" did not come true within 60 s');
  });

  test("19: a motor against a stop ends as stalled, and last knows", () => {
    const run = runSteps("move arm to 300 deg\nnote stalled = last.stalled\nnote arm_angle = arm.angle");
    expect(ended(run)[0]).toEqual(["1", "stalled"]);
    expect(notes(run, "arm_angle")[0]).toBeCloseTo(2.094, 1);
    expect(run.summary.outcome).toBe("finished");
  });

  test("20: without encoders lengths run by time and are marked", () => {
    const fog = demoRobot("fog");
    const run = runText(missionOf("go 40 cm"), { robot: fog });
    expect(run.summary.steps[0]?.timed).toBe(true);
  });
});

describe("parts", () => {
  test("move goes to and by angles and then holds", () => {
    const run = runSteps("move arm to 60 deg at 120 deg/s\nmove arm by -20 deg\nwait 1 s\nnote arm_angle = arm.angle");
    expect(ended(run).slice(0, 2)).toEqual([
      ["1", "done"],
      ["2", "done"],
    ]);
    expect(notes(run, "arm_angle")[0]).toBeCloseTo((40 * Math.PI) / 180, 1);
  });

  test("move at a speed passes on and ends with the mission's next step for it", () => {
    const run = runSteps("move arm at 90 deg/s\nwait 0.5 s\nstop arm\nwait 0.3 s\nnote arm_angle = arm.angle");
    expect(notes(run, "arm_angle")[0]).toBeGreaterThan(0.4);
    expect(notes(run, "arm_angle")[0]).toBeLessThan(1);
  });

  test("home finds the end stop and makes it zero", () => {
    const run = runSteps(
      "move arm to 50 deg\nhome arm toward low\nnote lowest = arm.angle\nhome arm toward high\nnote highest = arm.angle\nmove arm to -90 deg\nnote behind = arm.angle",
    );
    expect(notes(run, "lowest")).toEqual([0]);
    expect(notes(run, "highest")).toEqual([0]);
    expect(notes(run, "behind")[0]).toBeCloseTo(-Math.PI / 2, 1);
  });

  test("aim waits until the head stands and the distance sensor has looked anew; scan finds the nearest and the clearest", () => {
    const field = fellside();
    const text = (steps: string) =>
      `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\nmission\n${steps.replace(/^/gm, "  ")}\n`;
    const run = runText(
      text(
        "scan head from left 80 deg to right 80 deg with 9 looks\nnote near = head.nearest\nnote clear = head.clearest\naim head to head.nearest\nnote d = eye.distance\naim head to head.clearest\nnote c = eye.distance",
      ),
      { field },
    );
    expect(notes(run, "d")[0]).toBeLessThan(notes(run, "c")[0] as number);
    expect(run.summary.steps[0]?.endedBy).toBe("done");
    expect(run.summary.steps[0]?.endMs).toBeGreaterThan(9 * 60);
  });

  test("press squares up on a wall", () => {
    const text = `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\nmission\n  turn left 8 deg\n  press back\n  note h = robot.heading\n`;
    const run = runText(text, { field: fellside() });
    expect(run.summary.steps[1]?.endedBy).toBe("done");
    expect(Math.abs(run.summary.end.headingDeg)).toBeLessThan(1.5);
  });

  test("follow line keeps to the trail, on its centre and on an edge, up to the crossing", () => {
    for (const how of ["centre with floor", "left edge with floor.left"]) {
      const until = how.startsWith("centre") ? "floor.crossing" : "robot.travel > 1.2 m";
      const text = `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\nmission\n  follow line on ${how} at 14 cm/s until ${until} limit 30 s\n`;
      const run = runText(text, { field: fellside() });
      expect(run.summary.steps[0]?.endedBy, how).toBe("until");
      expect(run.summary.end.xM, how).toBeGreaterThan(1.1);
      if (how.startsWith("centre"))
        expect(Math.hypot(run.summary.end.xM - 1.66, run.summary.end.yM - 1.135)).toBeLessThan(0.04);
    }
  });

  test("follow wall keeps its distance with a side distance sensor", () => {
    const sleet = demoRobot("sleet");
    const eye = sleet.sensors.find((sensor) => sensor.kind === "eye");
    if (eye?.kind !== "eye") throw new Error("Sleet has a side distance sensor");
    const side = eye.aimRad > 0 ? "left" : "right";
    const text = `cairn 1\nrobot "Sleet"\nfield "Fellside"\nmission\n  follow wall on ${side} 20 cm away with ${eye.name} at 15 cm/s until robot.travel > 1.2 m\n  note d = ${eye.name}.distance\n`;
    const field = structuredClone(fellside());
    Object.assign(field, { marks: [], boulders: [], loads: [], walls: [], tags: [] });
    const wallY = side === "left" ? 1.0 : 0.3;
    field.walls.push({
      ...(fellside().walls[0] as (typeof field.walls)[number]),
      name: "w",
      fromM: [0.1, wallY],
      toM: [2, wallY],
      heightM: 0.3,
    });
    field.begins = [{ name: "s", xM: 0.3, yM: side === "left" ? 0.72 : 0.58, headingRad: 0 }];
    const run = runText(text, { field, robot: sleet });
    expect(run.summary.reason).toBe("");
    expect(notes(run, "d")[0]).toBeGreaterThan(0.17);
    expect(notes(run, "d")[0]).toBeLessThan(0.23);
  });

  test("show, light and beep take no time and are written down", () => {
    const run = runSteps('show "hello", robot.travel, clock\nlight 50 %\nbeep');
    expect(run.summary.signs.map(({ kind, text }) => `${kind} ${text}`)).toEqual([
      "show hello  robot.travel 0 cm  clock 0 s",
      "light 50 %",
      "beep ",
    ]);
    expect(run.summary.durationMs).toBeLessThan(20);
  });

  test("a car's axle is steered by itself, and owned like the wheels", () => {
    const run = runText(missionOf("steer left 15 deg\npower both 40 % for 1.5 s"), { robot: demoRobot("sleet") });
    expect(run.summary.end.headingDeg).toBeGreaterThan(10);
  });
});

describe("tasks", () => {
  test("21: branches of together run side by side; it ends when all have, or when one does", () => {
    const all = runSteps("together\n  go 20 cm\nalso\n  wait 3 s\nwait 0.1 s");
    expect(times(all).find(([step]) => step === "2")?.[1]).toBeGreaterThanOrEqual(3);
    const one = runSteps("together until one ends\n  go 20 cm\nalso\n  wait 9 s\nwait 0.1 s");
    expect(one.summary.durationMs).toBeLessThan(4000);
    expect(one.summary.steps.find((step) => step.step === "1b")?.endedBy).toBe("interrupted");
  });

  test("21: branches that want the same are a problem, through calls too", () => {
    const text = withTop("routine roll_on()\n  roll 10 cm/s", "together\n  go 20 cm\nalso\n  roll_on()");
    expect(codes(text)).toEqual(["both-move"]);
    expect(codes(missionOf("together\n  go 20 cm\nalso\n  move arm to 40 deg"))).toEqual([]);
  });

  test("21: a clash at run time stops the mission and names both steps", () => {
    const text = withTop("routine drift()\n  wait 0.3 s\n  turn left 20 deg", "start drift()\ngo 60 cm");
    expect(runText(text).summary.reason).toBe("steps 2 and drift.2 both want the wheels at the same time");
  });

  test("22: the mission ends when mission ends, whatever was started; any task may finish", () => {
    const text = withTop("routine watch()\n  wait 0.5 s\n  finish", "start watch()\nwait 3 s");
    expect(runText(text).summary.durationMs).toBeLessThan(600);
    const other = withTop("routine watch()\n  wait 5 s\n  note late = 1", "start watch()\nwait 1 s");
    expect(runText(other).summary.durationMs).toBeLessThan(1100);
  });

  test("23: a signal is remembered by each task until it is heard there", () => {
    const text = withTop(
      "routine lift()\n  wait until heard ready\n  note first = clock\n  wait until heard ready limit 0.5 s\n  note second = last.limited",
      "start lift()\nwait 0.2 s\nsend ready\nwait 0.3 s\nnote mine = 1\nwait until heard ready\nnote own = clock\nwait 1 s",
    );
    const run = runText(text);
    expect(notes(run, "first")[0]).toBeCloseTo(0.2, 1);
    expect(notes(run, "second")).toEqual([1]);
    expect(notes(run, "own")[0]).toBeCloseTo(0.5, 1);
  });

  test("24: conditions are levels, looked at outer first, then top down", () => {
    const run = runSteps(
      "during\n  during\n    wait 1 s\n  whenever clock > 0.5 s\n    note which = 1\n    leave\nwhenever clock > 0.5 s\n  note which = 2\n  leave\nwhenever clock > 0.4 s\n  note which = 3\n  leave",
    );
    expect(notes(run, "which")).toEqual([3]);
    const same = runSteps(
      "during\n  during\n    wait 1 s\n  whenever clock > 0.5 s\n    note which = 1\n    leave\nwhenever clock > 0.5 s\n  note which = 2\n  leave",
    );
    expect(notes(same, "which")).toEqual([2]);
  });

  test("24: a handler that falls off its end resumes, and is not interrupted by its siblings", () => {
    const run = runSteps(
      "set n = 0\nduring\n  wait 1 s\n  note body = clock\nwhenever clock > 0.3 s and n is 0\n  set n = 1\n  wait 0.5 s\n  note handler = clock\nwhenever clock > 0.4 s and n is 1\n  set n = 2\n  note other = clock",
    );
    expect(notes(run, "handler")[0]).toBeCloseTo(0.8, 1);
    expect(notes(run, "other")[0]).toBeGreaterThan(0.79);
    expect(notes(run, "body")[0]).toBeCloseTo(1.5, 1);
  });

  test("24: twenty firings without progress stop the mission", () => {
    const run = runSteps("during\n  wait 5 s\nwhenever clock > 1 s\n  beep");
    expect(run.summary.reason).toContain("came true 20 times before its body could get on");
  });

  test("25: go does what remains, and keeps its heading if the handler did not drive", () => {
    const run = runSteps(
      "set n = 0\nduring\n  go 40 cm\nwhenever robot.travel > 15 cm and n is 0\n  set n = 1\n  wait 0.5 s",
    );
    expect(pose(run).x).toBeCloseTo(40, 0);
    const drove = runSteps(
      "set n = 0\nduring\n  go 40 cm\nwhenever robot.travel > 15 cm and n is 0\n  set n = 1\n  turn left 90 deg",
    );
    expect(pose(drove).y).toBeGreaterThan(15);
    expect(pose(drove).x + pose(drove).y).toBeCloseTo(40, -1);
  });

  test("25: a handler that comes while a step slows down does not hold it up", () => {
    const run = runSteps(
      "set n = 0\nduring\n  go at 30 cm/s until clock > 1 s\n  note through = clock\nwhenever clock > 1.03 s and n is 0\n  set n = 1\n  back 5 cm",
    );
    expect(notes(run, "through")[0]).toBeLessThan(2.5);
    expect(run.summary.outcome).toBe("finished");
  });

  test("25: turn and arc do what remains, face keeps its target", () => {
    const body = (step: string) =>
      `set n = 0\nduring\n  ${step}\nwhenever robot.heading > 30 deg and n is 0\n  set n = 1\n  wait 0.5 s`;
    expect(pose(runSteps(body("turn left 90 deg"))).deg).toBeCloseTo(90, 0);
    expect(pose(runSteps(body("arc left 90 deg radius 30 cm"))).deg).toBeCloseTo(90, 0);
    expect(pose(runSteps(body("face left 90 deg"))).deg).toBeCloseTo(90, 0);
  });

  test("25: clocks pause: wait keeps the time left, for goes on with what is left", () => {
    const run = runSteps(
      "set n = 0\nduring\n  wait 1 s\nwhenever clock > 0.4 s and n is 0\n  set n = 1\n  wait 2 s\nnote end = clock",
    );
    expect(notes(run, "end")[0]).toBeCloseTo(3, 1);
    const roll = runSteps(
      "set n = 0\nduring\n  roll 20 cm/s for 2 s\nwhenever clock > 1 s and n is 0\n  set n = 1\n  wait 1 s",
    );
    const plain = runSteps("roll 20 cm/s for 2 s");
    expect(Math.abs(pose(roll).x - pose(plain).x)).toBeLessThan(5);
    expect(roll.summary.durationMs).toBeGreaterThan(2900);
  });

  test("25: aim, scan and home begin anew; move keeps its target", () => {
    const body = (step: string) =>
      `set n = 0\nduring\n  ${step}\n  note through = clock\nwhenever clock > 0.15 s and n is 0\n  set n = 1\n  wait 1 s`;
    const alone = (step: string) => notes(runSteps(`${step}\nnote through = clock`), "through")[0] as number;
    const scan = "scan head from left 60 deg to right 60 deg with 3 looks";
    // The first look begins again after the handler's second.
    expect(notes(runSteps(body(scan)), "through")[0]).toBeGreaterThan(1.15 + 0.7 * alone(scan));
    // The head itself went on to where it was told.
    expect(notes(runSteps(body("aim head to left 80 deg")), "through")[0]).toBeGreaterThan(1.15);
    const moved = runSteps(`${body("move arm to 100 deg at 60 deg/s")}\nnote at_end = arm.angle`);
    expect(notes(moved, "at_end")[0]).toBeCloseTo((100 * Math.PI) / 180, 1);
    expect(notes(moved, "through")[0]).toBeLessThan(alone("move arm to 100 deg at 60 deg/s") + 1.2);
  });

  test("25: a wait inside every and the every itself go on with what is left", () => {
    const run = runSteps(
      "set n = 0\nset passes = 0\nduring\n  every 100 ms limit 1 s\n    set passes = passes + 1\nwhenever clock > 0.55 s and n is 0\n  set n = 1\n  wait 2 s\nnote passes = passes\nnote end = clock",
    );
    expect(notes(run, "passes")[0]).toBeGreaterThanOrEqual(9);
    expect(notes(run, "passes")[0]).toBeLessThanOrEqual(11);
    expect(notes(run, "end")[0]).toBeCloseTo(3, 1);
  });

  test("25: what was passed on stands still while the handler runs, and goes on after it", () => {
    const run = runSteps(
      "set n = 0\nduring\n  roll 15 cm/s\n  wait 2 s\nwhenever clock > 1 s and n is 0\n  set n = 1\n  wait 0.5 s\n  note stood = robot.travel\n  wait 0.5 s\n  note still = robot.travel",
    );
    const [stood] = notes(run, "stood") as number[];
    expect(notes(run, "still")[0]).toBeCloseTo(stood as number, 2);
    expect(pose(run).x).toBeGreaterThan((stood as number) * 100 + 10);
  });

  test("25: skip ends the interrupted driving step, else every waiting one", () => {
    const run = runSteps("during\n  go 90 cm\n  wait 1 s\nwhenever robot.travel > 20 cm and clock < 2 s\n  skip");
    expect(run.summary.steps[0]?.endedBy).toBe("skipped");
    const waits = runSteps(
      "set n = 0\nduring\n  together\n    wait 5 s\n    note a = clock\n  also\n    wait 6 s\n    note b = clock\nwhenever clock > 1 s and n is 0\n  set n = 1\n  skip",
    );
    expect(notes(waits, "a")[0]).toBeCloseTo(1, 1);
    expect(notes(waits, "b")[0]).toBeCloseTo(1, 1);
  });

  test("25: together is held as a whole while a handler runs", () => {
    const run = runSteps(
      "set n = 0\nduring\n  together\n    go 40 cm\n  also\n    wait 2 s\n    note waited = clock\nwhenever clock > 1 s and n is 0\n  set n = 1\n  wait 1 s",
    );
    expect(notes(run, "waited")[0]).toBeCloseTo(3, 1);
    expect(pose(run).x).toBeCloseTo(40, 0);
  });

  test("25: leave leaves the nearest written loop, every or during", () => {
    const run = runSteps(
      "repeat 3 times\n  during\n    wait 1 s\n  whenever clock > 0.5 s\n    leave\n  note pass = clock\nset i = 0\nrepeat\n  set i = i + 1\n  if i is 4\n    leave\n  if i is 2\n    next\n  note seen = i\nnote end = i",
    );
    expect(notes(run, "pass")).toHaveLength(3);
    expect(notes(run, "seen")).toEqual([1, 3]);
    expect(notes(run, "end")).toEqual([4]);
  });

  test("25: a handler may call the routine it interrupts", () => {
    const text = withTop(
      "routine count(many: number)\n  repeat many times\n    wait 0.2 s\n    note tick = many",
      "set n = 0\nduring\n  count(3)\nwhenever clock > 0.5 s and n is 0\n  set n = 1\n  count(2)",
    );
    expect(notes(runText(text), "tick")).toEqual([3, 3, 2, 2, 3]);
  });

  test("25: give inside a during inside a routine leaves both", () => {
    const text = withTop(
      "routine guarded()\n  during\n    wait 5 s\n    give 1\n  whenever clock > 0.5 s\n    give 2",
      "set how = guarded()\nnote how = how\nwait 0.2 s\nnote end = clock",
    );
    const run = runText(text);
    expect(notes(run, "how")).toEqual([2]);
    expect(notes(run, "end")[0]).toBeCloseTo(0.7, 1);
  });

  test("26: choose reads once, the first match wins; ranges, lists and comparisons", () => {
    const steps = (value: string) =>
      `set v = ${value}\nchoose v\n  is 1 or 3 to 5\n    note arm = 1\n  > 8\n    note arm = 2\n  is 9\n    note arm = 3\n  otherwise\n    note arm = 4`;
    for (const [value, arm] of [
      ["1", 1],
      ["4", 1],
      ["9", 2],
      ["2", 4],
    ] as const)
      expect(notes(runSteps(steps(value)), "arm")).toEqual([arm]);
  });

  test("26: repeat reads its number once", () => {
    const run = runSteps("set n = 2\nrepeat n times\n  set n = n + 3\n  note pass = n");
    expect(notes(run, "pass")).toEqual([5, 8]);
  });
});

describe("no mission can freeze", () => {
  test("tasks that wait for each other are reported as such", () => {
    const run = runSteps("together\n  wait until heard ping\n  send pong\nalso\n  wait until heard pong\n  send ping");
    expect(run.summary.reason).toBe(
      "tasks wait for each other: step 1a waits until heard ping, step 1c waits until heard pong",
    );
    expect(run.summary.durationMs).toBeLessThan(100);
  });

  test("a signal that nobody is left to send is reported", () => {
    const run = runSteps("if clock > 9 s\n  send go_on\nwait until heard go_on");
    expect(run.summary.reason).toBe("step 2 waits until heard go_on, and nobody is left to send it");
  });

  test("routines that call each other 200 deep run", () => {
    const routines = Array.from(
      { length: 200 },
      (_, i) => `routine r${i}()\n  ${i === 199 ? "note deep = 1" : `r${i + 1}()`}`,
    );
    const run = runText(withTop(routines.join("\n"), "r0()"));
    expect(notes(run, "deep")).toEqual([1]);
  });

  test("routines that call each other twice, 60 deep, come to an end of the mission's time", () => {
    const routines = Array.from({ length: 60 }, (_, i) =>
      i === 59 ? `routine r${i}()\n  give 1` : `routine r${i}()\n  give r${i + 1}() + r${i + 1}()`,
    );
    const run = runText(withTop(routines.join("\n"), "note n = r0()"));
    expect(run.summary.reason).toContain("more than 20,000 steps at once");
  });

  test("repeat with nothing in it is a problem, also with a comment in it", () => {
    expect(codes(missionOf("repeat\n  # nothing yet"))).toContain("empty-block");
  });

  test("a started routine that loops without waiting lets the others run", () => {
    const text = withTop(
      "routine spin()\n  set i = 0\n  repeat\n    set i = i + 1",
      "start spin()\nwait 0.5 s\nnote done = clock",
    );
    expect(notes(runText(text), "done")[0]).toBeCloseTo(0.5, 1);
  });

  test("a button that is waited for is pressed by a patient person after a second", () => {
    const robot = drizzle((body) => {
      body.sensors.push({
        kind: "button",
        name: "go_button",
        port: null,
        pullUp: true,
        xM: 0,
        yM: 0,
        zM: 0.05,
      } as never);
    });
    const run = runText(
      missionOf("wait until go_button.tapped\nnote first = clock\nwait until go_button.tapped\nnote second = clock"),
      { robot },
    );
    expect(notes(run, "first")[0]).toBeCloseTo(1, 1);
    expect(notes(run, "second")[0]).toBeGreaterThan(1.9);
  });
});

test("mending a tree keeps its other lines: parse, change, parse", () => {
  const text = missionOf("go 30\nwait 1 s");
  const problem = problemsOf(text)[0];
  expect(problem?.code).toBe("dimension");
  expect(parseMission(applyChange(text, { start: 0, end: 0, insert: "" })).text).toBe(text);
});
