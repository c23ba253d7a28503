// A program as source: one step one call, each under a comment with its number and its line of Cairn. What languages
// write differently, each says itself.

import { WHEELS } from "../cairn/effects.js";
import type { Code, Item, Wording } from "../program/code.js";
import type {
  BindingCode,
  ConditionCode,
  EndingsCode,
  Instruction,
  InstructionOf,
  MotionCode,
  OptionsCode,
  Program,
  Store,
} from "../program/instructions.js";
import type { BoardRobot } from "./boardRobot.js";
import { CannotSay, constantOf, Expressions, type Language, unbracketed } from "./expression.js";
import { codesOf } from "./regions.js";
import { beginOf, isText, type TextPlaces, textPlaces } from "./texts.js";
import { commentWords, decimal } from "./words.js";

/** Decimals of a note: calibrations reckon with them. */
const NOTE_PLACES = 5;

/** A step of the mission as boards number them. */
export interface BoardStep {
  readonly step: string;
  readonly text: string;
  readonly line: number;
}

export interface WrittenMission {
  readonly text: string;
  readonly steps: readonly BoardStep[];
  /** What a board cannot do, at its line. */
  readonly problems: readonly { readonly line: number; readonly step: string; readonly message: string }[];
}

/** Writes one program; its methods are in the order of the file. */
export abstract class MissionWriter implements Language {
  readonly steps: BoardStep[] = [];
  readonly problems: { line: number; step: string; message: string }[] = [];
  protected readonly stepIndex = new Map<string, number>();
  protected readonly constants = new Map<number, number>();
  protected readonly texts: TextPlaces;
  protected readonly textTable: string[] = [];
  /** Functions and tables that cases use, in order. */
  protected readonly helpers: string[] = [];
  protected readonly partNames: readonly string[];
  protected mostPlaces = 0;
  protected current: BoardStep = { step: "", text: "", line: 1 };

  constructor(
    protected readonly program: Program,
    protected readonly board: BoardRobot,
  ) {
    this.texts = textPlaces(program);
    this.partNames = board.parts.map(({ name }) => name);
    this.findConstants();
  }

  // What languages write differently

  /** The end of a statement. */
  protected abstract readonly end: string;
  protected abstract truth(is: boolean): string;
  protected abstract not(a: string): string;
  protected abstract readonly and: string;
  protected abstract readonly or: string;
  protected abstract readonly nothing: string;
  protected abstract readonly noRoutine: string;
  /** One of the words of a choice: `member("Ending", "keep")`. */
  protected abstract member(choice: string, word: string): string;
  protected abstract when(condition: string, lines: readonly string[]): string[];
  /** Statements that name anything, apart from others. */
  protected abstract scoped(lines: readonly string[]): string[];
  /** A name for a value inside a stretch of code. */
  protected abstract named(kind: "number" | "truth", name: string, value: string): string;
  /** What a routine is given, as arguments of a call, with statements that come before. */
  protected abstract given(parts: readonly string[]): { before: string[]; words: string };
  protected abstract put(store: Store, value: string): string;
  protected abstract question(name: string, comment: string, lines: readonly string[]): string;
  protected abstract numberOf(name: string, lines: readonly string[]): string;
  protected abstract table(
    kind: "place" | "branch" | "handler" | "slot" | "light",
    name: string,
    rows: readonly string[],
  ): string;
  protected abstract lineSheet(
    at: number,
    fields: readonly string[],
    slots: readonly number[],
    offsets: readonly string[],
  ): string;
  protected abstract wallSheet(at: number, fields: readonly string[]): string;
  protected abstract placesRoom(at: number, count: number): string;
  protected abstract setPlace(at: number, i: number, x: string, y: string): string;
  protected abstract seenRoom(at: number, count: number): string;
  /** The room as the last argument of a scan. */
  protected abstract seen(at: number): string;
  protected abstract words(text: string): string;
  protected abstract emptyList(list: number): string;
  /** The next of a list, into `value`, with `more` saying whether there was one. */
  protected abstract eachOf(list: number, pass: string): string[];
  abstract text(words: string): string;
  abstract reading(slot: number): string;
  abstract global(index: number): string;
  abstract local(routine: number, index: number): string;
  abstract keep(name: string, expression: string): string;
  abstract call(name: string, parts: readonly string[]): string;
  protected abstract slotName(slot: string): string;

