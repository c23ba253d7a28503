// What a world is made of: its specification in body coordinates, and the state of a wheel.
import type { Point } from "../geometry/pose.js";
import type { BatterySpec } from "./battery.js";
import type { FixedDisc } from "./contacts.js";
import type { MotorConstants } from "./motor.js";

export type MotorMode = "drive" | "brake" | "coast";

export interface DriveSpec {
  readonly constants: MotorConstants;
  /** Motor turns for one wheel turn, > 0; direction is sorted out by wiring, not here. */
  readonly gearRatio: number;
  readonly efficiency: number;
  readonly coulombTorqueNm: number;
  readonly viscousNmS: number;
  readonly rotorInertiaKgM2: number;
}

export interface WheelSpec {
  /** Contact point relative to the centre of mass, m. */
  readonly xM: number;
  readonly yM: number;
  readonly radiusM: number;
  readonly inertiaKgM2: number;
  readonly grip: number;
  readonly rollingResistance: number;
  /** Null for a wheel that rolls freely. */
  readonly drive: DriveSpec | null;
}

export interface CasterSpec {
  readonly xM: number;
  readonly yM: number;
  readonly friction: number;
}

export interface WorldSpec {
  readonly massKg: number;
  readonly inertiaKgM2: number;
  readonly comHeightM: number;
  /** Convex outline relative to the centre of mass, m. */
  readonly outlineM: readonly Point[];
  readonly wallFriction: number;
  readonly wheels: readonly WheelSpec[];
  readonly casters: readonly CasterSpec[];
  readonly battery: BatterySpec;
  readonly charge: number;
  readonly driverDropVolts: number;
  /** Draw of the board itself, A. */
  readonly boardCurrentA: number;
  readonly segments: readonly (readonly [Point, Point])[];
  readonly discs: readonly FixedDisc[];
}

/** State of one wheel; plain fields, all numbers, so that every wheel has one hidden class. */
export interface WheelState {
  readonly spec: WheelSpec;
  spinRadS: number;
  angleRad: number;
  duty: number;
  mode: MotorMode;
  motorCurrentA: number;
  driveVolts: number;
  // Solver's own:
  forward: number;
  side: number;
  brakeImpulse: number;
  leverX: number;
  leverY: number;
  kff: number;
  kfs: number;
  kss: number;
  spinInertia: number;
  frictionLimit: number;
  dragLimit: number;
}

/** What a motor's back voltage takes from its output shaft, N m s/rad; nothing while it coasts. */
export function dampingOf({ constants, gearRatio, efficiency }: DriveSpec, mode: MotorMode): number {
  if (mode === "coast") return 0;
  return (
    (efficiency * gearRatio * gearRatio * constants.torqueConstant * constants.backVoltage) / constants.resistanceOhm
  );
}

/** Shaft angle by the same rule as the pose, so that odometry and pose agree; and the current that flowed. */
export function finishWheel(wheel: WheelState, dt: number): void {
  wheel.angleRad += dt * wheel.spinRadS;
  const drive = wheel.spec.drive;
  if (!drive || wheel.mode === "coast") wheel.motorCurrentA = 0;
  else
    wheel.motorCurrentA =
      (wheel.driveVolts - drive.constants.backVoltage * drive.gearRatio * wheel.spinRadS) /
      drive.constants.resistanceOhm;
}

export function newWheel(spec: WheelSpec): WheelState {
  return {
    spec,
    spinRadS: 0,
    angleRad: 0,
    duty: 0,
    mode: "brake",
    motorCurrentA: 0,
    driveVolts: 0,
    forward: 0,
    side: 0,
    brakeImpulse: 0,
    leverX: 0,
    leverY: 0,
    kff: 0,
    kfs: 0,
    kss: 0,
    spinInertia: spec.inertiaKgM2,
    frictionLimit: 0,
    dragLimit: 0,
  };
}
