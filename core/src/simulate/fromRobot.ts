// The physical world of a robot document on a field, with every deviation of one run put in.

import { driveKind } from "../drives/kinds.js";
import { rowOf } from "../drives/mixing.js";
import type { Motor, Wheel } from "../drives/parts.js";
import { sourceOf, type Train } from "../drives/train.js";
import { solidFaces } from "../field/edges.js";
import type { Field } from "../field/schema.js";
import { counterClockwise, gyrationM2 } from "../geometry/polygon.js";
import { composePoses, type Point, type Pose } from "../geometry/pose.js";
import { atan2, cos, PI, sin } from "../math/trig.js";
import { cellCurve } from "../physics/battery.js";
import { deriveMotor } from "../physics/motor.js";
import type { DriveSpec, ShapeSpec, SteeringSpec, WheelRollers, WheelSpec, WorldSpec } from "../physics/parts.js";
import { COPPER_PER_K } from "../physics/thermal.js";
import { World } from "../physics/world.js";
import { frictionTorqueNm } from "../robot/found.js";
import { type RobotInForce, robotInForce } from "../robot/inForce.js";
import type { Attachment, Robot } from "../robot/schema.js";
import { sensorKind, sensorsWithBars } from "../sensors/kinds/all.js";
import { inForce } from "../units/known.js";

/** How one run differs from the values in force: factors (1 is none), and what is added. */
export interface Deviations {
  readonly rollLeft: number;
  readonly rollRight: number;
  readonly trackWidth: number;
  readonly strengthLeft: number;
  readonly strengthRight: number;
  readonly grip: number;
  readonly charge: number;
  /** Angle the steered axle has when told to go straight, beyond its known centre, rad. */
  readonly steeringRad: number;
  /** Of drives with rollers: way sideways, a factor on what is known. */
  readonly slide: number;
}

export function noDeviations(robot: Robot): Deviations {
  return {
    rollLeft: 1,
    rollRight: 1,
    trackWidth: 1,
    strengthLeft: 1,
    strengthRight: 1,
    grip: 1,
    charge: robot.pack.charge,
    steeringRad: 0,
    slide: 1,
  };
}

/**
 * A motor with its gears as the physics takes it.
 * @param strength - share of the sheet's torque
 * @param coulombTorqueNm - its friction; the sheet's where nothing else is known
 */
export function driveSpec(
  motor: Motor,
  train: Train,
  strength: number,
  coulombTorqueNm = motor.coulombTorqueNm,
): DriveSpec {
  const derived = deriveMotor(motor);
  if (!derived.ok) throw new RangeError(`motor "${motor.name}": ${derived.message}`);
  const { thermal } = motor;
  return {
    // A weaker motor gives less torque for its current; its back voltage, and so its free speed, stays.
    constants: { ...derived.constants, torqueConstant: derived.constants.torqueConstant * strength },
    gearRatio: motor.gearboxRatio * train.ratio,
    efficiency: motor.gearboxEfficiency * train.efficiency,
    coulombTorqueNm,
    viscousNmS: motor.viscousNmS,
    rotorInertiaKgM2: motor.rotorInertiaKgM2,
    ...(train.slipTorqueNm < Number.POSITIVE_INFINITY ? { slipTorqueNm: train.slipTorqueNm } : {}),
    thermal: { ...thermal, copperPerK: COPPER_PER_K },
  };
}

interface WheelMaking {
  readonly robot: Robot;
  readonly known: RobotInForce;
  readonly deviations: Deviations;
  readonly gripOfField: number;
}

function wheelSpec(wheel: Wheel, { robot, known, deviations, gripOfField }: WheelMaking): WheelSpec {
  const left = wheel.side === "left";
  const side = known.shafts.find((shaft) => shaft.wheel.name === wheel.name) ?? (left ? known.left : known.right);
  const roll = left ? deviations.rollLeft : deviations.rollRight;
  const track = driveKind(robot.drive).runsAsDrawn ? wheel.yM : wheel.yM * trackShare(known, deviations);
  const rollPerTurnM = inForce(wheel.rollPerTurnM, PI * wheel.diameterM, 0).value;
  const source = sourceOf(robot, wheel);
  const friction = (motor: Motor) =>
    motor.name === side.motor.name ? frictionTorqueNm(robot, side) : motor.coulombTorqueNm;
  const strength = side.strength.value * (left ? deviations.strengthLeft : deviations.strengthRight);
  const rolling = rollerSpec(wheel, known, deviations);
  const { apart } = rolling;
  return {
    xM: wheel.xM * apart - robot.chassis.centreOfMassM[0],
    yM: track * apart - robot.chassis.centreOfMassM[1],
    radiusM: (rollPerTurnM * roll) / (2 * PI),
    inertiaKgM2: wheel.inertiaKgM2,
    grip: inForce(wheel.grip, wheel.grip.value, 0).value * gripOfField,
    rollingResistance: wheel.rollingResistance,
    steered: wheel.steered,
    ...(rolling.rollers ? { rollers: rolling.rollers } : {}),
    drive: source.is === "motor" ? driveSpec(source.motor, source.train, strength, friction(source.motor)) : null,
  };
}

