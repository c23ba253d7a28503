// `giddy program`: what a mission becomes, and whether a program from a file is one.
import { type Program, placeProblems, printProgram, readingsOf, readProgram } from "@giddy-pebble/core";
import { type DocumentOptions, load, problemLines } from "./documents.js";
import { nameOf, readText } from "./files.js";

/** Larger files are no program, bytes. */
const LARGEST = 20_000_000;

/** @returns exit status: 0 printed, 2 when there is no program to print */
export async function programCommand(file: string, options: DocumentOptions & { json?: boolean }): Promise<number> {
  return file.endsWith(".json") ? written(file, options) : lowered(file, options);
}

async function lowered(file: string, options: DocumentOptions & { json?: boolean }): Promise<number> {
  const loaded = await load(file, options);
  if (loaded.ok && loaded.prepared.program) {
    const names = new Map<number, string>();
    for (const [id, { slot, ofTask }] of readingsOf(loaded.prepared.context.robot)) if (!ofTask) names.set(slot, id);
    return say(loaded.prepared.program, options, names);
  }
  const problems = loaded.ok ? placeProblems(loaded.text, loaded.prepared.check.problems) : loaded.problems;
  if (options.json) process.stdout.write(`${JSON.stringify({ ok: false, problems })}\n`);
  else process.stderr.write(problemLines(nameOf(file), problems));
  return 2;
}

/** A program from a file is read as if it came from a stranger. */
async function written(file: string, options: { json?: boolean }): Promise<number> {
  const read = await readText(file, LARGEST);
  if (!read.ok) return refuse(file, options, [{ place: "", message: `the file cannot be read: ${read.why}` }]);
  let value: unknown;
  try {
    value = JSON.parse(read.text);
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    return refuse(file, options, [{ place: "", message: `it is not JSON: ${why}` }]);
  }
  const program = readProgram(value);
  return program.ok ? say(program.program, options, new Map()) : refuse(file, options, program.faults);
}

function say(program: Program, options: { json?: boolean }, names: ReadonlyMap<number, string>): number {
  process.stdout.write(options.json ? `${JSON.stringify(program)}\n` : `${printProgram(program, names).join("\n")}\n`);
  return 0;
}

function refuse(
  file: string,
  options: { json?: boolean },
  faults: readonly { readonly place: string; readonly message: string }[],
): number {
  if (options.json) process.stdout.write(`${JSON.stringify({ ok: false, faults })}\n`);
  else
    for (const { place, message } of faults)
      process.stderr.write(`${nameOf(file)}: ${place === "" ? "" : `${place}: `}${message}\n`);
  return 2;
}
