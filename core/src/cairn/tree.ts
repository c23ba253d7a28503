// The tree of a mission. Lossless: every line of the text is a node of some block, also blank lines,
// comments and lines that do not parse; nodes point into the text by offsets.

import type { StickMode } from "../remote/mapping.js";
import type { Dimension } from "../units/dimension.js";
import type { CornerWord, CrossingWord, FunctionName, StickWord, TailWord, TypeWord } from "../words/language.js";
import type { Line } from "./lexer.js";
import type { Problem, Span } from "./problems.js";

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
        readonly operator: "+" | "-" | "*" | "/" | "^";
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
    | { readonly type: "heard"; readonly signal: string }
    /** One value of a list by its number from 1, or of a table by its key. */
    | { readonly type: "item"; readonly list: Name; readonly index: Expression }
    /** Whether a table has a key, or a list a value. */
    | { readonly type: "has"; readonly list: Name; readonly key: Expression }
    /** The wall that a step follows is not beside it any more. */
    | { readonly type: "wall ends" }
    /** Nothing was touched in the whole run, but for the named things. */
    | { readonly type: "untouched"; readonly but: readonly string[] }
    | { readonly type: "missing" }
  );

export interface Tail extends Span {
  readonly word: TailWord;
  readonly value: Expression | null;
  /** For `then`. */
  readonly ending: "stop" | "coast" | "keep" | null;
  /** For `at crossings` and `at corners`. */
  readonly choice: CrossingWord | CornerWord | null;
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
        readonly type: "slide";
        readonly side: Side | null;
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
        readonly type: "go to";
        readonly back: boolean;
        /** Null goes to the begin place. */
        readonly place: { readonly x: Expression; readonly y: Expression } | null;
        readonly facing: Expression | null;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "go along";
        readonly back: boolean;
        readonly path: Name;
        /** How far ahead on the path it aims. */
        readonly look: Expression | null;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "wait";
        readonly duration: Expression | null;
        /** Ends the wait quietly. */
        readonly atMost: Expression | null;
        readonly until: Expression | null;
        readonly limit: Expression | null;
      }
    | { readonly type: "stop"; readonly motor: Name | null }
    | { readonly type: "coast"; readonly motor: Name | null }
    | { readonly type: "set"; readonly name: Name; readonly value: Expression }
    /** A value of a list or table, put in the place of another. */
    | { readonly type: "put"; readonly list: Name; readonly index: Expression; readonly value: Expression }
    | { readonly type: "add"; readonly value: Expression; readonly list: Name }
    | { readonly type: "clear"; readonly list: Name }
    | { readonly type: "note"; readonly name: Name; readonly value: Expression }
    | { readonly type: "call"; readonly name: Name; readonly args: readonly Expression[] }
    | { readonly type: "steer"; readonly angle: Expression }
    | { readonly type: "press"; readonly back: boolean; readonly tails: readonly Tail[] }
    | {
        readonly type: "follow line";
        /** Whose edge it keeps to; null follows the centre. */
        readonly edge: Side | null;
        readonly sensor: Name;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "follow wall";
        readonly side: Side;
        readonly away: Expression;
        readonly sensor: Name;
        readonly tails: readonly Tail[];
      }
    | {
        readonly type: "move";
        readonly part: Name;
        readonly how: "to" | "by" | null;
        readonly angle: Expression | null;
        readonly tails: readonly Tail[];
      }
    | { readonly type: "home"; readonly part: Name; readonly toward: "low" | "high"; readonly tails: readonly Tail[] }
    | { readonly type: "aim"; readonly part: Name; readonly angle: Expression }
    | {
        readonly type: "scan";
        readonly part: Name;
        readonly from: Expression;
        readonly to: Expression;
        readonly looks: Expression;
      }
    | { readonly type: "show"; readonly values: readonly Expression[] }
    | { readonly type: "light"; readonly share: Expression }
    | { readonly type: "beep"; readonly pitch: Expression | null; readonly duration: Expression | null }
    | { readonly type: "reset"; readonly what: Name }
    | { readonly type: "send"; readonly signal: Name }
    | { readonly type: "start"; readonly name: Name; readonly args: readonly Expression[] }
    | { readonly type: "next" | "leave" | "skip" | "resume" | "finish" }
    | { readonly type: "give"; readonly value: Expression | null }
    | {
        readonly type: "repeat";
        readonly times: Expression | null;
        /** Number of the pass, from 1. */
        readonly counter: Name | null;
        /** Looked at before each pass: goes on while it is true, or until it is. */
        readonly condition: Expression | null;
        readonly how: "while" | "until" | null;
        /** Each value of a list, or each key of a table. */
        readonly each: { readonly name: Name; readonly list: Name } | null;
        readonly body: Block;
      }
    | {
        readonly type: "every";
        readonly period: Expression;
        readonly until: Expression | null;
        readonly limit: Expression | null;
        readonly body: Block;
      }
    | { readonly type: "if"; readonly branches: readonly Branch[]; readonly otherwise: Block | null }
    | {
        readonly type: "choose";
        readonly subject: Expression;
        readonly arms: readonly Arm[];
        readonly otherwise: Block | null;
      }
    | { readonly type: "together"; readonly untilOne: boolean; readonly branches: readonly Block[] }
    | { readonly type: "during"; readonly body: Block; readonly handlers: readonly Branch[] }
    | { readonly type: "hand over"; readonly tails: readonly Tail[] }
    /** The following three stand in `remote` only. */
    | {
        readonly type: "drive";
        readonly mode: StickMode;
        readonly settings: readonly StickSetting[];
      }
    | {
        readonly type: "binding";
        readonly how: "hold" | "toggle" | "tap";
        readonly control: Name;
        /** What pressing does; null when it changes the ceiling. */
        readonly action: Statement | null;
        /** Speed ceiling while it is held or on. */
        readonly ceiling: Expression | null;
        /** What letting go does; null when it was left out. */
        readonly ending: BindingEnd | null;
      }
    | {
        readonly type: "dial";
        readonly control: Name;
        readonly part: Name;
        readonly from: Expression;
        readonly to: Expression;
      }
    | { readonly type: "broken" }
  );

