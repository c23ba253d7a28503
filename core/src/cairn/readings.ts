// What a mission can read: every reading's name, its place in the frozen snapshot of a tick, its kind.

import { driveKind } from "../drives/kinds.js";
import type { Attachment, Robot } from "../robot/schema.js";
import { type Sensor, sensorKind } from "../sensors/kinds/all.js";
import type { ReadingRow } from "../sensors/kinds/kind.js";
import {
  ANGLE,
  CURRENT,
  FORCE,
  LENGTH,
  NUMBER,
  overDimension,
  SPEED,
  TIME,
  TURN_RATE,
  VOLTAGE,
} from "../units/dimension.js";
import { COLOUR, type Kind, quantityKind, TRUTH } from "./kinds.js";

export interface Reading {
  /** Index into the snapshot; readings of `last` belong to the task and have their own array. */
  readonly slot: number;
  readonly ofTask: boolean;
  readonly kind: Kind;
  /** The snapshot holds how often it happened; the condition asks whether it did since it was begun. */
  readonly counts?: boolean;
}

export const SLOT = {
  clock: 0,
  travel: 1,
  heading: 2,
  x: 3,
  y: 4,
  stalled: 5,
  voltage: 6,
  gyroHeading: 7,
  gyroRate: 8,
  holdGain: 9,
  stopDistance: 10,
  speed: 11,
  current: 12,
  aside: 13,
  motors: 14,
} as const;
/** Of a motor: angle, speed, stalled, heat. */
export const MOTOR_SLOTS = 4;
export const LAST = { limited: 0, stalled: 1, travel: 2, turned: 3, time: 4, lost: 5, ended: 6 } as const;
export const LAST_COUNT = 7;

const robotAngle = quantityKind(ANGLE, "robot");
const robotRate = quantityKind(TURN_RATE, "robot");
const shaftAngle = quantityKind(ANGLE, "shaft");
const shaftRate = quantityKind(TURN_RATE, "shaft");
const length = quantityKind(LENGTH);
const share = quantityKind(NUMBER);

function snapshot(slot: number, kind: Kind): Reading {
  return { slot, ofTask: false, kind };
}

function ofTask(slot: number, kind: Kind): Reading {
  return { slot, ofTask: true, kind };
}

const ALWAYS: readonly (readonly [string, Reading])[] = [
  ["clock", snapshot(SLOT.clock, quantityKind(TIME))],
  ["robot.travel", snapshot(SLOT.travel, length)],
  ["robot.heading", snapshot(SLOT.heading, robotAngle)],
  ["robot.x", snapshot(SLOT.x, length)],
  ["robot.y", snapshot(SLOT.y, length)],
  ["robot.speed", snapshot(SLOT.speed, quantityKind(SPEED))],
  ["robot.stalled", snapshot(SLOT.stalled, TRUTH)],
  ["robot.hold_gain", snapshot(SLOT.holdGain, quantityKind(overDimension(NUMBER, ANGLE)))],
  ["robot.stop_distance", snapshot(SLOT.stopDistance, length)],
  ["battery.voltage", snapshot(SLOT.voltage, quantityKind(VOLTAGE))],
  ["battery.current", snapshot(SLOT.current, quantityKind(CURRENT))],
  ["last.limited", ofTask(LAST.limited, TRUTH)],
  ["last.stalled", ofTask(LAST.stalled, TRUTH)],
  ["last.lost", ofTask(LAST.lost, TRUTH)],
  ["last.ended", ofTask(LAST.ended, TRUTH)],
  ["last.travel", ofTask(LAST.travel, length)],
  ["last.turned", ofTask(LAST.turned, robotAngle)],
  ["last.time", ofTask(LAST.time, quantityKind(TIME))],
];

/** What a sensor's reading is, by the word its kind has for it. */
const READING_KINDS: Readonly<Record<ReadingRow[1], Kind>> = {
  truth: TRUTH,
  taps: TRUTH,
  colour: COLOUR,
  share,
  length,
  force: quantityKind(FORCE),
  angle: quantityKind(ANGLE),
  "shaft angle": shaftAngle,
};

/** Where each part's slots begin, and how many there are in all. */
export interface ReadingLayout {
  readonly servos: number;
  /** First slot of each sensor, in the robot's order. */
  readonly sensors: readonly number[];
  /** First of the two slots of each servo's scan: nearest, clearest. */
  readonly scans: number;
  /** First of the two slots of each attachment: angle, holding. */
  readonly attachments: number;
  readonly count: number;
}

