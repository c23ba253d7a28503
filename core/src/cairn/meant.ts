// What a person most likely meant by a line that is no step: everyday words for driving, turning and waiting, units
// spelled out or left away. Only an offer: it is made when the line it becomes is a step without problems.
import { driveKind } from "../drives/kinds.js";
import type { Robot } from "../robot/schema.js";
import type { Line, Token } from "./lexer.js";
import { meantLine, type Problem } from "./problems.js";
import type { Mission } from "./tree.js";

/** Units as people spell them, and how the language writes them. */
const SPELLED: Readonly<Record<string, string>> = {
  millimeter: "mm",
  millimetre: "mm",
  centimeter: "cm",
  centimetre: "cm",
  cms: "cm",
  meter: "m",
  metre: "m",
  inch: "in",
  inches: "in",
  foot: "ft",
  feet: "ft",
  degree: "deg",
  degs: "deg",
  second: "s",
  sec: "s",
  secs: "s",
  millisecond: "ms",
  msec: "ms",
  percent: "%",
  volt: "V",
};

const NUMBER = String.raw`(\d+(?:\.\d+)?)`;
const UNIT = String.raw`(?:\s*([a-zA-Z%/"°]+))?`;
const LENGTHS = new Set(["mm", "cm", "m", "in", "ft"]);
const TIMES = new Set(["ms", "s"]);
const ANGLES = new Set(["deg", "rad", "turn", "turns"]);
const SPEEDS = new Set(["mm/s", "cm/s", "m/s", "in/s", "ft/s"]);

function unitOf(written: string | undefined, allowed: ReadonlySet<string>, usual: string): string | null {
  if (written === undefined || written === "") return usual;
  const word = written.toLowerCase();
  const plain = SPELLED[word] ?? SPELLED[word.replace(/s$/, "")] ?? { '"': "in", "°": "deg" }[word] ?? word;
  return allowed.has(plain) ? plain : null;
}

type Words = Readonly<RegExpMatchArray>;

interface Rule {
  readonly like: RegExp;
  /** @returns the lines meant, or null when these words mean something else */
  readonly means: (words: Words, robot: Robot | null) => readonly string[] | null;
  /** Said also where the line it becomes has a problem of its own, such as a routine that is not there. */
  readonly sure: boolean;
}

function rule(like: string, means: Rule["means"], sure = false): Rule {
  return { like: new RegExp(`^${like}$`, "i"), means, sure };
}

/** The reading of a robot's first distance sensor. */
function distanceReading(robot: Robot | null): string {
  return `${robot?.sensors.find((sensor) => sensor.kind === "eye")?.name ?? "eye"}.distance`;
}

function straight(word: "go" | "back") {
  return ([, digits, unit]: Words) => {
    const named = unitOf(unit, LENGTHS, "cm");
    return named === null ? null : [`${word} ${digits} ${named}`];
  };
}

function turned(side: string | undefined, digits: string | undefined, unit: string | undefined) {
  const named = unitOf(unit, ANGLES, "deg");
  return named === null || side === undefined ? null : [`turn ${side.toLowerCase()} ${digits} ${named}`];
}

/** A way to the side, for robots that can. */
function aside(side: string | undefined, digits: string | undefined, unit: string | undefined, robot: Robot | null) {
  const named = unitOf(unit, LENGTHS, "cm");
  if (named === null || side === undefined || !robot || !driveKind(robot.drive).slides) return null;
  return [`slide ${side.toLowerCase()} ${digits} ${named}`];
}

const untilNear = ([, digits, unit]: Words, robot: Robot | null): readonly string[] | null => {
  const named = unitOf(unit, LENGTHS, "cm");
  return named === null ? null : [`go until ${distanceReading(robot)} < ${digits} ${named}`];
};

/** A part of the robot that is moved to a place. */
function moved([, name, digits, unit]: Words, robot: Robot | null): readonly string[] | null {
  const named = unitOf(unit, ANGLES, "deg");
  const parts = [...(robot?.motors ?? []), ...(robot?.servos ?? [])];
  return named !== null && parts.some((part) => part.name === name) ? [`move ${name} to ${digits} ${named}`] : null;
}

const AHEAD = "(?:forwards?|ahead|straight|onwards?)";
const BACKWARDS = "(?:backwards?|reverse|back)";
const DRIVE = "(?:drive|go|move|run|roll)";
const TURN = "(?:turn|rotate|spin|pivot)";
const WALL = String.raw`(?:(?:from|before|of|off|away from)\s+)?(?:the\s+|a\s+)?(?:wall|obstacle|object|box)`;
const ASIDE = `(?:${DRIVE}\\s+)?(?:sideways|sidestep|strafe|crab|shift|slide)`;
const HOME = ["go to begin"] as const;