  protected say(expression: string): string {
    return `${expression}${this.end}`;
  }

  protected ret(expression: string): string {
    return `return ${expression}${this.end}`;
  }

  /** Values that are set once, to a number, are named constants. */
  protected findConstants(): void {
    const { sets, instructions, remembered } = this.program;
    for (const { global, value } of sets)
      if (value.length === 1 && typeof value[0] === "number") this.constants.set(global, value[0]);
    const put = (store: Store | null) => store && "global" in store && this.constants.delete(store.global);
    for (const instruction of instructions) {
      if (instruction.op === "set") put(instruction.store);
      if (instruction.op !== "next pass") continue;
      put(instruction.count);
      put(instruction.each?.store ?? null);
    }
    for (const { global } of remembered) this.constants.delete(global);
  }

  // As a language

  number(value: number): string {
    return decimal(value);
  }

  protected textAt(words: string): number {
    const known = this.textTable.indexOf(words);
    return known >= 0 ? known : this.textTable.push(words) - 1;
  }

  last(slot: number): string {
    return `t.last[${slot}]`;
  }

  protected names = 0;
  newName(): string {
    this.names += 1;
    return `x${this.names}`;
  }

  constant(code: Code): number | null {
    return constantOf(code, (global) => this.constants.get(global) ?? null);
  }

  routine(entry: number, routine: number, size: number, parts: readonly string[], name: string): string[] {
    const given = this.given(parts);
    return [...given.before, this.named("number", name, `callNow(t, ${entry}, ${routine}, ${size}, ${given.words})`)];
  }

  operation(word: string, parts: readonly string[]): string {
    const [a = "", b = "", c = "", d = ""] = parts;
    switch (word) {
      case "negate":
        return `-${a}`.startsWith("--") ? `-(${a})` : `-${a}`;
      case "+":
      case "-":
      case "*":
      case "<":
      case ">":
      case "<=":
      case ">=":
        return `(${a} ${word} ${b})`;
      case "same":
        return `(${a} == ${b})`;
      case "/":
        return `divided(${unbracketed(a)}, ${unbracketed(b)})`;
      case "within":
        return `within(${unbracketed(a)}, ${unbracketed(b)}, ${unbracketed(c)})`;
      case "not":
        return this.not(a);
      case "random":
        return `chance(${unbracketed(a)}, ${unbracketed(b)})`;
      case "given":
        return "t.given";
      case "wall ends":
        return "moving.wallEnded";
      case "grew":
        return `grew(t, ${b}, ${this.slotName(a)})`;
      case "grew anew":
        return `grewAnew(t, ${b}, ${this.slotName(a)})`;
      case "signal":
        return `heard(t, ${a})`;
      case "^":
        return `raised(${unbracketed(b)}, ${a})`;
      case "and":
        return `(${parts.slice(1).join(this.and)})`;
      case "or":
        return `(${parts.slice(1).join(this.or)})`;
      case "held":
        return `held(t, ${a}, ${unbracketed(b)}, ${unbracketed(c)})`;
      case "item":
        return `listItem(lists[${a}], ${unbracketed(b)}, ${a})`;
      case "has":
        return `listHas(lists[${a}], ${unbracketed(b)})`;
      case "of list":
        return `listTell(lists[${a}], ${this.member("Of", b)}, ${a})`;
      case "bound":
        return `bound(${unbracketed(d)}, ${decimal(Number(a))}, ${this.here})`;
      case "bound value":
        return `bound(${unbracketed(b)}, 1e12, ${this.here})`;
      default:
        throw new CannotSay("A board cannot keep a text that it puts together. Show it, or note the number itself.");
    }
  }

  /** Number of the step being written. */
  protected get here(): number {
    const { step } = this.current;
    const known = this.stepIndex.get(step);
    if (known !== undefined) return known;
    const index = this.steps.push(this.current) - 1;
    this.stepIndex.set(step, index);
    return index;
  }

