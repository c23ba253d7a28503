// What the net holds still: missions with the robots and fields they run on, and the seeds of their runs.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../../..");
const demo = path.join(root, "demo");
/** @param {string} file */
const text = (file) => readFileSync(path.join(root, file), "utf8");
/** @param {string} folder @param {string} ending */
const files = (folder, ending) =>
  readdirSync(path.join(root, folder))
    .filter((name) => name.endsWith(ending))
    .sort();

/**
 * @typedef {{id: string, prepared: any, seeds: readonly number[]}} Case a mission ready to run; seed 0 is ideal
 */

const TWENTY = Array.from({ length: 21 }, (_, seed) => seed);
const FEW = [0, 1, 2];

/** @param {any} core */
function demoThings(core) {
  const robots = files("demo", ".robot.json").map((name) => {
    const read = core.openRobot(JSON.parse(readFileSync(path.join(demo, name), "utf8")));
    if (!read.ok) throw new Error(`${name}: ${read.problems.join("; ")}`);
    return read.document;
  });
  const fields = files("demo", ".field.json").map((name) => {
    const read = core.readField(JSON.parse(readFileSync(path.join(demo, name), "utf8")));
    if (!read.ok) throw new Error(`${name}: ${read.problems.join("; ")}`);
    return read.document;
  });
  const collections = new Map(
    files("demo/collections", ".cairn").map((name) => {
      const whole = text(`demo/collections/${name}`);
      return [/^collection "([^"]+)"/m.exec(whole)?.[1] ?? nameOf(name), whole];
    }),
  );
  return { robots, fields, collections };
}

