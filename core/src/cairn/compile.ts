// A checked mission to a list of closures. Blocks become jumps; a loop's end always gives up the tick.
import type { MotionOptions } from "../control/motions.js";
import { PI } from "../math/trig.js";
import type { CheckContext, CheckResult } from "./checker.js";
import { type CompileScope, compileCondition, compileNumber, compileValue, kindInScope } from "./compileExpressions.js";
import {
  arc,
  beginDrive,
  type Condition,
  type Endings,
  face,
  type MotionMaker,
  passOn,
  power,
  roll,
  straight,
  turn,
  wheels,
} from "./driveSteps.js";
import { numberSteps } from "./numbering.js";
import { closeStep, motorStep, openLast, waitStep } from "./otherSteps.js";
import { readingsOf } from "./readings.js";
import { routinesCalledFirst } from "./symbols.js";
import type { ActiveStep, NumberOf, Op, Task } from "./task.js";
import {
  type Block,
  type Expression,
  type Mission,
  type Routine,
  type Statement,
  statementsOf,
  type Tail,
} from "./tree.js";

export interface Program {
  readonly ops: readonly Op[];
  /** Where the mission begins. */
  readonly start: number;
  readonly globalCount: number;
  readonly counterCount: number;
  /** Sets the mission's values before it starts. */
  readonly initialise: (task: Task) => void;
  readonly goal: { readonly test: NumberOf; readonly text: string } | null;
  readonly mission: Mission;
}

/** Zone test and score at the end of a run, for `goal`. */
export interface GoalHooks {
  insideZone(zone: string): NumberOf;
  readonly score: NumberOf;
}

/** @throws RangeError when the mission was not runnable */
export function compileMission(
  mission: Mission,
  checked: CheckResult,
  context: CheckContext,
  goal: GoalHooks,
): Program {
  if (!checked.runnable || !mission.body) throw new RangeError("only a mission without errors can be compiled");
  return new Compiler(mission, checked, context, goal).compile(mission.body);
}

type Of<T extends Statement["type"]> = Extract<Statement, { type: T }>;

class Compiler {
  private readonly ops: Op[] = [];
  private readonly labels: Map<Statement, string>;
  private readonly entries = new Map<string, number>();
  private readonly byGyro: boolean;
  private counters = 0;
  private scope: CompileScope;

  constructor(
    private readonly mission: Mission,
    private readonly checked: CheckResult,
    private readonly context: CheckContext,
    goal: GoalHooks,
  ) {
    this.labels = numberSteps(mission);
    this.byGyro = context.robot.sensors.some((sensor) => sensor.kind === "gyro");
    this.scope = {
      symbols: checked.symbols,
      readings: readingsOf(context.robot),
      routine: null,
      held: [],
      newCounter: () => this.newCounter(),
      insideZone: goal.insideZone,
      score: goal.score,
    };
  }

  compile(body: Block): Program {
    const { mission, checked } = this;
    for (const routine of routinesCalledFirst(this.checked.symbols)) this.routine(routine);
    const start = this.ops.length;
    this.block(body);
    this.ops.push((task) => {
      task.ended = true;
      return false;
    });
    const sets = mission.sets.map((line) => ({
      slot: checked.symbols.globals.get(line.name.name)?.slot ?? 0,
      value: compileValue(line.value, this.scope),
    }));
    const goal = mission.goal
      ? { test: compileCondition(mission.goal.condition, this.scope), text: this.source(mission.goal.condition) }
      : null;
    return {
      ops: this.ops,
      start,
      globalCount: checked.symbols.globals.size,
      counterCount: this.counters,
      initialise: (task) => {
        for (const { slot, value } of sets) task.machine.globals[slot] = value(task);
      },
      goal,
      mission,
    };
  }

  private newCounter(): number {
    this.counters += 1;
    return this.counters - 1;
  }

  private source(span: { start: number; end: number }): string {
    return this.mission.text.slice(span.start, span.end);
  }

  private routine(routine: Routine): void {
    this.entries.set(routine.name.name, this.ops.length);
    const before = this.scope;
    this.scope = { ...before, routine: routine.name.name };
    this.block(routine.body);
    this.scope = before;
    this.ops.push((task) => {
      const frame = task.frames.pop();
      if (!frame) return false;
      task.base = frame.base;
      task.at = frame.returnTo;
      return true;
    });
  }

  private block(block: Block): void {
    for (const statement of statementsOf(block)) this.statement(statement);
  }

