// What compiling any step needs: the list of closures it adds to, the scope names are looked up in, and the ways
// a step is put into the list: one that acts at once, one that takes time.
import type { CheckContext, CheckResult } from "./checker.js";
import {
  type CompileScope,
  compileCondition,
  compileNumber,
  compileValue,
  kindInScope,
  newUses,
} from "./compileExpressions.js";
import { boundedNumber, boundedValue } from "./compileRanges.js";
import type { Endings } from "./driveSteps.js";
import { numberSteps } from "./numbering.js";
import { closeStep, openLast } from "./otherSteps.js";
import { readingsOf } from "./readings.js";
import type { ActiveStep, Condition, NumberOf, Op, Task, Value, ValueOf } from "./task.js";
import type { Expression, Mission, Statement, Tail } from "./tree.js";

export interface RoutineEntry {
  readonly at: number;
  readonly index: number;
}

export abstract class CompilerBase {
  protected readonly ops: Op[] = [];
  protected readonly labels: Map<Statement, string>;
  protected readonly entries = new Map<string, RoutineEntry>();
  protected readonly signals: string[] = [];
  protected scope: CompileScope;
  protected counters = 0;

  constructor(
    protected readonly mission: Mission,
    protected readonly checked: CheckResult,
    protected readonly context: CheckContext,
  ) {
    this.labels = numberSteps(mission);
    this.scope = {
      symbols: checked.symbols,
      readings: readingsOf(context.robot),
      routine: null,
      uses: newUses(),
      asksOnce: true,
      newCounter: () => this.newCounter(),
      signal: (name) => this.signal(name),
      callRoutine: (name, args) => this.callInValue(name, args),
    };
  }

  protected abstract argumentsOf(name: string, args: readonly Expression[]): (task: Task) => Value[];

  protected newCounter(): number {
    this.counters += 1;
    return this.counters - 1;
  }

  protected signal(name: string): number {
    const known = this.signals.indexOf(name);
    return known === -1 ? this.signals.push(name) - 1 : known;
  }

  protected entry(name: string): RoutineEntry {
    const entry = this.entries.get(name);
    if (!entry) throw new RangeError(`no routine "${name}"`);
    return entry;
  }

  private callInValue(name: string, args: readonly Expression[]): ValueOf {
    const { at, index } = this.entry(name);
    const values = this.argumentsOf(name, args);
    return (task) => task.runner.callNow(task, at, index, values(task));
  }

  protected source(span: { start: number; end: number }): string {
    return this.mission.text.slice(span.start, span.end);
  }

  /** A number a step acts on. */
  protected number(expression: Expression): NumberOf {
    return boundedNumber(compileNumber(expression, this.scope), expression, this.source(expression), this.scope);
  }

  protected maybe(expression: Expression | null): NumberOf | null {
    return expression ? this.number(expression) : null;
  }

  /** A value that is kept, given or told. */
  protected value(expression: Expression, scope: CompileScope = this.scope): ValueOf {
    return boundedValue(compileValue(expression, scope), expression, this.source(expression));
  }

  protected tailNumber(tails: readonly Tail[], word: Tail["word"]): NumberOf | null {
    return this.maybe(tails.find((tail) => tail.word === word)?.value ?? null);
  }

  /** @param asksOnce - of `if`: asked at one moment instead of watched */
  protected condition(expression: Expression, asksOnce = false): Condition {
    const uses = newUses();
    const inner = compileCondition(expression, { ...this.scope, uses, asksOnce });
    const { held, heard, slots, other } = uses;
    const test: NumberOf =
      heard.length === 0
        ? inner
        : (task) => {
            const met = inner(task);
            if (met !== 0) for (const signal of heard) task.signals[signal] = 0;
            return met;
          };
    const signalOnly = heard.length > 0 && slots.length === 0 && !other;
    return { test, held, text: this.source(expression), signalOnly, looksAt: slots };
  }

  protected endings(statement: Statement & { tails: readonly Tail[] }): Endings {
    const find = (word: Tail["word"]) => statement.tails.find((tail) => tail.word === word);
    const until = find("until")?.value;
    const limit = find("limit")?.value;
    return {
      forTime: this.tailNumber(statement.tails, "for"),
      until: until ? this.condition(until) : null,
      limit: this.maybe(limit ?? null),
      limitBy: limit ? this.limitKind(limit) : null,
      ending: find("then")?.ending ?? "stop",
      ...this.named(statement),
    };
  }

  /** Endings of a step without tails. */
  protected plainEndings(statement: Statement): Endings {
    return { forTime: null, until: null, limit: null, limitBy: null, ending: "stop", ...this.named(statement) };
  }

  private named(statement: Statement): { label: string; text: string } {
    return { label: this.labels.get(statement) ?? "?", text: this.source(statement) };
  }

  private limitKind(limit: Expression): Endings["limitBy"] {
    const kind = kindInScope(limit, this.scope);
    if (kind.is !== "quantity") return "time";
    return kind.dimension.length === 1 ? "travel" : kind.dimension.angle === 1 ? "turn" : "time";
  }

  /** A step that takes time. */
  protected timed(statement: Statement, begin: (task: Task) => ActiveStep): void {
    const { label, text } = this.named(statement);
    const line = statement.line + 1;
    this.ops.push((task) => {
      if (task.active === null) {
        const active = begin(task);
        task.active = active;
        task.record = task.machine.openRecord(label, text, line, active.timed, task.id, false);
        openLast(task);
      }
      const step = task.active;
      const ended = task.skip ? "skipped" : step.tick(task);
      if (ended === null) return false;
      if (ended === "skipped") step.drop?.(task);
      closeStep(task, ended);
      task.at += 1;
      return true;
    });
  }

  protected instant(statement: Statement, act: (task: Task) => void): void {
    const { label, text } = this.named(statement);
    const line = statement.line + 1;
    this.ops.push((task) => {
      act(task);
      if (task.quiet === 0) {
        const { machine } = task;
        const record = machine.openRecord(label, text, line, false, task.id, task.everies.length > 0);
        if (record) record.endTick = machine.tick;
      }
      task.at += 1;
      return !task.ended;
    });
  }

  /** A jump whose goal is set later. */
  protected jump(): { to: number } {
    const goal = { to: 0 };
    this.ops.push((task) => {
      task.at = goal.to;
      return true;
    });
    return goal;
  }
}
