// What is wrong with a mission: what its grammar and its checks tell, with what was meant by everyday words.
import type { CheckContext } from "./checkContext.js";
import { Checker } from "./checker.js";
import { withMeanings } from "./meant.js";
import { parseMission } from "./parser.js";
import type { Problem } from "./problems.js";
import type { Symbols } from "./symbols.js";
import type { Mission } from "./tree.js";

export interface CheckResult {
  /** Grammar problems too, in order of place. */
  readonly problems: readonly Problem[];
  readonly symbols: Symbols;
  /** No errors: it can be compiled. */
  readonly runnable: boolean;
}

export function checkMission(mission: Mission, context: CheckContext): CheckResult {
  const checker = new Checker(mission, context);
  checker.run();
  const found = [...mission.problems, ...checker.problems].sort((a, b) => a.start - b.start || a.end - b.end);
  const problems = withMeanings(mission, found, context.robot, (lines) => isGood(lines, mission, context));
  const runnable = mission.body !== null && problems.every((problem) => problem.severity !== "error");
  return { problems, symbols: checker.symbols, runnable };
}

/**
 * What the words alone tell, while the robot or the field is not known: the grammar's problems, with what was meant by
 * everyday words.
 */
export function wordProblems(mission: Mission): readonly Problem[] {
  return withMeanings(mission, mission.problems, null, (lines) => isGood(lines, mission, null));
}

/**
 * Whether lines by themselves are steps without problems; a repeat has its step still to come.
 * @param context - the robot they are for; null asks for their grammar alone
 */
function isGood(lines: readonly string[], mission: Mission, context: CheckContext | null): boolean {
  const inner = lines.some((line) => /^repeat\b/.test(line)) ? ["  wait 1 s"] : [];
  // What they name is there, whatever else is wrong with it.
  const routines = mission.routines.map(({ name }) => `routine ${name.name}()\n  wait 1 s\n`).join("");
  const top = `cairn 1\n${declarations(mission)}${routines}`;
  const alone = parseMission(`${top}mission\n${[...lines, ...inner].map((line) => `  ${line}`).join("\n")}\n`);
  const isWrong = ({ severity, start }: Problem) => severity === "error" && start >= top.length;
  if (alone.problems.some(isWrong)) return false;
  if (!context) return true;
  const checker = new Checker(alone, context);
  checker.run();
  return !checker.problems.some(isWrong);
}

/** The lines of a mission that declare values, lists, tables and paths. */
function declarations({ lines, text, sets, lists, paths }: Mission): string {
  const places = paths.flatMap(({ line, places: own }) => [line, ...own.map((place) => place.line)]);
  const numbers = [...sets, ...lists].map(({ line }) => line).concat(places);
  return numbers
    .sort((a, b) => a - b)
    .map((number) => `${text.slice(lines[number]?.start ?? 0, lines[number]?.end ?? 0).trimEnd()}\n`)
    .join("");
}
