// From a wheel back to the motor that turns it: through gears, belts, chains, and other wheels it is tied to.
import type { Motor, Robot, Stage, Wheel } from "./schema.js";

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
export function sourceOf(robot: Robot, wheel: Wheel): Source {
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
export function gearTrain(robot: Robot, wheel: Wheel): Train {
  const source = sourceOf(robot, wheel);
  if (source.is !== "motor") throw new RangeError(`wheel "${wheel.name}" is not driven by a motor`);
  return source.train;
}

/**
 * Whether a motor has to be reversed for positive duty to roll its wheel forward. Seen from its end a shaft turns
 * left round: on the left, pointing out, that is forward; on the right it is back. Pointing in, and every pair of
 * gears, turn it about; belts and chains do not.
 */
export function needsReversing(robot: Robot, { wheel, motor }: { wheel: Wheel; motor: Motor }): boolean {
  const inward = motor.shaft === "inward";
  return (wheel.side === "right") !== (inward !== gearTrain(robot, wheel).flips);
}

/** The wheel and motor that lead a side. The one motor of a car type is taken to sit on its left. */
function leadOf(robot: Robot, side: "left" | "right"): { wheel: Wheel; motor: Motor } | undefined {
  return leadWheel(robot, robot.drive.kind === "car" ? "left" : side) ?? undefined;
}

/** 1 where a motor's positive voltage rolls a side forward as it is mounted, -1 where backwards; 1 without a motor. */
export function mountSign(robot: Robot, side: "left" | "right"): 1 | -1 {
  const lead = leadOf(robot, side);
  return lead && needsReversing(robot, lead) ? -1 : 1;
}

/** 1 where the board gives a side's motor what the program says, -1 where it turns it about. */
export function boardSign(robot: Robot, side: "left" | "right"): 1 | -1 {
  return leadOf(robot, side)?.motor.reversed ? -1 : 1;
}

/** The wheel and motor of each side that drives; of a car type the one of its left. */
export function leads(robot: Robot): { wheel: Wheel; motor: Motor }[] {
  const sides = robot.drive.kind === "car" ? (["left"] as const) : (["left", "right"] as const);
  return sides.flatMap((side) => leadWheel(robot, side) ?? []);
}

/** Motors that would turn their wheel backwards as they are mounted. */
export function backwardsMotors(robot: Robot): Motor[] {
  return leads(robot)
    .filter((lead) => lead.motor.reversed !== needsReversing(robot, lead))
    .map(({ motor }) => motor);
}

/** The wheel that stands for a side: the first one driven there, one turned by a motor itself before tied ones. */
export function leadWheel(robot: Robot, side: "left" | "right"): { wheel: Wheel; motor: Motor } | null {
  const found = robot.wheels.flatMap((wheel) => {
    const source = wheel.side === side ? sourceOf(robot, wheel) : null;
    return source?.is === "motor" ? [{ wheel, motor: source.motor }] : [];
  });
  return found.find(({ wheel, motor }) => wheel.drivenBy === motor.name) ?? found[0] ?? null;
}
