// One rehearsal: sliced, traced, settled, and honest about where the robot was.
import { describe, expect, test } from "vitest";
import { openFloor, prepareMission, Rehearsal, rehearse, traceColumn, usualScatter } from "../../src/index.js";
import { RUN_COLUMNS } from "../../src/trials/trace.js";
import { drizzle, fellside, missionFile, missionOf, runSteps, runText } from "../support/demo.js";

const prepared = prepareMission(missionFile("missions/first-roll-out.cairn"), drizzle(), fellside());

describe("slices", () => {
  test.each([1, 7, 50, 100_000])("of %i ticks give the same run", (ticks) => {
    const rehearsal = new Rehearsal(prepared, { seed: 3, ideal: false });
    let slices = 0;
    while (!rehearsal.advance(ticks)) slices += 1;
    expect(rehearsal.result().summary.traceHash).toBe(rehearse(prepared, { seed: 3, ideal: false }).summary.traceHash);
    if (ticks === 7) expect(slices).toBeGreaterThan(100);
  });

  test("rows come as they are made, none twice", () => {
    const rehearsal = new Rehearsal(prepared, { seed: 3, ideal: false });
    let rows = 0;
    while (!rehearsal.done) {
      rehearsal.advance(33);
      const [x] = rehearsal.recorder.since(rows);
      rows += x?.length ?? 0;
    }
    expect(rows).toBe(traceColumn(rehearsal.result().trace, "x")?.length);
  });

  test("a result before the end, and a run of a broken mission, are programming mistakes", () => {
    const rehearsal = new Rehearsal(prepared, { seed: 3, ideal: false });
    expect(() => rehearsal.result()).toThrow("not over yet");
    const broken = prepareMission(missionOf("trun left 90 deg"), drizzle(), openFloor());
    expect(() => new Rehearsal(broken, { seed: 1, ideal: true })).toThrow("with errors");
  });
});

describe("the trace", () => {
  const { trace, summary } = runSteps("go 40 cm\nturn right 120 deg\narc left 90 deg radius 20 cm\nback 10 cm");
  const column = (id: string) => traceColumn(trace, id) ?? new Float32Array();

  test("has all its columns, as long as the run", () => {
    expect(trace.columns.slice(0, RUN_COLUMNS.length).map(({ id }) => id)).toEqual(RUN_COLUMNS.map(({ id }) => id));
    expect(new Set(trace.columns.map(({ values }) => values.length)).size).toBe(1);
    expect(column("x").length).toBeGreaterThanOrEqual(summary.durationMs / 10);
  });

  test("begins at the start place and ends where the summary says", () => {
    expect([column("x")[0], column("y")[0], column("heading")[0]]).toEqual([2, 2, 0]);
    expect(column("x").at(-1)).toBeCloseTo(summary.end.xM, 5);
    expect(((column("heading").at(-1) ?? 0) * 180) / Math.PI).toBeCloseTo(summary.end.headingDeg, 3);
  });

  test("never jumps: no faster than the wheels turn", () => {
    const [x, y, left, right] = [column("x"), column("y"), column("leftSpeed"), column("rightSpeed")];
    for (let i = 1; i < x.length; i += 1) {
      const moved = Math.hypot((x[i] ?? 0) - (x[i - 1] ?? 0), (y[i] ?? 0) - (y[i - 1] ?? 0));
      const most = Math.max(
        Math.abs(left[i] ?? 0),
        Math.abs(right[i] ?? 0),
        Math.abs(left[i - 1] ?? 0),
        Math.abs(right[i - 1] ?? 0),
      );
      // 0.3 mm of skid while a wheel catches up; float32 at 2 m is good to 0.2 µm.
      expect(moved).toBeLessThan(most * 0.01 + 3e-4);
    }
  });

  test("in an ideal run the gyro's heading is the true one", () => {
    const [truth, gyro] = [column("heading"), column("gyroHeading")];
    // The reading is one tick old.
    for (let i = 2; i < truth.length; i += 1) expect(Math.abs((gyro[i] ?? 0) - (truth[i - 1] ?? 0))).toBeLessThan(1e-4);
  });

  test("tells in events which step ran when", () => {
    const begins = trace.events.filter((event) => event.kind === "step begins");
    expect(begins.map((event) => event.stepId)).toEqual(["1", "2", "3", "4"]);
    expect(begins.map((event) => event.tick * 10)).toEqual(summary.steps.map((step) => step.startMs));
  });
});

describe("the end", () => {
  test("comes to rest before it is judged", () => {
    const { summary, trace } = runText(missionOf("power both 80 %\nwait 1 s\nfinish"));
    const speed = traceColumn(trace, "leftSpeed")?.at(-1) ?? 1;
    expect(summary.durationMs).toBe(1000);
    expect(Math.abs(speed)).toBeLessThan(1e-3);
    expect((trace.columns[0]?.values.length ?? 0) * 10).toBeGreaterThan(summary.durationMs);
  });

  test("the goal's clock is the mission's, not that of coming to rest", () => {
    expect(runSteps("power both 80 %\nwait 1 s", {}, "goal clock < 1.05 s").summary.success).toBe(true);
  });

  test("a goal with a zone looks at where the robot stands", () => {
    const mission = (goal: string) =>
      `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\ngoal ${goal}\nmission\n  go 40 cm\n`;
    const success = (goal: string) => runText(mission(goal), { field: fellside() }).summary.success;
    expect([
      success('inside "hut dock"'),
      success('not inside "hut dock"'),
      success("score is 0"),
      success("robot.travel is 39 cm to 41 cm"),
    ]).toEqual([false, true, true, true]);
  });

  test("runs begin where the robot is put, which scatters", () => {
    const starts = Array.from({ length: 8 }, (_, i) => rehearse(prepared, { seed: i, ideal: false }).summary.start);
    expect(new Set(starts.map((start) => start.xM)).size).toBe(8);
    for (const start of starts) expect(Math.abs(start.xM - 0.24)).toBeLessThan(0.02);
    const exact = rehearse(prepared, { seed: 1, ideal: false, scatter: { ...usualScatter(), placement: 0 } }).summary
      .start;
    expect(exact).toEqual({ xM: 0.24, yM: 0.7, headingDeg: 0 });
  });
});
