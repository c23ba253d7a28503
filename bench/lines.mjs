// Line following on made courses: of so many runs how many pass the whole course, and the median time they take.
//   node bench/lines.mjs [runs] [--core FILE] [--only COURSE] [--sensor NAME] [--speed CM_S] [--tails "…"]
//   node bench/lines.mjs 20 --standins: the same on stand-in robots, each with hidden truths of its own, after its
//   calibration, at 20 cm/s with the pair.
import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";
import { parseArgs } from "node:util";
import { COURSES, courseField, Progress } from "./courses.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    core: { type: "string", default: path.join(root, "core/dist/index.js") },
    only: { type: "string" },
    sensor: { type: "string" },
    speed: { type: "string" },
    tails: { type: "string", default: "" },
    verbose: { type: "boolean", default: false },
    standins: { type: "boolean", default: false },
  },
});
const runs = Number(positionals[0] ?? 50);
/** @type {typeof import("../core/dist/index.js")} */
const core = await import(pathToFileURL(path.resolve(values.core)).href);

const drizzle = JSON.parse(readFileSync(path.join(root, "demo/drizzle.robot.json"), "utf8"));

/** @typedef {{ step: string, layout: string, count: number, spacingM: number, offM: number }} Variant */
/** @type {Record<string, Variant>} */
const SENSORS = {
  "left edge": { step: "on left edge with floor", layout: "single", count: 1, spacingM: 0.024, offM: 0.011 },
  "right edge": { step: "on right edge with floor", layout: "single", count: 1, spacingM: 0.024, offM: -0.011 },
  pair: { step: "on centre with floor", layout: "pair", count: 2, spacingM: 0.024, offM: 0 },
  row: { step: "on centre with floor", layout: "row", count: 5, spacingM: 0.012, offM: 0 },
};

/** @param {Variant} variant */
function robotWith({ layout, count, spacingM }) {
  const document = structuredClone(drizzle);
  const floor = document.sensors.find((/** @type {any} */ sensor) => sensor.kind === "floor");
  Object.assign(floor, { layout, count, spacingM });
  const read = core.readRobot(document);
  if (!read.ok) throw new Error(JSON.stringify(read));
  return read.document;
}

/** @param {string} course @param {Variant} variant @param {number} speed cm/s @param {number} seed */
function run(course, variant, speed, seed) {
  const robot = robotWith(variant);
  const made = courseField(course, seed);
  const begin = { ...made.field.begins[0], yM: made.begin.yM + variant.offM };
  const read = core.readField({ ...made.field, begins: [begin] });
  if (!read.ok) throw new Error(JSON.stringify(read));
  const text = `cairn 1\nrobot "Drizzle"\nfield "Course"\nbegin "start"\nmission\n  follow line ${variant.step} at ${speed} cm/s${values.tails} until clock > 90 s limit 95 s\n`;
  const prepared = core.prepareMission(text, robot, read.document);
  if (!prepared.program) throw new Error(JSON.stringify(prepared.check.problems));
  const rehearsal = new core.Rehearsal(prepared, { seed, ideal: false });
  const progress = new Progress(made.way);
  const ahead = robot.sensors.find(({ kind }) => kind === "floor")?.xM ?? 0;
  while (!rehearsal.done) {
    rehearsal.advance(2);
    const { xM, yM, headingRad } = core.robotPose(robot, rehearsal.run.body.world);
    const [sx, sy] = [xM + ahead * Math.cos(headingRad), yM + ahead * Math.sin(headingRad)];
    if (progress.see(sx, sy)) return { passed: true, sec: rehearsal.tick / 100, share: 1 };
  }
  return { passed: false, sec: rehearsal.tick / 100, share: progress.share };
}

/** One stand-in after its calibration, over all courses. @param {number} seed @returns {Promise<Record<string, boolean>>} */
async function standIn(seed) {
  const device = await import("@giddy-pebble/device");
  const variant = /** @type {Variant} */ (SENSORS.pair);
  const built = robotWith(variant);
  const robot = new device.StandIn(built, seed);
  const { robot: believed } = device.calibrateWhole(robot, built);
  /** @type {Record<string, boolean>} */
  const passed = {};
  for (const course of Object.keys(COURSES)) {
    const made = courseField(course, seed);
    const read = core.readField({ ...made.field, begins: [{ ...made.field.begins[0], yM: made.begin.yM }] });
    if (!read.ok) throw new Error(JSON.stringify(read));
    robot.changePack(0.6);
    robot.place(read.document, /** @type {any} */ (read.document.begins[0]), "eye");
    const text =
      'cairn 1\nrobot "Drizzle"\nfield "Course"\nbegin "start"\nmission\n  follow line on centre with floor at 20 cm/s until clock > 90 s limit 95 s\n';
    const started = robot.run(text, believed);
    if (!started.ok) throw new Error(started.why);
    const progress = new Progress(made.way);
    passed[course] = false;
    while (robot.running && !passed[course]) {
      robot.tick();
      const { world } = robot.running?.run.body ?? {};
      if (!world) break;
      const { xM, yM, headingRad } = core.robotPose(built, world);
      passed[course] = progress.see(xM + 0.065 * Math.cos(headingRad), yM + 0.065 * Math.sin(headingRad));
    }
    robot.halt("the course is over");
    while (robot.running) robot.tick();
  }
  return passed;
}

if (values.standins) {
  const all = [];
  for (let seed = 1; seed <= runs; seed += 1) all.push(await standIn(seed));
  process.stdout.write(`of ${runs} simulated robots, calibrated, the pair at 20 cm/s\n`);
  for (const course of Object.keys(COURSES))
    process.stdout.write(`${course.padEnd(15)}${String(all.filter((one) => one[course]).length).padStart(5)}\n`);
  process.exit(0);
}

/** @param {number[]} list */
const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
const speeds = values.speed ? [Number(values.speed)] : [10, 20, 30];
const courses = Object.keys(COURSES).filter((name) => !values.only || name.startsWith(values.only));
const sensors = Object.keys(SENSORS).filter((name) => !values.sensor || name === values.sensor);
process.stdout.write(
  `of ${runs} runs each: passed, median seconds\n${"".padEnd(28)}${speeds.map((v) => `${v} cm/s`.padStart(15)).join("")}\n`,
);
let all = 0;
let passedAll = 0;
for (const course of courses)
  for (const sensor of sensors) {
    let row = `${course.padEnd(15)}${sensor.padEnd(13)}`;
    const failed = [];
    for (const speed of speeds) {
      const results = Array.from({ length: runs }, (_, i) => ({
        i,
        ...run(course, /** @type {Variant} */ (SENSORS[sensor]), speed, i + 1),
      }));
      const passed = results.filter((result) => result.passed);
      all += runs;
      passedAll += passed.length;
      row +=
        `${String(passed.length).padStart(5)}  ${passed.length > 0 ? `${median(passed.map(({ sec }) => sec))?.toFixed(1)} s` : "–"}`
          .padEnd(15)
          .padStart(15);
      failed.push(...results.filter((r) => !r.passed).map((r) => `${speed}/${r.i + 1}@${Math.round(r.share * 100)}%`));
    }
    process.stdout.write(`${row}${values.verbose && failed.length > 0 ? `   ${failed.slice(0, 8).join(" ")}` : ""}\n`);
  }
process.stdout.write(`${passedAll} of ${all} passed\n`);
