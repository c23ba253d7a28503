// What a mission can read: every reading's name, its place in the frozen snapshot of a tick, its kind.

import type { Robot } from "../robot/schema.js";
import { ANGLE, LENGTH, TIME, TURN_RATE, VOLTAGE } from "../units/dimension.js";
import { type Kind, quantityKind, TRUTH } from "./kinds.js";

export interface Reading {
  /** Index into the snapshot; readings of `last` belong to the task and have their own array. */
  readonly slot: number;
  readonly ofTask: boolean;
  readonly kind: Kind;
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
  motors: 9,
} as const;
export const MOTOR_SLOTS = 3;
export const LAST = { limited: 0, stalled: 1, travel: 2, turned: 3, time: 4 } as const;

const robotAngle = quantityKind(ANGLE, "robot");
const robotRate = quantityKind(TURN_RATE, "robot");
const shaftAngle = quantityKind(ANGLE, "shaft");
const shaftRate = quantityKind(TURN_RATE, "shaft");
const length = quantityKind(LENGTH);

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
  ["robot.stalled", snapshot(SLOT.stalled, TRUTH)],
  ["battery.voltage", snapshot(SLOT.voltage, quantityKind(VOLTAGE))],
  ["last.limited", ofTask(LAST.limited, TRUTH)],
  ["last.stalled", ofTask(LAST.stalled, TRUTH)],
  ["last.travel", ofTask(LAST.travel, length)],
  ["last.turned", ofTask(LAST.turned, robotAngle)],
  ["last.time", ofTask(LAST.time, quantityKind(TIME))],
];

/** Sensors of a robot that this version cannot read yet: part name to what it is. */
export function laterParts(robot: Robot): Map<string, string> {
  const words: Record<string, string> = {
    bumper: "switch",
    eye: "range eye",
    near: "near sensor",
    floor: "floor sensor",
    tag: "tag reader",
    potentiometer: "potentiometer",
    button: "button",
  };
  return new Map(
    robot.sensors
      .filter((sensor) => sensor.kind !== "gyro")
      .map((sensor) => [sensor.name, words[sensor.kind] ?? sensor.kind]),
  );
}

/** Every reading of a robot by its full name, such as `gyro.heading`. */
export function readingsOf(robot: Robot): Map<string, Reading> {
  const readings = new Map(ALWAYS);
  for (const sensor of robot.sensors) {
    if (sensor.kind !== "gyro") continue;
    readings.set(`${sensor.name}.heading`, snapshot(SLOT.gyroHeading, robotAngle));
    readings.set(`${sensor.name}.rate`, snapshot(SLOT.gyroRate, robotRate));
  }
  robot.motors.forEach((motor, i) => {
    // Without an encoder nothing tells how a shaft turns.
    if (!motor.encoder) return;
    const base = SLOT.motors + i * MOTOR_SLOTS;
    readings.set(`${motor.name}.angle`, snapshot(base, shaftAngle));
    readings.set(`${motor.name}.speed`, snapshot(base + 1, shaftRate));
    readings.set(`${motor.name}.stalled`, snapshot(base + 2, TRUTH));
  });
  return readings;
}

export function slotCount(robot: Robot): number {
  return SLOT.motors + robot.motors.length * MOTOR_SLOTS;
}
