// Missions that hand over, driven by scripted sticks in the ideal rehearsal.
import { describe, expect, test } from "vitest";
import {
  BUTTONS,
  formatMission,
  HANDSET_AT_REST,
  type Handset,
  missionRows,
  openFloor,
  parseMission,
  prepareMission,
  type Robot,
  type RunResult,
  recordedHands,
  rehearse,
  traceColumn,
} from "../../src/index.js";
import { demoRobot, drizzle, problemsOf } from "../support/demo.js";
import { threeRollers } from "../support/rollers.js";

const head = (robot: Robot, steps: string, remote: string) =>
  `cairn 1\nrobot "${robot.name}"\n\nroutine nudge()\n  go 30 cm\n\nmission\n${steps.replace(/^/gm, "  ")}\n\nremote\n${remote.replace(/^/gm, "  ")}\n`;

type Script = readonly (readonly [untilSec: number, handset: Handset | null])[];

/** Drives by a script: each entry holds until its time; what comes after the last is silence. */
function drive(remote: string, script: Script, steps = "hand over for 5 s", robot = drizzle()): RunResult {
  const prepared = prepareMission(head(robot, steps, remote), robot, openFloor());
  const wrong = prepared.check.problems.filter(({ severity }) => severity === "error");
  if (wrong.length > 0) throw new Error(wrong.map(({ message }) => message).join("; "));
  const hands = (tick: number) => script.find(([until]) => tick < until * 100)?.[1] ?? null;
  return rehearse(prepared, { seed: 1, ideal: true, hands });
}

const push = (leftForward: number, leftAcross = 0, rightForward = 0, rightAcross = 0): Handset => ({
  ...HANDSET_AT_REST,
  sticks: [leftForward, leftAcross, rightForward, rightAcross],
});
const press = (...names: (typeof BUTTONS)[number][]): Handset => ({
  ...HANDSET_AT_REST,
  buttons: names.reduce((bits, name) => bits | (1 << BUTTONS.indexOf(name)), 0),
});
const at = (run: RunResult, column: string, sec: number) =>
  traceColumn(run.trace, column)?.[Math.round(sec * 100)] ?? 0;
const PLAIN = "drive one stick at 30 cm/s dead 10 % curve 1";

