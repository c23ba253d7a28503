// Text to tree. Recovers at line ends: a line that does not parse becomes a `broken` node and the rest goes on.

import { nearestWord, STEP_FORMS, TOP_WORDS, TYPES, type TypeWord } from "../words/language.js";
import { BlockParser } from "./blockParser.js";
import type { LineCursor } from "./expressions.js";
import { takeName, unquote } from "./expressions.js";
import type { Line, Token } from "./lexer.js";
import {
  emptyPath,
  headerLate,
  headerTwice,
  leftOver,
  longPath,
  missionTwice,
  noMission,
  notMission,
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
  wholeSize,
} from "./problems.js";
import type { Block, Expression, Header, ListLine, Mission, Parameter, PathLine, Routine, SetLine } from "./tree.js";

/** Longest text taken, characters: hundreds of times the longest real mission. */
export const LONGEST_TEXT = 1_000_000;
/** Most lines of a mission. One of 5,000 works well; this is where a page would feel it. */
export const MOST_LINES = 20_000;
/** A list holds at most so many values: it has to fit onto a small board. */
const LONGEST_LIST = 500;
const MOST_PLACES = 200;

/** @param text - a whole .cairn file; any string is taken */
export function parseMission(text: string): Mission {
  if (text.length > LONGEST_TEXT) return emptyMission(text, tooLarge(text.length, LONGEST_TEXT));
  const lines = countLines(text);
  if (lines > MOST_LINES) return emptyMission(text, tooManyLines(lines, MOST_LINES));
  const odd = text.search(/[\0-\x08\x0e-\x1f\ufffd]/);
  if (odd !== -1) return emptyMission(text, notText({ start: odd, end: odd + 1 }));
  const other = otherThan(text);
  if (other !== null)
    return emptyMission(text, notMission({ start: 0, end: text.indexOf("\n") + 1 || text.length }, other));
  return new FileParser(text).parse();
}

/** What a text is that was written for something else; null where it may be a mission. */
function otherThan(text: string): string | null {
  const begin = text.slice(0, 200).trimStart();
  if (/^<(\?xml|!doctype|html|svg)\b/i.test(begin)) return "a drawing or a page of the web";
  if (!/^[{[]/.test(begin)) return null;
  let value: unknown;
  try {
    value = JSON.parse(text.trimStart());
  } catch {
    return null;
  }
  const { format } = value as { format?: unknown };
  const own = typeof format === "string" ? /^giddy-pebble\/(\w+)$/.exec(format)?.[1] : undefined;
  return own === undefined ? "JSON" : (OWN_FILES[own] ?? "another file of Giddy Pebble");
}

/** Files of ours that are no missions, by their format. */
const OWN_FILES: Readonly<Record<string, string>> = { robot: "a robot", field: "a field", program: "a program" };

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
    isCollection: false,
    sections: [],
    sets: [],
    lists: [],
    paths: [],
    routines: [],
    body: null,
    remote: null,
    problems: [problem],
  };
}

class FileParser extends BlockParser {
  private readonly headers: Header[] = [];
  private readonly sets: SetLine[] = [];
  private readonly lists: ListLine[] = [];
  private readonly paths: PathLine[] = [];
  private readonly routines: Routine[] = [];
  private readonly sections: Mission["sections"][number][] = [];
  private goal: Mission["goal"] = null;
  private body: Block | null = null;
  private remoteBlock: Block | null = null;

