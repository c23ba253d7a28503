// @ts-nocheck: figures for people, checked by running it
// How the time for a mission's text grows with it: 5,000 lines and twice as many, for texts of many kinds, by each of
// what the page does with a text. A ratio of 2 is linear.
import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import {
  formatMission,
  missionRows,
  parseMission,
  placeProblems,
  prepareMission,
  readField,
  readRobot,
} from "../core/dist/index.js";

const demo = path.join(path.dirname(path.dirname(fileURLToPath(import.meta.url))), "demo");
const read = (name) => JSON.parse(readFileSync(path.join(demo, name), "utf8"));
const robot = readRobot(read("drizzle.robot.json")).document;
const field = readField(read("fellside.field.json")).document;
const HEAD = 'cairn 1\nrobot "Drizzle"\nfield "Fellside"\n';
const many = (count, make) => Array.from({ length: Math.trunc(count) }, (_, i) => make(i)).join("");

/** Texts of about so many lines. */
const TEXTS = {
  steps: (lines) => `${HEAD}mission\n${many(lines, () => "  go 10 cm\n")}`,
  values: (lines) => `${HEAD}mission\n${many(lines, (i) => `  set v${i} = ${i}\n`)}`,
  routines: (lines) =>
    `${HEAD}${many(lines / 3, (i) => `routine r${i}\n  go 1 cm\n`)}mission\n${many(lines / 3, (i) => `  r${i}\n`)}`,
  blocks: (lines) => `${HEAD}mission\n${many(lines / 2, () => "  repeat 2 times\n    go 1 cm\n")}`,
  branches: (lines) =>
    `${HEAD}mission\n  if eye.distance < 20 cm\n    go 1 cm\n${many(lines / 2, () => "  else if eye.distance < 20 cm\n    go 1 cm\n")}`,
  tasks: (lines) => `${HEAD}mission\n  together\n    go 1 cm\n${many(lines / 2, () => "  also\n    wait 1 s\n")}`,
  comments: (lines) => `${HEAD}mission\n${many(lines / 2, () => "  # as it was\n  go 1 cm\n")}`,
  problems: (lines) => `${HEAD}mission\n${many(lines, () => "  go 10 cmm until x < 3 y z\n")}`,
  "no steps": (lines) => `${HEAD}mission\n${many(lines, () => "  gooo 10 cm\n")}`,
};

const ACTS = {
  parse: (text) => parseMission(text),
  prepare: (text) => prepareMission(text, robot, field),
  format: (text) => formatMission(text),
  rows: (text) => missionRows(parseMission(text)),
  place: (text) => placeProblems(text, prepareMission(text, robot, field).check.problems),
};

/** Shortest of five, ms. */
function shortest(act, text) {
  let least = Number.POSITIVE_INFINITY;
  for (let i = 0; i < 5; i += 1) {
    const begun = performance.now();
    act(text);
    least = Math.min(least, performance.now() - begun);
  }
  return least;
}

process.stdout.write("time of 10,000 lines over that of 5,000 (ms)\n");
let most = 0;
for (const [kind, make] of Object.entries(TEXTS)) {
  const cells = Object.entries(ACTS).map(([name, act]) => {
    const [once, twice] = [shortest(act, make(5000)), shortest(act, make(10_000))];
    most = Math.max(most, twice / once);
    return `${name} ${(twice / once).toFixed(1)} (${twice.toFixed(0)})`;
  });
  process.stdout.write(`  ${kind.padEnd(9)} ${cells.join("  ")}\n`);
}
process.stdout.write(`  largest ratio ${most.toFixed(1)}\n`);
