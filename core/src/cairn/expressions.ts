// Expressions and conditions from one line's tokens, by recursive descent with a depth limit. The first
// problem of a line is reported; what follows it on the line is taken as it comes.

import { UNIT_WORDS } from "../units/units.js";
import { NEVER_NAMES, nearestWord, RESERVED } from "../words/language.js";
import type { Line, Token } from "./lexer.js";
import {
  chainedComparison,
  expected,
  type Mend,
  misreadName,
  mixedLogic,
  type Problem,
  reservedName,
  type Span,
  tooDeep,
  unknownUnit,
} from "./problems.js";
import type { Expression, Name, Side } from "./tree.js";

const DEEPEST = 48;
/** Names a text declares, so that words of the language may be among them. */
export interface DeclaredNames {
  readonly all: ReadonlySet<string>;
  readonly lists: ReadonlySet<string>;
  readonly routines: ReadonlySet<string>;
}

const NO_NAMES: DeclaredNames = { all: new Set(), lists: new Set(), routines: new Set() };

const COMPARISONS = new Set(["<", ">", "<=", ">="]);

export class LineCursor {
  at = 0;
  failed = false;
  private depth = 0;

  constructor(
    readonly line: Line,
    private readonly report: (problem: Problem) => void,
    readonly names: DeclaredNames = NO_NAMES,
  ) {}

  /** A word of the language that the text also uses as a name, on this line beyond its first word. */
  private misread(first: boolean): Token | null {
    const before = this.line.tokens.slice(1, this.at + 1);
    if (!first) before.reverse();
    const { all } = this.names;
    return before.find(({ kind, text }) => kind === "word" && RESERVED.has(text) && all.has(text)) ?? null;
  }

  get token(): Token | null {
    return this.line.tokens[this.at] ?? null;
  }

  get done(): boolean {
    return this.at >= this.line.tokens.length;
  }

  /** Where something missing would stand: right after the last token taken. */
  get gap(): Span {
    const last = this.line.tokens[this.at - 1];
    const at = last ? last.end : this.line.start + this.line.indent;
    return { start: at, end: at };
  }

  fail(problem: Problem): void {
    if (this.failed) return;
    this.failed = true;
    // What is missing or too much here comes of a name that was read as a word.
    const tooMuch = problem.code === "left-over";
    const misread = tooMuch || problem.code === "expected" ? this.misread(tooMuch) : null;
    this.report(misread ? misreadName(misread, misread.text) : problem);
  }

  missing(what: string, mend: string | null = null): Expression {
    const token = this.token;
    this.fail(expected(token ?? this.gap, what, token ? null : mend));
    return { type: "missing", ...this.gap };
  }

  isWord(...words: readonly string[]): boolean {
    const token = this.token;
    return token !== null && token.kind === "word" && words.includes(token.text);
  }

  isSymbol(symbol: string): boolean {
    const token = this.token;
    return token !== null && token.kind === "symbol" && token.text === symbol;
  }

  /** Takes the word if it is next. */
  takeWord(...words: readonly string[]): string | null {
    if (!this.isWord(...words)) return null;
    const token = this.token as Token;
    this.at += 1;
    return token.text;
  }

  takeSymbol(symbol: string): boolean {
    if (!this.isSymbol(symbol)) return false;
    this.at += 1;
    return true;
  }

  takeSide(): Side | null {
    return this.takeWord("left", "right") as Side | null;
  }

  private span(start: number): Span {
    return { start, end: this.gap.end };
  }

  /** cond: relations joined by and / or, with `held` at the end. */
  condition(): Expression {
    const start = this.token?.start ?? this.gap.start;
    const joined = this.joined();
    if (!this.isWord("held")) return joined;
    this.at += 1;
    const duration = this.sum();
    return { type: "held", operand: joined, duration, ...this.span(start) };
  }

  private joined(): Expression {
    const start = this.token?.start ?? this.gap.start;
    const first = this.relation();
    if (!this.isWord("and", "or")) return first;
    const operator = (this.token as Token).text as "and" | "or";
    const parts = [first];
    while (this.isWord("and", "or")) {
      const token = this.token as Token;
      if (token.text !== operator) this.fail(mixedLogic(token));
      this.at += 1;
      parts.push(this.relation());
    }
    return { type: "logic", operator, parts, ...this.span(start) };
  }

  private relation(): Expression {
    const start = this.token?.start ?? this.gap.start;
    if (this.takeWord("not")) {
      const operand = this.guarded(() => this.relation());
      return { type: "not", operand, ...this.span(start) };
    }
    const left = this.angle();
    const relation = this.compared(left, start);
    const next = this.token;
    if (relation !== left && next && ((next.kind === "symbol" && COMPARISONS.has(next.text)) || this.isWord("is"))) {
      this.fail(chainedComparison(next));
    }
    return relation;
  }

