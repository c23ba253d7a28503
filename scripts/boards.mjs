// npm run boards: whether missions written for boards behave as rehearsed. Every demo mission on every demo robot that can
// run it, all examples of the docs and of the in-app reference, calibration programs, and generated missions. Prints a table
// for docs/boards.md. Ends with 1 when one of them behaves otherwise.
//
//   npm run boards                          C++, MicroPython and the emulated chip
//   npm run boards -- --target cpp          one of them
//   npm run boards -- --generated 100       so many generated missions (500 unless told)
//   npm run boards -- --only demo,docs      some kinds: demo, docs, reference, generated, calibration
import { parseArgs } from "node:util";
import { avrTarget, cppTarget, lockstep, pythonTarget } from "../boards/dist/index.js";
import * as core from "../core/dist/index.js";
import { cases, generated } from "../core/test/net/cases.mjs";

const { values } = parseArgs({
  options: {
    target: { type: "string" },
    generated: { type: "string", default: "500" },
    only: { type: "string" },
  },
});
const targets = Object.entries({ cpp: cppTarget, micropython: pythonTarget, avr: avrTarget }).filter(
  ([name]) => values.target === undefined || name === values.target,
);
const wanted = Number(values.generated);
const only = values.only?.split(",");
/** @param {string} kind */
const isAsked = (kind) => only === undefined || only.includes(kind);

/** @typedef {{missions: number, ticks: number, steps: number, equal: number, edges: number, worst: number, mm: number, deg: number}} Row */
/** @returns {Row} */
const newRow = () => ({ missions: 0, ticks: 0, steps: 0, equal: 0, edges: 0, worst: 0, mm: 0, deg: 0 });

/** All missions of the net, and generated ones until there are as many as wanted. */
function* missions() {
  let made = 0;
  /** @type {any} */
  let table = null;
  for (const { id, prepared } of cases(core, true)) {
    const kind = /** @type {string} */ (id.split("/")[0]);
    if (id === "demo/first-roll-out.cairn/Drizzle") table = prepared;
    if (kind === "generated") made += 1;
    if (isAsked(kind) && (kind !== "generated" || made <= wanted)) yield { kind, id, prepared };
  }
  if (!isAsked("generated")) return;
  const { robot, field } = /** @type {any} */ (table).context;
  for (let seed = 301; made < wanted && seed < 301 + 4 * wanted; seed += 1) {
    const prepared = core.prepareMission(generated(seed, true), robot, field);
    if (prepared.program === null) continue;
    made += 1;
    yield { kind: "generated", id: `generated/${seed}`, prepared };
  }
}

const NAMES = {
  demo: "demo missions",
  docs: "examples of the docs",
  reference: "examples in the app",
  calibration: "calibrations",
  generated: "generated missions",
};
let otherwise = 0;
process.stdout.write(
  "| target | missions | of them equal | ticks | steps | orders differ at most | knife's edges |\n|---|---|---|---|---|---|---|\n",
);
for (const [target, make] of targets) {
  /** @type {Map<string, Row>} */
  const rows = new Map();
  let longest = 0;
  let tried = 0;
  for (const { kind, id, prepared } of missions()) {
    tried += 1;
    if (tried % 25 === 0) process.stderr.write(`${target}: ${tried} missions, now ${id}\n`);
    const row = rows.get(kind) ?? newRow();
    rows.set(kind, row);
    const mission = /** @type {core.PreparedMission} */ (prepared);
    const found = await lockstep(mission, await make(mission), { seed: 1, ideal: true });
    longest = Math.max(longest, found.chip?.longestTickMs ?? 0);
    row.missions += 1;
    row.ticks += found.ticks;
    row.steps += found.events.same;
    row.edges += found.edges.length;
    row.worst = Math.max(row.worst, found.worstDuty);
    if (found.equal) row.equal += 1;
    else {
      otherwise += 1;
      process.stderr.write(`${target} ${id}: ${found.differences.slice(0, 3).join("; ")}\n`);
    }
  }
  for (const [kind, { missions: n, equal, ticks, steps, worst, edges }] of rows)
    process.stdout.write(
      `| ${target} | ${n} ${/** @type {Record<string, string>} */ (NAMES)[kind] ?? kind} | ${equal} | ${ticks} | ${steps} | ${(worst * 100).toFixed(3)} % | ${edges} |\n`,
    );
  if (longest > 0) process.stdout.write(`\nThe longest tick took ${longest.toFixed(2)} ms of 10 ms.\n`);
}
process.exitCode = otherwise === 0 ? 0 : 1;
