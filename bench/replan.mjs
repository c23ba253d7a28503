// A mission of half a minute is changed at its 25th second: planned anew from the start, and from a kept moment. With it,
// what keeping a moment each second costs, and how large one is.
//
//   node bench/replan.mjs
import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { openRobot, prepareMission, Rehearsal, Replan, readField } from "../core/dist/index.js";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
/** @param {string} file */
const json = (file) => JSON.parse(readFileSync(path.join(root, "demo", file), "utf8"));
const [robot, field] = [openRobot(json("drizzle.robot.json")), readField(json("fellside.field.json"))];
if (!robot.ok || !field.ok) throw new Error("the demo documents do not read");
const [drizzle, fellside] = [robot.document, field.document];

/** Half a minute of arcs, and then a last step. @param {number} cm */
function mission(cm) {
  const round = "  arc left 90 deg radius 20 cm at 12 cm/s\n  turn left 90 deg at 60 deg/s\n  go 10 cm at 12 cm/s\n";
  const text = `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\n\nmission\n${round.repeat(4)}  wait 3 s\n  go ${cm} cm at 5 cm/s\n`;
  const made = prepareMission(text, drizzle, fellside);
  const { program } = made;
  if (!program) throw new Error(made.check.problems.map(({ message }) => message).join("; "));
  return { ...made, program };
}

/** @param {() => unknown} work */
function time(work) {
  const begun = performance.now();
  work();
  return performance.now() - begun;
}
/** @param {number[]} times */
const median = (times) => [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)] ?? 0;

const options = { seed: 1, ideal: true };
const base = mission(20);
/** @type {{ plain: number[], kept: number[], anew: number[], again: number[] }} */
const times = { plain: [], kept: [], anew: [], again: [] };
let [from, to] = [0, 0];
for (let i = 0; i < 15; i += 1) {
  const next = mission(21 + i);
  times.plain.push(time(() => new Rehearsal(base, options).advance(100_000)));
  const plan = new Replan(base, options);
  times.kept.push(time(() => plan.advance(100_000)));
  times.anew.push(time(() => new Rehearsal(next, options).advance(100_000)));
  times.again.push(
    time(() => {
      from = plan.change(next.program) ?? 0;
      plan.advance(100_000);
    }),
  );
  to = plan.tick;
}
const [plain, kept, anew, again] = [times.plain, times.kept, times.anew, times.again].map(median);
const say = (/** @type {string} */ words) => process.stdout.write(`${words}\n`);
say(`a mission of ${to / 100} s, changed at ${from / 100} s`);
say(`planned anew from the start      ${anew?.toFixed(1)} ms`);
say(
  `planned again from the moment    ${again?.toFixed(1)} ms, ${((anew ?? 0) / (again ?? 1)).toFixed(1)} times as fast`,
);
say(
  `keeping a moment of each second  ${(100 * ((kept ?? 0) / (plain ?? 1) - 1)).toFixed(1)} % more than a plain rehearsal of ${plain?.toFixed(1)} ms`,
);
