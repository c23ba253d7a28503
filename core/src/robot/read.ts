// Reading a robot document: shape first, then what the shape cannot say.

import { RESERVED } from "../cairn/words.js";
import { type DocumentReading, parseVersioned } from "../documents/read.js";
import { isConvex } from "../geometry/polygon.js";
import { deriveMotor } from "../physics/motor.js";
import { type Robot, robotSchema } from "./schema.js";

/** Robot documents of older versions, each upgraded by one step. None yet: version 1 is the first. */
const UPGRADES = {};

/** @param value - parsed JSON of unknown shape */
export function readRobot(value: unknown): DocumentReading<Robot> {
  const read = parseVersioned(value, {
    format: "giddy-pebble/robot",
    newest: 1,
    upgrades: UPGRADES,
    schema: robotSchema,
  });
  if (!read.ok) return read;
  const problems = robotFaults(read.document);
  return problems.length > 0 ? { ok: false, problems } : read;
}

function robotFaults(robot: Robot): string[] {
  const faults: string[] = [];
  const names = [...robot.motors, ...robot.wheels, ...robot.sensors].map((part) => part.name);
  const twice = names.find((name, i) => names.indexOf(name) !== i);
  if (twice) faults.push(`two parts are called "${twice}": give one of them another name`);
  const reserved = names.find((name) => RESERVED.has(name));
  if (reserved)
    faults.push(`"${reserved}" is a word of the mission language and cannot be a part's name: choose another`);
  const motors = new Set(robot.motors.map((motor) => motor.name));
  for (const wheel of robot.wheels) {
    if (!motors.has(wheel.motor))
      faults.push(`wheel "${wheel.name}" is driven by "${wheel.motor}", which is not one of the motors`);
  }
  if (new Set(robot.wheels.map((wheel) => wheel.side)).size !== 2)
    faults.push("one driven wheel must be left and the other right");
  for (const wheel of robot.wheels) {
    if (wheel.side === "left" ? wheel.yM <= 0 : wheel.yM >= 0)
      faults.push(`wheel "${wheel.name}" is ${wheel.side} but drawn on the other side (y is positive to the left)`);
  }
  if (!isConvex(robot.chassis.outlineM))
    faults.push("chassis.outlineM has a dent: list the corners of its convex outline in order");
  const [comX] = robot.chassis.centreOfMassM;
  const axle = robot.wheels[0]?.xM ?? 0;
  if ((comX - axle) * (robot.support.xM - axle) < 0 || Math.abs(comX - axle) >= Math.abs(robot.support.xM - axle)) {
    faults.push("the centre of mass must lie between the axle and the caster, or the robot tips over");
  }
  for (const motor of robot.motors) {
    const derived = deriveMotor(motor);
    if (!derived.ok) faults.push(`motor "${motor.name}": ${derived.message}`);
  }
  return faults;
}
