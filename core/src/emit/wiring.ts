// Which lines a robot's sensors have on a board, and what each terminal is wired to: for the board's part of an export.
import { driveKind } from "../drives/kinds.js";
import type { Robot } from "../robot/schema.js";
import { sensorKind } from "../sensors/kinds/all.js";
import type { BoardRobot } from "./boardRobot.js";
import { commentWords, decimal } from "./words.js";

/** What a sensor's numbers are read from, one entry a number. */
type BoardLine =
  /** A digital line. */
  | { readonly is: "input" }
  /** An analogue line, times its range. */
  | { readonly is: "level"; readonly line: number; readonly range: number }
  | { readonly is: "echo" }
  /** Whether there was an echo. */
  | { readonly is: "heard" }
  /** How old the newest echo is. */
  | { readonly is: "age" }
  | { readonly is: "light"; readonly part: number }
  /** Nothing on boards tells it. */
  | { readonly is: "fixed"; readonly value: number };

/** A board's lines of each part, by their names: "D5"; null where a part has none. */
export interface DealtPins {
  readonly motors: readonly {
    readonly pulse: string | null;
    readonly way: string | null;
    readonly encoder: readonly [string, string] | null;
  }[];
  readonly servos: readonly (string | null)[];
  /** Of each sensor: its digital lines (of a distance sensor trigger and echo), and those that measure a voltage. */
  readonly sensors: readonly {
    readonly digital: readonly string[];
    readonly levels: readonly string[];
    readonly bus: boolean;
  }[];
  readonly battery: string | null;
}

export function boardLines(robot: Robot, index: number): BoardLine[] {
  const sensor = robot.sensors[index];
  switch (sensor?.kind) {
    case "bumper":
    case "button":
    case "near":
      return [{ is: "input" }];
    case "potentiometer":
      return [{ is: "level", line: 0, range: sensor.travelRad }];
    case "force":
      return [{ is: "level", line: 0, range: sensor.rangeN }];
    case "tilt":
      return [
        { is: "level", line: 0, range: sensor.rangeRad },
        { is: "level", line: 1, range: sensor.rangeRad },
      ];
    case "eye":
      return [{ is: "echo" }, { is: "heard" }, { is: "age" }];
    case "floor": {
      const spots = sensorKind(sensor).slots(sensor) / 2;
      return [
        ...Array.from({ length: spots }, (_, line): BoardLine => ({ is: "level", line, range: 1 })),
        ...Array.from({ length: spots }, (): BoardLine => ({ is: "fixed", value: 0 })),
      ];
    }
    case "tag":
      return [
        { is: "light", part: 0 },
        { is: "light", part: 1 },
        { is: "light", part: 2 },
        { is: "fixed", value: 1 },
      ];
    default:
      return [];
  }
}

/** Each part with the terminals it hangs on, in words: "left_motor: plug on 1". */
export function wiringWords(robot: Robot): string[] {
  const parts = new Map<string, string[]>();
  for (const { part, terminal, to } of robot.wiring) {
    const words = parts.get(part) ?? [];
    words.push(`${terminal} on ${to}`);
    parts.set(part, words);
  }
  return [...parts].map(([part, words]) => commentWords(`${part}: ${words.join(", ")}`));
}

/** The servo that steers a car, by its place among the servos; 255 without one. */
export function steeringServo(robot: Robot): { readonly index: number; readonly centreRad: number } {
  const { drive } = robot;
  if (!driveKind(drive).steers || !("steering" in drive)) return { index: 255, centreRad: 0 };
  const index = robot.servos.findIndex(({ name }) => name === drive.steering.servo);
  return { index: index < 0 ? 255 : index, centreRad: drive.steering.centreRad.value };
}

/** One number of a sensor by the contract; empty where another line brings it. */
function cppLine(line: BoardLine, sensor: number, at: number): string {
  const place = `senses.values[${at}]`;
  switch (line.is) {
    case "input":
      return `  ${place} = halInput(${sensor}) ? 1 : 0;`;
    case "level":
      return `  ${place} = halLevel(${sensor}, ${line.line})${line.range === 1 ? "" : ` * real(${decimal(line.range)})`};`;
    case "echo":
      return `  ${place} = halEcho(${sensor});`;
    case "heard":
      return `  ${place} = isnan(senses.values[${at - 1}]) ? 0 : 1;`;
    case "age":
      return `  ${place} = halEchoAge(${sensor});`;
    case "light":
      return line.part === 0 ? `  halColour(${sensor}, &${place});` : "";
    case "fixed":
      return `  ${place} = ${decimal(line.value)};`;
  }
}