  // Pieces

  protected value(code: Code, before: string[]): string {
    const written = new Expressions(this);
    const words = written.bare(code);
    before.push(...written.before);
    return words;
  }

  protected maybe(code: Code | null, before: string[], none = "USUAL"): string {
    return code === null ? none : this.value(code, before);
  }

  protected body(lines: readonly string[], indent: string): string {
    return lines.flatMap((line) => line.split("\n").map((part) => `${indent}${part}`)).join("\n");
  }

  protected tests = 0;
  /** A question as a function of its own. */
  protected test(condition: ConditionCode | null): string {
    if (!condition) return this.nothing;
    this.tests += 1;
    const name = `asks_${this.tests}`;
    const before: string[] = [];
    const met = this.value(condition.code, before);
    const sets = condition.held.map((counter) => this.say(`t.counters[${counter}] = -1`));
    const lines = this.when(this.member("Ask", "begins"), [...sets, this.ret(this.truth(false))]);
    lines.push(...before);
    if (condition.heard.length === 0) lines.push(this.ret(met));
    else
      lines.push(
        this.named("truth", "met", met),
        ...this.when(
          "met",
          condition.heard.map((signal) => this.say(`hears(t, ${signal})`)),
        ),
        this.ret("met"),
      );
    this.helpers.push(this.question(name, commentWords(condition.text), lines));
    return name;
  }

  protected numberFunction(code: Code | null, kind: string): string {
    if (code === null) return this.nothing;
    this.tests += 1;
    const name = `${kind}_${this.tests}`;
    const before: string[] = [];
    const words = this.value(code, before);
    this.helpers.push(this.numberOf(name, [...before, this.ret(words)]));
    return name;
  }

  protected options({ how, at, ramp, using, keep }: OptionsCode, before: string[]): string {
    const name = { straight: "straightly", turning: "turning", sliding: "sliding" }[how];
    const parts = [
      this.maybe(at, before),
      this.maybe(ramp, before),
      this.maybe(using, before, "1.0"),
      this.truth(keep),
    ];
    const defaults = ["", "USUAL", "1.0", this.truth(false)];
    while (parts.length > 1 && parts[parts.length - 1] === defaults[parts.length - 1]) parts.pop();
    return `${name}(${parts.join(", ")})`;
  }

  protected motion(motion: MotionCode, at: number, before: string[]): string {
    switch (motion.is) {
      case "straight":
        return motion.length
          ? `straight(${this.value(motion.length, before)}, ${this.truth(motion.back)}, ${this.options(motion.options, before)})`
          : `straightOn(${this.truth(motion.back)}, ${this.options(motion.options, before)})`;
      case "slide":
        return motion.length
          ? `slide(${this.value(motion.length, before)}, ${motion.side}, ${this.options(motion.options, before)})`
          : `slideOn(${motion.side}, ${this.options(motion.options, before)})`;
      case "turn": {
        const about = this.member("About", motion.about ?? "middle");
        if (motion.angle === null) return `turnOn(${motion.side}, ${about}, ${this.options(motion.options, before)})`;
        return `turn(${this.value(motion.angle, before)}, ${about}, ${this.truth(motion.byGyro)}, ${this.options(motion.options, before)})`;
      }
      case "face":
        return `face(${this.value(motion.heading, before)}, ${this.truth(motion.byGyro)}, ${this.options(motion.options, before)})`;
      case "arc": {
        const angle = motion.angle && this.value(motion.angle, before);
        const rest = `${this.value(motion.radius, before)}, ${this.truth(motion.back)}, ${this.options(motion.options, before)}`;
        return angle === null ? `arcOn(${motion.side}, ${rest})` : `arc(${angle}, ${rest})`;
      }
      case "roll": {
        const speed = this.value(motion.speed, before);
        return `roll(${speed}, ${this.maybe(motion.rate, before, "0.0")}, ${this.maybe(motion.ramp, before)})`;
      }
      case "wheels": {
        const [left, right] = [this.value(motion.left, before), this.value(motion.right, before)];
        return `wheels(${left}, ${right}, ${this.maybe(motion.ramp, before)})`;
      }
      case "power":
        return `powers(${this.value(motion.left, before)}, ${this.value(motion.right, before)})`;
      case "press":
        return `press(${this.truth(motion.back)}, ${this.maybe(motion.using, before)})`;
      case "places":
        return this.places(motion, at, before);
      case "follow line":
        return this.line(motion, at, before);
      case "follow wall":
        return this.wall(motion, at, before);
    }
  }