export interface StickSetting extends Span {
  readonly word: StickWord;
  readonly value: Expression;
}

/** What letting go of a button does: ends what it began, lets it go on, or a step of its own. */
export type BindingEnd = { readonly does: "stop" | "keep" } | { readonly does: "step"; readonly step: Statement };

/** One arm of `choose`: any of some values or ranges, or a comparison. */
export interface Arm extends Span {
  readonly line: number;
  readonly values: readonly { readonly from: Expression; readonly to: Expression | null }[];
  readonly compare: { readonly operator: "<" | ">" | "<=" | ">="; readonly value: Expression } | null;
  readonly body: Block;
}

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
  readonly word: "robot" | "field" | "begin" | "use";
  readonly value: string;
  readonly valueSpan: Span;
}

export interface SetLine extends Base {
  readonly name: Name;
  readonly value: Expression;
  /** Kept on the robot from one run to the next. */
  readonly remembered: boolean;
}

/** A list, or with `by` a table of values by key. */
export interface ListLine extends Base {
  readonly name: Name;
  readonly of: TypeWord;
  readonly by: TypeWord | null;
  readonly most: number;
  /** A full list drops its oldest value for a new one. */
  readonly rolling: boolean;
}

/** Places in order, from the begin place. */
export interface PathLine extends Base {
  readonly name: Name;
  readonly places: readonly (Base & { readonly x: Expression; readonly y: Expression })[];
}

export interface Mission {
  readonly text: string;
  readonly lines: readonly Line[];
  readonly headers: readonly Header[];
  /** Whether it is a collection of routines, and no mission. */
  readonly isCollection: boolean;
  /** Collections whose routines stand below a line of theirs: of a collection itself its own, at the top. */
  readonly sections: readonly (Name & { readonly lineStart: number })[];
  readonly goal: (Span & { readonly line: number; readonly condition: Expression }) | null;
  readonly sets: readonly SetLine[];
  readonly lists: readonly ListLine[];
  readonly paths: readonly PathLine[];
  readonly routines: readonly Routine[];
  readonly body: Block | null;
  /** What a driver's sticks and buttons do. */
  readonly remote: Block | null;
  /** Layout and grammar problems, in order of place. */
  readonly problems: readonly Problem[];
}

/** Statements of a block, without comments and blank lines. */
export function statementsOf(block: Block): Statement[] {
  return block.items.filter((item): item is Statement => item.type !== "comment" && item.type !== "blank");
}

