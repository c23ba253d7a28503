// The gear bench: what a choice of teeth does between one motor and its wheel. Speed against push at the wheel
// is a straight line from stall to free speed; the working points lie on or under it.

import { type DriveModel, driveModel } from "../control/driveModel.js";
import type { Stage } from "../drives/parts.js";
import { stagesTrain } from "../drives/train.js";
import { robotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import { EVEN_START, pullAwayMargin } from "./figures.js";
import { straightOf } from "./straight.js";

interface WorkingPoint {
  readonly id: "start" | "cruise" | "push" | "stall";
  readonly label: string;
  readonly speedMS: number;
  /** Of one side. */
  readonly pushN: number;
}

export interface GearChoice {
  readonly stages: readonly Stage[];
  /** Motor shaft turns for one wheel turn, from the teeth alone. */
  readonly ratio: number;
  readonly flips: boolean;
  readonly topSpeedMS: number;
  readonly freeSpeedMS: number;
  readonly stallN: number;
  /** Of the wheel: torque on it is push times this. */
  readonly radiusM: number;
  readonly points: readonly WorkingPoint[];
  readonly marginFull: number;
  readonly marginTired: number;
  readonly startsEvenly: boolean;
  /** What the choice means, in one or two sentences. */
  readonly verdict: string;
}

/** Same robot with other teeth between its motors and their wheels. */
function withStages(robot: Robot, stages: readonly Stage[]): Robot {
  const motors = new Set(robot.motors.map((motor) => motor.name));
  return {
    ...robot,
    wheels: robot.wheels.map((wheel) =>
      wheel.drivenBy !== null && motors.has(wheel.drivenBy) ? { ...wheel, stages: [...stages] } : wheel,
    ),
  };
}

function points(robot: Robot, model: DriveModel): WorkingPoint[] {
  const known = robotInForce(robot);
  const straight = straightOf(robot, known, model);
  const side = straight.ahead(model.left);
  const slipN = straight.holdsN / straight.motors;
  const stallN = model.nominalVolts / side.voltsPerNewton;
  const pushN = Math.min(slipN, stallN);
  return [
    { id: "start", label: "start", speedMS: 0, pushN: side.frictionN * EVEN_START },
    { id: "cruise", label: "cruise", speedMS: model.cruiseMS, pushN: side.frictionN },
    {
      id: "push",
      label: slipN < stallN ? "push, wheels slip" : "push",
      speedMS: Math.max(0, (model.nominalVolts - side.voltsPerNewton * pushN) / side.voltsPerSpeed),
      pushN,
    },
    { id: "stall", label: "stall", speedMS: 0, pushN: stallN },
  ];
}

/** One choice of stages, worked out. @throws RangeError for a robot without driven wheels */
export function gearChoice(robot: Robot, stages: readonly Stage[], fullVolts: number, tiredVolts: number): GearChoice {
  const changed = withStages(robot, stages);
  const model = driveModel(changed);
  const side = straightOf(changed, robotInForce(changed), model).ahead(model.left);
  const train = stagesTrain(stages);
  const marginFull = pullAwayMargin(side, fullVolts);
  const marginTired = pullAwayMargin(side, tiredVolts);
  const startsEvenly = marginTired >= EVEN_START;
  const speed = `${(model.topSpeedMS * 100).toFixed(0)} cm/s`;
  return {
    stages,
    ratio: train.ratio,
    flips: train.flips,
    topSpeedMS: model.topSpeedMS,
    freeSpeedMS: model.nominalVolts / side.voltsPerSpeed,
    stallN: model.nominalVolts / side.voltsPerNewton,
    radiusM: side.radiusM,
    points: points(changed, model),
    marginFull,
    marginTired,
    startsEvenly,
    verdict: startsEvenly
      ? `${speed}, with ×${marginTired.toFixed(1)} left to pull away on a tired pack.`
      : `${speed}, but gearing for speed leaves little to pull away with: at ${tiredVolts.toFixed(1)} V it starts unevenly and pulls to one side (×${marginTired.toFixed(1)}).`,
  };
}

/** Teeth as people say them: "20 : 12", or "straight" without gears. */
export function teethWords(stages: readonly Stage[]): string {
  if (stages.length === 0) return "straight";
  return stages.map((stage) => `${stage.driverTeeth} : ${stage.drivenTeeth}`).join(", ");
}