  private compared(left: Expression, start: number): Expression {
    const token = this.token;
    if (token?.kind === "symbol" && COMPARISONS.has(token.text)) {
      this.at += 1;
      const right = this.angle();
      return { type: "compare", operator: token.text as "<" | ">" | "<=" | ">=", left, right, ...this.span(start) };
    }
    if (token?.kind === "symbol" && token.text === "=") {
      const mend: Mend = { label: "write is", start: token.start, end: token.end, text: "is" };
      this.fail({ ...expected(token, 'a comparison ("is", <, >)'), mend });
      return left;
    }
    if (this.isWord("has") && left.type === "name" && left.path.length === 1) {
      this.at += 1;
      const list = { name: left.path[0] ?? "", start: left.start, end: left.end };
      return { type: "has", list, key: this.angle(), ...this.span(start) };
    }
    if (!this.takeWord("is")) return left;
    const negated = this.takeWord("not") !== null;
    const right = this.angle();
    const to = this.takeWord("to") ? this.angle() : null;
    return { type: "is", negated, left, right, to, ...this.span(start) };
  }

  /** ang: a sum, with a side before it. */
  angle(): Expression {
    const start = this.token?.start ?? this.gap.start;
    const side = this.takeSide();
    if (side === null) return this.sum();
    const operand = this.sum();
    return { type: "sided", side, operand, ...this.span(start) };
  }

  sum(): Expression {
    const start = this.token?.start ?? this.gap.start;
    let left = this.product();
    while (this.isSymbol("+") || this.isSymbol("-")) {
      const operator = (this.token as Token).text as "+" | "-";
      this.at += 1;
      left = { type: "binary", operator, left, right: this.product(), ...this.span(start) };
    }
    return left;
  }

  private product(): Expression {
    const start = this.token?.start ?? this.gap.start;
    let left = this.unary();
    while (this.isSymbol("*") || this.isSymbol("/")) {
      const operator = (this.token as Token).text as "*" | "/";
      this.at += 1;
      left = { type: "binary", operator, left, right: this.unary(), ...this.span(start) };
    }
    return left;
  }

  private unary(): Expression {
    const start = this.token?.start ?? this.gap.start;
    if (!this.takeSymbol("-")) return this.power();
    const operand = this.guarded(() => this.unary());
    return { type: "minus", operand, ...this.span(start) };
  }

  private power(): Expression {
    const start = this.token?.start ?? this.gap.start;
    const base = this.atom();
    if (!this.takeSymbol("^")) return base;
    const right = this.takeSymbol("-") ? this.negative() : this.atom();
    return { type: "binary", operator: "^", left: base, right, ...this.span(start) };
  }

  private negative(): Expression {
    const start = this.gap.start;
    return { type: "minus", operand: this.atom(), ...this.span(start) };
  }

  private guarded(inner: () => Expression): Expression {
    this.depth += 1;
    if (this.depth > DEEPEST) {
      this.fail(tooDeep(this.token ?? this.gap, DEEPEST));
      this.at = this.line.tokens.length;
      return { type: "missing", ...this.gap };
    }
    const result = inner();
    this.depth -= 1;
    return result;
  }

  private atom(): Expression {
    const token = this.token;
    if (token === null) return this.missing("a value");
    const span = { start: token.start, end: token.end };
    if (token.kind === "number") return this.number(token);
    if (token.kind === "text") {
      this.at += 1;
      return { type: "text", value: unquote(token.text), ...span };
    }
    if (token.kind === "symbol") return this.takeSymbol("(") ? this.group(token.start) : this.missing("a value");
    return this.word(token);
  }

  private group(start: number): Expression {
    const inner = this.guarded(() => this.condition());
    if (!this.takeSymbol(")")) this.missing('a closing ")"', ")");
    return { type: "group", inner, ...this.span(start) };
  }

  private number(token: Token): Expression {
    this.at += 1;
    const next = this.token;
    if (token.unit === "" && next?.kind === "word" && !next.spaceBefore && !RESERVED.has(next.text)) {
      this.fail(unknownUnit(next, next.text, nearestWord(next.text, UNIT_WORDS)));
      this.at += 1;
    } else if (token.unit === "" && next?.kind === "word" && !RESERVED.has(next.text)) {
      this.fail(unknownUnit(next, next.text, nearestWord(next.text, UNIT_WORDS)));
      this.at += 1;
    }
    return {
      type: "number",
      value: token.value,
      digits: token.text,
      unit: token.unit,
      dimension: token.dimension,
      start: token.start,
      end: token.end,
    };
  }

