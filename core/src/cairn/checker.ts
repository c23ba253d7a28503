// Checks a mission against a robot and a field: names, dimensions, ends of steps, and advice.
import type { DriveModel } from "../control/driveModel.js";
import { COLOUR_NAMES } from "../field/colours.js";
import type { Field } from "../field/schema.js";
import type { Robot } from "../robot/schema.js";
import { TIME } from "../units/dimension.js";
import { type KindScope, kindOf, requireCondition, requireDimension } from "./expressionKinds.js";
import { COLOUR, type Kind, kindWords, sameKind, UNKNOWN } from "./kinds.js";
import {
  afterFinish,
  argumentCount,
  idleLoop,
  keepThenWait,
  kindChanged,
  needsReadingWord,
  noRobot,
  type Problem,
  recursion,
  sameName,
  setBeforeUse,
  shadowing,
  topSetReads,
  unknownDocument,
  unknownName,
  unknownReading,
  unknownRoutine,
  unusedValue,
} from "./problems.js";
import { type Reading, readingsOf } from "./readings.js";
import { checkMotion } from "./stepRules.js";
import { collectSymbols, type RoutineSymbol, type Symbols, type ValueSymbol, walk } from "./symbols.js";
import {
  type Block,
  type Expression,
  headerValue,
  innerBlocks,
  type Mission,
  type Statement,
  statementsOf,
} from "./tree.js";
import { nearestWord } from "./words.js";

/** What a mission is checked against. */
export interface CheckContext {
  readonly robot: Robot;
  readonly drive: DriveModel;
  readonly field: Field;
}

export interface CheckResult {
  /** Grammar problems too, in order of place. */
  readonly problems: readonly Problem[];
  readonly symbols: Symbols;
  /** No errors: it can be compiled. */
  readonly runnable: boolean;
}

export function checkMission(mission: Mission, context: CheckContext): CheckResult {
  const checker = new Checker(mission, context);
  checker.run();
  const problems = [...mission.problems, ...checker.problems].sort((a, b) => a.start - b.start || a.end - b.end);
  const runnable = mission.body !== null && problems.every((problem) => problem.severity !== "error");
  return { problems, symbols: checker.symbols, runnable };
}

const COLOURS: ReadonlySet<string> = new Set(COLOUR_NAMES);
const STANDALONE = new Set(["robot", "battery", "last"]);

export class Checker {
  readonly problems: Problem[] = [];
  readonly symbols: Symbols;
  private readonly readings: Map<string, Reading>;
  private readonly partNames: Set<string>;
  /** Values set so far on the way through the text. */
  private readonly assigned = new Set<ValueSymbol>();
  private routine: RoutineSymbol | null = null;
  private readsSensors = true;

  constructor(
    readonly mission: Mission,
    readonly context: CheckContext,
  ) {
    this.symbols = collectSymbols(mission);
    this.readings = readingsOf(context.robot);
    const { motors, servos, attachments, sensors } = context.robot;
    this.partNames = new Set([...motors, ...servos, ...attachments, ...sensors].map((part) => part.name));
  }

  run(): void {
    this.checkRobotLine();
    this.checkBegin();
    this.checkNames();
    this.readsSensors = false;
    for (const line of this.mission.sets) this.assign(line.name, line.value);
    this.readsSensors = true;
    if (this.mission.body) this.block(this.mission.body);
    for (const symbol of this.symbols.routines.values()) this.checkRoutine(symbol);
    if (this.mission.goal) requireCondition(this.mission.goal.condition, this.scope(true));
    this.checkRecursion();
    this.checkUnused();
  }

  report = (problem: Problem): void => {
    this.problems.push(problem);
  };

  /** The scope expressions are looked up in, at this point of the text. */
  scope(inGoal = false): KindScope {
    return {
      inGoal,
      report: this.report,
      lookUp: (name) => this.lookUp(name, inGoal),
      checkZone: (zone, at) => {
        const known = this.context.field.zones.map((z) => z.name);
        if (!known.includes(zone)) this.report(unknownDocument(at, "zone", zone, known));
      },
    };
  }

  private checkRobotLine(): void {
    if (headerValue(this.mission, "robot") !== null || this.mission.body === null) return;
    const first = this.mission.lines.find((line) => line.tokens[0]?.text === "cairn");
    const at = first ? { start: first.start, end: first.tokens.at(-1)?.end ?? first.end } : { start: 0, end: 0 };
    this.report(noRobot(at, this.context.robot.name));
  }

