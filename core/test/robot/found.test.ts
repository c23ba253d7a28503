// What only measuring tells, and what counts until it was measured: closed forms, and what steps and missions make of it.
import { describe, expect, test } from "vitest";
import type { KnownEdit } from "../../src/calibrate/procedure.js";
import { plateLight } from "../../src/field/colours.js";
import {
  applyEstimate,
  COLOUR_NAMES,
  checkRobot,
  driveModel,
  foundValue,
  nearLimitM,
  openRobot,
  PI,
  type Robot,
  robotInForce,
  rollingN,
  silentRad,
  tagReferences,
} from "../../src/index.js";
import { deriveMotor } from "../../src/physics/motor.js";
import { endStopsRad, frictionTorqueNm, holdGainPerRad, stopDistanceM, turnPastRad } from "../../src/robot/found.js";
import { demoRobot, drizzle, problemsOf, runSteps } from "../support/demo.js";

const HOW = { method: "test", conditions: "", measuredAt: "2026-11-23T12:00:00Z", count: 6 };
const DEG = PI / 180;

function knowing(robot: Robot, edits: readonly [ref: string, path: string, value: number][]): Robot {
  const all = edits.map(([ref, path, value]): KnownEdit => ({ ref, path, value, standardError: null }));
  return applyEstimate(robot, all, HOW);
}

describe("until it was measured", () => {
  test("nothing is found, and the drawing or what is usual counts", () => {
    const robot = drizzle();
    expect(foundValue(robot.drive.turnPastRad)).toBeNull();
    expect(turnPastRad(robot)).toBe(0);
    expect(holdGainPerRad(robot) * DEG).toBeCloseTo(0.015, 12);
    const { rampMS2, stopsWithMS2, stopsAfterSec } = driveModel(robot);
    expect([stopsWithMS2, stopsAfterSec]).toEqual([rampMS2, 0]);
    const lever = robot.attachments[0];
    expect(lever && endStopsRad(lever)).toEqual([lever?.lowRad, lever?.highRad]);
    const eye = robot.sensors.find((sensor) => sensor.kind === "eye");
    if (eye?.kind !== "eye") throw new Error("no distance sensor");
    expect([nearLimitM(eye), silentRad(eye)]).toEqual([eye.nearM, eye.slantRad]);
  });

  test("a document of before reads with nothing found", () => {
    const robot = drizzle();
    const { turnPastRad: _past, holdGainPerRad: _gain, stopsWithMS2: _stops, ...drive } = robot.drive;
    const read = openRobot({ ...robot, drive });
    expect(read.ok && read.document.drive).toEqual(robot.drive);
  });
});

