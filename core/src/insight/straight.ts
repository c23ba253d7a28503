// What pushes a robot straight ahead, told by its way: motors with their wheels, the mass each pushes, and what the floor
// holds. Roller wheels that stand aslant push with a part of what they do.
import type { DriveModel, SideModel } from "../control/driveModel.js";
import { driveKind } from "../drives/kinds.js";
import { driveWeightN } from "../robot/found.js";
import type { RobotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";

export interface Straight {
  /** Motors that push ahead. */
  readonly motors: number;
  /** Mass each of them pushes, spinning parts included, kg. */
  readonly massKg: number;
  /** Most that the floor holds along the way, N. */
  readonly holdsN: number;
  /** A wheel with its motor, told by the robot's way instead of by its rim. */
  ahead(side: SideModel): SideModel;
}

export function straightOf(robot: Robot, known: RobotInForce, model: DriveModel): Straight {
  const gripN = known.left.grip.value * driveWeightN(robot, known.left.wheel.xM);
  const rows = known.mixing?.rows;
  const lead = Math.abs(rows?.[0]?.forward ?? 1);
  if (!rows || lead === 0)
    return {
      motors: driveKind(robot.drive).motors,
      massKg: model.sideMassKg,
      holdsN: gripN,
      ahead: (side) => side,
    };
  // Each wheel holds along its rollers' axle only, with its part of the weight.
  const held = rows.reduce(
    (sum, { forward, left }) => sum + Math.abs(forward) / Math.sqrt(forward ** 2 + left ** 2),
    0,
  );
  return {
    motors: rows.reduce((sum, { forward }) => sum + Math.abs(forward), 0) / lead,
    massKg: model.sideMassKg * lead * lead,
    holdsN: (gripN * held) / rows.length,
    ahead: (side) => ({
      ...side,
      voltsPerSpeed: side.voltsPerSpeed * lead,
      voltsPerNewton: side.voltsPerNewton / lead,
      frictionN: side.frictionN * lead,
    }),
  };
}