  protected places(motion: Extract<MotionCode, { is: "places" }>, at: number, before: string[]): string {
    const n = motion.places.length;
    this.mostPlaces = Math.max(this.mostPlaces, n);
    this.helpers.push(this.placesRoom(at, n));
    const options = this.options(motion.options, before);
    const facing = this.maybe(motion.facing, before);
    const look = this.maybe(motion.look, before, "0.0");
    motion.places.forEach(({ x, y }, i) => {
      const [px, py] = [this.value(x, before), this.value(y, before)];
      before.push(this.setPlace(at, i, px, py));
    });
    return `goPlaces(places_${at}, ${n}, ${facing}, ${this.truth(motion.back)}, ${look}, ${options})`;
  }

  protected line(motion: Extract<MotionCode, { is: "follow line" }>, at: number, before: string[]): string {
    const { slots, offsetsM, aheadM, spotM, dark, edge, crossings } = motion;
    const fields = [...[aheadM, spotM, dark].map(decimal), String(edge)];
    this.helpers.push(this.lineSheet(at, fields, slots, offsetsM.map(decimal)));
    const options = this.options(motion.options, before);
    const tails = [motion.gain, motion.damp, motion.bridge].map((code) => this.maybe(code, before));
    return `followLine(line_${at}, ${tails.join(", ")}, ${this.member("Crossing", crossings)}, ${options})`;
  }

  protected wall(motion: Extract<MotionCode, { is: "follow wall" }>, at: number, before: string[]): string {
    const { slot, side, aheadM, besideM, noseM, corners, ahead } = motion;
    const fields = [
      String(slot),
      side === "left" ? "1" : "-1",
      ...[aheadM, besideM, noseM].map(decimal),
      this.member("Corners", corners ?? "go_on"),
      String(ahead?.slot ?? 255),
      decimal(ahead?.nearM ?? 0),
    ];
    this.helpers.push(this.wallSheet(at, fields));
    const options = this.options(motion.options, before);
    return `followWall(wall_${at}, ${this.value(motion.away, before)}, ${options})`;
  }

  protected tails(endings: EndingsCode, before: string[]): void {
    const set = (name: string, value: string) => before.push(this.say(`tails.${name} = ${value}`));
    if (endings.until) {
      set("until", this.test(endings.until));
      if (endings.until.signalOnly) set("signalOnly", this.truth(true));
    }
    if (endings.forTime) set("forTime", this.value(endings.forTime, before));
    if (endings.limit) set("limit", this.value(endings.limit, before));
    if (endings.limitBy && endings.limitBy !== "time") set("by", this.member("By", endings.limitBy));
    if (endings.ending !== "stop") set("ending", this.member("Ending", endings.ending));
  }

  protected part(name: string): string {
    const at = this.partNames.indexOf(name);
    if (at < 0) throw new CannotSay(`No motor or servo of this robot is called "${name}".`);
    return String(at);
  }

  // Steps

  protected timed(make: (before: string[]) => string): string[] {
    const before: string[] = [];
    const call = make(before);
    return [...this.when(`begins(t, ${this.here})`, [...before, this.say(call)]), this.ret("runs(t)")];
  }

  protected instant(make: (before: string[]) => string | string[]): string[] {
    const before: string[] = [];
    const calls = make(before);
    const made = (typeof calls === "string" ? [calls] : calls).map((call) => this.say(call));
    return this.scoped([...before, ...made, this.ret(`acted(t, ${this.here})`)]);
  }

