// A goal that asks where the robot stands, judged by where a tape found it instead of where it reckons to be.
import type { Expression, Mission } from "../cairn/tree.js";
import type { Field } from "../field/schema.js";
import { shapeHolds } from "../field/zones.js";
import type { Pose } from "../geometry/pose.js";
import type { Robot } from "../robot/schema.js";

export interface TapeJudgement {
  readonly zone: string;
  readonly inside: boolean;
  /** The goal asks for nothing else. */
  readonly alone: boolean;
}

/** Zones that a goal needs the robot in, whatever else it asks. */
function zonesNeeded(goal: Expression): readonly string[] {
  if (goal.type === "inside") return [goal.zone];
  if (goal.type === "group") return zonesNeeded(goal.inner);
  return goal.type === "logic" && goal.operator === "and" ? goal.parts.flatMap(zonesNeeded) : [];
}

/**
 * Whether the tape finds the robot in the zones that its mission's goal needs it in: the first it is outside of, else
 * the last it is in.
 * @param pose - where the tape found it, field frame
 * @returns null when the goal does not ask for the robot's place
 */
export function judgedByTape(mission: Mission, field: Field, robot: Robot, pose: Pose): TapeJudgement | null {
  const goal = mission.goal?.condition;
  if (!goal) return null;
  const zones = zonesNeeded(goal).flatMap((name) => {
    const zone = field.zones.find((one) => one.name === name);
    return zone?.counts === "robot" ? [zone] : [];
  });
  const alone = goal.type === "inside";
  const judged = zones.map(({ name, shape }): TapeJudgement => {
    return { zone: name, inside: shapeHolds(shape, robot.chassis.outlineM, pose), alone };
  });
  return judged.find(({ inside }) => !inside) ?? judged[judged.length - 1] ?? null;
}
