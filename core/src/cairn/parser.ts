// Text to tree. Recovers at line ends: a line that does not parse becomes a `broken` node and the rest goes on.

import { BlockParser } from "./blockParser.js";
import type { LineCursor } from "./expressions.js";
import { takeName, unquote } from "./expressions.js";
import type { Line, Token } from "./lexer.js";
import {
  headerLate,
  headerTwice,
  leftOver,
  missionTwice,
  noMission,
  notText,
  noVersion,
  type Problem,
  remoteTwice,
  tooLarge,
  tooManyLines,
  topLevelStep,
  unexpectedIndent,
  unknownTop,
  unknownVersion,
} from "./problems.js";
import type { Block, Header, Mission, Parameter, Routine, SetLine } from "./tree.js";
import { nearestWord, STEP_FORMS, TYPES, type TypeWord } from "./words.js";

/** Longest text taken, characters: hundreds of times the longest real mission. */
export const LONGEST_TEXT = 1_000_000;
/** Most lines of a mission. One of 5,000 works well; this is where a page would feel it. */
export const MOST_LINES = 20_000;
const TOP_WORDS = ["cairn", "robot", "field", "begin", "goal", "set", "routine", "mission", "remote"];

/** @param text - a whole .cairn file; any string is taken */
export function parseMission(text: string): Mission {
  if (text.length > LONGEST_TEXT) return emptyMission(text, tooLarge(text.length, LONGEST_TEXT));
  const lines = countLines(text);
  if (lines > MOST_LINES) return emptyMission(text, tooManyLines(lines, MOST_LINES));
  const odd = text.search(/[\0-\x08\x0e-\x1f\ufffd]/);
  if (odd !== -1) return emptyMission(text, notText({ start: odd, end: odd + 1 }));
  return new FileParser(text).parse();
}

function countLines(text: string): number {
  let lines = 1;
  for (let at = text.indexOf("\n"); at !== -1; at = text.indexOf("\n", at + 1)) lines += 1;
  return lines;
}

function emptyMission(text: string, problem: Problem): Mission {
  return {
    text,
    lines: [],
    headers: [],
    goal: null,
    sets: [],
    routines: [],
    body: null,
    remote: null,
    problems: [problem],
  };
}

class FileParser extends BlockParser {
  private readonly headers: Header[] = [];
  private readonly sets: SetLine[] = [];
  private readonly routines: Routine[] = [];
  private goal: Mission["goal"] = null;
  private body: Block | null = null;
  private remoteBlock: Block | null = null;

  parse(): Mission {
    this.version();
    while (this.at < this.lines.length) this.topLine(this.lines[this.at] as Line);
    if (this.body === null && this.problems.length === 0) this.report(noMission(this.text.length));
    const { text, lines, headers, goal, sets, routines, body, remoteBlock: remote } = this;
    const problems = this.problems.sort((a, b) => a.start - b.start || a.end - b.end);
    return { text, lines, headers, goal, sets, routines, body, remote, problems };
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
      case "remote":
        return this.remote(line);
      default:
        return this.strayTop(line, first);
    }
  }

  private strayTop(line: Line, first: Token): void {
    if (Object.hasOwn(STEP_FORMS, first.text)) this.report(topLevelStep(first, first.text));
    else if (first.text === "cairn") this.report(headerTwice(first, "cairn"));
    else this.report(unknownTop(first, first.text, nearestWord(first.text, TOP_WORDS)));
    this.at += 1;
    this.skipDeeper(line.indent);
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

  private remote(line: Line): void {
    this.at += 1;
    this.finishLine(this.cursor(line));
    this.inRemote = true;
    const block = this.block(line, "remote", 1);
    this.inRemote = false;
    if (this.remoteBlock) this.report(remoteTwice(line.tokens[0] as Token));
    else this.remoteBlock = block;
  }
}
