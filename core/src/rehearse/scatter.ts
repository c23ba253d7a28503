// How runs differ from one another: every draw of one run, from its seed. All sizes can be set; ideal
// rehearsals use none.
import { z } from "zod";
import type { RandomStream } from "../math/random.js";
import { PI } from "../math/trig.js";
import type { Deviations } from "../physics/fromRobot.js";
import { noDeviations } from "../physics/fromRobot.js";
import { eyeOffset, nearThreshold, type RobotInForce, robotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";

const share = z.number().nonnegative();

/** Standard deviations from run to run, on top of the standard errors of the robot's knowns. */
export const scatterSchema = z.object({
  /** 1 draws the knowns within their standard error, 0 takes them as exact. */
  knowns: share.default(1),
  /** 1 places the robot as exactly as its placement known says, 0 exactly. */
  placement: share.default(1),
  rollShare: share.default(0.0003),
  strengthShare: share.default(0.003),
  gripShare: share.default(0.05),
  /** Heading wander from bumps, rad for the square root of a metre. */
  bumpRad: share.default((0.35 * PI) / 180),
  charge: share.default(0.03),
  /** 1 for the sensors' own noise, 0 for none. */
  sensorNoise: share.default(1),
});

export type Scatter = z.infer<typeof scatterSchema>;

export function usualScatter(): Scatter {
  return scatterSchema.parse({});
}

/** Everything one run is dealt. */
export interface RunDraw {
  readonly deviations: Deviations;
  readonly startXM: number;
  readonly startYM: number;
  readonly startRad: number;
  readonly gyroScale: number;
  readonly gyroRestRadS: number;
  readonly bumpRad: number;
  readonly sensorNoise: number;
  /** Of each eye by its name, beyond its known offset, m; and of each near sensor's threshold, a factor. */
  readonly eyeOffsetsM: ReadonlyMap<string, number>;
  readonly nearFactors: ReadonlyMap<string, number>;
}

/** The run in which everything is as believed. */
export function idealDraw(robot: Robot): RunDraw {
  const { gyro } = robotInForce(robot);
  return {
    deviations: noDeviations(robot),
    startXM: 0,
    startYM: 0,
    startRad: 0,
    gyroScale: gyro?.scale.value ?? 1,
    gyroRestRadS: gyro?.restRadS.value ?? 0,
    bumpRad: 0,
    sensorNoise: 0,
    eyeOffsetsM: new Map(),
    nearFactors: new Map(),
  };
}

function relative(known: { value: number; standardError: number }): number {
  return known.value === 0 ? 0 : known.standardError / known.value;
}

/** Draws one run; the order of draws is part of the core's version. */
export function drawRun(robot: Robot, scatter: Scatter, chance: RandomStream): RunDraw {
  const known: RobotInForce = robotInForce(robot);
  const factor = (error: number, runToRun: number) =>
    1 + scatter.knowns * error * chance.normal() + runToRun * chance.normal();
  const { left, right } = known;
  const deviations: Deviations = {
    rollLeft: factor(relative(left.rollPerTurnM), scatter.rollShare),
    rollRight: factor(relative(right.rollPerTurnM), scatter.rollShare),
    trackWidth: factor(relative(known.trackWidthM), 0),
    strengthLeft: Math.max(0.2, factor(relative(left.strength), scatter.strengthShare)),
    strengthRight: Math.max(0.2, factor(relative(right.strength), scatter.strengthShare)),
    grip: Math.max(0.2, factor(relative(left.grip), scatter.gripShare)),
    charge: Math.max(0.05, Math.min(1, robot.pack.charge + scatter.charge * chance.normal())),
    steeringRad: known.steering ? scatter.knowns * known.steering.centreRad.standardError * chance.normal() : 0,
  };
  const scale = known.gyro ? known.gyro.scale.value * factor(relative(known.gyro.scale), 0) : 1;
  const rest = known.gyro
    ? known.gyro.restRadS.value + scatter.knowns * known.gyro.restRadS.standardError * chance.normal()
    : 0;
  const start = {
    startXM: scatter.placement * known.placementM * chance.normal(),
    startYM: scatter.placement * known.placementM * chance.normal(),
    startRad: scatter.placement * known.placementRad * chance.normal(),
  };
  const eyeOffsetsM = new Map<string, number>();
  const nearFactors = new Map<string, number>();
  for (const sensor of robot.sensors) {
    if (sensor.kind === "eye")
      eyeOffsetsM.set(sensor.name, scatter.knowns * eyeOffset(sensor).standardError * chance.normal());
    if (sensor.kind === "near") nearFactors.set(sensor.name, factor(relative(nearThreshold(sensor)), 0));
  }
  return {
    deviations,
    ...start,
    gyroScale: scale,
    gyroRestRadS: rest,
    bumpRad: scatter.bumpRad,
    sensorNoise: scatter.sensorNoise,
    eyeOffsetsM,
    nearFactors,
  };
}
