// What passes between a robot's body and its brain in each tick of 10 ms: what the board reads, and what it commands.
// The same on simulated bodies and on real boards. Everything lies in the order of the robot's document.
import type { MotorMode } from "../physics/parts.js";
import type { Handset } from "../remote/handset.js";
import type { Robot } from "../robot/schema.js";
import { rawSlots } from "../sensors/rawSlots.js";

/** A servo, as far as its angle is known: hobby servos tell nothing, so this is what their make promises. */
export interface RawServo {
  angleRad: number;
  rateRadS: number;
  /** Something it grips holds it at this angle, rad; null for nothing. */
  heldRad: number | null;
}

/** A sensor as the board reads it; see sensors/rawSlots for what its numbers are. */
export interface RawSensor {
  readonly values: Float64Array;
  /** It has delivered anything yet. */
  told: boolean;
}

export interface RawSenses {
  /** Encoder counts of the left and the right drive motor since the start, as mounted; null without an encoder. */
  readonly counts: [left: number | null, right: number | null];
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
  readonly sensors: readonly RawSensor[];
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
  /** Duties of the drive's motors, as the board gives them out. */
  left: number;
  right: number;
  /** Angle of a car's axle beyond its centre, rad. */
  steerRad: number;
  /** Of each motor that drives no wheel, by its place among the robot's motors. */
  readonly motors: readonly MotorCommand[];
  readonly servos: readonly ServoCommand[];
}

/** Senses of a robot before it has sensed anything. */
export function newRawSenses(robot: Robot): RawSenses {
  return {
    counts: [null, null],
    gyroRateRadS: 0,
    gyroSec: 0,
    packVolts: 0,
    packCurrentA: 0,
    motorCounts: robot.motors.map(() => null),
    motorHeat: new Float64Array(robot.motors.length),
    servos: robot.servos.map(() => ({ angleRad: 0, rateRadS: 0, heldRad: null })),
    sensors: robot.sensors.map((sensor) => ({ values: new Float64Array(rawSlots(sensor)), told: false })),
    holds: new Uint8Array(robot.attachments.length),
    handset: null,
  };
}

/** Orders of a robot at rest: brakes on, servos where they stand when switched on. */
export function restingCommands(robot: Robot): Commands {
  return {
    mode: "brake",
    left: 0,
    right: 0,
    steerRad: 0,
    motors: robot.motors.map(() => ({ mode: "brake" as const, duty: 0 })),
    servos: robot.servos.map(({ lowRad, highRad }) => ({
      targetRad: Math.max(lowRad, Math.min(highRad, 0)),
      share: 0,
    })),
  };
}
