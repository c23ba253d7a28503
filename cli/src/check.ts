import { placeProblems } from "@giddy-pebble/core";
import { type DocumentOptions, load, problemLines } from "./documents.js";

/** @returns exit status: 0 without errors, 2 with */
export async function checkCommand(file: string, options: DocumentOptions & { json?: boolean }): Promise<number> {
  const loaded = await load(file, options);
  const problems = loaded.ok ? placeProblems(loaded.text, loaded.prepared.check.problems) : loaded.problems;
  const errors = problems.filter((problem) => problem.severity === "error").length;
  if (options.json) process.stdout.write(`${JSON.stringify({ ok: errors === 0, problems })}\n`);
  else process.stdout.write(problems.length > 0 ? problemLines(file, problems) : `${file}: no problems\n`);
  return errors === 0 ? 0 : 2;
}
