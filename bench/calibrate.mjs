// @ts-nocheck: figures for people, checked by running it
// The test of the whole: hidden truths calibrated by the application's own procedures, and what that is good for.
// `node bench/calibrate.mjs [truths] [seeds for coverage]`
import { readFileSync } from "node:fs";
import { applyEstimate, readField, readRobot, robotInForce } from "@giddy-pebble/core";
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
/** How often a mission's program ends by itself, with its goal met as the tape sees it for missions that come home. */
function homeMm(standIn, believed, name) {
  const end = meanEnd(standIn, mission(name), believed, 5, fellside);
  return Math.hypot(end.alongM, end.asideM) * 1000;
}

const pad = (value, width = 8) => String(value).padStart(width);
console.log(`Drizzle as drawn, ${truths} hidden truths; means of ten runs from the measured begin`);
console.log(
  "          return error, mm          2 m drive after: along, aside  90 deg turn   First roll out   Beacon and back",
);
console.log(
  "  seed   before   after  factor            mm       mm               deg        home, mm: before, after of each",
);
let good = 0;
for (let seed = 1; seed <= truths; seed += 1) {
  const standIn = new StandIn(robot, seed);
  standIn.changePack(0.9);
  const before = returnError(standIn, robot);
  const homes = MISSIONS.slice(0, 2).map((name) => homeMm(standIn, robot, name));
  const { robot: known } = calibrateWhole(standIn, robot);
  standIn.changePack(0.9);
  const after = returnError(standIn, known);
  const drives = checkDrives(standIn, known);
  const homesAfter = MISSIONS.slice(0, 2).map((name) => homeMm(standIn, known, name));
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

console.log(`\nStated 95 % intervals that hold the truth, ${coverage} calibrations of each`);
const HOW = { method: "", conditions: "", measuredAt: "", count: 6 };
const TRUE_VALUES = {
  "wheel-size": (truth, own) => own.left.rollPerTurnM.value * ((truth.rollLeft + truth.rollRight) / 2),
  "straight-driving": (truth) => 1 - truth.rollRight / truth.rollLeft,
  "turning-width": (truth, own) => own.trackWidthM.value * truth.trackWidth,
  "gyro-scale": (truth) => (truth.gyroScale + truth.gyroScaleClockwise) / 2,
  "gyro-rest": (truth) => truth.gyroRestRadS,
};
const BEFORE = { "straight-driving": ["turning-width"], "turning-width": ["wheel-size"] };
const only = process.argv[4]?.split(",");
for (const odd of [false, true]) {
  const own = robotInForce(robot);
  const share = Object.entries(TRUE_VALUES)
    .filter(([id]) => !only || only.includes(id))
    .map(([id, trueValue]) => {
      let held = 0;
      for (let seed = 1; seed <= coverage; seed += 1) {
        const standIn = new StandIn(robot, 10_000 + seed, odd);
        standIn.changePack(0.9);
        // In the order people measure: a width found by spins is as long or short as the wheels it was reckoned by,
        // and straightness rests on the width.
        let believed = robot;
        for (const earlier of BEFORE[id] ?? []) {
          const found = carryOut(standIn, earlier, believed);
          if (found.ok) believed = applyEstimate(believed, found.edits, HOW);
        }
        const estimate = carryOut(standIn, id, believed);
        const truth = trueValue(dealTruth(robot, 10_000 + seed, odd), own);
        const found = estimate.ok ? estimate.results[0].estimate : null;
        if (found && found.low <= truth && truth <= found.high) held += 1;
      }
      return `${id} ${((100 * held) / coverage).toFixed(1)} %`;
    });
  console.log(`  ${odd ? "with" : "without"} the effects no estimator models: ${share.join(", ")}`);
}
