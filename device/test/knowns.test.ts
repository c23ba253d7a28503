// What calibrating finds is used: a stand-in measured by the application's procedures then does what it is asked.
import {
  addPart,
  applyEstimate,
  driveModel,
  type Estimate,
  foundValue,
  nearLimitM,
  PI,
  procedureOf,
  type Robot,
  robotInForce,
  rollingN,
  setPartValue,
  silentRad,
  tagReferences,
} from "@giddy-pebble/core";
import { beforeAll, describe, expect, it } from "vitest";
import { calibrateWhole, carryOut, dealTruth, meanEnd, measureRow, StandIn, trueRobot } from "../src/index.js";
import { demoRobot } from "./support.js";

const HOW = { method: "test", conditions: "", measuredAt: "2026-11-23T12:00:00Z", count: 6 };
const DEG = PI / 180;

function good(estimate: Estimate): Extract<Estimate, { ok: true }> {
  if (!estimate.ok) throw new Error(estimate.why);
  return estimate;
}

function measured(standIn: StandIn, robot: Robot, id: string, rows?: number): Robot {
  return applyEstimate(robot, good(carryOut(standIn, id, robot, rows)).edits, HOW);
}

describe("a robot without encoders", () => {
  const drawn = demoRobot("fog");
  const text = (step: string) => `cairn 1\nrobot "Fog"\nmission\n  wait 0.5 s\n  ${step}\n  wait 0.5 s\n`;
  const standIn = new StandIn(drawn, 6);
  let lengths: Robot;
  let whole: Robot;
  beforeAll(() => {
    standIn.changePack(0.9);
    lengths = measured(standIn, drawn, "speed-at-power");
    whole = measured(standIn, lengths, "timed-turn", 6);
  });

  it("drives lengths within 2 % by volts, dead volts and dead time", () => {
    for (const lengthM of [0.4, 1]) {
      const end = meanEnd(standIn, text(`go ${lengthM} m`), lengths, 4);
      expect(Math.abs(end.alongM / lengthM - 1)).toBeLessThan(0.02);
    }
  });

  it("turns within 4 deg by time, where it was further off before", () => {
    const before = meanEnd(standIn, text("turn left 90 deg"), lengths, 4);
    const after = meanEnd(standIn, text("turn left 90 deg"), whole, 4);
    expect(Math.abs(after.headingRad / DEG - 90)).toBeLessThan(4);
    expect(Math.abs(after.headingRad / DEG - 90)).toBeLessThan(Math.abs(before.headingRad / DEG - 90));
    // To the other side, and further round, by the same line.
    const other = meanEnd(standIn, text("turn right 120 deg"), whole, 4);
    expect(Math.abs(other.headingRad / DEG + 120)).toBeLessThan(7);
  });

  it("takes the power its turns were driven with, whatever version of the robot is open by then", () => {
    const procedure = procedureOf("timed-turn");
    if (!procedure) throw new Error("no procedure");
    const rows = [0, 1, 2].map((i) => measureRow(standIn, procedure, lengths, {}, i));
    const other = setPartValue(lengths, "drive", "speedAtPower.speedPerVolt", 0.2);
    const volts = [lengths, other].map(
      (robot) => good(procedure.estimate(robot, rows, {})).edits.find(({ path }) => path === "turnVolts")?.value,
    );
    expect(volts[0]).toBeGreaterThan(2);
    expect(volts[1]).toBe(volts[0]);
  });

  it("keeps what it turns by when the pack is tired", () => {
    standIn.changePack(0.35);
    const end = meanEnd(standIn, text("turn left 90 deg"), whole, 4);
    standIn.changePack(0.9);
    expect(Math.abs(end.headingRad / DEG - 90)).toBeLessThan(6);
  });
});

