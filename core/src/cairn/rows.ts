// A mission as rows for a step list: steps with label and depth, comments, branches, lines in trouble. Each
// step comes as pieces of its line, so that numbers and names can be edited where they stand.

import { RESERVED } from "../words/language.js";
import type { Line, Token } from "./lexer.js";
import { numberSteps } from "./numbering.js";
import {
  type Block,
  bodiesOf,
  type Item,
  innerBlocks,
  type Mission,
  type Routine,
  type Statement,
  statementsOf,
} from "./tree.js";

type PieceKind = "verb" | "word" | "quantity" | "name" | "side" | "text" | "symbol";

export interface Piece {
  readonly kind: PieceKind;
  readonly text: string;
  readonly start: number;
  readonly end: number;
  /** No space before it. */
  readonly tight: boolean;
  /** Quantities: digits and unit as typed. */
  readonly digits: string;
  readonly unit: string;
}

export type Row =
  | {
      readonly type: "step";
      readonly statement: Statement;
      readonly block: Block;
      readonly label: string;
      readonly depth: number;
      readonly line: number;
      readonly main: readonly Piece[];
      readonly tail: readonly Piece[];
    }
  | {
      readonly type: "broken";
      readonly statement: Statement;
      readonly block: Block;
      readonly label: string;
      readonly depth: number;
      readonly line: number;
      readonly text: string;
    }
  | { readonly type: "branch"; readonly depth: number; readonly line: number; readonly main: readonly Piece[] }
  | { readonly type: "comment"; readonly depth: number; readonly line: number; readonly text: string }
  | {
      readonly type: "routine";
      readonly routine: Routine;
      readonly depth: 0;
      readonly line: number;
      readonly main: readonly Piece[];
    };

/** Words that begin the second line of a long step. */
const SECOND_LINE = new Set(["for", "until", "limit", "then"]);

function pieceOf(token: Token, before: Token | null, isFirst: boolean, text: string): Piece {
  const tight = before !== null && (!token.spaceBefore || [")", ","].includes(token.text));
  const whole = {
    text: text.slice(token.start, token.end),
    start: token.start,
    end: token.end,
    tight,
    digits: token.text,
    unit: token.unit,
  };
  if (isFirst) return { kind: "verb", ...whole };
  if (token.kind === "number")
    return { kind: "quantity", ...whole, text: token.unit === "" ? token.text : `${token.text} ${token.unit}` };
  if (token.kind === "text" || token.kind === "symbol") return { kind: token.kind, ...whole };
  if (token.text === "left" || token.text === "right") return { kind: "side", ...whole };
  return { kind: RESERVED.has(token.text) ? "word" : "name", ...whole };
}

/** Joins `gyro . heading` into one name and a sign with its number. */
function joined(pieces: readonly Piece[]): Piece[] {
  const list: Piece[] = [];
  for (const piece of pieces) {
    const last = list.at(-1);
    const dotted = last && (piece.text === "." || last.text.endsWith(".")) && piece.tight;
    if (last && dotted) list[list.length - 1] = { ...last, kind: "name", text: last.text + piece.text, end: piece.end };
    else if (last && last.text === "-" && piece.kind === "quantity" && piece.tight && !last.tight) {
      list[list.length - 1] = {
        ...piece,
        text: `-${piece.text}`,
        digits: `-${piece.digits}`,
        start: last.start,
        tight: last.tight,
      };
    } else list.push(piece);
  }
  return list;
}

/** Pieces of a line. */
export function linePieces(text: string, line: Line): Piece[] {
  return joined(line.tokens.map((token, i) => pieceOf(token, line.tokens[i - 1] ?? null, i === 0, text)));
}

function stepPieces(text: string, line: Line): { main: Piece[]; tail: Piece[] } {
  const pieces = linePieces(text, line);
  const until = pieces.findIndex((piece, i) => i > 0 && piece.kind === "word" && piece.text === "until");
  if (until === -1 || ["wait", "every", "together"].includes(pieces[0]?.text ?? "")) return { main: pieces, tail: [] };
  const cut = pieces.findIndex((piece, i) => i > 0 && piece.kind === "word" && SECOND_LINE.has(piece.text));
  return { main: pieces.slice(0, cut), tail: pieces.slice(cut) };
}

