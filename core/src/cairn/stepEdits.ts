// Edits of several steps at once, as changes of text: copy, paste, wrap, move in and out, switch off, make a
// routine, give a number a name. Each builds the new lines and returns the smallest stretch that differs.
import { applyChange, extentOf, insertValue, type Place, placeAtLine, type TextChange } from "./edits.js";
import { type Block, innerBlocks, type Mission, type Statement, statementsOf } from "./tree.js";

const OFF = "# off: ";

/** The smallest change that turns one text into the other; null when they are the same. */
export function smallestChange(before: string, after: string): TextChange | null {
  if (before === after) return null;
  const most = Math.min(before.length, after.length);
  let start = 0;
  while (start < most && before[start] === after[start]) start += 1;
  let end = 0;
  while (end < most - start && before[before.length - 1 - end] === after[after.length - 1 - end]) end += 1;
  return { start, end: before.length - end, insert: after.slice(start, after.length - end) };
}

function linesOf(mission: Mission): string[] {
  return mission.text.split("\n");
}

function isFilled(line: string | undefined): boolean {
  return (line ?? "").trim() !== "";
}

/** Lines first..end of a step with its comments and all nested in it, without blank lines after it. */
function stretch(mission: Mission, { statement, block }: Place): { first: number; end: number } {
  const { first, end } = extentOf(statement, block);
  const lines = linesOf(mission);
  let last = end;
  while (last > first + 1 && !isFilled(lines[last - 1])) last -= 1;
  return { first, end: last };
}

/** Steps on some lines, without those nested in others of them, in order. */
export function placesOf(mission: Mission, lines: readonly number[]): Place[] {
  const places = [...new Set(lines)].sort((a, b) => a - b).flatMap((line) => placeAtLine(mission, line) ?? []);
  const outer: Place[] = [];
  let covered = -1;
  for (const place of places) {
    if (place.statement.line < covered) continue;
    outer.push(place);
    covered = extentOf(place.statement, place.block).end;
  }
  return outer;
}

/** The places when they are neighbours in one block; null otherwise. */
function neighbours(places: readonly Place[]): { block: Block; places: readonly Place[] } | null {
  const [first] = places;
  if (!first) return null;
  const steps = statementsOf(first.block);
  const from = steps.indexOf(first.statement);
  const fit = places.every((place, i) => place.block === first.block && steps[from + i] === place.statement);
  return fit ? { block: first.block, places } : null;
}

function shifted(lines: readonly string[], by: number): string[] {
  return lines.map((line) => {
    if (!isFilled(line)) return "";
    return by >= 0 ? " ".repeat(by) + line : line.replace(new RegExp(`^ {0,${-by}}`), "");
  });
}

/** Text of steps, at the left margin. */
export function copySteps(mission: Mission, places: readonly Place[]): string {
  const lines = linesOf(mission);
  return `${places
    .flatMap((place) => {
      const { first, end } = stretch(mission, place);
      return shifted(lines.slice(first, end), -place.block.indent);
    })
    .join("\n")}\n`;
}

export function deleteSteps(mission: Mission, places: readonly Place[]): TextChange | null {
  const lines = linesOf(mission);
  for (const place of [...places].reverse()) {
    const { first, end } = stretch(mission, place);
    lines.splice(first, end - first);
  }
  return smallestChange(mission.text, lines.join("\n"));
}

/** Puts text at the left margin into a block after a step, or at the mission's end. */
export function pasteSteps(mission: Mission, text: string, after: Place | null): TextChange | null {
  const block = after?.block ?? mission.body;
  if (!block || !isFilled(text)) return null;
  const lines = linesOf(mission);
  const pasted = text.replace(/\r\n/g, "\n").replace(/\t/g, "  ").split("\n");
  const filled = pasted.filter(isFilled);
  const least = Math.min(...filled.map((line) => /^ */.exec(line)?.[0].length ?? 0));
  let at = after ? stretch(mission, after).end : block.endLine;
  if (!after) while (at > block.headLine + 1 && !isFilled(lines[at - 1])) at -= 1;
  lines.splice(at, 0, ...shifted(trimEnds(pasted), block.indent - least));
  return smallestChange(mission.text, lines.join("\n"));
}

function trimEnds(lines: readonly string[]): string[] {
  let [first, end] = [0, lines.length];
  while (first < end && !isFilled(lines[first])) first += 1;
  while (end > first && !isFilled(lines[end - 1])) end -= 1;
  return lines.slice(first, end);
}

