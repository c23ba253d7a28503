// Every problem code: what causes it, where it points, what mends it.
import { readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import { LONGEST_LINE } from "../../src/cairn/lexer.js";
import { MOST_LINES } from "../../src/cairn/parser.js";
import {
  applyChange,
  faultyDocument,
  LONGEST_TEXT,
  openFloor,
  parseMission,
  prepareMission,
  unknownDocument,
} from "../../src/index.js";
import { demoRobot, drizzle, fellside, missionOf, problemsOf } from "../support/demo.js";

const HEAD = 'cairn 1\nrobot "Drizzle"\n';

/** A robot without encoders, and so without measured lengths. */
const blind = drizzle((robot) => {
  for (const motor of robot.motors) motor.encoder = null;
});

/** A mission that hands over to these lines of `remote`. */
const withRemote = (lines: string) => `${missionOf("hand over")}remote\n${lines.replace(/^/gm, "  ")}\n`;

/** code → a text that has it, and the text after its mend where there is one. */
const CASES: readonly (readonly [code: string, text: string, mended?: string])[] = [
  ["not-text", "cairn 1\n\u0000"],
  ["not-mission", '{"format": "giddy-pebble/robot", "version": 3}'],
  ["no-version", "mission\n  wait 1 s\n", "cairn 1\nmission\n  wait 1 s\n"],
  ["unknown-version", "cairn 7\nmission\n  wait 1 s\n", "cairn 1\nmission\n  wait 1 s\n"],
  ["no-mission", HEAD, `${HEAD}\nmission\n  wait 1 s\n`],
  ["mission-twice", `${missionOf("wait 1 s")}mission\n  wait 1 s\n`],
  ["header-twice", 'cairn 1\nrobot "Drizzle"\nrobot "Drizzle"\nmission\n  wait 1 s\n'],
  ["header-late", 'cairn 1\nset a = 1 cm\nrobot "Drizzle"\nmission\n  go a\n'],
  ["step-outside", `${HEAD}go 3 cm\nmission\n  wait 1 s\n`],
  ["unknown-top-word", `${HEAD}mision\n  wait 1 s\n`, `${HEAD}mission\n  wait 1 s\n`],
  ["tab", `${HEAD}mission\n\twait 1 s\n`, `${HEAD}mission\n  wait 1 s\n`],
  ["odd-indent", `${HEAD}mission\n   wait 1 s\n`, `${HEAD}mission\n  wait 1 s\n`],
  ["unexpected-indent", `${HEAD}mission\n  wait 1 s\n    go 3 cm\n`, `${HEAD}mission\n  wait 1 s\n  go 3 cm\n`],
  ["empty-block", `${HEAD}mission\n  repeat 3 times\n`],
  ["partner-alone", missionOf("else\n  wait 1 s")],
  ["partner-missing", missionOf("together\n  wait 1 s")],
  ["wants-arm", missionOf("choose robot.travel\n  wait 1 s")],
  ["stray-character", missionOf("go 30 cm ;"), missionOf("go 30 cm ")],
  ["open-text", 'cairn 1\nrobot "Drizzle\nmission\n  wait 1 s\n', 'cairn 1\nrobot "Drizzle"\nmission\n  wait 1 s\n'],
  ["decimal-comma", missionOf("wait 0,2 s"), missionOf("wait 0.2 s")],
  ["bare-point", missionOf("wait .5 s"), missionOf("wait 0.5 s")],
  ["huge-number", missionOf("wait 12345678901234567890 s")],
  ["not-among-steps", missionOf("list looks of length, at most 7")],
  ["not-among-steps", missionOf("goal come to the end")],
  ["meant", missionOf("forward 30"), missionOf("go 30 cm")],
  ["long-line", missionOf(`set a = ${Array(600).fill("1").join(" + ")}`)],
  ["too-many-lines", missionOf("wait 1 s\n".repeat(MOST_LINES))],
  [
    "calls-too-deep",
    `${HEAD}${Array.from({ length: 300 }, (_, i) => `routine r${i}()\n  ${i === 299 ? "wait 1 s" : `r${i + 1}()`}\n`).join("")}mission\n  r0()\n`,
  ],
  ["unknown-unit", missionOf("go 30 cn"), missionOf("go 30 cm")],
  ["unknown-step", missionOf("trun left 90 deg"), missionOf("turn left 90 deg")],
  ["expected", missionOf("wait"), missionOf("wait 1 s")],
  ["left-over", missionOf("finish now")],
  ["tail-twice", missionOf("go 30 cm at 3 cm/s at 4 cm/s")],
  ["mixed-logic", missionOf("wait until clock > 1 s and clock < 2 s or clock > 3 s")],
  ["chained-comparison", missionOf("wait until 1 s < clock < 2 s")],
  ["needs-remote", missionOf("hand over"), `${missionOf("hand over")}\nremote\n  drive one stick\n`],
  ["not-remote", withRemote("hald thumb.lower beep release stop"), withRemote("hold thumb.lower beep release stop")],
  [
    "remote-twice",
    withRemote("drive tank\nremote\n  drive tank").replace("  remote", "remote").replace("    drive", "  drive"),
  ],
  ["drive-twice", withRemote("drive tank\ndrive one stick")],
  [
    "unknown-control",
    withRemote("hold thumb.louer beep release stop"),
    withRemote("hold thumb.lower beep release stop"),
  ],
  ["bound-twice", withRemote("tap thumb.lower beep again keep\ntap thumb.lower light 5 % again keep")],
  [
    "no-release",
    withRemote("hold thumb.lower power arm 50 %"),
    withRemote("hold thumb.lower power arm 50 % release stop"),
  ],
  [
    "keeps-motor",
    withRemote("hold thumb.lower power arm 50 % release keep"),
    withRemote("hold thumb.lower power arm 50 % release stop"),
  ],
  ["not-for-button", withRemote("tap thumb.lower go 30 cm again stop")],
  [
    "both-buttons",
    withRemote("hold thumb.lower power arm 50 % release stop\ntoggle thumb.upper power arm -50 % again stop"),
  ],
  ["never-hands-over", withRemote("drive tank").replace("hand over", "wait 1 s")],
  ["stick-range", withRemote("drive tank dead 95 %")],
  ["reserved-name", missionOf("set left = 3 cm"), missionOf("set my_left = 3 cm")],
  ["same-name", `${HEAD}set gyro = 3 cm\nmission\n  go gyro\n`],
  ["dimension", missionOf("go 90"), missionOf("go 90 cm")],
  ["mixed-dimensions", missionOf("go 30 cm + 2 s")],
  ["mixed-angles", missionOf("turn left_motor.angle")],
  ["which-side", missionOf("turn 90 deg"), missionOf("turn left 90 deg")],
  ["over-hundred-percent", missionOf("power both 50 for 1 s"), missionOf("power both 50 % for 1 s")],
  ["negative-speed", missionOf("go 30 cm at -10 cm/s"), missionOf("go 30 cm at 10 cm/s")],
  ["not-positive", missionOf("arc left 90 deg radius 0 cm")],
  ["needs-end", missionOf("go at 20 cm/s")],
  [
    "unknown-name",
    missionOf("set cruise = 20 cm/s\ngo 30 cm at criuse"),
    missionOf("set cruise = 20 cm/s\ngo 30 cm at cruise"),
  ],
  ["unknown-reading", missionOf("wait until gyro.headin > 3 deg"), missionOf("wait until gyro.heading > 3 deg")],
  ["needs-reading", missionOf("go until gyro > 3 deg"), missionOf("go until gyro.heading > 3 deg")],
  ["unknown-function", missionOf("wait sqt(4) * 1 s")],
  ["argument-count", missionOf("wait clamp(1 s, 2 s)")],
  [
    "unknown-routine",
    `${HEAD}routine corner()\n  wait 1 s\nmission\n  coner()\n`,
    `${HEAD}routine corner()\n  wait 1 s\nmission\n  corner()\n`,
  ],
  ["recursion", `${HEAD}routine a()\n  b()\nroutine b()\n  a()\nmission\n  a()\n`],
  ["used-before-set", missionOf("go far\nset far = 3 cm")],
  ["shadowing", `${HEAD}set far = 3 cm\nroutine a(far: length)\n  go far\nmission\n  a(far)\n`],
  ["kind-changed", missionOf("set a = 3 cm\nset a = 3 s\ngo a")],
  ["top-set-reads", `${HEAD}set a = gyro.heading\nmission\n  turn a\n`],
  ["not-a-condition", missionOf("wait until 3 cm")],
  ["condition-as-value", missionOf("go 30 cm + (clock > 1 s)")],
  ["goal-only", missionOf('wait until inside "yard"')],
  ["unknown-motor", missionOf("stop amr"), missionOf("stop arm")],
  ["drive-motor", missionOf("power left_motor 30 % for 1 s")],
  ["whole-times", missionOf("repeat 2.5 times\n  wait 1 s")],
  ["unknown-zone", missionOf("wait 1 s", 'goal inside "mast yrd"')],
  ["unknown-begin", missionOf("wait 1 s", 'begin "roof"')],
  ["tail-not-here", missionOf("power both 30 % at 3 cm/s for 1 s")],
  ["no-robot", "cairn 1\nmission\n  wait 1 s\n", 'cairn 1\nrobot "Drizzle"\nmission\n  wait 1 s\n'],
  ["unused-value", missionOf("wait 1 s", "set a = 3 cm")],
  ["after-finish", missionOf("finish\nwait 1 s")],
  ["keep-then-wait", missionOf("go 30 cm then keep\nwait 1 s")],
  ["is-on-measured", missionOf("wait until robot.travel is 30 cm")],
  ["too-fast", missionOf("go 30 cm at 9 m/s")],
  ["cannot-steer", missionOf("steer left 20 deg")],
  ["cannot-slide", missionOf("slide left 20 cm")],
  [
    "cannot-follow",
    missionOf("follow line on left edge with floor for 2 s"),
    missionOf("follow line on left edge with floor.left for 2 s"),
  ],
  ["cannot-move", missionOf("move head at 20 deg/s")],
  ["cannot-home", missionOf("home head toward low")],
  ["not-a-head", missionOf("aim arm to left 20 deg"), missionOf("aim head to left 20 deg")],
  ["past-stop", missionOf("move arm to 300 deg")],
  ["cannot-reset", missionOf("reset eye")],
  ["whole-looks", missionOf("scan head from left 60 deg to right 60 deg with 1 looks")],
  ["every-period", missionOf("every 25 ms limit 1 s\n  beep\n"), missionOf("every 30 ms limit 1 s\n  beep\n")],
  ["every-slow", missionOf("every 20 ms limit 1 s\n  go 30 cm")],
  ["slow-call", `${HEAD}routine look()\n  wait 1 s\n  give 3 cm\nmission\n  go look() + 2 cm\n`],
  ["gives-nothing", `${HEAD}routine look()\n  wait 1 s\nmission\n  set far = look()\n  go far\n`],
  ["no-loop", missionOf("repeat 2 times\n  together\n    leave\n  also\n    wait 1 s")],
  ["no-handler", missionOf("during\n  skip\nwhenever clock > 1 s\n  resume")],
  ["give-outside", missionOf("give 3 cm")],
  ["both-move", missionOf("together\n  go 30 cm\nalso\n  turn left 20 deg")],
  ["never-sent", missionOf("wait until heard ready limit 1 s")],
  ["never-heard", missionOf("send ready")],
  ["outside-range", missionOf("wait until eye.distance < 1 mm limit 1 s")],
  ["idle-loop", missionOf("set a = 1\nrepeat\n  set a = a + 1")],
  ["whole-size", missionOf("wait 1 s", "list looks of length, at most 0")],
  ["empty-path", missionOf("wait 1 s", "path round")],
  ["long-path", missionOf("wait 1 s", `path round\n${"  1 cm, 2 cm\n".repeat(201)}`)],
  ["misread-name", missionOf("set at = 3 cm\ngo at"), missionOf("set at = 3 cm\ngo (at)")],
  ["wall-only", missionOf("go until wall ends")],
  ["fast-line", missionOf("follow line on left edge with floor.left at 60 cm/s until clock > 9 s")],
  ["one-spot", missionOf("follow line on left edge with floor.left at crossings left until clock > 9 s")],
  ["other-word", missionOf("wait until eye.distance => 20 cm"), missionOf("wait until eye.distance >= 20 cm")],
  ["other-word", missionOf("wait until eye.distance \u2264 20 cm"), missionOf("wait until eye.distance <= 20 cm")],
  ["other-word", missionOf("wait until eye.seen == yes"), missionOf("wait until eye.seen is yes")],
  ["needs-unit", missionOf("wait until eye.distance < 20"), missionOf("wait until eye.distance < 20 cm")],
  ["no-part", missionOf("wait until sonar.distance < 20 cm")],
  ["other-kind", missionOf("add 3 cm to seen\nnote n = seen.count", "list seen of colour, at most 3")],
  ["outside-list", missionOf("add 3 cm to looks\nnote n = looks[4]", "list looks of length, at most 3")],
  ["whole-power", missionOf("note n = 2 ^ 1.5")],
  [
    "unknown-list",
    missionOf("add 3 cm to loks\nnote n = looks.count", "list looks of length, at most 3"),
    missionOf("add 3 cm to looks\nnote n = looks.count", "list looks of length, at most 3"),
  ],
  ["table-keeps", missionOf("add 3 to worth", "table worth of number by colour, at most 3")],
  ["unknown-path", missionOf("go along rund", "path round\n  3 cm, 2 cm")],
  ["loop-value", missionOf("repeat 3 times as i\n  set i = 5")],
  ["counter-twice", missionOf("repeat 3 times as i\n  repeat 2 times as i\n    wait 1 s")],
  ["never-changed", missionOf("note a = far", "remember far = 3 cm")],
  ["unknown-collection", missionOf("wait 1 s", 'use "Moves"')],
];

describe("problems", () => {
  test.each(CASES.map(([code, text, mended]) => ({ code, text, mended })))("$code", ({ code, text, mended }) => {
    const field = text.includes("goal inside") ? fellside() : openFloor();
    const found = prepareMission(text, drizzle(), field).check.problems;
    const problem = found.find((candidate) => candidate.code === code);
    expect(problem, found.map((other) => `${other.code}: ${other.message}`).join("\n")).toBeDefined();
    if (!problem) return;
    expect(problem.message).toMatch(/^.*[.?]( .*[.?…])?$|…$/);
    expect(problem.start).toBeGreaterThanOrEqual(0);
    expect(problem.end).toBeLessThanOrEqual(text.length);
    if (mended === undefined) return;
    expect(problem.mend).not.toBeNull();
    if (problem.mend)
      expect(applyChange(text, { start: problem.mend.start, end: problem.mend.end, insert: problem.mend.text })).toBe(
        mended,
      );
  });

  test("every builder has a case", () => {
    const source = readFileSync(path.resolve(import.meta.dirname, "../../src/cairn/problems.ts"), "utf8");
    const codes = [...source.matchAll(/(?:error|warning)\(\s*"([a-z-]+)"/g)].map(([, code]) => code as string);
    const elsewhere = new Set([
      "no-tank",
      "on-off-driver",
      "cannot-turn",
      "tight-circle",
      "one-motor",
      "file-too-large",
      "too-deep",
      "no-robot-document",
      "needs-calibration",
      "faulty-document",
      "needs-odometry",
      "car-facing",
      "locked-axle",
      "nothing-ahead",
      "sensor-behind",
      "faulty-collection",
      "also-in-collection",
      "unused-collection",
      "wiring",
      "odd-document",
    ]);
    const covered = new Set(CASES.map(([code]) => code));
    expect(codes.length).toBeGreaterThan(50);
    for (const code of codes) if (!elsewhere.has(code)) expect(covered, code).toContain(code);
  });

  test("a robot that is there and has faults is told apart from one that is not", () => {
    expect(faultyDocument({ start: 0, end: 1 }, "robot", "Gust").message).toBe(
      'The robot "Gust" has faults and cannot be rehearsed. Fix it in the Robot workplace.',
    );
    const many = Array.from({ length: 2000 }, (_, i) => `robot ${i}`);
    expect(unknownDocument({ start: 0, end: 1 }, "robot", "Gust", many).message).toMatch(/"robot 7" and 1992 more\.$/);
  });

  test("a robot without encoders is told which calibration it lacks", () => {
    expect(problemsOf(missionOf("go 30 cm"), blind)[0]).toMatchObject({
      code: "needs-calibration",
      message: expect.stringContaining("speed at power"),
    });
  });

  test.each([
    ["turn left 90 deg", "cannot-turn"],
    ["face begin", "cannot-turn"],
    ["arc left 90 deg radius 10 cm", "tight-circle"],
    ["wheels left 10 cm/s right 5 cm/s for 1 s", "one-motor"],
    ["power left 20 % right 40 % for 1 s", "one-motor"],
  ])("a car type cannot %s", (step, code) => {
    const found = problemsOf(missionOf(step), demoRobot("sleet"));
    expect(found.map((problem) => problem.code)).toEqual([code]);
  });

  test("a circle that is too small is fixed to the smallest", () => {
    expect(problemsOf(missionOf("arc left 90 deg radius 10 cm"), demoRobot("sleet"))[0]?.mend).toContain("31 cm");
    expect(
      problemsOf(missionOf("arc left 90 deg radius 31 cm\ngo 30 cm\npower both 40 % for 1 s"), demoRobot("sleet")),
    ).toEqual([]);
  });

  test("the words of the first contract", () => {
    expect(problemsOf(missionOf("go 90"))[0]).toMatchObject({
      message: '"go" needs a length, but 90 has no unit. Write 90 cm.',
      line: 5,
      column: 6,
      length: 2,
      mend: "write 90 cm",
    });
    expect(problemsOf(missionOf("turn 30 cm"))[0]?.message).toContain('"turn" needs an angle, but 30 cm is a length');
    expect(problemsOf(missionOf("turn 90"))[0]?.message).toContain("Write left 90 deg");
    expect(problemsOf(missionOf("turn 90 deg"))[0]?.message).toContain("Left or right?");
  });
});

describe("files of another kind are one problem", () => {
  test.each([
    ["a robot", readFileSync(path.resolve(import.meta.dirname, "../../../demo/drizzle.robot.json"), "utf8")],
    ["a field", readFileSync(path.resolve(import.meta.dirname, "../../../demo/fellside.field.json"), "utf8")],
    ["a program", '{"format": "giddy-pebble/program"}'],
    ["another file of Giddy Pebble", '{"format": "giddy-pebble/project"}'],
    ["JSON", "\ufeff \n[1, 2]\n"],
    ["a drawing or a page of the web", '<?xml version="1.0"?>\n<svg/>\n'],
    ["a drawing or a page of the web", "<!DOCTYPE html>\n<p>mission</p>\n"],
  ])("%s", (what, text) => {
    expect(parseMission(text).problems.map(({ message }) => message)).toEqual([
      `This is ${what}, not a mission. Open a .cairn file.`,
    ]);
  });

  test("braces in a mission do not make it one", () => {
    const { problems } = parseMission(`{\n${missionOf("wait 1 s")}`);
    expect(problems.map(({ code }) => code)).not.toContain("not-mission");
  });
});

describe("bounds", () => {
  test("deep nesting is one problem", () => {
    const lines = Array.from({ length: 900 }, (_, i) => `${"  ".repeat(i + 1)}repeat 2 times`);
    const { problems } = parseMission(`cairn 1\nmission\n${lines.join("\n")}\n`);
    expect(problems.map((problem) => problem.code)).toEqual(["too-deep"]);
  });

  test("deep brackets are one problem", () => {
    const { problems } = parseMission(missionOf(`wait ${"(".repeat(400)}1 s${")".repeat(400)}`));
    expect(problems.map((problem) => problem.code)).toEqual(["too-deep"]);
  });

  test.each([
    ["a sum", `set a = ${Array(20_000).fill("1").join(" + ")}`],
    ["a unit", `go 1 cm${"/s".repeat(32_000)}`],
    ["brackets", `wait ${"(".repeat(50_000)}`],
    ["words", `show ${'"a" '.repeat(50_000)}`],
    ["a name", `go ${"x".repeat(100_000)}`],
  ])("%s without end is a problem where its line is cut, and no more than its line", (_, step) => {
    const text = missionOf(`${step}\ngo 1 cm`);
    const { problems, body } = parseMission(text);
    const long = problems.find(({ code }) => code === "long-line");
    expect(long).toMatchObject({ end: text.indexOf("\n  go 1 cm\n", 60) });
    expect((long?.end ?? 0) - (long?.start ?? 0)).toBe(step.length - LONGEST_LINE);
    expect(problems.length).toBeLessThanOrEqual(3);
    expect(body?.items.at(-1)?.type).toBe("go");
  });

  test("a comment may be as long as it likes", () => {
    expect(parseMission(missionOf(`# ${"word ".repeat(20_000)}\nwait 1 s`)).problems).toEqual([]);
  });

  test("a text too long to be a mission is refused unread", () => {
    expect(parseMission("x".repeat(LONGEST_TEXT + 1)).problems.map((problem) => problem.code)).toEqual([
      "file-too-large",
    ]);
  });

  test("twenty thousand lines are read, blank or not; more are refused at once", () => {
    const begin = "cairn 1\nmission\n  wait 1 s";
    expect(parseMission(begin + "\n".repeat(MOST_LINES - 3)).problems).toEqual([]);
    expect(parseMission(begin + "\n  wait 1 s".repeat(MOST_LINES - 3)).problems).toEqual([]);
    for (const more of [MOST_LINES - 2, 900_000])
      expect(parseMission(begin + "\n".repeat(more)).problems.map(({ code }) => code)).toEqual(["too-many-lines"]);
  });
});

describe("recovery", () => {
  test("three broken lines give three problems and keep the good steps", () => {
    const text = missionOf("go 30\ntrun left 90 deg\nwait 1 s\nwait ,\nfinish");
    const prepared = prepareMission(text, drizzle(), openFloor());
    expect(prepared.check.problems.map((problem) => problem.code)).toEqual(["dimension", "unknown-step", "expected"]);
    expect(prepared.mission.body?.items.map((item) => item.type)).toEqual(["go", "broken", "wait", "broken", "finish"]);
    expect(prepared.program).toBeNull();
  });
});
