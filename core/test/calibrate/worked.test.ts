// Procedures worked by hand: rows as a person would type them, from a truth that is written down here, without
// noise. Each is found again to a hundredth of a percent, put into the robot, and presented as what is in force.
import { describe, expect, it } from "vitest";
import { ratioOfRecorded, replay, turnError, wayOf } from "../../src/calibrate/odometry.js";
import { powerRamp } from "../../src/calibrate/signals.js";
import {
  applyEstimate,
  defaultSettings,
  type Estimate,
  openFloor,
  PI,
  type Procedure,
  placedBy,
  procedureOf,
  type Robot,
  robotInForce,
  type Settings,
  stageField,
  type TableRow,
} from "../../src/index.js";
import { PLACED_BY } from "../../src/robot/placing.js";
import { demoRobot } from "../support/demo.js";

const DEG = PI / 180;
const EXACT = 1e-4;
const HOW = { method: "by hand", conditions: "open floor", measuredAt: "2026-11-23T12:00:00Z", count: 5 };

const row = (values: Record<string, number | null>): TableRow => ({ values, struck: false });
const near = (value: number | undefined, truth: number) =>
  expect(Math.abs((value ?? Number.NaN) / truth - 1)).toBeLessThan(EXACT);

function procedure(id: string): Procedure {
  const found = procedureOf(id);
  if (!found) throw new Error(`no procedure ${id}`);
  return found;
}

function estimated(id: string, robot: Robot, rows: readonly TableRow[], settings: Settings = {}) {
  const one = procedure(id);
  const found: Estimate = one.estimate(robot, rows, { ...defaultSettings(one), ...settings });
  if (!found.ok) throw new Error(found.why);
  const value = (result: string) => found.results.find((each) => each.id === result)?.estimate.value;
  return { ...found, value, robot: applyEstimate(robot, found.edits, HOW) };
}

describe("wheels", () => {
  it("by hand: a string of 195.3 mm round the tyre, and ten turns along a tape", () => {
    const rows = [
      row({ alongM: 0.1953, turns: 1 }),
      row({ alongM: 1.953, turns: 10 }),
      row({ alongM: 0.9765, turns: 5 }),
    ];
    const found = estimated("wheel-size-by-hand", demoRobot("gust"), rows);
    near(found.value("roll"), 0.1953);
    const { left, right } = robotInForce(found.robot);
    near((left.rollPerTurnM.value + right.rollPerTurnM.value) / 2, 0.1953);
    expect(found.verdict.title).toContain("195.3");
  });

  it("a drive that ends aside is as long as its arc, not as its chord", () => {
    // 2 m of arc with R = 4 m: x = R sin(1/2), y = R (1 − cos(1/2)); ten turns of 0.2 m.
    const [alongM, asideM] = [4 * Math.sin(0.5), 4 * (1 - Math.cos(0.5))];
    const found = estimated("wheel-size", demoRobot("gust"), [row({ alongM, asideM, turns: 10 })]);
    // The series of the arc stops after two terms: 0.01 % at half a radian.
    expect(Math.abs((found.value("roll") ?? 0) / 0.2 - 1)).toBeLessThan(2e-4);
  });

  it("recorded turns of unequal wheels give the ratio whose replay ends where the tape found it", () => {
    const truth = 1.008;
    const travelM = Array.from({ length: 200 }, (_, i) => (i % 2 === 0 ? 0.02 : 0.0202));
    const [x, y] = replay(travelM, truth, 0.14);
    const found = ratioOfRecorded(travelM, y, 0.14);
    near(found ?? undefined, truth);
    expect(x).toBeGreaterThan(1.9);
  });

  it("tells which way round a recorded square went", () => {
    const turnLeft = [-0.01, 0.01, -0.01, 0.01];
    expect(wayOf(turnLeft)).toBe(1);
    expect(wayOf(turnLeft.map((travel) => -travel))).toBe(-1);
  });
});

