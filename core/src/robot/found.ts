// What only measuring tells of a robot, as control, missions and rehearsals use it: the found value where there is
// one, else what the drawing lets expect.

import { driveKind } from "../drives/kinds.js";
import { gearTrain } from "../drives/train.js";
import { PI } from "../math/trig.js";
import { GRAVITY } from "../physics/constants.js";
import { deriveMotor } from "../physics/motor.js";
import { foundValue } from "../units/known.js";
import type { SideInForce } from "./inForce.js";
import type { Attachment, Robot } from "./schema.js";

/** Gain of a heading hold of one's own until one was found: 1.5 % of power for each degree. */
const USUAL_HOLD_PER_RAD = (0.015 * 180) / PI;

export function holdGainPerRad({ drive }: Robot): number {
  return foundValue(drive.holdGainPerRad) ?? USUAL_HOLD_PER_RAD;
}

/** How far past the asked angle turns by the gyro end, rad. */
export function turnPastRad({ drive }: Robot): number {
  return foundValue(drive.turnPastRad) ?? 0;
}

/** How far it rolls on from a speed when told to stop: lead · v + v² / (2 a), m. */
export function stopDistanceM(speedMS: number, afterSec: number, withMS2: number): number {
  return Math.abs(speedMS) * afterSec + (speedMS * speedMS) / (2 * withMS2);
}

/** End stops of an attachment, at its own shaft: the lower as drawn, the upper as far off as its travel was found. */
export function endStopsRad({ lowRad, highRad, travelRad }: Attachment): readonly [low: number, high: number] {
  const travel = foundValue(travelRad);
  return [lowRad, travel === null ? highRad : lowRad + travel];
}

/** Weight on the driven wheels, N: the lever rule between driven axle and what carries the rest. Without a rest it is all. */
export function driveWeightN(robot: Robot, axleX: number): number {
  const whole = robot.chassis.massKg * GRAVITY;
  const other = driveKind(robot.drive).restAtM(robot);
  if (other === undefined || other === axleX) return whole;
  return whole * (1 - (robot.chassis.centreOfMassM[0] - axleX) / (other - axleX));
}

/** What each motor of the drive has to push against rolling resistance and its part of the support, N. */
export function rollingN(robot: Robot, { wheel }: SideInForce): number {
  const weightN = driveWeightN(robot, wheel.xM);
  const restN = robot.chassis.massKg * GRAVITY - weightN;
  const kind = driveKind(robot.drive);
  return (wheel.rollingResistance * weightN + kind.restDrag(robot, wheel) * restN) / kind.motors;
}

/**
 * Friction torque of a side's motor: as its sheet says, or what is left of the torque that set the wheel going, once
 * rolling is taken off.
 * @throws RangeError for a motor whose data contradict one another
 */
export function frictionTorqueNm(robot: Robot, side: SideInForce): number {
  const { wheel, motor } = side;
  const volts = foundValue(motor.pullAwayVolts);
  if (volts === null) return motor.coulombTorqueNm;
  const derived = deriveMotor(motor);
  if (!derived.ok) throw new RangeError(`motor "${motor.name}": ${derived.message}`);
  const { resistanceOhm, torqueConstant } = derived.constants;
  const train = gearTrain(robot, wheel);
  const lever = side.rollPerTurnM.value / (2 * PI);
  const rolling =
    (rollingN(robot, side) * lever) / (motor.gearboxRatio * train.ratio * motor.gearboxEfficiency * train.efficiency);
  return Math.max(0, (volts * torqueConstant * side.strength.value) / resistanceOhm - rolling);
}