  protected op(instruction: Instruction, at: number): string[] {
    const before: string[] = [];
    const done = (call: string) => this.scoped([...before, this.ret(call)]);
    switch (instruction.op) {
      case "jump":
        return [this.ret(`go_on(t, ${instruction.to})`)];
      case "again":
        return [this.ret(`again(t, ${instruction.to})`)];
      case "end":
        return [this.ret("endTask(t)")];
      case "idle":
        return [this.ret(this.truth(false))];
      case "if":
        return this.ifs(instruction);
      case "choose":
        return this.choose(instruction);
      case "call":
        return done(`call(${this.called(instruction, before)})`);
      case "give":
        return done(`give(t, ${this.value(instruction.value, before)})`);
      case "repeat": {
        const times = this.maybe(instruction.times, before, "ENDLESS");
        return done(
          `beginRepeat(t, ${times}, ${instruction.left}, ${instruction.passes}, ${this.test(instruction.condition)})`,
        );
      }
      case "next pass":
        return this.nextPass(instruction);
      case "every": {
        const limit = this.maybe(instruction.limit, before, "ENDLESS");
        return done(`beginEvery(t, ${this.here}, ${limit}, ${instruction.counter}, ${this.test(instruction.until)})`);
      }
      case "next beat": {
        const period = this.value(instruction.period, before);
        return done(`beat(t, ${period}, ${instruction.counter}, ${this.test(instruction.until)}, ${instruction.exit})`);
      }
      case "beats end":
        return [this.ret("beatsEnd(t)")];
      case "leave": {
        const { guards, kind, pass, to } = instruction;
        return [this.ret(`leave(t, ${guards}, ${this.member("Leaves", kind)}, ${this.truth(pass)}, ${to})`)];
      }
      case "together": {
        const { entries, routine, untilOne, after } = instruction;
        this.helpers.push(this.table("branch", `branches_${at}`, entries.map(String)));
        const whose = routine ?? this.noRoutine;
        return [
          this.ret(`together(t, branches_${at}, ${entries.length}, ${whose}, ${this.truth(untilOne)}, ${after})`),
        ];
      }
      case "guard": {
        const rows = instruction.handlers.map(({ condition, entry }) =>
          [this.test(condition), entry, this.truth(condition.signalOnly)].join(", "),
        );
        this.helpers.push(this.table("handler", `handlers_${at}`, rows));
        return [this.ret(`guard(t, ${this.here}, handlers_${at}, ${rows.length})`)];
      }
      case "guard ends":
        return [this.ret(`guardEnds(t, ${instruction.depth}, ${instruction.to})`)];
      case "resume":
        return [this.ret(`resume(t, ${instruction.depth}, ${this.truth(instruction.skip)})`)];
      default:
        return this.step(instruction, at);
    }
  }

  /** Arguments of a call of a routine. */
  protected called(
    { entry, routine, size, args }: InstructionOf<"call"> | InstructionOf<"start">,
    before: string[],
  ): string {
    const given = this.given(args.map((code) => this.value(code, before)));
    before.push(...given.before);
    return `t, ${entry}, ${routine}, ${size}, ${given.words}`;
  }

  protected ifs({ condition, otherwise }: InstructionOf<"if">): string[] {
    if (condition.held.length > 0 || condition.heard.length > 0) {
      const name = this.test(condition);
      return [
        this.say(`${name}(t, ${this.member("Ask", "begin")})`),
        this.ret(`branchOn(t, ${name}(t, ${this.member("Ask", "now")}), ${otherwise})`),
      ];
    }
    const before: string[] = [];
    const met = this.value(condition.code, before);
    return this.scoped([...before, this.ret(`branchOn(t, ${met}, ${otherwise})`)]);
  }

  protected choose({ subject, arms, otherwise }: InstructionOf<"choose">): string[] {
    const lines: string[] = [];
    lines.push(this.named("number", "subject", this.value(subject, lines)));
    for (const arm of arms) {
      const goes = [this.ret(`go_on(t, ${arm.to})`)];
      if (arm.compare) {
        const right = this.value(arm.compare.value, lines);
        lines.push(...this.when(`subject ${arm.compare.operator} ${right}`, goes));
        continue;
      }
      for (const { from, to } of arm.values) {
        const low = this.value(from, lines);
        const fits = to === null ? `subject == ${low}` : `within(subject, ${low}, ${this.value(to, lines)})`;
        lines.push(...this.when(fits, goes));
      }
    }
    lines.push(this.ret(`go_on(t, ${otherwise})`));
    return this.scoped(lines);
  }

