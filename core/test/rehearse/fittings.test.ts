// Forks, grippers and arms in a run; pulsed drivers, brown-out, tipping; zones that count at a time.
import { describe, expect, test } from "vitest";
import { addPart, type Field, openFloor, type Robot, readRobot } from "../../src/index.js";
import { demoRobot, drizzle, fellside, missionOf, runSteps, runText } from "../support/demo.js";

function fitted(kind: "fork" | "gripper"): Robot {
  const base = drizzle((body) => {
    body.attachments = [];
    body.sensors = body.sensors.filter((sensor) => sensor.kind !== "bumper");
  });
  const { robot } = addPart(base, kind);
  const made = {
    ...robot,
    attachments: robot.attachments.map((part) => ({ ...part, drivenBy: "arm", highRad: kind === "fork" ? 0.9 : 1 })),
  };
  const read = readRobot(made);
  if (!read.ok) throw new Error(read.problems.join());
  return read.document;
}

const crate = (xM: number, size = 0.05): Field["loads"][number] => ({
  name: "crate",
  shape: "box",
  sizeM: [size, size],
  heightM: 0.05,
  massKg: 0.1,
  friction: 0.5,
  xM,
  yM: 2,
  headingRad: 0,
  colour: "#C8352B",
});
const floorWith = (load: Field["loads"][number]): Field => ({ ...openFloor(), loads: [load] });

describe("a fork", () => {
  test("goes under a load, lifts it, carries it off and sets it down", () => {
    const steps =
      "go 6 cm at 8 cm/s\npower arm 40 % for 1 s\nturn left 90 deg\ngo 30 cm\npower arm -30 % for 1.5 s\nback 20 cm";
    const { summary } = runSteps(steps, { robot: fitted("fork"), field: floorWith(crate(2.17)) });
    const [load] = summary.loads;
    // Turned a quarter with the robot, driven 30 cm, left there.
    expect(load?.xM).toBeCloseTo(2.06, 1);
    expect(load?.yM).toBeGreaterThan(2.35);
    expect(summary.end.yM).toBeLessThan(2.2);
  });

  test("left down it passes under, and the chassis pushes the load", () => {
    const { summary } = runSteps("go 25 cm at 10 cm/s", { robot: fitted("fork"), field: floorWith(crate(2.2)) });
    expect(summary.loads[0]?.xM).toBeGreaterThan(2.3);
  });
});

describe("a gripper", () => {
  test("closes on a load, drags it along backwards, and lets it go when it opens", () => {
    const robot = fitted("gripper");
    const steps =
      "power arm 40 % for 1 s\ngo 5 cm at 8 cm/s\npower arm -40 % for 1.5 s\nback 20 cm\npower arm 50 % for 1.5 s\nback 15 cm";
    const { summary } = runSteps(steps, { robot, field: floorWith(crate(2.16)) });
    expect(summary.loads[0]?.xM).toBeLessThan(2.05);
    expect(summary.loads[0]?.xM).toBeGreaterThan(summary.end.xM + 0.15);
  });
});

describe("a driver that is only on or off", () => {
  test("drives by whole ticks on and off: a little slower than PWM would, as the gears lose in every tick off", () => {
    const robot = demoRobot("fog");
    const pulsed = runText(missionOf("power both 50 % for 2 s").replace("Drizzle", "Fog"), { robot });
    const smooth = runText(missionOf("power both 50 % for 2 s").replace("Drizzle", "Fog"), {
      robot: { ...robot, board: { ...robot.board, driver: "pwm" } },
    });
    // In a tick off the motor holds back with 1 / η of its torque, where a steady voltage would have pushed with η.
    const share = (pulsed.summary.end.xM - 2) / (smooth.summary.end.xM - 2);
    expect(share).toBeGreaterThan(0.7);
    expect(share).toBeLessThan(1);
    const duty = pulsed.trace.columns.find(({ id }) => id === "leftDuty");
    expect(duty?.values.slice(5, 100).every((value) => value === 0.5)).toBe(true);
  });
});

describe("what ends or marks a run from outside", () => {
  test("a pack that breaks down restarts the board, and the mission is over", () => {
    const robot = drizzle((body) => {
      body.pack.internalResistanceOhm = 4;
      body.pack.charge = 0.05;
      body.board.brownOutVolts = 5.5;
    });
    const { summary } = runSteps("power both 100 % for 2 s", { robot });
    expect(summary.outcome).toBe("stopped");
    expect(summary.reason).toMatch(/the board restarted: the pack broke down to \d\.\d V/);
  });

  test("a top-heavy robot is said to tip, a low one is not", () => {
    const high = drizzle((body) => {
      body.chassis.centreOfMassM = [-0.004, 0, 0.085];
      body.chassis.heightM = 0.15;
    });
    expect(runSteps("power both 100 % for 1 s", { robot: drizzle() }).summary.tippedMs).toBeNull();
    expect(
      runSteps("power both -100 % for 0.4 s\npower both 100 % for 0.4 s", { robot: high }).summary.tippedMs,
    ).not.toBeNull();
  });

  test("a zone with a time counts what stood in it then", () => {
    const field: Field = {
      ...fellside(),
      zones: fellside().zones.map((zone) => ({ ...zone, beforeSec: zone.name === "hut dock" ? 1 : null })),
    };
    const steps = "wait 2 s\ngo 50 cm";
    const { summary } = runSteps(steps, { field }, 'field "Fellside"');
    expect(summary.zones).toEqual([{ zone: "hut dock", count: 1, points: 10 }]);
    const late = runSteps(steps, { field: fellside() }, 'field "Fellside"');
    expect(late.summary.zones).toEqual([]);
  });
});

