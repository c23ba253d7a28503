// Every calibratable number of a robot, as control and rehearsal use it: the value in force and its error.

import { driveKind } from "../drives/kinds.js";
import { type Mixing, mixingOf } from "../drives/mixing.js";
import type { Motor, Wheel } from "../drives/parts.js";
import { shaftsOf } from "../drives/shafts.js";
import { type Lead, leadWheel } from "../drives/train.js";
import { PI } from "../math/trig.js";
import type { SensorOf } from "../sensors/kinds/all.js";
import { type InForce, inForce } from "../units/known.js";
import type { RobotPart } from "./parts.js";
import type { Robot } from "./schema.js";

/** Standard errors to assume where nobody measured: typical of careful reading of a drawing or data sheet. */
const ASSUMED = {
  roll: 0.004,
  wheelbase: 0.01,
  slide: 0.03,
  grip: 0.08,
  strength: 0.03,
  gyroScale: 0.005,
  gyroRestRadS: 0.0009,
  steeringRad: 0.01,
};
const ASSUMED_PLACEMENT = { positionM: 0.003, headingRad: PI / 180 };

export interface SideInForce {
  readonly wheel: Wheel;
  readonly motor: Motor;
  readonly rollPerTurnM: InForce;
  readonly grip: InForce;
  readonly strength: InForce;
}

interface GyroInForce {
  readonly part: SensorOf<"gyro">;
  readonly scale: InForce;
  readonly restRadS: InForce;
}

interface SteeringInForce {
  readonly wheelbaseM: InForce;
  readonly centreRad: InForce;
  readonly mostRad: number;
  readonly rateRadS: number;
  readonly locked: boolean;
}

export interface RobotInForce {
  readonly left: SideInForce;
  readonly right: SideInForce;
  /** Left, right, and those of drives with more shafts. */
  readonly shafts: readonly SideInForce[];
  readonly trackWidthM: InForce;
  readonly steering: SteeringInForce | null;
  /** Of drives with rollers: way sideways over what the wheels say; null for others. */
  readonly slideShare: InForce | null;
  /** How their shafts move the whole. */
  readonly mixing: Mixing | null;
  readonly gyro: GyroInForce | null;
  readonly placementM: number;
  readonly placementRad: number;
}

function sideInForce(robot: Robot, side: "left" | "right"): SideInForce {
  const lead = leadWheel(robot, side);
  if (!lead) throw new RangeError(`robot "${robot.name}" has no driven ${side} wheel`);
  return shaftInForce(lead);
}

function shaftInForce({ wheel, motor }: Lead): SideInForce {
  return {
    wheel,
    motor,
    rollPerTurnM: inForce(wheel.rollPerTurnM, PI * wheel.diameterM, ASSUMED.roll),
    grip: inForce(wheel.grip, wheel.grip.value, ASSUMED.grip),
    strength: inForce(motor.strength, 1, ASSUMED.strength),
  };
}

function gyroInForce(robot: Robot): GyroInForce | null {
  const part = robot.sensors.find((sensor) => sensor.kind === "gyro");
  if (!part) return null;
  return {
    part,
    scale: inForce(part.scale, 1, ASSUMED.gyroScale),
    restRadS: {
      value: part.restRadS.source === "drawing" ? 0 : part.restRadS.value,
      standardError: part.restRadS.standardError ?? ASSUMED.gyroRestRadS,
    },
  };
}

/** Track width the robot turns with, as the drawing has it, m. */
export function drawnTrackWidthM(robot: Robot): number {
  const left = leadWheel(robot, "left")?.wheel;
  const right = leadWheel(robot, "right")?.wheel;
  if (!left || !right) return robot.drive.trackWidthM.value;
  return driveKind(robot.drive).drawnTrackM(robot, left, right);
}

/** Distance between steered and driven axle, as drawn. */
function drawnWheelbaseM(robot: Robot): number {
  const steered = robot.wheels.find((wheel) => wheel.steered);
  const driven = leadWheel(robot, "left")?.wheel;
  return steered && driven ? steered.xM - driven.xM : 0;
}

/**
 * What the drawing, or a data sheet's plain value, says of a known now; null for those that only measuring gives. A
 * known of the source "drawing" always has this value, whatever was written when it was last saved.
 * @param path - inside the part: "rollPerTurnM"
 * @returns in the known's own unit
 */
export function drawnValue(robot: Robot, part: RobotPart, path: string): number | null {
  switch (`${part.kind} ${path}`) {
    case "wheel rollPerTurnM":
      return PI * (part.value as Wheel).diameterM;
    case "drive trackWidthM":
      return drawnTrackWidthM(robot);
    case "drive wheelbaseM":
      return drawnWheelbaseM(robot);
    case "drive steering.centreRad":
    case "gyro restRadS":
    case "eye offsetM":
      return 0;
    case "drive slideShare":
    case "motor strength":
    case "gyro scale":
      return 1;
    default:
      return null;
  }
}

function steeringInForce(robot: Robot): SteeringInForce | null {
  const { drive } = robot;
  if (!("steering" in drive)) return null;
  const { mostRad, rateRadS, locked, centreRad } = drive.steering;
  return {
    wheelbaseM: inForce(drive.wheelbaseM, drawnWheelbaseM(robot), ASSUMED.wheelbase),
    centreRad: {
      value: centreRad.source === "drawing" ? 0 : centreRad.value,
      standardError: centreRad.standardError ?? ASSUMED.steeringRad,
    },
    mostRad,
    rateRadS,
    locked,
  };
}

/**
 * @param robot - a document that readRobot accepted
 * @throws RangeError if a side has no driven wheel (readRobot refuses such a document)
 */
export function robotInForce(robot: Robot): RobotInForce {
  const left = sideInForce(robot, "left");
  const right = sideInForce(robot, "right");
  const shafts = [left, right, ...shaftsOf(robot).slice(2).map(shaftInForce)];
  const drawnTrackM = drawnTrackWidthM(robot);
  const trackWidthM = inForce(robot.drive.trackWidthM, drawnTrackM, driveKind(robot.drive).trackError);
  const slideShare = "slideShare" in robot.drive ? inForce(robot.drive.slideShare, 1, ASSUMED.slide) : null;
  const wheels = shafts.map(({ wheel }) => wheel);
  const shares = slideShare && { slide: slideShare.value, turn: trackWidthM.value / drawnTrackM };
  return {
    left,
    right,
    shafts,
    trackWidthM,
    steering: steeringInForce(robot),
    slideShare,
    mixing: shares && mixingOf(wheels, shares),
    gyro: gyroInForce(robot),
    placementM: robot.placement.positionM.standardError ?? ASSUMED_PLACEMENT.positionM,
    placementRad: robot.placement.headingRad.standardError ?? ASSUMED_PLACEMENT.headingRad,
  };
}