  protected nextPass(instruction: InstructionOf<"next pass">): string[] {
    const { left, passes, condition, how, each, count, after } = instruction;
    const lines = [this.named("truth", "more", `passes(t, ${left}, ${passes})`)];
    if (condition) {
      const met = `${this.test(condition)}(t, ${this.member("Ask", "now")})`;
      lines.push(...this.when("more", [this.say(`more = ${how === "while" ? met : this.not(met)}`)]));
    }
    const pass = `t.counters[${passes}]`;
    if (each) lines.push(...this.eachOf(each.list, pass), ...this.when("more", [this.put(each.store, "value")]));
    if (count) lines.push(...this.when("more", [this.put(count, pass)]));
    lines.push(this.ret(`branchOn(t, more, ${after})`));
    return this.scoped(lines);
  }

  protected step(instruction: Instruction, at: number): string[] {
    switch (instruction.op) {
      case "start":
        return this.instant((before) => `startRoutine(${this.called(instruction, before)})`);
      case "stop routine":
        return this.instant(() => `stopRoutine(${instruction.routine})`);
      case "set":
        return this.instant((before) => {
          before.push(this.put(instruction.store, this.value(instruction.value, before)));
          return [];
        });
      case "add":
        return this.instant((before) => {
          const { list } = instruction;
          return `listAdd(lists[${list}], ${this.value(instruction.value, before)}, ${list})`;
        });
      case "put":
        return this.instant((before) => {
          const { list } = instruction;
          const place = this.value(instruction.index, before);
          return `listPut(lists[${list}], ${place}, ${this.value(instruction.value, before)}, ${list})`;
        });
      case "clear":
        return this.instant(() => this.emptyList(instruction.list));
      case "roll on":
        return this.instant((before) => `rollOn(t, ${this.here}, ${this.motion(instruction.motion, at, before)})`);
      case "motor on":
        return this.instant((before) => {
          const duty = this.value(instruction.duty, before);
          return `motorOn(t, ${this.here}, ${this.part(instruction.motor)}, ${duty})`;
        });
      case "move on":
        return this.instant((before) => `moveOn(t, ${this.here}, ${this.move(instruction, before)})`);
      case "stop drive":
        return this.instant(() => `stopDrive(t, ${this.here}, ${this.member("Mode", instruction.mode)})`);
      case "stop motor":
        return this.instant(
          () => `stopMotor(t, ${this.here}, ${this.part(instruction.motor)}, ${this.member("Mode", instruction.mode)})`,
        );
      case "steer":
        return this.instant((before) => `steerTo(t, ${this.here}, ${this.value(instruction.angle, before)})`);
      case "note":
        return this.instant((before) => [
          "lineBegin()",
          `lineText(${this.words(`${instruction.name} = `)})`,
          ...this.said(instruction.value, "plain", before, NOTE_PLACES),
          "lineSay(0)",
        ]);
      case "show":
        return this.instant((before) => [
          "lineBegin()",
          ...instruction.values.flatMap(({ label, value, words }, i) => [
            ...(i > 0 ? [`lineText(${this.words("  ")})`] : []),
            ...(words === null || label === "" ? [] : [`lineText(${this.words(label)})`]),
            ...this.said(value, words ?? "plain", before),
          ]),
          "lineSay(1)",
        ]);
      case "light":
        return this.instant((before) => [
          "lineBegin()",
          `lineNumber(rounded(between(${this.value(instruction.share, before)}, 0, 1) * 100), 0)`,
          `lineText(${this.words(" %")})`,
          "lineSay(2)",
        ]);
      case "beep":
        return this.instant((before) => this.beep(instruction, before));
      case "reset":
        return this.instant(() => this.reset(instruction.what));
      case "send":
        return this.instant(() => `send(${instruction.signal})`);
      case "finish":
        return this.instant(() => "finish(t)");
      default:
        return this.lasting(instruction, at);
    }
  }