describe("once it was measured", () => {
  test("a robot rolls on t v + v² / 2a", () => {
    expect(stopDistanceM(0.3, 0.04, 1.5)).toBeCloseTo(0.012 + 0.03, 12);
    expect(stopDistanceM(0, 0.04, 1.5)).toBe(0);
  });

  test("missions read the way it rolls on at the speed of the moment, and the gain to hold a heading with", () => {
    const robot = knowing(drizzle(), [
      ["drive", "stopsWithMS2", 2],
      ["drive", "stopsAfterSec", 0.1],
      ["drive", "holdGainPerRad", 0.02 / DEG],
    ]);
    const { summary } = runSteps(
      "wheels left 20 cm/s right 20 cm/s for 1 s then keep\nnote way = robot.stop_distance\nnote gain = robot.hold_gain * 1 deg\nstop",
      { robot },
    );
    const note = (name: string) => Number(summary.notes.find((one) => one.name === name)?.value);
    // 0.1 s · 0.2 m/s + 0.04 / 4 = 30 mm, with the speed held within a few percent.
    expect(Math.abs(note("way") / 0.03 - 1)).toBeLessThan(0.05);
    expect(note("gain")).toBeCloseTo(0.02, 9);
  });

  test("a heading hold of one's own takes the gain, and turns the other way when it is turned round", () => {
    const hold = (sign: "" | "-") =>
      runSteps(
        `every 10 ms until clock > 2 s\n  set swing = robot.hold_gain * (${sign}10 deg - gyro.heading)\n  power left 20 % - swing right 20 % + swing`,
      ).summary.end.headingDeg;
    expect(Math.abs(hold("") - 10)).toBeLessThan(1.5);
    expect(Math.abs(hold("-") + 10)).toBeLessThan(1.5);
  });

  test("turns aim short by what comes on top, never by more than half", () => {
    const turned = (past: number, steps: string) =>
      runSteps(steps, { robot: knowing(drizzle(), [["drive", "turnPastRad", past * DEG]]) }).summary.end.headingDeg;
    const plain = turned(0, "turn left 90 deg");
    expect(plain - turned(2, "turn left 90 deg")).toBeCloseTo(2, 1);
    expect(turned(-2, "turn left 90 deg") - plain).toBeCloseTo(2, 1);
    expect(turned(2, "turn right 90 deg") - turned(0, "turn right 90 deg")).toBeCloseTo(2, 1);
    expect(Math.abs(turned(20, "turn left 10 deg") - 5)).toBeLessThan(0.6);
    // A turn that rolls on into the next step ends where it was asked to.
    const kept = "turn left 90 deg then keep\nturn left 90 deg";
    expect(Math.abs(turned(2, kept) - turned(0, kept) + 2)).toBeLessThan(0.3);
  });

  test("turns without a rate of their own take the one that was found best", () => {
    const robot = knowing(drizzle(), [["drive", "turnRateRadS", 40 * DEG]]);
    const took = (own: Robot, step: string) => runSteps(step, { robot: own }).summary.durationMs;
    expect(took(robot, "turn left 180 deg")).toBeGreaterThan(1.5 * took(drizzle(), "turn left 180 deg"));
    expect(took(robot, "turn left 180 deg at 90 deg/s")).toBe(took(drizzle(), "turn left 180 deg at 90 deg/s"));
  });

  test("friction is what sets a wheel going less what rolling takes: T = V kt s / R − F r / (G η)", () => {
    const robot = knowing(drizzle(), [["left_motor", "pullAwayVolts", 0.8]]);
    const { left } = robotInForce(robot);
    const derived = deriveMotor(left.motor);
    if (!derived.ok) throw new Error(derived.message);
    const { torqueConstant, resistanceOhm } = derived.constants;
    const lever = left.rollPerTurnM.value / (2 * PI);
    const rolling = (rollingN(robot, left) * lever) / (left.motor.gearboxRatio * left.motor.gearboxEfficiency);
    const expected = (0.8 * torqueConstant * left.strength.value) / resistanceOhm - rolling;
    expect(frictionTorqueNm(robot, left)).toBeCloseTo(expected, 12);
    const model = driveModel(robot);
    expect(model.left.frictionN * model.left.voltsPerNewton).toBeCloseTo(0.8, 9);
    // Less than rolling alone takes is no friction, not a push.
    expect(frictionTorqueNm(robot, { ...left, motor: { ...left.motor, pullAwayVolts: known(0.01) } })).toBe(0);
  });

  test("and the rehearsal's wheel begins to turn at those volts", () => {
    const robot = knowing(drizzle(), [
      ["left_motor", "pullAwayVolts", 1.2],
      ["right_motor", "pullAwayVolts", 1.2],
    ]);
    const moved = (percent: number) => runSteps(`power both ${percent} % for 1 s`, { robot }).summary.end.xM - 2;
    const volts = 1.2 / robot.pack.nominalVolts;
    expect(Math.abs(moved(Math.floor(volts * 85)))).toBeLessThan(0.001);
    expect(moved(Math.ceil(volts * 125))).toBeGreaterThan(0.01);
  });

  test("an arm is warned of beyond the stop that was found, and goes no further", () => {
    const robot = knowing(drizzle(), [["lever", "travelRad", 60 * DEG]]);
    const text = 'cairn 1\nrobot "Drizzle"\n\nmission\n  move arm to 80 deg\n';
    expect(problemsOf(text, robot).map(({ code }) => code)).toContain("past-stop");
    expect(problemsOf(text).map(({ code }) => code)).not.toContain("past-stop");
    const { summary } = runSteps("move arm to 80 deg limit 3 s\nnote angle = arm.angle", { robot });
    const at = Number(summary.notes.find(({ name }) => name === "angle")?.value) / DEG;
    const lever = robot.attachments[0];
    const most = (lever ? endStopsRad(lever)[1] : 0) / DEG;
    expect(at).toBeLessThan(most + 1);
  });

  test("numbers out of their range are named like drawn ones", () => {
    const robot = knowing(drizzle(), [["left_motor", "pullAwayVolts", -3]]);
    const fault = checkRobot(robot).find(({ code }) => code === "out-of-range");
    expect([fault?.part, fault?.message]).toEqual([
      "left_motor",
      expect.stringMatching(/^Left motor: pulls away at .*\.$/),
    ]);
  });
});

