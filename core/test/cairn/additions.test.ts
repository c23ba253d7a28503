// Lists and tables, loops that count and watch, values that last, places and paths, tasks that are stopped, texts
// that are joined, names that are words of the language: what running them does, and what is said where they cannot.
import { describe, expect, test } from "vitest";
import { joinCollections } from "../../src/cairn/collections.js";
import {
  formatMission,
  missionRows,
  openFloor,
  parseMission,
  prepareMission,
  type RunResult,
  readingsOf,
  rehearse,
  scriptedHands,
} from "../../src/index.js";
import {
  demoRobot,
  drizzle,
  fellside,
  missionFile,
  missionOf,
  problemsOf,
  runSteps,
  runText,
} from "../support/demo.js";

const notes = ({ summary }: RunResult, name: string) =>
  summary.notes.filter((note) => note.name === name).map(({ value }) => value);
const codes = (text: string, robot = drizzle()) => problemsOf(text, robot).map(({ code }) => code);

describe("lists", () => {
  const TOP = "list looks of length, at most 3\nlist newest of number, at most 3, rolling";

  test("hold what was added, numbered from 1, and tell of it", () => {
    const steps = [
      "add 30 cm to looks",
      "add 10 cm to looks",
      "add 20 cm to looks",
      "note second = looks[2]",
      "note all = looks.count",
      "note least = looks.min",
      "note most = looks.max",
      "note mean = looks.mean",
      "note sum = looks.sum",
      "note newest = looks.last",
      "set looks[1] = 5 cm",
      "note first = looks[3 - 2]",
      "clear looks",
      "note rest = looks.count",
    ].join("\n");
    const run = runSteps(steps, {}, TOP.split("\n")[0]);
    const told = (name: string) => notes(run, name)[0];
    expect(["second", "least", "most", "newest", "first"].map(told)).toEqual([0.1, 0.1, 0.3, 0.2, 0.05]);
    expect(told("mean")).toBeCloseTo(0.2, 12);
    expect(told("sum")).toBeCloseTo(0.6, 12);
    expect([told("all"), told("rest")]).toEqual([3, 0]);
  });

  test("a rolling one drops its oldest value, another ends the mission when it is full", () => {
    const add = (list: string, value: string) => `repeat 4 times as i\n  add i * ${value} to ${list}`;
    const rolling = runSteps(`${add("newest", "1")}\nnote sum = newest.sum`, {}, TOP.split("\n")[1]);
    expect(notes(rolling, "sum")).toEqual([9]);
    const full = runSteps(`${add("looks", "1 cm")}\nnote n = looks.count`, {}, TOP.split("\n")[0]);
    expect(full.summary.reason).toBe('the list "looks" is full: it holds at most 3');
  });

  test("outside of one the mission ends with the number and the count; of an empty one nothing is known", () => {
    const outside = runSteps("add 1 cm to looks\nset n = 3\nnote a = looks[n]", {}, TOP.split("\n")[0]);
    expect(outside.summary.reason).toBe('"looks" has no value number 3: it holds 1 value');
    const empty = runSteps("note a = looks.mean", {}, TOP.split("\n")[0]);
    expect(empty.summary.reason).toBe('"looks" is empty, so it has no mean');
  });

  test("repeat for each gives every value in turn, also those added on the way", () => {
    const steps =
      "add 1 cm to looks\nrepeat for each d in looks\n  note d = d\n  if looks.count < 3\n    add d * 2 to looks";
    expect(notes(runSteps(steps, {}, TOP.split("\n")[0]), "d")).toEqual([0.01, 0.02, 0.04]);
  });

  test("a table finds values by their key, and its keys in turn", () => {
    const top = "table worth of number by colour, at most 3";
    const steps =
      "set worth[red] = 3\nset worth[green] = 5\nset worth[red] = 4\nif worth has red and not worth has blue\n  note red = worth[red]\nrepeat for each key in worth\n  note value = worth[key]";
    const run = runSteps(steps, {}, top);
    expect(notes(run, "red")).toEqual([4]);
    expect(notes(run, "value")).toEqual([4, 5]);
    expect(runSteps("note a = worth[blue]", {}, top).summary.reason).toBe(
      'the table "worth" has no value for that key yet',
    );
  });

  test("kinds are kept apart", () => {
    expect(codes(missionOf("add 3 s to looks\nnote n = looks.count", TOP.split("\n")[0]))).toContain("dimension");
    expect(codes(missionOf("add 3 to looks\nnote n = looks.count", TOP.split("\n")[0]))).toContain("dimension");
    expect(codes(missionOf("note n = looks.midle", TOP.split("\n")[0]))).toContain("unknown-reading");
    expect(codes(missionOf("note n = colours.mean", "list colours of colour, at most 3"))).toContain("unknown-reading");
  });
});

