// Blocks to jumps: loops, choices, branches side by side, interrupts, routines. A loop's end always gives up the
// tick, so that nothing freezes.
import { CompilerBase } from "./compileBase.js";
import { compileCondition } from "./compileExpressions.js";
import { type GuardCode, openGuard, resumeBody, unwindGuards } from "./guards.js";
import type { ListState } from "./lists.js";
import { LAST } from "./readings.js";
import { type ActiveStep, clockOf, type EveryState, type NumberOf, resetHeld, type Task, type Value } from "./task.js";
import { type Block, type Expression, type Routine, type Statement, statementsOf } from "./tree.js";

type Of<T extends Statement["type"]> = Extract<Statement, { type: T }>;

/** What `leave` and `next` jump out of or back to. */
interface Leavable {
  readonly kind: "repeat" | "every" | "during";
  /** Guards open around it in this stretch of code. */
  readonly guards: number;
  readonly exits: { to: number }[];
  /** Where the next pass begins. */
  readonly head: number;
}

const JOIN: ActiveStep = { timed: false, joins: true, tick: () => null };

/** Guards open in the routine that runs, below its own. */
function guardBase(task: Task): number {
  return task.frames[task.frames.length - 1]?.guards ?? 0;
}

export abstract class BlockCompiler extends CompilerBase {
  private leavables: Leavable[] = [];
  private guardDepth = 0;
  /** Guards whose handlers are being compiled, by their depth. */
  private handling: number[] = [];

  protected abstract simple(statement: Statement): void;

  protected block(block: Block): void {
    for (const statement of statementsOf(block)) this.statement(statement);
  }

  private statement(statement: Statement): void {
    switch (statement.type) {
      case "call":
        return this.call(statement.name.name, statement.args);
      case "start":
        return this.startRoutine(statement);
      case "give":
        return this.give(statement);
      case "repeat":
        return this.repeat(statement);
      case "every":
        return this.every(statement);
      case "if":
        return this.conditional(statement);
      case "choose":
        return this.choose(statement);
      case "together":
        return this.together(statement);
      case "during":
        return this.during(statement);
      case "leave":
      case "next":
        return this.leave(statement.type);
      case "resume":
      case "skip":
        return this.resume(statement.type === "skip");
      case "set":
        return this.set(statement);
      case "put":
      case "add":
      case "clear":
        return this.changeList(statement);
      default:
        this.simple(statement);
    }
  }

  /** Compiles something whose loops and guards are its own: a routine, or a branch of `together`. */
  private apart(compile: () => void): void {
    const { leavables, guardDepth, handling } = this;
    this.leavables = [];
    this.guardDepth = 0;
    this.handling = [];
    compile();
    this.leavables = leavables;
    this.guardDepth = guardDepth;
    this.handling = handling;
  }

  // Routines

  protected routine(routine: Routine): void {
    const { name } = routine.name;
    const symbol = this.checked.symbols.routines.get(name);
    if (!symbol) return;
    const before = this.scope;
    this.entries.set(name, { at: this.ops.length, index: symbol.index });
    this.scope = { ...before, routine: name };
    this.apart(() => this.block(routine.body));
    this.scope = before;
    this.giveBack(() => 0);
  }

  private giveBack(value: (task: Task) => Value): void {
    this.ops.push((task) => {
      const given = value(task);
      const frame = task.frames[task.frames.length - 1];
      if (!frame) return false;
      unwindGuards(task, frame.guards);
      task.runner.cutEveries(task, frame.everies);
      task.frames.pop();
      task.given = given;
      task.at = frame.returnTo;
      return true;
    });
  }

  private give(statement: Of<"give">): void {
    this.giveBack(statement.value ? this.value(statement.value) : () => 0);
  }

  protected argumentsOf(name: string, args: readonly Expression[]): (task: Task) => Value[] {
    const symbol = this.checked.symbols.routines.get(name);
    if (!symbol) throw new RangeError(`no routine "${name}"`);
    const given = args.map((arg) => this.value(arg));
    const fallbacks = symbol.routine.parameters
      .slice(given.length)
      .map((parameter) => this.value(parameter.fallback as Expression, { ...this.scope, routine: null }));
    const all = [...given, ...fallbacks];
    const size = symbol.locals.size;
    return (task) => {
      const values = new Array<Value>(size).fill(0);
      for (let i = 0; i < all.length; i += 1) values[i] = (all[i] as (task: Task) => Value)(task);
      return values;
    };
  }