/**
 * Rollers of a wheel as the floor meets them, with what was found about sliding and turning put in, and how much farther
 * out its contact lies than drawn.
 */
function rollerSpec(
  wheel: Wheel,
  { slideShare, mixing, left, right, trackWidthM }: RobotInForce,
  deviations: Deviations,
): { readonly rollers: WheelRollers | null; readonly apart: number } {
  if (!wheel.rollers) return { rollers: null, apart: 1 };
  const row = rowOf(wheel);
  const across = row.left / ((slideShare?.value ?? 1) * deviations.slide);
  const size = Math.sqrt(row.forward * row.forward + across * across);
  const gripRad = atan2(across, row.forward);
  const drawnTrackM = (rowOf(right.wheel).turn - rowOf(left.wheel).turn) / rowOf(left.wheel).forward;
  const turn = mixing ? (row.turn * trackWidthM.value * deviations.trackWidth) / drawnTrackM : row.turn;
  const lever = wheel.xM * across - wheel.yM * row.forward;
  return {
    rollers: {
      gripRad,
      gripShare: 1 / size,
      freeShare: sin(wheel.aimRad - gripRad),
      friction: wheel.rollers.friction,
    },
    apart: lever === 0 ? 1 : turn / lever,
  };
}

/** True track width over the drawn one: a two-wheel robot's contact points may lie off the wheels' middles. */
function trackShare(known: RobotInForce, deviations: Deviations): number {
  return (known.trackWidthM.value * deviations.trackWidth) / (known.left.wheel.yM - known.right.wheel.yM);
}

/** Lead wheels first, left then right; the others tied to them, joined by the differential, or free. */
function wheelSpecs(making: WheelMaking): WheelSpec[] {
  const { robot, known } = making;
  const kind = driveKind(robot.drive);
  const leads = [known.left.wheel, known.right.wheel];
  const ordered = [...leads, ...robot.wheels.filter((wheel) => !leads.includes(wheel))];
  const specs = ordered.map((wheel) => wheelSpec(wheel, making));
  return specs.map((spec, i) => {
    const wheel = ordered[i] as Wheel;
    if (!spec.drive) return spec;
    const coupling = kind.coupling(robot, wheel, i);
    if (coupling.is === "own") return spec;
    if (coupling.is === "differential") return { ...spec, drive: null, differentialWith: coupling.with };
    const leadDrive = specs[coupling.to]?.drive;
    const ratio = coupling.ratio ?? (leadDrive ? leadDrive.gearRatio / spec.drive.gearRatio : 1);
    return { ...spec, drive: null, tiedTo: coupling.to, ratio };
  });
}

function rectangle(x: number, y: number, aim: number, length: number, width: number): Point[] {
  const c = cos(aim);
  const s = sin(aim);
  const at = (along: number, across: number): Point => [x + c * along - s * across, y + s * along + c * across];
  return [at(0, width / 2), at(0, -width / 2), at(length, -width / 2), at(length, width / 2)];
}

const BAR_THICK_M = 0.004;
const BAR_HALF_HEIGHT_M = 0.008;

/** Outline and heights of an attachment at an angle of its own shaft, about the centre of mass. */
export function attachmentShape(robot: Robot, part: Attachment, angleRad: number): ShapeSpec {
  const [comX, comY] = robot.chassis.centreOfMassM;
  const lifts = part.kind === "arm" || part.kind === "lid";
  const reach = lifts ? Math.max(0.004, part.lengthM * Math.abs(cos(angleRad))) : part.lengthM;
  const tip = part.kind === "arm" || part.kind === "lid" ? part.zM + part.lengthM * sin(angleRad) : part.zM;
  return {
    outlineM: rectangle(part.xM - comX, part.yM - comY, part.aimRad, reach, part.widthM),
    lowM: Math.max(0, Math.min(part.zM, tip) - 0.005),
    highM: Math.max(part.zM, tip) + 0.005,
    under: part.kind === "fork" || part.kind === "gripper" || part.kind === "spinner",
  };
}

