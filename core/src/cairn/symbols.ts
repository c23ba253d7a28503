// The names of a mission: its values and routines with the places they live in at run time.
import { NUMBER } from "../units/dimension.js";
import { type Kind, kindOfType, quantityKind, UNKNOWN } from "./kinds.js";
import {
  type Block,
  type Expression,
  expressionsOf,
  innerBlocks,
  type ListLine,
  type Mission,
  type Name,
  type PathLine,
  partsOfExpression,
  type Routine,
  type Statement,
  statementsOf,
  stepsInside,
} from "./tree.js";

export interface ValueSymbol {
  readonly name: string;
  readonly slot: number;
  kind: Kind;
  used: boolean;
  /** Where it is first set. */
  readonly start: number;
  readonly end: number;
  readonly topLevel: boolean;
  /** The number of a pass, or a value of a list in turn: a loop gives it, nothing else does. */
  readonly ofLoop: boolean;
}

export interface ListSymbol {
  readonly line: ListLine;
  /** Its place among the lists. */
  readonly index: number;
  readonly of: Kind;
  /** Kind of a table's keys; null for a list. */
  readonly by: Kind | null;
  used: boolean;
}

interface PathSymbol {
  readonly line: PathLine;
  used: boolean;
}

export interface RoutineSymbol {
  readonly routine: Routine;
  /** Parameters first, then the routine's own values. */
  readonly locals: Map<string, ValueSymbol>;
  /** Kind of what it gives; null when it gives nothing. */
  gives: Kind | null;
  /** Its place among the routines. */
  readonly index: number;
}

export interface Symbols {
  readonly globals: Map<string, ValueSymbol>;
  readonly routines: Map<string, RoutineSymbol>;
  readonly lists: Map<string, ListSymbol>;
  readonly paths: Map<string, PathSymbol>;
}

/** Every statement of a block and its inner blocks, in order of place. */
export function walk(block: Block, visit: (statement: Statement) => void): void {
  for (const statement of statementsOf(block)) {
    visit(statement);
    for (const inside of stepsInside(statement)) visit(inside);
    for (const inner of innerBlocks(statement)) walk(inner, visit);
  }
}

function addValue(
  into: Map<string, ValueSymbol>,
  at: { name: string; start: number; end: number },
  kind: Kind,
  topLevel: boolean,
  ofLoop = false,
): void {
  if (at.name === "" || into.has(at.name)) return;
  into.set(at.name, {
    name: at.name,
    slot: into.size,
    kind,
    used: false,
    start: at.start,
    end: at.end,
    topLevel,
    ofLoop,
  });
}

/** Collects names; kinds of set values are filled in by the checker. */
export function collectSymbols(mission: Mission): Symbols {
  const globals = new Map<string, ValueSymbol>();
  const lists = new Map<string, ListSymbol>();
  for (const line of mission.lists) {
    const { name, of, by } = line;
    if (lists.has(name.name)) continue;
    lists.set(name.name, { line, index: lists.size, of: kindOfType(of), by: by && kindOfType(by), used: false });
  }
  const paths = new Map<string, PathSymbol>();
  for (const line of mission.paths) if (!paths.has(line.name.name)) paths.set(line.name.name, { line, used: false });
  /** Values of a step's own line: what it sets, what its loop counts. */
  const valuesOf = (into: Map<string, ValueSymbol>, s: Statement): void => {
    if (s.type === "set") addValue(into, s.name, UNKNOWN, false);
    if (s.type !== "repeat") return;
    if (s.counter) addValue(into, s.counter, quantityKind(NUMBER), false, true);
    const list = s.each ? lists.get(s.each.list.name) : undefined;
    if (s.each) addValue(into, s.each.name, list ? (list.by ?? list.of) : UNKNOWN, false, true);
  };
  for (const line of mission.sets) addValue(globals, line.name, UNKNOWN, true);
  if (mission.body) walk(mission.body, (s) => valuesOf(globals, s));
  const routines = new Map<string, RoutineSymbol>();
  for (const routine of mission.routines) {
    if (routines.has(routine.name.name)) continue;
    const locals = new Map<string, ValueSymbol>();
    for (const parameter of routine.parameters) addValue(locals, parameter, kindOfType(parameter.kind), true);
    walk(routine.body, (s) => {
      if (s.type === "set" && globals.has(s.name.name)) return;
      valuesOf(locals, s);
    });
    let gives: Kind | null = null;
    walk(routine.body, (s) => {
      if (s.type === "give" && s.value) gives = UNKNOWN;
    });
    routines.set(routine.name.name, { routine, locals, gives, index: routines.size });
  }
  return { globals, routines, lists, paths };
}

/** Routines, each after those it calls (the checker refuses circles). */
export function routinesCalledFirst(symbols: Symbols): Routine[] {
  const order = new Set<Routine>();
  const visit = (routine: Routine): void => {
    if (order.has(routine)) return;
    for (const name of callsOf(routine.body)) {
      const called = symbols.routines.get(name.name);
      if (called) visit(called.routine);
    }
    order.add(routine);
  };
  for (const { routine } of symbols.routines.values()) visit(routine);
  return [...order];
}

/** Routines that call others that call others, at most so many deep. */
export const DEEPEST_CALLS = 256;

/**
 * The routine from which calls go more than DEEPEST_CALLS deep, or null. Without recursion: everything that follows
 * calls by recursion is asked only when this finds none.
 */
export function tooDeepCalls(symbols: Symbols): Routine | null {
  const depths = new Map<string, number>();
  for (const first of symbols.routines.keys()) {
    const path: { name: string; calls: readonly Name[]; at: number; depth: number }[] = [];
    const enter = (name: string): void => {
      const symbol = symbols.routines.get(name);
      depths.set(name, 1);
      path.push({ name, calls: symbol ? callsOf(symbol.routine.body) : [], at: 0, depth: 1 });
    };
    if (!depths.has(first)) enter(first);
    for (let top = path.at(-1); top; top = path.at(-1)) {
      const next = top.calls[top.at]?.name;
      if (path.length > DEEPEST_CALLS || top.depth > DEEPEST_CALLS)
        return symbols.routines.get((path[0] as (typeof path)[0]).name)?.routine ?? null;
      if (next !== undefined && symbols.routines.has(next) && !depths.has(next)) {
        enter(next);
        continue;
      }
      if (next !== undefined) top.depth = Math.max(top.depth, 1 + (depths.get(next) ?? 0));
      depths.set(top.name, top.depth);
      if (next !== undefined) top.at += 1;
      else path.pop();
    }
  }
  return null;
}

/** Routines called or started anywhere in a block, also inside values, each with its place. */
export function callsOf(block: Block): Name[] {
  const names: Name[] = [];
  walk(block, (statement) => {
    if (statement.type === "call" || statement.type === "start") names.push(statement.name);
    for (const expression of expressionsOf(statement)) collectCalls(expression, names);
  });
  return names;
}

function collectCalls(expression: Expression, into: Name[]): void {
  if (expression.type === "call") {
    const { name, start } = expression;
    into.push({ name, start, end: start + name.length });
  }
  for (const inner of partsOfExpression(expression)) collectCalls(inner, into);
}
