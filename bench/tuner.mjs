// The line tuner on made courses: what a plain step at 14 cm/s does, what the tuner's best does, both in runs with seeds
// that the tuner never saw: how many hold the line, and the median time.
//   node bench/tuner.mjs [runs of the proof] [--each RUNS] [--only COURSE]
import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import * as core from "../core/dist/index.js";
import { COURSES, courseField, lengths } from "./courses.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { only: { type: "string" }, each: { type: "string", default: "3" } },
});
const runs = Number(positionals[0] ?? 10);
const each = Number(values.each);
const opened = core.openRobot(JSON.parse(readFileSync(path.join(root, "demo/drizzle.robot.json"), "utf8")));
if (!opened.ok) throw new Error(opened.problems.join("; "));
const robot = opened.document;

let better = 0;
let all = 0;
process.stdout.write(
  `of ${runs} runs: held, median seconds${"".padEnd(8)}as written at 14 cm/s      the tuner's best\n`,
);
for (const course of Object.keys(COURSES)) {
  if (values.only && !course.startsWith(values.only)) continue;
  const made = courseField(course, 3);
  const read = core.openField({ ...made.field, begins: [{ ...made.field.begins[0], yM: made.begin.yM }] });
  if (!read.ok) throw new Error(read.problems.join("; "));
  const field = read.document;
  // The course's end, less what the sensor sees ahead.
  const way = /** @type {number} */ (lengths(made.way).at(-1)) - 0.2;
  const text = `cairn 1\nrobot "Drizzle"\nfield "Course"\nbegin "start"\nmission\n  follow line on centre with floor at 14 cm/s until robot.travel > ${Math.round(way * 100)} cm limit 90 s\n`;
  const mission = core.parseMission(text);
  const step = core.lineSteps(mission)[0];
  if (!step) throw new Error("no step");
  const model = core.driveModel(robot);
  const now = core.lineSetting(mission, step, model);
  const floor = new core.FloorRaster(field);
  const { program } = core.prepareMission(mission, robot, field, floor);
  if (!program) throw new Error("the mission has errors");
  /** @param {import("@giddy-pebble/core").LineSetting} setting @param {number} count @param {number} seed */
  const cell = (setting, count, seed) => {
    const mission = core.runnable(core.withLineCode(program, step.line, setting), robot, field, floor);
    return core.lineCell(
      setting,
      Array.from({ length: count }, (_, i) => core.tuneRun(mission, step, core.runSeed(seed, i))),
    );
  };
  const best = core.bestCell(
    core
      .lineGrid(now, model)
      .flat()
      .map((setting) => cell(setting, each, 1)),
  );
  if (!best) throw new Error("no best");
  const [before, after] = [cell(now, runs, 999), cell(best, runs, 999)];
  all += 1;
  if (after.held > before.held || (after.held === before.held && after.ms < before.ms)) better += 1;
  const words = (/** @type {core.LineCell} */ one) =>
    `${String(one.held).padStart(3)}  ${(one.ms / 1000).toFixed(1).padStart(5)} s`;
  process.stdout.write(
    `${course.padEnd(38)}${words(before).padEnd(24)}${words(after)}  ${(best.speedMS * 100).toFixed(0)} cm/s, gain ${Math.round(best.gain * 100)} %\n`,
  );
}
process.stdout.write(`better on ${better} of ${all} courses\n`);
