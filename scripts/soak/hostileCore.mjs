// Hostile missions, robots and fields against core: nothing may throw, hang, or answer with a number that is none.
// Runs in a thread of its own, which is watched.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parentPort, workerData } from "node:worker_threads";
import * as core from "@giddy-pebble/core";
import { chanceOf, NUMBERS, spoil, TEXTS } from "./chance.mjs";

/** @typedef {import("./chance.mjs").Chance} Chance */

const demo = path.join(path.dirname(fileURLToPath(import.meta.url)), "../../demo");
/** @param {string} ending */
const documents = (ending) =>
  readdirSync(demo)
    .filter((name) => name.endsWith(ending))
    .map((name) => JSON.parse(readFileSync(path.join(demo, name), "utf8")));
const robots = documents(".robot.json");
const fields = documents(".field.json");
const missions = readdirSync(path.join(demo, "missions")).map((name) => readFileSync(path.join(demo, "missions", name), "utf8"));
const soundRobots = robots.map((one) => core.readRobot(one)).flatMap((read) => (read.ok ? [read.document] : []));
const soundFields = fields.map((one) => core.readField(one)).flatMap((read) => (read.ok ? [read.document] : []));
/** @type {any} */
const [robot] = soundRobots;
/** @type {any} */
const [field] = soundFields;

const WORDS = [
  ...missions.join(" ").split(/\s+/),
  "{",
  "}",
  "(",
  ")",
  "[",
  "]",
  "-",
  "*",
  "/",
  "held",
  "inside",
  "until",
  "limit",
  "then",
  "keep",
  "e",
  "pi",
];
/** Ticks a hostile mission runs. */
const TICKS = 150;

/** @param {unknown} value @param {string} at */
function checkFinite(value, at = "") {
  if (typeof value === "number" && !Number.isFinite(value)) throw new Error(`a number that is none at ${at}`);
  if (typeof value === "object" && value !== null) for (const [key, inner] of Object.entries(value)) checkFinite(inner, `${at}.${key}`);
}

/** @param {Chance} chance @returns {string} */
function hostileMission(chance) {
  const lines = chance.pick(missions).split("\n");
  for (let i = chance.maybe(0.7) ? 1 : chance.below(8); i > 0; i -= 1) {
    const at = chance.below(lines.length);
    const line = lines[at] ?? "";
    const how = chance.below(10);
    if (how === 0) lines.splice(at, 1);
    else if (how === 1) lines.splice(at, 0, lines[chance.below(lines.length)] ?? "");
    else if (how === 2) lines[at] = line.replace(/\d+(\.\d+)?/, () => plain(chance.pick(NUMBERS)));
    else if (how === 3) lines[at] = `${line} ${chance.pick(WORDS)}`;
    else if (how === 4) lines[at] = `  ${line}`;
    else if (how === 5)
      lines[at] = line
        .split(" ")
        .sort(() => chance.uniform() - 0.5)
        .join(" ");
    else if (how === 6) lines[at] = line + chance.pick(TEXTS);
    else if (how === 7)
      lines[at] = `${line} + ${plain(chance.pick(NUMBERS))} ${chance.pick(["cm", "deg", "s", "%", "", "cm/s/s/s"])}`.repeat(
        chance.pick([1, 1, 3, 200]),
      );
    else if (how === 8) lines.splice(at, 0, ...growing(chance));
    else lines[at] = line.replace(/[a-z]+/, () => chance.pick(WORDS));
  }
  return lines.join("\n");
}

/** Steps whose values grow beyond everything. @param {Chance} chance */
function growing(chance) {
  const step = chance.pick([
    "face 1 deg * b",
    "go 1 cm * b",
    "roll 1 cm/s * b for 1 s",
    "wait 1 s * b",
    "arc left 1 deg * b radius 1 cm * b",
    "note b = b",
    "power both 1 % * b for 1 s",
    "repeat b times",
    "wheels left 1 cm/s * b right 0 cm/s for 1 s",
  ]);
  return ["  set b = 1", "  repeat 400 times", `    set b = b * ${chance.pick(["10", "1000", "-7", "b"])}`, `  ${step}`, "    go 1 cm"];
}

/** @param {number} value */
function plain(value) {
  return Number.isFinite(value) ? value.toFixed(Math.abs(value) < 1 ? 12 : 0) : "1";
}

/** @param {string} text @param {core.Robot} on @param {core.Field} over @param {number} seed */
function tryMission(text, on, over, seed) {
  const prepared = core.prepareMission(text, on, over);
  core.formatMission(text);
  core.missionRows(prepared.mission);
  const placed = core.placeProblems(text, prepared.check.problems);
  checkFinite(placed.slice(0, 50));
  if (!prepared.program) return false;
  const run = new core.Rehearsal(prepared, { seed, ideal: seed % 2 === 0 });
  if (!run.advance(TICKS)) return true;
  const { summary, trace } = run.result();
  checkFinite(summary);
  for (const { id, values } of trace.columns)
    if (values.some((value) => !Number.isFinite(value))) throw new Error(`a number that is none in ${id}`);
  return true;
}

const SHORT = `cairn 1\nmission\n  go 20 cm limit 2 s\n  power both 30 % for 0.3 s\n  back 10 cm limit 2 s\n`;

/** @param {number} i @param {number} seed */
function one(i, seed) {
  const chance = chanceOf(seed * 1_000_003 + i);
  const kind = workerData.kind === "mission" ? 0 : 1 + (i % 2);
  if (kind === 0) {
    const text = hostileMission(chance);
    const on = soundRobots.find(({ name }) => text.includes(`robot "${name}"`)) ?? robot;
    const over = soundFields.find(({ name }) => text.includes(`field "${name}"`)) ?? field;
    return { text, run: () => tryMission(text, on, over, i) };
  }
  const spoilt = spoil(chance.pick(kind === 1 ? robots : fields), chance, 1 + chance.below(chance.maybe(0.7) ? 3 : 20));
  if (kind === 1)
    return {
      text: JSON.stringify(spoilt),
      run: () => {
        const opened = core.openRobot(spoilt);
        if (opened.ok) checkFinite(core.checkRobot(opened.document).map(({ message }) => message));
        const read = core.readRobot(spoilt);
        if (!read.ok) return false;
        return tryMission(SHORT, read.document, field, i);
      },
    };
  return {
    text: JSON.stringify(spoilt),
    run: () => {
      const read = core.readField(spoilt);
      if (!read.ok) return false;
      return tryMission(`${SHORT}  note dark = clock\n`, robot, read.document, i);
    },
  };
}

const { seed, from, to } = workerData;
let ran = 0;
for (let i = from; i < to; i += 1) {
  const { text, run } = one(i, seed);
  parentPort?.postMessage({ kind: "begins", i, text: text.slice(0, 20_000) });
  const begun = performance.now();
  try {
    if (run()) ran += 1;
  } catch (error) {
    const reason = error instanceof Error ? error.stack?.split("\n").slice(0, 4).join(" ") : String(error);
    parentPort?.postMessage({ kind: "failed", i, reason, text: text.slice(0, 4000) });
  }
  const ms = performance.now() - begun;
  if (ms > 1000) parentPort?.postMessage({ kind: "slow", i, ms, text: text.slice(0, 4000) });
}
parentPort?.postMessage({ kind: "done", ran });
