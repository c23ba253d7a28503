// Every problem Cairn can report: one builder each, with a stable code, a sentence and a mend.

import { FUNCTIONS } from "../words/language.js";

type Severity = "error" | "warning";

export interface Mend {
  /** What the mend does, as a button would say it. */
  readonly label: string;
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

export interface Problem {
  readonly code: string;
  readonly severity: Severity;
  /** Offsets into the text; line and column are worked out from them. */
  readonly start: number;
  readonly end: number;
  readonly message: string;
  readonly mend: Mend | null;
}

export interface Span {
  readonly start: number;
  readonly end: number;
}

function error(code: string, at: Span, message: string, mend: Mend | null = null): Problem {
  return { code, severity: "error", start: at.start, end: at.end, message, mend };
}

function warning(code: string, at: Span, message: string, mend: Mend | null = null): Problem {
  return { code, severity: "warning", start: at.start, end: at.end, message, mend };
}

function replace(at: Span, text: string, label = `write ${text.trim()}`): Mend {
  return { label, start: at.start, end: at.end, text };
}

// The file as a whole
export const tooLarge = (bytes: number, most: number) =>
  error(
    "file-too-large",
    { start: 0, end: 0 },
    `This file has ${bytes} characters; a mission has at most ${most}. Open a .cairn file, or split the mission into routines.`,
  );
export const tooManyLines = (lines: number, most: number) =>
  error(
    "too-many-lines",
    { start: 0, end: 0 },
    `This mission has ${lines} lines; the most there can be is ${most}. Take out what is not used, or write steps that repeat as a routine.`,
  );
export const longLine = (at: Span, characters: number, most: number) =>
  error(
    "long-line",
    at,
    `This line has ${characters} characters; only the first ${most} are read. Write it as several lines, with values set on the way.`,
  );
export const callsTooDeep = (at: Span, name: string, most: number) =>
  error(
    "calls-too-deep",
    at,
    `From "${name}" on, routines call routines more than ${most} deep. Put some of them together.`,
  );
export const notText = (at: Span) => error("not-text", at, "This is not a text file. Open a .cairn file.");
export const notMission = (at: Span, what: string) =>
  error("not-mission", at, `This is ${what}, not a mission. Open a .cairn file.`);
export const noVersion = (at: Span) =>
  error("no-version", at, 'A mission starts with the line "cairn 1".', {
    label: 'add "cairn 1"',
    start: 0,
    end: 0,
    text: "cairn 1\n",
  });
export const unknownVersion = (at: Span, version: string) =>
  error(
    "unknown-version",
    at,
    `"cairn ${version}" is a version this program does not know; it knows cairn 1.`,
    replace(at, "1", "write cairn 1"),
  );
export const noMission = (end: number) =>
  error(
    "no-mission",
    { start: end, end },
    'There is no "mission" line, so nothing would run. Add "mission" and the steps below it, indented by two spaces.',
    {
      label: 'add "mission"',
      start: end,
      end,
      text: "\nmission\n  wait 1 s\n",
    },
  );
export const missionTwice = (at: Span) =>
  error("mission-twice", at, 'There can be only one "mission". Put these steps into the first, or into a routine.');
export const headerTwice = (at: Span, word: string) =>
  error("header-twice", at, `"${word}" is set twice. Delete one of the lines.`);
export const headerLate = (at: Span, word: string) =>
  error("header-late", at, `"${word}" belongs at the top, before values, routines and the mission.`);
export const topLevelStep = (at: Span, word: string) =>
  error("step-outside", at, `"${word}" is outside the mission. Indent it by two spaces below "mission" or a routine.`);
export const unknownTop = (at: Span, word: string, nearest: string | null) =>
  error(
    "unknown-top-word",
    at,
    nearest
      ? `"${word}" is not known here. Did you mean "${nearest}"?`
      : `"${word}" is not known here. A file holds headers, set, routine and mission.`,
    nearest ? replace(at, nearest) : null,
  );

// Layout
export const tabIndent = (at: Span, spaces: string) =>
  error(
    "tab",
    at,
    "A tab cannot indent a step: editors show it differently. Use two spaces for each level.",
    replace(at, spaces, "use spaces"),
  );
export const oddIndent = (at: Span, wanted: number) =>
  error(
    "odd-indent",
    at,
    `This line is indented by ${at.end - at.start} spaces. Each level takes two.`,
    replace(at, " ".repeat(wanted), `indent by ${wanted}`),
  );
export const unexpectedIndent = (at: Span, wanted: number) =>
  error(
    "unexpected-indent",
    at,
    "This line is indented further, but the line above takes no steps below it.",
    replace(at, " ".repeat(wanted), `indent by ${wanted}`),
  );
export const emptyBlock = (at: Span, word: string) =>
  error("empty-block", at, `"${word}" has no steps below it. Add a step indented by two more spaces.`);
export const tooDeep = (at: Span, most: number) =>
  error("too-deep", at, `Steps are nested more than ${most} deep. Move the inner ones into a routine.`);
export const partnerAlone = (at: Span, word: string, head: string) =>
  error("partner-alone", at, `"${word}" has no "${head}" above it at its place. Put it below one, or delete it.`);
export const partnerMissing = (at: Span, word: string, partner: string) =>
  error("partner-missing", at, `"${word}" needs "${partner}" below it, at the same indent, with steps of its own.`);
export const wantsArm = (at: Span, word: string) =>
  error(
    "wants-arm",
    at,
    `"${word}" cannot stand here. Inside choose each line begins with is, <, > or otherwise, and its steps stand below it.`,
  );

// Words and numbers
export const strayCharacter = (at: Span, character: string) =>
  error("stray-character", at, `"${character}" does not belong here.`, replace(at, "", "delete it"));
export const openText = (at: Span) =>
  error("open-text", at, 'This text has no closing ". Add one at its end.', {
    label: 'add "',
    start: at.end,
    end: at.end,
    text: '"',
  });
export const decimalComma = (at: Span, fixed: string) =>
  error("decimal-comma", at, `A decimal number is written with a point: ${fixed}.`, replace(at, fixed));
export const barePoint = (at: Span, fixed: string) =>
  error("bare-point", at, `A number starts with a digit: ${fixed}.`, replace(at, fixed));
export const hugeNumber = (at: Span, most: string) =>
  error("huge-number", at, `This number is too large to mean anything on a robot. The most there is here is ${most}.`);
export const unknownUnit = (at: Span, unit: string, nearest: string | null) =>
  error(
    "unknown-unit",
    at,
    nearest
      ? `"${unit}" is not a unit. Did you mean "${nearest}"?`
      : `"${unit}" is not a unit. Units are for example cm, deg, s, cm/s, %.`,
    nearest ? replace(at, nearest) : null,
  );
export const unknownStep = (at: Span, word: string, nearest: string | null) =>
  error(
    "unknown-step",
    at,
    nearest
      ? `"${word}" is not a step. Did you mean "${nearest}"?`
      : `"${word}" is not a step. Steps start with a word such as go, turn, wait or repeat.`,
    nearest ? replace(at, nearest) : null,
  );
export const notAmongSteps = (at: Span, word: string, form: string | null) =>
  error(
    "not-among-steps",
    at,
    `"${word}" is not a step: it stands above, before "mission", at the left edge.${form ? ` Like this: ${form}.` : ""}`,
  );
export const meantLine = (at: Span, lines: readonly string[], text: string) =>
  error(
    "meant",
    at,
    lines.length === 1
      ? `In a mission this is written "${lines[0]}".`
      : `In a mission this takes ${lines.length} steps: ${lines.map((line) => `"${line}"`).join(", then ")}.`,
    { label: `write ${lines.length === 1 ? lines[0] : "them"}`, start: at.start, end: at.end, text },
  );
export const expected = (at: Span, what: string, mend: string | null = null) =>
  error(
    "expected",
    at,
    `Here ${what} is missing.`,
    mend === null ? null : { label: `add ${mend.trim()}`, start: at.start, end: at.start, text: mend },
  );
export const leftOver = (at: Span, text: string) =>
  error("left-over", at, `"${text}" is more than this step can take. Delete it, or start a new line.`);
export const tailTwice = (at: Span, word: string) =>
  error("tail-twice", at, `"${word}" stands twice in this step. Keep one.`);
export const mixedLogic = (at: Span) =>
  error("mixed-logic", at, '"and" and "or" side by side can be read two ways. Put brackets around one pair.');
export const chainedComparison = (at: Span) =>
  error(
    "chained-comparison",
    at,
    'Comparisons cannot be chained. Write two, joined by "and", or use: is 10 cm to 20 cm.',
  );
export const reservedName = (at: Span, name: string) =>
  error(
    "reserved-name",
    at,
    `"${name}" is a word of the language and cannot be a name. Choose another, for example my_${name}.`,
    replace(at, `my_${name}`),
  );
export const wholeSize = (at: Span, most: number) =>
  error("whole-size", at, `How many values there are at most is a whole number from 1 to ${most}.`);
export const emptyPath = (at: Span) =>
  error("empty-path", at, "This path has no places. Write one on each line below it: how far ahead, and how far left.");
export const longPath = (at: Span, most: number) =>
  error("long-path", at, `A path has at most ${most} places. Write the rest as another path.`);
export const misreadName = (at: Span, name: string) =>
  error(
    "misread-name",
    at,
    `"${name}" is read as a word of the language here. Put brackets around it, or give the value another name, for example my_${name}.`,
    replace(at, `(${name})`),
  );
export const sameName = (at: Span, name: string, what: string) =>
  error("same-name", at, `"${name}" is already the name of ${what}. Choose another name.`);

// Driving by hand
export const notRemote = (at: Span, word: string, nearest: string | null) =>
  error(
    "not-remote",
    at,
    nearest
      ? `"${word}" does not begin a line of remote. Did you mean "${nearest}"?`
      : `"${word}" does not begin a line of remote. Lines begin with drive, hold, toggle, tap or with.`,
    nearest ? replace(at, nearest) : null,
  );
export const remoteTwice = (at: Span) =>
  error("remote-twice", at, 'There can be only one "remote". Put these lines into the first.');
export const driveTwice = (at: Span) =>
  error("drive-twice", at, 'The sticks are already given out by the "drive" line above. Keep one.');
export const unknownControl = (at: Span, name: string, nearest: string | null, what: "button" | "slider") =>
  error(
    "unknown-control",
    at,
    `There is no ${what} "${name}".${nearest ? ` Did you mean "${nearest}"?` : what === "button" ? " Buttons are for example thumb.lower, shoulder.left, trigger.right, cross.up." : " There are slider.one, slider.two, trigger.left, trigger.right."}`,
    nearest ? replace(at, nearest) : null,
  );
export const boundTwice = (at: Span, name: string) =>
  error(
    "bound-twice",
    at,
    `"${name}" is already bound above. One button does one thing: take another, or delete a line.`,
  );
export const noRelease = (at: Span, how: string, word: string) =>
  error(
    "no-release",
    at,
    `This does not say what ${how === "hold" ? "letting go" : "pressing again"} does. Add ${word} stop, or ${word} and a step.`,
    { label: `add ${word} stop`, start: at.end, end: at.end, text: ` ${word} stop` },
  );
export const keepsMotor = (at: Span, part: string, word: string) =>
  error(
    "keeps-motor",
    at,
    `${part} would go on with nobody holding it. Write ${word} stop, or ${word} and another step for it.`,
    replace(at, "stop"),
  );
export const notForButton = (at: Span, step: string) =>
  error(
    "not-for-button",
    at,
    `A button cannot do "${step}" by itself. Put it into a routine, and bind the routine's name with ().`,
  );
export const bothButtons = (at: Span, one: string, other: string, part: string) =>
  warning("both-buttons", at, `${one} and ${other} both move ${part}. The one pressed last has it.`);
/** @param end - of the text */
export const needsRemote = (at: Span, end: number) =>
  error("needs-remote", at, "Nobody could drive: there is no remote block. Add one below the mission.", {
    label: "add a remote block",
    start: end,
    end,
    text: "\nremote\n  drive one stick\n",
  });
export const neverHandsOver = (at: Span) =>
  warning(
    "never-hands-over",
    at,
    "No step hands over, so the sticks never move the robot. Add hand over to the mission.",
  );
export const noTank = (at: Span, robot: string) =>
  error("no-tank", at, `${robot} has a steered axle, not two sides of its own. Use one stick or two sticks.`);
export const outOfStickRange = (at: Span, word: string, least: string, most: string) =>
  error("stick-range", at, `"${word}" lies between ${least} and ${most}.`);
export const onOffDriver = (at: Span, robot: string) =>
  warning(
    "on-off-driver",
    at,
    `${robot}'s motor driver is only on or off, so half a push cannot be half a speed. Add switching 40 %: the push from which a side is on.`,
    { label: "add switching 40 %", start: at.end, end: at.end, text: " switching 40 %" },
  );

// Meaning
export const wantsDimension = (at: Span, step: string, wanted: string, got: string, mend: string | null) =>
  error(
    "dimension",
    at,
    `"${step}" needs ${wanted}, but ${got}.${mend ? ` Write ${mend}.` : ""}`,
    mend ? replace(at, mend) : null,
  );
export const mixedDimensions = (at: Span, left: string, right: string, doing: string) =>
  error("mixed-dimensions", at, `${left} and ${right} cannot be ${doing}. Give both sides the same kind of unit.`);
export const needsUnit = (at: Span, digits: string, kind: string, unit: string) =>
  error(
    "needs-unit",
    at,
    `The other side is ${kind}, and ${digits} has no unit. Write ${digits} ${unit}.`,
    replace(at, `${digits} ${unit}`),
  );
export const otherWord = (at: Span, written: string, word: string) =>
  error("other-word", at, `"${written}" is written "${word}" here.`, replace(at, word));
export const noPart = (at: Span, part: string, nearest: string | null, instead: string) =>
  error(
    "no-part",
    at,
    `The robot has no part "${part}".${nearest ? ` Did you mean "${nearest}"?` : instead === "" ? "" : ` ${instead}`}`,
    nearest ? replace(at, nearest) : null,
  );
export const lockedAxle = (at: Span, robot: string) =>
  error(
    "locked-axle",
    at,
    `The steering of ${robot} is locked straight, so it drives no curve. Unlock it in the Robot workplace, or drive straight.`,
  );
export const mixedAngles = (at: Span) =>
  error(
    "mixed-angles",
    at,
    "This mixes the angle of a motor's shaft with an angle of the robot; they are different things. Use one kind on both sides.",
  );
export const whichSide = (at: Span, amount: string) =>
  error("which-side", at, `Left or right? Write left ${amount} or right ${amount}.`, replace(at, `left ${amount}`));
export const overHundred = (at: Span, written: string, fixed: string | null) =>
  error(
    "over-hundred-percent",
    at,
    `${written} is more than all there is.${fixed ? ` Did you mean ${fixed}?` : " A share is at most 100 %."}`,
    fixed ? replace(at, fixed) : null,
  );
export const negativeSpeed = (at: Span, fixed: string | null) =>
  error(
    "negative-speed",
    at,
    "A speed here cannot be negative. Use back, or right instead of left, to go the other way.",
    fixed ? replace(at, fixed) : null,
  );
export const notPositive = (at: Span, what: string) => error("not-positive", at, `${what} must be more than 0.`);
export const needsEnd = (at: Span, step: string, example: string) =>
  error("needs-end", at, `"${step}" does not say when to end. Give an amount, or add for or until: ${example}.`);
export const unknownName = (at: Span, name: string, nearest: string | null) =>
  error(
    "unknown-name",
    at,
    nearest
      ? `"${name}" is not known. Did you mean "${nearest}"?`
      : `"${name}" is not known. Set it first: set ${name} = …`,
    nearest ? replace(at, nearest) : null,
  );
export const unknownReading = (at: Span, part: string, word: string, known: readonly string[]) =>
  error(
    "unknown-reading",
    at,
    known.length === 0
      ? `${part} has nothing that could be read. Use a time instead: for 1 s.`
      : `${part} has no reading "${word}". It has ${known.map((name) => `${part}.${name}`).join(", ")}.`,
    known[0] ? replace(at, `${part}.${nearestOf(word, known)}`) : null,
  );
export const needsReadingWord = (at: Span, part: string, known: readonly string[]) =>
  error(
    "needs-reading",
    at,
    known.length === 0
      ? `"${part}" is a part without readings.`
      : `"${part}" is a part; say which reading of it: ${known.map((name) => `${part}.${name}`).join(", ")}.`,
    known[0] === undefined ? null : replace(at, `${part}.${known[0]}`),
  );
export const noCollection = (at: Span, name: string, known: readonly string[], nearest: string | null) =>
  error(
    "unknown-collection",
    at,
    `There is no collection "${name}".${known.length > 0 ? ` There is ${listOf(known)}.` : " Write one as a collection of its own first."}`,
    nearest ? replace(at, `"${nearest}"`) : null,
  );
/** @param line - of the collection's text; null where it depends on the robot */
export const faultyCollection = (at: Span, name: string, line: number | null, message: string) =>
  error(
    "faulty-collection",
    at,
    `${line === null ? `"${name}" does not fit here` : `Line ${line} of "${name}" is wrong`}: ${message}`,
  );
export const alsoIn = (at: Span, name: string, collection: string) =>
  error("also-in-collection", at, `"${name}" is also a name of "${collection}". Give one of them another name.`);
export const oddDocument = (at: Span, message: string) => warning("odd-document", at, message);
export const wiredWrongly = (at: Span, robot: string, message: string, more: number) =>
  warning(
    "wiring",
    at,
    `The wiring of ${robot} has ${more === 0 ? "an error" : `${more + 1} errors`}: ${message} Fix it in the Robot workplace.`,
  );
export const unusedCollection = (at: Span, name: string) =>
  warning("unused-collection", at, `Nothing of "${name}" is used.`);
export const otherKind = (at: Span, wanted: string, got: string) =>
  error("other-kind", at, `Here ${wanted} is wanted, but this is ${got}.`);
export const outsideList = (at: Span, name: string, most: number) =>
  error("outside-list", at, `Values of "${name}" are numbered from 1 to ${most}, the most it holds.`);
export const wholePower = (at: Span, most: number) =>
  error("whole-power", at, `A power is a whole number from -${most} to ${most}, such as 2.`);
export const unknownList = (at: Span, name: string, nearest: string | null) =>
  error(
    "unknown-list",
    at,
    nearest
      ? `There is no list "${name}". Did you mean "${nearest}"?`
      : `There is no list "${name}". Declare one above the mission: list ${name === "" ? "looks" : name} of length, at most 10.`,
    nearest ? replace(at, nearest) : null,
  );
export const tableKeeps = (at: Span, name: string) =>
  error(
    "table-keeps",
    at,
    `"${name}" is a table: give each value its key. Write set ${name}[red] = 3, with a key of its kind.`,
  );
export const unknownPath = (at: Span, name: string, nearest: string | null) =>
  error(
    "unknown-path",
    at,
    nearest
      ? `There is no path "${name}". Did you mean "${nearest}"?`
      : `There is no path "${name}". Declare one above the mission: path ${name === "" ? "round" : name}, with a place on each line below it.`,
    nearest ? replace(at, nearest) : null,
  );
export const loopValue = (at: Span, name: string) =>
  error("loop-value", at, `"${name}" is given by its loop and cannot be set. Set another value.`);
export const counterTwice = (at: Span, name: string) =>
  error("counter-twice", at, `The loop around this one counts in "${name}" too. Take another name.`);
export const neverChanged = (at: Span, name: string) =>
  warning("never-changed", at, `"${name}" is remembered but never set in the mission, so it stays as it is written.`);
export const carFacing = (at: Span) =>
  error(
    "car-facing",
    at,
    "A car type cannot turn where it stands. Leave facing out, or drive along a path that ends that way.",
  );
export const unknownFunction = (at: Span, name: string, nearest: string | null) =>
  error(
    "unknown-function",
    at,
    nearest
      ? `"${name}" is not a function. Did you mean "${nearest}"?`
      : `"${name}" is not a function. Functions are ${FUNCTIONS.join(", ")}.`,
    nearest ? replace(at, nearest) : null,
  );
export const argumentCount = (at: Span, name: string, wanted: string, got: number) =>
  error("argument-count", at, `${name} takes ${wanted}, not ${got}.`);
export const unknownRoutine = (at: Span, name: string, nearest: string | null) =>
  error(
    "unknown-routine",
    at,
    nearest
      ? `There is no routine "${name}". Did you mean "${nearest}"?`
      : `There is no routine "${name}". Write one above the mission: routine ${name}()`,
    nearest ? replace(at, nearest) : null,
  );
export const recursion = (at: Span, names: readonly string[]) =>
  error("recursion", at, `A routine cannot call itself: ${names.join(" calls ")}. Use repeat.`);
export const setBeforeUse = (at: Span, name: string) =>
  error("used-before-set", at, `"${name}" is used before it is set. Set it above.`);
export const shadowing = (at: Span, name: string) =>
  error("shadowing", at, `"${name}" is already a value of the mission. Give the routine's own another name.`);
export const kindChanged = (at: Span, name: string, was: string, is: string) =>
  error("kind-changed", at, `"${name}" began as ${was} and cannot become ${is}. Use another name.`);
export const topSetReads = (at: Span) =>
  error(
    "top-set-reads",
    at,
    "A value set here is fixed before the robot starts, so it cannot read a sensor. Set it inside the mission.",
  );
export const notCondition = (at: Span, got: string) =>
  error("not-a-condition", at, `A condition is wanted here, such as robot.travel > 30 cm, but this is ${got}.`);
export const conditionAsValue = (at: Span) =>
  error("condition-as-value", at, "A plain value is wanted here, not a condition.");
export const goalOnly = (at: Span, word: string) => error("goal-only", at, `"${word}" can be used in goal only.`);
export const wallOnly = (at: Span) =>
  error("wall-only", at, '"wall ends" can be asked only in until of a step that follows a wall.');
export const oneSpot = (at: Span) =>
  error(
    "one-spot",
    at,
    "One spot cannot see a line across. Follow the centre with a pair or a row, or delete at crossings.",
  );
export const fastLine = (at: Span, fastest: string, curve: string) =>
  warning(
    "fast-line",
    at,
    `With this sensor a line that bends by ${curve} can be held up to about ${fastest}. Faster it is lost there, and searched. The robot slows down in curves by itself.`,
    replace(at, fastest),
  );
export const sensorTooFarBack = (at: Span, name: string) =>
  warning(
    "sensor-behind",
    at,
    `${name} sits less than 2 cm ahead of the wheels' axle, so turning hardly moves it across the line. Put it further ahead in the Robot workplace.`,
  );
export const nothingAhead = (at: Span) =>
  warning(
    "nothing-ahead",
    at,
    "No distance sensor or bumper looks ahead, so the robot goes round outer corners only. It would drive into an inner corner.",
  );
export const unknownMotor = (at: Span, name: string, nearest: string | null, what = "motor") =>
  error(
    "unknown-motor",
    at,
    nearest ? `The robot has no ${what} "${name}". Did you mean "${nearest}"?` : `The robot has no ${what} "${name}".`,
    nearest ? replace(at, nearest) : null,
  );
export const driveMotor = (at: Span, name: string) =>
  error("drive-motor", at, `"${name}" turns a driven wheel. Use power left … right … for the wheels.`);
export const cannotSteer = (at: Span, robot: string) =>
  error("cannot-steer", at, `${robot} has no steered axle. Use arc, roll or turn.`);
export const cannotSlide = (at: Span, robot: string) =>
  error("cannot-slide", at, `${robot} cannot slide: only roller wheels move sideways. Use turn and go.`);
export const cannotFollow = (at: Span, name: string, edge: boolean, likely: string | null) =>
  error(
    "cannot-follow",
    at,
    edge
      ? `"${name}" is not one floor spot, and an edge is followed by one.${likely ? ` Write ${likely}.` : ""}`
      : `"${name}" is not a pair or row of light sensors, and a centre is followed by one.${likely ? ` Write ${likely}.` : " Follow an edge instead."}`,
    likely ? replace(at, likely) : null,
  );
export const cannotMove = (at: Span, name: string, kind: "motor" | "positional" | "continuous", toAngle: boolean) =>
  error(
    "cannot-move",
    at,
    kind === "motor"
      ? `"${name}" has no encoder, so it does not know its angle. Use power ${name} 30 % for 0.5 s, or fit an encoder.`
      : kind === "positional"
        ? `"${name}" is a servo that runs to an angle. Write move ${name} to 90 deg.`
        : toAngle
          ? `"${name}" is a servo that turns on and on and does not know its angle. Use power ${name} 50 % for 1 s.`
          : `"${name}" is a servo that turns at a share of its speed. Use power ${name} 50 %.`,
  );
export const cannotHome = (at: Span, name: string) =>
  error("cannot-home", at, `"${name}" is not a motor with an encoder, so it cannot find its end stop.`);
export const notAHead = (at: Span, name: string, withEye: boolean, known: readonly string[]) =>
  error(
    "not-a-head",
    at,
    `"${name}" is not a servo${withEye ? " that carries a distance sensor" : " that runs to an angle"}.${known.length > 0 ? ` There is ${known.join(", ")}.` : ""}`,
    known[0] ? replace(at, known[0]) : null,
  );
export const pastStop = (at: Span, name: string, low: string, high: string) =>
  warning("past-stop", at, `${name} moves from ${low} to ${high}; this is beyond, and it would stall at its stop.`);
export const cannotReset = (at: Span, name: string, known: readonly string[]) =>
  error("cannot-reset", at, `"${name}" has nothing to reset. These have: ${known.join(", ")}.`);
export const wholeLooks = (at: Span) => error("whole-looks", at, "A scan takes 2 to 60 looks, a whole number.");
export const everyPeriod = (at: Span, nearest: string) =>
  error("every-period", at, `A period is a multiple of 10 ms. Write ${nearest}.`, replace(at, nearest));
export const everySlow = (at: Span) =>
  error(
    "every-slow",
    at,
    "This takes time, and the steps inside every must take none. Let the loop decide each time, or move it out.",
  );
export const slowCall = (at: Span, name: string) =>
  error(
    "slow-call",
    at,
    `"${name}" takes time, so it cannot stand inside a value. Write set answer = ${name}(…) on a line of its own.`,
  );
export const givesNothing = (at: Span, name: string) =>
  error("gives-nothing", at, `"${name}" gives no value back. Add give and a value to it, or call it as a step.`);
export const noLoop = (at: Span, word: string) =>
  error(
    "no-loop",
    at,
    `"${word}" has nothing to leave here: it belongs inside repeat or every${word === "leave" ? ", or during" : ""}, and cannot leave a branch of together.`,
  );
export const noHandler = (at: Span, word: string) => error("no-handler", at, `"${word}" belongs inside whenever.`);
export const giveOutside = (at: Span) =>
  error("give-outside", at, '"give" belongs inside a routine, and cannot give across a branch of together.');
export const bothMove = (at: Span, what: string) =>
  error("both-move", at, `Two branches of together both want ${what}. Let one of them have it.`);
export const neverSent = (at: Span, name: string) =>
  warning("never-sent", at, `Nothing sends "${name}", so this never comes true.`);
export const neverHeard = (at: Span, name: string) => warning("never-heard", at, `Nobody listens for "${name}".`);
export const outsideRange = (at: Span, what: string, low: string, high: string) =>
  warning("outside-range", at, `${what} reads from ${low} to ${high}, so this is always or never true.`);
export const wholeTimes = (at: Span) => error("whole-times", at, "A number of times is a whole number, 0 or more.");
/** Names told in one sentence; more than this are counted. */
const MOST_TOLD = 8;
function listOf(names: readonly string[]): string {
  const told = names.slice(0, MOST_TOLD).map((name) => `"${name}"`);
  const more = names.length - told.length;
  return told.join(", ") + (more > 0 ? ` and ${more} more` : "");
}
export const faultyDocument = (at: Span, kind: "robot" | "field", name: string) =>
  error(
    "faulty-document",
    at,
    `The ${kind} "${name}" has faults and cannot be rehearsed. ${kind === "robot" ? "Fix it in the Robot workplace." : "Choose another one."}`,
  );
export const unknownDocument = (
  at: Span,
  kind: "robot" | "field" | "zone" | "thing" | "start place",
  name: string,
  known: readonly string[],
) => {
  const nearest = nearestOf(name, known);
  return error(
    kind === "start place" ? "unknown-begin" : `unknown-${kind}`,
    at,
    `There is no ${kind} called "${name}".${known.length > 0 ? ` There is ${listOf(known)}.` : ""}`,
    nearest ? replace(at, `"${nearest}"`) : null,
  );
};
export const noRobot = (at: Span, stand: string) =>
  warning(
    "no-robot",
    at,
    `The mission does not say which robot it is for, so ${stand} drives it. Name one in a line such as: robot "${stand}".`,
    {
      label: `add robot "${stand}"`,
      start: at.end,
      end: at.end,
      text: `\nrobot "${stand}"`,
    },
  );
export const noRobotAtAll = (at: Span) =>
  error("no-robot-document", at, "There is no robot to drive this mission. Describe one first.");
export const needsEncoders = (at: Span, step: string) =>
  error(
    "needs-calibration",
    at,
    `This robot has no wheel encoders, so "${step}" runs by time, and its speed at power is not known. Calibrate "speed at power" first.`,
  );
export const needsOdometry = (at: Span, step: string) =>
  error(
    "needs-odometry",
    at,
    step === "slide"
      ? "This robot has no encoders on all its wheels, so nothing tells how far it slides. Fit encoders."
      : `This robot has no wheel encoders, so it does not know where it is, and "${step}" cannot find a place. Fit encoders, or drive by lengths and times.`,
  );
export const tailNotHere = (at: Span, tail: string, step: string) =>
  error("tail-not-here", at, `"${tail}" means nothing in "${step}". Delete it.`);

// Warnings
export const unusedValue = (at: Span, name: string) => warning("unused-value", at, `"${name}" is set but never used.`);
export const afterFinish = (at: Span) => warning("after-finish", at, "This step stands after finish and never runs.");
export const keepThenWait = (at: Span) =>
  warning("keep-then-wait", at, "The step before ends with then keep, so the robot drives on while it waits.");
export const isOnMeasured = (at: Span) =>
  warning(
    "is-on-measured",
    at,
    "A measured value is hardly ever exactly equal. Give a range, such as: is 29 cm to 31 cm.",
  );
export const tooFast = (at: Span, top: string) =>
  warning("too-fast", at, `This robot reaches about ${top}; it will be slower than asked.`);
export const idleLoop = (at: Span) => warning("idle-loop", at, "This loop neither drives nor waits.");

function nearestOf(word: string, known: readonly string[]): string | null {
  const lower = word.toLowerCase();
  return (
    known.find((name) => name.toLowerCase() === lower) ??
    known.find((name) => name.toLowerCase().startsWith(lower.slice(0, 2))) ??
    known[0] ??
    null
  );
}

/** Line and column (both from 1) of offsets in one text; each is found in the logarithm of its lines. */
export class LineIndex {
  private readonly starts: number[] = [0];

  constructor(text: string) {
    for (let at = text.indexOf("\n"); at !== -1; at = text.indexOf("\n", at + 1)) this.starts.push(at + 1);
  }

  at(offset: number): { line: number; column: number } {
    let low = 0;
    let high = this.starts.length - 1;
    while (low < high) {
      const middle = Math.floor((low + high + 1) / 2);
      if ((this.starts[middle] as number) <= offset) low = middle;
      else high = middle - 1;
    }
    return { line: low + 1, column: offset - (this.starts[low] as number) + 1 };
  }
}
export const cannotTurn = (at: Span, radius: string) =>
  error(
    "cannot-turn",
    at,
    `A car type cannot turn on the spot. Drive a curve instead: arc left 90 deg radius ${radius}.`,
  );
export const tightCircle = (at: Span, robot: string, least: string) =>
  error(
    "tight-circle",
    at,
    `${robot} cannot drive a circle that small; its smallest has a radius of ${least}.`,
    replace(at, least),
  );
export const oneMotor = (at: Span, word: string) =>
  error(
    "one-motor",
    at,
    word === "wheels"
      ? "A car type has one motor for both sides. Write roll 20 cm/s turning left 30 deg/s."
      : "A car type has one motor for both sides. Write power both 40 %.",
  );