  protected lasting(instruction: Instruction, at: number): string[] {
    switch (instruction.op) {
      case "wait":
        return this.timed((before) => {
          const { duration, atMost, until, limit } = instruction;
          this.tails({ forTime: null, until, limit, limitBy: null, ending: "stop" }, before);
          if (atMost) before.push(this.say(`tails.atMost = ${this.value(atMost, before)}`));
          return `wait(t, ${this.maybe(duration, before)})`;
        });
      case "drive":
        return this.timed((before) => {
          const motion = this.motion(instruction.motion, at, before);
          this.tails(instruction.endings, before);
          return `drives(t, ${motion})`;
        });
      case "motor":
        return this.timed((before) => {
          const duty = this.value(instruction.duty, before);
          this.tails(instruction.endings, before);
          return `motorRuns(t, ${this.part(instruction.motor)}, ${duty})`;
        });
      case "move":
        return this.timed((before) => {
          const move = this.move(instruction, before);
          this.tails(instruction.endings, before);
          return `moves(t, ${move})`;
        });
      case "home":
        return this.timed((before) => {
          const using = this.maybe(instruction.using, before);
          this.tails(instruction.endings, before);
          return `homes(t, ${this.part(instruction.part)}, ${this.truth(instruction.toward === "high")}, ${using})`;
        });
      case "aim":
        return this.timed((before) => {
          const angle = this.value(instruction.angle, before);
          this.tails(instruction.endings, before);
          return `aims(t, ${this.part(instruction.head)}, ${angle})`;
        });
      case "scan":
        return this.timed((before) => {
          const [from, to, looks] = [instruction.from, instruction.to, instruction.looks].map((code) =>
            this.value(code, before),
          );
          this.tails(instruction.endings, before);
          const fixed = instruction.looks.length === 1 ? Number(instruction.looks[0]) : 60;
          this.helpers.push(this.seenRoom(at, Math.max(2, Math.min(60, Math.floor(fixed + 0.5) || 60))));
          return `scans(t, ${this.part(instruction.head)}, ${from}, ${to}, ${looks}${this.seen(at)})`;
        });
      case "hand over":
        return this.timed((before) => {
          this.tails(instruction.endings, before);
          return "handsOver(t)";
        });
      default:
        return [this.ret(this.truth(false))];
    }
  }

  protected move(
    { part, how, angle, at, using }: InstructionOf<"move"> | InstructionOf<"move on">,
    before: string[],
  ): string {
    const parts = [angle, at, using].map((code) => this.maybe(code, before));
    return `${this.part(part)}, ${this.truth(how === "by")}, ${parts.join(", ")}`;
  }

  protected beep({ pitch, duration }: InstructionOf<"beep">, before: string[]): string[] {
    const lines = ["lineBegin()"];
    if (pitch) lines.push(`lineNumber(${this.value(pitch, before)}, 0)`, `lineText(${this.words(" Hz")})`);
    if (pitch && duration) lines.push(`lineText(${this.words(" for ")})`);
    if (duration) lines.push(`lineNumber(${this.value(duration, before)}, 2)`, `lineText(${this.words(" s")})`);
    return [...lines, "lineSay(3)"];
  }

  protected reset(what: string): string {
    if (what === "robot") return "resetRobot()";
    const gyro = this.board.robot.sensors.some(({ name, kind }) => kind === "gyro" && name === what);
    return gyro ? "resetGyro()" : `partZero(${this.part(what)})`;
  }