  private statement(statement: Statement): void {
    switch (statement.type) {
      case "go":
        return this.drive(
          statement,
          straight(this.maybe(statement.distance), statement.back, this.options(statement.tails, "straight")),
        );
      case "turn":
        return this.drive(
          statement,
          turn(
            this.maybe(statement.amount),
            statement.side === "right" ? -1 : 1,
            statement.about,
            this.options(statement.tails, "turning"),
            this.byGyro,
          ),
        );
      case "face": {
        const heading = statement.angle ? compileNumber(statement.angle, this.scope) : () => 0;
        return this.drive(statement, face(heading, this.options(statement.tails, "turning"), this.byGyro));
      }
      case "arc": {
        const radius = compileNumber(statement.radius, this.scope);
        return this.drive(
          statement,
          arc(
            this.maybe(statement.amount),
            statement.side === "right" ? -1 : 1,
            radius,
            statement.back,
            this.options(statement.tails, "straight"),
          ),
        );
      }
      case "roll":
        return this.driveOrPass(
          statement,
          roll(
            compileNumber(statement.speed, this.scope),
            this.maybe(statement.turning),
            this.tailNumber(statement.tails, "ramp"),
          ),
        );
      case "wheels":
        return this.driveOrPass(
          statement,
          wheels(
            compileNumber(statement.left, this.scope),
            compileNumber(statement.right, this.scope),
            this.tailNumber(statement.tails, "ramp"),
          ),
        );
      case "power":
        return this.power(statement);
      case "wait":
        return this.wait(statement);
      case "stop":
      case "coast":
        return this.stop(statement);
      case "set":
        return this.set(statement);
      case "note": {
        const value = compileValue(statement.value, this.scope);
        const name = statement.name.name;
        return this.instant(statement, (task) => task.machine.note(name, value(task)));
      }
      case "finish":
        return this.instant(statement, (task) => {
          task.ended = true;
          task.machine.finish();
        });
      case "call":
        return this.call(statement);
      case "repeat":
        return this.repeat(statement);
      case "if":
        return this.conditional(statement);
      default:
        throw new RangeError(`cannot compile "${statement.type}"`);
    }
  }

  private maybe(expression: Expression | null): NumberOf | null {
    return expression ? compileNumber(expression, this.scope) : null;
  }

  private tailNumber(tails: readonly Tail[], word: Tail["word"]): NumberOf | null {
    return this.maybe(tails.find((tail) => tail.word === word)?.value ?? null);
  }

  private options(tails: readonly Tail[], how: "straight" | "turning"): (task: Task) => MotionOptions {
    const at = this.tailNumber(tails, "at");
    const ramp = this.tailNumber(tails, "ramp");
    const using = this.tailNumber(tails, "using");
    const keep = tails.some((tail) => tail.ending === "keep");
    return (task) => {
      const { model } = task.machine.drive;
      const usual = how === "straight" ? model.cruiseMS : model.turnRadS;
      const usualRamp = how === "straight" ? model.rampMS2 : model.turnRampRadS2;
      // Slower than a crawl would never end: a speed of nothing is taken as the least that moves.
      return {
        cruise: Math.max(how === "straight" ? 0.005 : PI / 180, at ? at(task) : usual),
        ramp: Math.max(0.01, ramp ? ramp(task) : usualRamp),
        keep,
        mostDuty: using ? Math.max(0.02, Math.min(1, Math.abs(using(task)))) : 1,
      };
    };
  }

  private condition(expression: Expression): Condition {
    const held: number[] = [];
    return { test: compileCondition(expression, { ...this.scope, held }), held, text: this.source(expression) };
  }

  private endings(statement: Statement & { tails: readonly Tail[] }): Endings {
    const find = (word: Tail["word"]) => statement.tails.find((tail) => tail.word === word);
    const until = find("until")?.value;
    const limit = find("limit")?.value;
    return {
      forTime: this.tailNumber(statement.tails, "for"),
      until: until ? this.condition(until) : null,
      limit: this.maybe(limit ?? null),
      limitBy: limit ? this.limitKind(limit) : null,
      ending: find("then")?.ending ?? "stop",
      label: this.labels.get(statement) ?? "?",
      text: this.source(statement),
    };
  }

  private limitKind(limit: Expression): Endings["limitBy"] {
    const kind = kindInScope(limit, this.scope);
    if (kind.is !== "quantity") return "time";
    return kind.dimension.length === 1 ? "travel" : kind.dimension.angle === 1 ? "turn" : "time";
  }

  /** A step that takes time. */
  private timed(statement: Statement, begin: (task: Task) => ActiveStep): void {
    const label = this.labels.get(statement) ?? "?";
    const text = this.source(statement);
    const line = statement.line + 1;
    this.ops.push((task) => {
      if (task.active === null) {
        const active = begin(task);
        task.active = active;
        task.record = task.machine.openRecord(label, text, line, active.timed);
        openLast(task);
      }
      const ended = task.active.tick(task);
      if (ended === null) return false;
      closeStep(task, ended);
      task.at += 1;
      return true;
    });
  }

  private instant(statement: Statement, act: (task: Task) => void): void {
    const label = this.labels.get(statement) ?? "?";
    const text = this.source(statement);
    const line = statement.line + 1;
    this.ops.push((task) => {
      act(task);
      task.machine.openRecord(label, text, line, false).endTick = task.machine.tick;
      task.at += 1;
      return !task.ended;
    });
  }