describe("loops", () => {
  test("count their passes from 1", () => {
    expect(notes(runSteps("repeat 3 times as pass\n  note pass = pass"), "pass")).toEqual([1, 2, 3]);
  });

  test("go on while something is true, or until it is; they ask before each pass", () => {
    const run = runSteps(
      "set n = 0\nrepeat while n < 3\n  set n = n + 1\nnote a = n\nrepeat until n >= 5\n  set n = n + 1\nnote b = n\nrepeat until n > 1\n  set n = 99\nnote c = n",
    );
    expect([notes(run, "a"), notes(run, "b"), notes(run, "c")]).toEqual([[3], [5], [5]]);
  });
});

describe("values that last", () => {
  const text = missionOf("note before = dark\nset dark = dark + 5 %", "remember dark = 40 %");

  test("begin as written, or as the robot kept them, and are told at the end", () => {
    const prepared = prepareMission(text, drizzle(), fellside());
    const first = rehearse(prepared, { seed: 1, ideal: true });
    expect(notes(first, "before")).toEqual([0.4]);
    expect(first.summary.remembered).toEqual([{ name: "dark", value: 0.45, words: "0.45", kind: "a number" }]);
    const remembered = Object.fromEntries(first.summary.remembered.map((kept) => [kept.name, kept]));
    const second = rehearse(prepared, { seed: 1, ideal: true, remembered });
    expect(notes(second, "before")).toEqual([0.45]);
  });

  test("one of another kind than the mission's counts for nothing", () => {
    const prepared = prepareMission(text, drizzle(), fellside());
    expect(
      notes(
        rehearse(prepared, { seed: 1, ideal: true, remembered: { dark: { value: 0.7, kind: "a length" } } }),
        "before",
      ),
    ).toEqual([0.4]);
  });
});

describe("texts and numbers", () => {
  test("a text takes anything after a plus, in words", () => {
    const run = runSteps('set n = 3\nnote t = "pass " + n + " at " + 25 cm\nshow "x" + (1 cm < 2 cm)');
    expect(notes(run, "t")).toEqual(["pass 3 at 25 cm"]);
    expect(run.summary.signs[0]?.text).toBe("xyes");
  });

  test.each([
    ["mod(-30 deg, 360 deg) / 1 deg", 330],
    ["wrap(left 270 deg) / 1 deg", -90],
    ["wrap(right 190 deg) / 1 deg", 170],
    ["tan(45 deg)", 1],
    ["floor(2.7) + ceil(2.1)", 5],
    ["floor(27 cm, 10 cm) / 1 cm", 20],
    ["2 ^ 3 + 2 ^ -1", 8.5],
    ["-2 ^ 2", -4],
    ["(3 cm) ^ 2 / 1 cm / 1 cm", 9],
    ["pi", Math.PI],
  ])("%s is %d", (written, value) => {
    expect(notes(runSteps(`note n = ${written}`), "n")[0]).toBeCloseTo(value as number, 9);
  });

  test("a beep has a pitch and a length; a bounded wait ends quietly", () => {
    const run = runSteps("beep 440 Hz for 0.2 s\nwait until bumper.pressed for 0.3 s\nnote late = last.limited");
    expect(run.summary.signs[0]?.text).toBe("440 Hz for 0.2 s");
    expect(run.summary.steps.find(({ text }) => text.startsWith("wait"))).toMatchObject({ endedBy: "for", endMs: 300 });
    expect(run.summary.success).toBe(true);
    expect(notes(run, "late")).toEqual([0]);
  });

  test("robot.speed is what the wheels say, battery.current what the pack gives", () => {
    const run = runSteps(
      "note rest = battery.current\ngo 40 cm at 20 cm/s until robot.travel > 20 cm then keep\nnote v = robot.speed\nnote a = battery.current",
    );
    expect(notes(run, "v")[0]).toBeCloseTo(0.2, 1);
    expect(notes(run, "a")[0]).toBeGreaterThan(notes(run, "rest")[0] as number);
    expect(readingsOf(drizzle()).has("battery.current")).toBe(true);
  });

  test("notes beyond 10,000 keep the newest and say how many were dropped", () => {
    const run = runSteps("every 10 ms limit 130 s\n  note n = clock");
    expect(run.summary.notes.length).toBe(10_000);
    expect(run.summary.notesDropped).toBe(run.summary.durationMs / 10 - 10_000);
    expect(run.summary.notes.at(-1)?.atMs).toBe(run.summary.durationMs - 10);
  });
});