  private call(name: string, args: readonly Expression[]): void {
    const { at: entry, index } = this.entry(name);
    const values = this.argumentsOf(name, args);
    this.ops.push((task) => {
      task.values[index] = values(task);
      task.frames.push({
        returnTo: task.at + 1,
        routine: index,
        guards: task.guards.length,
        everies: task.everies.length,
      });
      task.given = 0;
      task.at = entry;
      return true;
    });
  }

  private startRoutine(statement: Of<"start">): void {
    const { at: entry, index } = this.entry(statement.name.name);
    const values = this.argumentsOf(statement.name.name, statement.args);
    this.instant(statement, (task) => task.runner.start(entry, index, values(task)));
  }

  private set(statement: Of<"set">): void {
    const { symbols } = this.checked;
    const called = statement.value.type === "call" && symbols.routines.has(statement.value.name);
    if (called && statement.value.type === "call") this.call(statement.value.name, statement.value.args);
    const value = called ? (task: Task) => task.given : this.value(statement.value);
    const store = this.storeOf(statement.name.name);
    this.instant(statement, (task) => store(task, value(task)));
  }

  private changeList(statement: Of<"put"> | Of<"add"> | Of<"clear">): void {
    const index = this.checked.symbols.lists.get(statement.list.name)?.index ?? 0;
    if (statement.type === "clear")
      return this.instant(statement, (task) => (task.machine.lists[index] as ListState).clear());
    const value = this.value(statement.value);
    const at = statement.type === "put" ? this.value(statement.index) : null;
    this.instant(statement, (task) => {
      const list = task.machine.lists[index] as ListState;
      const wrong = at ? list.put(at(task), value(task)) : list.add(value(task));
      if (wrong !== null) task.machine.stop(wrong);
    });
  }

  // Loops

  private loop(kind: Leavable["kind"], head: number, compile: () => void): { to: number }[] {
    const exits: { to: number }[] = [];
    this.leavables.push({ kind, guards: this.guardDepth, exits, head });
    compile();
    this.leavables.pop();
    return exits;
  }

  /** Writes a value of the mission, or of the routine being compiled. */
  private storeOf(name: string): (task: Task, value: Value) => void {
    const { symbols } = this.checked;
    const { routine } = this.scope;
    const symbol = routine === null ? undefined : symbols.routines.get(routine);
    const local = symbol?.locals.get(name);
    const slot = (local ?? symbols.globals.get(name))?.slot ?? 0;
    const index = symbol?.index ?? 0;
    if (!local)
      return (task, value) => {
        task.machine.globals[slot] = value;
      };
    return (task, value) => {
      (task.values[index] as Value[])[slot] = value;
    };
  }

  /** Of a list each value in turn, of a table each key; it looks at the list anew before each pass. */
  private eachOf(statement: Of<"repeat">): ((task: Task, pass: number) => boolean) | null {
    if (!statement.each) return null;
    const index = this.checked.symbols.lists.get(statement.each.list.name)?.index ?? 0;
    const store = this.storeOf(statement.each.name.name);
    return (task, pass) => {
      const { keys, values } = task.machine.lists[index] as ListState;
      const value = (keys ?? values)[pass - 1];
      if (value === undefined) return false;
      store(task, value);
      return true;
    };
  }

  private repeat(statement: Of<"repeat">): void {
    const times = this.maybe(statement.times);
    const condition = statement.condition ? this.condition(statement.condition) : null;
    const each = this.eachOf(statement);
    const count = statement.counter ? this.storeOf(statement.counter.name) : null;
    const left = this.newCounter();
    const passes = this.newCounter();
    this.ops.push((task) => {
      task.counters[left] = times ? Math.max(0, Math.floor(times(task) + 0.5)) : Number.POSITIVE_INFINITY;
      task.counters[passes] = 0;
      resetHeld(task, condition);
      task.at += 1;
      return true;
    });
    const head = this.ops.length;
    const after = { to: 0 };
    this.ops.push((task) => {
      const remaining = task.counters[left] as number;
      const pass = (task.counters[passes] as number) + 1;
      task.counters[left] = remaining - 1;
      task.counters[passes] = pass;
      const goes =
        remaining >= 1 &&
        (!condition || (condition.test(task) !== 0) === (statement.how === "while")) &&
        (!each || each(task, pass));
      if (goes) count?.(task, pass);
      task.at = goes ? head + 1 : after.to;
      return true;
    });
    const exits = this.loop("repeat", head, () => this.block(statement.body));
    this.ops.push((task) => {
      task.at = head;
      return false;
    });
    for (const exit of [after, ...exits]) exit.to = this.ops.length;
  }