  private word(token: Token): Expression {
    if (this.takeWord("yes", "no"))
      return { type: "truth", value: token.text === "yes", start: token.start, end: token.end };
    if (this.takeWord("inside")) {
      const zone = this.token;
      if (zone?.kind !== "text") return this.missing("the name of a zone in quotes");
      this.at += 1;
      return { type: "inside", zone: unquote(zone.text), ...this.span(token.start) };
    }
    if (token.text === "wall" && this.line.tokens[this.at + 1]?.text === "ends") {
      this.at += 2;
      return { type: "wall ends", ...this.span(token.start) };
    }
    if (this.takeWord("untouched")) return this.untouched(token);
    if (this.takeWord("heard")) {
      const signal = takeName(this, "the name of a signal");
      return signal
        ? { type: "heard", signal: signal.name, ...this.span(token.start) }
        : { type: "missing", ...this.gap };
    }
    this.at += 1;
    if (this.isSymbol("(") && this.token?.spaceBefore === false) return this.call(token);
    if (this.isSymbol("[") && this.token?.spaceBefore === false && this.names.lists.has(token.text))
      return this.item(token);
    const path = [token.text];
    for (;;) {
      if (this.isSymbol("[") && this.token?.spaceBefore === false) {
        const index = this.index();
        if (index === null) return this.missing("a whole number and a closing ]");
        path[path.length - 1] += `[${index}]`;
      } else if (this.isSymbol(".") && this.token?.spaceBefore === false) {
        this.at += 1;
        const next = this.token;
        if (next?.kind !== "word") return this.missing("the name of a reading");
        path.push(next.text);
        this.at += 1;
      } else break;
    }
    if (path.length === 1 && !this.mayRead(token.text)) {
      this.at -= 1;
      return this.missing("a value");
    }
    return { type: "name", path, ...this.span(token.start) };
  }

  private mayRead(word: string): boolean {
    return !RESERVED.has(word) || READABLE.has(word) || (this.names.all.has(word) && !NEVER_NAMES.has(word));
  }

  /** `looks[2]`: the cursor stands on the bracket. */
  private item(token: Token): Expression {
    this.at += 1;
    const index = this.guarded(() => this.angle());
    if (!this.takeSymbol("]")) this.missing('a closing "]"', "]");
    const list = { name: token.text, start: token.start, end: token.end };
    return { type: "item", list, index, ...this.span(token.start) };
  }

  /** `untouched`, or `untouched but "crate", "gauge"`. */
  private untouched(token: Token): Expression {
    const but: string[] = [];
    if (this.takeWord("but")) {
      do {
        const name = this.token;
        if (name?.kind !== "text") return this.missing("the name of a thing in quotes");
        this.at += 1;
        but.push(unquote(name.text));
      } while (this.takeSymbol(","));
    }
    return { type: "untouched", but, ...this.span(token.start) };
  }

  /** "[" a whole number "]" at the cursor: which one of a row. */
  private index(): string | null {
    this.at += 1;
    const token = this.token;
    if (token?.kind !== "number" || !/^[0-9]+$/.test(token.text)) return null;
    this.at += 1;
    return this.takeSymbol("]") ? token.text : null;
  }

  private call(token: Token): Expression {
    return { type: "call", name: token.text, args: this.arguments(), ...this.span(token.start) };
  }

  /** "(" a, b ")" at the cursor. */
  arguments(): Expression[] {
    const args: Expression[] = [];
    this.takeSymbol("(");
    if (this.takeSymbol(")")) return args;
    do args.push(this.guarded(() => this.condition()));
    while (!this.failed && this.takeSymbol(","));
    if (!this.takeSymbol(")")) this.missing('a closing ")"', ")");
    return args;
  }
}

/** Reserved words that stand for a reading by themselves or with a dot. */
const READABLE = new Set(["clock", "score", "robot", "battery", "last", "pi"]);

export function unquote(text: string): string {
  return text.replace(/^"|"$/g, "");
}

/**
 * A name at the cursor.
 * @param fresh - it is declared here: any word that can be a name; otherwise words of the language only where they are
 */
export function takeName(cursor: LineCursor, what: string, fresh = false): Name | null {
  const token = cursor.token;
  if (token?.kind !== "word") {
    cursor.missing(what);
    return null;
  }
  const known = fresh || cursor.names.all.has(token.text);
  if (RESERVED.has(token.text) && (!known || NEVER_NAMES.has(token.text))) {
    cursor.fail(reservedName(token, token.text));
    return null;
  }
  cursor.at += 1;
  return { name: token.text, start: token.start, end: token.end };
}