  private checkBegin(): void {
    const header = this.mission.headers.find((candidate) => candidate.word === "begin");
    const known = this.context.field.begins.map((begin) => begin.name);
    if (header && !known.includes(header.value))
      this.report(unknownDocument(header.valueSpan, "begin place", header.value, known));
  }

  private checkNames(): void {
    for (const routine of this.mission.routines) {
      const name = routine.name.name;
      if (this.symbols.routines.get(name)?.routine !== routine)
        this.report(sameName(routine.name, name, "another routine"));
      else if (this.symbols.globals.has(name)) this.report(sameName(routine.name, name, "a value"));
      for (const parameter of routine.parameters) {
        if (this.symbols.globals.has(parameter.name)) this.report(shadowing(parameter, parameter.name));
      }
    }
    for (const value of this.symbols.globals.values()) {
      if (this.partNames.has(value.name)) this.report(sameName(value, value.name, "a part of the robot"));
      if (COLOURS.has(value.name)) this.report(sameName(value, value.name, "a colour"));
    }
  }

  private lookUp(
    expression: Extract<Expression, { type: "name" }>,
    inGoal: boolean,
  ): { kind: Kind; measured: boolean } {
    const first = (expression.path[0] ?? "").replace(/\[.*/, "");
    const full = expression.path.join(".");
    const nothing = { kind: UNKNOWN, measured: false };
    const reading = this.readings.get(full);
    if (reading) {
      if (!this.readsSensors) this.report(topSetReads(expression));
      return { kind: reading.kind, measured: true };
    }
    if (this.partNames.has(first) || STANDALONE.has(first)) {
      const words = [...this.readings.keys()]
        .filter((key) => key.startsWith(`${first}.`))
        .map((key) => key.slice(first.length + 1));
      this.report(
        expression.path.length === 1
          ? needsReadingWord(expression, first, words)
          : unknownReading(expression, first, expression.path.slice(1).join("."), words),
      );
      return nothing;
    }
    if (first === "score" && expression.path.length === 1) {
      if (!inGoal)
        this.report({
          ...unknownName(expression, "score", null),
          code: "goal-only",
          message: '"score" can be used in goal only.',
        });
      return {
        kind: { is: "quantity", dimension: { length: 0, angle: 0, time: 0, voltage: 0, mass: 0 }, angle: "any" },
        measured: false,
      };
    }
    if (COLOURS.has(full)) return { kind: COLOUR, measured: false };
    return this.value(expression, full, nothing);
  }

  private value(
    expression: Expression,
    name: string,
    nothing: { kind: Kind; measured: boolean },
  ): { kind: Kind; measured: boolean } {
    const symbol = this.routine?.locals.get(name) ?? this.symbols.globals.get(name);
    if (!symbol) {
      const near = nearestWord(name, [
        ...this.symbols.globals.keys(),
        ...(this.routine?.locals.keys() ?? []),
        ...this.readings.keys(),
      ]);
      this.report(unknownName(expression, name, near));
      return nothing;
    }
    symbol.used = true;
    const fromRoutine = this.routine !== null && this.symbols.globals.get(name) === symbol;
    if (!this.assigned.has(symbol) && !fromRoutine) this.report(setBeforeUse(expression, name));
    return { kind: symbol.kind, measured: false };
  }

  private assign(name: { name: string; start: number; end: number }, value: Expression): void {
    const kind = kindOf(value, this.scope());
    const symbol = this.routine?.locals.get(name.name) ?? this.symbols.globals.get(name.name);
    if (!symbol) return;
    if (!this.assigned.has(symbol) && symbol.kind.is === "unknown") symbol.kind = kind;
    else if (!sameKind(symbol.kind, kind))
      this.report(kindChanged(name, name.name, kindWords(symbol.kind), kindWords(kind)));
    this.assigned.add(symbol);
  }

  private checkRoutine(symbol: RoutineSymbol): void {
    for (const parameter of symbol.routine.parameters) {
      const local = symbol.locals.get(parameter.name);
      if (local) this.assigned.add(local);
      if (parameter.fallback && local) {
        const kind = kindOf(parameter.fallback, this.scope());
        if (!sameKind(kind, local.kind))
          this.report(kindChanged(parameter, parameter.name, kindWords(local.kind), kindWords(kind)));
      }
    }
    this.routine = symbol;
    this.block(symbol.routine.body);
    this.routine = null;
  }

  private block(block: Block): void {
    let finished = false;
    let before: Statement | null = null;
    for (const statement of statementsOf(block)) {
      if (finished) this.report(afterFinish(statement));
      if (statement.type === "wait" && before && endsKeeping(before)) this.report(keepThenWait(statement));
      this.statement(statement);
      finished = statement.type === "finish";
      before = statement;
    }
  }

  private statement(statement: Statement): void {
    const scope = this.scope();
    switch (statement.type) {
      case "set":
        return this.assign(statement.name, statement.value);
      case "note":
        kindOf(statement.value, scope);
        return;
      case "wait":
        if (statement.duration) requireDimension(statement.duration, TIME, "wait", "s", scope);
        if (statement.until) requireCondition(statement.until, scope);
        if (statement.limit) requireDimension(statement.limit, TIME, "limit", "s", scope);
        return;
      case "call":
        return this.call(statement);
      case "if":
        for (const branch of statement.branches) requireCondition(branch.condition, scope);
        for (const inner of innerBlocks(statement)) this.block(inner);
        return;
      case "repeat":
        return this.repeat(statement);
      default:
        checkMotion(statement, this.context, scope);
    }
  }

  private repeat(statement: Extract<Statement, { type: "repeat" }>): void {
    if (statement.times) checkMotion(statement, this.context, this.scope());
    this.block(statement.body);
    let acts = false;
    walk(statement.body, (inner) => {
      if (inner.type !== "set" && inner.type !== "note" && inner.type !== "if") acts = true;
    });
    if (!acts && !statement.times && statement.body.items.length > 0) this.report(idleLoop(statement));
  }

  private call(statement: Extract<Statement, { type: "call" }>): void {
    const symbol = this.symbols.routines.get(statement.name.name);
    if (!symbol) {
      this.report(
        unknownRoutine(
          statement.name,
          statement.name.name,
          nearestWord(statement.name.name, this.symbols.routines.keys()),
        ),
      );
      return;
    }
    const { parameters } = symbol.routine;
    const needed = parameters.filter((parameter) => parameter.fallback === null).length;
    const got = statement.args.length;
    if (got < needed || got > parameters.length) {
      const words =
        needed === parameters.length
          ? `${needed} value${needed === 1 ? "" : "s"}`
          : `${needed} to ${parameters.length} values`;
      this.report(argumentCount(statement, statement.name.name, words, got));
    }
    statement.args.forEach((arg, i) => {
      const kind = kindOf(arg, this.scope());
      const wanted = symbol.locals.get(parameters[i]?.name ?? "")?.kind ?? UNKNOWN;
      if (sameKind(kind, wanted)) return;
      if (wanted.is === "quantity") requireDimension(arg, wanted.dimension, statement.name.name, "", this.scope());
      else this.report(kindChanged(arg, parameters[i]?.name ?? "", kindWords(wanted), kindWords(kind)));
    });
  }

  private checkRecursion(): void {
    const calls = new Map<string, { name: string; start: number; end: number }[]>();
    for (const [name, symbol] of this.symbols.routines) {
      const list: { name: string; start: number; end: number }[] = [];
      walk(symbol.routine.body, (s) => s.type === "call" && list.push(s.name));
      calls.set(name, list);
    }
    const settled = new Set<string>();
    const visit = (name: string, path: readonly string[]): void => {
      for (const call of calls.get(name) ?? []) {
        const loop = path.indexOf(call.name);
        if (loop !== -1) this.report(recursion(call, [...path.slice(loop), call.name]));
        else if (!settled.has(call.name)) visit(call.name, [...path, call.name]);
      }
      settled.add(name);
    };
    for (const name of calls.keys()) if (!settled.has(name)) visit(name, [name]);
  }

  private checkUnused(): void {
    for (const value of this.symbols.globals.values()) if (!value.used) this.report(unusedValue(value, value.name));
    for (const { locals } of this.symbols.routines.values()) {
      for (const value of locals.values())
        if (!value.used && !value.topLevel) this.report(unusedValue(value, value.name));
    }
  }
}

function endsKeeping(statement: Statement): boolean {
  return "tails" in statement && statement.tails.some((tail) => tail.ending === "keep");
}
