// Edits of the step list as changes of text: each keeps every other line as it was typed, to the byte.

import { statementAtLine } from "./rows.js";
import type { Block, Mission, Statement } from "./tree.js";

/** One stretch of text replaced by another. */
export interface TextChange {
  readonly start: number;
  readonly end: number;
  readonly insert: string;
}

export function applyChange(text: string, change: TextChange): string {
  return text.slice(0, change.start) + change.insert + text.slice(change.end);
}

/** Lines a statement takes: its comments right above it, itself, and all that is nested in it. */
interface Extent {
  readonly first: number;
  /** One past the last. */
  readonly end: number;
}

export function extentOf(statement: Statement, block: Block): Extent {
  const index = block.items.indexOf(statement);
  let first = statement.line;
  for (let i = index - 1; i >= 0 && block.items[i]?.type === "comment"; i -= 1) first = block.items[i]?.line ?? first;
  const after = block.items[index + 1];
  return { first, end: after ? after.line : block.endLine };
}

function offsetOfLine(mission: Mission, line: number): number {
  return mission.lines[line]?.start ?? mission.text.length;
}

/** Text of lines first..end, each with its line break. */
function textOfLines(mission: Mission, extent: Extent): string {
  const text = mission.text.slice(offsetOfLine(mission, extent.first), offsetOfLine(mission, extent.end));
  return text.endsWith("\n") ? text : `${text}\n`;
}

export function deleteStep(mission: Mission, statement: Statement, block: Block): TextChange {
  const { first, end } = extentOf(statement, block);
  return { start: offsetOfLine(mission, first), end: offsetOfLine(mission, end), insert: "" };
}

/** Where a new line goes: after a statement (and all nested in it), or at the end of the mission. */
export function insertStep(
  mission: Mission,
  stepText: string,
  after: { statement: Statement; block: Block } | null,
): TextChange {
  const block = after?.block ?? mission.body;
  if (!block) {
    const start = mission.text.length;
    return {
      start,
      end: start,
      insert: `${mission.text.endsWith("\n") || start === 0 ? "" : "\n"}\nmission\n  ${stepText.trim()}\n`,
    };
  }
  const line = after
    ? lastFilledLine(mission, extentOf(after.statement, block)) + 1
    : lastFilledLine(mission, { first: block.headLine, end: block.endLine }) + 1;
  return insertAtLine(mission, line, `${" ".repeat(block.indent)}${stepText.trim()}\n`);
}

function insertAtLine(mission: Mission, line: number, insert: string): TextChange {
  const start = offsetOfLine(mission, line);
  const needsBreak = start === mission.text.length && mission.text.length > 0 && !mission.text.endsWith("\n");
  return { start, end: start, insert: needsBreak ? `\n${insert.replace(/\n$/, "")}` : insert };
}

/** Blank lines at the end of an extent stay behind. */
function lastFilledLine(mission: Mission, { first, end }: Extent): number {
  let last = end - 1;
  while (last > first) {
    const line = mission.lines[last];
    if (line && (line.tokens.length > 0 || line.comment)) break;
    last -= 1;
  }
  return last;
}

function reindent(text: string, by: number): string {
  if (by === 0) return text;
  return text
    .split("\n")
    .map((line) =>
      line.trim() === "" ? line : by > 0 ? " ".repeat(by) + line : line.replace(new RegExp(`^ {0,${-by}}`), ""),
    )
    .join("\n");
}

export interface Place {
  readonly statement: Statement;
  readonly block: Block;
}

/**
 * Moves a step with all nested in it before or after another, into that one's block.
 * @returns null when the target is inside the step that moves, or nothing would change
 */
export function moveStep(mission: Mission, moved: Place, target: Place, side: "before" | "after"): TextChange | null {
  if (moved.statement === target.statement) return null;
  const whole = extentOf(moved.statement, moved.block);
  const from = { first: whole.first, end: lastFilledLine(mission, whole) + 1 };
  const to = extentOf(target.statement, target.block);
  if (to.first >= from.first && to.end <= whole.end) return null;
  const line = side === "before" ? to.first : lastFilledLine(mission, to) + 1;
  if (line >= from.first && line <= from.end) return null;
  const carried = reindent(textOfLines(mission, from), target.block.indent - moved.block.indent);
  // One change over the stretch between both places: the moved lines, and the lines they pass.
  if (line < from.first) {
    const passed = textOfLines(mission, { first: line, end: from.first });
    return spanChange(mission, line, from.end, carried + passed);
  }
  const passed = textOfLines(mission, { first: from.end, end: line });
  return spanChange(mission, from.first, line, passed + carried);
}

