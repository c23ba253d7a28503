// The demo documents, and short ways to check and rehearse a few lines.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import {
  type Field,
  headerValue,
  openFloor,
  openRobot,
  type PlacedProblem,
  type PreparedMission,
  parseMission,
  placeProblem,
  prepareMission,
  type Robot,
  type RunResult,
  readField,
  readRobot,
  rehearse,
} from "../../src/index.js";

export const demoFolder = path.resolve(import.meta.dirname, "../../../demo");

function json(file: string): unknown {
  return JSON.parse(readFileSync(path.join(demoFolder, file), "utf8"));
}

export function drizzleBody(): Record<string, unknown> {
  return json("drizzle.robot.json") as Record<string, unknown>;
}

export function drizzle(change?: (body: Robot) => void): Robot {
  return demoRobot("drizzle", change);
}

/** Demo robots as they are in their files: read once, for the thousand that tests ask for. */
const asTheyAre = new Map<string, Robot>();

function asItIs(name: string): Robot {
  const known = asTheyAre.get(name);
  if (known) return known;
  const opened = openRobot(json(`${name}.robot.json`));
  if (!opened.ok) throw new Error(opened.problems.join("; "));
  asTheyAre.set(name, opened.document);
  return opened.document;
}

/** Another of the demo robots: "gust", "sleet", "fog". */
export function demoRobot(name: string, change?: (body: Robot) => void): Robot {
  const body = structuredClone(asItIs(name));
  if (!change) return body;
  change(body);
  const read = readRobot(body);
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
}

export function fellside(): Field {
  return demoField("fellside");
}

/** Another of the demo fields, by its file: "yard", "snow-maze". */
export function demoField(name: string): Field {
  const read = readField(json(`${name}.field.json`));
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
}

export function missionFile(name: string): string {
  return readFileSync(path.join(demoFolder, name), "utf8");
}

/** A mission of these steps (indented by two spaces here) for Drizzle. */
export function missionOf(steps: string, top = ""): string {
  const lines = steps.split("\n").map((line) => `  ${line}`);
  return `cairn 1\nrobot "Drizzle"\n${top}\nmission\n${lines.join("\n")}\n`;
}

export function problemsOf(text: string, robot: Robot = drizzle(), field: Field = openFloor()): PlacedProblem[] {
  return prepareMission(text, robot, field).check.problems.map((problem) => placeProblem(text, problem));
}

export function runText(
  text: string,
  options: { seed?: number; ideal?: boolean; robot?: Robot; field?: Field } = {},
): RunResult {
  const prepared = prepareMission(text, options.robot ?? drizzle(), options.field ?? openFloor());
  const wrong = prepared.check.problems.filter((problem) => problem.severity === "error");
  if (!prepared.program) throw new Error(wrong.map((problem) => problem.message).join("; "));
  return rehearse(prepared, { seed: options.seed ?? 1, ideal: options.ideal ?? true });
}

export function runSteps(steps: string, options: Parameters<typeof runText>[1] = {}, top = ""): RunResult {
  return runText(missionOf(steps, top), options);
}

const robots = new Map(
  ["drizzle", "gust", "sleet", "fog", "thaw", "flurry"].map((name) => [demoRobot(name).name, demoRobot(name)]),
);
const fields = new Map(
  readdirSync(demoFolder)
    .filter((file) => file.endsWith(".field.json"))
    .map((file) => demoField(file.replace(".field.json", "")))
    .map((field) => [field.name, field]),
);

/** A mission made ready for the demo robot and on the demo field that it names. */
export function preparedDemo(text: string): PreparedMission {
  const mission = parseMission(text);
  const robot = robots.get(headerValue(mission, "robot") ?? "") ?? drizzle();
  return prepareMission(text, robot, fields.get(headerValue(mission, "field") ?? "") ?? openFloor());
}
