// Text to tree. Recovers at line ends: a line that does not parse becomes a `broken` node and the rest goes on.
import { LineCursor, takeName, unquote } from "./expressions.js";
import { type Line, lexLines, type Token } from "./lexer.js";
import {
  elseAlone,
  emptyBlock,
  headerLate,
  headerTwice,
  leftOver,
  missionTwice,
  noMission,
  notText,
  notYet,
  noVersion,
  type Problem,
  tooDeep,
  tooLarge,
  topLevelStep,
  unexpectedIndent,
  unknownStep,
  unknownTop,
  unknownVersion,
} from "./problems.js";
import { parseStep } from "./steps.js";
import type { Block, Branch, Header, Item, Mission, Parameter, Routine, SetLine, Statement } from "./tree.js";
import { LATER_PARTNERS, LATER_STEPS, nearestWord, STEP_FORMS, TYPES, type TypeWord } from "./words.js";

/** Longest text taken, characters: hundreds of times the longest real mission. */
export const LONGEST_TEXT = 1_000_000;
const DEEPEST_BLOCK = 40;
const TOP_WORDS = ["cairn", "robot", "field", "begin", "goal", "set", "routine", "mission"];

/** @param text - a whole .cairn file; any string is taken */
export function parseMission(text: string): Mission {
  if (text.length > LONGEST_TEXT) return emptyMission(text, tooLarge(text.length, LONGEST_TEXT));
  const odd = text.search(/[\0-\x08\x0e-\x1f\ufffd]/);
  if (odd !== -1) return emptyMission(text, notText({ start: odd, end: odd + 1 }));
  return new FileParser(text).parse();
}

function emptyMission(text: string, problem: Problem): Mission {
  return { text, lines: [], headers: [], goal: null, sets: [], routines: [], body: null, problems: [problem] };
}

class FileParser {
  private readonly problems: Problem[] = [];
  private readonly lines: Line[];
  private readonly headers: Header[] = [];
  private readonly sets: SetLine[] = [];
  private readonly routines: Routine[] = [];
  private goal: Mission["goal"] = null;
  private body: Block | null = null;
  /** For each line, the index of the next one that is not blank. */
  private readonly nextFilled: Int32Array;
  private at = 0;
  private deepReported = false;

  constructor(private readonly text: string) {
    this.lines = lexLines(text, this.report);
    this.nextFilled = new Int32Array(this.lines.length);
    let next = this.lines.length;
    for (let i = this.lines.length - 1; i >= 0; i -= 1) {
      this.nextFilled[i] = next;
      const line = this.lines[i] as Line;
      if (line.tokens.length > 0 || line.comment) next = i;
    }
  }

  private readonly report = (problem: Problem): void => {
    this.problems.push(problem);
  };

  parse(): Mission {
    this.version();
    while (this.at < this.lines.length) this.topLine(this.lines[this.at] as Line);
    if (this.body === null && this.problems.length === 0) this.report(noMission(this.text.length));
    const { text, lines, headers, goal, sets, routines, body } = this;
    const problems = this.problems.sort((a, b) => a.start - b.start || a.end - b.end);
    return { text, lines, headers, goal, sets, routines, body, problems };
  }

  private version(): void {
    while (this.at < this.lines.length && (this.lines[this.at] as Line).tokens.length === 0) this.at += 1;
    const line = this.lines[this.at];
    const [word, number] = line?.tokens ?? [];
    if (!line || word?.text !== "cairn") {
      this.at = 0;
      const at = word ?? { start: 0, end: 0 };
      this.report(noVersion({ start: at.start, end: at.end }));
      return;
    }
    this.at += 1;
    if (number?.text !== "1") this.report(unknownVersion(number ?? word, number?.text ?? ""));
    else if (line.tokens.length > 2) this.report(leftOver(line.tokens[2] as Token, this.restOf(line, 2)));
  }

  private restOf(line: Line, from: number): string {
    return this.text.slice((line.tokens[from] as Token).start, (line.tokens[line.tokens.length - 1] as Token).end);
  }

  private topLine(line: Line): void {
    const first = line.tokens[0];
    if (!first) {
      this.at += 1;
      return;
    }
    if (line.indent > 0) {
      this.report(
        line.tokens[0] && this.body === null
          ? topLevelStep(first, first.text)
          : unexpectedIndent({ start: line.start, end: line.start + line.indent }, 0),
      );
      this.skipDeeper(line.indent - 1);
      return;
    }
    switch (first.text) {
      case "robot":
      case "field":
      case "begin":
        return this.header(line, first.text);
      case "goal":
        return this.goalLine(line);
      case "set":
        return this.setLine(line);
      case "routine":
        return this.routine(line);
      case "mission":
        return this.mission(line);
      default:
        return this.strayTop(line, first);
    }
  }

