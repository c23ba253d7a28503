// mission.py: a program as MicroPython.
import { readingsOf } from "../cairn/readings.js";
import type { Program, Store } from "../program/instructions.js";
import type { BoardRobot } from "./boardRobot.js";
import { unbracketed } from "./expression.js";
import { MissionWriter, type WrittenMission } from "./mission.js";
import { routineEntries } from "./regions.js";
import { commentWords, decimal, Names, pythonText } from "./words.js";

const FUNCTIONS: Readonly<Record<string, (parts: readonly string[]) => string>> = {
  abs: ([a]) => `abs(${a})`,
  min: (parts) => (parts.length === 1 ? `${parts[0]}` : `min(${parts.join(", ")})`),
  max: (parts) => (parts.length === 1 ? `${parts[0]}` : `max(${parts.join(", ")})`),
  clamp: ([x, low, high]) => `max(${low}, min(${high}, ${x}))`,
  sign: ([a]) => `signOf(${a})`,
  sqrt: ([a]) => `sqrt(max(0, ${a}))`,
  sin: ([a]) => `sin(${a})`,
  cos: ([a]) => `cos(${a})`,
  tan: ([a]) => `tan(${a})`,
  atan2: ([y, x]) => `atan2(${y}, ${x})`,
  wrap: ([a]) => `wrap(${a})`,
  mod: ([x, by]) => `modulo(${x}, ${by})`,
  floor: (parts) => `floored(${parts.join(", ")})`,
  ceil: (parts) => `ceiled(${parts.join(", ")})`,
  round: (parts) => `roundedTo(${parts.join(", ")})`,
};

/** What each file of the runtime gives to missions. */
const GIVES: Readonly<Record<string, string>> = {
  math: "atan2,cos,sin,sqrt,tan",
  hand: "Remote,handsOver",
  line: "Line,followLine",
  motions:
    "arc,arcOn,face,moving,powers,press,roll,slide,slideOn,sliding,straight,straightOn,straightly,turn,turnOn,turning,wheels",
  path: "goPlaces",
  sense: "partZero,resetGyro,resetRobot",
  state: "ENDLESS,NAN,NO_ROUTINE,USUAL,between,readings,rounded,wrap",
  tasks:
    "acted,again,aims,beat,beatsEnd,beginEvery,beginRepeat,begins,branchOn,call,callNow,drives,endTask,finish,give,go_on,guard,guardEnds,homes,leave,motorOn,motorRuns,moveOn,moves,passes,resume,rollOn,runs,scans,send,startRoutine,steerTo,stopDrive,stopMotor,stopRoutine,tails,together,wait",
  values:
    "List,bound,ceiled,chance,divided,floored,grew,grewAnew,heard,hears,held,lineBegin,lineColour,lineKept,lineNumber,lineSay,lineText,lineTruth,listAdd,listClear,listEach,listHas,listItem,listPut,listTell,modulo,raised,roundedTo,signOf,within",
  wall: "Wall,followWall",
};

/** Words that are Python's own. */
const KEYWORDS =
  "False,None,True,and,as,assert,async,await,break,class,continue,def,del,elif,else,except,finally,for,from,global,if,import,in,is,lambda,nonlocal,not,or,pass,raise,return,try,while,with,yield";

class PythonWriter extends MissionWriter {
  protected readonly end = "";
  protected readonly and = " and ";
  protected readonly or = " or ";
  protected readonly nothing = "None";
  protected readonly noRoutine = "NO_ROUTINE";
  private readonly readingNames = new Map<number, string>();
  private readonly globalNames: string[];

  constructor(program: Program, board: BoardRobot) {
    super(program, board);
    const readings = new Names("r_");
    for (const [name, { slot, ofTask }] of readingsOf(board.robot))
      if (!ofTask && !this.readingNames.has(slot)) this.readingNames.set(slot, readings.of(name));
    const globals = new Names("", KEYWORDS.split(","));
    this.globalNames = program.globals.map((name, i) => globals.of(String(i), name));
  }

  protected truth(is: boolean): string {
    return is ? "True" : "False";
  }

  protected not(a: string): string {
    return `(not ${a})`;
  }

  protected member(choice: string, word: string): string {
    if (choice === "Ask") return word === "begins" ? "begin" : this.truth(word === "begin");
    return `"${word}"`;
  }

  protected when(condition: string, lines: readonly string[]): string[] {
    return [`if ${condition}:`, ...lines.flatMap((line) => line.split("\n").map((part) => `    ${part}`))];
  }

  protected scoped(lines: readonly string[]): string[] {
    return [...lines];
  }

  protected named(_kind: "number" | "truth", name: string, value: string): string {
    return `${name} = ${value}`;
  }

  protected given(parts: readonly string[]): { before: string[]; words: string } {
    return { before: [], words: `(${parts.map((part) => `${unbracketed(part)},`).join(" ")})` };
  }

  protected put(store: Store, value: string): string {
    const place = "global" in store ? this.global(store.global) : this.local(store.routine, store.local);
    return `${place} = ${value}`;
  }

  protected question(name: string, comment: string, lines: readonly string[]): string {
    return `# ${comment}\ndef ${name}(t, begin):\n${this.body(lines, "    ")}`;
  }

  protected numberOf(name: string, lines: readonly string[]): string {
    return `def ${name}(t):\n${this.body(lines, "    ")}`;
  }

  protected table(kind: string, name: string, rows: readonly string[]): string {
    const items = kind === "handler" ? rows.map((row) => `(${row})`) : rows;
    return `${name} = (${items.map((item) => `${item},`).join(" ")})`;
  }

  protected lineSheet(
    at: number,
    fields: readonly string[],
    slots: readonly number[],
    offsets: readonly string[],
  ): string {
    return `line_${at} = Line((${slots.map((slot) => `${slot},`).join(" ")}), (${offsets.map((y) => `${y},`).join(" ")}), ${fields.join(", ")})`;
  }

