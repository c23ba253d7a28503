// How fast the core runs, as ratios of one run: µs per physics step, multiples of real time, parse and check.
import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import {
  noDeviations,
  openFloor,
  parseMission,
  prepareMission,
  readField,
  readRobot,
  rehearse,
  worldFromRobot,
} from "../core/dist/index.js";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
/** @param {string} file */
const json = (file) => JSON.parse(readFileSync(path.join(root, "demo", file), "utf8"));
const robot = readRobot(json("drizzle.robot.json"));
const field = readField(json("fellside.field.json"));
if (!robot.ok || !field.ok) throw new Error("the demo documents do not read");
const drizzle = robot.document;
const fellside = field.document;

/** @param {() => unknown} work @returns {number} milliseconds */
function time(work) {
  const begun = performance.now();
  work();
  return performance.now() - begun;
}

/** @param {number[]} values */
const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;

/** @param {import("../core/dist/index.js").Field} on @param {string} what */
function steps(on, what) {
  const world = worldFromRobot(drizzle, on, noDeviations(drizzle));
  world.place({ xM: 0.5, yM: 0.7, headingRad: 0 });
  world.command(0, "drive", 0.4);
  world.command(1, "drive", 0.6);
  const count = 200_000;
  const run = () => {
    for (let i = 0; i < count; i += 1) world.step();
  };
  time(run);
  const ms = time(run);
  const perStep = (1000 * ms) / count;
  process.stdout.write(
    `${what.padEnd(44)} ${perStep.toFixed(2)} µs a step   ${Math.round((count * 5) / ms)} × real time\n`,
  );
}

steps(openFloor(), "physics alone, open floor");
steps(
  field.document,
  `physics, Fellside (${field.document.walls.length} walls, rim, ${field.document.boulders.length} boulders)`,
);

/** Tick of a robot that stands and senses, with or without its sensors: what they cost for a physics step. */
function ticks(/** @type {typeof drizzle} */ robotOn, /** @type {string} */ what) {
  const text = 'cairn 1\nrobot "Drizzle"\nfield "Fellside"\nmission\n  roll 10 cm/s turning left 60 deg/s for 60 s\n';
  const prepared = prepareMission(text, robotOn, fellside);
  for (let i = 0; i < 6; i += 1) rehearse(prepared, { seed: i, ideal: false });
  const ms = Math.min(...[1, 2, 3, 4, 5].map((seed) => time(() => rehearse(prepared, { seed, ideal: false }))));
  process.stdout.write(
    `${what.padEnd(44)} ${((1000 * ms) / 12_000).toFixed(2)} µs a step   ${Math.round(60_000 / ms)} × real time\n`,
  );
  return ms;
}
const bare = ticks(
  { ...drizzle, sensors: drizzle.sensors.filter((sensor) => sensor.kind === "gyro") },
  "driving mission, gyro only",
);
const sensing = ticks(drizzle, "driving mission, all sensors");
process.stdout.write(`${"all sensors cost".padEnd(44)} ${((1000 * (sensing - bare)) / 12_000).toFixed(2)} µs a step\n`);

const bench = readFileSync(path.join(root, "demo/bench.cairn"), "utf8");
const cold = time(() => rehearse(prepareMission(bench, drizzle, fellside), { seed: 1, ideal: true }));
const warm = [];
for (let i = 0; i < 15; i += 1)
  warm.push(time(() => rehearse(prepareMission(bench, drizzle, fellside), { seed: 1, ideal: true })));
const seeded = [];
for (let i = 0; i < 15; i += 1)
  seeded.push(time(() => rehearse(prepareMission(bench, drizzle, fellside), { seed: i, ideal: false })));
/** @param {string} what @param {number} ms */
const line = (what, ms) =>
  process.stdout.write(`${what.padEnd(44)} ${ms.toFixed(1)} ms   ${Math.round(60_000 / ms)} × real time\n`);
line("demo/bench.cairn, 60 s, ideal, cold", cold);
line("demo/bench.cairn, 60 s, ideal, warm", median(warm));
line("demo/bench.cairn, 60 s, seeded, warm", median(seeded));

const body = Array.from({ length: 1000 }, (_, i) =>
  i % 3 === 0
    ? "  go 30 cm at 20 cm/s until gyro.heading > 45 deg limit 2 s"
    : i % 3 === 1
      ? "  turn left 90 deg"
      : "  wait 0.2 s",
);
const long = `cairn 1\nrobot "Drizzle"\nmission\n${body.join("\n")}\n`;
const parse = [];
const check = [];
for (let i = 0; i < 30; i += 1) {
  parse.push(time(() => parseMission(long)));
  check.push(time(() => prepareMission(long, drizzle, openFloor())));
}
process.stdout.write(`${"1,000 lines: parse".padEnd(44)} ${median(parse).toFixed(1)} ms\n`);
process.stdout.write(`${"1,000 lines: parse, check and compile".padEnd(44)} ${median(check).toFixed(1)} ms\n`);

/** A minute of a robot that stands, with a program that works at every tick: what the program's steps cost. */
function programCost() {
  const busy =
    "set sum = 0\n  every 10 ms limit 60 s\n    set error = gyro.heading - 5 deg\n    set sum = sum + error * 0.01\n    if abs(error) > 90 deg and eye.distance < 3 cm\n      set sum = left 0 deg\n    choose floor.left.light\n      < 20 %\n        set sum = sum + 1 deg\n      otherwise\n        set sum = sum - 1 deg".replace(
      "set sum = 0\n",
      "set sum = left 0 deg\n",
    );
  const mission = (/** @type {string} */ steps) =>
    prepareMission(`cairn 1\nrobot "Drizzle"\nfield "Fellside"\nmission\n  ${steps}\n`, drizzle, fellside);
  const [idle, working] = [mission("wait 60 s"), mission(busy)];
  const best = (/** @type {typeof idle} */ prepared) => {
    for (let i = 0; i < 4; i += 1) rehearse(prepared, { seed: i, ideal: true });
    return Math.min(...[1, 2, 3, 4, 5].map((seed) => time(() => rehearse(prepared, { seed, ideal: true }))));
  };
  const [idleMs, workingMs] = [best(idle), best(working)];
  const perTick = (1000 * (workingMs - idleMs)) / 6000;
  const physics = (1000 * idleMs) / 12_000;
  process.stdout.write(
    `${"compiled steps: 6 of them at every tick cost".padEnd(44)} ${perTick.toFixed(2)} µs a tick   ${(perTick / physics).toFixed(2)} × a physics step at rest (${physics.toFixed(2)} µs)\n`,
  );
}
programCost();