/** Bars of sensors first, in the order of the sensors, then attachments: the world's shapes 1, 2, … */
function extraShapes(robot: Robot): ShapeSpec[] {
  const [comX, comY] = robot.chassis.centreOfMassM;
  const bars = sensorsWithBars(robot.sensors).flatMap((sensor): ShapeSpec[] => {
    const bar = sensorKind(sensor).bar?.(sensor);
    if (!bar) return [];
    const { xM, yM, zM, aimRad, widthM } = bar;
    const x = xM - comX - BAR_THICK_M * cos(aimRad);
    const y = yM - comY - BAR_THICK_M * sin(aimRad);
    return [
      {
        outlineM: rectangle(x, y, aimRad, BAR_THICK_M, widthM),
        lowM: Math.max(0, zM - BAR_HALF_HEIGHT_M),
        highM: zM + BAR_HALF_HEIGHT_M,
      },
    ];
  });
  return [...bars, ...robot.attachments.map((part) => attachmentShape(robot, part, Math.max(0, part.lowRad)))];
}

function steeringSpec(robot: Robot, known: RobotInForce, deviations: Deviations): SteeringSpec | null {
  const { steering } = known;
  const steered = robot.wheels.filter((wheel) => wheel.steered);
  if (!steering || steered.length < 2) return null;
  const ys = steered.map((wheel) => wheel.yM);
  return {
    wheelbaseM: steering.wheelbaseM.value,
    trackWidthM: Math.max(...ys) - Math.min(...ys),
    mostRad: steering.mostRad,
    rateRadS: steering.rateRadS,
    locked: steering.locked,
    offsetRad: deviations.steeringRad,
  };
}

/** Solid things of a field as the physics takes them. */
function fixedThings(field: Field): Pick<WorldSpec, "segments" | "segmentHeightsM" | "discs" | "loads" | "ramps"> {
  const faces = solidFaces(field);
  return {
    segments: faces.map(({ ends }) => ends),
    segmentHeightsM: faces.map(({ heightM }) => heightM),
    discs: field.boulders.map(({ xM, yM, radiusM, heightM }) => ({ xM, yM, radiusM, heightM })),
    loads: field.loads,
    ramps: field.ramps,
  };
}

/** Yaw inertia about the centre of mass, kg m². */
function yawInertia(robot: Robot): number {
  const { centreOfMassM, outlineM, inertiaKgM2, massKg } = robot.chassis;
  return inertiaKgM2 ?? massKg * gyrationM2(outlineM, [centreOfMassM[0], centreOfMassM[1]]);
}

/** @returns the world with wheel 0 left and wheel 1 right, at rest in the origin */
export function worldFromRobot(robot: Robot, field: Field, deviations: Deviations): World {
  const known = robotInForce(robot);
  const [comX, comY, comHeightM] = robot.chassis.centreOfMassM;
  const { support } = robot;
  const supportSpec = support && {
    xM: support.xM - comX,
    yM: support.yM - comY,
    friction: support.friction,
    ...(support.kind === "caster" ? { trailM: support.trailM } : {}),
  };
  return new World({
    massKg: robot.chassis.massKg,
    inertiaKgM2: yawInertia(robot),
    comHeightM,
    outlineM: counterClockwise(robot.chassis.outlineM).map(([x, y]): Point => [x - comX, y - comY]),
    lowM: robot.chassis.clearanceM,
    highM: robot.chassis.heightM,
    shapes: extraShapes(robot),
    wallFriction: robot.chassis.wallFriction,
    wheels: wheelSpecs({ robot, known, deviations, gripOfField: field.surface.grip * deviations.grip }),
    casters: supportSpec ? [supportSpec] : [],
    steering: steeringSpec(robot, known, deviations),
    battery: {
      cells: robot.pack.cells,
      internalResistanceOhm: robot.pack.internalResistanceOhm,
      capacityAh: robot.pack.capacityAh,
      curve: cellCurve(robot.pack.chemistry),
    },
    charge: deviations.charge,
    driverDropVolts: robot.board.driverDropVolts,
    boardCurrentA: robot.board.currentA,
    brownOutVolts: robot.board.brownOutVolts,
    ...fixedThings(field),
  });
}

/** Pose of the centre of mass when the robot's frame (the middle of its axle) stands at `pose`. */
export function bodyPose(robot: Robot, pose: Pose): Pose {
  const [x, y] = robot.chassis.centreOfMassM;
  return composePoses(pose, { xM: x, yM: y, headingRad: 0 });
}

/** Pose of the robot's frame in a world made by worldFromRobot. */
export function robotPose(robot: Robot, world: World): Pose {
  const [x, y] = robot.chassis.centreOfMassM;
  return composePoses({ xM: world.xM, yM: world.yM, headingRad: world.headingRad }, { xM: -x, yM: -y, headingRad: 0 });
}