describe("turning", () => {
  it("five turns each way, reckoned as 5.25: the width is 5 % larger", () => {
    const robot = demoRobot("gust");
    const before = robotInForce(robot).trackWidthM.value;
    const rows = [1, -1, 1, -1].map((way) => row({ way, leftOverRad: 0, reckonedTurns: way * 5.25 }));
    const found = estimated("turning-width", robot, rows);
    near(found.value("width"), before * 1.05);
    near(robotInForce(found.robot).trackWidthM.value, before * 1.05);
    // b stands for a full turn: 360 deg · (1.05 − 1) too little now.
    expect(found.verdict.text).toContain("18.0 deg short");
  });

  it("an error of the width is the same share of a full turn", () => {
    expect(turnError({ value: 0.14, standardError: 0.0007, low: null, high: null, count: 5 })).toBeCloseTo(
      2 * PI * 0.005,
      12,
    );
    expect(turnError({ value: 0.14, standardError: null, low: null, high: null, count: 2 })).toBeNull();
  });

  it("ten turns that the gyro reads as 3,582 deg: scale 3600 / 3582, on top of the one in force", () => {
    const robot = demoRobot("drizzle");
    const before = robotInForce(robot).gyro?.scale.value ?? 1;
    const rows = [1, -1].map((way) => row({ way, leftOverRad: 0, readRad: way * 3582 * DEG }));
    const found = estimated("gyro-scale", robot, rows);
    near(found.value("scale"), (before * 3600) / 3582);
    near(robotInForce(found.robot).gyro?.scale.value, (before * 3600) / 3582);
    expect(found.verdict.text).toContain("90.45 deg");
  });

  it("a gyro that read 0.6 deg after 24 s at rest drifts 0.025 deg/s beyond what is taken off", () => {
    const robot = demoRobot("drizzle");
    const gyro = robotInForce(robot).gyro;
    if (!gyro) throw new Error("Drizzle has a gyro");
    const found = estimated("gyro-rest", robot, [row({ rateRadS: 0.025 * DEG })]);
    near(found.value("rest"), (0.025 * DEG) / gyro.scale.value + gyro.restRadS.value);
  });

  it("quarter turns past by 1 deg and 1 deg more for each 100 deg/s", () => {
    const past = (rate: number) => 1 + rate / 100;
    const rows = [40, 80, 120, 160].flatMap((rate) =>
      [0, 1, 2].map(() => row({ rateRadS: rate * DEG, turnedRad: (90 + past(rate)) * DEG })),
    );
    const found = estimated("turn-by-gyro", demoRobot("drizzle"), rows, { wishedRad: 0.7 * DEG });
    near(found.value("past"), 2 * DEG);
    expect(found.verdict.text).toContain("For each 100 deg/s more it goes 1.00 deg further.");
    // 120 deg/s is 0.2 deg from the mean, 160 deg/s 0.6 deg: both within, the quicker one wins, and its own 2.6 deg are taken off.
    expect(found.edits.map(({ path, value }) => [path, Math.round((value / DEG) * 1000) / 1000])).toEqual([
      ["turnPastRad", 2.6],
      ["turnRateRadS", 160],
    ]);
  });

  it("heading hold takes the gain that settles soonest among those that stay calm", () => {
    const answers: [gain: number, overshoot: number, settledSec: number, rings: number][] = [
      [0.5, 0, 1.4, 0],
      [1, 0.05, 0.7, 0],
      [1.5, 0.2, 0.5, 0],
      [2.5, 0.45, 0.4, 0],
      [4, 0.8, 3, 1],
    ];
    const rows = answers.map(([gain, overshoot, settledSec, rings]) => row({ gain, overshoot, settledSec, rings }));
    const found = estimated("heading-hold", demoRobot("drizzle"), rows);
    expect(found.value("gain")).toBe(1.5);
    // 1.5 % for a degree is 0.015 · 180/π for a radian.
    near(found.robot.drive.holdGainPerRad?.value, (0.015 * 180) / PI);
    expect(found.verdict.text).toContain("From 4 %/deg on it swings on and on.");
  });
});

