// What lowering any step needs: the list of instructions it adds to, the scope names are looked up in, conditions and
// tails.

import type { CheckResult } from "../cairn/check.js";
import type { CheckContext } from "../cairn/checkContext.js";
import { numberSteps } from "../cairn/numbering.js";
import { readingsOf } from "../cairn/readings.js";
import type { Expression, Mission, Statement, Tail } from "../cairn/tree.js";
import type { Code } from "./code.js";
import type { ConditionCode, EndingsCode, Instruction } from "./instructions.js";
import { boundedNumber, boundedValue, kindInScope, type LowerScope, lowerValue, newUses } from "./lowerCode.js";

interface RoutineEntry {
  readonly entry: number;
  readonly routine: number;
}

/** A place that is known later. */
export interface Place {
  at: number;
}

/** What a step is called in a record. */
interface StepName {
  readonly step: string;
  readonly text: string;
  readonly line: number;
}

export abstract class LowerBase {
  protected readonly instructions: Instruction[] = [];
  protected readonly labels: Map<Statement, string>;
  protected readonly entries = new Map<string, RoutineEntry>();
  protected readonly signals: string[] = [];
  protected scope: LowerScope;
  protected counters = 0;
  private readonly later: (() => void)[] = [];

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

  /** Where the next instruction will be. */
  protected get here(): number {
    return this.instructions.length;
  }

  protected emit(instruction: Instruction): void {
    this.instructions.push(instruction);
  }

  /** An instruction with places that are known only at the end. */
  protected emitLater(make: () => Instruction): void {
    const at = this.here;
    this.instructions.push({ op: "idle" });
    this.later.push(() => {
      this.instructions[at] = make();
    });
  }

  /** Fills in what was left open. */
  protected settle(): void {
    for (const fill of this.later) fill();
  }

  /** A jump whose goal is set later. */
  protected jump(): Place {
    const place: Place = { at: 0 };
    this.emitLater(() => ({ op: "jump", to: place.at }));
    return place;
  }

  protected newCounter(): number {
    this.counters += 1;
    return this.counters - 1;
  }

  protected signal(name: string): number {
    const known = this.signals.indexOf(name);
    return known === -1 ? this.signals.push(name) - 1 : known;
  }

  protected entryOf(name: string): RoutineEntry {
    const entry = this.entries.get(name);
    if (!entry) throw new RangeError(`no routine "${name}"`);
    return entry;
  }

  /** A routine with what it is given: what is left out has its fallback. */
  protected called(name: string, args: readonly Expression[]) {
    const symbol = this.checked.symbols.routines.get(name);
    if (!symbol) throw new RangeError(`no routine "${name}"`);
    const given = args.map((arg) => this.value(arg));
    const fallbacks = symbol.routine.parameters
      .slice(given.length)
      .map((parameter) => this.value(parameter.fallback as Expression, { ...this.scope, routine: null }));
    return { ...this.entryOf(name), size: symbol.locals.size, args: [...given, ...fallbacks].map((code) => [...code]) };
  }

  private callInValue(name: string, args: readonly Expression[]): Code {
    const { entry, routine, size, args: given } = this.called(name, args);
    return [...given.flat(), ["routine", entry, routine, size, given.length]];
  }

  protected source(span: { start: number; end: number }): string {
    return this.mission.text.slice(span.start, span.end);
  }

  /** A number a step acts on. */
  protected number(expression: Expression): Code[number][] {
    const code = lowerValue(expression, this.scope);
    return [...boundedNumber(code, expression, this.source(expression), this.scope)];
  }

  protected maybe(expression: Expression | null): Code[number][] | null {
    return expression ? this.number(expression) : null;
  }

  /** A value that is kept, given or told. */
  protected value(expression: Expression, scope: LowerScope = this.scope): Code[number][] {
    return [...boundedValue(lowerValue(expression, scope), expression, this.source(expression))];
  }

  protected tailNumber(tails: readonly Tail[], word: Tail["word"]): Code[number][] | null {
    return this.maybe(tails.find((tail) => tail.word === word)?.value ?? null);
  }

  /** @param asksOnce - of `if`: asked at one moment instead of watched */
  protected condition(expression: Expression, asksOnce = false): ConditionCode {
    const uses = newUses();
    const code = [...lowerValue(expression, { ...this.scope, uses, asksOnce })];
    const { held, heard, slots, other } = uses;
    const signalOnly = heard.length > 0 && slots.length === 0 && !other;
    return { code, held, heard, looksAt: slots, signalOnly, text: this.source(expression) };
  }

  protected endings(statement: Statement & { tails: readonly Tail[] }): EndingsCode {
    const find = (word: Tail["word"]) => statement.tails.find((tail) => tail.word === word);
    const until = find("until")?.value;
    const limit = find("limit")?.value;
    return {
      forTime: this.tailNumber(statement.tails, "for"),
      until: until ? this.condition(until) : null,
      limit: this.maybe(limit ?? null),
      limitBy: limit ? this.limitKind(limit) : null,
      ending: find("then")?.ending ?? "stop",
    };
  }

  protected named(statement: Statement): StepName {
    return { step: this.labels.get(statement) ?? "?", text: this.source(statement), line: statement.line + 1 };
  }

  private limitKind(limit: Expression): EndingsCode["limitBy"] {
    const kind = kindInScope(limit, this.scope);
    if (kind.is !== "quantity") return "time";
    return kind.dimension.length === 1 ? "travel" : kind.dimension.angle === 1 ? "turn" : "time";
  }
}

/** Endings of a step without tails. */
export const NO_ENDINGS: EndingsCode = { forTime: null, until: null, limit: null, limitBy: null, ending: "stop" };
