// The missions of the demo on stand-in robots, each with hidden truths of its own, after its calibration: of so many
// stand-ins how many meet the goal, judged by where things truly are. In one table with rehearsals of the same mission.
//   node bench/standins.mjs [stand-ins] [--only MISSION]
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import * as core from "../core/dist/index.js";
import * as device from "../device/dist/index.js";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { only: { type: "string" }, verbose: { type: "boolean", default: false } },
});
const count = Number(positionals[0] ?? 10);

/** Procedures in the order people do them, by the kind of robot; those it has no parts for are left out. */
const ORDER = [
  "gyro-rest",
  "gyro-scale",
  "wheel-size",
  "straight-driving",
  "turning-width",
  "speed-at-power",
  "turn-by-gyro",
  "steering",
  "square",
  "stopping",
  "floor-light",
  "eye-distance",
];

/** @param {string} file */
const json = (file) => JSON.parse(readFileSync(path.join(root, "demo", file), "utf8"));
const fields = new Map(
  readdirSync(path.join(root, "demo"))
    .filter((file) => file.endsWith(".field.json"))
    .map((file) => {
      const opened = core.openField(json(file));
      if (!opened.ok) throw new Error(`${file}: ${opened.problems.join("; ")}`);
      return /** @type {const} */ ([opened.document.name, opened.document]);
    }),
);

/** @param {string} name */
function robotNamed(name) {
  const read = core.openRobot(json(`${name.toLowerCase()}.robot.json`));
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
}

/** @type {Map<string, { robot: import("@giddy-pebble/device").StandIn, believed: import("@giddy-pebble/core").Robot }>} */
const calibrated = new Map();

/** One stand-in, calibrated once for all missions. @param {string} name @param {number} seed */
function standIn(name, seed) {
  const key = `${name} ${seed}`;
  const known = calibrated.get(key);
  if (known) return known;
  const built = robotNamed(name);
  const robot = new device.StandIn(built, seed);
  let believed = built;
  for (const id of ORDER) {
    const procedure = core.procedureOf(id);
    if (!procedure || procedure.unfit(believed) !== null) continue;
    const settings = Object.fromEntries(procedure.settings.map((setting) => [setting.id, setting.value]));
    if (procedure.program(believed, settings, 0) === null) continue;
    const estimate = device.carryOut(robot, id, believed);
    if (estimate.ok)
      believed = core.applyEstimate(believed, estimate.edits, { method: id, conditions: "", measuredAt: "", count: 5 });
    else process.stderr.write(`${key}, ${id}: ${estimate.why}\n`);
  }
  const made = { robot, believed };
  calibrated.set(key, made);
  return made;
}

/** @param {string} text @param {number} seed */
function run(text, seed) {
  const mission = core.parseMission(text);
  const { robot, believed } = standIn(core.headerValue(mission, "robot") ?? "Drizzle", seed);
  const field = fields.get(core.headerValue(mission, "field") ?? "") ?? core.openFloor();
  const begin = core.beginOf(mission, field);
  robot.changePack(0.9);
  // Another table and back: the loads stand where the field has them.
  robot.place(
    core.openFloor(),
    core.beginOf(core.parseMission("cairn 1\nmission\n  wait 1 s\n"), core.openFloor()),
    "eye",
  );
  robot.place(field, begin, field.begins.find(({ name }) => name === begin.name)?.put ?? "eye");
  const started = robot.run(text, believed);
  if (!started.ok) throw new Error(started.why);
  const run = robot.running?.run;
  if (!run) throw new Error("it did not start");
  const buttons = believed.sensors.filter(({ kind }) => kind === "button").map(({ name }) => name);
  for (let tick = 0; robot.running; tick += 1) {
    for (const button of buttons) if (tick === 100 || tick === 130) robot.press(button, tick === 100);
    robot.tick();
  }
  if (values.verbose)
    for (const { step, text: words, startMs, endMs, endedBy } of robot.last?.summary.steps ?? [])
      process.stdout.write(`    ${step.padEnd(6)}${startMs / 1000} s to ${endMs / 1000} s  ${endedBy}  ${words}\n`);
  const why = robot.last?.summary.outcome === "stopped" ? robot.last.summary.reason : "";
  const failed = run.failedSeenBy(new core.FromAbove(run.body));
  return { met: why === "" && failed === "", why: why || failed };
}

const missions = readdirSync(path.join(root, "demo/missions"))
  .map((file) => file.replace(/\.cairn$/, ""))
  .filter((name) => !values.only || name.startsWith(values.only));
process.stdout.write(`of ${count} simulated robots, calibrated, and of ${count} rehearsals\n`);
for (const name of missions) {
  const text = readFileSync(path.join(root, "demo/missions", `${name}.cairn`), "utf8");
  const mission = core.parseMission(text);
  const field = fields.get(core.headerValue(mission, "field") ?? "") ?? core.openFloor();
  const prepared = core.prepareMission(text, robotNamed(core.headerValue(mission, "robot") ?? "Drizzle"), field);
  if (prepared.program?.remote) continue;
  const found = Array.from({ length: count }, (_, i) => run(text, i + 1));
  const rehearsed = Array.from(
    { length: count },
    (_, i) => core.rehearse(prepared, { seed: i + 1, ideal: false }).summary,
  );
  const reasons = [...new Set(found.flatMap(({ why }) => (why ? [why] : [])))].slice(0, 2).join(" | ");
  process.stdout.write(
    `${name.padEnd(32)}${String(found.filter(({ met }) => met).length).padStart(4)}${String(rehearsed.filter(({ success }) => success).length).padStart(6)}   ${reasons}\n`,
  );
}