const RULES: readonly Rule[] = [
  rule(`(?:${DRIVE}\\s+)?${BACKWARDS}(?:\\s+(?:for|by))?\\s+${NUMBER}${UNIT}`, straight("back")),
  rule(`${DRIVE}(?:\\s+${AHEAD})?(?:\\s+(?:for|by))?\\s+${NUMBER}${UNIT}`, straight("go")),
  rule(`(?:${AHEAD}|advance)(?:\\s+(?:for|by))?\\s+${NUMBER}${UNIT}`, straight("go")),
  rule(`${NUMBER}${UNIT}`, (words) => (words[2] === undefined ? null : straight("go")(words))),
  rule(`(?:${TURN}\\s+)?(?:to\\s+the\\s+)?(left|right)\\s+(?:by\\s+)?${NUMBER}${UNIT}`, ([, side, digits, unit]) =>
    turned(side, digits, unit),
  ),
  rule(`${TURN}\\s+(?:by\\s+)?${NUMBER}${UNIT}\\s+(?:to\\s+the\\s+)?(left|right)`, ([, digits, unit, side]) =>
    turned(side, digits, unit),
  ),
  rule(`${ASIDE}\\s+(?:to\\s+the\\s+)?(left|right)\\s+(?:by\\s+)?${NUMBER}${UNIT}`, ([, side, digits, unit], robot) =>
    aside(side, digits, unit, robot),
  ),
  rule(`${ASIDE}\\s+(?:by\\s+)?${NUMBER}${UNIT}\\s+(?:to\\s+the\\s+)?(left|right)`, ([, digits, unit, side], robot) =>
    aside(side, digits, unit, robot),
  ),
  rule(`(?:${TURN}\\s+)?(left|right)`, ([, side]) => [`turn ${side?.toLowerCase()} 90 deg`]),
  rule(`${TURN}\\s+(around|round|back)`, () => ["turn left 180 deg"]),
  rule(`(?:${DRIVE}\\s+)?(?:set\\s+)?speed(?:\\s*(?:=|to|at|of))?\\s+${NUMBER}${UNIT}`, ([, digits, unit]) => {
    const named = unitOf(unit, SPEEDS, "cm/s");
    return named === null ? null : [`set cruise = ${digits} ${named}`];
  }),
  rule(`(?:${DRIVE}|${AHEAD})(?:\\s+${AHEAD})?(?:\\s+for)?\\s+${NUMBER}${UNIT}`, ([, digits, unit]) => {
    const named = unit === undefined ? null : unitOf(unit, TIMES, "s");
    return named === null ? null : [`go for ${digits} ${named}`];
  }),
  rule(`(?:wait|sleep|pause|delay)(?:\\s+(?:for|until))?\\s+${NUMBER}${UNIT}`, ([, digits, unit]) => {
    const minutes = /^min(ute)?s?$/i.test(unit ?? "");
    if (minutes) return [`wait ${Number(digits) * 60} s`];
    const named = unitOf(unit, TIMES, "s");
    return named === null ? null : [`wait ${digits} ${named}`];
  }),
  rule(`(?:stop|halt|brake)\\s+(?:(?:at|when|within)\\s+)?${NUMBER}${UNIT}\\s+${WALL}`, untilNear),
  rule(`${DRIVE}\\s+(?:until|to)\\s+${NUMBER}${UNIT}\\s+${WALL}`, untilNear),
  rule(`(?:stop\\s+(?:at|before)|${DRIVE}\\s+(?:until|to))\\s+${WALL}`, (_, robot) => [
    `go until ${distanceReading(robot)} < 15 cm`,
  ]),
  rule(`(?:${DRIVE}|return|come)\\s+(?:back\\s+)?(?:home|to\\s+(?:the\\s+)?(?:begin|start|beginning))`, () => HOME),
  rule(
    `(?:${DRIVE})\\s+to\\s+(?:the\\s+)?(?:point\\s+|place\\s+)?\\(?\\s*${NUMBER}${UNIT}\\s*,\\s*${NUMBER}${UNIT}\\s*\\)?`,
    (words) => {
      const [x, y] = [unitOf(words[2], LENGTHS, "cm"), unitOf(words[4], LENGTHS, "cm")];
      return x === null || y === null ? null : [`go to ${words[1]} ${x}, ${words[3]} ${y}`];
    },
  ),
  rule("(?:lock|centre|center|straighten)\\s+(?:the\\s+)?(?:steering|axle|wheels)", () => ["steer 0 deg"], true),
  rule("(?:kill|cancel|end|abort)\\s+([a-zA-Z_]\\w*)\\s*(?:\\(\\s*\\))?", ([, name]) => [`stop ${name}`], true),
  rule("hold\\s+(?:the\\s+)?([a-zA-Z_]\\w*)", ([, name]) => [`move ${name} by 0 deg`]),
  rule(`(?:halt|brake|stop\\s+(?:driving|moving|motors?|the\\s+robot|robot))`, () => ["stop"]),
  rule(`(?:loop|repeat)\\s+forever`, () => ["repeat"]),
  rule(`loop\\s+(\\d+)(?:\\s+times)?`, ([, times]) => [`repeat ${times} times`]),
  rule(`repeat\\s+(\\d+)`, ([, times]) => [`repeat ${times} times`]),
  rule(`(?:follow\\s+(?:the\\s+)?line)`, (_, robot) => [
    `follow line on centre with ${robot?.sensors.find((sensor) => sensor.kind === "floor")?.name ?? "floor"}`,
  ]),
  rule(`(.*?)([\\w.]+)\\s+mod\\s+([\\w.]+)(.*)`, ([, before, one, other, after]) => [
    `${before}mod(${one}, ${other})${after}`,
  ]),
  rule("(?:repeat\\s+)?(?:while|as\\s+long\\s+as)\\s+(.+?):?", ([, condition]) => [`repeat while ${condition}`]),
  rule(
    `for\\s+([a-zA-Z_]\\w*)\\s+(?:in|=|from)\\s+(?:range\\s*\\()?\\s*1\\s*(?:to|,)\\s*(\\d+)\\s*\\)?:?`,
    ([, name, times]) => [`repeat ${times} times as ${name}`],
  ),
  rule("for\\s+(?:each\\s+)?([a-zA-Z_]\\w*)\\s+in\\s+([a-zA-Z_]\\w*):?", ([, name, list]) => [
    `repeat for each ${name} in ${list}`,
  ]),
  rule(`${DRIVE}\\s+while\\s+(.+)`, ([, condition]) => [`go until not (${condition})`]),
  rule("if\\s+(.+?)\\s+then\\s+(.+)", ([, condition, step], robot) => [
    `if ${condition}`,
    `  ${asStep(step ?? "", robot)}`,
  ]),
  rule("([a-zA-Z_]\\w*)\\.reset\\s*(?:\\(\\s*\\))?", ([, name]) => [`reset ${name}`]),
  rule(
    `(?:turn\\s+|rotate\\s+|set\\s+)?([a-zA-Z_]\\w*)(?:\\s*=\\s*|\\s+(?:to|by)\\s+)(-?\\s*\\d+(?:\\.\\d+)?)${UNIT}`,
    moved,
  ),
  // "arm to 30" is a motor's, if the robot has one of that name.
  rule(
    `(?:let\\s+|set\\s+|const\\s+|var\\s+)?([a-zA-Z_]\\w*)(\\s*:?=\\s*|\\s+to\\s+)(.+)`,
    ([, name, sign, value], robot) => (robot === null && !sign?.includes("=") ? null : [`set ${name} = ${value}`]),
  ),
  rule(`(?:print|say|display|log)\\s+(.+)`, ([, what]) => [`show ${what}`]),
  rule("(.+?),?\\s+(?:and|then|and then)\\s+stop", ([, step], robot) => [asStep(step ?? "", robot)]),
  rule(`(?:end|exit|quit|done)`, () => ["finish"]),
  // What belongs to the step itself stands before its tails.
  rule(
    "(\\S.*?)\\s+((?:at|ramp|then|for|until|limit|using|gain|damp|bridge)\\s.*?)\\s+((?:look|facing|turning|about|with|radius|toward|on)\\s.+)",
    ([, step, tails, own]) => [`${step} ${own} ${tails}`],
  ),
  rule("(.+?)(?:,|;|,?\\s+(?:and then|and|then))\\s+(.+)", ([, first, second], robot) => [
    asStep(first ?? "", robot),
    asStep(second ?? "", robot),
  ]),
];