  private every(statement: Of<"every">): void {
    const period = this.number(statement.period);
    const until = statement.until ? this.condition(statement.until) : null;
    const limit = this.maybe(statement.limit);
    const label = this.labels.get(statement) ?? "?";
    const text = this.source(statement);
    const limitCounter = this.newCounter();
    this.ops.push((task) => {
      const { machine } = task;
      const clock = clockOf(task);
      const record = machine.openRecord(label, text, statement.line + 1, false, task.id, false);
      const claims = task.runner.claims;
      task.everies.push({ startClock: clock, dueClock: clock, claims, record, ended: "interrupted" });
      task.counters[limitCounter] = limit ? limit(task) : Number.POSITIVE_INFINITY;
      resetHeld(task, until);
      task.at += 1;
      return true;
    });
    const head = this.ops.length;
    const exit = { to: 0 };
    this.ops.push((task) => {
      const state = task.everies[task.everies.length - 1] as EveryState;
      const clock = clockOf(task);
      const elapsed = (clock - state.startClock) * task.machine.tickSec;
      const ended = task.skip
        ? "skipped"
        : until && until.test(task) !== 0
          ? "until"
          : elapsed >= (task.counters[limitCounter] as number) - 1e-9
            ? "limit"
            : null;
      if (ended) {
        task.skip = false;
        state.ended = ended;
        task.at = exit.to;
        return true;
      }
      if (clock < state.dueClock) return false;
      state.dueClock += Math.max(1, Math.floor(period(task) / task.machine.tickSec + 0.5));
      task.at = head + 1;
      return true;
    });
    const exits = this.loop("every", head, () => this.block(statement.body));
    this.ops.push((task) => {
      task.at = head;
      return false;
    });
    for (const leaving of [exit, ...exits]) leaving.to = this.ops.length;
    this.ops.push((task) => {
      const state = task.everies[task.everies.length - 1] as EveryState;
      task.last[LAST.limited] = state.ended === "limit" ? 1 : 0;
      task.last[LAST.time] = (clockOf(task) - state.startClock) * task.machine.tickSec;
      task.runner.cutEveries(task, task.everies.length - 1);
      task.stepsEnded += 1;
      task.at += 1;
      return true;
    });
  }

  private leave(word: "leave" | "next"): void {
    const target = [...this.leavables].reverse().find((one) => word === "leave" || one.kind !== "during");
    if (!target) throw new RangeError(`"${word}" outside a loop`);
    const { guards, kind, head } = target;
    const goal = { to: head };
    if (word === "leave") target.exits.push(goal);
    // A pass ends like any other: it gives up the tick.
    const yields = word === "next";
    this.ops.push((task) => {
      const everies = this.everiesAt(task, guards);
      unwindGuards(task, guardBase(task) + guards);
      if (everies >= 0 && kind !== "every") task.runner.cutEveries(task, everies);
      const state = task.everies[task.everies.length - 1];
      if (kind === "every" && state && word === "leave") state.ended = "done";
      task.at = goal.to;
      return !yields;
    });
  }

  /** Loops of `every` that were open when the first guard above a depth was opened; -1 without one. */
  private everiesAt(task: Task, guards: number): number {
    return task.guards[guardBase(task) + guards]?.everies ?? -1;
  }

  // Choices

  private conditional(statement: Of<"if">): void {
    const exits: { to: number }[] = [];
    for (const branch of statement.branches) {
      const { test, held } = this.condition(branch.condition, true);
      const next = { to: 0 };
      this.ops.push((task) => {
        for (const counter of held) task.counters[counter] = -1;
        task.at = test(task) !== 0 ? task.at + 1 : next.to;
        return true;
      });
      this.block(branch.body);
      exits.push(this.jump());
      next.to = this.ops.length;
    }
    if (statement.otherwise) this.block(statement.otherwise);
    for (const exit of exits) exit.to = this.ops.length;
  }

