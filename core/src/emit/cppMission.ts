// mission.cpp: a program as C++, one step one call, each under a comment with its number and its line of Cairn.

import { WHEELS } from "../cairn/effects.js";
import { readingsOf } from "../cairn/readings.js";
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
import { codesOf, programNeeds, routineEntries } from "./regions.js";
import { beginOf, isText, type TextPlaces, textPlaces } from "./texts.js";
import { commentWords, decimal, Names, quoted } from "./words.js";

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

const FUNCTIONS: Readonly<Record<string, (parts: readonly string[]) => string>> = {
  abs: ([a]) => `size(${a})`,
  min: (parts) => parts.reduce((all, part) => `least(${all}, ${part})`),
  max: (parts) => parts.reduce((all, part) => `most(${all}, ${part})`),
  clamp: ([x, low, high]) => `most(${low}, least(${high}, ${x}))`,
  sign: ([a]) => `signOf(${a})`,
  sqrt: ([a]) => `real(sqrt(most(0, ${a})))`,
  sin: ([a]) => `real(sin(real(${a})))`,
  cos: ([a]) => `real(cos(real(${a})))`,
  tan: ([a]) => `real(tan(real(${a})))`,
  atan2: ([y, x]) => `real(atan2(real(${y}), real(${x})))`,
  wrap: ([a]) => `wrap(${a})`,
  mod: ([x, by]) => `modulo(${x}, ${by})`,
  floor: ([x, step = "1.0"]) => `floored(${x}, ${step})`,
  ceil: ([x, step = "1.0"]) => `ceiled(${x}, ${step})`,
  round: ([x, step = "1.0"]) => `roundedTo(${x}, ${step})`,
};

/** Writes one program; its methods are in the order of the file. */
class Writer implements Language {
  readonly steps: BoardStep[] = [];
  readonly problems: { line: number; step: string; message: string }[] = [];
  private readonly stepIndex = new Map<string, number>();
  private readonly readingNames = new Map<number, string>();
  private readonly routineNames: string[];
  private readonly globalNames: string[];
  private readonly constants = new Map<number, number>();
  private readonly texts: TextPlaces;
  private readonly textTable: string[] = [];
  /** Functions and tables that cases use, in order. */
  private readonly helpers: string[] = [];
  private readonly partNames: readonly string[];
  private mostPlaces = 0;
  private current: BoardStep = { step: "", text: "", line: 1 };

  constructor(
    private readonly program: Program,
    private readonly board: BoardRobot,
  ) {
    const readings = new Names("r_");
    for (const [name, { slot, ofTask }] of readingsOf(board.robot))
      if (!ofTask && !this.readingNames.has(slot)) this.readingNames.set(slot, readings.of(name));
    const routines = new Names("routine_");
    this.routineNames = program.routines.map(({ name }, i) => routines.of(String(i), name));
    const globals = new Names("v_");
    this.globalNames = program.globals.map((name, i) => globals.of(String(i), name));
    this.texts = textPlaces(program);
    this.partNames = board.parts.map(({ name }) => name);
    this.findConstants();
  }

  /** Values that are set once, to a number, are named constants. */
  private findConstants(): void {
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

  text(words: string): string {
    return `${this.textAt(words)}.0`;
  }

  private textAt(words: string): number {
    const known = this.textTable.indexOf(words);
    return known >= 0 ? known : this.textTable.push(words) - 1;
  }

  reading(slot: number): string {
    const name = this.readingNames.get(slot);
    return `reading(${name ?? slot})`;
  }

  last(slot: number): string {
    return `t.last[${slot}]`;
  }

  global(index: number): string {
    return this.globalNames[index] as string;
  }

  local(routine: number, index: number): string {
    return `local(t, ${routine}, ${index})`;
  }

  private names = 0;
  newName(): string {
    this.names += 1;
    return `x${this.names}`;
  }

  constant(code: Code): number | null {
    return constantOf(code, (global) => this.constants.get(global) ?? null);
  }

  keep(name: string, expression: string): string {
    return `const auto ${name} = ${expression};`;
  }

  call(name: string, parts: readonly string[]): string {
    return FUNCTIONS[name]?.(parts.map(unbracketed)) ?? "0.0";
  }

  routine(entry: number, routine: number, size: number, parts: readonly string[], name: string): string[] {
    const given = this.given(parts);
    return [
      ...given.before,
      `const real ${name} = callNow(t, ${entry}, ${routine}, ${size}, ${given.words}, ${parts.length});`,
    ];
  }

  /** An array of what a routine is given. */
  private argumentSets = 0;
  private given(parts: readonly string[]): { before: string[]; words: string } {
    if (parts.length === 0) return { before: [], words: "nullptr" };
    this.argumentSets += 1;
    const name = `given${this.argumentSets}`;
    return {
      before: [`const real ${name}[] = {${parts.map((part) => `real(${unbracketed(part)})`).join(", ")}};`],
      words: name,
    };
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
        return `!${a}`;
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
        return `(${parts.slice(1).join(" && ")})`;
      case "or":
        return `(${parts.slice(1).join(" || ")})`;
      case "held":
        return `held(t, ${a}, ${unbracketed(b)}, ${unbracketed(c)})`;
      case "item":
        return `listItem(lists[${a}], ${unbracketed(b)}, ${a})`;
      case "has":
        return `listHas(lists[${a}], ${unbracketed(b)})`;
      case "of list":
        return `listTell(lists[${a}], Of::${b}, ${a})`;
      case "bound":
        return `bound(${unbracketed(d)}, ${decimal(Number(a))}, ${this.here})`;
      case "bound value":
        return `bound(${unbracketed(b)}, 1e12, ${this.here})`;
      default:
        throw new CannotSay("A board cannot keep a text that it puts together. Show it, or note the number itself.");
    }
  }