describe("sticks", () => {
  test("full push drives at the ceiling, half the way beyond the dead zone at half of it", () => {
    const run = drive(PLAIN, [[9, push(1)]]);
    expect(at(run, "leftSpeed", 4)).toBeCloseTo(0.3, 2);
    expect(at(drive(PLAIN, [[9, push(0.55)]]), "rightSpeed", 4)).toBeCloseTo(0.15, 2);
    expect(at(drive(PLAIN, [[9, push(0.08)]]), "rightSpeed", 4)).toBe(0);
    expect(run.summary.steps.at(-1)).toMatchObject({ step: "1", endedBy: "for" });
  });

  test("the slew limit rises as it says", () => {
    const run = drive(`${PLAIN} ramp 20 cm/s/s`, [[9, push(1)]]);
    expect(at(run, "leftSpeed", 1)).toBeCloseTo(0.2, 1);
    expect(at(run, "leftSpeed", 0.5)).toBeCloseTo(0.1, 1);
  });

  test("a held button lowers the ceiling and letting go brings it back; the lower of two holds", () => {
    const remote = `${PLAIN}\nhold trigger.left at 10 cm/s\nhold trigger.right at 40 cm/s`;
    const both = (names: Handset) => ({ ...push(1), buttons: names.buttons });
    const run = drive(remote, [
      [1, push(1)],
      [2, both(press("trigger.right"))],
      [3, both(press("trigger.right", "trigger.left"))],
      [4, push(1)],
    ]);
    expect(at(run, "leftSpeed", 0.95)).toBeCloseTo(0.3, 1);
    expect(at(run, "leftSpeed", 1.95)).toBeCloseTo(0.4, 1);
    expect(at(run, "leftSpeed", 2.95)).toBeCloseTo(0.1, 1);
    expect(at(run, "leftSpeed", 3.95)).toBeCloseTo(0.3, 1);
  });

  test("a ceiling may follow a sensor: driving by hand with help", () => {
    const run = drive("drive one stick at min(30 cm/s, 5 cm/s + robot.travel / 4 s) curve 1", [[9, push(1)]]);
    expect(at(run, "leftSpeed", 0.5)).toBeLessThan(0.12);
    expect(at(run, "leftSpeed", 4.5)).toBeGreaterThan(at(run, "leftSpeed", 0.5) + 0.05);
  });

  test("a car type is steered: its axle turns, and it drives a circle to that side", () => {
    const run = drive(
      "drive one stick at 20 cm/s turning 100 % curve 1",
      [[9, push(1, 1)]],
      undefined,
      demoRobot("sleet"),
    );
    expect(run.summary.end.headingDeg).toBeGreaterThan(60);
    const straight = drive("drive two sticks at 20 cm/s curve 1", [[9, push(1, 1)]], undefined, demoRobot("sleet"));
    expect(Math.abs(straight.summary.end.headingDeg)).toBeLessThan(3);
    expect(problemsOf(head(demoRobot("sleet"), "hand over", "drive tank"), demoRobot("sleet"))[0]?.code).toBe(
      "no-tank",
    );
  });

  test.each([
    ["four", demoRobot("flurry")],
    ["three", threeRollers()],
  ])("%s roller wheels: the left stick drives ahead and aside, the right one turns, all at once", (_, robot) => {
    const two = "drive two sticks at 20 cm/s turning 50 % dead 10 % curve 1";
    const way = (handset: Handset) => {
      const run = drive(two, [[9, handset]], "hand over for 3 s", robot);
      const { start, end } = run.summary;
      return [end.xM - start.xM, end.yM - start.yM, end.headingDeg - start.headingDeg] as const;
    };
    const [ahead, left, turned] = way(push(0, 1));
    expect(left).toBeGreaterThan(0.5);
    expect(Math.abs(ahead)).toBeLessThan(0.02);
    expect(Math.abs(turned)).toBeLessThan(2);
    expect(way(push(0, -1))[1]).toBeLessThan(-0.5);
    const slanted = way(push(0.7, 0.7));
    expect(slanted[0] / slanted[1]).toBeCloseTo(1, 1);
    expect(way(push(0, 0, 0, 1))[2]).toBeGreaterThan(60);
    // Turning while it slides, its way bends.
    const bent = way(push(0, 1, 0, 0.5));
    expect(bent[2]).toBeGreaterThan(30);
    expect(bent[0]).toBeLessThan(-0.1);
    // One stick drives it as any other robot.
    const one = drive(PLAIN, [[9, push(1)]], "hand over for 3 s", robot).summary;
    expect(one.end.xM - one.start.xM).toBeGreaterThan(0.7);
  });

  test("on wheels that cannot slide the left stick's side does nothing with two sticks", () => {
    const run = drive("drive two sticks at 20 cm/s", [[9, push(0, 1)]], "hand over for 2 s");
    expect(run.summary.end).toEqual(run.summary.start);
  });

  test("a driver that is only on or off gets nothing or all, with a dead zone between", () => {
    const fog = demoRobot("fog");
    const remote = "drive tank dead 10 % curve 1 switching 40 %";
    const duty = (value: number) => at(drive(remote, [[9, push(value, 0, value)]], undefined, fog), "leftDuty", 2);
    expect([duty(0.2), duty(0.9), duty(-0.9)]).toEqual([0, 1, -1]);
    const warned = problemsOf(head(fog, "hand over", "drive tank"), fog).find(({ code }) => code === "on-off-driver");
    expect(warned?.severity).toBe("warning");
  });
});