/** The likeliest step for some words: they themselves when nothing else is meant. */
function asStep(words: string, robot: Robot | null): string {
  const [lines] = meanings(words, robot).map((meaning) => meaning.lines);
  return lines?.length === 1 ? (lines[0] as string) : words;
}

/** Units spelled out anywhere in a line, written as the language has them. */
function withPlainUnits(text: string): string {
  return text.replace(/(\d)\s*([a-zA-Z]+|°)/g, (whole, digit: string, word: string) => {
    const lower = word.toLowerCase();
    const plain = SPELLED[lower] ?? SPELLED[lower.replace(/s$/, "")] ?? (word === "°" ? "deg" : null);
    return plain === null ? whole : `${digit} ${plain}`;
  });
}

function otherMeanings(words: string, robot: Robot | null): Meaning[] {
  return meanings(words, robot).filter(({ lines }) => lines.length > 1 || lines[0] !== words);
}

interface Meaning {
  readonly lines: readonly string[];
  readonly sure: boolean;
}

function meanings(words: string, robot: Robot | null): Meaning[] {
  const found: Meaning[] = [];
  for (const { like, means, sure } of RULES) {
    const match = like.exec(words);
    const lines = match && means(match, robot);
    if (lines) found.push({ lines, sure });
  }
  const plain = withPlainUnits(words);
  if (plain !== words) found.push({ lines: [plain], sure: false });
  return found;
}

