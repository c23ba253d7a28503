// Checks a mission against a robot and a field: names, dimensions, ends of steps, and advice.

import { COLOUR_NAMES } from "../field/colours.js";
import { thingNames } from "../field/edges.js";
import { FREQUENCY, LENGTH, NUMBER, TIME } from "../units/dimension.js";
import { FUNCTIONS, LIST_WORDS, nearestWord } from "../words/language.js";
import { checkRange, checkRecursion, checkSignals } from "./advice.js";
import type { CheckContext } from "./checkContext.js";
import { calledBySet, EffectsOf, moverOf } from "./effects.js";
import {
  type KindScope,
  kindOf,
  literalValue,
  requireCondition,
  requireDimension,
  requireKey,
  requireKindOf,
} from "./expressionKinds.js";
import { COLOUR, type Kind, kindWords, quantityKind, sameKind, TRUTH, UNKNOWN } from "./kinds.js";
import { checkPartStep } from "./partRules.js";
import {
  afterFinish,
  argumentCount,
  bothMove,
  callsTooDeep,
  counterTwice,
  everyPeriod,
  everySlow,
  giveOutside,
  givesNothing,
  goalOnly,
  idleLoop,
  keepThenWait,
  kindChanged,
  loopValue,
  needsReadingWord,
  needsRemote,
  neverChanged,
  noHandler,
  noLoop,
  noPart,
  noRobot,
  otherWord,
  type Problem,
  type Span,
  sameName,
  setBeforeUse,
  shadowing,
  slowCall,
  tableKeeps,
  topSetReads,
  unknownDocument,
  unknownList,
  unknownName,
  unknownPath,
  unknownReading,
  unknownRoutine,
  unusedValue,
} from "./problems.js";
import { type Reading, readingsOf } from "./readings.js";
import { checkRemote } from "./remoteRules.js";
import { checkMotion } from "./stepRules.js";
import {
  collectSymbols,
  DEEPEST_CALLS,
  type ListSymbol,
  type RoutineSymbol,
  type Symbols,
  tooDeepCalls,
  type ValueSymbol,
  walk,
} from "./symbols.js";
import {
  type Block,
  bodiesOf,
  type Expression,
  headerValue,
  innerBlocks,
  type Mission,
  type Name,
  type Statement,
  statementsOf,
} from "./tree.js";

const COLOURS: ReadonlySet<string> = new Set(COLOUR_NAMES);
const LISTED: ReadonlySet<string> = new Set(LIST_WORDS);
const STANDALONE = new Set(["robot", "battery", "last"]);

/** What stands around a step: decides whether it may leave, go on, skip, resume or give. */
interface Around {
  readonly loop: boolean;
  readonly leavable: boolean;
  readonly handler: boolean;
  readonly routine: boolean;
}

const OUTSIDE: Around = { loop: false, leavable: false, handler: false, routine: false };

/** Steps that neither drive nor wait. */
const IDLE: ReadonlySet<Statement["type"]> = new Set<Statement["type"]>([
  "set",
  "note",
  "if",
  "choose",
  "show",
  "light",
  "beep",
  "send",
  "next",
  "put",
  "add",
  "clear",
]);

export class Checker {
  readonly problems: Problem[] = [];
  readonly symbols: Symbols;
  private readonly readings: ReadonlyMap<string, Reading>;
  private readonly partNames: Set<string>;
  /** Values set so far on the way through the text. */
  private readonly assigned = new Set<ValueSymbol>();
  private readonly effects: EffectsOf;
  private routine: RoutineSymbol | null = null;
  /** Parts whose zero the mission sets anew: their angles count from somewhere else then. */
  private readonly rezeroed = new Set<string>();
  /** Names that loops around this place count in. */
  private counting: ReadonlySet<string> = new Set();
  private readsSensors = true;