  private strayTop(line: Line, first: Token): void {
    if (first.text in STEP_FORMS || LATER_STEPS.has(first.text)) this.report(topLevelStep(first, first.text));
    else if (first.text === "remote") this.report(notYet(first, "remote"));
    else if (first.text === "cairn") this.report(headerTwice(first, "cairn"));
    else this.report(unknownTop(first, first.text, nearestWord(first.text, TOP_WORDS)));
    this.at += 1;
    this.skipDeeper(line.indent);
  }

  /** Moves past lines indented further than `indent`, blank ones included. */
  private skipDeeper(indent: number): void {
    while (this.at < this.lines.length) {
      const line = this.lines[this.at] as Line;
      if (line.tokens.length > 0 && line.indent <= indent) return;
      this.at += 1;
    }
  }

  private cursor(line: Line): LineCursor {
    const cursor = new LineCursor(line, this.report);
    cursor.at = 1;
    return cursor;
  }

  private finishLine(cursor: LineCursor): void {
    const token = cursor.token;
    if (token && !cursor.failed)
      cursor.fail(
        leftOver(
          { start: token.start, end: (cursor.line.tokens.at(-1) as Token).end },
          this.restOf(cursor.line, cursor.at),
        ),
      );
  }

  private span(line: Line): { line: number; start: number; end: number } {
    return { line: line.index, start: line.start + line.indent, end: line.tokens.at(-1)?.end ?? line.end };
  }

  private header(line: Line, word: Header["word"]): void {
    this.at += 1;
    const cursor = this.cursor(line);
    const value = cursor.token;
    if (value?.kind !== "text") {
      cursor.missing(`a name in quotes, such as ${word} "Drizzle",`);
      return;
    }
    cursor.at += 1;
    this.finishLine(cursor);
    if (this.headers.some((header) => header.word === word)) this.report(headerTwice(line.tokens[0] as Token, word));
    if (this.sets.length + this.routines.length > 0 || this.body)
      this.report(headerLate(line.tokens[0] as Token, word));
    this.headers.push({
      word,
      value: unquote(value.text),
      valueSpan: { start: value.start, end: value.end },
      ...this.span(line),
    });
  }

  private goalLine(line: Line): void {
    this.at += 1;
    const cursor = this.cursor(line);
    const condition = cursor.condition();
    this.finishLine(cursor);
    if (this.goal) this.report(headerTwice(line.tokens[0] as Token, "goal"));
    if (!cursor.failed) this.goal = { condition, ...this.span(line) };
  }

  private setLine(line: Line): void {
    this.at += 1;
    const cursor = this.cursor(line);
    const name = takeName(cursor, "a name for the value");
    if (!cursor.takeSymbol("=") && !cursor.failed) cursor.missing('"="', " = ");
    const value = cursor.condition();
    this.finishLine(cursor);
    if (name && !cursor.failed) this.sets.push({ name, value, ...this.span(line) });
  }

  private routine(line: Line): void {
    this.at += 1;
    const cursor = this.cursor(line);
    const name = takeName(cursor, "a name for the routine");
    const parameters = this.parameters(cursor);
    this.finishLine(cursor);
    const body = this.block(line, "routine", 1);
    if (name) this.routines.push({ name, parameters, body, ...this.span(line) });
  }

  private parameters(cursor: LineCursor): Parameter[] {
    const list: Parameter[] = [];
    if (!cursor.takeSymbol("(")) {
      cursor.missing('"(" and ")"', "()");
      return list;
    }
    if (cursor.takeSymbol(")")) return list;
    do {
      const name = takeName(cursor, "a parameter's name");
      if (!cursor.takeSymbol(":")) cursor.missing('":" and a kind, such as side: angle');
      const kind = cursor.takeWord(...TYPES) as TypeWord | null;
      if (!kind) cursor.missing(`a kind (${TYPES.join(", ")})`);
      const fallback = cursor.takeSymbol("=") ? cursor.angle() : null;
      if (name && kind) list.push({ ...name, kind, fallback });
    } while (!cursor.failed && cursor.takeSymbol(","));
    if (!cursor.failed && !cursor.takeSymbol(")")) cursor.missing('a closing ")"', ")");
    return list;
  }

  private mission(line: Line): void {
    this.at += 1;
    this.finishLine(this.cursor(line));
    const body = this.block(line, "mission", 1);
    if (this.body) this.report(missionTwice(line.tokens[0] as Token));
    else this.body = body;
  }

  /** The block below a head line; the cursor stands on the line after the head. */
  private block(head: Line, word: string, depth: number): Block {
    const indent = head.indent + 2;
    const items: Item[] = [];
    while (this.at < this.lines.length) {
      const line = this.lines[this.at] as Line;
      if (line.tokens.length === 0) {
        if (!this.belongs(head.indent, line)) break;
        items.push({
          type: line.comment ? "comment" : "blank",
          line: line.index,
          start: line.comment?.start ?? line.start,
          end: line.end,
        });
        this.at += 1;
        continue;
      }
      if (line.indent <= head.indent) break;
      items.push(this.statement(line, indent, depth));
    }
    if (!items.some((item) => item.type !== "comment" && item.type !== "blank"))
      this.report(emptyBlock(head.tokens[0] as Token, word));
    return { indent, items, headLine: head.index, endLine: this.at };
  }