describe("pull-away power", () => {
  const drawn = demoRobot("drizzle");
  const standIn = new StandIn(drawn, 5, false);
  standIn.changePack(0.9);
  const found = good(carryOut(standIn, "pull-away", drawn));

  it("is that of the hidden friction, by the closed form V = F R r / (kt G η)", () => {
    const known = applyEstimate(drawn, found.edits, HOW);
    const truth = trueRobot(drawn, drawn, dealTruth(drawn, 5, false));
    const model = driveModel(truth);
    for (const side of ["left", "right"] as const) {
      const volts = foundValue(robotInForce(known)[side].motor.pullAwayVolts) ?? 0;
      const expected = model[side].frictionN * model[side].voltsPerNewton;
      // On an even floor: half a degree of tilt alone would be a tenth of this friction.
      expect(Math.abs(volts / expected - 1)).toBeLessThan(0.05);
    }
  });

  it("becomes the friction that steps reckon with", () => {
    const known = applyEstimate(drawn, found.edits, HOW);
    const volts = foundValue(robotInForce(known).left.motor.pullAwayVolts) ?? 0;
    const { left } = driveModel(known);
    expect(left.frictionN * left.voltsPerNewton).toBeCloseTo(volts, 6);
    expect(left.frictionN).toBeGreaterThan(rollingN(known, robotInForce(known).left));
  });

  it("is shown with where the wheels stop and how speed follows power", () => {
    expect(found.results.map(({ id }) => id)).toEqual([
      "left",
      "left-down",
      "left-slope",
      "right",
      "right-down",
      "right-slope",
    ]);
    expect(found.verdict.text).toMatch(/V left.*V right.*explains \d+ %/);
  });
});

describe("stopping", () => {
  const drawn = demoRobot("drizzle");
  const standIn = new StandIn(drawn, 8);
  standIn.changePack(0.9);

  it("is read by missions, which then stop where they are told to", () => {
    const known = measured(standIn, drawn, "stopping");
    const to = (margin: string) =>
      `cairn 1\nrobot "Drizzle"\nmission\n  wait 0.5 s\n  wheels left 35 cm/s right 35 cm/s until robot.travel > 60 cm${margin} then keep\n  stop\n  wait 0.8 s\n`;
    const late = meanEnd(standIn, to(""), known, 4).alongM;
    const there = meanEnd(standIn, to(" - robot.stop_distance"), known, 4).alongM;
    // What its wheels are off by is in both; what lies between them is what it rolled on at 35 cm/s.
    const said = procedureOf("stopping")?.present(known)[0]?.estimate.value ?? 0;
    const lead = foundValue(known.drive.stopsAfterSec) ?? 0;
    expect(Math.abs(late - there - (0.35 * lead + 0.35 ** 2 / (2 * said)))).toBeLessThan(0.004);
    expect(late - there).toBeGreaterThan(0.01);
  });
});

describe("an arm", () => {
  it("is sent no further than its stops were found apart", () => {
    const drawn = demoRobot("drizzle");
    const standIn = new StandIn(drawn, 5);
    const known = measured(standIn, drawn, "arm-travel");
    const truth = trueRobot(drawn, drawn, dealTruth(drawn, 5)).attachments[0]?.travelRad?.value ?? 0;
    expect(foundValue(known.attachments[0]?.travelRad ?? null)).toBeCloseTo(truth, 2);
    expect(foundValue(drawn.attachments[0]?.travelRad ?? null)).toBeNull();
  });

  it("has a play only where somebody marked it", () => {
    const arm = procedureOf("arm-travel");
    const robot = demoRobot("drizzle");
    const rows = [1, 1.2, 0.9].map((play) => ({ values: { rangeRad: 2, playRad: play * DEG }, struck: false }));
    const typed = good(arm?.estimate(robot, rows, {}) as Estimate);
    expect(typed.edits.map(({ path }) => path)).toEqual(["travelRad", "playRad"]);
    expect(typed.verdict.text).toContain("from one side always");
    const without = rows.map((row) => ({ ...row, values: { rangeRad: 2 } }));
    expect(good(arm?.estimate(robot, without, {}) as Estimate).edits.map(({ path }) => path)).toEqual(["travelRad"]);
  });
});

