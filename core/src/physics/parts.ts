// What a world is made of: its specification, robot parts in body coordinates (origin in the centre of mass).
import type { Point } from "../geometry/pose.js";
import type { BatterySpec } from "./battery.js";
import type { MotorConstants } from "./motor.js";

export type MotorMode = "drive" | "brake" | "coast";

/** A winding that warms: kelvin for each watt, joule for each kelvin, protection in deg C. */
export interface ThermalSpec {
  readonly resistanceKPerW: number;
  readonly capacityJPerK: number;
  readonly cutOutC: number;
  readonly recoverC: number;
  /** Growth of the winding's resistance for each kelvin; copper 0.00393. */
  readonly copperPerK: number;
}

export interface DriveSpec {
  readonly constants: MotorConstants;
  /** Motor turns for one wheel turn, > 0; direction is sorted out by wiring, not here. */
  readonly gearRatio: number;
  readonly efficiency: number;
  readonly coulombTorqueNm: number;
  readonly viscousNmS: number;
  readonly rotorInertiaKgM2: number;
  /** Largest torque a belt passes on, at the wheel, N m; left out: no belt. */
  readonly slipTorqueNm?: number;
  /** Left out: it stays cold. */
  readonly thermal?: ThermalSpec;
}

export interface WheelSpec {
  /** Contact point relative to the centre of mass, m. */
  readonly xM: number;
  readonly yM: number;
  readonly radiusM: number;
  readonly inertiaKgM2: number;
  readonly grip: number;
  readonly rollingResistance: number;
  /** Null for a wheel that rolls freely or is turned through another wheel. */
  readonly drive: DriveSpec | null;
  /** Turns on the shaft of this wheel (an index), `ratio` times as fast. */
  readonly tiedTo?: number;
  readonly ratio?: number;
  /** Shares this wheel's drive (an index) through a differential. */
  readonly differentialWith?: number;
  readonly steered?: boolean;
  readonly rollers?: WheelRollers;
}

/** Rollers round a wheel's rim: it holds the floor along their axles and rolls freely across them. */
export interface WheelRollers {
  /** Direction it holds in, left of the robot's forward, rad. */
  readonly gripRad: number;
  /** Shares of its rim's speed along that direction, and along the one to its left, which its rollers take up. */
  readonly gripShare: number;
  readonly freeShare: number;
  /** What the rollers resist with, as a share of the load. */
  readonly friction: number;
}

export interface CasterSpec {
  readonly xM: number;
  readonly yM: number;
  readonly friction: number;
  /** A free caster's wheel trails its pivot by this, m; a ball or a skid leaves it out. */
  readonly trailM?: number;
}

/** A solid outline of the robot or of a load, between two heights. */
export interface ShapeSpec {
  /** Convex, body frame; or a disc about the body's middle. */
  readonly outlineM: readonly Point[];
  readonly radiusM?: number;
  readonly lowM: number;
  readonly highM: number;
  /** Loads pass it: a fork that is down, an open gripper, a spinner that lies on them. */
  readonly under?: boolean;
}

export interface SteeringSpec {
  readonly wheelbaseM: number;
  /** Distance between the steered wheels, m. */
  readonly trackWidthM: number;
  readonly mostRad: number;
  readonly rateRadS: number;
  readonly locked: boolean;
  /** True angle when it is told to go straight. */
  readonly offsetRad: number;
}

export interface LoadSpec {
  readonly name: string;
  readonly shape: "box" | "disc";
  /** Edge lengths of a box; a disc's diameter is the first. */
  readonly sizeM: Point;
  readonly heightM: number;
  readonly massKg: number;
  /** On the floor. */
  readonly friction: number;
  readonly xM: number;
  readonly yM: number;
  readonly headingRad: number;
}

/** A part of the floor that slopes, with the direction that leads up. */
export interface RampSpec {
  readonly cornersM: readonly Point[];
  readonly slopeRad: number;
  readonly upRad: number;
}

export interface FixedDisc {
  readonly xM: number;
  readonly yM: number;
  readonly radiusM: number;
  readonly heightM?: number;
}

export interface WorldSpec {
  readonly massKg: number;
  readonly inertiaKgM2: number;
  readonly comHeightM: number;
  /** Convex outline relative to the centre of mass, m. */
  readonly outlineM: readonly Point[];
  /** Heights of the chassis; left out, it meets everything. */
  readonly lowM?: number;
  readonly highM?: number;
  /** Bumpers and attachments, each an outline of its own. */
  readonly shapes?: readonly ShapeSpec[];
  readonly wallFriction: number;
  readonly wheels: readonly WheelSpec[];
  readonly casters: readonly CasterSpec[];
  readonly steering?: SteeringSpec | null;
  readonly battery: BatterySpec;
  readonly charge: number;
  readonly driverDropVolts: number;
  /** Draw of the board itself, A. */
  readonly boardCurrentA: number;
  /** The board restarts below this at the pack; left out: never. */
  readonly brownOutVolts?: number;
  readonly segments: readonly (readonly [Point, Point])[];
  /** Height of each segment, m; left out: everything meets it. */
  readonly segmentHeightsM?: readonly number[];
  readonly discs: readonly FixedDisc[];
  readonly loads?: readonly LoadSpec[];
  readonly ramps?: readonly RampSpec[];
}
