// mission.cpp: a program as C++.
import { readingsOf } from "../cairn/readings.js";
import type { Program, Store } from "../program/instructions.js";
import type { BoardRobot } from "./boardRobot.js";
import { unbracketed } from "./expression.js";
import { calledRoutines, MissionWriter, type WrittenMission } from "./mission.js";
import { programNeeds, routineEntries } from "./regions.js";
import { boardWatched } from "./uses.js";
import { commentWords, decimal, Names, quoted } from "./words.js";

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

const uses = (lines: readonly string[]) => (/\bt\b/.test(lines.join("\n")) ? "t" : "");

class CppWriter extends MissionWriter {
  protected readonly end = ";";
  protected readonly and = " && ";
  protected readonly or = " || ";
  protected readonly nothing = "nullptr";
  protected readonly noRoutine = "NO_ROUTINE";
  private readonly readingNames = new Map<number, string>();
  private readonly routineNames: string[];
  private readonly globalNames: string[];
  private argumentSets = 0;

  constructor(program: Program, board: BoardRobot) {
    super(program, board);
    const readings = new Names("r_");
    for (const [name, { slot, ofTask }] of readingsOf(board.robot))
      if (!ofTask && !this.readingNames.has(slot)) this.readingNames.set(slot, readings.of(name));
    const routines = new Names("routine_");
    this.routineNames = program.routines.map(({ name }, i) => routines.of(String(i), name));
    const globals = new Names("v_");
    this.globalNames = program.globals.map((name, i) => globals.of(String(i), name));
  }

  protected truth(is: boolean): string {
    return String(is);
  }

  protected not(a: string): string {
    return `!${a}`;
  }

  protected member(choice: string, word: string): string {
    if (choice === "Ask" && word === "begins") return "ask == Ask::begin";
    const name = { Corners: "Wall", By: "Step" }[choice] ?? choice;
    return `${name}::${word}`;
  }

  protected when(condition: string, lines: readonly string[]): string[] {
    if (lines.length === 1) return [`if (${condition}) ${lines[0]}`];
    return [`if (${condition}) {`, ...lines.flatMap((line) => line.split("\n").map((part) => `  ${part}`)), "}"];
  }

  protected scoped(lines: readonly string[]): string[] {
    if (!lines.some((line) => /^(const|real|bool) /.test(line))) return [...lines];
    return ["{", ...lines.map((line) => `  ${line}`), "}"];
  }

  protected named(kind: "number" | "truth", name: string, value: string): string {
    if (name === "more") return `bool more = ${value};`;
    return `const ${kind === "number" ? "real" : "bool"} ${name} = ${value};`;
  }

  protected given(parts: readonly string[]): { before: string[]; words: string } {
    if (parts.length === 0) return { before: [], words: "nullptr, 0" };
    this.argumentSets += 1;
    const name = `given${this.argumentSets}`;
    const values = parts.map((part) => `real(${unbracketed(part)})`).join(", ");
    return { before: [`const real ${name}[] = {${values}};`], words: `${name}, ${parts.length}` };
  }

  protected put(store: Store, value: string): string {
    const place = "global" in store ? this.global(store.global) : this.local(store.routine, store.local);
    return `${place} = ${value};`;
  }

  protected question(name: string, comment: string, lines: readonly string[]): string {
    return `// ${comment}\nstatic bool ${name}(Task &${uses(lines)}, Ask ask) {\n${this.body(lines, "  ")}\n}`;
  }

  protected numberOf(name: string, lines: readonly string[]): string {
    return `static real ${name}(Task &${uses(lines)}) {\n${this.body(lines, "  ")}\n}`;
  }

  protected table(kind: string, name: string, rows: readonly string[]): string {
    if (kind === "handler") return `static const Handler ${name}[] = {${rows.map((row) => `{${row}}`).join(", ")}};`;
    return `static const uint16_t ${name}[] = {${rows.join(", ")}};`;
  }

  protected lineSheet(
    at: number,
    fields: readonly string[],
    slots: readonly number[],
    offsets: readonly string[],
  ): string {
    return [
      `static const uint8_t lights_${at}[] FLASH = {${slots.join(", ")}};`,
      `static const real lightsAt_${at}[] FLASH = {${offsets.join(", ")}};`,
      `static const Line line_${at} = {lights_${at}, lightsAt_${at}, ${slots.length}, ${fields.join(", ")}};`,
    ].join("\n");
  }

