// Blocks and the steps in them. A line that does not parse becomes a `broken` node and the rest goes on.

import { nearestWord, PARTNERS, REMOTE_FORMS, STEP_FORMS, TOP_FORMS, TOP_WORDS } from "../words/language.js";
import { type DeclaredNames, LineCursor, takeName } from "./expressions.js";
import { type Line, lexLines, type Token } from "./lexer.js";
import {
  emptyBlock,
  leftOver,
  notAmongSteps,
  notRemote,
  type Problem,
  partnerAlone,
  partnerMissing,
  tooDeep,
  unexpectedIndent,
  unknownStep,
  wantsArm,
} from "./problems.js";
import { parseRemoteLine } from "./remoteSteps.js";
import { parseArm, parseStep } from "./steps.js";
import type { Arm, Block, Branch, Item, Name, Statement } from "./tree.js";

const DEEPEST_BLOCK = 40;
/** Mistyped words that get a guess: each costs as much as parsing many lines. */
const MOST_GUESSES = 300;

/** The lines of a text and a place among them. */
export class BlockParser {
  protected readonly problems: Problem[] = [];
  protected readonly lines: Line[];
  protected at = 0;
  /** For each line, the index of the next one that is not blank. */
  private readonly nextFilled: Int32Array;
  private deepReported = false;
  private guesses = 0;
  /** Lines are bindings of sticks and buttons. */
  protected inRemote = false;

  protected readonly names: DeclaredNames;
  /** Indent of the unknown step above: what stands below it may belong to it, and waits without problems of its own. */
  private unknownIndent = Number.POSITIVE_INFINITY;

  constructor(protected readonly text: string) {
    this.lines = lexLines(text, this.report);
    this.names = declaredNames(this.lines);
    this.nextFilled = new Int32Array(this.lines.length);
    let next = this.lines.length;
    for (let i = this.lines.length - 1; i >= 0; i -= 1) {
      this.nextFilled[i] = next;
      const line = this.lines[i] as Line;
      if (line.tokens.length > 0 || line.comment) next = i;
    }
  }

  protected readonly report = (problem: Problem): void => {
    this.problems.push(problem);
  };

  protected restOf(line: Line, from: number): string {
    return this.text.slice((line.tokens[from] as Token).start, (line.tokens[line.tokens.length - 1] as Token).end);
  }

  /** Moves past lines indented further than `indent`, blank ones included. */
  protected skipDeeper(indent: number): void {
    while (this.at < this.lines.length) {
      const line = this.lines[this.at] as Line;
      if (line.tokens.length > 0 && line.indent <= indent) return;
      this.at += 1;
    }
  }

  protected cursor(line: Line): LineCursor {
    const cursor = new LineCursor(line, this.report, this.names);
    cursor.at = 1;
    return cursor;
  }

  protected finishLine(cursor: LineCursor): void {
    const token = cursor.token;
    if (token && !cursor.failed)
      cursor.fail(
        leftOver(
          { start: token.start, end: (cursor.line.tokens.at(-1) as Token).end },
          this.restOf(cursor.line, cursor.at),
        ),
      );
  }

  protected span(line: Line): { line: number; start: number; end: number } {
    return { line: line.index, start: line.start + line.indent, end: line.tokens.at(-1)?.end ?? line.end };
  }

  /** The block below a head line; the cursor stands on the line after the head. */
  protected block(head: Line, word: string, depth: number): Block {
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
      if (line.indent > this.unknownIndent) {
        items.push({ type: "broken", ...this.span(line) });
        this.at += 1;
        continue;
      }
      this.unknownIndent = Number.POSITIVE_INFINITY;
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
    if (this.inRemote) return this.simple(line, first);
    switch (first.text) {
      case "repeat":
        return this.repeat(line, depth);
      case "every":
        return this.every(line, depth);
      case "if":
        return this.conditional(line, depth);
      case "choose":
        return this.choose(line, depth);
      case "together":
        return this.together(line, depth);
      case "during":
        return this.during(line, depth);
      default:
        if (!Object.hasOwn(PARTNERS, first.text)) return this.simple(line, first);
        this.report(partnerAlone(first, first.text, PARTNERS[first.text] as string));
        return this.brokenWithBlock(line);
    }
  }

  private brokenWithBlock(line: Line): Statement {
    this.at += 1;
    this.skipDeeper(line.indent);
    return { type: "broken", ...this.span(line) };
  }

