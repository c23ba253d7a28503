// pins.h for an ATmega328P: which line of the chip is which, dealt out by what each line can do.
import { readingsOf } from "../cairn/readings.js";
import type { Program } from "../program/instructions.js";
import type { BoardRobot } from "./boardRobot.js";
import { sensorsUsed, slotsRead } from "./uses.js";
import { boardLines, type DealtPins, steeringServo } from "./wiring.js";
import { commentWords } from "./words.js";

/** Lines that a timer can pulse; lines that measure a voltage; the two of the bus; all others. */
const PULSED = ["D5", "D6", "B3", "D3"];
const ANALOG = ["C0", "C1", "C2", "C3"];
const BUS = ["C4", "C5"];
const PLAIN = ["D2", "D4", "D7", "B0", "B1", "B2", "B4", "B5"];
const NO_PIN = "NO_PIN";

interface AvrPins {
  readonly text: string;
  /** Each part with its lines, in words. */
  readonly wires: readonly string[];
  readonly pins: DealtPins;
  /** What does not fit the chip's lines, in words. */
  readonly problems: readonly string[];
}

/** Names of motors, servos and attachments that steps name or sensors turn on. */
function partsUsed(program: Program, board: BoardRobot): Set<string> {
  const named = new Set<string>();
  const slots = slotsRead(program, board);
  for (const instruction of program.instructions) {
    if ("part" in instruction) named.add(instruction.part);
    if ("motor" in instruction) named.add(instruction.motor);
    if ("head" in instruction) named.add(instruction.head);
  }
  for (const { part } of program.remote?.dials ?? []) named.add(part);
  // What is only read has to be wired too: `arm.angle` needs the arm's encoder.
  for (const [name, { slot, ofTask }] of readingsOf(board.robot)) {
    const [part = ""] = name.split(".");
    if (!ofTask && slots.has(slot)) named.add(part);
  }
  const used = sensorsUsed(program, board);
  board.robot.sensors.forEach((sensor, i) => {
    if (used[i] && sensor.kind === "eye" && sensor.head) named.add(sensor.head);
  });
  return named;
}

/** Which parts get lines. */
interface Wanted {
  readonly motor: (i: number) => boolean;
  readonly servo: (i: number) => boolean;
  readonly sensor: (i: number) => boolean;
}

function deal(board: BoardRobot, wanted: Wanted): { readonly pins: DealtPins; readonly problems: string[] } {
  const { robot, sensors } = board;
  const lines = sensors.map((_, i) => (wanted.sensor(i) ? boardLines(robot, i) : []));
  const lit = (i: number) => lines[i]?.some(({ is }) => is === "light") ?? false;
  const needsBus = board.known.gyro !== null || sensors.some((_, i) => lit(i));
  const free = { pulsed: [...PULSED], analog: [...ANALOG], plain: [...PLAIN] };
  if (!needsBus) free.analog.push(...BUS);
  const missing = { pulsed: 0, analog: 0, plain: 0 };
  const take = (kind: keyof typeof free): string | null => {
    // What only needs to be high or low may hang on any line.
    const from = kind === "plain" ? [free.plain, free.analog, free.pulsed] : [free[kind]];
    const found = from.find((list) => list.length > 0)?.shift();
    if (found === undefined) missing[kind] += 1;
    return found ?? null;
  };
  // What needs a special line first.
  const onOff = robot.board.driver === "on-off";
  const pulses = robot.motors.map((_, i) => (wanted.motor(i) ? take(onOff ? "plain" : "pulsed") : null));
  const levels = lines.map((of) => of.filter(({ is }) => is === "level").flatMap(() => take("analog") ?? []));
  const ways = robot.motors.map((_, i) => (wanted.motor(i) ? take("plain") : null));
  const encoders = robot.motors.map(({ encoder }, i) => {
    const [a, b] = wanted.motor(i) && encoder ? [take("plain"), take("plain")] : [null, null];
    return a && b ? ([a, b] as const) : null;
  });
  const servos = robot.servos.map((_, i) => (wanted.servo(i) ? take("plain") : null));
  const digital = lines.map((of) => {
    const count = of[0]?.is === "input" ? 1 : of[0]?.is === "echo" ? 2 : 0;
    return Array.from({ length: count }, () => take("plain")).flatMap((pin) => pin ?? []);
  });
  const battery = free.analog.shift() ?? null;
  const problems: string[] = [];
  if (missing.pulsed > 0)
    problems.push(
      `The chip can pulse ${PULSED.length} motors. This mission uses ${PULSED.length + missing.pulsed} motors. Use fewer.`,
    );
  if (missing.analog > 0)
    problems.push(
      `The chip has too few lines that measure a voltage. Missing lines: ${missing.analog}. Use fewer sensors.`,
    );
  if (missing.plain > 0)
    problems.push(
      `The chip has too few lines for this mission. Missing lines: ${missing.plain}. Use fewer sensors or motors.`,
    );
  const pins: DealtPins = {
    motors: robot.motors.map((_, i) => ({
      pulse: pulses[i] ?? null,
      way: ways[i] ?? null,
      encoder: encoders[i] ?? null,
    })),
    servos,
    sensors: robot.sensors.map((sensor, i) => ({
      digital: digital[i] ?? [],
      levels: levels[i] ?? [],
      bus: lit(i) || (sensor.kind === "gyro" && board.known.gyro !== null),
    })),
    battery,
  };
  return { pins, problems };
}