describe("a distance sensor", () => {
  it("is found to read wrong where its hidden limit is, and to fall silent at its hidden slant", () => {
    const drawn = demoRobot("sleet");
    const standIn = new StandIn(drawn, 5);
    const known = measured(standIn, measured(standIn, drawn, "eye-distance"), "eye-limits");
    const eyes = [known, trueRobot(drawn, drawn, dealTruth(drawn, 5))].map((robot) => {
      const eye = robot.sensors.find((sensor) => sensor.kind === "eye");
      if (eye?.kind !== "eye") throw new Error("no distance sensor");
      return { near: nearLimitM(eye), silent: silentRad(eye) };
    });
    const [found, truth] = eyes as [(typeof eyes)[0], (typeof eyes)[0]];
    expect(Math.abs(found.near - truth.near)).toBeLessThan(0.0015);
    // Boards stand at whole steps of 3 to 4 deg.
    expect(Math.abs(found.silent - truth.silent)).toBeLessThan(4 * DEG);
  });
});

describe("a tag reader", () => {
  const fitted = addPart(demoRobot("drizzle"), "tag").robot;
  // Under the tail, where neither bumper nor arm is in the way.
  const drawn = ["xM", "zM"].reduce((robot, path, i) => setPartValue(robot, "tag", path, [-0.06, 0.008][i]), fitted);
  const standIn = new StandIn(drawn, 5);

  it("learns its plates as it sees them itself, and tells all of them apart", () => {
    const found = good(carryOut(standIn, "tag-colours", drawn));
    expect(found.verdict.title).toBe("12 of 12 looks are named right");
    expect(found.table?.rows).toHaveLength(5);
    expect(found.table?.rows[1]).toEqual(["red", "3", "0", "0", "0"]);
    const known = applyEstimate(drawn, found.edits, HOW);
    const tag = known.sensors.find((sensor) => sensor.kind === "tag");
    if (tag?.kind !== "tag") throw new Error("no tag reader");
    expect(Object.keys(tag.references).sort()).toEqual(["blue", "green", "red", "yellow"]);
    expect(tagReferences(tag)).toHaveLength(4);
    // Its own lamp and filters stand in them: a plate's red over what is printed is the hidden gain.
    const gain = dealTruth(drawn, 5).tagGains.get("tag")?.[0] ?? 1;
    const printed = 0.578; // linear red of the red plate, #C8352B
    expect(Math.abs((tag.references.red?.red.value ?? 0) / printed / gain - 1)).toBeLessThan(0.04);
  });

  it("doubts a row whose plate was another", () => {
    const procedure = procedureOf("tag-colours");
    if (!procedure) throw new Error("no procedure");
    const rows = Array.from({ length: 12 }, (_, i) => measureRow(standIn, procedure, drawn, { plates: 4 }, i));
    const swapped = rows.map((row, i) => (i === 4 ? { ...row, values: { ...row.values, plate: 7 } } : row));
    const found = good(procedure.estimate(drawn, swapped, { plates: 4 }));
    expect(found.doubtful.map(({ row }) => row)).toContain(4);
    expect(found.verdict.title).not.toBe("12 of 12 looks are named right");
  });
});

