import { formatMission, placeProblems } from "@giddy-pebble/core";
import { problemLines, readMissionText } from "./documents.js";
import { isStandardInput, nameOf, writeText } from "./files.js";

interface FormatOptions {
  readonly write?: boolean;
  readonly check?: boolean;
}

/** @returns exit status: 0 formatted, 1 when `check` finds another layout, 2 when the text does not parse (it is then left as it is) */
export async function formatCommand(file: string, options: FormatOptions): Promise<number> {
  const read = await readMissionText(file);
  const formatted = read.ok ? formatMission(read.text) : null;
  if (!read.ok || !formatted?.ok) {
    const problems = !read.ok
      ? read.problems
      : formatted && !formatted.ok
        ? placeProblems(read.text, formatted.mission.problems)
        : [];
    process.stderr.write(problemLines(nameOf(file), problems));
    return 2;
  }
  if (options.check) {
    if (formatted.text === read.text) return 0;
    process.stdout.write(`${nameOf(file)} is not in the usual layout. giddy format --write puts it there.\n`);
    return 1;
  }
  if (!options.write || isStandardInput(file)) process.stdout.write(formatted.text);
  else if (formatted.text !== read.text) await writeText(file, formatted.text);
  return 0;
}