describe("silence", () => {
  test("stops the robot and everything a button began; it moves again only after the sticks were let go", () => {
    const remote = `${PLAIN}\ntoggle thumb.lower power arm 40 % again stop`;
    const run = drive(
      remote,
      [
        [0.1, press("thumb.lower")],
        [1, push(1)],
        [2, null],
        [3, push(1)],
        [3.2, push(0)],
        [4.5, push(1)],
      ],
      "hand over for 4.4 s",
    );
    expect(at(run, "leftSpeed", 0.9)).toBeGreaterThan(0.25);
    expect(Math.abs(at(run, "leftSpeed", 1.9))).toBeLessThan(0.005);
    expect(Math.abs(at(run, "leftSpeed", 2.9))).toBeLessThan(0.005);
    expect(at(run, "leftSpeed", 4.3)).toBeGreaterThan(0.25);
  });

  test("a rehearsal without a driver skips the step and goes on", () => {
    const robot = drizzle();
    const prepared = prepareMission(head(robot, "go 20 cm\nhand over\ngo 10 cm", PLAIN), robot, openFloor());
    const { summary } = rehearse(prepared, { seed: 1, ideal: true });
    expect(summary.steps.map(({ step, endedBy }) => [step, endedBy])).toEqual([
      ["1", "done"],
      ["2", "skipped"],
      ["3", "done"],
    ]);
  });
});

describe("buttons", () => {
  const lights = (run: RunResult) => run.summary.signs.map(({ atMs, text }) => [atMs / 1000, text]);

  test("hold begins on pressing and does on letting go what it says", () => {
    const run = drive("hold thumb.upper light 100 % release light 20 %", [
      [1, push(0)],
      [2, press("thumb.upper")],
      [9, push(0)],
    ]);
    expect(lights(run)).toEqual([
      [1, "100 %"],
      [2, "20 %"],
    ]);
  });

  test("toggle needs a second press; a held button counts once", () => {
    const run = drive("toggle thumb.upper light 100 % again light 0 %", [
      [1, press("thumb.upper")],
      [2, push(0)],
      [3, press("thumb.upper")],
      [9, push(0)],
    ]);
    expect(lights(run)).toEqual([
      [0, "100 %"],
      [2, "0 %"],
    ]);
  });

  test("a motor turns while its button is held, and brakes after", () => {
    const robot = drizzle();
    const remote = "hold thumb.lower power arm 50 % release stop";
    const text = head(robot, "hand over for 1 s\nnote after = arm.angle\nwait 0.5 s\nnote later = arm.angle", remote);
    const hands = (tick: number) => (tick < 20 ? press("thumb.lower") : push(0));
    const { summary } = rehearse(prepareMission(text, robot, openFloor()), { seed: 1, ideal: true, hands });
    const [after, later] = summary.notes.map(({ value }) => value as number);
    expect(after).toBeGreaterThan(0.1);
    expect(Math.abs((later as number) - (after as number))).toBeLessThan(0.05);
  });

  test("the press that came last has the part both want", () => {
    const remote = "hold thumb.lower power arm 40 % release stop\nhold thumb.upper power arm -40 % release stop";
    const robot = drizzle();
    const text = head(robot, "hand over for 2 s\nnote angle = arm.angle", remote);
    const hands = (tick: number) =>
      tick < 15 ? press("thumb.lower") : tick < 45 ? press("thumb.lower", "thumb.upper") : push(0);
    const { summary } = rehearse(prepareMission(text, robot, openFloor()), { seed: 1, ideal: true, hands });
    expect(summary.outcome).toBe("finished");
    expect(summary.notes[0]?.value).toBeLessThan(0.3);
  });

  test("a routine that drives has the wheels until it ends, then the sticks have them again", () => {
    const run = drive(`${PLAIN}\ntap thumb.right nudge() again stop`, [
      [0.2, press("thumb.right")],
      [3, push(-1)],
      [9, push(-1)],
    ]);
    const nudged = run.summary.steps.find(({ step }) => step.startsWith("nudge"));
    expect(nudged?.endedBy).toBe("done");
    expect(at(run, "x", nudged ? nudged.endMs / 1000 : 0) - at(run, "x", 0)).toBeCloseTo(0.3, 2);
    expect(at(run, "leftSpeed", 4)).toBeCloseTo(-0.3, 1);
  });

  test("a routine that waits before it drives leaves the wheels at rest meanwhile", () => {
    const robot = drizzle();
    const text = head(robot, "hand over for 3 s", `${PLAIN}\ntap thumb.right nudge() again stop`).replace(
      "  go 30 cm",
      "  wait 1 s\n  go 10 cm",
    );
    const both = { ...push(1), buttons: press("thumb.right").buttons };
    const hands = (tick: number) => (tick < 100 ? push(1) : both);
    const run = rehearse(prepareMission(text, robot, openFloor()), { seed: 1, ideal: true, hands });
    expect(at(run, "leftSpeed", 0.95)).toBeCloseTo(0.3, 1);
    expect(Math.abs(at(run, "leftSpeed", 1.9))).toBeLessThan(0.01);
    expect(at(run, "leftSpeed", 2.4)).toBeGreaterThan(0.1);
  });

  test("a tap while it runs stops the routine", () => {
    const run = drive("tap thumb.right nudge() again stop", [
      [0.2, press("thumb.right")],
      [0.4, push(0)],
      [0.6, press("thumb.right")],
      [9, push(0)],
    ]);
    expect(run.summary.steps.find(({ step }) => step.startsWith("nudge"))?.endedBy).toBe("interrupted");
    expect(at(run, "x", 4) - at(run, "x", 0)).toBeLessThan(0.2);
  });

  test("a signal from a button ends the hand-over: the program goes on by itself", () => {
    const run = drive(
      `${PLAIN}\ntap middle.right send done again keep`,
      [
        [1, push(1)],
        [1.1, press("middle.right")],
        [9, push(0)],
      ],
      "hand over until heard done\ngo 10 cm",
    );
    expect(run.summary.steps.find(({ step }) => step === "1")?.endedBy).toBe("until");
    expect(run.summary.steps.at(-1)).toMatchObject({ step: "2", endedBy: "done" });
  });

  test("a slider moves its servo between the ends, and nothing before it is moved", () => {
    const robot = drizzle();
    const text = head(
      robot,
      "hand over for 2 s\nnote angle = head.angle",
      "with slider.one move head from 0 deg to 60 deg",
    );
    const run = (level: number) => {
      const hands = (tick: number): Handset => ({ ...HANDSET_AT_REST, levels: [0, 0, tick < 20 ? 0.5 : level, 0] });
      const { summary } = rehearse(prepareMission(text, robot, openFloor()), { seed: 1, ideal: true, hands });
      return ((summary.notes[0]?.value as number) * 180) / Math.PI;
    };
    expect(run(0.5)).toBeCloseTo(0, 0);
    expect(run(1)).toBeCloseTo(60, 0);
    expect(run(0.25)).toBeCloseTo(15, 0);
  });
});

