// `giddy rehearse`: one run or many, as readable lines or one JSON object (a stable contract, docs/formats.md).
import {
  type PlacedProblem,
  type PreparedMission,
  placeProblems,
  type Remembered,
  type RunOptions,
  type RunSummary,
  rehearse,
  rememberedSchema,
  runSeed,
  scriptedHands,
  toRemember,
  traceToCsv,
  wilson95,
} from "@giddy-pebble/core";
import { type DocumentOptions, load, problemLines } from "./documents.js";
import { nameOf, readText, writeText } from "./files.js";

interface RehearseOptions extends DocumentOptions {
  seed: string;
  times?: string;
  ideal?: boolean;
  trace?: string;
  json?: boolean;
  /** A table of what a driver does, for missions that hand over. */
  hands?: string;
  /** A file of what the robot keeps: a run begins with it, and one run alone writes it anew. */
  memory?: string;
}

const MOST_RUNS = 100_000;

function wholeNumber(text: string, name: string, least: number, most: number): number {
  const value = Number(text);
  if (!/^[+-]?\d+$/.test(text.trim()) || value < least || value > most)
    throw new Error(`${name} must be a whole number from ${least} to ${most}, not "${text}".`);
  return value;
}

/** @param named - several missions: each result says which. @returns exit status: 0 success, 1 not, 2 problems in the text or in a document */
export async function rehearseCommand(file: string, options: RehearseOptions, named = false): Promise<number> {
  const seed = wholeNumber(options.seed, "--seed", -2147483648, 4294967295);
  const times = options.times === undefined ? null : wholeNumber(options.times, "--times", 1, MOST_RUNS);
  const loaded = await load(file, options);
  const whose = named ? { file } : {};
  if (!loaded.ok) return problem(file, loaded.problems, options, whose);
  const { prepared, text } = loaded;
  const problems = placeProblems(text, prepared.check.problems);
  if (!prepared.program) return problem(file, problems, options, whose);
  const hands = options.hands === undefined ? null : await handsOf(options.hands);
  if (hands && prepared.program.remote === null && !options.json)
    process.stderr.write(`${nameOf(file)}: no step hands over, so the sticks of --hands move nothing.\n`);
  const remembered = options.memory === undefined ? null : await memoryOf(options.memory);
  const extra = { ...(hands ? { hands } : {}), ...(remembered ? { remembered } : {}) };
  if (!options.json) process.stderr.write(problemLines(nameOf(file), problems));
  if (named && !options.json) process.stdout.write(`${nameOf(file)}\n`);
  return times === null
    ? one(prepared, seed, options, whose, extra)
    : many(prepared, seed, times, options, whose, extra);
}

/** Which file a JSON object is about, where there are several. */
type Whose = { readonly file?: string };

function problem(file: string, problems: readonly PlacedProblem[], options: RehearseOptions, whose: Whose): number {
  if (options.json)
    process.stdout.write(
      `${JSON.stringify({ ...whose, outcome: "problem", success: false, reason: problems[0]?.message ?? "", problems })}\n`,
    );
  else process.stdout.write(problemLines(nameOf(file), problems));
  return 2;
}

/** Warnings of the text beside a run's result; left out where there are none. */
function warned(prepared: PreparedMission): { readonly problems?: readonly PlacedProblem[] } {
  const problems = placeProblems(prepared.mission.text, prepared.check.problems);
  return problems.length > 0 ? { problems } : {};
}

/** What a run is given besides its seed. */
type Given = Pick<RunOptions, "hands" | "remembered">;

/** @throws Error with a sentence about what keeps the table from being one */
async function handsOf(file: string): Promise<NonNullable<RunOptions["hands"]>> {
  const read = await readText(file, 20_000_000);
  const table = read.ok ? scriptedHands(read.text) : { ok: false as const, why: read.why };
  if (!table.ok) throw new Error(`The table ${file} cannot drive: ${table.why}.`);
  return table.hands;
}

