// Text to lines, lines to tokens. Every character of the text lies in a token, an indent, a comment or a
// gap between them, so nothing is lost.
import type { Dimension } from "../units/dimension.js";
import { NUMBER } from "../units/dimension.js";
import { largestOf } from "../units/ranges.js";
import { findUnit, UNIT_WORDS } from "../units/units.js";
import {
  barePoint,
  decimalComma,
  hugeNumber,
  longLine,
  oddIndent,
  openText,
  otherWord,
  type Problem,
  strayCharacter,
  tabIndent,
} from "./problems.js";

export interface Token {
  readonly kind: "number" | "word" | "text" | "symbol";
  /** As written; for a number without its unit. */
  readonly text: string;
  readonly start: number;
  readonly end: number;
  /** Numbers: SI value, unit as written (empty for none), its dimension. */
  readonly value: number;
  readonly unit: string;
  readonly dimension: Dimension;
  /** Numbers: where the digits end. */
  readonly digitsEnd: number;
  readonly spaceBefore: boolean;
}

export interface Line {
  readonly index: number;
  /** Offsets of the whole line without its line break. */
  readonly start: number;
  readonly end: number;
  /** Spaces at its start. */
  readonly indent: number;
  readonly tokens: readonly Token[];
  /** From "#" to the end, or null. */
  readonly comment: { readonly start: number; readonly end: number } | null;
}

/** Longest line read, characters: several times the longest a person writes. What follows is a problem. */
export const LONGEST_LINE = 1000;
/** Parts of a unit with "/" between them: m/s/s has three. */
const MOST_UNIT_PARTS = 4;
/** A number has at most so many digits: more say nothing. */
const MOST_DIGITS = 15;
const WORD_START = /[A-Za-z_]/;
const WORD = /[A-Za-z_][A-Za-z0-9_]*/y;
const DIGITS = /\d+(\.\d+)?/y;
const COMMA_DIGITS = /,\d+/y;
const SYMBOLS = ["<=", ">=", "(", ")", "[", "]", ",", ":", "=", "+", "-", "*", "/", "^", "<", ">", "."];

/** Signs of other languages, and what is written for them here. */
const FOREIGN: readonly (readonly [string, string])[] = [
  ["!=", "is not"],
  ["==", "is"],
  ["&&", "and"],
  ["||", "or"],
  ["=>", ">="],
  ["=<", "<="],
  ["\u2265", ">="],
  ["\u2264", "<="],
  ["\u2260", "is not"],
];
const FOREIGN_STARTS = new Set(FOREIGN.map(([written]) => written[0]));

function matchAt(pattern: RegExp, text: string, at: number): string | null {
  pattern.lastIndex = at;
  return pattern.exec(text)?.[0] ?? null;
}

/** The unit after a number's digits: a word, with unspaced `/unit` parts; a space before it is fine. */
function unitAfter(text: string, digitsEnd: number, most: number): { name: string; end: number } | null {
  let at = digitsEnd;
  while (text[at] === " ") at += 1;
  const first = text[at] === "%" ? "%" : matchAt(WORD, text, at);
  if (first === null || !(first === "%" || first === "turn" || UNIT_WORDS.has(first))) return null;
  let end = at + first.length;
  let name = first;
  for (let parts = 1; parts < MOST_UNIT_PARTS && text[end] === "/" && end < most; parts += 1) {
    const next = text[end + 1] === "%" ? "%" : matchAt(WORD, text, end + 1);
    if (next === null || findUnit(`${name}/${next}`) === null) break;
    name = `${name}/${next}`;
    end += 1 + next.length;
  }
  return { name, end };
}

class LineLexer {
  readonly tokens: Token[] = [];
  comment: Line["comment"] = null;

  constructor(
    private readonly text: string,
    private at: number,
    private readonly end: number,
    private readonly report: (problem: Problem) => void,
  ) {}

  run(): void {
    let spaced = true;
    while (this.at < this.end) {
      const character = this.text[this.at] as string;
      if (character === " " || character === "\t" || character === "\r") {
        spaced = true;
        this.at += 1;
      } else if (character === "#") {
        this.comment = { start: this.at, end: this.end };
        return;
      } else {
        this.token(character, spaced);
        spaced = false;
      }
    }
  }

  private push(kind: Token["kind"], end: number, spaceBefore: boolean): void {
    const start = this.at;
    this.tokens.push({
      kind,
      text: this.text.slice(start, end),
      start,
      end,
      value: 0,
      unit: "",
      dimension: NUMBER,
      digitsEnd: end,
      spaceBefore,
    });
    this.at = end;
  }