function spanChange(mission: Mission, first: number, end: number, insert: string): TextChange {
  const start = offsetOfLine(mission, first);
  const stop = offsetOfLine(mission, end);
  const atEnd = stop === mission.text.length && !mission.text.endsWith("\n");
  return { start, end: stop, insert: atEnd ? insert.replace(/\n$/, "") : insert };
}

/** The step before or after in the same block, for moving by keys. */
export function neighbour(place: Place, direction: -1 | 1): Place | null {
  const steps = place.block.items.filter((item) => item.type !== "comment" && item.type !== "blank") as Statement[];
  const other = steps[steps.indexOf(place.statement) + direction];
  return other ? { statement: other, block: place.block } : null;
}

/** Adds a value line below the last one, or above the first routine or the mission. */
export function insertValue(mission: Mission, name: string, valueText: string): TextChange {
  const line = `set ${name} = ${valueText.trim()}\n`;
  const lastSet = mission.sets.at(-1);
  if (lastSet) return insertAtLine(mission, lastSet.line + 1, line);
  const heads = [...mission.routines.map((routine) => routine.line), mission.body?.headLine ?? mission.lines.length];
  const first = Math.min(...heads);
  return insertAtLine(mission, first, `${line}\n`);
}

const TOP_WORDS = /^(remember|list|table|use)\b/;

/** Whether words are a line that stands above the mission, other than a plain value. */
export function isTopLine(words: string): boolean {
  return TOP_WORDS.test(words.trim());
}

/** Adds such a line: `use` below the headers, the others where values stand. */
export function insertTopLine(mission: Mission, words: string): TextChange {
  const line = `${words.trim()}\n`;
  if (words.trim().startsWith("use")) return insertAtLine(mission, headersEnd(mission), line);
  const last = [...mission.sets, ...mission.lists].map((one) => one.line).sort((a, b) => b - a)[0];
  if (last !== undefined) return insertAtLine(mission, last + 1, line);
  const heads = [...mission.routines.map((routine) => routine.line), mission.body?.headLine ?? mission.lines.length];
  return insertAtLine(mission, Math.min(...heads), `${line}\n`);
}

/** Deletes some lines outside any block, such as a path with its places. */
export function deleteLines(mission: Mission, first: number, end: number): TextChange {
  return { start: offsetOfLine(mission, first), end: offsetOfLine(mission, end), insert: "" };
}

/** Deletes one line outside any block, such as a value. */
export function deleteLine(mission: Mission, line: number): TextChange {
  return { start: offsetOfLine(mission, line), end: offsetOfLine(mission, line + 1), insert: "" };
}

/** Replaces the words of a step's line, keeping indent and comment. */
export function rewriteStep(mission: Mission, line: number, stepText: string): TextChange | null {
  const place = mission.lines[line];
  if (!place || place.tokens.length === 0) return null;
  return { start: place.start + place.indent, end: place.tokens.at(-1)?.end ?? place.end, insert: stepText.trim() };
}

/** The step on a line, as a place for the edits above. */
export function placeAtLine(mission: Mission, line: number): Place | null {
  return statementAtLine(mission, line);
}

/** Sets a header such as `robot "Drizzle"`: in its line, or in a new one below the others. */
export function setHeader(mission: Mission, word: "robot" | "field" | "begin", value: string): TextChange {
  const known = mission.headers.find((header) => header.word === word);
  if (known) return { ...known.valueSpan, insert: `"${value}"` };
  return insertAtLine(mission, headersEnd(mission), `${word} "${value}"\n`);
}

/** Sets the goal's condition, in its line or in a new one below the headers. */
export function setGoal(mission: Mission, condition: string): TextChange {
  const { goal } = mission;
  if (goal) return { start: goal.condition.start, end: goal.condition.end, insert: condition };
  return insertAtLine(mission, headersEnd(mission), `goal ${condition}\n`);
}

function headersEnd(mission: Mission): number {
  const version = mission.lines.findIndex((line) => line.tokens[0]?.text === "cairn");
  return Math.max(version, ...mission.headers.map((header) => header.line), mission.goal?.line ?? -1) + 1;
}