/** Blocks directly inside a statement, in order. */
export function innerBlocks(statement: Statement): Block[] {
  switch (statement.type) {
    case "repeat":
    case "every":
      return [statement.body];
    case "if":
      return withLast(
        statement.branches.map((branch) => branch.body),
        statement.otherwise,
      );
    case "choose":
      return withLast(
        statement.arms.map((arm) => arm.body),
        statement.otherwise,
      );
    case "together":
      return [...statement.branches];
    case "during":
      return [statement.body, ...statement.handlers.map((handler) => handler.body)];
    default:
      return [];
  }
}

function withLast(blocks: Block[], last: Block | null): Block[] {
  return last ? [...blocks, last] : blocks;
}

/** The value of a header, or null. */
export function headerValue(mission: Mission, word: Header["word"]): string | null {
  return mission.headers.find((header) => header.word === word)?.value ?? null;
}

/** Steps that a line of `remote` has inside itself: what pressing does, and what letting go does. */
export function stepsInside(statement: Statement): Statement[] {
  if (statement.type !== "binding") return [];
  const { action, ending } = statement;
  return [...(action ? [action] : []), ...(ending?.does === "step" ? [ending.step] : [])];
}

/** Blocks with steps: the mission, its routines, and `remote`. */
export function bodiesOf({ body, routines, remote }: Mission): Block[] {
  return [body, ...routines.map((routine) => routine.body), remote].filter((block): block is Block => block !== null);
}

/** Expressions directly inside an expression. */
export function partsOfExpression(expression: Expression): readonly Expression[] {
  switch (expression.type) {
    case "call":
      return expression.args;
    case "minus":
    case "sided":
    case "not":
      return [expression.operand];
    case "item":
      return [expression.index];
    case "has":
      return [expression.key];
    case "held":
      return [expression.operand, expression.duration];
    case "binary":
    case "compare":
      return [expression.left, expression.right];
    case "is":
      return expression.to ? [expression.left, expression.right, expression.to] : [expression.left, expression.right];
    case "logic":
      return expression.parts;
    case "group":
      return [expression.inner];
    default:
      return [];
  }
}

function given(...values: readonly (Expression | null)[]): Expression[] {
  return values.filter((value): value is Expression => value !== null);
}

/** Expressions of a statement's own lines, tails and heads of its blocks included, in order. */
export function expressionsOf(statement: Statement): Expression[] {
  const tails = "tails" in statement ? statement.tails.map((tail) => tail.value) : [];
  switch (statement.type) {
    case "go":
    case "slide":
      return given(statement.distance, ...tails);
    case "turn":
      return given(statement.amount, ...tails);
    case "face":
    case "move":
      return given(statement.angle, ...tails);
    case "arc":
      return given(statement.amount, statement.radius, ...tails);
    case "roll":
      return given(statement.speed, statement.turning, ...tails);
    case "wheels":
    case "power":
      return given(statement.left, statement.right, ...tails);
    case "wait":
      return given(statement.duration, statement.until, statement.atMost, statement.limit);
    case "go to":
      return given(statement.place?.x ?? null, statement.place?.y ?? null, statement.facing, ...tails);
    case "go along":
      return given(statement.look, ...tails);
    case "put":
      return [statement.index, statement.value];
    case "add":
      return [statement.value];
    case "beep":
      return given(statement.pitch, statement.duration);
    case "set":
    case "note":
    case "give":
      return given(statement.value);
    case "call":
    case "start":
      return [...statement.args];
    case "steer":
    case "aim":
      return [statement.angle];
    case "follow wall":
      return given(statement.away, ...tails);
    case "scan":
      return [statement.from, statement.to, statement.looks];
    case "show":
      return [...statement.values];
    case "light":
      return [statement.share];
    case "repeat":
      return given(statement.times, statement.condition);
    case "every":
      return given(statement.period, statement.until, statement.limit);
    case "if":
      return statement.branches.map((branch) => branch.condition);
    case "choose":
      return [
        statement.subject,
        ...statement.arms.flatMap((arm) => [
          ...arm.values.flatMap(({ from, to }) => given(from, to)),
          ...given(arm.compare?.value ?? null),
        ]),
      ];
    case "during":
      return statement.handlers.map((handler) => handler.condition);
    case "drive":
      return statement.settings.map((setting) => setting.value);
    case "binding":
      return given(statement.ceiling);
    case "dial":
      return [statement.from, statement.to];
    default:
      return given(...tails);
  }
}