class RowWriter {
  readonly rows: Row[] = [];
  private readonly labels: Map<Statement, string>;

  constructor(private readonly mission: Mission) {
    this.labels = numberSteps(mission);
  }

  block(block: Block, depth: number): void {
    for (const item of block.items) this.item(item, block, depth);
  }

  private item(item: Item, block: Block, depth: number): void {
    const { text, lines } = this.mission;
    const line = lines[item.line] as Line;
    if (item.type === "blank") return;
    if (item.type === "comment") {
      this.rows.push({ type: "comment", depth, line: item.line, text: text.slice(item.start + 1, item.end).trim() });
      return;
    }
    const label = this.labels.get(item) ?? "";
    if (item.type === "broken") {
      this.rows.push({
        type: "broken",
        statement: item,
        block,
        label,
        depth,
        line: item.line,
        text: text.slice(item.start, item.end),
      });
      return;
    }
    this.rows.push({ type: "step", statement: item, block, label, depth, line: item.line, ...stepPieces(text, line) });
    this.inside(item, depth);
  }

  /** Blocks below a step: each but the first under the line that begins it; arms of `choose` stand one further in. */
  private inside(item: Statement, depth: number): void {
    const arms = item.type === "choose";
    innerBlocks(item).forEach((block, i) => {
      if (arms || i > 0) this.head(block.headLine, arms ? depth + 1 : depth);
      this.block(block, arms ? depth + 2 : depth + 1);
    });
  }

  private head(line: number, depth: number): void {
    this.commentsAbove(line, depth);
    this.rows.push({
      type: "branch",
      depth,
      line,
      main: linePieces(this.mission.text, this.mission.lines[line] as Line),
    });
  }

  /** Comments right above a line that begins a block, which belong to no block themselves. */
  private commentsAbove(line: number, depth: number): void {
    const { text, lines } = this.mission;
    let first = line;
    const indent = lines[line]?.indent ?? 0;
    while (first > 0 && isComment(lines[first - 1]) && (lines[first - 1]?.indent ?? 0) <= indent) first -= 1;
    for (let i = first; i < line; i += 1) {
      const { start, end } = (lines[i] as Line).comment as { start: number; end: number };
      this.rows.push({ type: "comment", depth, line: i, text: text.slice(start + 1, end).trim() });
    }
  }
}

function isComment(line: Line | undefined): boolean {
  return line !== undefined && line.tokens.length === 0 && line.comment !== null;
}

/** Rows of the mission, then of each routine below a row of its own. */
export function missionRows(mission: Mission): Row[] {
  const writer = new RowWriter(mission);
  if (mission.body) writer.block(mission.body, 0);
  for (const routine of mission.routines) {
    writer.rows.push({
      type: "routine",
      routine,
      depth: 0,
      line: routine.line,
      main: linePieces(mission.text, mission.lines[routine.line] as Line),
    });
    writer.block(routine.body, 1);
  }
  if (mission.remote) {
    const line = mission.remote.headLine;
    writer.rows.push({ type: "branch", depth: 0, line, main: linePieces(mission.text, mission.lines[line] as Line) });
    writer.block(mission.remote, 1);
  }
  return writer.rows;
}

/** The innermost statement on a line, if any. */
export function statementAtLine(mission: Mission, line: number): { statement: Statement; block: Block } | null {
  const search = (block: Block): { statement: Statement; block: Block } | null => {
    for (const statement of statementsOf(block)) {
      if (statement.line === line) return { statement, block };
      for (const candidate of innerBlocks(statement)) {
        const found = search(candidate);
        if (found) return found;
      }
    }
    return null;
  };
  for (const block of bodiesOf(mission)) {
    const found = search(block);
    if (found) return found;
  }
  return null;
}

/** The comments at the top of the file, above the mission and its routines: what the mission says about itself. */
export function openingComment(mission: Mission): string {
  const firstBlock = Math.min(
    mission.body?.headLine ?? mission.lines.length,
    ...mission.routines.map((routine) => routine.line),
  );
  return mission.lines
    .slice(0, firstBlock)
    .flatMap((line) =>
      line.tokens.length === 0 && line.comment
        ? [mission.text.slice(line.comment.start + 1, line.comment.end).trim()]
        : [],
    )
    .join(" ");
}