describe("tasks", () => {
  test("a started routine is stopped by its name: its wheels brake, its parts are let go", () => {
    const text = `cairn 1\nrobot "Drizzle"\nroutine circle()\n  roll 15 cm/s turning left 30 deg/s\n  wait 60 s\nmission\n  start circle()\n  wait 2 s\n  stop circle\n  wait 1 s\n  note still = robot.speed\n  go 10 cm\n`;
    const run = runText(text);
    expect(run.summary.reason).toBe("");
    expect(Math.abs(notes(run, "still")[0] as number)).toBeLessThan(0.005);
    expect(run.summary.durationMs).toBeLessThan(6000);
  });
});

describe("places", () => {
  const at = ({ summary }: RunResult) => [(summary.end.xM - 2) * 100, (summary.end.yM - 2) * 100] as const;

  test.each(["drizzle", "gust", "sleet"])("%s goes to places and along a path, within 1.5 cm", (name) => {
    const robot = demoRobot(name);
    const text = missionOf("go to 60 cm, 40 cm at 20 cm/s").replace("Drizzle", robot.name);
    const [x, y] = at(runText(text, { robot }));
    expect(Math.hypot(x - 60, y - 40)).toBeLessThan(1.5);
    const round = missionOf(
      "go along round look 8 cm at 15 cm/s",
      "path round\n  60 cm, 0 cm\n  60 cm, 60 cm\n  0 cm, 60 cm",
    );
    const [endX, endY] = at(runText(round.replace("Drizzle", robot.name), { robot }));
    expect(Math.hypot(endX, endY - 60)).toBeLessThan(1.5);
  });

  test("a place behind is reached by turning first, or backwards", () => {
    const behind = runSteps("go to -30 cm, 10 cm facing begin");
    expect(at(behind)[0]).toBeCloseTo(-30, 0);
    expect(behind.summary.end.headingDeg).toBeCloseTo(0, 0);
    const backwards = runSteps("go back to -30 cm, 10 cm");
    expect(at(backwards)[1]).toBeCloseTo(10, 0);
    expect(Math.abs(backwards.summary.end.headingDeg)).toBeLessThan(30);
  });

  test("go to begin leads back from anywhere, and reset robot moves where that is", () => {
    const home = at(runSteps("go 40 cm\nturn left 130 deg\ngo 25 cm\ngo to begin"));
    expect(Math.hypot(...home)).toBeLessThan(0.6);
    expect(at(runSteps("go 40 cm\nreset robot\ngo 20 cm\nturn left 90 deg\ngo to begin"))[0]).toBeCloseTo(40, 0);
  });

  test("after a handler it goes on from where it is", () => {
    const steps =
      "during\n  go to 80 cm, 0 cm at 20 cm/s\nwhenever robot.x > 30 cm and clock < 4 s\n  turn left 60 deg\n  go 10 cm\n  resume";
    const run = runSteps(steps);
    expect(Math.hypot(at(run)[0] - 80, at(run)[1])).toBeLessThan(1);
  });

  test("where it cannot be found, or the heading not be chosen, a problem says so", () => {
    expect(codes(missionOf("go to 3 cm, 4 cm").replace("Drizzle", "Fog"), demoRobot("fog"))).toContain(
      "needs-odometry",
    );
    expect(
      codes(missionOf("go to 3 cm, 4 cm facing left 90 deg").replace("Drizzle", "Sleet"), demoRobot("sleet")),
    ).toContain("car-facing");
  });
});

