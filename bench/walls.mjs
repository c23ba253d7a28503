// Walls, posts and corners: of so many runs how many end where they should. What lies behind a wall's end, slanted walls,
// gaps and corners are made by functions with seeds.
//   node bench/walls.mjs [runs] [--core FILE]
import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";
import { parseArgs } from "node:util";
import { numbers } from "./courses.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { core: { type: "string", default: path.join(root, "core/dist/index.js") } },
});
const runs = Number(positionals[0] ?? 50);
/** @type {typeof import("../core/dist/index.js")} */
const core = await import(pathToFileURL(path.resolve(values.core)).href);
const old = !("FollowLine" in core) || !("Cone" in core);

/** A two-wheel robot and a car type, each with an eye to its right. @param {"drizzle" | "sleet"} name */
function robotWith(name) {
  const document = JSON.parse(readFileSync(path.join(root, `demo/${name}.robot.json`), "utf8"));
  if (old) document.version = 2;
  const eye = document.sensors.find((/** @type {any} */ sensor) => sensor.kind === "eye");
  if (name === "drizzle")
    Object.assign(eye, { name: "side_eye", xM: 0.05, yM: -0.05, aimRad: -Math.PI / 2, head: null });
  document.servos = document.servos?.filter((/** @type {any} */ servo) => servo.name !== "head");
  // Its arm would lie before the bumper.
  if (name === "drizzle") document.attachments = [];
  document.wiring = document.wiring?.filter((/** @type {any} */ wire) => wire.part !== "head");
  if (name === "drizzle")
    document.wiring = document.wiring.map((/** @type {any} */ wire) =>
      wire.part === "eye" ? { ...wire, part: "side_eye" } : wire,
    );
  const read = core.readRobot(document);
  if (!read.ok) throw new Error(JSON.stringify(read));
  return read.document;
}

/** @typedef {{ walls: [number, number, number, number][], posts?: [number, number, number][], steps: string, good: (end: { x: number, y: number, deg: number }) => boolean, loose?: boolean }} Case */

/** The robot begins at the origin looking along x; the wall lies to its right. @type {Record<string, (random: () => number) => Case>} */
const CASES = {
  "end, nothing behind": (random) => {
    const end = 0.8 + 0.3 * random();
    return {
      walls: [[-0.5, -0.2, end, -0.2]],
      steps: "follow wall on right 15 cm away with side_eye at 15 cm/s until wall ends limit 20 s",
      good: ({ x, deg }) => Math.abs(x - end) < 0.15 && Math.abs(deg) < 6,
    };
  },
  "end, a wall behind": (random) => {
    const end = 0.8 + 0.3 * random();
    const back = 0.35 + 0.5 * random();
    return {
      walls: [
        [-0.5, -0.2, end, -0.2],
        [end - 0.2, -0.2 - back, end + 1.2, -0.2 - back],
      ],
      steps: "follow wall on right 15 cm away with side_eye at 15 cm/s until robot.travel > 1.6 m limit 20 s",
      good: ({ y, deg }) => Math.abs(deg) < 6 && Math.abs(y) < 0.12,
    };
  },
  "end, posts behind": (random) => {
    const end = 0.8 + 0.3 * random();
    return {
      walls: [[-0.5, -0.2, end, -0.2]],
      posts: [0, 1, 2].map((i) => [end + 0.15 + 0.25 * i, -0.4 - 0.2 * random(), 0.04]),
      steps: "follow wall on right 15 cm away with side_eye at 15 cm/s until robot.travel > 1.6 m limit 20 s",
      good: ({ y, deg }) => Math.abs(deg) < 6 && Math.abs(y) < 0.12,
    };
  },
  "slanted wall": (random) => {
    const slope = (random() - 0.5) * 0.5;
    return {
      walls: [[-0.4, -0.2 - 0.4 * slope, 1.8, -0.2 + 1.8 * slope]],
      steps: "follow wall on right 15 cm away with side_eye at 15 cm/s until robot.travel > 1.2 m limit 20 s",
      good: ({ x, y, deg }) => Math.abs(deg - (Math.atan(slope) * 180) / Math.PI) < 5 && Math.abs(y - slope * x) < 0.08,
    };
  },
  "gap of 12 cm": (random) => {
    const gap = 0.6 + 0.2 * random();
    return {
      walls: [
        [-0.5, -0.2, gap, -0.2],
        [gap + 0.12, -0.2, 2, -0.2],
      ],
      steps: "follow wall on right 15 cm away with side_eye at 15 cm/s until robot.travel > 1.4 m limit 20 s",
      good: ({ y, deg }) => Math.abs(deg) < 6 && Math.abs(y) < 0.05,
    };
  },
  "outer corner": (random) => {
    const end = 0.7 + 0.3 * random();
    return {
      walls: [
        [-0.5, -0.2, end, -0.2],
        [end, -0.2, end, -1.6],
      ],
      steps:
        "follow wall on right 15 cm away with side_eye at 15 cm/s at corners turn until robot.travel > 1.9 m limit 30 s",
      good: ({ x, y, deg }) => Math.abs(deg + 90) < 12 && Math.abs(x - end - 0.2) < 0.08 && y < -0.4,
    };
  },
  "inner corner": (random) => {
    const end = 0.9 + 0.3 * random();
    return {
      walls: [
        [-0.5, -0.2, end, -0.2],
        [end, -0.2, end, 1.6],
      ],
      steps:
        "follow wall on right 15 cm away with side_eye at 15 cm/s at corners turn until robot.travel > 1.9 m limit 30 s",
      good: ({ x, deg }) => Math.abs(deg - 90) < 12 && Math.abs(x - end + 0.2) < 0.1,
      loose: true,
    };
  },
};

