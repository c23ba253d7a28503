// `giddy robot`: what a robot's description means, and what is wrong with it.
import { checkRobot, checkWiring, openRobot, robotFigures, supportLoads } from "@giddy-pebble/core";
import { nameOf, readText } from "./files.js";

/** Larger files are no robot: the limit of the server as well, bytes. */
const LARGEST = 2_000_000;

/** @returns exit status: 0 sound, 2 with errors or an unreadable file */
export async function robotCommand(file: string, options: { json?: boolean }): Promise<number> {
  const say = (value: unknown, lines: string[]) =>
    process.stdout.write(options.json ? `${JSON.stringify(value)}\n` : `${lines.join("\n")}\n`);
  const fail = (messages: readonly string[]) => {
    const problems = messages.map((message) => ({ code: "bad-robot", severity: "error", part: "", message, mend: "" }));
    say(
      { ok: false, problems, figures: [] },
      messages.map((message) => `${nameOf(file)}: ${message}`),
    );
    return 2;
  };
  const read = await readText(file, LARGEST);
  if (!read.ok && read.bytes !== undefined)
    return fail([`the file has ${Math.ceil(read.bytes / 1e6)} MB; a robot has 2 MB at most.`]);
  if (!read.ok) return fail([`${nameOf(file)} cannot be read: ${read.why}. Check its name and place.`]);
  const { text } = read;
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    return fail([`it is not JSON: ${error instanceof Error ? error.message : String(error)}`]);
  }
  const opened = openRobot(value);
  if (!opened.ok) return fail(opened.problems);
  const robot = opened.document;
  const unknown = (opened.unknown ?? []).map((message) => ({
    code: "unknown-key",
    severity: "warning" as const,
    part: "",
    message,
    mend: "Take it out, or write the key it stands for.",
  }));
  const problems = [...checkRobot(robot), ...unknown];
  const sound = problems.every((problem) => problem.severity !== "error");
  const figures = sound ? robotFigures(robot) : [];
  const wiring = checkWiring(robot);
  const wired = wiring.every(({ severity }) => severity !== "error");
  say({ ok: sound && wired, name: robot.name, problems, figures, loads: supportLoads(robot), wiring }, [
    robot.name,
    ...figures.map((figure) => `  ${figure.label.padEnd(32)} ${figure.shown.padStart(18)}   ${figure.formula}`),
    ...problems.map((problem) => `  ${problem.severity}: ${problem.message} ${problem.mend}`),
    ...wiring
      .filter((note) => note.severity !== "fine")
      .map((note) => `  wiring ${note.severity}: ${note.message} ${note.mend}`),
  ]);
  return sound && wired ? 0 : 2;
}
