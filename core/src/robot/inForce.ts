// Every calibratable number of a robot, as control and rehearsal use it: the value in force and its error.
import { PI } from "../math/trig.js";
import { leadWheel } from "./drivetrain.js";
import { type InForce, inForce } from "./known.js";
import type { RobotPart } from "./parts.js";
import type { Motor, Robot, SensorOf, Wheel } from "./schema.js";

/** Standard errors to assume where nobody measured: typical of careful reading of a drawing or data sheet. */
const ASSUMED = {
  roll: 0.004,
  track: 0.01,
  /** Skid steering turns with a width that depends on the floor. */
  skidTrack: 0.06,
  wheelbase: 0.01,
  grip: 0.08,
  strength: 0.03,
  gyroScale: 0.005,
  gyroRestRadS: 0.0009,
  steeringRad: 0.01,
  eyeOffsetM: 0.004,
  nearThreshold: 0.06,
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
  readonly trackWidthM: InForce;
  readonly steering: SteeringInForce | null;
  readonly gyro: GyroInForce | null;
  readonly placementM: number;
  readonly placementRad: number;
}

function sideInForce(robot: Robot, side: "left" | "right"): SideInForce {
  const lead = leadWheel(robot, side);
  if (!lead) throw new RangeError(`robot "${robot.name}" has no driven ${side} wheel`);
  const { wheel, motor } = lead;
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

/**
 * Track width the robot turns with, as the drawing has it. Wheels that stand apart lengthwise scrub: with equal
 * loads a steady turn balances when each wheel's forward slip fits b = T + L²/T.
 */
export function drawnTrackWidthM(robot: Robot): number {
  const left = leadWheel(robot, "left")?.wheel;
  const right = leadWheel(robot, "right")?.wheel;
  if (!left || !right) return robot.drive.trackWidthM.value;
  const geometric = left.yM - right.yM;
  if (robot.drive.kind !== "four-wheel") return geometric;
  const xs = robot.wheels.map((wheel) => wheel.xM);
  const length = Math.max(...xs) - Math.min(...xs);
  return geometric + (length * length) / geometric;
}

/** Distance between steered and driven axle, as drawn. */
export function drawnWheelbaseM(robot: Robot): number {
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
    case "motor strength":
    case "gyro scale":
      return 1;
    default:
      return null;
  }
}

/** Values in force of the sensors' own knowns. */
export function eyeOffset(eye: SensorOf<"eye">): InForce {
  return {
    value: eye.offsetM.source === "drawing" ? 0 : eye.offsetM.value,
    standardError: eye.offsetM.standardError ?? ASSUMED.eyeOffsetM,
  };
}

export function nearThreshold(near: SensorOf<"near">): InForce {
  return inForce(near.thresholdM, near.thresholdM.value, ASSUMED.nearThreshold);
}

function steeringInForce(robot: Robot): SteeringInForce | null {
  const { drive } = robot;
  if (drive.kind !== "car") return null;
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
  const assumed = robot.drive.kind === "four-wheel" ? ASSUMED.skidTrack : ASSUMED.track;
  return {
    left: sideInForce(robot, "left"),
    right: sideInForce(robot, "right"),
    trackWidthM: inForce(robot.drive.trackWidthM, drawnTrackWidthM(robot), assumed),
    steering: steeringInForce(robot),
    gyro: gyroInForce(robot),
    placementM: robot.placement.positionM.standardError ?? ASSUMED_PLACEMENT.positionM,
    placementRad: robot.placement.headingRad.standardError ?? ASSUMED_PLACEMENT.headingRad,
  };
}