process.stdout.write(`of ${runs} runs each\n`);
for (const name of /** @type {const} */ (["drizzle", "sleet"])) {
  const robot = robotWith(name);
  for (const [what, make] of Object.entries(CASES)) {
    let good = 0;
    let told = "";
    for (let seed = 1; seed <= runs; seed += 1) {
      const test = make(numbers(seed));
      const read = core.readField({
        format: "giddy-pebble/field",
        version: 1,
        name: "Walls",
        size: { widthM: 6, heightM: 6 },
        edge: "open",
        surface: {},
        walls: test.walls.map(([ax, ay, bx, by]) => ({ fromM: [2 + ax, 3 + ay], toM: [2 + bx, 3 + by], heightM: 0.3 })),
        boulders: (test.posts ?? []).map(([x, y, radiusM]) => ({ xM: 2 + x, yM: 3 + y, radiusM, heightM: 0.3 })),
        begins: [{ name: "start", xM: 2, yM: 3, headingRad: 0 }],
      });
      if (!read.ok) throw new Error(JSON.stringify(read));
      let steps = test.steps;
      if (old) steps = steps.replace("until wall ends", "until robot.travel > 1.2 m").replace(" at corners turn", "");
      const prepared = core.prepareMission(
        `cairn 1\nrobot "${robot.name}"\nfield "Walls"\nmission\n  ${steps}\n`,
        robot,
        read.document,
      );
      if (!prepared.program) throw new Error(JSON.stringify(prepared.check.problems));
      const { summary } = core.rehearse(prepared, { seed, ideal: false });
      const { xM, yM, headingDeg } = summary.end;
      if (test.good({ x: xM - 2, y: yM - 3, deg: headingDeg })) good += 1;
      else
        told ||= `   ${seed}: x ${(xM - 2).toFixed(2)} y ${(yM - 3).toFixed(2)} ${headingDeg.toFixed(0)} deg ${summary.reason}`;
    }
    process.stdout.write(`${name.padEnd(9)}${what.padEnd(22)}${String(good).padStart(4)}${told}\n`);
  }
}