  private drive(statement: Statement & { tails: readonly Tail[] }, make: MotionMaker): void {
    const endings = this.endings(statement);
    this.timed(statement, (task) => beginDrive(task, make, endings));
  }

  private driveOrPass(statement: Statement & { tails: readonly Tail[] }, make: MotionMaker): void {
    const ends = statement.tails.some((tail) => tail.word === "for" || tail.word === "until" || tail.word === "limit");
    if (ends) this.drive(statement, make);
    else this.instant(statement, (task) => passOn(task, make));
  }

  private power(statement: Of<"power">): void {
    const left = compileNumber(statement.left, this.scope);
    const right = compileNumber(statement.right, this.scope);
    const motor = statement.motor?.name;
    if (motor === undefined) return this.driveOrPass(statement, power(left, right));
    const endings = this.endings(statement);
    if (!endings.forTime && !endings.until && !endings.limit) {
      return this.instant(statement, (task) => task.machine.motorPower(motor, "drive", left(task)));
    }
    this.timed(statement, (task) => motorStep(task, motor, left(task), endings));
  }

  private wait(statement: Of<"wait">): void {
    const duration = this.maybe(statement.duration);
    const until = statement.until ? this.condition(statement.until) : null;
    const limit = this.maybe(statement.limit);
    this.timed(statement, (task) => waitStep(task, { duration, until, limit }));
  }

  private stop(statement: Of<"stop"> | Of<"coast">): void {
    const motor = statement.motor?.name;
    const mode = statement.type === "stop" ? "brake" : "coast";
    const driven = this.context.robot.wheels.some((wheel) => wheel.drivenBy === motor);
    this.instant(statement, (task) => {
      if (motor !== undefined && !driven) return task.machine.motorPower(motor, mode, 0);
      task.machine.setMotion(null);
      task.machine.drive.release(mode);
    });
  }

  private set(statement: Of<"set">): void {
    const { symbols } = this.checked;
    const value = compileValue(statement.value, this.scope);
    const name = statement.name.name;
    const local = this.scope.routine === null ? undefined : symbols.routines.get(this.scope.routine)?.locals.get(name);
    const slot = (local ?? symbols.globals.get(name))?.slot ?? 0;
    this.instant(statement, (task) => {
      if (local) task.locals[task.base + slot] = value(task);
      else task.machine.globals[slot] = value(task);
    });
  }

  private call(statement: Of<"call">): void {
    const name = statement.name.name;
    const symbol = this.checked.symbols.routines.get(name);
    const entry = this.entries.get(name);
    if (!symbol || entry === undefined) throw new RangeError(`no routine "${name}"`);
    const given = statement.args.map((arg) => compileValue(arg, this.scope));
    const fallbacks = symbol.routine.parameters
      .slice(given.length)
      .map((parameter) => compileValue(parameter.fallback as Expression, { ...this.scope, routine: null }));
    const own =
      this.scope.routine === null ? 0 : (this.checked.symbols.routines.get(this.scope.routine)?.locals.size ?? 0);
    const values = [...given, ...fallbacks];
    this.ops.push((task) => {
      const base = task.base + own;
      const computed = values.map((value) => value(task));
      for (let i = 0; i < computed.length; i += 1) task.locals[base + i] = computed[i] as number | string;
      task.frames.push({ returnTo: task.at + 1, base: task.base });
      task.base = base;
      task.at = entry;
      return true;
    });
  }

  private repeat(statement: Of<"repeat">): void {
    const times = this.maybe(statement.times);
    const counter = this.newCounter();
    this.ops.push((task) => {
      task.counters[counter] = times ? Math.max(0, Math.floor(times(task) + 0.5)) : Number.POSITIVE_INFINITY;
      task.at += 1;
      return true;
    });
    const head = this.ops.length;
    this.ops.push(() => true);
    this.block(statement.body);
    this.ops.push((task) => {
      task.at = head;
      return false;
    });
    const after = this.ops.length;
    this.ops[head] = (task) => {
      const left = task.counters[counter] as number;
      task.counters[counter] = left - 1;
      task.at = left >= 1 ? head + 1 : after;
      return true;
    };
  }

  private conditional(statement: Of<"if">): void {
    const exits: number[] = [];
    for (const branch of statement.branches) {
      const { test, held } = this.condition(branch.condition);
      const at = this.ops.length;
      this.ops.push(() => true);
      this.block(branch.body);
      exits.push(this.ops.length);
      this.ops.push(() => true);
      const next = this.ops.length;
      this.ops[at] = (task) => {
        for (const counter of held) task.counters[counter] = -1;
        task.at = test(task) !== 0 ? at + 1 : next;
        return true;
      };
    }
    if (statement.otherwise) this.block(statement.otherwise);
    const end = this.ops.length;
    for (const exit of exits) {
      this.ops[exit] = (task) => {
        task.at = end;
        return true;
      };
    }
  }
}
