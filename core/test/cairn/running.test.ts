// What steps do when they run: the contract's closed forms, endings, values, routines, and the rulings.
import { describe, expect, test } from "vitest";
import { openFloor, prepareMission, readField, rehearse, traceColumn } from "../../src/index.js";
import { drizzle, fellside, missionFile, missionOf, runSteps, runText } from "../support/demo.js";

/** End place relative to the begin place, mm, and heading in degrees. */
function ending(steps: string, options: Parameters<typeof runSteps>[1] = {}) {
  const { summary } = runSteps(steps, options);
  return {
    alongMm: (summary.end.xM - 2) * 1000,
    asideMm: (summary.end.yM - 2) * 1000,
    deg: summary.end.headingDeg,
    summary,
  };
}

describe("ideal driving", () => {
  test("go 1 m ends within 5 mm", () => {
    const { alongMm, asideMm } = ending("go 1 m");
    expect(Math.hypot(alongMm - 1000, asideMm)).toBeLessThan(5);
  });

  test("a square of 30 cm closes within 10 mm and 1 deg", () => {
    const { alongMm, asideMm, deg } = ending("repeat 4 times\n  go 30 cm\n  turn left 90 deg");
    expect(Math.hypot(alongMm, asideMm)).toBeLessThan(10);
    expect(Math.abs(deg - 360)).toBeLessThan(1);
  });

  test("a whole circle returns within 15 mm", () => {
    const { alongMm, asideMm } = ending("arc left 360 deg radius 40 cm");
    expect(Math.hypot(alongMm, asideMm)).toBeLessThan(15);
  });

  test("more power on the right curves left", () => {
    const { summary, asideMm } = ending("power left 30 % right 60 % for 2 s");
    expect(summary.end.headingDeg).toBeGreaterThan(45);
    expect(asideMm).toBeGreaterThan(100);
  });

  test("left and right mirror each other", () => {
    const left = ending("go 20 cm\nturn left 60 deg\narc left 90 deg radius 20 cm\nback 10 cm");
    const right = ending("go 20 cm\nturn right 60 deg\narc right 90 deg radius 20 cm\nback 10 cm");
    // Solver order and encoder floors break the symmetry by less than this.
    expect(Math.abs(left.asideMm + right.asideMm)).toBeLessThan(3);
    expect(Math.abs(left.alongMm - right.alongMm)).toBeLessThan(3);
    expect(Math.abs(left.deg + right.deg)).toBeLessThan(0.5);
  });

  test("an arc's side is where its centre lies, also backwards", () => {
    // Backwards round a centre to the left, the heading turns right.
    const { deg, alongMm, asideMm } = ending("arc back left 90 deg radius 30 cm");
    expect(deg).toBeCloseTo(-90, 0);
    expect(alongMm).toBeCloseTo(-300, -1);
    expect(asideMm).toBeCloseTo(300, -1);
  });

  test("a turn about a wheel swings the middle half a track away", () => {
    const { alongMm, asideMm, deg } = ending("turn left 180 deg about left wheel");
    expect(deg).toBeCloseTo(180, 0);
    expect(Math.abs(asideMm - 138.4)).toBeLessThan(4);
    expect(Math.abs(alongMm)).toBeLessThan(4);
  });

  test("face goes the shorter way to a heading from the start place", () => {
    expect(ending("turn left 170 deg\nface right 170 deg").deg).toBeCloseTo(190, 0);
    expect(ending("turn left 170 deg\nface begin").deg).toBeCloseTo(0, 0);
    expect(ending("face begin left 30 deg").deg).toBeCloseTo(30, 0);
  });

  test("negative lengths reverse", () => {
    expect(ending("go -20 cm").alongMm).toBeCloseTo(-200, -1);
    expect(ending("back -20 cm").alongMm).toBeCloseTo(200, -1);
  });

  test("roll and wheels keep their speeds and pass on until the next driving step", () => {
    const roll = ending("roll 20 cm/s turning left 45 deg/s for 2 s");
    expect(roll.deg).toBeGreaterThan(70);
    const { summary } = ending("wheels left 20 cm/s right 20 cm/s\nwait 1 s\nstop");
    expect(summary.steps.map((step) => [step.startMs, step.endMs])).toEqual([
      [0, 0],
      [0, 1000],
      [1000, 1000],
    ]);
    expect(summary.end.xM).toBeGreaterThan(2.1);
  });

  test("then keep rolls on into the next step", () => {
    const kept = runSteps("go 40 cm at 25 cm/s then keep\ngo 40 cm at 25 cm/s");
    const speed = traceColumn(kept.trace, "leftSpeed") ?? new Float32Array();
    const join = (kept.summary.steps[0]?.endMs ?? 0) / 10;
    expect(speed[join] ?? 0).toBeGreaterThan(0.2);
    expect((kept.summary.end.xM - 2) * 100).toBeCloseTo(80, 0);
    expect(kept.summary.durationMs).toBeLessThan(
      runSteps("go 40 cm at 25 cm/s\ngo 40 cm at 25 cm/s").summary.durationMs,
    );
  });
});