describe("names that are words of the language", () => {
  test.each(["look", "facing", "radius", "gain", "with", "at", "until", "limit"])(
    "the number of a loop may be called %s, with a fixed count too",
    (word) => {
      const { summary } = runSteps(`repeat 3 times as ${word}\n  note counted = (${word} - 1)`);
      expect(summary.notes.map(({ value }) => value)).toEqual([0, 1, 2]);
    },
  );

  const WORDS =
    "radius low away at one g min line wall high by to from held look list path of most each in as while use go turn wait stop begin field goal mission routine times about wheel turning centre edge with over forward toward looks ends keep release again dead curve every repeat if else choose during max abs gain damp bridge corners crossings then until limit for using ramp add clear s cm deg".split(
      " ",
    );

  test.each(WORDS)("%s", (name) => {
    const text = `cairn 1\nrobot "Drizzle"\nset ${name} = 10\nroutine f(${name}_x: number)\n  give ${name}_x + ${name}\nmission\n  note n = ${name} * 2 + (${name})\n  if ${name} > 3 and ${name} is 10\n    show ${name}\n  set ${name} = f(${name})\n  note m = ${name}\n`;
    expect(problemsOf(text).map(({ message }) => message)).toEqual([]);
    const run = runText(text);
    expect([notes(run, "n"), notes(run, "m")]).toEqual([[30], [20]]);
    const formatted = formatMission(text);
    expect(formatted.ok && formatted.text).toBe(text);
  });

  test.each(["yes", "left", "not", "robot", "clock"])("%s never is one, and one problem says so", (name) => {
    const found = problemsOf(`cairn 1\nrobot "Drizzle"\nset ${name} = 10\nmission\n  wait 1 s\n`);
    expect(found.map(({ code }) => code)).toEqual(["reserved-name"]);
  });

  test.each([
    ["set at = 3 cm\ngo at", "go (at)"],
    ["set limit = 3 cm\ngo limit at 10 cm/s", "go (limit)"],
    ["set until = 2 s\nwait until", "wait (until)"],
    ["set radius = 20 deg\narc left radius radius 20 cm", "arc left (radius) radius 20 cm"],
    ["set begin = left 20 deg\nface begin", "face (begin)"],
  ])("%s: one problem, with brackets as its mend", (steps, mended) => {
    const text = missionOf(steps);
    const found = prepareMission(text, drizzle(), fellside()).check.problems.filter(
      ({ severity }) => severity === "error",
    );
    expect(found.map(({ code }) => code)).toEqual(["misread-name"]);
    const mend = found[0]?.mend;
    const after = mend ? text.slice(0, mend.start) + mend.text + text.slice(mend.end) : "";
    expect(after).toContain(mended);
  });
});

describe("collections", () => {
  const MOVES = missionFile("collections/moves.cairn");
  const shelf = new Map([["Moves", MOVES]]);
  const using = (steps: string, top = "") =>
    prepareMission(missionOf(steps, `use "Moves"\n${top}`), drizzle(), openFloor(), undefined, shelf);

  test("bring what is called, with all that needs, and nothing else", () => {
    const { text, check } = using("pid_reset()\nset u = pid(0.5, 20 ms, 0.4)\nnote u = u");
    expect(check.problems).toEqual([]);
    expect(text).toContain("routine pid(");
    expect(text).toContain("set pid_sum");
    expect(text).not.toContain("routine curve");
    // It is whole: it runs without the shelf, and joining it again changes nothing.
    expect(joinCollections(text, new Map()).text).toBe(text);
    expect(notes(rehearse(prepareMission(text, drizzle(), fellside()), { seed: 1, ideal: true }), "u")[0]).toBeCloseTo(
      0.2,
      9,
    );
  });

  test("a missing one, one with a fault, a name on both sides, nothing used: each is said at the use line", () => {
    const problems = (shelves: Map<string, string>, steps: string, top = "") =>
      prepareMission(missionOf(steps, `use "Moves"\n${top}`), drizzle(), fellside(), undefined, shelves).check.problems;
    expect(problems(new Map(), "wait 1 s")[0]).toMatchObject({ code: "unknown-collection" });
    const faulty = 'cairn 1\ncollection "Moves"\nroutine a()\n  gu 3 cm\n';
    expect(problems(new Map([["Moves", faulty]]), "a()")[0]?.message).toMatch(/^Line 4 of "Moves" is wrong: /);
    expect(problems(shelf, "wait 1 s")[0]).toMatchObject({ code: "unused-collection" });
    const twice = problems(shelf, "bend(20 cm, 25 %)", "routine bend(a: length, b: share)\n  go a * b");
    expect(twice.some(({ code }) => code === "also-in-collection")).toBe(true);
  });

  test("what a collection asks of a robot that has not got it is said where it is named", () => {
    const text = missionOf("until_bumped()", 'use "Moves"').replace("Drizzle", "Fog");
    const found = prepareMission(text, demoRobot("fog"), fellside(), undefined, shelf).check.problems;
    const use = text.indexOf('"Moves"');
    expect(found.filter(({ severity }) => severity === "error")).toMatchObject([
      { code: "faulty-collection", start: use },
    ]);
  });

  test("a collection is no mission, is laid out, and each of its routines does what it says", () => {
    expect(parseMission(MOVES)).toMatchObject({ isCollection: true, body: null, problems: [] });
    expect(formatMission(MOVES)).toEqual({ ok: true, text: MOVES });
    const run = (steps: string) => rehearse(using(steps), { seed: 1, ideal: true });
    const half = run("bend(20 cm, 50 %)").summary;
    expect(half.end.headingDeg - half.start.headingDeg).toBeCloseTo(180, 0);
    expect(notes(run("set a = low_pass(1)\nset a = low_pass(0)\nnote a = a"), "a")[0]).toBeCloseTo(0.8, 9);
    const steady = run("set n = 0\nrepeat 5 times as i\n  if steady(i > 1, 3)\n    set n = n + 1\nnote n = n");
    expect(notes(steady, "n")).toEqual([2]);
    const state = run('enter("seek")\nwait 1 s\nnote s = state\nnote t = in_state()');
    expect(notes(state, "s")).toEqual(["seek"]);
    expect(notes(state, "t")[0]).toBeCloseTo(1, 1);
    const places = run(
      "place(20 cm, 0 cm)\nplace(20 cm, 20 cm)\ndrive_places(15 cm/s)\nnote x = robot.x\nnote y = robot.y",
    );
    expect(notes(places, "x")[0]).toBeCloseTo(0.2, 1);
    expect(notes(places, "y")[0]).toBeCloseTo(0.2, 1);
  });

  test("the PID holds its limit and does not wind up while it is held", () => {
    const steps =
      "pid_reset()\nrepeat 100 times\n  set u = pid(10, 20 ms, 0.1, 5, 0, 0.5)\nnote held = u\nset u = pid(-0.1, 20 ms, 0.1, 5, 0, 0.5)\nnote after = u";
    const run = rehearse(using(steps), { seed: 1, ideal: true });
    expect(notes(run, "held")).toEqual([0.5]);
    // Without anti-windup a hundred passes of error would hold it at the limit for hundreds more.
    expect(notes(run, "after")[0]).toBeLessThan(0.5);
  });
});