  protected wallSheet(at: number, fields: readonly string[]): string {
    return `static const Wall wall_${at} = {${fields.join(", ")}};`;
  }

  protected placesRoom(at: number, count: number): string {
    return `static Place places_${at}[${count}];`;
  }

  protected setPlace(at: number, i: number, x: string, y: string): string {
    return `places_${at}[${i}] = Place{real(${x}), real(${y})};`;
  }

  protected seenRoom(at: number, count: number): string {
    return `static real seen_${at}[${count}];`;
  }

  protected seen(at: number): string {
    return `, seen_${at}`;
  }

  protected words(text: string): string {
    return `WORDS(${quoted(text)})`;
  }

  protected emptyList(list: number): string {
    return `lists[${list}].count = 0`;
  }

  protected eachOf(list: number, pass: string): string[] {
    return ["real value = 0;", `if (more) more = listEach(lists[${list}], ${pass}, value);`];
  }

  text(words: string): string {
    return `${this.textAt(words)}.0`;
  }

  reading(slot: number): string {
    return `reading(${this.readingNames.get(slot) ?? slot})`;
  }

  protected slotName(slot: string): string {
    return this.readingNames.get(Number(slot)) ?? slot;
  }

  global(index: number): string {
    return this.globalNames[index] as string;
  }

  local(routine: number, index: number): string {
    return `local(t, ${routine}, ${index})`;
  }

  keep(name: string, expression: string): string {
    return `const auto ${name} = ${expression};`;
  }

  call(name: string, parts: readonly string[]): string {
    return FUNCTIONS[name]?.(parts.map(unbracketed)) ?? "0.0";
  }

  write(): WrittenMission {
    const { program } = this;
    const cases = program.instructions.map((instruction, at) => {
      const { comment, lines } = this.written(instruction, at);
      const head = comment === "" ? "" : `    // ${comment}\n`;
      return `${head}    case ${at}:\n${this.body(lines, "      ")}`;
    });
    const remote = this.remote();
    const initial = this.initial();
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
      `static void initialise(Task &${uses(initial)}) {\n${this.body(initial, "  ")}\n}`,
      "",
      ...this.room(),
      remote,
      "",
      "}  // namespace pebble",
    ];
    return { text: `${parts.join("\n")}\n`, steps: this.steps, problems: this.problems };
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
    const watched = boardWatched(program, board).map(({ slot }) => slot);
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
      `const uint8_t WATCHED[] FLASH = {${(watched.length > 0 ? watched : [0]).join(", ")}};`,
      `const uint8_t WATCHED_COUNT = ${watched.length};`,
      ...table,
      `const char *const TEXTS[] = {${this.textTable.length > 0 ? this.textTable.map((_, i) => `text_${i}`).join(", ") : "nullptr"}};`,
    ];
  }

  private remote(): string {
    const { remote } = this.program;
    if (!remote)
      return "static bool noSticks(Task &, Sticks &) { return false; }\nconst Remote REMOTE = {noSticks, nullptr, 0, nullptr, 0, NAN, nullptr, nullptr, nullptr};";
    const { bindings, steerRad } = remote;
    const start = this.helpers.length;
    const lines = this.stickLines();
    const head = `static bool sticks(Task &${uses(lines)}, Sticks &${lines.length > 0 ? "s" : ""})`;
    const rows = bindings.map((binding) => `  {${this.binding(binding)}},`);
    const turned = this.dials().map((dial) => `  {${dial}},`);
    const own = this.helpers.splice(start);
    const [n, m] = [rows.length, turned.length];
    return [
      ...own,
      `${head} {\n${this.body([...lines, `return ${lines.length > 0};`], "  ")}\n}`,
      ...(n > 0 ? ["static const Binding bindings[] = {", ...rows, "};"] : []),
      ...(m > 0 ? ["static const Dial dials[] = {", ...turned, "};"] : []),
      `static Task *live[${n + 1}];`,
      `static bool isOn[${n + 1}];`,
      `static real stood[${m + 1}];`,
      `const Remote REMOTE = {sticks, ${n > 0 ? "bindings" : "nullptr"}, ${n}, ${m > 0 ? "dials" : "nullptr"}, ${m}, ${steerRad === null ? "NAN" : decimal(steerRad)}, live, isOn, stood};`,
    ].join("\n");
  }
}

export function cppMission(program: Program, board: BoardRobot): WrittenMission {
  return new CppWriter(program, board).write();
}
