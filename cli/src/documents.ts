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
  oddDocument,
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
  wordProblems,
} from "@giddy-pebble/core";
import { nameOf, readText } from "./files.js";

/** Robots and fields of more than this are none: the limit of the server as well, bytes. */
const LARGEST_DOCUMENT = 2_000_000;

const demo = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../../demo");

const START = { start: 0, end: 0 };

export interface DocumentOptions {
  robot?: string;
  field?: string;
  /** Files of collections, besides those in the mission's folder. */
  use?: string[];
}

type Loaded = { ok: true; prepared: PreparedMission; text: string } | { ok: false; problems: PlacedProblem[] };

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
): Promise<{ ok: true; document: T; unknown: readonly string[] } | { ok: false; problems: PlacedProblem[] }> {
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
  if (document.ok) return { ...document, unknown: document.unknown ?? [] };
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
  if (!robot.ok) return { ok: false, problems: [...wordProblems(mission).map(placed), ...robot.problems] };
  const field = await chooseField(mission, options.field, placed);
  if (!field.ok) return { ok: false, problems: [...wordProblems(mission).map(placed), ...field.problems] };
  const collections = await collectionsFor(mission, file, options.use ?? []);
  const prepared = prepareMission(text, robot.document, field.document, undefined, collections);
  return { ok: true, prepared: withNotes(prepared, [...robot.notes, ...field.notes]), text };
}

/** A prepared mission with what is odd about its documents among its problems. */
function withNotes(prepared: PreparedMission, notes: readonly Problem[]): PreparedMission {
  if (notes.length === 0) return prepared;
  const problems = [...prepared.check.problems, ...notes].sort((a, b) => a.start - b.start || a.end - b.end);
  return { ...prepared, check: { ...prepared.check, problems } };
}

/** What is odd about a document from a file: keys nobody knows, and a name the mission does not give. */
function notesOn(
  mission: Mission,
  kind: "robot" | "field",
  document: { readonly name: string },
  unknown: readonly string[],
): Problem[] {
  const header = mission.headers.find(({ word }) => word === kind);
  const at = header?.valueSpan ?? START;
  const notes = unknown.map((words) => oddDocument(at, `The ${kind} file: ${words}`));
  if (header && header.value !== document.name)
    notes.push(
      oddDocument(at, `The mission is for the ${kind} "${header.value}", but the file is "${document.name}".`),
    );
  return notes;
}

/** Collections by their name: files that were named, those beside the mission, and those that ship with it. */
async function collectionsFor(mission: Mission, file: string, named: readonly string[]): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  if (!mission.headers.some(({ word }) => word === "use")) return found;
  const inFolder = async (folder: string): Promise<string[]> => {
    const names = await readdir(folder).catch(() => []);
    return names.filter((name) => name.endsWith(".cairn")).map((name) => path.join(folder, name));
  };
  const beside = file === "-" ? [] : await inFolder(path.dirname(path.resolve(file)));
  for (const candidate of [...named, ...beside, ...(await inFolder(path.join(demo, "collections")))]) {
    const read = await readText(candidate, LARGEST_DOCUMENT);
    if (!read.ok && named.includes(candidate))
      throw new Error(`The collection ${candidate} cannot be read: ${read.why}.`);
    const parsed = read.ok && /^collection /m.test(read.text) ? parseMission(read.text) : null;
    const name = parsed?.isCollection ? parsed.sections[0]?.name : undefined;
    if (name !== undefined && read.ok && !found.has(name)) found.set(name, read.text);
  }
  return found;
}

type Chosen<T> = { ok: true; document: T; notes: readonly Problem[] } | { ok: false; problems: PlacedProblem[] };

async function chooseRobot(
  mission: Mission,
  file: string | undefined,
  placed: (problem: Problem) => PlacedProblem,
): Promise<Chosen<Robot>> {
  if (file !== undefined) {
    const own = await readJson(file, "robot", readRobot);
    return own.ok ? { ...own, notes: notesOn(mission, "robot", own.document, own.unknown) } : own;
  }
  const known = await demoDocuments(".robot.json", readRobot);
  const [first] = known;
  const header = mission.headers.find((candidate) => candidate.word === "robot");
  if (!header)
    return first ? { ok: true, document: first, notes: [] } : { ok: false, problems: [placed(noRobotAtAll(START))] };
  const robot = known.find((candidate) => candidate.name === header.value);
  if (robot) return { ok: true, document: robot, notes: [] };
  const names = known.map((candidate) => candidate.name);
  return {
    ok: false,
    problems: [placed(elsewhere(unknownDocument(header.valueSpan, "robot", header.value, names), "--robot"))],
  };
}

async function chooseField(
  mission: Mission,
  file: string | undefined,
  placed: (problem: Problem) => PlacedProblem,
): Promise<Chosen<Field>> {
  if (file !== undefined) {
    const own = await readJson(file, "field", readField);
    return own.ok ? { ...own, notes: notesOn(mission, "field", own.document, own.unknown) } : own;
  }
  const name = headerValue(mission, "field");
  if (name === null) return { ok: true, document: openFloor(), notes: [] };
  const header = mission.headers.find((candidate) => candidate.word === "field");
  const known = await demoDocuments(".field.json", readField);
  const field = known.find((candidate) => candidate.name === name);
  if (field) return { ok: true, document: field, notes: [] };
  return {
    ok: false,
    problems: [
      placed(
        elsewhere(
          unknownDocument(
            header?.valueSpan ?? START,
            "field",
            name,
            known.map((f) => f.name),
          ),
          "--field",
        ),
      ),
    ],
  };
}

/** The demo documents are not all there is: a file of one's own is named with an option. */
function elsewhere(problem: Problem, option: string): Problem {
  return { ...problem, message: `${problem.message} For a file of your own add ${option} FILE.` };
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