describe("power and time", () => {
  it("a wheel without lag: the ramp gives its dead power and its slope back", () => {
    const duties = Array.from({ length: 121 }, (_, i) => (i <= 60 ? i : 120 - i) / 100);
    const speeds = duties.map((duty) => Math.max(0, 0.9 * (duty - 0.1234)));
    const ramp = powerRamp(duties, speeds);
    near(ramp?.deadDuty, 0.1234);
    near(ramp?.slopeMS, 0.9);
    near(ramp?.rSquared, 1);
  });

  it("typed pull-away powers become volts by the pack that gave them", () => {
    const robot = demoRobot("fog");
    const rows = [0.2, 0.22, 0.21].map((share) => row({ left: share, right: share + 0.05, volts: 7.4 }));
    const found = estimated("pull-away", robot, rows);
    near(found.value("left"), 0.21);
    near(found.value("right"), 0.26);
    // The bridge loses its share of the pack's 7.4 V on both sides alike.
    const [left, right] = found.robot.motors.map(({ pullAwayVolts }) => pullAwayVolts?.value ?? 0);
    expect(left).toBeGreaterThan(0.9);
    expect(left).toBeLessThan(0.21 * 7.4);
    near((right ?? 0) / (left ?? 1), 0.26 / 0.21);
    expect(found.verdict.text).toContain("The sides differ by 5 %");
  });

  it("timed turns of 120 deg/s after 50 ms: 90 deg take 0.8 s", () => {
    const rows = [0.4, 0.7, 1.0].map((timeSec) => row({ timeSec, angleRad: 120 * DEG * (timeSec - 0.05), volts: 7.4 }));
    const found = estimated("timed-turn", demoRobot("fog"), rows);
    near(found.value("rate"), 120 * DEG);
    near(found.value("next"), 0.8);
    expect(found.verdict.title).toBe("Try 0.80 s for 90 deg");
    near(found.robot.drive.turnsWithRadS?.value, 120 * DEG);
    near(found.robot.drive.turnsAfterSec?.value, 0.05);
  });

  it("speed at power: 90 mm/s for each volt beyond 0.5 V, after 80 ms", () => {
    const rows = [4, 5, 6].flatMap((volts) =>
      [1, 2, 3].map((timeSec) => row({ volts, timeSec, alongM: 0.09 * (volts - 0.5) * (timeSec - 0.08) })),
    );
    const found = estimated("speed-at-power", demoRobot("fog"), rows);
    near(found.value("speed"), 0.09);
    near(found.value("still"), 0.5);
    near(found.value("dead"), 0.08);
    near(found.robot.drive.speedAtPower?.speedPerVolt.value, 0.09);
  });

  it("stops of 2 m/s/s after 40 ms: 34.5 mm from 30 cm/s", () => {
    const rows = [0.1, 0.2, 0.3].map((speedMS) => row({ speedMS, distanceM: 0.04 * speedMS + speedMS ** 2 / 4 }));
    const found = estimated("stopping", demoRobot("drizzle"), rows);
    near(found.value("deceleration"), 2);
    near(found.value("lead"), 0.04);
    near(found.value("at30"), 0.0345);
    near(found.robot.drive.stopsWithMS2?.value, 2);
  });

  it("a tired pack: 8 cm/s and 12 mm for each volt", () => {
    const rows = [8.2, 8, 7.2, 7].map((volts) =>
      row({ volts, timeSec: 2, alongM: 2 * (0.4 + 0.08 * (volts - 7)), asideM: -0.012 * (volts - 7) }),
    );
    const found = estimated("battery", demoRobot("drizzle"), rows);
    near(found.value("speed"), 0.08);
    near(found.value("aside"), -0.012);
    expect(found.verdict.title).toBe("One volt less makes it 8.0 cm/s slower at 70 % power");
    expect(found.verdict.text).toContain("12 mm to the left for each volt less");
    near(found.robot.drive.speedMSPerVolt?.value, 0.08);
    expect(procedure("battery").estimate(demoRobot("drizzle"), rows.slice(0, 1), {})).toMatchObject({ ok: false });
  });

  it("steering 1.2 deg to the left of straight, and the circle R = L / tan of the most it steers", () => {
    const robot = demoRobot("sleet");
    const { steering } = robotInForce(robot);
    if (!steering || robot.drive.kind !== "car") throw new Error("Sleet steers");
    const base = steering.wheelbaseM.value;
    const { mostRad } = robot.drive.steering;
    const rows = [-1, -0.5, 0, 0.5, 1].map((share) => {
      const told = share * mostRad;
      // An arc of 40 cm by the angle it really takes.
      const bend = Math.tan(told + 1.2 * DEG) / base;
      return row({ steerRad: told, alongM: Math.sin(0.4 * bend) / bend, asideM: (1 - Math.cos(0.4 * bend)) / bend });
    });
    const found = estimated("steering", robot, rows);
    near(found.value("centre"), 1.2 * DEG);
    near(found.value("circle"), (2 * base) / Math.tan(mostRad));
    near(robotInForce(found.robot).steering?.centreRad.value, 1.2 * DEG);
  });
});