describe("scripted sticks", () => {
  const text = `cairn 1\nrobot "Drizzle"\nmission\n  hand over for 3 s\nremote\n  drive one stick at 30 cm/s turning 60 %\n  tap thumb.right beep again keep\n`;

  test("drive what hands over: each row holds until the next", () => {
    const table = scriptedHands("time,leftForward,leftAcross,buttons\n0.5,1,0,\n1.5,0,0,thumb.right\n2,0,0,\n");
    if (!table.ok) throw new Error(table.why);
    const run = rehearse(prepareMission(text, drizzle(), fellside()), { seed: 1, ideal: true, hands: table.hands });
    expect(run.summary.signs.map(({ kind }) => kind)).toEqual(["beep"]);
    const moved = Math.hypot(run.summary.end.xM - run.summary.start.xM, run.summary.end.yM - run.summary.start.yM);
    expect(moved).toBeGreaterThan(0.2);
    expect(moved).toBeLessThan(0.32);
  });

  test.each([
    ["", "needs a line of column names"],
    ["leftForward\n1\n", 'no column "time"'],
    ["time,leftForwrad\n0,1\n", 'Did you mean "leftforward"'],
    ["time,leftForward\n1,1\n0.5,0\n", "row 3 has no time, or one before"],
    ["time,leftForward\n0,2\n", "row 2 has a stick or lever beyond 1"],
    ["time,buttons\n0,thumb.middle\n", 'row 2 has a button "thumb.middle"'],
  ])("a table that cannot drive says why: %j", (table, why) => {
    const read = scriptedHands(table);
    expect(read.ok ? "" : read.why).toContain(why);
  });
});

describe("in the step list", () => {
  test("every new step is a row, and its places and numbers can be edited where they stand", () => {
    const text = missionOf(
      "go to 30 cm, 20 cm facing left 90 deg\nadd 3 cm to looks\nbeep 440 Hz for 0.2 s",
      "list looks of length, at most 3",
    );
    const rows = missionRows(parseMission(text)).filter((row) => row.type === "step");
    expect(rows.length).toBe(3);
    const [go] = rows;
    expect(go?.type === "step" && go.main.filter(({ kind }) => kind === "quantity").map((piece) => piece.text)).toEqual(
      ["30 cm", "20 cm", "90 deg"],
    );
  });
});
