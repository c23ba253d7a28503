// Blocks to jumps: loops, choices, branches side by side, interrupts, routines. A loop's end always gives up the
// tick, so that nothing freezes.
import { type Block, type Routine, type Statement, statementsOf } from "../cairn/tree.js";
import type { InstructionOf, Store } from "./instructions.js";
import { LowerBase, type Place } from "./lowerBase.js";

type Of<T extends Statement["type"]> = Extract<Statement, { type: T }>;
type Kind = InstructionOf<"leave">["kind"];

/** What `leave` and `next` jump out of or back to. */
interface Leavable {
  readonly kind: Kind;
  /** Guards open around it in this stretch of code. */
  readonly guards: number;
  readonly exit: Place;
  /** Where the next pass begins. */
  readonly head: number;
}

export abstract class BlockLowering extends LowerBase {
  private leavables: Leavable[] = [];
  private guardDepth = 0;
  /** Guards whose handlers are being lowered, by their depth. */
  private handling: number[] = [];

  protected abstract simple(statement: Statement): void;

  protected block(block: Block): void {
    for (const statement of statementsOf(block)) this.statement(statement);
  }

  private statement(statement: Statement): void {
    switch (statement.type) {
      case "call":
        return this.emit({ op: "call", ...this.called(statement.name.name, statement.args) });
      case "start":
        return this.emit({
          op: "start",
          ...this.named(statement),
          ...this.called(statement.name.name, statement.args),
        });
      case "give":
        return this.emit({ op: "give", value: statement.value ? this.value(statement.value) : [0] });
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

  /** Lowers something whose loops and guards are its own: a routine, or a branch of `together`. */
  private apart(lower: () => void): void {
    const { leavables, guardDepth, handling } = this;
    this.leavables = [];
    this.guardDepth = 0;
    this.handling = [];
    lower();
    this.leavables = leavables;
    this.guardDepth = guardDepth;
    this.handling = handling;
  }

  protected routine(routine: Routine): void {
    const { name } = routine.name;
    const symbol = this.checked.symbols.routines.get(name);
    if (!symbol) return;
    const before = this.scope;
    this.entries.set(name, { entry: this.here, routine: symbol.index });
    this.scope = { ...before, routine: name };
    this.apart(() => this.block(routine.body));
    this.scope = before;
    this.emit({ op: "give", value: [0] });
  }

  private set(statement: Of<"set">): void {
    const { value, name } = statement;
    const called = value.type === "call" && this.checked.symbols.routines.has(value.name);
    if (called) this.emit({ op: "call", ...this.called(value.name, value.args) });
    this.emit({
      op: "set",
      ...this.named(statement),
      store: this.storeOf(name.name),
      value: called ? ["given"] : this.value(value),
    });
  }

  private changeList(statement: Of<"put"> | Of<"add"> | Of<"clear">): void {
    const list = this.checked.symbols.lists.get(statement.list.name)?.index ?? 0;
    const named = this.named(statement);
    if (statement.type === "clear") return this.emit({ op: "clear", ...named, list });
    const value = this.value(statement.value);
    if (statement.type === "add") return this.emit({ op: "add", ...named, list, value });
    this.emit({ op: "put", ...named, list, index: this.value(statement.index), value });
  }

  // Loops

  private loop(kind: Kind, head: number, lower: () => void): Place {
    const exit: Place = { at: 0 };
    this.leavables.push({ kind, guards: this.guardDepth, exit, head });
    lower();
    this.leavables.pop();
    return exit;
  }

  /** Where a value of the mission, or of the routine being lowered, is put. */
  private storeOf(name: string): Store {
    const { symbols } = this.checked;
    const { routine } = this.scope;
    const symbol = routine === null ? undefined : symbols.routines.get(routine);
    const local = symbol?.locals.get(name);
    if (symbol && local) return { routine: symbol.index, local: local.slot };
    return { global: symbols.globals.get(name)?.slot ?? 0 };
  }

  private repeat(statement: Of<"repeat">): void {
    const times = this.maybe(statement.times);
    const condition = statement.condition ? this.condition(statement.condition) : null;
    const each = statement.each
      ? {
          list: this.checked.symbols.lists.get(statement.each.list.name)?.index ?? 0,
          store: this.storeOf(statement.each.name.name),
        }
      : null;
    const count = statement.counter ? this.storeOf(statement.counter.name) : null;
    const [left, passes] = [this.newCounter(), this.newCounter()];
    this.emit({ op: "repeat", times, left, passes, condition });
    const head = this.here;
    const after: Place = { at: 0 };
    const how = statement.how ?? "while";
    this.emitLater(() => ({ op: "next pass", left, passes, condition, how, each, count, after: after.at }));
    const exit = this.loop("repeat", head, () => this.block(statement.body));
    this.emit({ op: "again", to: head });
    for (const place of [after, exit]) place.at = this.here;
  }

  private every(statement: Of<"every">): void {
    const period = this.number(statement.period);
    const until = statement.until ? this.condition(statement.until) : null;
    const limit = this.maybe(statement.limit);
    const counter = this.newCounter();
    this.emit({ op: "every", ...this.named(statement), until, limit, counter });
    const head = this.here;
    const over: Place = { at: 0 };
    this.emitLater(() => ({ op: "next beat", period, until, counter, exit: over.at }));
    const exit = this.loop("every", head, () => this.block(statement.body));
    this.emit({ op: "again", to: head });
    for (const place of [over, exit]) place.at = this.here;
    this.emit({ op: "beats end" });
  }

  private leave(word: "leave" | "next"): void {
    const target = [...this.leavables].reverse().find((one) => word === "leave" || one.kind !== "during");
    if (!target) throw new RangeError(`"${word}" outside a loop`);
    const { guards, kind, head, exit } = target;
    // A pass ends like any other: it gives up the tick.
    const pass = word === "next";
    this.emitLater(() => ({ op: "leave", guards, kind, pass, to: pass ? head : exit.at }));
  }

  // Choices

  private conditional(statement: Of<"if">): void {
    const exits: Place[] = [];
    for (const branch of statement.branches) {
      const condition = this.condition(branch.condition, true);
      const next: Place = { at: 0 };
      this.emitLater(() => ({ op: "if", condition, otherwise: next.at }));
      this.block(branch.body);
      exits.push(this.jump());
      next.at = this.here;
    }
    if (statement.otherwise) this.block(statement.otherwise);
    for (const exit of exits) exit.at = this.here;
  }

  /** Reads its subject once; the first arm that fits wins. */
  private choose(statement: Of<"choose">): void {
    const subject = this.value(statement.subject);
    const arms = statement.arms.map((arm) => ({ ...this.armTest(arm), place: { at: 0 } }));
    const none: Place = { at: 0 };
    this.emitLater(() => ({
      op: "choose",
      subject,
      arms: arms.map(({ compare, values, place }) => ({ compare, values, to: place.at })),
      otherwise: none.at,
    }));
    const exits: Place[] = [];
    statement.arms.forEach((arm, i) => {
      (arms[i] as (typeof arms)[number]).place.at = this.here;
      this.block(arm.body);
      exits.push(this.jump());
    });
    none.at = this.here;
    if (statement.otherwise) this.block(statement.otherwise);
    for (const exit of exits) exit.at = this.here;
  }

  private armTest(arm: Of<"choose">["arms"][number]): Omit<InstructionOf<"choose">["arms"][number], "to"> {
    if (arm.compare) {
      const { operator, value } = arm.compare;
      return { compare: { operator, value: this.number(value) }, values: [] };
    }
    const values = arm.values.map(({ from, to }) => ({ from: this.value(from), to: to ? this.value(to) : null }));
    return { compare: null, values };
  }

  // Side by side

  private together(statement: Of<"together">): void {
    const entries: number[] = [];
    const { routine: name } = this.scope;
    const routine = name === null ? null : (this.checked.symbols.routines.get(name)?.index ?? null);
    const after: Place = { at: 0 };
    const { untilOne } = statement;
    this.emitLater(() => ({ op: "together", entries, routine, untilOne, after: after.at }));
    for (const branch of statement.branches) {
      entries.push(this.here);
      this.apart(() => this.block(branch));
      this.emit({ op: "end" });
    }
    after.at = this.here;
  }

  /** A step of a button: a routine ends by itself, everything else stays as it is until the button ends it. */
  protected held(statement: Statement): void {
    this.apart(() => this.statement(statement));
    this.emit(statement.type === "call" ? { op: "end" } : { op: "idle" });
  }

  // Interrupts

  private during(statement: Of<"during">): void {
    const handlers: InstructionOf<"guard">["handlers"] = [];
    const depth = this.guardDepth;
    this.emit({ op: "guard", step: this.labels.get(statement) ?? "?", handlers });
    const end: Place = { at: 0 };
    const exit = this.loop("during", this.here, () => {
      this.guardDepth += 1;
      this.block(statement.body);
      this.emitLater(() => ({ op: "guard ends", depth, to: end.at }));
      this.handling.push(depth);
      for (const handler of statement.handlers) {
        handlers.push({ condition: this.condition(handler.condition), entry: this.here });
        this.block(handler.body);
        this.resume(false);
      }
      this.handling.pop();
      this.guardDepth -= 1;
    });
    for (const place of [end, exit]) place.at = this.here;
  }

  private resume(skip: boolean): void {
    this.emit({ op: "resume", depth: this.handling[this.handling.length - 1] as number, skip });
  }
}
