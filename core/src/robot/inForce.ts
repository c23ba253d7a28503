// Every calibratable number of a robot, as control and rehearsal use it: the value in force and its error.
import { PI } from "../math/trig.js";
import { type InForce, inForce } from "./known.js";
import type { Motor, Robot, Sensor, Wheel } from "./schema.js";

/** Standard errors to assume where nobody measured: typical of careful reading of a drawing or data sheet. */
const ASSUMED = { roll: 0.004, track: 0.01, grip: 0.08, strength: 0.03, gyroScale: 0.005, gyroRestRadS: 0.0009 };
const ASSUMED_PLACEMENT = { positionM: 0.003, headingRad: PI / 180 };

export interface SideInForce {
  readonly wheel: Wheel;
  readonly motor: Motor;
  readonly rollPerTurnM: InForce;
  readonly grip: InForce;
  readonly strength: InForce;
}

export interface GyroInForce {
  readonly part: Extract<Sensor, { kind: "gyro" }>;
  readonly scale: InForce;
  readonly restRadS: InForce;
}

export interface RobotInForce {
  readonly left: SideInForce;
  readonly right: SideInForce;
  readonly trackWidthM: InForce;
  readonly gyro: GyroInForce | null;
  readonly placementM: number;
  readonly placementRad: number;
}

function sideInForce(robot: Robot, side: "left" | "right"): SideInForce {
  const wheel = robot.wheels.find((candidate) => candidate.side === side);
  const motor = robot.motors.find((candidate) => candidate.name === wheel?.motor);
  if (!wheel || !motor) throw new RangeError(`robot "${robot.name}" has no driven ${side} wheel`);
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
 * @param robot - a document that readRobot accepted
 * @throws RangeError if a side has no driven wheel (readRobot refuses such a document)
 */
export function robotInForce(robot: Robot): RobotInForce {
  const left = sideInForce(robot, "left");
  const right = sideInForce(robot, "right");
  return {
    left,
    right,
    trackWidthM: inForce(robot.drive.trackWidthM, left.wheel.yM - right.wheel.yM, ASSUMED.track),
    gyro: gyroInForce(robot),
    placementM: robot.placement.positionM.standardError ?? ASSUMED_PLACEMENT.positionM,
    placementRad: robot.placement.headingRad.standardError ?? ASSUMED_PLACEMENT.headingRad,
  };
}
