// Missions, robots and fields from files; robots and fields a mission names come from the demo.
import { readdir, readFile } from "node:fs/promises";
import path from "node:path";
import { fileURLToPath } from "node:url";
import {
  type DocumentReading,
  type Field,
  headerValue,
  LONGEST_TEXT,
  type Mission,
  noRobotAtAll,
  openFloor,
  type PlacedProblem,
  type PreparedMission,
  type Problem,
  parseMission,
  placeProblem,
  prepareMission,
  type Robot,
  readField,
  readRobot,
  tooLarge,
  unknownDocument,
} from "@giddy-pebble/core";
import { nameOf, readText } from "./files.js";

/** Robots and fields of more than this are none: the limit of the server as well, bytes. */
const LARGEST_DOCUMENT = 2_000_000;

const demo = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../../demo");

const START = { start: 0, end: 0 };

export interface DocumentOptions {
  robot?: string;
  field?: string;
}

export type Loaded = { ok: true; prepared: PreparedMission; text: string } | { ok: false; problems: PlacedProblem[] };

/** A problem that is not about a place in the mission's text. */
function fileProblem(code: string, message: string): PlacedProblem {
  return { code, severity: "error", line: 1, column: 1, length: 0, message, mend: null };
}

/** Reads a mission's text; files far too large to be one are refused before they are read. */
export async function readMissionText(
  file: string,
): Promise<{ ok: true; text: string } | { ok: false; problems: PlacedProblem[] }> {
  const read = await readText(file, LONGEST_TEXT * 4);
  if (read.ok) return read;
  if (read.bytes !== undefined) return { ok: false, problems: [placeProblem("", tooLarge(read.bytes, LONGEST_TEXT))] };
  const words = `${nameOf(file)} cannot be read: ${read.why}. Check its name and place.`;
  return { ok: false, problems: [fileProblem("unreadable-file", words)] };
}

async function readJson<T>(
  file: string,
  kind: string,
  read: (value: unknown) => DocumentReading<T>,
): Promise<{ ok: true; document: T } | { ok: false; problems: PlacedProblem[] }> {
  const text = await readText(file, LARGEST_DOCUMENT);
  const bad = (words: string) => ({
    ok: false as const,
    problems: [fileProblem(`bad-${kind}`, `The ${kind} file ${nameOf(file)} ${words}.`)],
  });
  if (!text.ok) return bad(`cannot be read: ${text.why}`);
  let value: unknown;
  try {
    value = JSON.parse(text.text);
  } catch (error) {
    return bad(`is not JSON: ${error instanceof Error ? error.message : String(error)}`);
  }
  const document = read(value);
  if (document.ok) return document;
  return {
    ok: false,
    problems: document.problems.map((problem) => fileProblem(`bad-${kind}`, `The ${kind} file ${file}: ${problem}.`)),
  };
}

async function demoDocuments<T>(ending: string, read: (value: unknown) => DocumentReading<T>): Promise<T[]> {
  const files = (await readdir(demo)).filter((file) => file.endsWith(ending)).sort();
  const found: T[] = [];
  for (const file of files) {
    const document = read(JSON.parse(await readFile(path.join(demo, file), "utf8")));
    if (document.ok) found.push(document.document);
  }
  return found;
}

/** Mission, robot and field, ready to rehearse, or every problem in the way. */
export async function load(file: string, options: DocumentOptions): Promise<Loaded> {
  const read = await readMissionText(file);
  if (!read.ok) return read;
  const { text } = read;
  const mission = parseMission(text);
  const placed = (problem: Problem) => placeProblem(text, problem);
  if (mission.lines.length === 0) return { ok: false, problems: mission.problems.map(placed) };
  const robot = await chooseRobot(mission, options.robot, placed);
  if (!robot.ok) return { ok: false, problems: [...mission.problems.map(placed), ...robot.problems] };
  const field = await chooseField(mission, options.field, placed);
  if (!field.ok) return { ok: false, problems: [...mission.problems.map(placed), ...field.problems] };
  return { ok: true, prepared: prepareMission(text, robot.document, field.document), text };
}

type Chosen<T> = { ok: true; document: T } | { ok: false; problems: PlacedProblem[] };

async function chooseRobot(
  mission: Mission,
  file: string | undefined,
  placed: (problem: Problem) => PlacedProblem,
): Promise<Chosen<Robot>> {
  if (file !== undefined) return readJson(file, "robot", readRobot);
  const known = await demoDocuments(".robot.json", readRobot);
  const [first] = known;
  const header = mission.headers.find((candidate) => candidate.word === "robot");
  if (!header) return first ? { ok: true, document: first } : { ok: false, problems: [placed(noRobotAtAll(START))] };
  const robot = known.find((candidate) => candidate.name === header.value);
  if (robot) return { ok: true, document: robot };
  const names = known.map((candidate) => candidate.name);
  return { ok: false, problems: [placed(unknownDocument(header.valueSpan, "robot", header.value, names))] };
}

async function chooseField(
  mission: Mission,
  file: string | undefined,
  placed: (problem: Problem) => PlacedProblem,
): Promise<Chosen<Field>> {
  if (file !== undefined) return readJson(file, "field", readField);
  const name = headerValue(mission, "field");
  if (name === null) return { ok: true, document: openFloor() };
  const header = mission.headers.find((candidate) => candidate.word === "field");
  const known = await demoDocuments(".field.json", readField);
  const field = known.find((candidate) => candidate.name === name);
  if (field) return { ok: true, document: field };
  return {
    ok: false,
    problems: [
      placed(
        unknownDocument(
          header?.valueSpan ?? { start: 0, end: 0 },
          "field",
          name,
          known.map((f) => f.name),
        ),
      ),
    ],
  };
}

/** Problems as readable lines: place, sentence, mend. */
export function problemLines(file: string, problems: readonly PlacedProblem[]): string {
  return problems
    .map(
      (p) =>
        `${file}:${p.line}:${p.column}: ${p.severity}: ${p.message}${p.mend ? `\n    mend: ${p.mend}` : ""}  [${p.code}]\n`,
    )
    .join("");
}
