// What passes between a robot's body and its brain in each tick of 10 ms: what the board reads, and what it commands.
// The same on simulated bodies and on real boards. Everything lies in the order of the robot's document.
import { driveKind } from "../drives/kinds.js";
import type { MotorMode } from "../physics/parts.js";
import type { Handset } from "../remote/handset.js";
import type { Robot } from "../robot/schema.js";
import { sensorKind } from "../sensors/kinds/all.js";
import type { SensorLine } from "../sensors/kinds/kind.js";

/** A servo, as far as its angle is known: hobby servos tell nothing, so this is what their make promises. */
export interface RawServo {
  angleRad: number;
  rateRadS: number;
  /** Something it grips holds it at this angle, rad; null for nothing. */
  heldRad: number | null;
}

export interface RawSenses {
  /** Encoder counts of each shaft of the drive since the start, as mounted: left, right, others; null without an encoder. */
  readonly counts: (number | null)[];
  /** Newest reading of the gyro, rad/s as it comes from the chip. */
  gyroRateRadS: number;
  /** Time that reading stands for, s; 0 in ticks without a new one. */
  gyroSec: number;
  packVolts: number;
  packCurrentA: number;
  /** Of each motor: counts of its encoder since the start; null without one, and for the drive's. */
  readonly motorCounts: (number | null)[];
  /** Of each motor: how near its winding is to cutting out, 0..1. */
  readonly motorHeat: Float64Array;
  readonly servos: readonly RawServo[];
  readonly sensors: readonly SensorLine[];
  /** Of each attachment: 1 while it holds or carries something. */
  readonly holds: Uint8Array;
  /** What a driver holds, as heard last; null while nothing is heard. */
  handset: Handset | null;
}

/** One motor's order. */
export interface MotorCommand {
  mode: MotorMode;
  /** Share of the pack's voltage, -1..1, as the board gives it out. */
  duty: number;
}

export interface ServoCommand {
  /** Angle a positional servo runs to, rad. */
  targetRad: number;
  /** Speed of a continuous one as a share of its own, -1..1. */
  share: number;
}

export interface Commands {
  mode: MotorMode;
  /** Duties of the drive's motors, as the board gives them out: left, right, others. */
  readonly duties: Float64Array;
  /** Angle of a car's axle beyond its centre, rad. */
  steerRad: number;
  /** Of each motor that drives no wheel, by its place among the robot's motors. */
  readonly motors: readonly MotorCommand[];
  readonly servos: readonly ServoCommand[];
}

/** Shafts its brain drives: a car's two wheels count for two. */
function driveShafts(robot: Robot): number {
  return Math.max(2, driveKind(robot.drive).motors);
}

/** Senses of a robot before it has sensed anything. */
export function newRawSenses(robot: Robot): RawSenses {
  return {
    counts: new Array<null>(driveShafts(robot)).fill(null),
    gyroRateRadS: 0,
    gyroSec: 0,
    packVolts: 0,
    packCurrentA: 0,
    motorCounts: robot.motors.map(() => null),
    motorHeat: new Float64Array(robot.motors.length),
    servos: robot.servos.map(() => ({ angleRad: 0, rateRadS: 0, heldRad: null })),
    sensors: robot.sensors.map((sensor) => ({
      values: new Float64Array(sensorKind(sensor).slots(sensor)),
      told: false,
    })),
    holds: new Uint8Array(robot.attachments.length),
    handset: null,
  };
}

/** Orders of a robot at rest: brakes on, servos where they stand when switched on. */
export function restingCommands(robot: Robot): Commands {
  return {
    mode: "brake",
    duties: new Float64Array(driveShafts(robot)),
    steerRad: 0,
    motors: robot.motors.map(() => ({ mode: "brake" as const, duty: 0 })),
    servos: robot.servos.map(({ lowRad, highRad }) => ({
      targetRad: Math.max(lowRad, Math.min(highRad, 0)),
      share: 0,
    })),
  };
}