/** "first-roll-out.cairn" → "First roll out" @param {string} file */
function nameOf(file) {
  const words = file.replace(/\.cairn$/, "").replaceAll("-", " ");
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** Chance that is the same everywhere: 32-bit arithmetic. @param {number} seed */
function chanceOf(seed) {
  let state = (seed * 2654435761 + 1) >>> 0;
  /** @param {number} n a whole number from 0 to n - 1 */
  return (n) => {
    state ^= state << 13;
    state >>>= 0;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state % n;
  };
}

/** @typedef {(n: number) => number} Chance */
/** @template T @param {Chance} chance @param {readonly T[]} list @returns {T} */
const pick = (chance, list) => /** @type {T} */ (list[chance(list.length)]);

/** A step without steps of its own. @param {Chance} chance */
function plainStep(chance) {
  const speed = `${10 + chance(25)} cm/s`;
  const side = pick(chance, ["left", "right"]);
  return pick(chance, [
    () => `go ${2 + chance(40)} cm at ${speed}`,
    () =>
      `go ${2 + chance(20)} cm at ${speed} ramp ${20 + chance(60)} cm/s/s then ${pick(chance, ["stop", "keep", "coast"])}`,
    () => `back ${2 + chance(25)} cm at ${speed}`,
    () => `turn ${side} ${5 + chance(170)} deg at ${40 + chance(100)} deg/s`,
    () => `turn ${side} ${5 + chance(90)} deg`,
    () => `face ${chance(360) - 180} deg`,
    () => `arc ${side} ${10 + chance(120)} deg radius ${10 + chance(30)} cm at ${speed}`,
    () => `roll ${speed} turning ${side} ${chance(60)} deg/s for ${(2 + chance(12)) / 10} s then stop`,
    () => `wheels left ${8 + chance(20)} cm/s right ${8 + chance(20)} cm/s for ${(2 + chance(10)) / 10} s then stop`,
    () => `power left ${20 + chance(50)} % right ${20 + chance(50)} % for ${(2 + chance(8)) / 10} s`,
    () => `go at ${speed} until eye.distance < ${8 + chance(20)} cm limit ${20 + chance(60)} cm`,
    () => `go at ${speed} for ${(2 + chance(14)) / 10} s`,
    () => `follow line on centre with floor at ${8 + chance(14)} cm/s for ${(5 + chance(20)) / 10} s`,
    () => `wait ${chance(12) / 10} s`,
    () => `move arm to ${chance(80) - 20} deg`,
    () => `aim head to ${side} ${chance(80)} deg`,
    () => `stop`,
    () => `coast`,
    () => `light ${chance(101)} %`,
    () => `beep ${200 + chance(800)} Hz for ${(1 + chance(4)) / 10} s`,
    () => `note way${chance(4)} = robot.travel`,
    () => `note gap${chance(4)} = eye.distance`,
    () => `set many = many + ${1 + chance(3)}`,
    () => `show many`,
    () => `reset robot`,
    () => `wait until clock > ${1 + chance(6)} s limit ${1 + chance(3)} s`,
    () => `help_me()`,
  ])();
}

/** @param {Chance} chance */
const question = (chance) =>
  pick(chance, [
    () => `many > ${chance(6)}`,
    () => `robot.travel > ${chance(60)} cm`,
    () => `eye.distance < ${5 + chance(60)} cm`,
    () => `clock > ${chance(12)} s`,
    () => `bumper.pressed`,
    () => `floor.left.light < ${20 + chance(60)} %`,
    () => `not bumper.pressed and many < ${chance(9)}`,
  ])();

/** Steps, one line each, with what they hold. @param {Chance} chance @param {number} depth @returns {string[]} */
function steps(chance, depth) {
  return Array.from({ length: 1 + chance(depth === 0 ? 6 : 3) }, () => step(chance, depth)).flat();
}

/** @param {string[]} lines */
const inner = (lines) => lines.map((line) => `  ${line}`);

/** @param {Chance} chance @param {number} depth @returns {string[]} */
function step(chance, depth) {
  if (depth >= 3 || chance(3) > 0) return [plainStep(chance)];
  const own = () => inner(steps(chance, depth + 1));
  return pick(chance, [
    () => [`repeat ${1 + chance(4)} times`, ...own()],
    () => [`repeat ${2 + chance(4)} times`, ...own(), `  if ${question(chance)}`, "    leave"],
    () => [`if ${question(chance)}`, ...own()],
    () => [`if ${question(chance)}`, ...own(), "else", ...own()],
    () => ["together", ...own(), "also", `  wait ${chance(8) / 10} s`, `  note meanwhile = clock`],
    () => ["during", ...own(), `whenever ${question(chance)}`, `  set many = many + 1`, "  skip"],
    () => [`every ${100 + 50 * chance(5)} ms until clock > ${1 + chance(8)} s`, `  set many = many + 1`],
  ])();
}

/** A mission over all constructs. @param {number} seed @param {boolean} placed on the demo table */
export function generated(seed, placed) {
  const chance = chanceOf(seed);
  const header = placed ? ['robot "Drizzle"', 'field "Fellside"', 'begin "hut dock"'] : ['robot "Drizzle"'];
  return [
    "cairn 1",
    ...header,
    "",
    "mission",
    "  set many = 0",
    ...inner(steps(chance, 0)),
    "  finish",
    "",
    "routine help_me()",
    "  set many = many + 1",
    ...inner([plainStep(chance)].filter((line) => line !== "help_me()")),
    "",
  ].join("\n");
}

/** Calibrations whose programs drive most. */
const DRIVING = ["wheel-size", "straight-driving", "turning-width", "square", "gyro-scale", "timed-turn"];

/**
 * Every case, mission by mission.
 * @param {any} core the package, built or from source
 * @param {boolean} whole else a smaller set: ideal runs, every other robot that can run a mission, every tenth generated mission
 * @returns {Generator<Case>}
 */
export function* cases(core, whole) {
  const { robots, fields, collections } = demoThings(core);
  const open = core.openFloor();
  const field = (/** @type {string | null} */ name) =>
    fields.find((/** @type {any} */ one) => one.name === name) ?? open;
  /** @param {string} id @param {string} mission @param {any} robot @param {any} on @param {readonly number[]} seeds @returns {Case | null} */
  const made = (id, mission, robot, on, seeds) => {
    const prepared = core.prepareMission(mission, robot, on, undefined, collections);
    return prepared.program === null ? null : { id, prepared, seeds };
  };
  for (const name of files("demo/missions", ".cairn")) {
    const mission = text(`demo/missions/${name}`);
    const on = field(core.headerValue(core.parseMission(mission), "field"));
    let fit = 0;
    for (const robot of robots) {
      const one = made(`demo/${name}/${robot.name}`, mission, robot, on, whole ? TWENTY : FEW.slice(0, 1));
      if (one && (whole || fit % 2 === 0)) yield one;
      if (one) fit += 1;
    }
  }
  const shown = [...text("docs/cairn.md").matchAll(/```cairn\n([\s\S]*?)```/g)].map(([, code]) => code ?? "");
  for (const [i, code] of shown.entries()) {
    const mission = /^cairn 1/m.test(code) ? code : `cairn 1\n\nmission\n${code.replaceAll(/^(?=.)/gm, "  ")}`;
    for (const robot of robots) {
      const one = made(`docs/${i + 1}/${robot.name}`, mission, robot, field("Fellside"), whole ? FEW : FEW.slice(0, 1));
      if (one) yield one;
    }
  }
  for (const { entries } of core.CAIRN_REFERENCE)
    for (const { word, example } of entries) {
      const named = core.headerValue(core.parseMission(example), "robot");
      const robot = robots.find((/** @type {any} */ one) => one.name === named) ?? robots[0];
      const one = made(`reference/${word}`, example, robot, field("Fellside"), FEW.slice(0, whole ? 3 : 1));
      if (one) yield one;
    }
  const drizzle = robots.find((/** @type {any} */ { name }) => name === "Drizzle");
  for (let i = 1; i <= 300; i += 1) {
    if (!whole && i % 10 !== 0) continue;
    const one = made(`generated/${i}`, generated(i, i % 2 === 0), drizzle, i % 2 === 0 ? field("Fellside") : open, [
      0,
      i,
    ]);
    if (!one) throw new Error(`generated mission ${i} has errors:\n${generated(i, i % 2 === 0)}`);
    yield one;
  }
  for (const procedure of core.PROCEDURES.filter((/** @type {any} */ { id }) => DRIVING.includes(id)))
    for (const robot of robots) {
      if (procedure.unfit(robot) !== null) continue;
      const program = procedure.program(robot, core.defaultSettings(procedure), 0);
      const one =
        program === null
          ? null
          : made(`calibration/${procedure.id}/${robot.name}`, program, robot, open, whole ? FEW : FEW.slice(0, 1));
      if (one) yield one;
    }
}

/** Fingerprints of a case's runs, in order of its seeds. @param {any} core @param {Case} one @returns {string[]} */
export function hashesOf(core, { prepared, seeds }) {
  return seeds.map((seed) => core.rehearse(prepared, { seed: Math.max(1, seed), ideal: seed === 0 }).summary.traceHash);
}