/** wiring.cpp: reads the robot's sensors by the contract's functions. */
export function cppWiring({ robot, sensors }: BoardRobot): string {
  const reads = sensors.flatMap(({ name, from }, i) => {
    const lines = boardLines(robot, i);
    if (lines.length === 0) return [];
    const made = lines.map((line, k) => cppLine(line, i, from + k)).filter((line) => line !== "");
    const body = [...made, `  senses.told[${i}] = true;`].map((line) => `  ${line}`);
    return [`  // ${commentWords(name)}`, `  if (uses::SENSOR[${i}]) {`, ...body, "  }"];
  });
  const words = wiringWords(robot);
  return `// How ${commentWords(robot.name)} is wired, and how its sensors are read. Numbers are places in the robot's document.
${words.map((line) => `//   ${line}`).join("\n")}
#include "contract.h"

using namespace pebble;

void readSensors() {
${reads.join("\n")}
}
`;
}

/** Lines of a sensor that have a pin of their own. */
const PINS_OF: Readonly<Record<string, number>> = { input: 1, echo: 2 };

/** How many pins a sensor's lines need; on the bus it needs none of its own. */
function pinCount(lines: readonly BoardLine[]): number {
  const [first] = lines;
  if (!first || first.is === "light") return 0;
  return PINS_OF[first.is] ?? lines.filter(({ is }) => is === "level").length;
}

/** The table of robot.py that says what each number of each sensor is read from. */
export function pythonLines({ robot, sensors }: BoardRobot): string[] {
  return sensors.flatMap(({ from }, i) =>
    boardLines(robot, i).map((line, k) => {
      const part = line.is === "light" ? line.part : line.is === "level" ? line.line : 0;
      // A ping is waited for there: every echo is new.
      const is = line.is === "age" ? "fixed" : line.is;
      const scale = line.is === "age" ? 0 : line.is === "level" ? line.range : line.is === "fixed" ? line.value : 1;
      return `    (${from + k}, ${i}, "${is}", ${part}, ${decimal(scale)}),`;
    }),
  );
}

/** pins.py: the pin of each line, to be filled in for a board. Counted up from 2 where nothing is known. */
export function pythonPins({ robot, sensors, known }: BoardRobot): { readonly text: string; readonly pins: DealtPins } {
  let next = 2;
  const take = (count: number) => Array.from({ length: count }, () => next++);
  const tuple = (pins: readonly number[]) => `(${pins.map((pin) => `${pin},`).join(" ")})`;
  const terminals = (part: string) =>
    robot.wiring.filter((wire) => wire.part === part).map(({ terminal, to }) => `${terminal} on ${to}`);
  const comment = (part: string) => commentWords([part, ...terminals(part)].join(", "));
  const lined = sensors.map((_, i) => take(pinCount(boardLines(robot, i))));
  const rows = sensors.map(({ name }, i) => {
    const sensor = robot.sensors[i];
    const pullUp = sensor && "pullUp" in sensor && sensor.pullUp ? "True" : "False";
    return { pins: `    ${tuple(lined[i] as number[])},  # ${comment(name)}`, pullUp };
  });
  const motorPins = robot.motors.map(() => take(2));
  const encoderPins = robot.motors.map(({ encoder }) => take(encoder ? 2 : 0));
  const servoPins = robot.servos.map(() => take(1));
  const motors = robot.motors.map(({ name }, i) => `    ${tuple(motorPins[i] as number[])},  # ${comment(name)}`);
  const encoders = robot.motors.map(
    ({ name }, i) => `    ${tuple(encoderPins[i] as number[])},  # ${commentWords(name)}`,
  );
  const servos = robot.servos.map(({ name }, i) => `    ${servoPins[i]?.[0]},  # ${comment(name)}`);
  const needsBus = known.gyro !== null || robot.sensors.some(({ kind }) => kind === "tag");
  const bus = needsBus ? `(${next++}, ${next++})` : "None";
  const pins: DealtPins = {
    motors: robot.motors.map((_, i) => {
      const [pulse, way] = (motorPins[i] as number[]).map(String);
      const [a, b] = (encoderPins[i] as number[]).map(String);
      return { pulse: pulse ?? null, way: way ?? null, encoder: a && b ? [a, b] : null };
    }),
    servos: servoPins.map(([pin]) => (pin === undefined ? null : String(pin))),
    sensors: sensors.map((_, i) => {
      const lines = boardLines(robot, i);
      const own = (lined[i] as number[]).map(String);
      const digital = lines[0]?.is === "input" || lines[0]?.is === "echo";
      const onBus = lines.some(({ is }) => is === "light") || robot.sensors[i]?.kind === "gyro";
      return { digital: digital ? own : [], levels: digital ? [] : own, bus: onBus };
    }),
    battery: null,
  };
  const text = pythonPinsText(motors, encoders, servos, rows, bus);
  return { text, pins };
}

function pythonPinsText(
  motors: readonly string[],
  encoders: readonly string[],
  servos: readonly string[],
  rows: readonly { readonly pins: string; readonly pullUp: string }[],
  bus: string,
): string {
  return `# Which pin of the board is which. Change the numbers to those of your board.
# Motors: two pins that are pulsed, or two for the direction and a third that is pulsed.
MOTORS = (
${motors.join("\n")}
)
# Encoders: two channels, or one.
ENCODERS = (
${encoders.join("\n")}
)
SERVOS = (
${servos.join("\n")}
)
# Sensors: a switch has one line, a distance sensor trigger and echo, floor light a line for each spot.
SENSORS = (
${rows.map(({ pins }) => pins).join("\n")}
)
# Switches that pull their line to ground need a pull-up.
PULL_UP = (${rows.map(({ pullUp }) => `${pullUp},`).join(" ")})
# Data and clock of the two-wire bus.
BUS = ${bus}
# The line behind the pack's divider, and the volts at which it is full; None without one.
BATTERY = None
BATTERY_FULL_VOLTS = ${decimal(3.3 * 4)}
`;
}
