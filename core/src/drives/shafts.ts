// The shafts of a drive, each with the wheel that stands for it and the motor that turns it: left, right, then the others.
import { type DriveKindName, driveKind } from "./kinds.js";
import type { Motor } from "./parts.js";
import { drivenWheels, type Lead, leadWheel, needsReversing, type Rolling, sourceOf } from "./train.js";

/** As much of a robot as tells its shafts. */
type Driven = Rolling & { readonly drive: { readonly kind: DriveKindName } };

/** Wheel and motor of each shaft that drives; of a car type the one of its left. What is missing is left out. */
export function shaftsOf(robot: Driven): Lead[] {
  const { motors } = driveKind(robot.drive);
  const sides = motors === 1 ? (["left"] as const) : (["left", "right"] as const);
  const leads = sides.flatMap((side) => leadWheel(robot, side) ?? []);
  if (motors <= 2) return leads;
  const others = drivenWheels(robot).flatMap((wheel): Lead[] => {
    const source = sourceOf(robot, wheel);
    const own = source.is === "motor" && !leads.some((lead) => lead.wheel.name === wheel.name);
    return own ? [{ wheel, motor: source.motor }] : [];
  });
  return [...leads, ...others];
}

/** 1 where a motor's positive voltage rolls its wheel forward as it is mounted, -1 where backwards. */
export function mountSign(robot: Rolling, lead: Lead | undefined): 1 | -1 {
  return lead && needsReversing(robot, lead) ? -1 : 1;
}

/** 1 where the board gives a motor what the program says, -1 where it turns it about. */
export function boardSign(lead: Lead | undefined): 1 | -1 {
  return lead?.motor.reversed ? -1 : 1;
}

/** Motors that would turn their wheel backwards as they are mounted. */
export function backwardsMotors(robot: Driven): Motor[] {
  return shaftsOf(robot)
    .filter((lead) => lead.motor.reversed !== needsReversing(robot, lead))
    .map(({ motor }) => motor);
}