export function readingLayout(robot: Robot): ReadingLayout {
  const servos = SLOT.motors + robot.motors.length * MOTOR_SLOTS;
  let at = servos + robot.servos.length;
  const sensors = robot.sensors.map((sensor) => {
    const base = at;
    at += sensorKind(sensor).readings(sensor).length;
    return base;
  });
  const attachments = at + 2 * robot.servos.length;
  return { servos, sensors, scans: at, attachments, count: attachments + 2 * robot.attachments.length };
}

/** Whether anything tells at which angle an attachment stands: a servo, an encoder, or a potentiometer on it. */
export function anglesKnown(robot: Robot, part: Attachment): boolean {
  if (part.drivenBy === null) return false;
  return (
    robot.servos.some(({ name, kind }) => name === part.drivenBy && kind === "positional") ||
    robot.motors.some(({ name, encoder }) => name === part.drivenBy && encoder !== null) ||
    potentiometerOn(robot, part.name) !== null
  );
}

/** The potentiometer that turns with a part: with an attachment, or with the motor or servo that moves it. */
export function potentiometerOn(robot: Robot, name: string): Extract<Sensor, { kind: "potentiometer" }> | null {
  const found = robot.sensors.find((sensor) => sensor.kind === "potentiometer" && sensor.on === name);
  return found?.kind === "potentiometer" ? found : null;
}

const known = new WeakMap<Robot, ReadonlyMap<string, Reading>>();

/** Every reading of a robot by its full name, such as `gyro.heading`. Made once for a document: those never change. */
export function readingsOf(robot: Robot): ReadonlyMap<string, Reading> {
  let readings = known.get(robot);
  if (!readings) {
    readings = allReadings(robot);
    known.set(robot, readings);
  }
  return readings;
}

function allReadings(robot: Robot): ReadonlyMap<string, Reading> {
  const readings = new Map(ALWAYS);
  if (driveKind(robot.drive).slides) readings.set("robot.aside", snapshot(SLOT.aside, length));
  const layout = readingLayout(robot);
  robot.motors.forEach((motor, i) => {
    const base = SLOT.motors + i * MOTOR_SLOTS;
    readings.set(`${motor.name}.heat`, snapshot(base + 3, share));
    // Without an encoder nothing tells how a shaft turns.
    if (!motor.encoder) return;
    readings.set(`${motor.name}.angle`, snapshot(base, shaftAngle));
    readings.set(`${motor.name}.speed`, snapshot(base + 1, shaftRate));
    readings.set(`${motor.name}.stalled`, snapshot(base + 2, TRUTH));
  });
  robot.servos.forEach((servo, i) => {
    if (servo.kind !== "positional") return;
    readings.set(`${servo.name}.angle`, snapshot(layout.servos + i, shaftAngle));
    if (!robot.sensors.some((sensor) => sensor.kind === "eye" && sensor.head === servo.name)) return;
    // Directions as the robot sees them: a turn by one faces what was found.
    readings.set(`${servo.name}.nearest`, snapshot(layout.scans + 2 * i, robotAngle));
    readings.set(`${servo.name}.clearest`, snapshot(layout.scans + 2 * i + 1, robotAngle));
  });
  robot.attachments.forEach((part, i) => {
    const base = layout.attachments + 2 * i;
    if (!readings.has(`${part.name}.angle`) && anglesKnown(robot, part))
      readings.set(`${part.name}.angle`, snapshot(base, shaftAngle));
    if (part.kind === "gripper" || part.kind === "fork")
      readings.set(`${part.name}.holding`, snapshot(base + 1, TRUTH));
  });
  robot.sensors.forEach((sensor, i) => {
    if (sensor.kind === "gyro") {
      readings.set(`${sensor.name}.heading`, snapshot(SLOT.gyroHeading, robotAngle));
      readings.set(`${sensor.name}.rate`, snapshot(SLOT.gyroRate, robotRate));
      return;
    }
    const base = layout.sensors[i] as number;
    sensorKind(sensor)
      .readings(sensor)
      .forEach(([words, is], k) => {
        if (words === "") return;
        const reading = snapshot(base + k, READING_KINDS[is]);
        readings.set(
          `${sensor.name}${words.startsWith("[") ? "" : "."}${words}`,
          is === "taps" ? { ...reading, counts: true } : reading,
        );
      });
  });
  return readings;
}
