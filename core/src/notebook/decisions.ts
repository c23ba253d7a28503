// The page of decisions: what was changed, why, and what it did.
import { compareTexts } from "../documents/compareTexts.js";
import { robotFigures } from "../insight/figures.js";
import { checkRobot } from "../robot/check.js";
import { compareRobots } from "../robot/compare.js";
import type { Robot } from "../robot/schema.js";
import type { VersionRate } from "./drawings.js";
import { dayWords, heading, spoken, table, text } from "./pieces.js";
import type { PageBlock } from "./schema.js";

/** A version with what it holds, and what the version before it held. */
interface Changed<T> {
  readonly number: number;
  readonly name: string | null;
  readonly reason: string;
  /** ISO 8601. */
  readonly madeAt: string;
  readonly before: T;
  readonly after: T;
}

export interface RobotDecisions {
  readonly kind: "robot";
  readonly name: string;
  readonly href: string;
  /** Newest first. */
  readonly changes: readonly Changed<Robot>[];
}

export interface MissionDecisions {
  readonly kind: "mission";
  readonly name: string;
  readonly href: string;
  readonly changes: readonly Changed<string>[];
  readonly rates: readonly VersionRate[];
}

/** Most that a cell names. */
const MOST_NAMED = 4;

function joined(parts: readonly string[]): string {
  const rest = parts.length - MOST_NAMED;
  return [...parts.slice(0, MOST_NAMED), ...(rest > 0 ? [`and ${rest} more`] : [])].join("\n");
}

function robotChange({ before, after }: Changed<Robot>): [what: string, did: string] {
  const what = compareRobots(before, after).map(({ part, label, before: was, after: is }) =>
    was === "" || is === ""
      ? `${spoken(part)}: ${label} ${was === "" ? is : was}`.trim()
      : `${spoken(part)}, ${label}: ${was} → ${is}`,
  );
  const figures = (robot: Robot) =>
    new Map(
      checkRobot(robot).some(({ severity }) => severity === "error")
        ? []
        : robotFigures(robot).map(({ id, label, shown }) => [id, { label, shown }]),
    );
  const [was, is] = [figures(before), figures(after)];
  const did = [...is].flatMap(([id, { label, shown }]) => {
    const old = was.get(id);
    return old === undefined || old.shown === shown ? [] : [`${label} ${old.shown} → ${shown}`];
  });
  return [joined(what), joined(did)];
}

/** "3 of 10" of a version; empty when nobody ran it. */
function rate(rates: readonly VersionRate[], number: number): string {
  const found = rates.find((one) => one.number === number);
  return found && found.runs > 0 ? `${found.successes} of ${found.runs}` : "";
}

function missionChange({ rates }: MissionDecisions, change: Changed<string>): [what: string, did: string] {
  const lines = compareTexts(change.before, change.after).filter(({ text: words }) => words.trim() !== "");
  const of = (is: "gone" | "new") => lines.filter((line) => line.is === is).map(({ text: words }) => words.trim());
  const [gone, came] = [of("gone"), of("new")];
  const what = [
    ...gone.slice(0, 2).map((line) => `− ${line}`),
    ...came.slice(0, 2).map((line) => `+ ${line}`),
    ...(gone.length + came.length > 4 ? [`${gone.length} lines out and ${came.length} lines in, in all`] : []),
  ];
  const [was, is] = [rate(rates, change.number - 1), rate(rates, change.number)];
  const did = is === "" ? "not run yet" : was === "" ? `worked ${is}` : `worked ${was} before, ${is} now`;
  return [what.join("\n"), did];
}

/** @param list - documents with more than one version */
export function decisionsPage(list: readonly (RobotDecisions | MissionDecisions)[]): PageBlock[] {
  const told = list.filter(({ changes }) => changes.length > 0);
  if (told.length === 0)
    return [text("Nothing was changed after it was made. Each new version of a robot or a mission comes here.")];
  return told.flatMap((one): PageBlock[] => {
    const rows =
      one.kind === "robot"
        ? one.changes.map((change) => [change, robotChange(change)] as const)
        : one.changes.map((change) => [change, missionChange(one, change)] as const);
    return [
      heading(`${one.kind === "robot" ? "Robot" : "Mission"} ${one.name}`),
      table(
        ["Version", "Why", "What was changed", "What it did", "When"],
        rows.map(([{ number, name, reason, madeAt }, [what, did]]) => [
          name === null ? String(number) : `${number}, ${name}`,
          reason,
          what,
          did,
          dayWords(madeAt),
        ]),
        { words: `Versions of ${one.name}`, href: one.href },
      ),
    ];
  });
}