/** A file that is not there yet remembers nothing. @throws Error with a sentence about what keeps it from being one */
async function memoryOf(file: string): Promise<Remembered> {
  const read = await readText(file, 1_000_000);
  if (!read.ok) {
    if (read.missing) return {};
    throw new Error(`${file} cannot be read: ${read.why}.`);
  }
  const kept = rememberedSchema.safeParse(jsonOf(read.text));
  if (!kept.success)
    throw new Error(
      `${file} holds no remembered values. Name a file that --memory wrote, or one that is not there yet.`,
    );
  return kept.data;
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

async function one(
  prepared: PreparedMission,
  seed: number,
  options: RehearseOptions,
  whose: Whose,
  given: Given,
): Promise<number> {
  const { summary, trace } = rehearse(prepared, { seed, ideal: options.ideal ?? false, ...given });
  if (options.memory) await writeText(options.memory, `${JSON.stringify(toRemember(summary.remembered), null, 2)}\n`);
  if (options.trace) await writeText(options.trace, traceToCsv(trace));
  process.stdout.write(
    options.json ? `${JSON.stringify({ ...whose, ...contract(summary), ...warned(prepared) })}\n` : readable(summary),
  );
  return summary.success ? 0 : 1;
}

function contract(summary: RunSummary): object {
  const { outcome, success, reason, durationMs, score, zones, loads, tippedMs, start, end, traceHash, notes, signs } =
    summary;
  const { contacts, heard, remembered, notesDropped } = summary;
  const steps = summary.steps.map(({ step, pass, text, startMs, endMs, endedBy, timed, task }) => ({
    step,
    pass,
    text,
    startMs,
    endMs,
    endedBy,
    ...(timed ? { timed } : {}),
    ...(task > 0 ? { task } : {}),
  }));
  return {
    outcome,
    success,
    reason,
    durationMs,
    score,
    ...(zones.length > 0 ? { zones } : {}),
    ...(loads.length > 0 ? { loads } : {}),
    ...(contacts.length > 0 ? { contacts } : {}),
    ...(heard.length > 0 ? { heard } : {}),
    ...(tippedMs === null ? {} : { tippedMs }),
    start,
    end,
    traceHash,
    steps,
    ...(notes.length > 0 ? { notes } : {}),
    ...(notesDropped > 0 ? { notesDropped } : {}),
    ...(remembered.length > 0 ? { remembered } : {}),
    ...(signs.length > 0 ? { signs } : {}),
  };
}

async function many(
  prepared: PreparedMission,
  seed: number,
  times: number,
  options: RehearseOptions,
  whose: Whose,
  given: Given,
): Promise<number> {
  const ends: object[] = [];
  let successes = 0;
  let first: RunSummary | null = null;
  for (let i = 0; i < times; i += 1) {
    const { summary, trace } = rehearse(prepared, {
      seed: runSeed(seed, i),
      ideal: options.ideal ?? false,
      ...given,
    });
    first ??= summary;
    if (i === 0 && options.trace) await writeText(options.trace, traceToCsv(trace));
    if (summary.success) successes += 1;
    ends.push({
      ...summary.end,
      outcome: summary.outcome,
      success: summary.success,
      reason: summary.reason,
      durationMs: summary.durationMs,
      score: summary.score,
    });
  }
  const interval95 = wilson95(successes, times);
  if (!first) return 1;
  const result = {
    ...whose,
    ...contract(first),
    ...warned(prepared),
    runs: times,
    successes,
    successRate: successes / times,
    interval95,
    ends,
  };
  const percent = (value: number) => `${(100 * value).toFixed(1)} %`;
  process.stdout.write(
    options.json
      ? `${JSON.stringify(result)}\n`
      : `${successes} of ${times} rehearsals met the goal: ${percent(successes / times)} (95 % interval ${percent(interval95[0])} to ${percent(interval95[1])})\n`,
  );
  return 0;
}

function readable(summary: RunSummary): string {
  const lines = summary.steps.map(
    (s) =>
      `${s.step.padStart(6)}${s.pass > 1 ? ` ×${s.pass}` : ""}  ${(s.startMs / 1000).toFixed(2).padStart(7)} s to ${(s.endMs / 1000).toFixed(2)} s  ${s.endedBy.padEnd(7)} ${s.text}${s.timed ? "  (timed)" : ""}`,
  );
  const pose = (p: RunSummary["end"]) =>
    `x ${(p.xM * 100).toFixed(1)} cm, y ${(p.yM * 100).toFixed(1)} cm, heading ${p.headingDeg.toFixed(1)} deg`;
  const verdict = summary.success ? "success" : `no success: ${summary.reason}`;
  const touched = summary.contacts
    .slice(0, 8)
    .map(
      ({ what, part, fromMs, hardestN }) =>
        `${part} touched ${what} at ${(fromMs / 1000).toFixed(2)} s, ${hardestN.toFixed(1)} N`,
    );
  if (summary.contacts.length > touched.length)
    touched.push(`and ${summary.contacts.length - touched.length} touches more`);
  if (summary.notesDropped > 0)
    touched.push(`${summary.notesDropped} older notes were dropped; the newest ${summary.notes.length} are kept`);
  for (const { name, words } of summary.remembered) touched.push(`remembers ${name} = ${words}`);
  const touches = touched.map((line) => `${line}\n`).join("");
  const score = summary.score === null ? "" : `, ${summary.score} points`;
  return `${lines.join("\n")}\nbegan  ${pose(summary.start)}\nended  ${pose(summary.end)}\n${touches}${summary.outcome} after ${(summary.durationMs / 1000).toFixed(2)} s${score}: ${verdict}\n`;
}