describe("readings of parts", () => {
  test("heat rises while an arm is held at its stop; its angle is the shaft's", () => {
    const { summary } = runSteps(
      "power arm 100 % for 1.5 s\nnote heat = arm.heat\nnote angle_turns = arm.angle / 1 turns\npower arm 100 % for 20 s\nnote later = arm.heat",
    );
    const note = (name: string) => Number(summary.notes.find((one) => one.name === name)?.value);
    expect(note("later")).toBeGreaterThan(note("heat"));
    expect(note("angle_turns")).toBeCloseTo(1 / 3, 2);
  });

  test("a continuous servo turns by power, and stands when the mission is over", () => {
    const { robot } = addPart(drizzle(), "servo-turning");
    const withPot = addPart(robot, "potentiometer").robot;
    const sensors = withPot.sensors.map((sensor) =>
      sensor.kind === "potentiometer" ? { ...sensor, on: "spin" } : sensor,
    );
    const { summary } = runSteps("power spin 50 % for 0.5 s\nnote turned = arm_angle.angle / 1 deg", {
      robot: { ...withPot, sensors },
    });
    // Half of 360 deg/s for half a second.
    expect(summary.notes[0]?.value).toBeGreaterThan(85);
    expect(summary.notes[0]?.value).toBeLessThan(95);
  });
});

describe("a gripper that closes on what it holds", () => {
  const told = (run: ReturnType<typeof runSteps>, name: string) =>
    run.summary.notes.filter((note) => note.name === name).map(({ value }) => value);

  test("stops at the load, says that it holds it and at which angle, and goes on to its stop without one", () => {
    const robot = fitted("gripper");
    const part = robot.attachments[0];
    if (!part) throw new Error("it has a gripper");
    const steps = `power arm 40 % for 1 s\ngo 5 cm at 8 cm/s\npower arm -40 % for 1.5 s\nnote held = ${part.name}.holding\nnote angle = arm.angle\npower arm 50 % for 1.5 s\nnote after = ${part.name}.holding`;
    const loaded = runSteps(steps, { robot, field: floorWith(crate(2.16)) });
    expect([told(loaded, "held"), told(loaded, "after")]).toEqual([[1], [0]]);
    // The jaws stand where their gap is the load's width.
    const { stages, widthM, lowRad, highRad } = part;
    const ratio = stages.reduce((all, { driverTeeth, drivenTeeth }) => (all * drivenTeeth) / driverTeeth, 1);
    const gapM = (widthM * ((told(loaded, "angle")[0] as number) / ratio - lowRad)) / (highRad - lowRad);
    expect(gapM).toBeGreaterThan(0.047);
    expect(gapM).toBeLessThan(0.053);
    const empty = runSteps(steps, { robot });
    expect(told(empty, "held")).toEqual([0]);
    expect(told(empty, "angle")[0]).toBeLessThan((told(loaded, "angle")[0] as number) - 0.1);
  });
});

describe("an arm whose angle a potentiometer tells", () => {
  test("moves to an angle without an encoder, within a step of it", () => {
    const robot = drizzle((body) => {
      const arm = body.motors.find(({ name }) => name === "arm");
      if (arm) arm.encoder = null;
      const on = body.attachments.find(({ drivenBy }) => drivenBy === "arm")?.name ?? "arm";
      body.sensors.push({ name: "knob", kind: "potentiometer", xM: 0, yM: 0, zM: 0.05, aimRad: 0, travelRad: 5, on });
    });
    const run = runSteps("move arm to 60 deg\nwait 0.5 s\nnote a = knob.angle", { robot });
    expect(run.summary.reason).toBe("");
    const deg = ((run.summary.notes[0]?.value as number) * 180) / Math.PI;
    expect(deg).toBeGreaterThan(57);
    expect(deg).toBeLessThan(63);
  });
});

describe("an arm behind gears", () => {
  test.each([3, 0.5])("moves to its own angle, whatever its motor turns: %s turns for one", (ratio) => {
    const robot = drizzle((body) => {
      const arm = body.attachments.find(({ drivenBy }) => drivenBy === "arm");
      if (arm)
        arm.stages = [
          {
            kind: "gears",
            backlashRad: 0,
            slipTorqueNm: null,
            driverTeeth: 12,
            drivenTeeth: 12 * ratio,
            efficiency: 0.95,
          },
        ];
    });
    const lever = robot.attachments.find(({ drivenBy }) => drivenBy === "arm")?.name ?? "";
    const steps = `move ${lever} to 40 deg\nnote to = ${lever}.angle / 1 deg\nnote motor = arm.angle / 1 deg\nmove ${lever} by -15 deg\nnote by = ${lever}.angle / 1 deg`;
    const { notes, reason } = runSteps(steps, { robot, ideal: true }).summary;
    expect(reason).toBe("");
    const [to, motor, by] = notes.map(({ value }) => value as number) as [number, number, number];
    expect(Math.abs(to - 40)).toBeLessThan(2);
    expect(motor / to).toBeCloseTo(ratio, 6);
    expect(Math.abs(by - 25)).toBeLessThan(2);
  });
});

describe("stopping", () => {
  test("the step stop and the tail then stop come to rest alike", () => {
    const rest = (steps: string) => runSteps(steps).summary.end.xM;
    const tail = rest("go at 30 cm/s until robot.travel > 50 cm then stop");
    const step = rest("go at 30 cm/s until robot.travel > 50 cm then keep\nstop\nwait 1 s");
    expect(Math.abs(tail - step)).toBeLessThan(0.004);
  });
});