  private slotName(slot: string): string {
    return this.readingNames.get(Number(slot)) ?? slot;
  }

  /** Number of the step being written. */
  private get here(): number {
    const { step } = this.current;
    const known = this.stepIndex.get(step);
    if (known !== undefined) return known;
    const index = this.steps.push(this.current) - 1;
    this.stepIndex.set(step, index);
    return index;
  }

  // Pieces

  private value(code: Code, before: string[]): string {
    const written = new Expressions(this);
    const words = written.bare(code);
    before.push(...written.before);
    return words;
  }

  private maybe(code: Code | null, before: string[], none = "USUAL"): string {
    return code === null ? none : this.value(code, before);
  }

  private body(lines: readonly string[], indent: string): string {
    return lines.flatMap((line) => line.split("\n").map((part) => `${indent}${part}`)).join("\n");
  }

  private fn(head: string, lines: readonly string[]): void {
    const uses = /\bt\b/.test(lines.join("\n"));
    this.helpers.push(`${uses ? head : head.replace("Task &t", "Task &")} {\n${this.body(lines, "  ")}\n}`);
  }

  private tests = 0;
  /** A question as a function of its own. */
  private test(condition: ConditionCode | null): string {
    if (!condition) return "nullptr";
    this.tests += 1;
    const name = `asks_${this.tests}`;
    const before: string[] = [];
    const met = this.value(condition.code, before);
    const sets = condition.held.map((counter) => `t.counters[${counter}] = -1;`);
    const lines =
      sets.length > 0
        ? ["if (ask == Ask::begin) {", ...sets.map((line) => `  ${line}`), "  return false;", "}"]
        : ["if (ask == Ask::begin) return false;"];
    lines.push(...before);
    if (condition.heard.length === 0) lines.push(`return ${met};`);
    else
      lines.push(
        `const bool met = ${met};`,
        "if (met) {",
        ...condition.heard.map((signal) => `  hears(t, ${signal});`),
        "}",
        "return met;",
      );
    const uses = /\bt\b/.test(lines.join("\n"));
    this.helpers.push(
      `// ${commentWords(condition.text)}\nstatic bool ${name}(Task &${uses ? "t" : ""}, Ask ask) {\n${this.body(lines, "  ")}\n}`,
    );
    return name;
  }

  private numberFunction(code: Code | null, kind: string): string {
    if (code === null) return "nullptr";
    this.tests += 1;
    const name = `${kind}_${this.tests}`;
    const before: string[] = [];
    const words = this.value(code, before);
    this.fn(`static real ${name}(Task &t)`, [...before, `return ${words};`]);
    return name;
  }

  private store(store: Store): string {
    return "global" in store ? this.global(store.global) : this.local(store.routine, store.local);
  }

  private options({ how, at, ramp, using, keep }: OptionsCode, before: string[]): string {
    const name = { straight: "straightly", turning: "turning", sliding: "sliding" }[how];
    const parts = [this.maybe(at, before), this.maybe(ramp, before), this.maybe(using, before, "1.0"), String(keep)];
    const defaults = ["", "USUAL", "1.0", "false"];
    while (parts.length > 1 && parts[parts.length - 1] === defaults[parts.length - 1]) parts.pop();
    return `${name}(${parts.join(", ")})`;
  }

