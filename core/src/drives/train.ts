// From a wheel back to the motor that turns it: through gears, belts, chains, and other wheels it is tied to.
import { cos, sin } from "../math/trig.js";
import type { Motor, Stage, Wheel } from "./parts.js";

/** Parts that roll, and what turns them. */
export interface Rolling {
  readonly wheels: readonly Wheel[];
  readonly motors: readonly Motor[];
}

/** A wheel with the motor that turns it. */
export interface Lead {
  readonly wheel: Wheel;
  readonly motor: Motor;
}

export interface Train {
  /** Turns of the motor's output shaft for one turn of the wheel, > 0. */
  readonly ratio: number;
  readonly efficiency: number;
  /** Whether a positive turn of the shaft turns the wheel backwards: each pair of gears flips once. */
  readonly flips: boolean;
  /** Free play between shaft and wheel, at the wheel, rad. */
  readonly backlashRad: number;
  /** Torque at the wheel at which the weakest belt slips, N m; infinite without belts. */
  readonly slipTorqueNm: number;
}

export type Source =
  | { readonly is: "motor"; readonly motor: Motor; readonly train: Train }
  /** Rolls freely. */
  | { readonly is: "free" }
  | { readonly is: "unknown"; readonly name: string }
  /** Driven by itself, through the named parts in order. */
  | { readonly is: "loop"; readonly names: readonly string[] };

/** What a chain of stages does together, first stage next to the motor. */
export function stagesTrain(stages: readonly Stage[]): Train {
  let ratio = 1;
  let efficiency = 1;
  let flips = false;
  let backlashRad = 0;
  let slipTorqueNm = Number.POSITIVE_INFINITY;
  for (const stage of stages) {
    const step = stage.drivenTeeth / stage.driverTeeth;
    ratio *= step;
    efficiency *= stage.efficiency;
    if (stage.kind === "gears") flips = !flips;
    // Play and slip of an earlier shaft reach the wheel divided and multiplied by what follows.
    backlashRad = backlashRad / step + stage.backlashRad;
    slipTorqueNm = Math.min(slipTorqueNm * step * stage.efficiency, stage.slipTorqueNm ?? Number.POSITIVE_INFINITY);
  }
  return { ratio, efficiency, flips, backlashRad, slipTorqueNm };
}

/** Where a wheel's turning comes from. */
export function sourceOf(robot: Rolling, wheel: Wheel): Source {
  const stages: Stage[] = [...wheel.stages];
  const names = [wheel.name];
  let from = wheel.drivenBy;
  while (from !== null) {
    const name = from;
    const motor = robot.motors.find((candidate) => candidate.name === name);
    if (motor) return { is: "motor", motor, train: stagesTrain(stages) };
    const next = robot.wheels.find((candidate) => candidate.name === name);
    if (!next) return { is: "unknown", name };
    names.push(name);
    if (names.indexOf(name) < names.length - 1) return { is: "loop", names };
    stages.unshift(...next.stages);
    from = next.drivenBy;
  }
  return { is: "free" };
}

/** The train of a wheel that a motor drives. @throws RangeError for any other wheel */
export function gearTrain(robot: Rolling, wheel: Wheel): Train {
  const source = sourceOf(robot, wheel);
  if (source.is !== "motor") throw new RangeError(`wheel "${wheel.name}" is not driven by a motor`);
  return source.train;
}

/** Wheels that a motor turns, itself or through others. */
export function drivenWheels(robot: Rolling): Wheel[] {
  return robot.wheels.filter((wheel) => sourceOf(robot, wheel).is === "motor");
}

/** Whether the robot's middle lies on the left of a wheel that looks where it rolls. */
export function isOnRight({ side, xM, yM, aimRad }: Wheel): boolean {
  return aimRad === 0 ? side === "right" : yM * cos(aimRad) - xM * sin(aimRad) < 0;
}

/**
 * Whether a motor has to be reversed for positive duty to roll its wheel forward. Seen from its end a shaft turns
 * left round: on the left, pointing out, that is forward; on the right it is back. Pointing in, and every pair of
 * gears, turn it about; belts and chains do not.
 */
export function needsReversing(robot: Rolling, { wheel, motor }: Lead): boolean {
  const inward = motor.shaft === "inward";
  return isOnRight(wheel) !== (inward !== gearTrain(robot, wheel).flips);
}

/** The wheel that stands for a side: the first one driven there, one turned by a motor itself before tied ones. */
export function leadWheel(robot: Rolling, side: "left" | "right"): Lead | null {
  const found = robot.wheels.flatMap((wheel) => {
    const source = wheel.side === side ? sourceOf(robot, wheel) : null;
    return source?.is === "motor" ? [{ wheel, motor: source.motor }] : [];
  });
  return found.find(({ wheel, motor }) => wheel.drivenBy === motor.name) ?? found[0] ?? null;
}