describe("endings", () => {
  const endedBy = (steps: string) => runSteps(steps).summary.steps.map((step) => step.endedBy);

  test("the first end wins and is named; only limit marks", () => {
    expect(endedBy("go 50 cm for 1 s")).toEqual(["for"]);
    expect(endedBy("go 50 cm until robot.travel > 10 cm limit 9 s")).toEqual(["until"]);
    expect(endedBy("go 5 cm until clock > 60 s")).toEqual(["done"]);
    const limited = runSteps("go until clock > 60 s limit 30 cm").summary;
    expect(limited.steps[0]?.endedBy).toBe("limit");
    expect(limited).toMatchObject({
      outcome: "finished",
      success: false,
      reason: expect.stringContaining("step 1 reached its limit"),
    });
    expect(runSteps("turn left until clock > 60 s limit 90 deg").summary.end.headingDeg).toBeGreaterThan(85);
    expect(endedBy("wait until clock > 9 s limit 1 s")).toEqual(["limit"]);
  });

  test("a step that never gets there stops the mission at its bound, with the step and why", () => {
    const wall = readField({
      format: "giddy-pebble/field",
      version: 1,
      name: "walled",
      size: { widthM: 2, heightM: 1 },
      edge: "rim",
      surface: {},
      begins: [{ name: "middle", xM: 1, yM: 0.5, headingRad: 0 }],
    });
    if (!wall.ok) throw new Error(wall.problems.join());
    // With so much grip the wheels stand still at the wall; with less they would spin, and count the spin as travel.
    const robot = drizzle((body) => {
      for (const wheel of body.wheels) wheel.grip.value = 3;
    });
    const { summary } = runSteps("wait 1 s\ngo 3 m using 60 %\nwait 1 s", { field: wall.document, robot });
    expect(summary).toMatchObject({ outcome: "stopped", success: false });
    expect(summary.reason).toContain("step 2 never ended");
    expect(summary.steps.map((step) => step.endedBy)).toEqual(["done", "bound"]);
    expect(summary.end.xM).toBeLessThan(2 - 0.08);
  });

  test("a wait that never comes true is given up after ten minutes", () => {
    const { summary } = runSteps("wait until robot.travel > 1 m");
    expect(summary.outcome).toBe("stopped");
    expect(summary.reason).toContain("ten minutes");
  });

  test("an empty loop of instant steps does not freeze", () => {
    const { summary } = runSteps("set a = 0\nrepeat 50 times\n  set a = a + 1\nif a is 50\n  finish\nwait 60 s");
    expect(summary.durationMs).toBe(500);
  });

  test("held asks for a whole stretch of time", () => {
    const { summary } = runSteps("wait until clock > 1 s held 200 ms");
    expect(summary.durationMs).toBe(1210);
  });

  test("step labels and passes follow the tree", () => {
    const { steps } = runText(
      `cairn 1\nrobot "Drizzle"\nroutine nod(far: length)\n  go far\n  back far\nmission\n  repeat 2 times\n    wait 0.1 s\n  nod(5 cm)\n`,
    ).summary;
    expect(steps.map((step) => `${step.step}×${step.pass}`)).toEqual(["1a×1", "1a×2", "nod.1×1", "nod.2×1"]);
  });
});