  private motion(motion: MotionCode, at: number, before: string[]): string {
    switch (motion.is) {
      case "straight":
        return motion.length
          ? `straight(${this.value(motion.length, before)}, ${motion.back}, ${this.options(motion.options, before)})`
          : `straightOn(${motion.back}, ${this.options(motion.options, before)})`;
      case "slide":
        return motion.length
          ? `slide(${this.value(motion.length, before)}, ${motion.side}, ${this.options(motion.options, before)})`
          : `slideOn(${motion.side}, ${this.options(motion.options, before)})`;
      case "turn": {
        const about = `About::${motion.about ?? "middle"}`;
        if (motion.angle === null) return `turnOn(${motion.side}, ${about}, ${this.options(motion.options, before)})`;
        return `turn(${this.value(motion.angle, before)}, ${about}, ${motion.byGyro}, ${this.options(motion.options, before)})`;
      }
      case "face":
        return `face(${this.value(motion.heading, before)}, ${motion.byGyro}, ${this.options(motion.options, before)})`;
      case "arc": {
        const angle = motion.angle && this.value(motion.angle, before);
        const rest = `${this.value(motion.radius, before)}, ${motion.back}, ${this.options(motion.options, before)}`;
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
        return `press(${motion.back}, ${this.maybe(motion.using, before)})`;
      case "places":
        return this.places(motion, at, before);
      case "follow line":
        return this.line(motion, at, before);
      case "follow wall":
        return this.wall(motion, at, before);
    }
  }

  private places(motion: Extract<MotionCode, { is: "places" }>, at: number, before: string[]): string {
    const name = `places_${at}`;
    const n = motion.places.length;
    this.mostPlaces = Math.max(this.mostPlaces, n);
    this.helpers.push(`static Place ${name}[${n}];`);
    const options = this.options(motion.options, before);
    const facing = this.maybe(motion.facing, before);
    const look = this.maybe(motion.look, before, "0.0");
    motion.places.forEach(({ x, y }, i) => {
      const [px, py] = [this.value(x, before), this.value(y, before)];
      before.push(`${name}[${i}] = Place{real(${px}), real(${py})};`);
    });
    return `goPlaces(${name}, ${n}, ${facing}, ${motion.back}, ${look}, ${options})`;
  }

  private line(motion: Extract<MotionCode, { is: "follow line" }>, at: number, before: string[]): string {
    const { slots, offsetsM, aheadM, spotM, dark, edge, crossings } = motion;
    this.helpers.push(
      `static const uint8_t lights_${at}[] FLASH = {${slots.join(", ")}};\n` +
        `static const real lightsAt_${at}[] FLASH = {${offsetsM.map(decimal).join(", ")}};\n` +
        `static const Line line_${at} = {lights_${at}, lightsAt_${at}, ${slots.length}, ${[aheadM, spotM, dark].map(decimal).join(", ")}, ${edge}};`,
    );
    const options = this.options(motion.options, before);
    const tails = [motion.gain, motion.damp, motion.bridge].map((code) => this.maybe(code, before));
    return `followLine(line_${at}, ${tails.join(", ")}, Crossing::${crossings}, ${options})`;
  }

  private wall(motion: Extract<MotionCode, { is: "follow wall" }>, at: number, before: string[]): string {
    const { slot, side, aheadM, besideM, noseM, corners, ahead } = motion;
    const lengths = [aheadM, besideM, noseM].map(decimal).join(", ");
    this.helpers.push(
      `static const Wall wall_${at} = {${slot}, ${side === "left" ? 1 : -1}, ${lengths}, Wall::${corners ?? "go_on"}, ${ahead?.slot ?? 255}, ${decimal(ahead?.nearM ?? 0)}};`,
    );
    const options = this.options(motion.options, before);
    return `followWall(wall_${at}, ${this.value(motion.away, before)}, ${options})`;
  }

  private tails(endings: EndingsCode, before: string[]): void {
    if (endings.until) {
      before.push(`tails.until = ${this.test(endings.until)};`);
      if (endings.until.signalOnly) before.push("tails.signalOnly = true;");
    }
    if (endings.forTime) before.push(`tails.forTime = ${this.value(endings.forTime, before)};`);
    if (endings.limit) before.push(`tails.limit = ${this.value(endings.limit, before)};`);
    if (endings.limitBy && endings.limitBy !== "time") before.push(`tails.by = Step::${endings.limitBy};`);
    if (endings.ending !== "stop") before.push(`tails.ending = Ending::${endings.ending};`);
  }

  private part(name: string): string {
    const at = this.partNames.indexOf(name);
    if (at < 0) throw new CannotSay(`No motor or servo of this robot is called "${name}".`);
    return String(at);
  }

  // Steps

  private timed(make: (before: string[]) => string): string[] {
    const before: string[] = [];
    const call = make(before);
    return [
      `if (begins(t, ${this.here})) {`,
      ...[...before, call].flatMap((line) => line.split("\n").map((part) => `  ${part}`)),
      "}",
      "return runs(t);",
    ];
  }

  private instant(make: (before: string[]) => string | string[]): string[] {
    const before: string[] = [];
    const calls = make(before);
    return scoped([...before, ...(typeof calls === "string" ? [calls] : calls), `return acted(t, ${this.here});`]);
  }

  private op(instruction: Instruction, at: number): string[] {
    switch (instruction.op) {
      case "jump":
        return [`return go_on(t, ${instruction.to});`];
      case "again":
        return [`return again(t, ${instruction.to});`];
      case "end":
        return ["return endTask(t);"];
      case "idle":
        return ["return false;"];
      case "if":
        return this.ifs(instruction);
      case "choose":
        return this.choose(instruction);
      case "call": {
        const before: string[] = [];
        const { words, count } = this.args(instruction.args, before);
        const { entry, routine, size } = instruction;
        return scoped([...before, `return call(t, ${entry}, ${routine}, ${size}, ${words}, ${count});`]);
      }
      case "give": {
        const before: string[] = [];
        return scoped([`return give(t, ${this.value(instruction.value, before)});`], before);
      }
      case "repeat": {
        const before: string[] = [];
        const times = this.maybe(instruction.times, before, "ENDLESS");
        return scoped([
          ...before,
          `return beginRepeat(t, ${times}, ${instruction.left}, ${instruction.passes}, ${this.test(instruction.condition)});`,
        ]);
      }
      case "next pass":
        return this.nextPass(instruction);
      case "every": {
        const before: string[] = [];
        const limit = this.maybe(instruction.limit, before, "ENDLESS");
        return scoped([
          ...before,
          `return beginEvery(t, ${this.here}, ${limit}, ${instruction.counter}, ${this.test(instruction.until)});`,
        ]);
      }
      case "next beat": {
        const before: string[] = [];
        const period = this.value(instruction.period, before);
        return scoped([
          ...before,
          `return beat(t, ${period}, ${instruction.counter}, ${this.test(instruction.until)}, ${instruction.exit});`,
        ]);
      }
      case "beats end":
        return ["return beatsEnd(t);"];
      case "leave":
        return [
          `return leave(t, ${instruction.guards}, Leaves::${instruction.kind}, ${instruction.pass}, ${instruction.to});`,
        ];
      case "together": {
        const { entries, routine, untilOne, after } = instruction;
        this.helpers.push(`static const uint16_t branches_${at}[] = {${entries.join(", ")}};`);
        return [
          `return together(t, branches_${at}, ${entries.length}, ${routine ?? "NO_ROUTINE"}, ${untilOne}, ${after});`,
        ];
      }
      case "guard": {
        const rows = instruction.handlers.map(
          ({ condition, entry }) => `{${this.test(condition)}, ${entry}, ${condition.signalOnly}}`,
        );
        this.helpers.push(`static const Handler handlers_${at}[] = {${rows.join(", ")}};`);
        return [`return guard(t, ${this.here}, handlers_${at}, ${rows.length});`];
      }
      case "guard ends":
        return [`return guardEnds(t, ${instruction.depth}, ${instruction.to});`];
      case "resume":
        return [`return resume(t, ${instruction.depth}, ${instruction.skip});`];
      default:
        return this.step(instruction, at);
    }
  }

  private args(codes: readonly Code[], before: string[]): { words: string; count: number } {
    const parts = codes.map((code) => this.value(code, before));
    const given = this.given(parts);
    before.push(...given.before);
    return { words: given.words, count: parts.length };
  }

  private ifs({ condition, otherwise }: InstructionOf<"if">): string[] {
    if (condition.held.length > 0 || condition.heard.length > 0) {
      const name = this.test(condition);
      return [`${name}(t, Ask::begin);`, `return branchOn(t, ${name}(t, Ask::now), ${otherwise});`];
    }
    const before: string[] = [];
    const met = this.value(condition.code, before);
    return scoped([...before, `return branchOn(t, ${met}, ${otherwise});`]);
  }

  private choose({ subject, arms, otherwise }: InstructionOf<"choose">): string[] {
    const lines: string[] = [];
    lines.push(`const real subject = ${this.value(subject, lines)};`);
    for (const arm of arms) {
      if (arm.compare) {
        const right = this.value(arm.compare.value, lines);
        lines.push(`if (subject ${arm.compare.operator} ${right}) return go_on(t, ${arm.to});`);
        continue;
      }
      for (const { from, to } of arm.values) {
        const low = this.value(from, lines);
        const fits = to === null ? `subject == ${low}` : `within(subject, ${low}, ${this.value(to, lines)})`;
        lines.push(`if (${fits}) return go_on(t, ${arm.to});`);
      }
    }
    lines.push(`return go_on(t, ${otherwise});`);
    return scoped(lines);
  }

  private nextPass(instruction: InstructionOf<"next pass">): string[] {
    const { left, passes, condition, how, each, count, after } = instruction;
    const lines = [`bool more = passes(t, ${left}, ${passes});`];
    if (condition) {
      const name = this.test(condition);
      lines.push(`if (more) more = ${how === "while" ? "" : "!"}${name}(t, Ask::now);`);
    }
    const pass = `t.counters[${passes}]`;
    if (each)
      lines.push(
        "real value = 0;",
        `if (more) more = listEach(lists[${each.list}], ${pass}, value);`,
        `if (more) ${this.store(each.store)} = value;`,
      );
    if (count) lines.push(`if (more) ${this.store(count)} = ${pass};`);
    lines.push(`return branchOn(t, more, ${after});`);
    return scoped(lines);
  }

  private step(instruction: Instruction, at: number): string[] {
    switch (instruction.op) {
      case "start":
        return this.instant((before) => {
          const { words, count } = this.args(instruction.args, before);
          const { entry, routine, size } = instruction;
          return `startRoutine(t, ${entry}, ${routine}, ${size}, ${words}, ${count});`;
        });
      case "stop routine":
        return this.instant(() => `stopRoutine(${instruction.routine});`);
      case "set":
        return this.instant((before) => `${this.store(instruction.store)} = ${this.value(instruction.value, before)};`);
      case "add":
        return this.instant((before) => {
          const { list } = instruction;
          return `listAdd(lists[${list}], ${this.value(instruction.value, before)}, ${list});`;
        });
      case "put":
        return this.instant((before) => {
          const { list } = instruction;
          const place = this.value(instruction.index, before);
          return `listPut(lists[${list}], ${place}, ${this.value(instruction.value, before)}, ${list});`;
        });
      case "clear":
        return this.instant(() => `lists[${instruction.list}].count = 0;`);
      case "roll on":
        return this.instant((before) => `rollOn(t, ${this.here}, ${this.motion(instruction.motion, at, before)});`);
      case "motor on":
        return this.instant((before) => {
          const duty = this.value(instruction.duty, before);
          return `motorOn(t, ${this.here}, ${this.part(instruction.motor)}, ${duty});`;
        });
      case "move on":
        return this.instant((before) => `moveOn(t, ${this.here}, ${this.move(instruction, before)});`);
      case "stop drive":
        return this.instant(() => `stopDrive(t, ${this.here}, Mode::${instruction.mode});`);
      case "stop motor":
        return this.instant(
          () => `stopMotor(t, ${this.here}, ${this.part(instruction.motor)}, Mode::${instruction.mode});`,
        );
      case "steer":
        return this.instant((before) => `steerTo(t, ${this.here}, ${this.value(instruction.angle, before)});`);
      case "note":
        return this.instant((before) => [
          "lineBegin();",
          `lineText(WORDS(${quoted(`${instruction.name} = `)}));`,
          ...this.said(instruction.value, "plain", before),
          "lineSay(0);",
        ]);
      case "show":
        return this.instant((before) => [
          "lineBegin();",
          ...instruction.values.flatMap(({ label, value, words }, i) => [
            ...(i > 0 ? ['lineText(WORDS("  "));'] : []),
            ...(words === null || label === "" ? [] : [`lineText(WORDS(${quoted(label)}));`]),
            ...this.said(value, words ?? "plain", before),
          ]),
          "lineSay(1);",
        ]);
      case "light":
        return this.instant((before) => [
          "lineBegin();",
          `lineNumber(rounded(between(${this.value(instruction.share, before)}, 0, 1) * 100), 0);`,
          'lineText(WORDS(" %"));',
          "lineSay(2);",
        ]);
      case "beep":
        return this.instant((before) => this.beep(instruction, before));
      case "reset":
        return this.instant(() => this.reset(instruction.what));
      case "send":
        return this.instant(() => `send(${instruction.signal});`);
      case "finish":
        return this.instant(() => "finish(t);");
      default:
        return this.lasting(instruction, at);
    }
  }

  private lasting(instruction: Instruction, at: number): string[] {
    switch (instruction.op) {
      case "wait":
        return this.timed((before) => {
          const { duration, atMost, until, limit } = instruction;
          this.tails({ forTime: null, until, limit, limitBy: null, ending: "stop" }, before);
          if (atMost) before.push(`tails.atMost = ${this.value(atMost, before)};`);
          return `wait(t, ${this.maybe(duration, before)});`;
        });
      case "drive":
        return this.timed((before) => {
          const motion = this.motion(instruction.motion, at, before);
          this.tails(instruction.endings, before);
          return `drives(t, ${motion});`;
        });
      case "motor":
        return this.timed((before) => {
          const duty = this.value(instruction.duty, before);
          this.tails(instruction.endings, before);
          return `motorRuns(t, ${this.part(instruction.motor)}, ${duty});`;
        });
      case "move":
        return this.timed((before) => {
          const move = this.move(instruction, before);
          this.tails(instruction.endings, before);
          return `moves(t, ${move});`;
        });
      case "home":
        return this.timed((before) => {
          const using = this.maybe(instruction.using, before);
          this.tails(instruction.endings, before);
          return `homes(t, ${this.part(instruction.part)}, ${instruction.toward === "high"}, ${using});`;
        });
      case "aim":
        return this.timed((before) => {
          const angle = this.value(instruction.angle, before);
          this.tails(instruction.endings, before);
          return `aims(t, ${this.part(instruction.head)}, ${angle});`;
        });
      case "scan":
        return this.timed((before) => {
          const [from, to, looks] = [instruction.from, instruction.to, instruction.looks].map((code) =>
            this.value(code, before),
          );
          this.tails(instruction.endings, before);
          const fixed = instruction.looks.length === 1 ? Number(instruction.looks[0]) : 60;
          this.helpers.push(`static real seen_${at}[${Math.max(2, Math.min(60, Math.floor(fixed + 0.5) || 60))}];`);
          return `scans(t, ${this.part(instruction.head)}, ${from}, ${to}, ${looks}, seen_${at});`;
        });
      case "hand over":
        return this.timed((before) => {
          this.tails(instruction.endings, before);
          return "handsOver(t);";
        });
      default:
        return ["return false;"];
    }
  }

  private move(
    { part, how, angle, at, using }: InstructionOf<"move"> | InstructionOf<"move on">,
    before: string[],
  ): string {
    const parts = [angle, at, using].map((code) => this.maybe(code, before));
    return `${this.part(part)}, ${how === "by"}, ${parts.join(", ")}`;
  }

  private beep({ pitch, duration }: InstructionOf<"beep">, before: string[]): string[] {
    const lines = ["lineBegin();"];
    if (pitch) lines.push(`lineNumber(${this.value(pitch, before)}, 0);`, 'lineText(WORDS(" Hz"));');
    if (pitch && duration) lines.push('lineText(WORDS(" for "));');
    if (duration) lines.push(`lineNumber(${this.value(duration, before)}, 2);`, 'lineText(WORDS(" s"));');
    return [...lines, "lineSay(3);"];
  }

  private reset(what: string): string {
    if (what === "robot") return "resetRobot();";
    const gyro = this.board.robot.sensors.some(({ name, kind }) => kind === "gyro" && name === what);
    return gyro ? "resetGyro();" : `partZero(${this.part(what)});`;
  }

  /** A value as words on the line that is put together. */
  private said(code: Code, wording: Wording, before: string[]): string[] {
    const item = code[code.length - 1] as Item;
    if (Array.isArray(item) && item[0] === "bound value") return this.said(code.slice(0, -1), wording, before);
    if (item === "join") {
      const middle = beginOf(code, code.length - 1);
      return [
        ...this.said(code.slice(0, middle), "plain", before),
        ...this.said(code.slice(middle, -1), "plain", before),
      ];
    }
    if (Array.isArray(item) && item[0] === "words") return this.said(code.slice(0, -1), item[1] as Wording, before);
    if (Array.isArray(item) && item[0] === "text") return [`lineText(WORDS(${quoted(item[1] as string)}));`];
    const value = this.value(code, before);
    if (isText(code, this.texts)) return [`lineKept(${value});`];
    if (wording === "truth") return [`lineTruth(${value});`];
    if (wording === "colour") return [`lineColour(${value});`];
    if (wording === "plain") return [`lineNumber(${value}, 3);`];
    const { unit, scale } = wording;
    const scaled = scale === 1 ? value : `(${value}) / ${decimal(scale)}`;
    return [`lineNumber(${scaled}, 2);`, ...(unit === "" ? [] : [`lineText(WORDS(${quoted(` ${unit}`)}));`])];
  }

  // The file

  write(): WrittenMission {
    const { program } = this;
    const cases = program.instructions.map((instruction, at) => this.caseOf(instruction, at));
    const remote = this.remote();
    const initial: string[] = [];
    for (const { global, value } of program.sets) {
      if (this.constants.has(global)) continue;
      this.guarded({ step: "", text: "", line: 1 }, initial, () => [
        `${this.global(global)} = ${this.value(value, initial)};`,
      ]);
    }
    const initialise = /\bt\b/.test(initial.join("\n")) ? "Task &t" : "Task &";
    const parts = [
      "// A mission as a board runs it. Written from its program: change the mission, not this file.",
      '#include "motions.h"',
      "",
      "namespace pebble {",
      "",
      ...this.readingList(),
      ...this.values(),
      ...this.helpers.map((helper) => `${helper}\n`),
      ...this.functions(cases),
      `static void initialise(${initialise}) {\n${this.body(initial, "  ")}\n}`,
      "",
      ...this.room(),
      remote,
      "",
      "}  // namespace pebble",
    ];
    return { text: `${parts.join("\n")}\n`, steps: this.steps, problems: this.problems };
  }

  private guarded(step: BoardStep, lines: string[], make: () => string[]): void {
    this.current = step;
    try {
      lines.push(...make());
    } catch (error) {
      if (!(error instanceof CannotSay)) throw error;
      this.problems.push({ line: step.line, step: step.step, message: error.message });
    }
  }

  private caseOf(instruction: Instruction, at: number): string {
    const lines: string[] = [];
    this.names = 0;
    const named = "text" in instruction ? instruction : null;
    const step: BoardStep = named
      ? { step: named.step, text: named.text, line: named.line }
      : instruction.op === "guard"
        ? { step: instruction.step, text: "during", line: this.current.line }
        : this.current;
    this.guarded(step, lines, () => this.op(instruction, at));
    const comment = named ? `    // ${commentWords(`${named.step}  ${named.text}`)}\n` : "";
    return `${comment}    case ${at}:\n${this.body(lines, "      ")}`;
  }

  private readingList(): string[] {
    const readings = [...this.readingNames].map(([slot, name]) => `${name} = ${slot}`);
    return ["enum Reading : uint8_t {", `  ${readings.join(", ")}`, "};", ""];
  }

  private values(): string[] {
    const lines = this.globalNames.map((name, i) => {
      const value = this.constants.get(i);
      return value === undefined ? `static real ${name};` : `constexpr real ${name} = ${decimal(value)};`;
    });
    const { lists } = this.program;
    lists.forEach(({ name, most, table }, i) => {
      lines.push(`// ${commentWords(name)}`, `static real listValues_${i}[${Math.max(1, most)}];`);
      if (table) lines.push(`static real listKeys_${i}[${Math.max(1, most)}];`);
    });
    if (lists.length > 0)
      lines.push(
        "static List lists[] = {",
        ...lists.map(
          ({ most, rolling, table }, i) =>
            `  {listValues_${i}, ${table ? `listKeys_${i}` : "nullptr"}, ${most}, 0, ${rolling}},`,
        ),
        "};",
      );
    return lines.length > 0 ? [...lines, ""] : [];
  }

  /** The mission and each routine: a function with a case for each of its instructions. */
  private functions(cases: readonly string[]): string[] {
    const { program } = this;
    const starts = new Map<number, string>([[0, "beginning"]]);
    routineEntries(program).forEach((entry, i) => {
      if (entry !== null) starts.set(entry, this.routineNames[i] as string);
    });
    starts.set(program.start, "mission");
    const order = [...starts].sort(([a], [b]) => a - b);
    const made = order.map(([from, name], k) => {
      const to = order[k + 1]?.[0] ?? cases.length;
      const body = `  switch (t.at) {\n${cases.slice(from, to).join("\n")}\n    default:\n      return endTask(t);\n  }`;
      return `static bool ${name}(Task &t) {\n${body}\n}\n`;
    });
    const last = order[order.length - 1]?.[1] ?? "mission";
    const chosen = order.slice(0, -1).map(([, name], k) => `  if (t.at < ${order[k + 1]?.[0]}) return ${name}(t);`);
    return [...made, `static bool run(Task &t) {\n${[...chosen, `  return ${last}(t);`].join("\n")}\n}\n`];
  }

  /** Memory for all of it: as much as this mission can need. */
  private room(): string[] {
    const { program, board } = this;
    const { tasks, frames, guards, guardPool, everies } = programNeeds(program);
    const orders = tasks === 1 ? 1 : Math.min(250, 3 * tasks);
    const sizes = program.routines.map(() => 0);
    for (const { routine, size } of calledRoutines(program)) sizes[routine] = Math.max(sizes[routine] as number, size);
    let values = 0;
    const valuesAt = sizes.map((size) => {
      values += size;
      return values - size;
    });
    const { counters } = program;
    const array = (type: string, name: string, count: number) =>
      `${type} ${name}[${Math.max(1, count)}];`.replace("* ", "*");
    const table = this.textTable.map((words, i) => `static const char text_${i}[] FLASH = ${quoted(words)};`);
    return [
      "// Room for its tasks, calls, interrupts and values.",
      array("Task", "taskPool", tasks),
      array("Task *", "taskOrder", orders),
      array("Frame", "framePool", tasks * frames),
      array("Guard", "guardPool", guardPool),
      array("Guard *", "guardLists", tasks * guards),
      array("Frame", "savedFramePool", guardPool * frames),
      array("real", "savedValuePool", guardPool * (values + counters)),
      array("Every", "everyPool", tasks * everies),
      array("real", "valuePool", tasks * values),
      array("real", "counterPool", tasks * counters),
      array("Task *", "valuesOfPool", tasks * program.routines.length),
      array("real", "readings", board.readings),
      array("uint8_t", "seenSteps", (this.steps.length >> 3) + 1),
      array("Piece", "pathPieces", this.mostPlaces * 2),
      `static const uint8_t valuesAt[] = {${(valuesAt.length > 0 ? valuesAt : [0]).join(", ")}};`,
      `const Program PROGRAM = {run, initialise, ${program.start}, ${program.endOfTask}, ${tasks}, ${frames}, ${guards}, ${everies}, ${program.routines.length}, ${values}, ${counters}, ${guardPool}, ${orders}, valuesAt, ${board.readings}};`,
      ...table,
      `const char *const TEXTS[] = {${this.textTable.length > 0 ? this.textTable.map((_, i) => `text_${i}`).join(", ") : "nullptr"}};`,
    ];
  }

  // Driving by hand

  private remote(): string {
    const { remote } = this.program;
    if (!remote)
      return "static bool noSticks(Task &, Sticks &) { return false; }\nconst Remote REMOTE = {noSticks, nullptr, 0, nullptr, 0, NAN, nullptr, nullptr, nullptr};";
    const { bindings, dials, sticks, steerRad } = remote;
    const start = this.helpers.length;
    const lines: string[] = [];
    if (sticks) {
      const mode = { "one stick": "one", "two sticks": "two", tank: "tank", curvature: "curvature" }[sticks.mode];
      lines.push(`s.mode = Sticks::${mode};`);
      for (const key of ["at", "turning", "dead", "curve", "ramp", "switching"] as const) {
        const code = sticks[key];
        if (code) this.guarded(this.current, lines, () => [`s.${key} = ${this.value(code, lines)};`]);
      }
    }
    const uses = /\bt\b/.test(lines.join("\n")) ? "t" : "";
    const head = `static bool sticks(Task &${uses}, Sticks &${sticks ? "s" : ""})`;
    const rows = bindings.map((binding) => `  ${this.binding(binding)},`);
    const turned = dials.map(
      ({ level, part, from, to }) =>
        `  {${level}, ${this.part(part)}, ${this.numberFunction(from, "low")}, ${this.numberFunction(to, "high")}},`,
    );
    const own = this.helpers.splice(start);
    const n = bindings.length;
    return [
      ...own,
      `${head} {\n${this.body([...lines, `return ${sticks !== null};`], "  ")}\n}`,
      ...(n > 0 ? ["static const Binding bindings[] = {", ...rows, "};"] : []),
      ...(dials.length > 0 ? ["static const Dial dials[] = {", ...turned, "};"] : []),
      `static Task *live[${n + 1}];`,
      `static bool isOn[${n + 1}];`,
      `static real stood[${dials.length + 1}];`,
      `const Remote REMOTE = {sticks, ${n > 0 ? "bindings" : "nullptr"}, ${n}, ${dials.length > 0 ? "dials" : "nullptr"}, ${dials.length}, ${steerRad === null ? "NAN" : decimal(steerRad)}, live, isOn, stood};`,
    ].join("\n");
  }

  private binding({ how, button, ceiling, entry, routine, ending, moves }: BindingCode): string {
    const ends = ending === "stop" ? "stops" : ending === "keep" ? "keeps" : "goesOn";
    const bits = moves.reduce((all, name) => {
      const bit = name === WHEELS ? 0 : this.partNames.indexOf(name) + 1;
      return bit >= 0 && bit < 31 ? all | (1 << bit) : all;
    }, 0);
    return `{Binding::${how}, ${button}, ${this.numberFunction(ceiling, "ceiling")}, ${entry ?? 65535}, ${routine}, Binding::${ends}, ${typeof ending === "number" ? ending : 65535}, ${bits}}`;
  }
}

/** In a block of its own where it names anything. */
function scoped(lines: readonly string[], before: readonly string[] = []): string[] {
  const all = [...before, ...lines];
  if (all.length === 1 || !all.some((line) => /^(const|real|bool) /.test(line))) return all;
  return ["{", ...all.map((line) => `  ${line}`), "}"];
}

function* calledRoutines(program: Program): Iterable<{ routine: number; size: number }> {
  for (const instruction of program.instructions) {
    if (instruction.op === "call" || instruction.op === "start") yield instruction;
    for (const code of codesOf(instruction))
      for (const item of code)
        if (Array.isArray(item) && item[0] === "routine") yield { routine: item[2] as number, size: item[3] as number };
  }
}

export function cppMission(program: Program, board: BoardRobot): WrittenMission {
  return new Writer(program, board).write();
}