function known(value: number) {
  return {
    value,
    standardError: null,
    count: 1,
    method: "",
    conditions: "",
    measuredAt: null,
    source: "typed" as const,
  };
}

describe("a robot without encoders", () => {
  const fog = () => demoRobot("fog");

  test("adds the volts that only overcome friction, and goes the same way for the same speed", () => {
    const usual = fog();
    const speed = usual.drive.speedAtPower?.speedPerVolt.value ?? 0.075;
    // v = k (V − V0): with V0 of a volt the same speed takes a volt more, at a slope fitted to it.
    const stiff = knowing(usual, [
      ["drive", "speedAtPower.deadVolts", 1],
      ["drive", "speedAtPower.speedPerVolt", speed],
    ]);
    const far = (robot: Robot) => runSteps("go 60 cm at 20 cm/s", { robot }).summary.end.xM - 2;
    expect(far(stiff)).toBeGreaterThan(far(usual) * 1.1);
    const faster = driveModel(stiff).timed;
    expect(faster).toMatchObject({ deadVolts: 1, speedPerVolt: speed });
  });

  test("turns for dead time and angle over rate, with the volts that were tried", () => {
    const tried = knowing(fog(), [
      ["drive", "turnVolts", 5],
      ["drive", "turnsWithRadS", 100 * DEG],
      ["drive", "turnsAfterSec", 0.05],
    ]);
    expect(driveModel(tried).timedTurn).toEqual({
      volts: 5,
      rateRadS: expect.closeTo(100 * DEG, 9),
      deadTimeSec: 0.05,
    });
    const took = (text: string) => {
      const step = runSteps(text, { robot: tried }).summary.steps.find((one) => one.text.startsWith("turn"));
      return step ? step.endMs - step.startMs : 0;
    };
    // 0.05 s + 0.9 s, in whole ticks.
    expect(Math.abs(took("turn left 90 deg") - 950)).toBeLessThan(25);
    expect(Math.abs(took("turn right 45 deg") - 500)).toBeLessThan(25);
    // One that names a rate goes by speed at power, as before.
    expect(Math.abs(took("turn left 90 deg at 60 deg/s") - 1500)).toBeLessThan(200);
  });
});

describe("a tag reader", () => {
  const reader = (light: Partial<Record<(typeof COLOUR_NAMES)[number], readonly [number, number, number]>>) => ({
    name: "tag",
    kind: "tag" as const,
    xM: 0,
    yM: 0,
    zM: 0.008,
    aimRad: 0,
    gapM: 0.008,
    noise: 0,
    periodMs: 50,
    references: Object.fromEntries(
      Object.entries(light).map(([name, [red, green, blue]]) => [
        name,
        { red: known(red), green: known(green), blue: known(blue) },
      ]),
    ),
  });

  test("goes by printed colours until plates were measured, and by those alone from then on", () => {
    expect(tagReferences(reader({}))).toBeNull();
    const two = tagReferences(reader({ red: [0.5, 0.04, 0.03], blue: [0.03, 0.12, 0.4] }));
    expect(two?.map(({ index }) => COLOUR_NAMES[index])).toEqual(["red", "blue"]);
  });

  test("of a plate as it is printed names it either way", () => {
    const [red, green, blue] = plateLight("green");
    const known = tagReferences(reader({ green: [red, green, blue], red: [0.5, 0.04, 0.03] }));
    expect(known?.[1]?.index).toBe(COLOUR_NAMES.indexOf("green"));
  });
});