  parse(): Mission {
    this.version();
    while (this.at < this.lines.length) this.topLine(this.lines[this.at] as Line);
    const isCollection = this.body === null && this.sections.length > 0;
    if (this.body === null && !isCollection && this.problems.length === 0) this.report(noMission(this.text.length));
    const { text, lines, headers, sections, goal, sets, lists, paths, routines, body, remoteBlock: remote } = this;
    const problems = this.problems.sort((a, b) => a.start - b.start || a.end - b.end);
    return { text, lines, headers, isCollection, sections, goal, sets, lists, paths, routines, body, remote, problems };
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
      case "use":
        return this.header(line, first.text);
      case "collection":
        return this.collectionLine(line);
      case "goal":
        return this.goalLine(line);
      case "set":
      case "remember":
        return this.setLine(line, first.text === "remember");
      case "list":
      case "table":
        return this.listLine(line, first.text === "table");
      case "path":
        return this.pathLine(line);
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
    const again = (header: Header) => header.word === word && (word !== "use" || header.value === unquote(value.text));
    if (this.headers.some(again)) this.report(headerTwice(line.tokens[0] as Token, word));
    if (this.sets.length + this.lists.length + this.routines.length > 0 || this.body)
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

  /** `collection "Moves"`: its routines follow; at the top of a text without a mission they are all of it. */
  private collectionLine(line: Line): void {
    this.at += 1;
    const cursor = this.cursor(line);
    const value = cursor.token;
    if (value?.kind !== "text") {
      cursor.missing('a name in quotes, such as collection "Moves",');
      return;
    }
    cursor.at += 1;
    this.finishLine(cursor);
    const name = unquote(value.text);
    const own = this.body === null && this.sections.length > 0;
    if (own || this.sections.some((section) => section.name === name))
      this.report(headerTwice(line.tokens[0] as Token, "collection"));
    this.sections.push({ name, start: value.start, end: value.end, lineStart: line.start });
  }

  /** `list NAME of KIND, at most N, rolling`; a table has `by KIND` too. */
  private listLine(line: Line, table: boolean): void {
    this.at += 1;
    const cursor = this.cursor(line);
    const name = takeName(cursor, `a name for the ${table ? "table" : "list"}`, true);
    if (!cursor.failed && !cursor.takeWord("of")) cursor.missing('"of" and a kind', " of length");
    const of = cursor.takeWord(...TYPES) as TypeWord | null;
    if (!of) cursor.missing(`a kind (${TYPES.join(", ")})`);
    let by: TypeWord | null = null;
    if (table) {
      if (!cursor.failed && !cursor.takeWord("by")) cursor.missing('"by" and a kind of key', " by colour");
      by = cursor.takeWord("colour", "number", "text") as TypeWord | null;
      if (!by) cursor.missing("a kind of key (colour, number, text)");
    }
    const most = this.atMost(cursor);
    let rolling = false;
    if (!table && cursor.takeSymbol(",")) {
      rolling = cursor.takeWord("rolling") !== null;
      if (!rolling) cursor.missing('"rolling"', " rolling");
    }
    this.finishLine(cursor);
    if (name && of && !cursor.failed) this.lists.push({ name, of, by, most, rolling, ...this.span(line) });
  }

  /** `, at most N` at the cursor: what a list takes is known before the run. */
  private atMost(cursor: LineCursor): number {
    cursor.takeSymbol(",");
    const said = !cursor.failed && cursor.takeWord("at") !== null && cursor.takeWord("most") !== null;
    const number = cursor.token;
    if (!said || number?.kind !== "number") {
      cursor.missing('"at most" and how many values', ", at most 10");
      return 0;
    }
    cursor.at += 1;
    if (!/^\d+$/.test(number.text) || number.unit !== "" || number.value < 1 || number.value > LONGEST_LIST)
      cursor.fail(wholeSize(number, LONGEST_LIST));
    return number.value;
  }

  /** `path NAME` and its places, one a line. */
  private pathLine(line: Line): void {
    this.at += 1;
    const cursor = this.cursor(line);
    const name = takeName(cursor, "a name for the path", true);
    this.finishLine(cursor);
    const places: PathLine["places"][number][] = [];
    while (this.at < this.lines.length) {
      const next = this.lines[this.at] as Line;
      if (next.tokens.length > 0 && next.indent <= line.indent) break;
      this.at += 1;
      if (next.tokens.length === 0) continue;
      const inner = this.cursor(next);
      inner.at = 0;
      const x = inner.sum();
      if (!inner.takeSymbol(",")) inner.missing('"," and how far to the left', ", 0 cm");
      const y: Expression = inner.failed ? { type: "missing", ...inner.gap } : inner.sum();
      this.finishLine(inner);
      if (!inner.failed) places.push({ x, y, ...this.span(next) });
    }
    const first = line.tokens[0] as Token;
    if (places.length === 0) this.report(emptyPath(first));
    if (places.length > MOST_PLACES) this.report(longPath(first, MOST_PLACES));
    if (name && !cursor.failed) this.paths.push({ name, places, ...this.span(line) });
  }

  private setLine(line: Line, remembered: boolean): void {
    this.at += 1;
    const cursor = this.cursor(line);
    const name = takeName(cursor, "a name for the value", true);
    if (!cursor.takeSymbol("=") && !cursor.failed) cursor.missing('"="', " = ");
    const value = cursor.condition();
    this.finishLine(cursor);
    if (name && !cursor.failed) this.sets.push({ name, value, remembered, ...this.span(line) });
  }

  private routine(line: Line): void {
    this.at += 1;
    const cursor = this.cursor(line);
    const name = takeName(cursor, "a name for the routine", true);
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
      const name = takeName(cursor, "a parameter's name", true);
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
