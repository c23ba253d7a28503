// The physical world of a robot document on a field, with every deviation of one run put in.

import { solidSegments } from "../field/edges.js";
import type { Field } from "../field/schema.js";
import { counterClockwise, gyrationM2 } from "../geometry/polygon.js";
import { composePoses, type Point, type Pose } from "../geometry/pose.js";
import { PI } from "../math/trig.js";
import type { SideInForce } from "../robot/inForce.js";
import { robotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import { LITHIUM_CELL } from "./battery.js";
import { deriveMotor } from "./motor.js";
import type { WheelSpec } from "./parts.js";
import { World } from "./world.js";

/** How one run differs from the values in force: factors (1 is none) and the charge at its start. */
export interface Deviations {
  readonly rollLeft: number;
  readonly rollRight: number;
  readonly trackWidth: number;
  readonly strengthLeft: number;
  readonly strengthRight: number;
  readonly grip: number;
  readonly charge: number;
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
  };
}

/** Turns of a wheel's motor output shaft for one turn of the wheel, with sign: each gear stage flips it. */
export function gearTrain(wheel: SideInForce["wheel"]): { ratio: number; efficiency: number; flips: boolean } {
  let ratio = 1;
  let efficiency = 1;
  for (const stage of wheel.gears) {
    ratio *= stage.drivenTeeth / stage.driverTeeth;
    efficiency *= stage.efficiency;
  }
  return { ratio, efficiency, flips: wheel.gears.length % 2 === 1 };
}

function wheelSpec(
  side: SideInForce,
  robot: Robot,
  fieldGrip: number,
  roll: number,
  track: number,
  strength: number,
  trackWidthM: number,
): WheelSpec {
  const { wheel, motor } = side;
  const derived = deriveMotor(motor);
  if (!derived.ok) throw new RangeError(`motor "${motor.name}": ${derived.message}`);
  const train = gearTrain(wheel);
  const share = side.strength.value * strength;
  const half = (trackWidthM * track) / 2;
  return {
    xM: wheel.xM - robot.chassis.centreOfMassM[0],
    yM: (wheel.side === "left" ? half : -half) - robot.chassis.centreOfMassM[1],
    radiusM: (side.rollPerTurnM.value * roll) / (2 * PI),
    inertiaKgM2: wheel.inertiaKgM2,
    grip: side.grip.value * fieldGrip,
    rollingResistance: wheel.rollingResistance,
    drive: {
      // A weaker motor gives less torque for its current; its back voltage, and so its free speed, stays.
      constants: { ...derived.constants, torqueConstant: derived.constants.torqueConstant * share },
      gearRatio: motor.gearboxRatio * train.ratio,
      efficiency: motor.gearboxEfficiency * train.efficiency,
      coulombTorqueNm: motor.coulombTorqueNm,
      viscousNmS: motor.viscousNmS,
      rotorInertiaKgM2: motor.rotorInertiaKgM2,
    },
  };
}

/** @returns the world with wheel 0 left and wheel 1 right, at rest in the origin */
export function worldFromRobot(robot: Robot, field: Field, deviations: Deviations): World {
  const known = robotInForce(robot);
  const [comX, comY, comHeightM] = robot.chassis.centreOfMassM;
  const outlineM = counterClockwise(robot.chassis.outlineM).map(([x, y]): Point => [x - comX, y - comY]);
  const fieldGrip = field.surface.grip * deviations.grip;
  const wheel = (side: SideInForce, roll: number, strength: number) =>
    wheelSpec(side, robot, fieldGrip, roll, deviations.trackWidth, strength, known.trackWidthM.value);
  return new World({
    massKg: robot.chassis.massKg,
    inertiaKgM2: robot.chassis.inertiaKgM2 ?? robot.chassis.massKg * gyrationM2(outlineM, [0, 0]),
    comHeightM,
    outlineM,
    wallFriction: robot.chassis.wallFriction,
    wheels: [
      wheel(known.left, deviations.rollLeft, deviations.strengthLeft),
      wheel(known.right, deviations.rollRight, deviations.strengthRight),
    ],
    casters: [{ xM: robot.support.xM - comX, yM: robot.support.yM - comY, friction: robot.support.friction }],
    battery: {
      cells: robot.pack.cells,
      internalResistanceOhm: robot.pack.internalResistanceOhm,
      capacityAh: robot.pack.capacityAh,
      curve: LITHIUM_CELL,
    },
    charge: deviations.charge,
    driverDropVolts: robot.board.driverDropVolts,
    boardCurrentA: robot.board.currentA,
    segments: solidSegments(field),
    discs: field.boulders.map(({ xM, yM, radiusM }) => ({ xM, yM, radiusM })),
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