  /** A value as words on the line that is put together. */
  protected said(code: Code, wording: Wording, before: string[], places = 3): string[] {
    const item = code[code.length - 1] as Item;
    if (Array.isArray(item) && item[0] === "bound value") return this.said(code.slice(0, -1), wording, before, places);
    if (item === "join") {
      const middle = beginOf(code, code.length - 1);
      return [
        ...this.said(code.slice(0, middle), "plain", before),
        ...this.said(code.slice(middle, -1), "plain", before),
      ];
    }
    if (Array.isArray(item) && item[0] === "words") return this.said(code.slice(0, -1), item[1] as Wording, before);
    if (Array.isArray(item) && item[0] === "text") return [`lineText(${this.words(item[1] as string)})`];
    const value = this.value(code, before);
    if (isText(code, this.texts)) return [`lineKept(${value})`];
    if (wording === "truth") return [`lineTruth(${value})`];
    if (wording === "colour") return [`lineColour(${value})`];
    if (wording === "plain") return [`lineNumber(${value}, ${places})`];
    const { unit, scale } = wording;
    const scaled = scale === 1 ? value : `(${value}) / ${decimal(scale)}`;
    return [`lineNumber(${scaled}, 2)`, ...(unit === "" ? [] : [`lineText(${this.words(` ${unit}`)})`])];
  }

  // The file

  abstract write(): WrittenMission;

  /** Statements that set the mission's values before it starts. */
  protected initial(): string[] {
    const lines: string[] = [];
    for (const { global, value } of this.program.sets)
      if (!this.constants.has(global))
        this.guarded({ step: "", text: "", line: 1 }, lines, () => [this.put({ global }, this.value(value, lines))]);
    return lines;
  }

  protected guarded(step: BoardStep, lines: string[], make: () => string[]): void {
    this.current = step;
    try {
      lines.push(...make());
    } catch (error) {
      if (!(error instanceof CannotSay)) throw error;
      this.problems.push({ line: step.line, step: step.step, message: error.message });
    }
  }

  /** One instruction: its comment, empty for what is no step, and its statements. */
  protected written(instruction: Instruction, at: number): { comment: string; lines: string[] } {
    const lines: string[] = [];
    this.names = 0;
    const named = "text" in instruction ? instruction : null;
    const step: BoardStep = named
      ? { step: named.step, text: named.text, line: named.line }
      : instruction.op === "guard"
        ? { step: instruction.step, text: "during", line: this.current.line }
        : this.current;
    this.guarded(step, lines, () => this.op(instruction, at));
    return { comment: named ? commentWords(`${named.step}  ${named.text}`) : "", lines };
  }

  /** What is set about the sticks, each with its value. */
  protected stickLines(): string[] {
    const sticks = this.program.remote?.sticks;
    if (!sticks) return [];
    const mode = ({ "one stick": "one", "two sticks": "two", tank: "tank", curvature: "curvature" } as const)[
      sticks.mode
    ];
    const lines = [this.say(`s.mode = ${this.member("Sticks", mode)}`)];
    for (const key of ["at", "turning", "dead", "curve", "ramp", "switching"] as const) {
      const code = sticks[key];
      if (code) this.guarded(this.current, lines, () => [this.say(`s.${key} = ${this.value(code, lines)}`)]);
    }
    return lines;
  }

  protected binding({ how, button, ceiling, entry, routine, ending, moves }: BindingCode): string {
    const ends = ending === "stop" ? "stops" : ending === "keep" ? "keeps" : "goesOn";
    const bits = moves.reduce((all, name) => {
      const bit = name === WHEELS ? 0 : this.partNames.indexOf(name) + 1;
      return bit >= 0 && bit < 31 ? all | (1 << bit) : all;
    }, 0);
    return [
      this.member("Binding", how),
      button,
      this.numberFunction(ceiling, "ceiling"),
      entry ?? 65535,
      this.truth(routine),
      this.member("Binding", ends),
      typeof ending === "number" ? ending : 65535,
      bits,
    ].join(", ");
  }

  protected dials(): string[] {
    return (this.program.remote?.dials ?? []).map(({ level, part, from, to }) =>
      [level, this.part(part), this.numberFunction(from, "low"), this.numberFunction(to, "high")].join(", "),
    );
  }
}

export function* calledRoutines(program: Program): Iterable<{ routine: number; size: number }> {
  for (const instruction of program.instructions) {
    if (instruction.op === "call" || instruction.op === "start") yield instruction;
    for (const code of codesOf(instruction))
      for (const item of code)
        if (Array.isArray(item) && item[0] === "routine") yield { routine: item[2] as number, size: item[3] as number };
  }
}
