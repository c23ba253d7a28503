// @ts-nocheck: figures for people, checked by running it
// The test of the whole: hidden truths calibrated by the application's own procedures, and what that is good for.
// `node bench/calibrate.mjs [truths] [seeds for coverage] [procedures, by commas]`
import { readFileSync } from "node:fs";
import {
  applyEstimate,
  beginOf,
  composePoses,
  parseMission,
  poseAt,
  prepareMission,
  procedureOf,
  readField,
  readRobot,
  rehearse,
  robotInForce,
} from "@giddy-pebble/core";
import { calibrateWhole, carryOut, checkDrives, dealTruth, meanEnd, returnError, StandIn } from "@giddy-pebble/device";

const [truths = 20, coverage = 200] = process.argv.slice(2).map(Number);
const demo = (file) => JSON.parse(readFileSync(new URL(`../demo/${file}`, import.meta.url), "utf8"));
const mission = (name) => readFileSync(new URL(`../demo/missions/${name}.cairn`, import.meta.url), "utf8");
const document = (read) => {
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
};
const drizzle = document(readRobot(demo("drizzle.robot.json")));
const fellside = document(readField(demo("fellside.field.json")));
// A new robot: everything as drawn.
const drawn = (known) => ({ ...known, source: "drawing", standardError: null, count: 0 });
const robot = {
  ...drizzle,
  drive: { ...drizzle.drive, trackWidthM: drawn(drizzle.drive.trackWidthM) },
  wheels: drizzle.wheels.map((wheel) => ({ ...wheel, rollPerTurnM: drawn(wheel.rollPerTurnM) })),
  sensors: drizzle.sensors.map((sensor) =>
    sensor.kind === "gyro" ? { ...sensor, scale: drawn(sensor.scale), restRadS: drawn(sensor.restRadS) } : sensor,
  ),
};

const MISSIONS = ["first-roll-out", "beacon-and-back", "trail-to-the-mast"];
/** How far from where the ideal rehearsal ends the tape finds the robot, mean of five runs. */
function missedMm(standIn, believed, name) {
  const text = mission(name);
  const end = meanEnd(standIn, text, believed, 5, fellside);
  const { trace } = rehearse(prepareMission(text, believed, fellside), { seed: 1, ideal: true });
  const planned = poseAt(trace, Number.POSITIVE_INFINITY);
  const begin = beginOf(parseMission(text), fellside);
  const found = composePoses(begin, { xM: end.alongM, yM: end.asideM, headingRad: end.headingRad });
  return Math.hypot(found.xM - planned.xM, found.yM - planned.yM) * 1000;
}

const pad = (value, width = 8) => String(value).padStart(width);
console.log(`Drizzle as drawn, ${truths} hidden truths; means of ten runs from the measured begin`);
console.log(
  "          return error, mm          2 m drive after: along, aside  90 deg turn   First roll out  Beacon and back  Trail to the mast",
);
console.log(
  "  seed   before   after  factor            mm       mm               deg        mm off the plan: before, after of each",
);
let good = 0;
for (let seed = 1; seed <= truths; seed += 1) {
  const standIn = new StandIn(robot, seed);
  standIn.changePack(0.9);
  const before = returnError(standIn, robot);
  const homes = MISSIONS.map((name) => missedMm(standIn, robot, name));
  const { robot: known } = calibrateWhole(standIn, robot);
  standIn.changePack(0.9);
  const after = returnError(standIn, known);
  const drives = checkDrives(standIn, known);
  const homesAfter = MISSIONS.map((name) => missedMm(standIn, known, name));
  const passed =
    before / after >= 10 &&
    Math.abs(drives.alongMm) <= 5 &&
    Math.abs(drives.asideMm) <= 8 &&
    Math.abs(drives.turnDeg) <= 1;
  if (passed) good += 1;
  console.log(
    `${pad(seed, 6)} ${pad((before * 1000).toFixed(0))} ${pad((after * 1000).toFixed(1))} ${pad((before / after).toFixed(0))} ${pad(drives.alongMm.toFixed(1), 14)} ${pad(drives.asideMm.toFixed(1))} ${pad(drives.turnDeg.toFixed(2), 17)} ${homes.map((home, i) => `${pad(home.toFixed(0), 9)} ${pad(homesAfter[i].toFixed(0), 4)}`).join(" ")}${passed ? "" : "   beyond a limit"}`,
  );
}
console.log(`${good} of ${truths} within all limits (tenfold, 5 mm, 8 mm, 1 deg)`);

console.log(
  `\nStated 95 % intervals that hold the truth, ${coverage} calibrations of each, without and with unmodelled effects`,
);
const sleet = document(readRobot(demo("sleet.robot.json")));
/** What each procedure's first result should hold, from the hidden truth; on which robot; and what is measured before. */
const COVERED = {
  "wheel-size": { truth: (truth, own) => own.left.rollPerTurnM.value * ((truth.rollLeft + truth.rollRight) / 2) },
  "straight-driving": { truth: (truth) => 1 - truth.rollRight / truth.rollLeft, before: ["turning-width"] },
  "turning-width": { truth: (truth, own) => own.trackWidthM.value * truth.trackWidth, before: ["wheel-size"] },
  square: {
    result: "width",
    truth: (truth, own) => own.trackWidthM.value * truth.trackWidth,
    before: ["wheel-size"],
  },
  "gyro-scale": { truth: (truth) => (truth.gyroScale + truth.gyroScaleClockwise) / 2 },
  "gyro-rest": { truth: (truth) => truth.gyroRestRadS },
  "eye-distance": { truth: (truth) => truth.eyeOffsetsM.get("eye") },
  "eye-limits": {
    on: sleet,
    result: "near",
    truth: (truth) => 0.03 * truth.eyeLimits.get("side_eye").near,
    before: ["eye-distance"],
  },
  steering: { on: sleet, truth: (truth) => truth.steeringRad },
};
const only = process.argv[4]?.split(",");
for (const odd of [false, true]) {
  for (const [id, { truth, on = robot, before = [], result }] of Object.entries(COVERED)) {
    if (only && !only.includes(id)) continue;
    let held = 0;
    let stated = 0;
    for (let seed = 1; seed <= coverage; seed += 1) {
      const standIn = new StandIn(on, 10_000 + seed, odd);
      standIn.changePack(0.9);
      // In the order people measure: a width found by spins is as long or short as the wheels it was reckoned by,
      // and straightness rests on the width.
      let believed = on;
      for (const earlier of before) {
        const found = carryOut(standIn, earlier, believed);
        const count = procedureOf(earlier).rowsWanted;
        const how = { method: "", conditions: "", measuredAt: "", count };
        if (found.ok) believed = applyEstimate(believed, found.edits, how);
      }
      const estimate = carryOut(standIn, id, believed);
      const value = truth(dealTruth(on, 10_000 + seed, odd), robotInForce(on));
      const results = estimate.ok ? estimate.results : [];
      const found = (result ? results.find((one) => one.id === result) : results[0])?.estimate;
      // Fewer than three rows at a limit give a value without an interval.
      if (!found || found.low === null) continue;
      stated += 1;
      if (found.low <= value && value <= found.high) held += 1;
    }
    console.log(`  ${odd ? "with" : "without"} ${id} ${((100 * held) / stated).toFixed(1)} % of ${stated}`);
  }
}