  /** Whether a blank or comment line is inside the block: a deeper statement follows, or the comment is indented. */
  private belongs(headIndent: number, line: Line): boolean {
    if (line.comment && line.indent > headIndent) return true;
    const next = this.lines[this.nextFilled[line.index] as number];
    return next !== undefined && next.indent > headIndent;
  }

  private statement(line: Line, indent: number, depth: number): Statement {
    const wrongIndent = line.indent !== indent && line.indent % 2 === 0;
    if (wrongIndent) this.report(unexpectedIndent({ start: line.start, end: line.start + line.indent }, indent));
    const first = line.tokens[0] as Token;
    if (depth > DEEPEST_BLOCK) {
      if (!this.deepReported) this.report(tooDeep(first, DEEPEST_BLOCK));
      this.deepReported = true;
      this.at += 1;
      this.skipDeeper(line.indent);
      return { type: "broken", ...this.span(line) };
    }
    switch (first.text) {
      case "repeat":
        return this.repeat(line, depth);
      case "if":
        return this.conditional(line, depth);
      case "else":
        this.report(elseAlone(first));
        return this.brokenWithBlock(line);
      default:
        return this.simple(line, first);
    }
  }

  private brokenWithBlock(line: Line): Statement {
    this.at += 1;
    this.skipDeeper(line.indent);
    return { type: "broken", ...this.span(line) };
  }

  private simple(line: Line, first: Token): Statement {
    if (LATER_STEPS.has(first.text) || LATER_PARTNERS.has(first.text)) {
      if (!LATER_PARTNERS.has(first.text)) this.report(notYet(first, first.text === "hand" ? "hand over" : first.text));
      this.at += 1;
      this.skipDeeper(line.indent);
      return { type: "later", word: first.text, ...this.span(line) };
    }
    this.at += 1;
    const cursor = new LineCursor(line, this.report);
    const step = parseStep(cursor);
    if (step === null) {
      const words = [...Object.keys(STEP_FORMS), ...LATER_STEPS];
      cursor.fail(unknownStep(first, first.text, first.kind === "word" ? nearestWord(first.text, words) : null));
    } else this.finishLine(cursor);
    this.deeperThanAllowed(line);
    if (step === null || cursor.failed) return { type: "broken", ...this.span(line) };
    return { ...step, ...this.span(line) } as Statement;
  }

  /** Lines below a simple step that are indented further have no head. */
  private deeperThanAllowed(line: Line): void {
    let next = this.at;
    while (next < this.lines.length && (this.lines[next] as Line).tokens.length === 0) next += 1;
    const below = this.lines[next];
    if (!below || below.indent <= line.indent || below.indent % 2 === 1) return;
    this.report(unexpectedIndent({ start: below.start, end: below.start + below.indent }, line.indent));
    this.skipDeeper(line.indent);
  }

  private repeat(line: Line, depth: number): Statement {
    this.at += 1;
    const cursor = this.cursor(line);
    const times = cursor.done ? null : cursor.sum();
    if (times && !cursor.takeWord("times") && !cursor.failed) cursor.missing('"times"', " times");
    this.finishLine(cursor);
    const body = this.block(line, "repeat", depth + 1);
    return { type: "repeat", times, body, ...this.span(line) };
  }

  private conditional(line: Line, depth: number): Statement {
    const branches: Branch[] = [this.branch(line, 1, depth)];
    let otherwise: Block | null = null;
    for (;;) {
      const next = this.nextAt(line.indent);
      if (next?.tokens[0]?.text !== "else") break;
      this.at = next.index;
      if (next.tokens[1]?.text === "if") branches.push(this.branch(next, 2, depth));
      else {
        this.at += 1;
        this.finishLine(this.cursor(next));
        otherwise = this.block(next, "else", depth + 1);
        break;
      }
    }
    return { type: "if", branches, otherwise, ...this.span(line) };
  }

  /** The next line with words, if it stands at this indent. */
  private nextAt(indent: number): Line | null {
    for (let i = this.at; i < this.lines.length; i += 1) {
      const line = this.lines[i] as Line;
      if (line.tokens.length > 0) return line.indent === indent ? line : null;
    }
    return null;
  }

  private branch(line: Line, from: number, depth: number): Branch {
    this.at += 1;
    const cursor = this.cursor(line);
    cursor.at = from;
    const condition = cursor.condition();
    this.finishLine(cursor);
    return { condition, body: this.block(line, "if", depth + 1), ...this.span(line) };
  }
}