  protected wallSheet(at: number, fields: readonly string[]): string {
    return `wall_${at} = Wall(${fields.join(", ")})`;
  }

  protected placesRoom(at: number, count: number): string {
    return `places_${at} = [(0.0, 0.0)] * ${count}`;
  }

  protected setPlace(at: number, i: number, x: string, y: string): string {
    return `places_${at}[${i}] = (${x}, ${y})`;
  }

  protected seenRoom(): string {
    return "";
  }

  protected seen(): string {
    return "";
  }

  protected words(text: string): string {
    return pythonText(text);
  }

  protected emptyList(list: number): string {
    return `listClear(lists[${list}])`;
  }

  protected eachOf(list: number, pass: string): string[] {
    return [`value = listEach(lists[${list}], ${pass}) if more else None`, "more = value is not None"];
  }

  text(words: string): string {
    return pythonText(words);
  }

  reading(slot: number): string {
    return `readings[${this.readingNames.get(slot) ?? slot}]`;
  }

  protected slotName(slot: string): string {
    return this.readingNames.get(Number(slot)) ?? slot;
  }

  global(index: number): string {
    return `v.${this.globalNames[index]}`;
  }

  local(routine: number, index: number): string {
    return `t.values[${routine}][${index}]`;
  }

  keep(name: string, expression: string): string {
    return `${name} = ${expression}`;
  }

  call(name: string, parts: readonly string[]): string {
    return FUNCTIONS[name]?.(parts.map(unbracketed)) ?? "0.0";
  }

  override operation(word: string, parts: readonly string[]): string {
    return word === "wall ends"
      ? "(moving.motion is not None and moving.motion.wall_ended)"
      : super.operation(word, parts);
  }

  write(): WrittenMission {
    const { program } = this;
    const titles = new Map<number, string>([[program.start, "The mission"]]);
    routineEntries(program).forEach((entry, i) => {
      if (entry !== null) titles.set(entry, `Routine ${commentWords(program.routines[i]?.name ?? "")}`);
    });
    const steps = program.instructions.map((instruction, at) => {
      const { comment, lines } = this.written(instruction, at);
      const title = titles.get(at);
      const head = [...(title === undefined ? [] : [`# ${title}`, ""]), ...(comment === "" ? [] : [`# ${comment}`])];
      return [...head, `def s${at}(t):`, this.body(lines.length > 0 ? lines : ["return False"], "    "), "", ""].join(
        "\n",
      );
    });
    const remote = this.remote();
    const initial = this.initial();
    const body = [
      ...this.values(),
      ...this.helpers.filter((helper) => helper !== "").map((helper) => `${helper}\n\n`),
      ...steps,
      `def initialise(t):\n${this.body(initial.length > 0 ? initial : ["pass"], "    ")}\n\n`,
      ...remote,
      "class program:",
      `    ops = (${program.instructions.map((_, at) => `s${at},`).join(" ")})`,
      `    start = ${program.start}`,
      `    end_of_task = ${program.endOfTask}`,
      `    counters = ${program.counters}`,
      "    initialise = initialise",
    ].join("\n");
    const text = [
      "# A mission as a board runs it. Written from its program: change the mission, not this file.",
      "from micropython import const",
      ...this.imports(body),
      "",
      ...this.readingList(body),
      "",
      body,
      "",
    ].join("\n");
    return { text, steps: this.steps, problems: this.problems };
  }

  /** What is used of the runtime's files. */
  private imports(body: string): string[] {
    return Object.entries(GIVES).flatMap(([file, names]) => {
      const used = names.split(",").filter((name) => new RegExp(`(?<![.\\w])${name}\\b`).test(body));
      return used.length > 0 ? [`from ${file} import ${used.join(", ")}`] : [];
    });
  }

  private readingList(body: string): string[] {
    return [...this.readingNames].flatMap(([slot, name]) =>
      new RegExp(`\\b${name}\\b`).test(body) ? [`${name} = const(${slot})`] : [],
    );
  }

  private values(): string[] {
    const lines = this.globalNames.map((name, i) => `    ${name} = ${decimal(this.constants.get(i) ?? 0)}`);
    const lists = this.program.lists.map(
      ({ name, most, rolling, table }) =>
        `    List(${most}, ${this.truth(rolling)}, ${this.truth(table)}),  # ${commentWords(name)}`,
    );
    return [
      ...(lines.length > 0 ? ["class v:", '    """Values of the mission."""', "", ...lines, "", ""] : []),
      ...(lists.length > 0 ? ["lists = (", ...lists, ")", "", ""] : []),
    ];
  }

  private remote(): string[] {
    const { remote } = this.program;
    if (!remote) return [];
    const start = this.helpers.length;
    const lines = this.stickLines();
    const rows = remote.bindings.map((binding) => `    (${this.binding(binding)}),`);
    const turned = this.dials().map((dial) => `    (${dial}),`);
    const own = this.helpers.splice(start).map((helper) => `${helper}\n\n`);
    return [
      ...own,
      ...(lines.length > 0 ? [`def sticks(t, s):\n${this.body(lines, "    ")}\n\n`, "Remote.sticks = sticks"] : []),
      ...(rows.length > 0 ? ["Remote.bindings = (", ...rows, ")"] : []),
      ...(turned.length > 0 ? ["Remote.dials = (", ...turned, ")"] : []),
      `Remote.steer = ${remote.steerRad === null ? "None" : decimal(remote.steerRad)}`,
      "",
      "",
    ];
  }
}

export function pythonMission(program: Program, board: BoardRobot): WrittenMission {
  return new PythonWriter(program, board).write();
}