  private token(character: string, spaced: boolean): void {
    if (character >= "0" && character <= "9") return this.number(spaced);
    if (WORD_START.test(character))
      return this.push("word", this.at + (matchAt(WORD, this.text, this.at) as string).length, spaced);
    if (character === '"') return this.string(spaced);
    const next = this.text[this.at + 1] ?? "";
    if (character === "." && next >= "0" && next <= "9" && spaced) return this.pointFirst(spaced);
    const foreign =
      FOREIGN_STARTS.has(this.text[this.at]) && FOREIGN.find(([written]) => this.text.startsWith(written, this.at));
    if (foreign) return this.foreign(...foreign, spaced);
    const symbol = SYMBOLS.find((known) => this.text.startsWith(known, this.at));
    if (symbol) return this.push("symbol", this.at + symbol.length, spaced);
    const end = this.at + String.fromCodePoint(this.text.codePointAt(this.at) as number).length;
    this.report(strayCharacter({ start: this.at, end }, this.text.slice(this.at, end)));
    this.at = end;
  }

  /** A sign of other languages: says how it is written here, and goes on as if it had been. */
  private foreign(written: string, words: string, spaced: boolean): void {
    const { at } = this;
    const end = at + written.length;
    this.report(otherWord({ start: at, end }, written, words));
    words.split(" ").forEach((word, i) => {
      this.at = at;
      this.push(SYMBOLS.includes(word) ? "symbol" : "word", end, i > 0 || spaced);
      const token = this.tokens.at(-1);
      if (token) this.tokens[this.tokens.length - 1] = { ...token, text: word };
    });
  }

  private string(spaced: boolean): void {
    let close = this.at + 1;
    while (close < this.end && this.text[close] !== '"') close += 1;
    if (close >= this.end) {
      this.report(openText({ start: this.at, end: this.end }));
      return this.push("text", this.end, spaced);
    }
    this.push("text", close + 1, spaced);
  }

  private pointFirst(spaced: boolean): void {
    const digits = matchAt(DIGITS, this.text, this.at + 1) as string;
    const at = { start: this.at, end: this.at + 1 + digits.length };
    this.report(barePoint(at, `0.${digits}`));
    this.push("number", at.end, spaced);
  }

  private number(spaced: boolean): void {
    const start = this.at;
    const digits = matchAt(DIGITS, this.text, start) as string;
    const digitsEnd = start + digits.length;
    const comma = digits.includes(".") ? null : matchAt(COMMA_DIGITS, this.text, digitsEnd);
    if (comma !== null) {
      const end = digitsEnd + comma.length;
      this.report(decimalComma({ start, end }, `${digits}.${comma.slice(1)}`));
      return this.push("number", end, spaced);
    }
    const unit = unitAfter(this.text, digitsEnd, this.end);
    const found = unit ? findUnit(unit.name) : null;
    const value = Number(digits) * (found?.scale ?? 1);
    const end = unit && found ? unit.end : digitsEnd;
    const largest = largestOf(found?.dimension ?? NUMBER);
    if (digits.length > MOST_DIGITS || value > largest.most) this.report(hugeNumber({ start, end }, largest.words));
    this.tokens.push({
      kind: "number",
      text: digits,
      start,
      end,
      value,
      unit: found ? (unit?.name ?? "") : "",
      dimension: found?.dimension ?? NUMBER,
      digitsEnd,
      spaceBefore: spaced,
    });
    this.at = end;
  }
}

/** Splits a text into tokenised lines; layout and word problems go to `report`. */
export function lexLines(text: string, report: (problem: Problem) => void): Line[] {
  const lines: Line[] = [];
  let start = 0;
  for (let index = 0; start <= text.length; index += 1) {
    const broken = text.indexOf("\n", start);
    const end = broken === -1 ? text.length : broken;
    lines.push(lexLine(text, index, start, end, report));
    if (broken === -1) break;
    start = end + 1;
  }
  return lines;
}

function lexLine(text: string, index: number, start: number, end: number, report: (problem: Problem) => void): Line {
  let at = start;
  let tab = false;
  while (at < end && (text[at] === " " || text[at] === "\t")) {
    if (text[at] === "\t") tab = true;
    at += 1;
  }
  // Each line is lexed on its own slice, so that no search runs past its end.
  const most = Math.min(end, at + LONGEST_LINE);
  const lexer = new LineLexer(text, at, most, report);
  lexer.run();
  // A comment may be as long as it likes: nothing is made of it.
  if (lexer.comment !== null) lexer.comment = { start: lexer.comment.start, end };
  else if (most < end) report(longLine({ start: most, end }, end - at, LONGEST_LINE));
  const blank = lexer.tokens.length === 0;
  const indentText = text.slice(start, at);
  const indent = indentText.replace(/\t/g, "  ").length;
  if (tab && !blank) report(tabIndent({ start, end: at }, indentText.replace(/\t/g, "  ")));
  else if (indent % 2 === 1 && !blank) report(oddIndent({ start, end: at }, indent - 1));
  return { index, start, end, indent, tokens: lexer.tokens, comment: lexer.comment };
}