  /** The known word a mistyped one is nearest to; not looked for any more in a text that is no mission at all. */
  private nearest(first: Token, words: readonly string[]): string | null {
    this.guesses += 1;
    return first.kind === "word" && this.guesses <= MOST_GUESSES ? nearestWord(first.text, words) : null;
  }

  private simple(line: Line, first: Token): Statement {
    this.at += 1;
    const cursor = new LineCursor(line, this.report, this.names);
    const step = this.inRemote ? parseRemoteLine(cursor, this.span(line)) : parseStep(cursor);
    if (step === null && this.inRemote) {
      cursor.fail(notRemote(first, first.text, this.nearest(first, Object.keys(REMOTE_FORMS))));
    } else if (step === null && TOP_WORDS.includes(first.text)) {
      cursor.fail(notAmongSteps(first, first.text, TOP_FORMS[first.text] ?? null));
    } else if (step === null) {
      cursor.fail(unknownStep(first, first.text, this.nearest(first, Object.keys(STEP_FORMS))));
    } else this.finishLine(cursor);
    if (step === null) this.unknownIndent = line.indent;
    else this.deeperThanAllowed(line);
    if (step === null || cursor.failed) return { type: "broken", ...this.span(line) };
    const { line: number, start, end } = this.span(line);
    return { ...step, line: number, start, end } as Statement;
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
    const how = cursor.takeWord("while", "until") as "while" | "until" | null;
    const condition = how ? cursor.condition() : null;
    const each = !how && cursor.takeWord("for") ? eachOf(cursor) : null;
    const times = how || each || cursor.done || cursor.failed ? null : cursor.sum();
    if (times && !cursor.takeWord("times") && !cursor.failed) cursor.missing('"times"', " times");
    const counter = times && cursor.takeWord("as") ? takeName(cursor, "a name for the number of the pass", true) : null;
    this.finishLine(cursor);
    const body = this.block(line, "repeat", depth + 1);
    return { type: "repeat", times, counter, condition, how, each, body, ...this.span(line) };
  }

  private every(line: Line, depth: number): Statement {
    this.at += 1;
    const cursor = this.cursor(line);
    const period = cursor.done ? cursor.missing("a time, such as 20 ms,", " 20 ms") : cursor.sum();
    const until = cursor.takeWord("until") ? cursor.condition() : null;
    const limit = cursor.takeWord("limit") ? cursor.sum() : null;
    this.finishLine(cursor);
    const body = this.block(line, "every", depth + 1);
    return { type: "every", period, until, limit, body, ...this.span(line) };
  }

  private conditional(line: Line, depth: number): Statement {
    const branches: Branch[] = [this.branch(line, 1, depth, "if")];
    let otherwise: Block | null = null;
    for (let next = this.partner(line, "else"); next; next = this.partner(line, "else")) {
      if (next.tokens[1]?.text === "if") branches.push(this.branch(next, 2, depth, "if"));
      else {
        otherwise = this.plainBlock(next, depth);
        break;
      }
    }
    return { type: "if", branches, otherwise, ...this.span(line) };
  }

  private together(line: Line, depth: number): Statement {
    this.at += 1;
    const cursor = this.cursor(line);
    const untilOne = cursor.takeWord("until") !== null;
    if (untilOne && !(cursor.takeWord("one") && cursor.takeWord("ends"))) cursor.missing('"one ends"', " one ends");
    this.finishLine(cursor);
    const branches = [this.block(line, "together", depth + 1)];
    for (let next = this.partner(line, "also"); next; next = this.partner(line, "also"))
      branches.push(this.plainBlock(next, depth));
    if (branches.length === 1) this.report(partnerMissing(line.tokens[0] as Token, "together", "also"));
    return { type: "together", untilOne, branches, ...this.span(line) };
  }

  private during(line: Line, depth: number): Statement {
    this.at += 1;
    this.finishLine(this.cursor(line));
    const body = this.block(line, "during", depth + 1);
    const handlers: Branch[] = [];
    for (let next = this.partner(line, "whenever"); next; next = this.partner(line, "whenever"))
      handlers.push(this.branch(next, 1, depth, "whenever"));
    if (handlers.length === 0) this.report(partnerMissing(line.tokens[0] as Token, "during", "whenever"));
    return { type: "during", body, handlers, ...this.span(line) };
  }

