// How two runs differ: in the frame of each step, so that an early fault is counted once.
import { describe, expect, it } from "vitest";
import {
  compareRuns,
  composePoses,
  differenceWords,
  foundAt,
  inversePose,
  isNotable,
  PI,
  poseAt,
  type Trace,
} from "../../src/index.js";
import { tapedPose } from "../../src/trials/typedTape.js";

/** A run through given poses, one a second. */
function run(poses: readonly (readonly [number, number, number])[], endedBy = "done") {
  const at = (k: 0 | 1 | 2) =>
    Float32Array.from(
      { length: (poses.length - 1) * 100 + 1 },
      (_, i) => (poses[Math.floor((i + 99) / 100)] as readonly number[])[k] as number,
    );
  const trace: Trace = {
    tickMs: 10,
    events: [],
    columns: (["x", "y", "heading"] as const).map((id, k) => ({
      id,
      quantity: id,
      unit: "m",
      startTick: 0,
      everyTicks: 1,
      values: at(k as 0 | 1 | 2),
    })),
  };
  const steps = poses.slice(1).map((_, i) => ({
    step: String(i + 1),
    pass: 1,
    text: `step ${i + 1}`,
    line: i + 1,
    startMs: i * 1000,
    endMs: (i + 1) * 1000,
    endedBy: i === poses.length - 2 ? endedBy : "done",
    timed: true,
  }));
  return { trace, steps };
}

describe("comparing runs", () => {
  it("misses steps without time only where both tell of such", () => {
    const ways = [
      [0, 0, 0],
      [1, 0, 0],
    ] as const;
    const [plan, board] = [run(ways), run(ways)];
    const instant = (step: string, text: string) => ({
      step,
      pass: 1,
      text,
      line: 9,
      startMs: 0,
      endMs: 0,
      endedBy: "done",
      timed: false,
    });
    const planned = { ...plan, steps: [...plan.steps, instant("2", "set n = 1"), instant("3", "finish")] };
    expect(compareRuns(planned, board).missing).toEqual([]);
    const robot = { ...board, steps: [...board.steps, instant("3", "finish")] };
    expect(compareRuns(planned, robot).missing).toEqual(["set n = 1"]);
  });

  it("blames the turn that was 10 deg off, not the straight after it", () => {
    const a = run([
      [0, 0, 0],
      [0, 0, PI / 2],
      [0, 1, PI / 2],
    ]);
    const off = PI / 2 + PI / 18;
    const b = run([
      [0, 0, 0],
      [0, 0, off],
      [Math.cos(off), Math.sin(off), off],
    ]);
    const found = compareRuns(a, b);
    expect(found.first?.step).toBe("1");
    expect(found.steps.map(isNotable)).toEqual([true, false]);
    expect(found.steps[0]?.turnedRad).toBeCloseTo(PI / 18, 5);
    expect(found.steps[1]?.alongM).toBeCloseTo(0, 5);
    // At the end it stands a chord of 10 deg away.
    expect(Math.hypot(found.end?.alongM ?? 0, found.end?.asideM ?? 0)).toBeCloseTo(2 * Math.sin(PI / 36), 5);
  });

  it("names steps that only one came to, and other endings", () => {
    const a = run([
      [0, 0, 0],
      [1, 0, 0],
      [2, 0, 0],
    ]);
    const b = run(
      [
        [0, 0, 0],
        [1, 0, 0],
      ],
      "limit",
    );
    const found = compareRuns(a, b);
    expect(found.missing).toEqual(["step 2"]);
    expect(found.steps[0]?.ended).toBe('ended by "limit" instead of "done"');
  });

  it("finds nothing between equal runs", () => {
    const a = run([
      [0, 0, 0],
      [1, 0, 0.1],
    ]);
    expect(compareRuns(a, a)).toMatchObject({ first: null, missing: [], end: { alongM: 0, asideM: 0, turnedRad: 0 } });
  });

  it("says differences in words", () => {
    expect(differenceWords({ alongM: 0.012, asideM: -0.003, turnedRad: PI / 180 })).toBe(
      "12 mm further, 3 mm to the right, turned 1.0 deg to the left",
    );
    expect(differenceWords({ alongM: 0.0001, asideM: 0, turnedRad: 0 })).toBe("the same");
  });

  it("undoes a pose, and reads poses beyond a trace's ends as its ends", () => {
    const pose = { xM: 1, yM: -2, headingRad: 2.5 };
    const back = composePoses(pose, inversePose(pose));
    for (const value of Object.values(back)) expect(value).toBeCloseTo(0, 12);
    const { trace } = run([
      [0, 0, 0],
      [1, 0, 0],
    ]);
    expect(poseAt(trace, 1e9)?.xM).toBe(1);
  });
});

describe("a tape read from the start place", () => {
  const { trace } = run([
    [1, 2, PI / 2],
    [1, 2.5, PI / 2],
  ]);

  it("lies on the field where the run began and looked", () => {
    // The robot looked along y: half a metre along is up, to its left is −x.
    const found = foundAt(trace, { alongM: 0.5, asideM: 0.02, headingRad: -0.1 }, {});
    expect(found?.xM).toBeCloseTo(0.98, 6);
    expect(found?.yM).toBeCloseTo(2.5, 6);
    expect(found?.headingRad).toBeCloseTo(PI / 2 - 0.1, 6);
  });

  it("leaves the heading as it was reckoned where nobody looked", () => {
    expect(tapedPose(trace, { alongM: 0.5, asideM: 0, headingRad: null })?.headingRad).toBeCloseTo(PI / 2, 6);
    expect(tapedPose({ ...trace, columns: [] }, { alongM: 0.5, asideM: 0, headingRad: null })).toBeNull();
  });

  it("goes before the simulated robot's own, which counts only when it is a place", () => {
    const own = { xM: 3, yM: 3, headingRad: 0 };
    expect(foundAt(trace, null, { tape: own })).toEqual(own);
    expect(foundAt(trace, { alongM: 0, asideM: 0, headingRad: 0 }, { tape: own })?.xM).toBeCloseTo(1, 6);
    expect(foundAt(trace, null, { tape: { xM: "3" } })).toBeNull();
    expect(foundAt(trace, null, {})).toBeNull();
  });
});