/** Longest line looked at, and most lines of one mission: more is not somebody's slip. */
const LONGEST = 120;
const MOST_LINES = 60;

/**
 * The problems of a mission, with those of a line that can be guessed replaced by one that offers what was meant.
 * @param isGood - whether such lines are steps without problems, where they would stand
 */
export function withMeanings(
  mission: Mission,
  problems: readonly Problem[],
  robot: Robot | null,
  isGood: (lines: readonly string[]) => boolean,
): readonly Problem[] {
  const inTrouble = new Map<number, Problem[]>();
  const lineOf = lineFinder(mission.lines);
  for (const problem of problems) {
    const line = problem.severity === "error" ? lineOf(problem.start) : -1;
    if (line >= 0) inTrouble.set(line, [...(inTrouble.get(line) ?? []), problem]);
  }
  const better = new Map<Problem, Problem | null>();
  let looked = 0;
  for (const [index, found] of inTrouble) {
    if (!found.some(isGuessed)) continue;
    if (looked >= MOST_LINES) break;
    looked += 1;
    const meant = meantProblem(mission, mission.lines[index] as Line, robot, isGood);
    if (meant) found.forEach((problem, i) => void better.set(problem, i === 0 ? meant : null));
  }
  if (better.size === 0) return problems;
  return problems.flatMap((problem) => {
    const instead = better.get(problem);
    return instead === undefined ? [problem] : instead === null ? [] : [instead];
  });
}

/** Problems that say little to somebody who wrote everyday words. */
const GUESSED: ReadonlySet<string> = new Set([
  "unknown-step",
  "expected",
  "left-over",
  "unknown-unit",
  "reserved-name",
  "stray-character",
]);
/** These too, where they come without a mend of their own. */
const UNMENDED: ReadonlySet<string> = new Set(["mixed-dimensions", "dimension", "unknown-name"]);

function isGuessed({ code, mend }: Problem): boolean {
  return GUESSED.has(code) || (mend === null && UNMENDED.has(code));
}

function lineFinder(lines: readonly Line[]): (offset: number) => number {
  return (offset) => {
    let low = 0;
    let high = lines.length - 1;
    while (low < high) {
      const middle = Math.floor((low + high + 1) / 2);
      if ((lines[middle] as Line).start <= offset) low = middle;
      else high = middle - 1;
    }
    return lines.length === 0 ? -1 : low;
  };
}

function meantProblem(
  mission: Mission,
  line: Line,
  robot: Robot | null,
  isGood: (lines: readonly string[]) => boolean,
): Problem | null {
  const first = line.tokens[0];
  const last = line.tokens.at(-1) as Token;
  if (!first || line.indent === 0) return null;
  const end = line.comment ? line.comment.start : line.end;
  const words = mission.text.slice(first.start, end).trim();
  if (words.length > LONGEST) return null;
  for (const { lines, sure } of otherMeanings(words, robot)) {
    if (!sure && !isGood(lines)) continue;
    const text = lines.join(`\n${" ".repeat(line.indent)}`);
    return meantLine({ start: first.start, end: Math.max(last.end, first.start + words.length) }, lines, text);
  }
  return null;
}