/**
 * Lines for all of the robot where it has enough, so that it stays wired from mission to mission; otherwise for what this
 * one uses. What a mission does not use is left out of its pins.h either way.
 */
export function avrPins(program: Program, board: BoardRobot): AvrPins {
  const { robot, sensors, parts, drives } = board;
  const used = sensorsUsed(program, board);
  const named = partsUsed(program, board);
  const moved = parts.filter(({ name }) => named.has(name));
  const wanted: Wanted = {
    motor: (i) => drives[i] === true || moved.some(({ motor }) => motor === i),
    servo: (i) => i === steeringServo(robot).index || moved.some(({ servo }) => servo === i),
    sensor: (i) => used[i] === true,
  };
  const whole = deal(board, { motor: () => true, servo: () => true, sensor: () => true });
  const { pins, problems } = whole.problems.length === 0 ? whole : deal(board, wanted);
  const told = (is: boolean, pin: string | null | undefined) => (is && pin ? pin : NO_PIN);
  const pulses = pins.motors.map(({ pulse }, i) => told(wanted.motor(i), pulse));
  const ways = pins.motors.map(({ way }, i) => told(wanted.motor(i), way));
  const encoders = pins.motors.map(
    ({ encoder }, i) => [0, 1].map((k) => told(wanted.motor(i), encoder?.[k])) as [string, string],
  );
  const servos = pins.servos.map((pin, i) => told(wanted.servo(i), pin));
  const digital = pins.sensors.map((of, i) => of.digital.map((pin) => told(wanted.sensor(i), pin)));
  const analog = pins.sensors.map(({ levels }, i) => (wanted.sensor(i) ? levels : []));
  const battery = pins.battery ?? NO_PIN;
  const needsBus = board.known.gyro !== null || pins.sensors.some(({ bus }, i) => bus && wanted.sensor(i));
  const wires = (part: string) => {
    const to = robot.wiring.filter((wire) => wire.part === part).map((wire) => `${wire.terminal} on ${wire.to}`);
    return commentWords([part, ...to].join(", "));
  };
  const list = (type: string, name: string, values: readonly string[], none: string) =>
    `constexpr ${type} ${name}[] FLASH = {${(values.length > 0 ? values : [none]).join(", ")}};`;
  const spots = Math.max(1, ...analog.map(({ length }) => length));
  const pad = (of: readonly string[]) => `{${Array.from({ length: spots }, (_, i) => of[i] ?? NO_PIN).join(", ")}}`;
  const is = (pin: string) => pin !== NO_PIN;
  const eyes = digital.some(([, echo = NO_PIN]) => is(echo));
  const listens = eyes || encoders.some(([a]) => is(a));
  const text = `// Which line of the ATmega328P is which: port and number. What this mission does not use has none.
#pragma once
#include "pebble.h"

// What the chip has to do beside the mission.
#define PINS_LISTEN ${listens ? 1 : 0}  // to encoders and echoes
#define PINS_EYES ${eyes ? 1 : 0}
#define PINS_SERVOS ${servos.some(is) ? 1 : 0}

namespace pins {
constexpr uint8_t B0 = 0, B1 = 1, B2 = 2, B3 = 3, B4 = 4, B5 = 5;
constexpr uint8_t C0 = 8, C1 = 9, C2 = 10, C3 = 11, C4 = 12, C5 = 13;
constexpr uint8_t D2 = 18, D3 = 19, D4 = 20, D5 = 21, D6 = 22, D7 = 23;
constexpr uint8_t NO_PIN = 255;

// Motors, each behind a bridge with two lines: one is pulsed, the other says which way.
${robot.motors.map(({ name }, i) => `//   ${i}: ${wires(name)}`).join("\n")}
${list("uint8_t", "MOTOR_PULSE", pulses, NO_PIN)}
${list("uint8_t", "MOTOR_WAY", ways, NO_PIN)}
// Encoders with two channels.
${list(
  "uint8_t",
  "ENCODER_A",
  encoders.map(([a]) => a),
  NO_PIN,
)}
${list(
  "uint8_t",
  "ENCODER_B",
  encoders.map(([, b]) => b),
  NO_PIN,
)}
// Servos.
${robot.servos.map(({ name }, i) => `//   ${i}: ${wires(name)}\n`).join("")}${list("uint8_t", "SERVO", servos, NO_PIN)}
// Sensors: a switch has one line, a distance sensor trigger and echo; analogue lines stand beside.
${sensors.map(({ name }, i) => `//   ${i}: ${wires(name)}`).join("\n")}
${list(
  "uint8_t",
  "SENSOR",
  digital.map(([a = NO_PIN]) => a),
  NO_PIN,
)}
${list(
  "uint8_t",
  "SENSOR_ECHO",
  digital.map(([, b = NO_PIN]) => b),
  NO_PIN,
)}
${list(
  "bool",
  "SENSOR_PULL_UP",
  robot.sensors.map((sensor) => String("pullUp" in sensor && sensor.pullUp === true)),
  "false",
)}
constexpr uint8_t SENSOR_LEVEL[][${spots}] FLASH = {${(analog.length > 0 ? analog : [[]]).map(pad).join(", ")}};
// Data on C4 and clock on C5, where there is a gyro or a colour sensor.
constexpr bool BUS = ${needsBus};
// The pack behind a divider of four to one.
constexpr uint8_t BATTERY = ${battery};
constexpr float BATTERY_FULL_VOLTS = 20;
}  // namespace pins
`;
  const wired: string[] = [];
  const hang = (part: string, words: readonly (readonly [string, string | null | undefined])[]) => {
    const on = words.filter(([, pin]) => pin).map(([word, pin]) => `${word} on ${pin}`);
    if (on.length > 0) wired.push(commentWords(`${part}: ${on.join(", ")}`));
  };
  robot.motors.forEach(({ name }, i) => {
    const { pulse, way, encoder } = pins.motors[i] as DealtPins["motors"][number];
    hang(name, [
      ["pulses", pulse],
      ["way", way],
      ["encoder", encoder?.[0]],
      ["its second channel", encoder?.[1]],
    ]);
  });
  robot.servos.forEach(({ name }, i) => {
    hang(name, [["pulses", pins.servos[i]]]);
  });
  sensors.forEach(({ name }, i) => {
    const { digital: on, levels, bus } = pins.sensors[i] as DealtPins["sensors"][number];
    const voltages = levels.map((pin) => ["voltage", pin] as const);
    hang(name, [[on.length < 2 ? "line" : "trigger", on[0]], ["echo", on[1]], ...voltages]);
    if (bus)
      hang(name, [
        ["data", BUS[0]],
        ["clock", BUS[1]],
      ]);
  });
  hang("battery by a divider of four to one", [["voltage", pins.battery]]);
  return { text, wires: wired, problems, pins };
}
