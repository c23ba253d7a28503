import { placeProblems } from "@giddy-pebble/core";
import { type DocumentOptions, load, problemLines } from "./documents.js";
import { nameOf } from "./files.js";

/** @param named - several files: JSON says which. @returns exit status: 0 without errors, 2 with */
export async function checkCommand(
  file: string,
  options: DocumentOptions & { json?: boolean },
  named = false,
): Promise<number> {
  const loaded = await load(file, options);
  const problems = loaded.ok ? placeProblems(loaded.text, loaded.prepared.check.problems) : loaded.problems;
  const errors = problems.filter((problem) => problem.severity === "error").length;
  if (options.json)
    process.stdout.write(`${JSON.stringify({ ...(named ? { file } : {}), ok: errors === 0, problems })}\n`);
  else
    process.stdout.write(problems.length > 0 ? problemLines(nameOf(file), problems) : `${nameOf(file)}: no problems\n`);
  return errors === 0 ? 0 : 2;
}