  constructor(
    readonly mission: Mission,
    readonly context: CheckContext,
  ) {
    this.symbols = collectSymbols(mission);
    this.effects = new EffectsOf(this.symbols, context.robot);
    this.readings = readingsOf(context.robot);
    const { motors, servos, attachments, sensors } = context.robot;
    for (const block of bodiesOf(mission))
      walk(block, (statement) => {
        if (statement.type === "home") this.rezeroed.add(moverOf(context.robot, statement.part.name));
        if (statement.type === "reset") this.rezeroed.add(moverOf(context.robot, statement.what.name));
      });
    this.partNames = new Set([...motors, ...servos, ...attachments, ...sensors].map((part) => part.name));
  }

  run(): void {
    const deep = tooDeepCalls(this.symbols);
    if (deep) return this.report(callsTooDeep(deep.name, deep.name.name, DEEPEST_CALLS));
    // What routines give is known only once their bodies were looked at: a first, silent round finds the kinds.
    if ([...this.symbols.routines.values()].some((symbol) => symbol.gives !== null)) {
      this.bodies();
      this.problems.length = 0;
      this.assigned.clear();
    }
    this.checkRobotLine();
    this.checkBegin();
    this.checkNames();
    this.bodies();
    if (this.mission.goal) requireCondition(this.mission.goal.condition, this.scope(true));
    checkRecursion(this.symbols, this.report);
    this.checkUnused();
    checkSignals(this.mission, this.report);
  }

  private bodies(): void {
    this.readsSensors = false;
    for (const line of this.mission.sets) this.assign(line.name, line.value);
    this.readsSensors = true;
    if (this.mission.body) this.block(this.mission.body, OUTSIDE);
    for (const symbol of this.symbols.routines.values()) this.checkRoutine(symbol);
    this.checkDriving();
  }

  /** `remote`, and the steps that hand over to it. */
  private checkDriving(): void {
    const { remote } = this.mission;
    const handing: Statement[] = [];
    for (const block of bodiesOf(this.mission))
      walk(block, (statement) => {
        if (statement.type === "hand over") handing.push(statement);
      });
    if (!remote)
      return handing.forEach((statement) => void this.report(needsRemote(statement, this.mission.text.length)));
    const head = this.mission.lines[remote.headLine]?.tokens[0] ?? { start: 0, end: 0 };
    checkRemote(
      remote,
      { start: head.start, end: head.end },
      {
        context: this.context,
        scope: this.scope(),
        effects: this.effects,
        handsOver: handing.length > 0,
        check: (statement) => this.statement(statement, OUTSIDE),
      },
    );
  }

  report = (problem: Problem): void => {
    this.problems.push(problem);
  };

  /** The scope expressions are looked up in, at this point of the text. */
  scope(inGoal = false): KindScope {
    return {
      inGoal,
      rezeroed: this.rezeroed,
      report: this.report,
      lookUp: (name) => this.lookUp(name, inGoal),
      checkZone: (zone, at) => {
        const known = this.context.field.zones.map((z) => z.name);
        if (!known.includes(zone)) this.report(unknownDocument(at, "zone", zone, known));
      },
      checkThing: (name, at) => {
        const known = thingNames(this.context.field);
        if (!known.includes(name)) this.report(unknownDocument(at, "thing", name, known));
      },
      list: (name) => this.listNamed(name),
      callRoutine: (call) => this.callInValue(call),
      compared: (comparison) => checkRange(comparison, this.context.robot, this.report),
    };
  }

  private listNamed(name: Name): ListSymbol | null {
    const { lists } = this.symbols;
    const found = lists.get(name.name) ?? null;
    if (found) found.used = true;
    else this.report(unknownList(name, name.name, nearestWord(name.name, lists.keys())));
    return found;
  }

