// This core beside another build of it, in one run: how long preparing, rehearsing and an idle program take, as ratios.
// Both are measured by turns, so that a slow moment of the machine meets both.
//
//   node bench/versus.mjs BASE        BASE is a checkout of another version, with its core built
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";
import * as here from "../core/dist/index.js";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const [base] = process.argv.slice(2);
if (!base) throw new Error("name a checkout of another version: node bench/versus.mjs BASE");
/** @type {typeof here} */
const there = await import(pathToFileURL(path.resolve(base, "core/dist/index.js")).href);

/** @param {string} file */
const json = (file) => JSON.parse(readFileSync(path.join(root, "demo", file), "utf8"));
/** @param {string} file */
const text = (file) => readFileSync(path.join(root, "demo", file), "utf8");

/** @param {typeof here} core @param {string} source */
function prepared(core, source) {
  const mission = core.parseMission(source);
  /** @template {{ name: string }} T @param {string} ending @param {(value: unknown) => { ok: boolean, document?: T }} read */
  const named = (ending, read, /** @type {string | null} */ name) =>
    readdirSync(path.join(root, "demo"))
      .filter((file) => file.endsWith(ending))
      .flatMap((file) => read(json(file)).document ?? [])
      .find((document) => document.name === name);
  const robot = named(".robot.json", core.openRobot, core.headerValue(mission, "robot"));
  const field = named(".field.json", core.readField, core.headerValue(mission, "field")) ?? core.openFloor();
  if (!robot) throw new Error("no robot");
  return { robot, field, ready: core.prepareMission(source, robot, field) };
}

/** @param {() => unknown} work */
const time = (work) => {
  const begun = performance.now();
  work();
  return performance.now() - begun;
};

/** @param {string} what @param {(core: typeof here) => () => unknown} make @param {number} rounds */
function versus(what, make, rounds) {
  const [ours, theirs] = [make(here), make(there)];
  for (let i = 0; i < 3; i += 1) [ours, theirs].map(time);
  /** @type {number[]} */
  const ratios = [];
  const least = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY];
  for (let i = 0; i < rounds; i += 1) {
    const turn = i % 2 === 0 ? [ours, theirs] : [theirs, ours];
    const times = turn.map(time);
    const [a, b] = i % 2 === 0 ? times : [...times].reverse();
    ratios.push(/** @type {number} */ (a) / /** @type {number} */ (b));
    least[0] = Math.min(least[0] ?? 0, a ?? 0);
    least[1] = Math.min(least[1] ?? 0, b ?? 0);
  }
  const middle = ratios.sort((a, b) => a - b)[Math.floor(ratios.length / 2)] ?? 0;
  const [a = 0, b = 0] = least;
  process.stdout.write(
    `${what.padEnd(52)} ${a.toFixed(2).padStart(8)} ms   before ${b.toFixed(2).padStart(8)} ms   ratio ${middle.toFixed(3)} (of the least ${(a / b).toFixed(3)})\n`,
  );
}

const missions = ["trail-to-the-mast", "boulders-by-whiskers", "maze-by-memory", "into-the-garage", "ferry-crates"];
for (const name of missions) {
  const source = text(`missions/${name}.cairn`);
  versus(
    `${name}: parse, check, make a program, ten times`,
    (core) => {
      const { robot, field, ready } = prepared(core, source);
      return () => {
        for (let i = 0; i < 10; i += 1) core.prepareMission(source, robot, field, ready.floor);
      };
    },
    15,
  );
  versus(
    `${name}: one rehearsal`,
    (core) => {
      const { ready } = prepared(core, source);
      return () => core.rehearse(ready, { seed: 3, ideal: false });
    },
    15,
  );
}
const sums = Array.from({ length: 40 }, () => "    set n = n + (n + 1) / (n + 2) - min(n, 3)\n").join("");
const busy = `cairn 1\nrobot "Drizzle"\nmission\n  set n = 0\n  every 10 ms until clock > 60 s\n${sums}`;
versus(
  "a program that counts and drives nowhere, 60 s",
  (core) => {
    const { ready } = prepared(core, busy);
    return () => core.rehearse(ready, { seed: 1, ideal: true });
  },
  9,
);