export function duplicateSteps(mission: Mission, places: readonly Place[]): TextChange | null {
  const last = places.at(-1);
  return last ? pasteSteps(mission, copySteps(mission, places), last) : null;
}

/** What a run of steps can be wrapped in: lines before, and after, at the steps' own indent. */
const WRAPS = {
  repeat: { before: ["repeat 2 times"], after: [] },
  if: { before: ["if clock > 1 s"], after: [] },
  during: { before: ["during"], after: ["whenever robot.stalled", "  leave"] },
} as const;

/** @returns null when the steps are not neighbours */
export function wrapSteps(mission: Mission, places: readonly Place[], how: keyof typeof WRAPS): TextChange | null {
  const run = neighbours(places);
  if (!run) return null;
  const { before, after } = WRAPS[how];
  const lines = linesOf(mission);
  const first = stretch(mission, run.places[0] as Place).first;
  const end = stretch(mission, run.places.at(-1) as Place).end;
  const { indent } = run.block;
  lines.splice(
    first,
    end - first,
    ...shifted(before, indent),
    ...shifted(lines.slice(first, end), 2),
    ...shifted(after, indent),
  );
  return smallestChange(mission.text, lines.join("\n"));
}

/** Moves steps into the end of the step before them, when that one has steps inside. */
export function indentSteps(mission: Mission, places: readonly Place[]): TextChange | null {
  const run = neighbours(places);
  if (!run) return null;
  const steps = statementsOf(run.block);
  const before = steps[steps.indexOf((run.places[0] as Place).statement) - 1];
  const into = before ? innerBlocks(before).at(-1) : undefined;
  if (!into) return null;
  return moveRun(mission, run.places, into.indent - run.block.indent);
}

/** Moves steps out behind the step they are in. */
export function outdentSteps(mission: Mission, places: readonly Place[]): TextChange | null {
  const run = neighbours(places);
  if (!run) return null;
  const parent = parentOf(mission, run.block);
  // A block without steps is none.
  if (!parent || statementsOf(run.block).length === run.places.length) return null;
  const text = copySteps(mission, run.places);
  const lines = linesOf(mission);
  const end = stretch(mission, parent).end;
  const ranges = run.places.map((place) => stretch(mission, place));
  lines.splice(end, 0, ...shifted(text.replace(/\n$/, "").split("\n"), parent.block.indent));
  for (const { first, end: last } of [...ranges].reverse()) lines.splice(first, last - first);
  return smallestChange(mission.text, lines.join("\n"));
}

function moveRun(mission: Mission, places: readonly Place[], by: number): TextChange | null {
  const lines = linesOf(mission);
  for (const place of places) {
    const { first, end } = stretch(mission, place);
    lines.splice(first, end - first, ...shifted(lines.slice(first, end), by));
  }
  return smallestChange(mission.text, lines.join("\n"));
}

/** The step a block stands in; null for the mission and routines. */
function parentOf(mission: Mission, block: Block): Place | null {
  const search = (within: Block): Place | null => {
    for (const statement of statementsOf(within)) {
      for (const inner of innerBlocks(statement)) {
        if (inner === block) return { statement, block: within };
        const found = search(inner);
        if (found) return found;
      }
    }
    return null;
  };
  for (const body of [mission.body, ...mission.routines.map((routine) => routine.body)]) {
    const found = body ? search(body) : null;
    if (found) return found;
  }
  return null;
}

/** Turns steps into comments that remember them; null when their block would have no step left. */
export function disableSteps(mission: Mission, places: readonly Place[]): TextChange | null {
  const lines = linesOf(mission);
  for (const place of places) {
    const gone = places.filter((other) => other.block === place.block).length;
    if (statementsOf(place.block).length <= gone) return null;
    const { indent } = place.block;
    const { end } = stretch(mission, place);
    for (let i = place.statement.line; i < end; i += 1) {
      const line = lines[i] ?? "";
      if (isFilled(line)) lines[i] = `${" ".repeat(indent)}${OFF}${line.slice(indent)}`;
    }
  }
  return smallestChange(mission.text, lines.join("\n"));
}

/** Whether a comment is a step that was switched off. */
export function isSwitchedOff(comment: string): boolean {
  return comment.startsWith(OFF.slice(2));
}