  /** `looks.mean`, `looks.count`. */
  private ofList(list: ListSymbol, expression: Extract<Expression, { type: "name" }>): Kind {
    list.used = true;
    const name = list.line.name.name;
    const word = expression.path[1] ?? "";
    if (expression.path.length === 1) {
      this.report(needsReadingWord(expression, name, LIST_WORDS));
      return UNKNOWN;
    }
    if (expression.path.length > 2 || !LISTED.has(word)) {
      this.report(unknownReading(expression, name, expression.path.slice(1).join("."), LIST_WORDS));
      return UNKNOWN;
    }
    if (word === "count") return quantityKind(NUMBER);
    if (word !== "last" && list.of.is !== "quantity") {
      this.report(unknownReading(expression, name, word, ["count", "last"]));
      return UNKNOWN;
    }
    return list.of;
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
      this.report(unknownDocument(header.valueSpan, "start place", header.value, known));
  }

  private checkNames(): void {
    for (const routine of this.mission.routines) {
      const name = routine.name.name;
      if (this.symbols.routines.get(name)?.routine !== routine)
        this.report(sameName(routine.name, name, "another routine"));
      else if (this.symbols.globals.has(name)) this.report(sameName(routine.name, name, "a value"));
      else if (this.partNames.has(name)) this.report(sameName(routine.name, name, "a part of the robot"));
      else if ((FUNCTIONS as readonly string[]).includes(name)) this.report(sameName(routine.name, name, "a function"));
      for (const parameter of routine.parameters) {
        if (this.symbols.globals.has(parameter.name)) this.report(shadowing(parameter, parameter.name));
      }
    }
    this.checkDeclared();
    for (const value of this.symbols.globals.values()) {
      if (this.partNames.has(value.name)) this.report(sameName(value, value.name, "a part of the robot"));
      if (COLOURS.has(value.name)) this.report(sameName(value, value.name, "a colour"));
    }
  }

  /** Lists and paths: names of their own, and each once. */
  private checkDeclared(): void {
    const { globals, routines } = this.symbols;
    const seen = new Set<string>();
    const what = (name: string): string | null => {
      if (seen.has(name)) return "another list or path";
      if (globals.has(name)) return "a value";
      if (routines.has(name)) return "a routine";
      if (this.partNames.has(name)) return "a part of the robot";
      return COLOURS.has(name) ? "a colour" : null;
    };
    for (const { name } of [...this.mission.lists, ...this.mission.paths]) {
      const taken = what(name.name);
      if (taken) this.report(sameName(name, name.name, taken));
      seen.add(name.name);
    }
    for (const { places } of this.mission.paths)
      for (const { x, y } of places)
        for (const side of [x, y]) requireDimension(side, LENGTH, "path", "cm", this.scope());
  }