  /** `choose`: its arms stand inside it, their steps inside them. */
  private choose(line: Line, depth: number): Statement {
    this.at += 1;
    const cursor = this.cursor(line);
    const subject = cursor.done ? cursor.missing("a value to choose by") : cursor.sum();
    this.finishLine(cursor);
    const arms: Arm[] = [];
    let otherwise: Block | null = null;
    for (let next = this.inner(line); next; next = this.inner(line)) {
      const first = next.tokens[0] as Token;
      const indent = line.indent + 2;
      if (next.indent !== indent && next.indent % 2 === 0)
        this.report(unexpectedIndent({ start: next.start, end: next.start + next.indent }, indent));
      this.at = next.index;
      if (otherwise) this.report(partnerAlone(first, first.text, "choose"));
      if (first.text === "otherwise") otherwise = this.plainBlock(next, depth + 1);
      else this.arm(next, depth, arms);
    }
    if (arms.length === 0) this.report(emptyBlock(line.tokens[0] as Token, "choose"));
    return { type: "choose", subject, arms, otherwise, ...this.span(line) };
  }

  private arm(line: Line, depth: number, arms: Arm[]): void {
    const first = line.tokens[0] as Token;
    this.at += 1;
    const cursor = new LineCursor(line, this.report, this.names);
    const arm = parseArm(cursor);
    if (!arm) {
      cursor.fail(wantsArm(first, first.text));
      // Kept in the tree as an arm that never fits.
      const none: Block = { indent: line.indent + 2, items: [], headLine: line.index, endLine: this.at };
      const body = this.inner(line) ? this.block(line, first.text, depth + 2) : none;
      arms.push({ values: [], compare: null, body, ...this.span(line) });
      return;
    }
    this.finishLine(cursor);
    arms.push({ ...arm, body: this.block(line, first.text, depth + 2), ...this.span(line) });
  }

  /** The next line with words if it stands deeper than a head. */
  private inner(head: Line): Line | null {
    const next = this.filled();
    return next && next.indent > head.indent ? next : null;
  }

  private filled(): Line | null {
    for (let i = this.at; i < this.lines.length; i += 1) {
      const line = this.lines[i] as Line;
      if (line.tokens.length > 0) return line;
    }
    return null;
  }

  /** The next line with words, if it continues the head with this word; the place moves to it. */
  private partner(head: Line, word: string): Line | null {
    const next = this.filled();
    if (next?.indent !== head.indent || next.tokens[0]?.text !== word) return null;
    this.at = next.index;
    return next;
  }

  /** A head that says nothing more, such as `else`, and its block. */
  private plainBlock(head: Line, depth: number): Block {
    this.at += 1;
    this.finishLine(this.cursor(head));
    return this.block(head, (head.tokens[0] as Token).text, depth + 1);
  }

  private branch(line: Line, from: number, depth: number, word: string): Branch {
    this.at += 1;
    const cursor = this.cursor(line);
    cursor.at = from;
    const condition = cursor.condition();
    this.finishLine(cursor);
    return { condition, body: this.block(line, word, depth + 1), ...this.span(line) };
  }
}

/** `each NAME in LIST` at the cursor. */
function eachOf(cursor: LineCursor): { name: Name; list: Name } | null {
  if (!cursor.takeWord("each")) cursor.missing('"each" and a name', " each value in looks");
  const name = cursor.failed ? null : takeName(cursor, "a name for each value", true);
  if (!cursor.failed && !cursor.takeWord("in")) cursor.missing('"in" and a list', " in looks");
  const list = cursor.failed ? null : takeName(cursor, "the name of a list");
  return name && list ? { name, list } : null;
}

const DECLARES = new Set(["set", "remember", "list", "table", "path"]);

/** Names a text declares, found by their place on the line, before anything is parsed. */
function declaredNames(lines: readonly Line[]): DeclaredNames {
  const all = new Set<string>();
  const lists = new Set<string>();
  const routines = new Set<string>();
  for (const { tokens } of lines) {
    const first = tokens[0];
    const second = tokens[1];
    if (first?.kind !== "word") continue;
    if (first.text === "repeat") {
      const before = tokens.findIndex(({ text }) => text === "as" || text === "each");
      const name = before === -1 ? undefined : tokens[before + 1];
      if (name?.kind === "word") all.add(name.text);
    }
    if (second?.kind !== "word") continue;
    if (DECLARES.has(first.text)) all.add(second.text);
    if (first.text === "list" || first.text === "table") lists.add(second.text);
    if (first.text === "routine") {
      routines.add(second.text);
      all.add(second.text);
      tokens.forEach((token, i) => {
        if (token.kind === "word" && tokens[i + 1]?.text === ":") all.add(token.text);
      });
    }
  }
  return { all, lists, routines };
}