/** Turns a switched-off step on again, with the lines that belong to it. */
export function enableSteps(mission: Mission, line: number): TextChange | null {
  const lines = linesOf(mission);
  const pattern = /^( *)# off: ( *)(.*)$/;
  const head = pattern.exec(lines[line] ?? "");
  if (!head) return null;
  const [, indent = "", inner = ""] = head;
  let i = line;
  for (let match: RegExpExecArray | null = head; match; match = pattern.exec(lines[i] ?? "")) {
    const nested = (match[2] ?? "").length > inner.length;
    if (i > line && (match[1] !== indent || !(nested || isPartnerWord(match[3] ?? "")))) break;
    lines[i] = `${indent}${match[2]}${match[3]}`;
    i += 1;
  }
  return smallestChange(mission.text, lines.join("\n"));
}

function isPartnerWord(words: string): boolean {
  return /^(else|also|whenever)\b/.test(words);
}

/** Moves a run of steps into a routine above the mission and calls it in their place. */
export function makeRoutine(mission: Mission, places: readonly Place[], name: string): TextChange | null {
  const run = neighbours(places);
  if (!run || !mission.body) return null;
  const lines = linesOf(mission);
  const first = stretch(mission, run.places[0] as Place).first;
  const end = stretch(mission, run.places.at(-1) as Place).end;
  const body = shifted(lines.slice(first, end), 2 - run.block.indent);
  lines.splice(first, end - first, `${" ".repeat(run.block.indent)}${name}()`);
  const inMission = first > mission.body.headLine;
  const head = inMission
    ? mission.body.headLine
    : Math.min(...mission.routines.map((routine) => routine.line).filter((line) => line < first));
  // Comments right above the head stay with it.
  let at = Number.isFinite(head) ? head : mission.body.headLine;
  while (at > 0 && /^#/.test(lines[at - 1] ?? "")) at -= 1;
  const gap = at > 0 && isFilled(lines[at - 1]) ? [""] : [];
  lines.splice(at, 0, ...gap, `routine ${name}()`, ...body, "");
  return smallestChange(mission.text, lines.join("\n"));
}

/** Gives a number in the text a name: sets it at the top and uses it in its place. */
export function nameNumber(mission: Mission, at: { start: number; end: number }, name: string): TextChange | null {
  const value = mission.text.slice(at.start, at.end);
  const replaced = applyChange(mission.text, { ...at, insert: name });
  // The set stands above all steps, so its place is before the number's.
  const set = insertValue(mission, name, value);
  if (set.start > at.start) return null;
  return smallestChange(mission.text, applyChange(replaced, set));
}

/** Puts a value's number back wherever its name stands, and takes its line away. */
export function inlineValue(mission: Mission, name: string): TextChange | null {
  const line = mission.sets.find((set) => set.name.name === name);
  if (!line) return null;
  const simple = line.value.type === "number" || line.value.type === "name" || line.value.type === "call";
  const value = mission.text.slice(line.value.start, line.value.end);
  const written = simple ? value : `(${value})`;
  let text = mission.text;
  for (const place of [...mission.lines].reverse()) {
    if (place.index === line.line) {
      text = text.slice(0, place.start) + text.slice(Math.min(text.length, place.end + 1));
      continue;
    }
    for (let i = place.tokens.length - 1; i > 0; i -= 1) {
      const token = place.tokens[i];
      const before = place.tokens[i - 1];
      if (token?.kind !== "word" || token.text !== name || before?.text === ".") continue;
      // `set x = …` inside a routine or the mission assigns; such a value is no constant.
      if (before?.text === "set") return null;
      const sided = /^(left|right) /.test(written) ? `(${written})` : written;
      text = text.slice(0, token.start) + (line.value.type === "sided" ? written : sided) + text.slice(token.end);
    }
  }
  return smallestChange(mission.text, text);
}

/** Writes a comment above a step. */
export function commentStep(mission: Mission, place: Place, words: string): TextChange | null {
  if (!isFilled(words)) return null;
  const lines = linesOf(mission);
  lines.splice(place.statement.line, 0, `${" ".repeat(place.block.indent)}# ${words.trim()}`);
  return smallestChange(mission.text, lines.join("\n"));
}

/** The number that says how far a step goes or turns, with what it is; null for steps without one. */
export function amountOf(
  statement: Statement,
): { start: number; end: number; of: "length" | "angle"; value: number } | null {
  const amount =
    statement.type === "go" || statement.type === "slide"
      ? statement.distance
      : statement.type === "turn" || statement.type === "arc"
        ? statement.amount
        : null;
  const number = amount?.type === "sided" ? amount.operand : amount;
  if (number?.type !== "number") return null;
  const of = statement.type === "go" || statement.type === "slide" ? "length" : "angle";
  return { start: number.start, end: number.end, of, value: number.value };
}
