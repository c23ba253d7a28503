import { writeFile } from "node:fs/promises";
import { formatMission, placeProblems } from "@giddy-pebble/core";
import { problemLines, readMissionText } from "./documents.js";

/** @returns exit status: 0 formatted, 2 when the text does not parse (it is then left as it is) */
export async function formatCommand(file: string, options: { write?: boolean }): Promise<number> {
  const read = await readMissionText(file);
  const formatted = read.ok ? formatMission(read.text) : null;
  if (!read.ok || !formatted?.ok) {
    const problems = !read.ok
      ? read.problems
      : formatted && !formatted.ok
        ? placeProblems(read.text, formatted.mission.problems)
        : [];
    process.stderr.write(problemLines(file, problems));
    return 2;
  }
  if (!options.write) process.stdout.write(formatted.text);
  else if (formatted.text !== read.text) await writeFile(file, formatted.text);
  return 0;
}