  private lookUp(
    expression: Extract<Expression, { type: "name" }>,
    inGoal: boolean,
  ): { kind: Kind; measured: boolean } {
    const first = (expression.path[0] ?? "").replace(/\[.*/, "");
    const full = expression.path.join(".");
    const nothing = { kind: UNKNOWN, measured: false };
    const list = this.symbols.lists.get(first);
    if (list) return { kind: this.ofList(list, expression), measured: false };
    if (full === "pi") return { kind: quantityKind(NUMBER), measured: false };
    const reading = this.readings.get(full);
    if (reading) {
      if (!this.readsSensors) this.report(topSetReads(expression));
      return { kind: reading.kind, measured: true };
    }
    if (full === "robot.touching") {
      if (!inGoal) this.report(goalOnly(expression, full));
      return { kind: TRUTH, measured: false };
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
      const other = name === "true" ? "yes" : name === "false" ? "no" : null;
      if (other) {
        this.report(otherWord(expression, name, other));
        return nothing;
      }
      if (expression.type === "name" && expression.path.length > 1) {
        this.noPart(expression);
        return nothing;
      }
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

  /** A reading of a part that the robot does not have. */
  private noPart(expression: Extract<Expression, { type: "name" }>): void {
    const part = expression.path[0] ?? "";
    const at = { start: expression.start, end: expression.start + part.length };
    const words = expression.path.slice(1).join(".");
    const same = [...this.readings.keys()].filter((key) => key.endsWith(`.${words}`) && !key.startsWith("last."));
    const near = nearestWord(part, [...this.partNames, ...STANDALONE]);
    const [first] = same;
    const instead =
      first === undefined
        ? "Fit one in the Robot workplace."
        : `It has ${first}${first === "robot.heading" ? ", which its wheels tell" : ""}.`;
    this.report(noPart(at, part, near, instead));
  }

  private assign(name: { name: string; start: number; end: number }, value: Expression): void {
    const kind = this.kindOfSet(value);
    const symbol = this.routine?.locals.get(name.name) ?? this.symbols.globals.get(name.name);
    if (!symbol) return;
    if (symbol.ofLoop) return this.report(loopValue(name, name.name));
    if (!this.assigned.has(symbol) && symbol.kind.is === "unknown") symbol.kind = kind;
    else if (!sameKind(symbol.kind, kind))
      this.report(kindChanged(name, name.name, kindWords(symbol.kind), kindWords(kind)));
    this.assigned.add(symbol);
  }

  /** As the whole right side of `set` a routine may take its time. */
  private kindOfSet(value: Expression): Kind {
    const called = this.readsSensors ? calledBySet(value, this.symbols) : null;
    if (!called || value.type !== "call") return kindOf(value, this.scope());
    const name = { name: value.name, start: value.start, end: value.start + value.name.length };
    this.checkArguments(called, value, name, value.args);
    if (called.gives === null) this.report(givesNothing(value, value.name));
    return called.gives ?? UNKNOWN;
  }

  /** A routine inside a value has to give one, and to take no time. */
  private callInValue(call: Extract<Expression, { type: "call" }>): Kind | null {
    const symbol = this.symbols.routines.get(call.name);
    if (!symbol) return null;
    this.checkArguments(symbol, call, call, call.args);
    if (!this.readsSensors) this.report(topSetReads(call));
    if (this.effects.routine(call.name).slow) this.report(slowCall(call, call.name));
    if (symbol.gives === null) this.report(givesNothing(call, call.name));
    return symbol.gives ?? UNKNOWN;
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
    this.block(symbol.routine.body, { ...OUTSIDE, routine: true });
    this.routine = null;
  }

  private block(block: Block, around: Around): void {
    let finished = false;
    let before: Statement | null = null;
    for (const statement of statementsOf(block)) {
      if (finished) this.report(afterFinish(statement));
      if (statement.type === "wait" && before && endsKeeping(before)) this.report(keepThenWait(statement));
      this.statement(statement, around);
      finished = statement.type === "finish";
      before = statement;
    }
  }

  private statement(statement: Statement, around: Around): void {
    const scope = this.scope();
    switch (statement.type) {
      case "set":
        return this.assign(statement.name, statement.value);
      case "note":
        kindOf(statement.value, scope);
        return;
      case "put": {
        const list = this.listNamed(statement.list);
        if (!list) return;
        requireKey(statement.index, list, scope);
        return requireKindOf(statement.value, list.of, scope);
      }
      case "add": {
        const list = this.listNamed(statement.list);
        if (list?.by) this.report(tableKeeps(statement.list, statement.list.name));
        if (list) requireKindOf(statement.value, list.of, scope);
        return;
      }
      case "clear":
        this.listNamed(statement.list);
        return;
      case "beep":
        if (statement.pitch) requireDimension(statement.pitch, FREQUENCY, "beep", "Hz", scope);
        if (statement.duration) requireDimension(statement.duration, TIME, "for", "s", scope);
        return;
      case "stop":
        if (statement.motor && this.symbols.routines.has(statement.motor.name)) return;
        checkMotion(statement, this.context, scope);
        return;
      case "go along": {
        const { paths } = this.symbols;
        const path = paths.get(statement.path.name);
        if (path) path.used = true;
        else
          this.report(unknownPath(statement.path, statement.path.name, nearestWord(statement.path.name, paths.keys())));
        checkMotion(statement, this.context, scope);
        return;
      }
      case "wait":
        if (statement.atMost) requireDimension(statement.atMost, TIME, "for", "s", scope);
        if (statement.duration) requireDimension(statement.duration, TIME, "wait", "s", scope);
        if (statement.until) requireCondition(statement.until, scope);
        if (statement.limit) requireDimension(statement.limit, TIME, "limit", "s", scope);
        return;
      case "call":
      case "start":
        return this.call(statement);
      case "give":
        return this.give(statement, around);
      case "leave":
      case "next":
        if (statement.type === "leave" ? !around.leavable : !around.loop)
          this.report(noLoop(statement, statement.type));
        return;
      case "skip":
      case "resume":
        if (!around.handler) this.report(noHandler(statement, statement.type));
        return;
      case "if":
        for (const branch of statement.branches) requireCondition(branch.condition, scope);
        for (const inner of innerBlocks(statement)) this.block(inner, around);
        return;
      case "repeat":
        return this.repeat(statement, around);
      case "every":
        return this.every(statement, around);
      case "choose":
        return this.choose(statement, around);
      case "together":
        return this.together(statement);
      case "during": {
        // Conditions may use what the body sets first.
        this.block(statement.body, { ...around, leavable: true });
        for (const { condition, body } of statement.handlers) {
          requireCondition(condition, this.scope());
          this.block(body, { ...around, leavable: true, handler: true });
        }
        return;
      }
      default:
        if (!checkPartStep(statement, this.context, scope)) checkMotion(statement, this.context, scope);
    }
  }

  private repeat(statement: Extract<Statement, { type: "repeat" }>, around: Around): void {
    if (statement.times) checkMotion(statement, this.context, this.scope());
    if (statement.condition) requireCondition(statement.condition, this.scope());
    if (statement.each) this.listNamed(statement.each.list);
    const given = statement.counter ?? statement.each?.name ?? null;
    const symbol = given ? (this.routine?.locals.get(given.name) ?? this.symbols.globals.get(given.name)) : undefined;
    if (given && symbol && !symbol.ofLoop) this.report(sameName(given, given.name, "a value"));
    if (given && this.counting.has(given.name)) this.report(counterTwice(given, given.name));
    if (symbol) {
      symbol.used = true;
      this.assigned.add(symbol);
    }
    const outer = this.counting;
    if (given) this.counting = new Set([...outer, given.name]);
    this.block(statement.body, { ...around, leavable: true, loop: true });
    this.counting = outer;
    let acts = false;
    walk(statement.body, (inner) => {
      if (!IDLE.has(inner.type)) acts = true;
    });
    if (!acts && !statement.times && !statement.condition && !statement.each && statement.body.items.length > 0)
      this.report(idleLoop(statement));
  }

  private every(statement: Extract<Statement, { type: "every" }>, around: Around): void {
    const scope = this.scope();
    requireDimension(statement.period, TIME, "every", "ms", scope);
    const period = literalValue(statement.period);
    if (period !== null) {
      const ticks = Math.max(1, Math.floor(period * 100 + 0.5));
      if (Math.abs(period * 100 - ticks) > 1e-6) this.report(everyPeriod(statement.period, `${ticks * 10} ms`));
    }
    if (statement.until) requireCondition(statement.until, scope);
    if (statement.limit) requireDimension(statement.limit, TIME, "limit", "s", scope);
    this.block(statement.body, { ...around, leavable: true, loop: true });
    for (const inner of statementsOf(statement.body)) {
      const { slow } = this.effects.statement(inner);
      if (slow) this.report(everySlow(firstSlow(inner, this.effects)));
    }
  }

  private choose(statement: Extract<Statement, { type: "choose" }>, around: Around): void {
    const scope = this.scope();
    const { subject } = statement;
    kindOf(subject, scope);
    // Each arm asks the question that `is` or a comparison would ask of the subject.
    const quiet: KindScope = {
      ...scope,
      report: (problem) => {
        if (problem.start >= subject.end) this.report(problem);
      },
    };
    for (const arm of statement.arms) {
      for (const { from, to } of arm.values)
        kindOf({ type: "is", negated: false, left: subject, right: from, to, ...spanOf(from, to) }, quiet);
      if (arm.compare) {
        const { operator, value } = arm.compare;
        kindOf({ type: "compare", operator, left: subject, right: value, ...spanOf(value, null) }, quiet);
      }
    }
    for (const inner of innerBlocks(statement)) this.block(inner, around);
  }

  private together(statement: Extract<Statement, { type: "together" }>): void {
    const taken = new Set<string>();
    for (const branch of statement.branches) {
      this.block(branch, OUTSIDE);
      const head = this.mission.lines[branch.headLine];
      const word = head?.tokens[0] ?? statement;
      const { moves } = this.effects.block(branch);
      for (const name of moves) {
        if (taken.has(name)) this.report(bothMove({ start: word.start, end: word.end }, name));
        taken.add(name);
      }
    }
  }

  private give(statement: Extract<Statement, { type: "give" }>, around: Around): void {
    if (!around.routine || !this.routine) {
      this.report(giveOutside(statement));
      return;
    }
    const kind = statement.value ? kindOf(statement.value, this.scope()) : null;
    const before = this.routine.gives;
    if (kind && before && !sameKind(before, kind))
      this.report(kindChanged(statement, this.routine.routine.name.name, kindWords(before), kindWords(kind)));
    if (kind && (before === null || before.is === "unknown")) this.routine.gives = kind;
  }

  private call(statement: Extract<Statement, { type: "call" | "start" }>): void {
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
    this.checkArguments(symbol, statement, statement.name, statement.args);
  }

  private checkArguments(
    symbol: RoutineSymbol,
    at: { start: number; end: number },
    name: { name: string },
    args: readonly Expression[],
  ): void {
    const { parameters } = symbol.routine;
    const needed = parameters.filter((parameter) => parameter.fallback === null).length;
    if (args.length < needed || args.length > parameters.length) {
      const words =
        needed === parameters.length
          ? `${needed} value${needed === 1 ? "" : "s"}`
          : `${needed} to ${parameters.length} values`;
      this.report(argumentCount(at, name.name, words, args.length));
    }
    args.forEach((arg, i) => {
      const kind = kindOf(arg, this.scope());
      const wanted = symbol.locals.get(parameters[i]?.name ?? "")?.kind ?? UNKNOWN;
      if (sameKind(kind, wanted)) return;
      if (wanted.is === "quantity") requireDimension(arg, wanted.dimension, name.name, "", this.scope());
      else this.report(kindChanged(arg, parameters[i]?.name ?? "", kindWords(wanted), kindWords(kind)));
    });
  }

  /** What is remembered and never set again is an ordinary value. */
  private checkRemembered(): void {
    const set = new Set<string>();
    for (const block of bodiesOf(this.mission))
      walk(block, (statement) => {
        if (statement.type === "set") set.add(statement.name.name);
      });
    for (const { name, remembered } of this.mission.sets)
      if (remembered && !set.has(name.name)) this.report(neverChanged(name, name.name));
  }

  private checkUnused(): void {
    // What a collection sets is for the missions that use it.
    if (this.mission.isCollection) return;
    for (const value of this.symbols.globals.values()) if (!value.used) this.report(unusedValue(value, value.name));
    for (const { line, used } of this.symbols.lists.values())
      if (!used) this.report(unusedValue(line.name, line.name.name));
    for (const { line, used } of this.symbols.paths.values())
      if (!used) this.report(unusedValue(line.name, line.name.name));
    this.checkRemembered();
    for (const { locals } of this.symbols.routines.values()) {
      for (const value of locals.values())
        if (!value.used && !value.topLevel) this.report(unusedValue(value, value.name));
    }
  }
}

/** The step inside a step of `every` that takes time. */
function firstSlow(statement: Statement, effects: EffectsOf): Statement {
  for (const block of innerBlocks(statement)) {
    const { slow } = effects.block(block);
    if (slow) return slow;
  }
  return statement;
}

function spanOf(from: Expression, to: Expression | null): Span {
  return { start: from.start, end: (to ?? from).end };
}

function endsKeeping(statement: Statement): boolean {
  return "tails" in statement && statement.tails.some((tail) => tail.ending === "keep");
}