describe("what sensors see", () => {
  it("floor light: 10 % and 70 %, the pale one scattering twice as much, part at 30 %", () => {
    const levels = [
      [0.09, 0.68],
      [0.11, 0.72],
    ];
    const rows = levels.map(([dark, pale]) => row({ dark: dark ?? 0, pale: pale ?? 0 }));
    const found = estimated("floor-light", demoRobot("drizzle"), rows);
    near(found.value("dark"), 0.1);
    near(found.value("pale"), 0.7);
    near(found.value("threshold"), 0.1 + 0.6 / 3);
    const floor = found.robot.sensors.find(({ kind }) => kind === "floor");
    near(floor?.kind === "floor" ? floor.dark.value : undefined, 0.3);
  });

  it("a distance sensor that reads 14 mm too far at every distance", () => {
    const robot = demoRobot("drizzle");
    const eye = robot.sensors.find(({ kind }) => kind === "eye");
    const now = eye?.kind === "eye" && eye.offsetM.source !== "drawing" ? eye.offsetM.value : 0;
    const rows = [0.1, 0.2, 0.4, 0.7].map((trueM) => row({ trueM, readM: trueM + 0.014 }));
    const found = estimated("eye-distance", robot, rows);
    near(found.value("offset"), now + 0.014);
    expect(found.verdict.text).toContain("For each 10 cm it reads 100.0 mm.");
  });

  it("a distance sensor's limits lie in the middle between what it read and what it did not", () => {
    const robot = demoRobot("sleet");
    const eye = robot.sensors.find(({ kind }) => kind === "eye");
    if (eye?.kind !== "eye") throw new Error("Sleet has a distance sensor");
    const boards = [
      { trueM: 0.12, slantRad: 0, readM: 0.12, seen: 1 },
      { trueM: 0.036, slantRad: 0, readM: 0.036, seen: 1 },
      { trueM: 0.028, slantRad: 0, readM: 0.032, seen: 1 },
      { trueM: 0.3, slantRad: 40 * DEG, readM: 0.3, seen: 0.98 },
      { trueM: 0.3, slantRad: 46 * DEG, readM: 3, seen: 0.01 },
    ];
    const found = estimated("eye-limits", robot, boards.map(row));
    near(found.value("near"), 0.032);
    near(found.value("silent"), 43 * DEG);
  });

  it("an arm of 118 deg from stop to stop, safe 3 deg from either", () => {
    const rows = [117, 118, 119].map((deg) => row({ rangeRad: deg * DEG, playRad: null }));
    const found = estimated("arm-travel", demoRobot("drizzle"), rows);
    near(found.value("range"), 118 * DEG);
    near(found.value("safe"), 112 * DEG);
    near(found.robot.attachments[0]?.travelRad?.value, 118 * DEG);
  });
});

describe("placing", () => {
  const placed = [
    [4, 0, 2],
    [-4, 0, -2],
    [0, 4, 2],
    [0, -4, -2],
  ].map(([x = 0, y = 0, deg = 0]) => row({ alongM: x / 1000, asideM: y / 1000, headingRad: deg * DEG }));

  it("is the scatter of rows less the tape's own: s² = Σ/(n − 1) − 1 mm²", () => {
    const found = estimated("placement", demoRobot("drizzle"), placed);
    // Each way Σ = 32 mm² over 3; headings Σ = 16 deg² over 3, less 0.25 deg².
    near(found.value("position"), Math.sqrt(32 / 3 - 1) / 1000);
    near(found.value("heading"), Math.sqrt(16 / 3 - 0.25) * DEG);
    near(robotInForce(found.robot).placementRad, Math.sqrt(16 / 3 - 0.25) * DEG);
    expect(found.verdict.title).toContain("Put down by eye");
  });

  it("remembers how: by eye, in a jig, against a wall", () => {
    const robot = demoRobot("drizzle");
    expect(placedBy(robot)).toBe("eye");
    PLACED_BY.forEach((by, how) => {
      const found = procedure("placement").estimate(robot, placed, { how });
      if (!found.ok) throw new Error(found.why);
      const known = applyEstimate(robot, found.edits, { ...HOW, method: found.method ?? "" });
      expect(placedBy(known)).toBe(by);
      expect(procedure("placement").placing?.({ how })).toBe(by);
    });
  });

  it("never says less than the tape can tell", () => {
    const same = Array.from({ length: 9 }, () => row({ alongM: 0.001, asideM: 0.002, headingRad: 0.01 }));
    const found = estimated("placement", demoRobot("drizzle"), same, { how: 1 });
    // √(2/8) of the tape's variance: 0.5 mm² and 0.125 deg².
    near(found.value("position"), Math.sqrt(0.5) / 1000);
    near(found.value("heading"), Math.sqrt(0.125) * DEG);
    expect(found.verdict.text).toContain("9 rows cannot tell less than 0.7 mm and 0.4 deg.");
    expect(found.verdict.text).not.toContain("A jig or a wall");
  });
});

describe("the place a run begins", () => {
  const robot = demoRobot("drizzle");

  it("has what the procedure looks at, where it says", () => {
    expect(stageField({ floor: "open", aheadM: 0 }, robot).walls).toEqual(openFloor().walls);
    const stripe = stageField({ floor: "stripe", aheadM: 0.25 }, robot);
    expect(stripe.marks.length).toBe(1);
    const board = stageField({ floor: "board", aheadM: 0.4, slantRad: 30 * DEG }, robot);
    expect(board.walls.length).toBe(1);
    const [wall] = board.walls;
    if (!wall) throw new Error("no board");
    const [dx, dy] = [wall.toM[0] - wall.fromM[0], wall.toM[1] - wall.fromM[1]];
    // A board square on lies across; turned by 30 deg it has sin 30 of its length along the view.
    expect(Math.abs(Math.abs(dx) / Math.hypot(dx, dy) - 0.5)).toBeLessThan(1e-9);
  });
});
