// `giddy export` and `giddy lockstep`: missions for real boards, and whether they behave as rehearsed.
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import {
  avrTarget,
  cppTarget,
  type Exported,
  exportMission,
  type Lockstep,
  lockstep,
  pythonTarget,
  TARGETS,
  type TargetName,
} from "@giddy-pebble/boards";
import { type PlacedProblem, type PreparedMission, placeProblems } from "@giddy-pebble/core";
import { type DocumentOptions, load, problemLines } from "./documents.js";
import { nameOf } from "./files.js";

interface ExportOptions extends DocumentOptions {
  target: string;
  out: string;
  json?: boolean;
}

interface LockstepOptions extends DocumentOptions {
  target: string;
  seed: string;
  ideal?: boolean;
  json?: boolean;
}

const MAKES = { cpp: cppTarget, micropython: pythonTarget, avr: avrTarget } as const;

function targetOf(words: string): TargetName {
  const found = TARGETS.find((name) => name === words);
  if (!found) throw new Error(`--target must be one of ${TARGETS.join(", ")}, not "${words}".`);
  return found;
}

/** A mission that can be run; null when it was told why not. */
export async function ready(
  file: string,
  options: DocumentOptions & { json?: boolean },
): Promise<PreparedMission | null> {
  const loaded = await load(file, options);
  const problems = loaded.ok ? placeProblems(loaded.text, loaded.prepared.check.problems) : loaded.problems;
  if (loaded.ok && loaded.prepared.program) {
    if (!options.json) process.stderr.write(problemLines(nameOf(file), problems));
    return loaded.prepared;
  }
  refuse(file, problems, options);
  return null;
}

function refuse(file: string, problems: readonly PlacedProblem[], options: { json?: boolean }): void {
  if (options.json) process.stdout.write(`${JSON.stringify({ ok: false, problems })}\n`);
  else process.stderr.write(problemLines(nameOf(file), problems));
}

/** @returns exit status: 0 written, 2 when there is a problem */
export async function exportBoardCommand(file: string, options: ExportOptions): Promise<number> {
  const target = targetOf(options.target);
  const prepared = await ready(file, options);
  if (!prepared?.program) return 2;
  const title = path.basename(file).replace(/\.cairn$/, "");
  const { files, problems, chip, missing } = await exportMission(
    target,
    prepared.program,
    prepared.context.robot,
    title,
  );
  if (problems.length > 0) {
    const told = problems.map(({ line, step, message }) => ({ line, step, message }));
    if (options.json) process.stdout.write(`${JSON.stringify({ ok: false, problems: told })}\n`);
    else for (const { line, message } of problems) process.stderr.write(`${nameOf(file)}:${line}: ${message}\n`);
    return 2;
  }
  await mkdir(options.out, { recursive: true });
  for (const [name, text] of files) await writeFile(path.join(options.out, name), text);
  process.stdout.write(
    options.json
      ? `${JSON.stringify({ ok: true, target, files: [...files.keys()], chip, missing })}\n`
      : `${files.size} files written into ${options.out}. Read README.md there first.\n${chipLine(chip, missing)}`,
  );
  return 0;
}

/** What it takes of the chip, or what is missing to tell. */
function chipLine(chip: Exported["chip"], missing: string | null): string {
  if (!chip) return missing === null ? "" : `It was not compiled. ${missing}\n`;
  const { name, flashBytes, flashMost, ramBytes, ramMost } = chip;
  return `${name}: ${flashBytes} of ${flashMost} bytes of program, ${ramBytes} of ${ramMost} bytes of values.\n`;
}

/** @returns exit status: 0 equal, 1 not, 2 when there is a problem */
export async function lockstepCommand(file: string, options: LockstepOptions): Promise<number> {
  const target = targetOf(options.target);
  const seed = Number(options.seed);
  if (!/^[+-]?\d+$/.test(options.seed.trim()) || seed < -2147483648 || seed > 4294967295)
    throw new Error(`--seed must be a whole number from -2147483648 to 4294967295, not "${options.seed}".`);
  const prepared = await ready(file, options);
  if (!prepared) return 2;
  const found = await lockstep(prepared, await MAKES[target](prepared), { seed, ideal: options.ideal ?? false });
  process.stdout.write(options.json ? `${JSON.stringify(found)}\n` : readable(found));
  return found.equal ? 0 : 1;
}

function readable(found: Lockstep): string {
  const { target, ticks, equal, events, worstDuty, endMm, endDeg, edges, differences, chip } = found;
  const lines = [
    `${target}: ${equal ? "behaves as rehearsed" : "behaves otherwise"}`,
    `${ticks} ticks, ${events.same} steps alike, ${events.different} not`,
    `orders differ by ${(worstDuty * 100).toFixed(3)} % at most`,
    `the robots stand ${endMm.toFixed(2)} mm and ${endDeg.toFixed(3)} deg apart in the end`,
    ...(chip
      ? [
          `${chip.name}: ${chip.flashBytes} bytes of program, ${chip.ramBytes} of values, ${chip.leastFreeBytes} never used`,
          `the longest tick took ${chip.longestTickMs.toFixed(2)} ms of 10 ms`,
        ]
      : []),
    ...edges.map((words) => `on a knife's edge: ${words}`),
    ...differences.map((words) => `different: ${words}`),
  ];
  return `${lines.join("\n")}\n`;
}