describe("values, routines and conditions", () => {
  const notes = (steps: string, top = "") =>
    Object.fromEntries(runText(missionOf(steps, top)).summary.notes.map((note) => [note.name, note.value]));

  test("arithmetic, functions and units", () => {
    const got = notes(
      [
        "note a = 30 cm + 1 m * 2",
        "note b = sqrt(4 m * 9 m)",
        "note c = clamp(5, 1, 3)",
        "note d = round(2.6)",
        "note e = atan2(1, 1)",
        "note f = max(1 s, 200 ms)",
        "note k = abs(-3 cm)",
        "note h = 10 / 0",
        "note i = sign(-2)",
      ].join("\n"),
    );
    expect(got).toMatchObject({ a: 2.3, b: 6, c: 3, d: 3, f: 1, k: 0.03, h: 0, i: -1 });
    expect(got.e).toBeCloseTo(Math.PI / 4, 12);
  });

  test("left is positive and covers the whole sum", () => {
    const got = notes("note a = left 30 deg + 10 deg\nnote b = right (30 deg + 10 deg)");
    expect(got.a).toBeCloseTo((40 * Math.PI) / 180, 12);
    expect(got.b).toBeCloseTo((-40 * Math.PI) / 180, 12);
  });

  test("choices take the first branch that holds", () => {
    const steps = (value: number) =>
      `set a = ${value}\nif a > 3\n  note got = 1\nelse if a > 1\n  note got = 2\nelse\n  note got = 3`;
    expect([5, 2, 0].map((value) => notes(steps(value)).got)).toEqual([1, 2, 3]);
  });

  test("routines have parameters with defaults and values of their own; mission values are shared", () => {
    const text = `cairn 1\nrobot "Drizzle"\nset total = 0\nroutine add(n: number, twice: truth = no)\n  set own = n\n  if twice\n    set own = own * 2\n  set total = total + own\nmission\n  add(3)\n  add(4, yes)\n  note sum = total\n`;
    expect(runText(text).summary.notes).toMatchObject([{ name: "sum", value: 11 }]);
  });

  test("last tells how the latest step went", () => {
    const got = notes(
      "go 20 cm\nnote far = last.travel\nturn right 90 deg\nnote swung = last.turned\nwait until clock > 99 s limit 1 s\nnote limited = last.limited\nnote took = last.time",
    );
    expect(got.far).toBeCloseTo(0.2, 2);
    expect(got.swung).toBeCloseTo(-Math.PI / 2, 1);
    expect(got).toMatchObject({ limited: 1, took: 1 });
  });

  test("readings know the robot: travel, heading, motors, battery, clock", () => {
    const got = notes(
      "go 20 cm\nturn left 90 deg\ngo 10 cm\nnote x = robot.x\nnote y = robot.y\nnote angle = left_motor.angle\nnote volts = battery.voltage\nnote t = clock",
    );
    expect(got.x).toBeCloseTo(0.2, 2);
    expect(got.y).toBeCloseTo(0.1, 2);
    expect(Number(got.angle)).toBeGreaterThan(2);
    expect(Number(got.volts)).toBeGreaterThan(7);
    expect(Number(got.volts)).toBeLessThan(8.4);
    expect(Number(got.t)).toBeGreaterThan(2);
  });
});

describe("goal and score", () => {
  test("First roll out meets its goal and scores the dock", () => {
    const { summary } = runText(missionFile("missions/first-roll-out.cairn"), { field: fellside() });
    expect(summary).toMatchObject({ outcome: "finished", success: true, reason: "", score: 10 });
  });

  test("a goal that is not met says which", () => {
    const { summary } = runSteps("wait 1 s", {}, "goal robot.travel > 1 m");
    expect(summary).toMatchObject({ outcome: "finished", success: false, score: null });
    expect(summary.reason).toBe("the goal was not met: robot.travel > 1 m (robot.travel was 0 cm, 100 cm too little)");
  });
});

describe("repeatability", () => {
  const text = missionFile("missions/first-roll-out.cairn");
  const run = (seed: number) => runText(text, { seed, ideal: false, field: fellside() });

  test("the same seed gives the same run to the bit, another seed another", () => {
    expect(run(5)).toEqual(run(5));
    expect(run(5).summary.traceHash).not.toBe(run(6).summary.traceHash);
  });

  test("slices of any length give the same run", () => {
    const whole = run(9).summary.traceHash;
    const prepared = prepareMission(text, drizzle(), fellside());
    expect(rehearse(prepared, { seed: 9, ideal: false }).summary.traceHash).toBe(whole);
  });
});

describe("the robot file counts", () => {
  const fast = "go 1 m at 55 cm/s ramp 3 m/s/s\narc left 180 deg radius 12 cm at 50 cm/s ramp 3 m/s/s";
  const hash = (robot = drizzle()) => runText(missionOf(fast), { robot, field: openFloor() }).summary;

  test("less grip or a weaker motor changes the path of a fast mission", () => {
    const usual = hash();
    const slippery = hash(
      drizzle((robot) => {
        for (const wheel of robot.wheels) wheel.grip.value = 0.25;
      }),
    );
    const weak = hash(
      drizzle((robot) => {
        for (const motor of robot.motors) motor.stallTorqueNm *= 0.5;
      }),
    );
    for (const other of [slippery, weak]) {
      expect(
        Math.hypot(other.end.xM - usual.end.xM, other.end.yM - usual.end.yM) +
          Math.abs(other.durationMs - usual.durationMs) / 1000,
      ).toBeGreaterThan(0.02);
    }
  });

  test("without encoders, lengths run by the known speed at power and are marked timed", () => {
    const known = (value: number) => ({
      value,
      standardError: null,
      count: 3,
      method: "",
      conditions: "",
      measuredAt: null,
      source: "measured" as const,
    });
    const robot = drizzle((body) => {
      for (const motor of body.motors) motor.encoder = null;
      body.drive.speedAtPower = { speedPerVolt: known(0.083), deadTimeSec: known(0.05), deadVolts: null };
    });
    const { summary } = runText(missionOf("go 1 m\nturn left 90 deg\ngo 50 cm"), { robot });
    expect(summary.steps.map((step) => step.timed)).toEqual([true, false, true]);
    expect(Math.abs(summary.end.xM - 3)).toBeLessThan(0.25);
    expect(summary.end.headingDeg).toBeCloseTo(90, -1);
  });
});