describe("as text", () => {
  const text = `cairn 1
robot "Drizzle"

set creep = 12 cm/s

mission
  go 20 cm
  hand over for 2 s until bumper.pressed

remote
  # the sticks
  drive two sticks at 34 cm/s turning 60 % dead 12 % curve 1.8 ramp 80 cm/s/s
  hold trigger.left at creep
  hold thumb.lower power arm -80 % release stop
  toggle thumb.upper light 100 % again light 0 %
  with slider.one move head from -30 deg to 90 deg
`;

  test("the canonical layout is left as it is, and every line is a row", () => {
    expect(formatMission(text)).toEqual({ ok: true, text });
    expect(problemsOf(text)).toEqual([]);
    const rows = missionRows(parseMission(text)).filter((row) => row.type === "step");
    expect(rows.map((row) => row.label)).toEqual([
      "1",
      "2",
      "remote.1",
      "remote.2",
      "remote.3",
      "remote.4",
      "remote.5",
    ]);
  });
});

test("a driver who stops it ends a mission that would go on", () => {
  const prepared = prepareMission(head(drizzle(), "hand over until heard done", PLAIN), drizzle(), openFloor());
  const hands = () => push(1);
  const { summary } = rehearse(prepared, { seed: 1, ideal: true, hands, handsEnd: 200 });
  expect(summary).toMatchObject({ outcome: "stopped", reason: "the driver stopped it", durationMs: 2000 });
  expect(summary.end.xM).toBeGreaterThan(0.4);
});

test("a trace without a driver has no recorded hands", () => {
  expect(recordedHands({ tickMs: 10, columns: [], events: [] })).toBeNull();
});
