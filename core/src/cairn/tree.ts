// The tree of a mission. Lossless: every line of the text is a node of some block, also blank lines,
// comments and lines that do not parse; nodes point into the text by offsets.
import type { Dimension } from "../units/dimension.js";
import type { Line } from "./lexer.js";
import type { Problem, Span } from "./problems.js";
import type { FunctionName, TailWord, TypeWord } from "./words.js";

export type Side = "left" | "right";

export type Expression = Span &
  (
    | {
        readonly type: "number";
        readonly value: number;
        readonly digits: string;
        readonly unit: string;
        readonly dimension: Dimension;
      }
    | { readonly type: "text"; readonly value: string }
    | { readonly type: "truth"; readonly value: boolean }
    | { readonly type: "name"; readonly path: readonly string[] }
    | { readonly type: "call"; readonly name: FunctionName | string; readonly args: readonly Expression[] }
    | { readonly type: "minus"; readonly operand: Expression }
    | {
        readonly type: "binary";
        readonly operator: "+" | "-" | "*" | "/";
        readonly left: Expression;
        readonly right: Expression;
      }
    | { readonly type: "sided"; readonly side: Side; readonly operand: Expression }
    | {
        readonly type: "compare";
        readonly operator: "<" | ">" | "<=" | ">=";
        readonly left: Expression;
        readonly right: Expression;
      }
    | {
        readonly type: "is";
        readonly negated: boolean;
        readonly left: Expression;
        readonly right: Expression;
        readonly to: Expression | null;
      }
    | { readonly type: "logic"; readonly operator: "and" | "or"; readonly parts: readonly Expression[] }
    | { readonly type: "not"; readonly operand: Expression }
    | { readonly type: "held"; readonly operand: Expression; readonly duration: Expression }
    | { readonly type: "group"; readonly inner: Expression }
    | { readonly type: "inside"; readonly zone: string }
    | { readonly type: "missing" }
  );

export interface Tail extends Span {
  readonly word: TailWord;
  readonly value: Expression | null;
  /** For `then`. */
  readonly ending: "stop" | "coast" | "keep" | null;
}

export interface Name extends Span {
  readonly name: string;
}

interface Base extends Span {
  readonly line: number;
}

export type Statement = Base &
  (
    | {
        readonly type: "go";
        readonly back: boolean;
        readonly distance: Expression | null;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "turn";
        readonly amount: Expression | null;
        readonly side: Side | null;
        readonly about: Side | null;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "face";
        readonly fromBegin: boolean;
        readonly angle: Expression | null;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "arc";
        readonly back: boolean;
        readonly amount: Expression | null;
        readonly side: Side | null;
        readonly radius: Expression;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "roll";
        readonly speed: Expression;
        readonly turning: Expression | null;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "wheels";
        readonly left: Expression;
        readonly right: Expression;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "power";
        readonly left: Expression;
        readonly right: Expression;
        readonly motor: Name | null;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "wait";
        readonly duration: Expression | null;
        readonly until: Expression | null;
        readonly limit: Expression | null;
      }
    | { readonly type: "stop"; readonly motor: Name | null }
    | { readonly type: "coast"; readonly motor: Name | null }
    | { readonly type: "set"; readonly name: Name; readonly value: Expression }
    | { readonly type: "note"; readonly name: Name; readonly value: Expression }
    | { readonly type: "call"; readonly name: Name; readonly args: readonly Expression[] }
    | { readonly type: "finish" }
    | { readonly type: "repeat"; readonly times: Expression | null; readonly body: Block }
    | { readonly type: "if"; readonly branches: readonly Branch[]; readonly otherwise: Block | null }
    | { readonly type: "later"; readonly word: string }
    | { readonly type: "broken" }
  );

export interface Branch extends Span {
  readonly line: number;
  readonly condition: Expression;
  readonly body: Block;
}

export type Item = Statement | (Base & { readonly type: "comment" }) | (Base & { readonly type: "blank" });

export interface Block {
  readonly indent: number;
  readonly items: readonly Item[];
  /** Line of the head (`mission`, `repeat …`, `else`). */
  readonly headLine: number;
  /** One past the last line that belongs to the block. */
  readonly endLine: number;
}

export interface Parameter extends Name {
  readonly kind: TypeWord;
  readonly fallback: Expression | null;
}

export interface Routine extends Base {
  readonly name: Name;
  readonly parameters: readonly Parameter[];
  readonly body: Block;
}

export interface Header extends Base {
  readonly word: "robot" | "field" | "begin";
  readonly value: string;
  readonly valueSpan: Span;
}

export interface SetLine extends Base {
  readonly name: Name;
  readonly value: Expression;
}

export interface Mission {
  readonly text: string;
  readonly lines: readonly Line[];
  readonly headers: readonly Header[];
  readonly goal: (Span & { readonly line: number; readonly condition: Expression }) | null;
  readonly sets: readonly SetLine[];
  readonly routines: readonly Routine[];
  readonly body: Block | null;
  /** Layout and grammar problems, in order of place. */
  readonly problems: readonly Problem[];
}

/** Statements of a block, without comments and blank lines. */
export function statementsOf(block: Block): Statement[] {
  return block.items.filter((item): item is Statement => item.type !== "comment" && item.type !== "blank");
}

/** Blocks directly inside a statement, in order. */
export function innerBlocks(statement: Statement): Block[] {
  if (statement.type === "repeat") return [statement.body];
  if (statement.type !== "if") return [];
  const blocks = statement.branches.map((branch) => branch.body);
  return statement.otherwise ? [...blocks, statement.otherwise] : blocks;
}

/** The value of a header, or null. */
export function headerValue(mission: Mission, word: Header["word"]): string | null {
  return mission.headers.find((header) => header.word === word)?.value ?? null;
}
