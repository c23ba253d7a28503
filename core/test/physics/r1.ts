// The reference robot of the closed forms: 1.2 kg, axle 30 mm behind the centre of mass, frictionless
// caster 90 mm ahead of the axle, track 150 mm, wheels of 30 mm radius.
import { deriveMotor, type MotorSheet } from "../../src/physics/motor.js";
import type { LoadSpec, WorldSpec } from "../../src/physics/parts.js";
import { World } from "../../src/physics/world.js";

export const WEAK: MotorSheet = {
  nominalVolts: 7.4,
  freeSpeedRadS: 628.3,
  freeCurrentA: 0,
  stallTorqueNm: 0.003,
  stallCurrentA: 0.3,
  coulombTorqueNm: 0,
};
export const STRONG: MotorSheet = { ...WEAK, stallTorqueNm: 0.006, stallCurrentA: 0.6 };
export const GEAR = 30;
export const EFFICIENCY = 0.8;
export const WHEEL_RADIUS_M = 0.03;

export interface Options {
  motor?: MotorSheet;
  grip?: number;
  comHeightM?: number;
  rollingResistance?: number;
  viscousNmS?: number;
  /** Motor friction that overrides the sheet's, for wheels that are held. */
  coulombTorqueNm?: number;
  internalOhm?: number;
  wallFriction?: number;
  segments?: WorldSpec["segments"];
  discs?: WorldSpec["discs"];
  loads?: readonly LoadSpec[];
}

/** A cube of 60 mm, axis parallel. */
export function box(xM: number, yM: number, massKg: number, friction: number): LoadSpec {
  return { name: "box", shape: "box", sizeM: [0.06, 0.06], heightM: 0.05, massKg, friction, xM, yM, headingRad: 0 };
}

export function disc(xM: number, yM: number, diameterM: number, massKg: number, friction: number): LoadSpec {
  return { ...box(xM, yM, massKg, friction), shape: "disc", sizeM: [diameterM, diameterM] };
}

export function wall(ax: number, ay: number, bx: number, by: number): WorldSpec["segments"][number] {
  return [
    [ax, ay],
    [bx, by],
  ];
}

export function r1(options: Options = {}): World {
  const sheet = options.motor ?? WEAK;
  const derived = deriveMotor(sheet);
  if (!derived.ok) throw new Error(derived.message);
  const wheel = (yM: number) => ({
    xM: -0.03,
    yM,
    radiusM: WHEEL_RADIUS_M,
    inertiaKgM2: 2e-5,
    grip: options.grip ?? 3,
    rollingResistance: options.rollingResistance ?? 0,
    drive: {
      constants: derived.constants,
      gearRatio: GEAR,
      efficiency: EFFICIENCY,
      coulombTorqueNm: options.coulombTorqueNm ?? sheet.coulombTorqueNm,
      viscousNmS: options.viscousNmS ?? 0,
      rotorInertiaKgM2: 1e-7,
    },
  });
  return new World({
    massKg: 1.2,
    inertiaKgM2: 0.012,
    comHeightM: options.comHeightM ?? 0.05,
    outlineM: [
      [0.1, -0.06],
      [0.1, 0.06],
      [-0.08, 0.06],
      [-0.08, -0.06],
    ],
    wallFriction: options.wallFriction ?? 0.25,
    wheels: [wheel(0.075), wheel(-0.075)],
    casters: [{ xM: 0.06, yM: 0, friction: 0 }],
    battery: { cells: 1, internalResistanceOhm: options.internalOhm ?? 0, capacityAh: 1000, curve: [[1, 7.4]] },
    charge: 1,
    driverDropVolts: 0,
    boardCurrentA: 0,
    segments: options.segments ?? [],
    discs: options.discs ?? [],
    loads: options.loads ?? [],
  });
}

export function drive(world: World, left: number, right: number): void {
  world.command(0, "drive", left);
  world.command(1, "drive", right);
}

export function setMode(world: World, mode: "brake" | "coast"): void {
  world.command(0, mode, 0);
  world.command(1, mode, 0);
}

export function run(world: World, seconds: number, dt = 0.005): void {
  for (let i = 0; i < Math.round(seconds / dt); i += 1) world.step(dt);
}

/** Sets the robot rolling straight ahead without slip. */
export function rolling(world: World, speedMS: number): void {
  world.velocityX = speedMS;
  for (const wheel of world.wheels) wheel.spinRadS = speedMS / WHEEL_RADIUS_M;
}