  /** Reads its subject once; the first arm that fits wins. */
  private choose(statement: Of<"choose">): void {
    const subject = this.value(statement.subject);
    const arms = statement.arms.map((arm) => ({ fits: this.armTest(arm), goal: { to: 0 } }));
    const none = { to: 0 };
    this.ops.push((task) => {
      const value = subject(task);
      task.at = (arms.find(({ fits }) => fits(task, value))?.goal ?? none).to;
      return true;
    });
    const exits: { to: number }[] = [];
    statement.arms.forEach((arm, i) => {
      (arms[i] as (typeof arms)[number]).goal.to = this.ops.length;
      this.block(arm.body);
      exits.push(this.jump());
    });
    none.to = this.ops.length;
    if (statement.otherwise) this.block(statement.otherwise);
    for (const exit of exits) exit.to = this.ops.length;
  }

  private armTest(arm: Of<"choose">["arms"][number]): (task: Task, value: Value) => boolean {
    if (arm.compare) {
      const { operator } = arm.compare;
      const other = this.number(arm.compare.value);
      return (task, value) => {
        const right = other(task);
        const left = value as number;
        if (operator === "<") return left < right;
        if (operator === ">") return left > right;
        return operator === "<=" ? left <= right : left >= right;
      };
    }
    const values = arm.values.map(({ from, to }) => ({
      from: this.value(from),
      to: to ? this.value(to) : null,
    }));
    return (task, value) =>
      values.some(({ from, to }) => {
        const a = from(task);
        if (!to) return value === a;
        const b = to(task);
        return a <= b ? value >= a && value <= b : value >= b && value <= a;
      });
  }

  // Side by side

  private together(statement: Of<"together">): void {
    const entries: number[] = [];
    const { routine } = this.scope;
    const index = routine === null ? null : (this.checked.symbols.routines.get(routine)?.index ?? null);
    const after = { to: 0 };
    const { untilOne } = statement;
    this.ops.push((task) => {
      if (task.active === null) {
        task.active = JOIN;
        task.children = entries.map((entry) => task.runner.branch(task, entry, index));
        return false;
      }
      const { children } = task;
      if (!(untilOne ? children.some((child) => child.ended) : children.every((child) => child.ended))) return false;
      for (const child of children) task.runner.end(child);
      task.children = [];
      task.active = null;
      task.stepsEnded += 1;
      task.at = after.to;
      return true;
    });
    for (const branch of statement.branches) {
      entries.push(this.ops.length);
      this.apart(() => this.block(branch));
      this.endTask();
    }
    after.to = this.ops.length;
  }

  /** The task is through. @returns its place */
  protected endTask(): number {
    this.ops.push((task) => {
      task.ended = true;
      return false;
    });
    return this.ops.length - 1;
  }

  /** A step of a button: a routine ends by itself, everything else stays as it is until the button ends it. */
  protected held(statement: Statement): void {
    this.apart(() => this.statement(statement));
    if (statement.type === "call") this.endTask();
    else this.ops.push(() => false);
  }

  // Interrupts

  private during(statement: Of<"during">): void {
    const handlers: { condition: GuardCode["handlers"][number]["condition"]; entry: number }[] = [];
    const code: GuardCode = { handlers, label: this.labels.get(statement) ?? "?" };
    const depth = this.guardDepth;
    this.ops.push((task) => {
      openGuard(task, code);
      task.at += 1;
      return true;
    });
    const end = { to: 0 };
    const exits = this.loop("during", this.ops.length, () => {
      this.guardDepth += 1;
      this.block(statement.body);
      this.ops.push((task) => {
        unwindGuards(task, guardBase(task) + depth);
        task.at = end.to;
        return true;
      });
      this.handling.push(depth);
      for (const handler of statement.handlers) {
        handlers.push({ condition: this.condition(handler.condition), entry: this.ops.length });
        this.block(handler.body);
        this.resume(false);
      }
      this.handling.pop();
      this.guardDepth -= 1;
    });
    for (const exit of [end, ...exits]) exit.to = this.ops.length;
  }

  private resume(skip: boolean): void {
    const depth = this.handling[this.handling.length - 1] as number;
    this.ops.push((task) => {
      resumeBody(task, guardBase(task) + depth, skip);
      return true;
    });
  }

  /** The goal's condition, asked once at the end. */
  protected goalTest(condition: Expression): NumberOf {
    return compileCondition(condition, this.scope);
  }
}