describe("turns by the gyro", () => {
  it("end as much early as they were found to end past, and only when that is clear", () => {
    const robot = demoRobot("drizzle");
    const procedure = procedureOf("turn-by-gyro");
    const rows = (past: number) =>
      Array.from({ length: 12 }, (_, i) => {
        const rateRadS = ([40, 80, 120, 160][i % 4] as number) * DEG;
        // Scatter of ±0.2 deg that has no line in it.
        const scatter = ((i % 3) - 1) * 0.2;
        return { values: { rateRadS, turnedRad: (90 + past + scatter) * DEG }, struck: false };
      });
    const clear = good(procedure?.estimate(robot, rows(1.5), { wishedRad: DEG }) as Estimate);
    const known = applyEstimate(robot, clear.edits, HOW);
    expect(driveModel(known).turnPastRad / DEG).toBeCloseTo(1.5, 6);
    expect(driveModel(known).turnRadS / DEG).toBeCloseTo(160, 6);
    // Measured again with that in use, what is left comes on top.
    const again = good(procedure?.estimate(known, rows(-0.5), { wishedRad: DEG }) as Estimate);
    expect(driveModel(applyEstimate(known, again.edits, HOW)).turnPastRad / DEG).toBeCloseTo(1, 6);
    const none = good(procedure?.estimate(robot, rows(0), { wishedRad: DEG }) as Estimate);
    expect(none.edits.map(({ path }) => path)).toEqual(["turnRateRadS"]);
  });

  it("are shorter by that in the drive's own turns", () => {
    const robot = demoRobot("drizzle");
    const past = { ref: "drive", path: "turnPastRad", value: 3 * DEG, standardError: null };
    const standIn = new StandIn(robot, 3);
    const text = 'cairn 1\nrobot "Drizzle"\nmission\n  wait 0.5 s\n  turn left 90 deg\n  wait 0.5 s\n';
    const plain = meanEnd(standIn, text, robot, 3);
    const early = meanEnd(standIn, text, applyEstimate(robot, [past], HOW), 3);
    expect(Math.abs((plain.headingRad - early.headingRad) / DEG - 3)).toBeLessThan(0.8);
  });
});

describe("a robot with roller wheels", () => {
  const drawn = demoRobot("flurry");
  const text = (step: string) => `cairn 1\nrobot "Flurry"\nmission\n  wait 0.5 s\n  ${step}\n  wait 0.5 s\n`;

  it.each([3, 4, 9])(
    "slides 2 m within 5 mm once its sliding was measured, and was further off before: stand-in %i",
    (seed) => {
      const standIn = new StandIn(drawn, seed);
      const before = meanEnd(standIn, text("slide left 2 m at 20 cm/s"), drawn, 4);
      const order = ["gyro-rest", "gyro-scale", "wheel-size", "turning-width", "sliding"];
      const { robot } = calibrateWhole(standIn, drawn, order);
      const left = meanEnd(standIn, text("slide left 2 m at 20 cm/s"), robot, 6);
      const right = meanEnd(standIn, text("slide right 2 m at 20 cm/s"), robot, 6);
      expect(Math.abs(left.asideM - 2)).toBeLessThan(0.005);
      expect(Math.abs(right.asideM + 2)).toBeLessThan(0.005);
      expect(Math.abs(before.asideM - 2)).toBeGreaterThan(0.02);
      // What was hidden is found: the share within half a percent, and the way ahead and round with it.
      expect(robotInForce(robot).slideShare?.value).toBeCloseTo(dealTruth(drawn, seed).slide, 2);
      const go = meanEnd(standIn, text("go 1 m"), robot, 4);
      expect(Math.abs(go.alongM - 1)).toBeLessThan(0.005);
    },
  );

  it("is not asked to slide when its wheels cannot, and says so", () => {
    expect(procedureOf("sliding")?.unfit(demoRobot("drizzle"))).toBe("Only a drive with roller wheels slides.");
    expect(procedureOf("sliding")?.unfit(drawn)).toBeNull();
    expect(procedureOf("steering")?.unfit(drawn)).not.toBeNull();
  });

  it("doubts a tape that has its sides swapped", () => {
    const standIn = new StandIn(drawn, 5);
    const procedure = procedureOf("sliding");
    if (!procedure) throw new Error("no procedure");
    const rows = [0, 1].map((i) => measureRow(standIn, procedure, drawn, { lengthM: 0.5 }, i));
    const turned = rows.map((row) => ({ ...row, values: { ...row.values, asideM: -(row.values.asideM ?? 0) } }));
    const estimate = procedure.estimate(drawn, turned, {});
    expect(estimate.ok ? "" : estimate.why).toContain("look at the signs");
  });
});
