// The canonical layout: two-space blocks, one space between words, tails in their order, single blank
// lines. Comments stay where they are. Works on tokens, so numbers keep the digits they were typed with.

import { TAIL_ORDER } from "../words/language.js";
import type { Line, Token } from "./lexer.js";
import { parseMission } from "./parser.js";
import { type Block, bodiesOf, innerBlocks, type Mission, type Statement, statementsOf } from "./tree.js";

type Formatting = { ok: true; text: string } | { ok: false; mission: Mission };

const TIGHT_AFTER = new Set(["(", "[", "."]);
const TIGHT_BEFORE = new Set([")", "]", ",", ":", "."]);
const OPERATORS = new Set(["+", "-", "*", "/", "<", ">", "<=", ">=", "=", ",", "(", "["]);

/** Formats a text; one that does not parse is left alone and its problems are returned. */
export function formatMission(text: string): Formatting {
  const mission = parseMission(text);
  if (mission.problems.some((problem) => problem.severity === "error") || mission.lines.length === 0)
    return { ok: false, mission };
  const ordered = tailOrders(mission);
  const lines: string[] = [];
  let blanks = 0;
  for (const line of mission.lines) {
    const written = formatLine(mission.text, line, ordered.get(line.index) ?? line.tokens);
    if (written === "") blanks += 1;
    else {
      if (blanks > 0 && lines.length > 0) lines.push("");
      blanks = 0;
      lines.push(written);
    }
  }
  return { ok: true, text: `${lines.join("\n")}\n` };
}

function formatLine(text: string, line: Line, tokens: readonly Token[]): string {
  const comment = line.comment ? text.slice(line.comment.start, line.comment.end).trimEnd() : "";
  // Deeper by one than a head is in its block: to the next step of two, so that it stays there.
  if (tokens.length === 0) return comment === "" ? "" : " ".repeat(line.indent + (line.indent % 2)) + comment;
  const words = joinTokens(tokens);
  return " ".repeat(line.indent) + words + (comment === "" ? "" : `  ${comment}`);
}

/** Tokens of one line with canonical spacing. */
function joinTokens(tokens: readonly Token[]): string {
  let written = "";
  for (let i = 0; i < tokens.length; i += 1) {
    const token = tokens[i] as Token;
    const before = tokens[i - 1];
    if (before && !tight(tokens, i)) written += " ";
    written += token.kind === "number" && token.unit !== "" ? `${token.text} ${token.unit}` : token.text;
  }
  return written;
}

function isUnary(tokens: readonly Token[], i: number): boolean {
  const token = tokens[i];
  if (token?.text !== "-" || token.kind !== "symbol") return false;
  const before = tokens[i - 1];
  if (!before) return true;
  if (before.kind === "symbol") return OPERATORS.has(before.text);
  // After a reading, or with space on both sides as between two values, it subtracts.
  if (tokens[i - 2]?.text === "." || (i > 1 && token.spaceBefore && tokens[i + 1]?.spaceBefore)) return false;
  return before.kind === "word" && tokens[i + 1] !== undefined && STARTS_VALUE.has(before.text);
}

/** Words after which a minus is a sign, not a subtraction. */
const STARTS_VALUE = new Set([
  "go",
  "back",
  "slide",
  "turn",
  "face",
  "arc",
  "roll",
  "turning",
  "wheels",
  "power",
  "left",
  "right",
  "both",
  "wait",
  "radius",
  "repeat",
  "is",
  "not",
  "and",
  "or",
  "to",
  "begin",
  "if",
  "from",
  "steer",
  "every",
  "choose",
  "show",
  "light",
  "give",
  "whenever",
  "dead",
  "curve",
  "switching",
  ...TAIL_ORDER,
]);

function tight(tokens: readonly Token[], i: number): boolean {
  const token = tokens[i] as Token;
  const before = tokens[i - 1] as Token;
  if (before.kind === "symbol" && (TIGHT_AFTER.has(before.text) || isUnary(tokens, i - 1))) return true;
  // `power arm -30 %`: the minus belongs to the value as it was typed.
  if (before.text === "-" && !token.spaceBefore && before.spaceBefore) return true;
  if (token.kind !== "symbol") return false;
  if (token.text === "(" || token.text === "[") return before.kind === "word" && !token.spaceBefore;
  return TIGHT_BEFORE.has(token.text);
}

/** Lines whose tails stand in another order than the canonical one, with their tokens put in order. */
function tailOrders(mission: Mission): Map<number, Token[]> {
  const orders = new Map<number, Token[]>();
  const visit = (block: Block): void => {
    for (const statement of statementsOf(block)) {
      const ordered = orderedTokens(mission, statement);
      if (ordered) orders.set(statement.line, ordered);
      for (const inner of innerBlocks(statement)) visit(inner);
    }
  };
  for (const block of bodiesOf(mission)) visit(block);
  return orders;
}

function orderedTokens(mission: Mission, statement: Statement): Token[] | null {
  if (!("tails" in statement) || statement.tails.length < 2) return null;
  const sorted = [...statement.tails].sort((a, b) => TAIL_ORDER.indexOf(a.word) - TAIL_ORDER.indexOf(b.word));
  if (sorted.every((tail, i) => tail === statement.tails[i])) return null;
  const tokens = mission.lines[statement.line]?.tokens ?? [];
  const first = statement.tails[0]?.start ?? 0;
  const head = tokens.filter((token) => token.end <= first);
  return [
    ...head,
    ...sorted.flatMap((tail) => tokens.filter((token) => token.start >= tail.start && token.end <= tail.end)),
  ];
}
