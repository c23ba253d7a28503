// What the robot's own drive can do, from the values in force: used to plan speeds and to turn a wanted
// wheel speed into a duty. This is the robot's belief about itself; rehearsals deviate from it.

import { driveKind } from "../drives/kinds.js";
import type { Mixing } from "../drives/mixing.js";
import { gearTrain } from "../drives/train.js";
import { gyrationM2 } from "../geometry/polygon.js";
import { PI, tan } from "../math/trig.js";
import { GRAVITY } from "../physics/constants.js";
import { deriveMotor } from "../physics/motor.js";
import { driveWeightN, frictionTorqueNm, holdGainPerRad, rollingN, turnPastRad } from "../robot/found.js";
import { type RobotInForce, robotInForce, type SideInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import { foundValue } from "../units/known.js";

export interface SideModel {
  readonly radiusM: number;
  /** Volts at the motor for each m/s of wheel speed. */
  readonly voltsPerSpeed: number;
  /** Volts for each newton of push at the wheel. */
  readonly voltsPerNewton: number;
  /** Push the side needs just to keep rolling, N: motor friction, rolling, its part of the caster. */
  readonly frictionN: number;
  /** Metres for one count of the encoder; null without one. */
  readonly metresPerCount: number | null;
}

export interface SteeringModel {
  readonly wheelbaseM: number;
  readonly mostRad: number;
  /** Angle to command for driving straight. */
  readonly centreRad: number;
  readonly leastRadiusM: number;
}

/** A drive whose shafts move it together in every direction. */
export interface MixingModel extends Mixing {
  readonly massKg: number;
  /** About the middle of its wheels. */
  readonly inertiaKgM2: number;
  /** What each shaft's spinning parts count as at its rim, kg. */
  readonly spinningKg: readonly number[];
  /** Fastest each rim runs, m/s. */
  readonly rimMS: readonly number[];
  /** Fastest and usual speed sideways, m/s. */
  readonly topAsideMS: number;
  readonly cruiseAsideMS: number;
}

export interface DriveModel {
  readonly left: SideModel;
  readonly right: SideModel;
  /** Left, right, and those of drives with more shafts. */
  readonly shafts: readonly SideModel[];
  readonly trackWidthM: number;
  /** Of a car type; null for robots that steer by their sides' speeds. */
  readonly steering: SteeringModel | null;
  /** Of drives with rollers; null for others. */
  readonly mixing: MixingModel | null;
  /** Push each side needs to scrub its wheels round on the spot, N. */
  readonly scrubN: number;
  /** Mass each side accelerates, spinning parts included, kg. */
  readonly sideMassKg: number;
  /** The same for turning: what each side has to push per m/s² of opposite acceleration, kg. */
  readonly sideTurnMassKg: number;
  readonly nominalVolts: number;
  /** Share of the pack's voltage that the motor driver passes on. */
  readonly driverShare: number;
  /** Volts that the motor driver keeps. */
  readonly dropVolts: number;
  readonly topSpeedMS: number;
  readonly topTurnRadS: number;
  readonly cruiseMS: number;
  readonly turnRadS: number;
  /** Turns by the gyro aim this far short, rad. */
  readonly turnPastRad: number;
  /** Gain of a heading hold of one's own: duty for each rad. */
  readonly holdGainPerRad: number;
  /** How it stops when told to: with this deceleration, after this time. */
  readonly stopsWithMS2: number;
  readonly stopsAfterSec: number;
  readonly rampMS2: number;
  readonly turnRampRadS2: number;
  /** Duty at which a side standing still pushes with 60 % of what its grip holds, 0..1. */
  readonly pressDuty: number;
  readonly hasEncoders: boolean;
  /** Robots without encoders: speed = speed per volt · (volts − dead volts), after a dead time; null if unknown. */
  readonly timed: { readonly speedPerVolt: number; readonly deadTimeSec: number; readonly deadVolts: number } | null;
  /** Their turns on the spot at volts that were tried; null where none were. */
  readonly timedTurn: { readonly volts: number; readonly rateRadS: number; readonly deadTimeSec: number } | null;
}

function sideModel(robot: Robot, side: SideInForce): SideModel {
  const { wheel, motor } = side;
  const derived = deriveMotor(motor);
  if (!derived.ok) throw new RangeError(`motor "${motor.name}": ${derived.message}`);
  const { resistanceOhm, torqueConstant, backVoltage } = derived.constants;
  const train = gearTrain(robot, wheel);
  const gear = motor.gearboxRatio * train.ratio;
  const efficiency = motor.gearboxEfficiency * train.efficiency;
  const radiusM = side.rollPerTurnM.value / (2 * PI);
  return {
    radiusM,
    voltsPerSpeed: (backVoltage * gear) / radiusM,
    voltsPerNewton: (resistanceOhm * radiusM) / (torqueConstant * side.strength.value * gear * efficiency),
    frictionN: (efficiency * gear * frictionTorqueNm(robot, side)) / radiusM + rollingN(robot, side),
    metresPerCount: motor.encoder ? side.rollPerTurnM.value / (motor.encoder.countsPerTurn * train.ratio) : null,
  };
}

/** Mass that the spinning parts of a shaft count as, kg: its motor and the wheels on it. */
function spinningMassKg(robot: Robot, side: SideInForce, radiusM: number): number {
  const gear = side.motor.gearboxRatio * gearTrain(robot, side.wheel).ratio;
  const alone = driveKind(robot.drive).motors > 2;
  const wheels = robot.wheels.filter((wheel) =>
    alone ? wheel.name === side.wheel.name : wheel.side === side.wheel.side,
  );
  const inertia = wheels.reduce((sum, wheel) => sum + wheel.inertiaKgM2, 0);
  return (inertia + gear * gear * side.motor.rotorInertiaKgM2) / (radiusM * radiusM);
}

/** Push each side must give to turn on the spot, N: tied wheels scrub sideways, with grip and lever arm. */
function scrubN(robot: Robot, known: RobotInForce): number {
  if (!driveKind(robot.drive).scrubs) return 0;
  const xs = robot.wheels.map((wheel) => wheel.xM);
  const halfLength = (Math.max(...xs) - Math.min(...xs)) / 2;
  const halfTrack = (known.left.wheel.yM - known.right.wheel.yM) / 2;
  const reach = Math.sqrt(halfLength * halfLength + halfTrack * halfTrack);
  const sideWeightN = (robot.chassis.massKg * GRAVITY) / 2;
  return (known.left.grip.value * sideWeightN * halfLength) / reach;
}

/** Steady speed at full duty, m/s. */
function topSpeed(side: SideModel, volts: number): number {
  return Math.max(0.001, (volts - side.voltsPerNewton * side.frictionN) / side.voltsPerSpeed);
}

/** Shafts that push forward, each by its share: a mass is divided among so many. */
function pushes({ rows }: Mixing): number {
  return rows.reduce((sum, { forward }) => sum + forward * forward, 0);
}

/** Share of the grip that a lead wheel can use along its rolling: rollers hold only along their axles. */
function held({ mixing }: RobotInForce): number {
  const row = mixing?.rows[0];
  return row ? 1 / Math.sqrt(row.forward * row.forward + row.left * row.left) : 1;
}

/** Fastest way of the whole in one direction, m/s, while no rim runs faster than it can. */
function fastest({ rows, rimMS }: Pick<MixingModel, "rows" | "rimMS">, way: "forward" | "left"): number {
  return rows.reduce((least, row, i) => {
    const share = Math.abs(row[way]);
    return share > 1e-6 ? Math.min(least, (rimMS[i] as number) / share) : least;
  }, Number.POSITIVE_INFINITY);
}

function mixingModel(
  robot: Robot,
  known: RobotInForce,
  { rows, back }: Mixing,
  shafts: readonly SideModel[],
  nominalVolts: number,
  inertiaKgM2: number,
): MixingModel {
  const rimMS = shafts.map((shaft) => topSpeed(shaft, nominalVolts));
  const topAsideMS = fastest({ rows, rimMS }, "left");
  return {
    rows,
    back,
    massKg: robot.chassis.massKg,
    inertiaKgM2,
    spinningKg: shafts.map(({ radiusM }, i) => spinningMassKg(robot, known.shafts[i] as SideInForce, radiusM)),
    rimMS,
    topAsideMS,
    cruiseAsideMS: topAsideMS * 0.55,
  };
}

/** @param robot - a document that readRobot accepted */
export function driveModel(robot: Robot, known: RobotInForce = robotInForce(robot)): DriveModel {
  const weightN = driveWeightN(robot, known.left.wheel.xM);
  const shafts = known.shafts.map((shaft) => sideModel(robot, shaft));
  const [left, right] = shafts as [SideModel, SideModel];
  const nominalVolts = Math.max(0.5, robot.pack.nominalVolts - robot.board.driverDropVolts);
  const trackWidthM = known.trackWidthM.value;
  const { motors, turnsOnSpot } = driveKind(robot.drive);
  const spinning = spinningMassKg(robot, known.left, left.radiusM) + spinningMassKg(robot, known.right, right.radiusM);
  // A car's one motor pushes all of the mass; a side of the others half of it.
  const bodyKg = robot.chassis.massKg / (known.mixing ? pushes(known.mixing) : motors);
  const sideMassKg = bodyKg + spinning / 2;
  const inertiaKgM2 =
    robot.chassis.inertiaKgM2 ??
    robot.chassis.massKg * gyrationM2(robot.chassis.outlineM, [known.mixing ? 0 : known.left.wheel.xM, 0]);
  const sideTurnMassKg = !turnsOnSpot ? 0 : (2 * inertiaKgM2) / (trackWidthM * trackWidthM) + (sideMassKg - bodyKg);
  const mixing = known.mixing && mixingModel(robot, known, known.mixing, shafts, nominalVolts, inertiaKgM2);
  const topSpeedMS = mixing
    ? fastest(mixing, "forward")
    : Math.min(topSpeed(left, nominalVolts), topSpeed(right, nominalVolts));
  const pushN = Math.min(
    nominalVolts / left.voltsPerNewton - left.frictionN,
    nominalVolts / right.voltsPerNewton - right.frictionN,
  );
  const gripN = (Math.min(known.left.grip.value, known.right.grip.value) * weightN * held(known)) / motors;
  // Half of what motor and grip allow: leaves room for feedback, and for a tired pack.
  const rampMS2 = Math.max(0.02, Math.min((0.45 * Math.max(0, pushN)) / sideMassKg, (0.4 * gripN) / sideMassKg, 1.5));
  const pressVolts = Math.max(left.voltsPerNewton * (0.6 * gripN + left.frictionN), 0.05 * nominalVolts);
  const steering = steeringModel(known);
  const topTurnRadS = steering ? topSpeedMS / steering.leastRadiusM : (2 * topSpeedMS) / trackWidthM;
  const timed = robot.drive.speedAtPower;
  return {
    left,
    right,
    shafts,
    trackWidthM,
    steering,
    mixing,
    scrubN: scrubN(robot, known),
    sideMassKg,
    sideTurnMassKg,
    nominalVolts,
    driverShare: nominalVolts / robot.pack.nominalVolts,
    dropVolts: robot.board.driverDropVolts,
    topSpeedMS,
    topTurnRadS,
    cruiseMS: topSpeedMS * 0.55,
    turnRadS: Math.min(topTurnRadS, foundValue(robot.drive.turnRateRadS) ?? Math.min(topTurnRadS * 0.4, (2 * PI) / 3)),
    turnPastRad: known.gyro ? turnPastRad(robot) : 0,
    holdGainPerRad: holdGainPerRad(robot),
    stopsWithMS2: foundValue(robot.drive.stopsWithMS2) ?? rampMS2,
    stopsAfterSec: foundValue(robot.drive.stopsAfterSec) ?? 0,
    rampMS2,
    turnRampRadS2: Math.min((2 * rampMS2) / trackWidthM, 4 * PI) * 0.7,
    pressDuty: Math.min(0.6, pressVolts / nominalVolts),
    hasEncoders: shafts.every(({ metresPerCount }) => metresPerCount !== null),
    timedTurn: timedTurn(robot),
    timed: timed
      ? {
          speedPerVolt: timed.speedPerVolt.value,
          deadTimeSec: timed.deadTimeSec.value,
          deadVolts: foundValue(timed.deadVolts) ?? 0,
        }
      : null,
  };
}

function timedTurn({ drive }: Robot): DriveModel["timedTurn"] {
  const [volts, rateRadS] = [foundValue(drive.turnVolts), foundValue(drive.turnsWithRadS)];
  return volts !== null && rateRadS !== null && rateRadS > 0
    ? { volts, rateRadS, deadTimeSec: foundValue(drive.turnsAfterSec) ?? 0 }
    : null;
}

function steeringModel({ steering }: RobotInForce): SteeringModel | null {
  if (!steering) return null;
  const mostRad = steering.locked ? 0 : steering.mostRad;
  return {
    wheelbaseM: steering.wheelbaseM.value,
    mostRad,
    centreRad: steering.centreRad.value,
    leastRadiusM: steering.wheelbaseM.value / Math.max(1e-6, tan(mostRad)),
  };
}
