// What only measuring tells of a robot, as control, missions and rehearsals use it: the found value where there is
// one, else what the drawing lets expect.
import { COLOUR_NAMES, type ColourReference, labOf } from "../field/colours.js";
import { PI } from "../math/trig.js";
import { GRAVITY } from "../physics/constants.js";
import { deriveMotor } from "../physics/motor.js";
import { gearTrain } from "./drivetrain.js";
import type { SideInForce } from "./inForce.js";
import type { Known } from "./known.js";
import type { Attachment, Robot, SensorOf } from "./schema.js";

/** Value of a known that no drawing gives; null while nobody measured or typed it. */
export function foundValue(known: Known | null): number | null {
  return known === null || known.source === "drawing" ? null : known.value;
}

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

export function nearLimitM(eye: SensorOf<"eye">): number {
  return foundValue(eye.nearLimitM) ?? eye.nearM;
}

/** Obliqueness beyond which smooth faces are silent, rad. */
export function silentRad(eye: SensorOf<"eye">): number {
  return foundValue(eye.silentRad) ?? eye.slantRad;
}

/** What a tag reader names by: the light of its plates as it was measured; null for the printed colours. */
export function tagReferences({ references }: SensorOf<"tag">): ColourReference[] | null {
  const list = COLOUR_NAMES.flatMap((name, index): ColourReference[] => {
    const light = references[name];
    return light ? [{ index, lab: labOf([light.red.value, light.green.value, light.blue.value]) }] : [];
  });
  return list.length === 0 ? null : list;
}

/** Weight on the driven wheels, N: lever rule between driven axle and support or steered axle; all of it on four. */
export function driveWeightN(robot: Robot, axleX: number): number {
  const whole = robot.chassis.massKg * GRAVITY;
  if (robot.drive.kind === "four-wheel") return whole;
  const other = robot.drive.kind === "car" ? robot.wheels.find((wheel) => wheel.steered)?.xM : robot.support?.xM;
  if (other === undefined || other === axleX) return whole;
  return whole * (1 - (robot.chassis.centreOfMassM[0] - axleX) / (other - axleX));
}

/** What a side has to push against rolling resistance and its part of the support, N. */
export function rollingN(robot: Robot, { wheel }: SideInForce): number {
  const weightN = driveWeightN(robot, wheel.xM);
  const restN = robot.chassis.massKg * GRAVITY - weightN;
  const otherN = robot.drive.kind === "car" ? wheel.rollingResistance * restN : (robot.support?.friction ?? 0) * restN;
  // The one motor of a car carries both sides.
  return (wheel.rollingResistance * weightN + otherN) / (robot.drive.kind === "car" ? 1 : 2);
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
