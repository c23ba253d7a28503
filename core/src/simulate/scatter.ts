// How runs differ from one another: every draw of one run, from its seed. All sizes can be set; ideal
// rehearsals use none.

import * as z from "zod";
import type { LinearRgb } from "../field/colours.js";
import type { RandomStream } from "../math/random.js";
import { PI } from "../math/trig.js";
import { type RobotInForce, robotInForce } from "../robot/inForce.js";
import { PLACING, type PlacedBy, placedBy } from "../robot/placing.js";
import type { Robot } from "../robot/schema.js";
import { eyeOffset } from "../sensors/kinds/eye.js";
import { nearThreshold } from "../sensors/kinds/near.js";
import type { Deviations } from "./fromRobot.js";
import { noDeviations } from "./fromRobot.js";

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

/** What can be changed about one draw, by its key: how wide it scatters, and by how many standard errors it is off. */
interface Adjustment {
  readonly width: number;
  readonly shift: number;
}
export type Adjustments = Readonly<Record<string, Adjustment>>;

/** Everything one run is dealt. */
export interface RunDraw {
  readonly deviations: Deviations;
  readonly startXM: number;
  readonly startYM: number;
  readonly startRad: number;
  readonly gyroScale: number;
  /** For turning clockwise, where that differs. */
  readonly gyroScaleClockwise?: number;
  readonly gyroRestRadS: number;
  readonly bumpRad: number;
  readonly sensorNoise: number;
  /** Of each eye by its name, beyond its known offset, m; and of each near sensor's threshold, a factor. */
  readonly eyeOffsetsM: ReadonlyMap<string, number>;
  readonly nearFactors: ReadonlyMap<string, number>;
  /** Of each tag reader: factors on the red, green and blue it sees, where they are known to differ. */
  readonly tagGains?: ReadonlyMap<string, LinearRgb>;
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

/**
 * Draws one run; the order of draws is part of the core's version. Adjustments change single draws and leave the
 * others of the same seed as they are, so that two studies differ by that one thing only.
 * @param put - how the begin place says that one is put down; null as the robot's placing was measured
 */
export function drawRun(
  robot: Robot,
  scatter: Scatter,
  chance: RandomStream,
  adjustments: Adjustments = {},
  put: PlacedBy | null = null,
): RunDraw {
  const known: RobotInForce = robotInForce(robot);
  const deal = (key: string): number => {
    const normal = chance.normal();
    const adjusted = adjustments[key];
    return adjusted ? normal * adjusted.width + adjusted.shift : normal;
  };
  const factor = (key: string, error: number, runToRun: number) =>
    1 + scatter.knowns * error * deal(key) + runToRun * chance.normal();
  const width = (key: string) => adjustments[key]?.width ?? 1;
  const { left, right } = known;
  const deviations: Deviations = {
    rollLeft: factor("roll left", relative(left.rollPerTurnM), scatter.rollShare),
    rollRight: factor("roll right", relative(right.rollPerTurnM), scatter.rollShare),
    trackWidth: factor("track width", relative(known.trackWidthM), 0),
    strengthLeft: Math.max(0.2, factor("strength left", relative(left.strength), scatter.strengthShare)),
    strengthRight: Math.max(0.2, factor("strength right", relative(right.strength), scatter.strengthShare)),
    grip: Math.max(0.2, factor("grip", relative(left.grip), scatter.gripShare)),
    charge: Math.max(0.05, Math.min(1, robot.pack.charge + scatter.charge * deal("charge"))),
    steeringRad: known.steering ? scatter.knowns * known.steering.centreRad.standardError * deal("steering centre") : 0,
    slide: known.slideShare ? factor("slide", relative(known.slideShare), 0) : 1,
  };
  const scale = known.gyro ? known.gyro.scale.value * factor("gyro scale", relative(known.gyro.scale), 0) : 1;
  const rest = known.gyro
    ? known.gyro.restRadS.value + scatter.knowns * known.gyro.restRadS.standardError * deal("gyro rest")
    : 0;
  const placing =
    put === null || put === placedBy(robot)
      ? { positionM: known.placementM, headingRad: known.placementRad }
      : PLACING[put];
  const start = {
    startXM: scatter.placement * placing.positionM * deal("place"),
    startYM: scatter.placement * placing.positionM * deal("place"),
    startRad: scatter.placement * placing.headingRad * deal("heading"),
  };
  const eyeOffsetsM = new Map<string, number>();
  const nearFactors = new Map<string, number>();
  for (const sensor of robot.sensors) {
    if (sensor.kind === "eye")
      eyeOffsetsM.set(sensor.name, scatter.knowns * eyeOffset(sensor).standardError * deal(`offset of ${sensor.name}`));
    if (sensor.kind === "near")
      nearFactors.set(sensor.name, factor(`threshold of ${sensor.name}`, relative(nearThreshold(sensor)), 0));
  }
  return {
    deviations,
    ...start,
    gyroScale: scale,
    gyroRestRadS: rest,
    bumpRad: scatter.bumpRad * width("floor"),
    sensorNoise: scatter.sensorNoise * width("noise"),
    eyeOffsetsM,
    nearFactors,
  };
}

/** One thing that could be better known or done: its key among the draws, and its words. */
export interface Lever {
  readonly key: string;
  readonly words: string;
  /** It has a standard error, and so can be off by one. */
  readonly shifts: boolean;
}

/** What a robot's runs scatter by, in the order of the draws; what does not scatter is left out. */
export function leversOf(robot: Robot, scatter: Scatter): Lever[] {
  const known = robotInForce(robot);
  const { left, right, steering, gyro } = known;
  const knowns = (error: number) => scatter.knowns * error > 0;
  const list: (Lever | null)[] = [
    knowns(left.rollPerTurnM.standardError)
      ? { key: "roll left", words: "size of the left wheel", shifts: true }
      : null,
    knowns(right.rollPerTurnM.standardError)
      ? { key: "roll right", words: "size of the right wheel", shifts: true }
      : null,
    knowns(known.trackWidthM.standardError) ? { key: "track width", words: "track width", shifts: true } : null,
    knowns(left.strength.standardError)
      ? { key: "strength left", words: "strength of the left motor", shifts: true }
      : null,
    knowns(right.strength.standardError)
      ? { key: "strength right", words: "strength of the right motor", shifts: true }
      : null,
    knowns(left.grip.standardError) ? { key: "grip", words: "grip of the wheels", shifts: true } : null,
    scatter.charge > 0 ? { key: "charge", words: "charge of the pack", shifts: true } : null,
    steering && knowns(steering.centreRad.standardError)
      ? { key: "steering centre", words: "centre of the steering", shifts: true }
      : null,
    known.slideShare && knowns(known.slideShare.standardError)
      ? { key: "slide", words: "way it slides", shifts: true }
      : null,
    gyro && knowns(gyro.scale.standardError) ? { key: "gyro scale", words: "scale of the gyro", shifts: true } : null,
    gyro && knowns(gyro.restRadS.standardError)
      ? { key: "gyro rest", words: "rest drift of the gyro", shifts: true }
      : null,
    scatter.placement * known.placementM > 0 ? { key: "place", words: "place it is put down on", shifts: true } : null,
    scatter.placement * known.placementRad > 0
      ? { key: "heading", words: "heading it is put down with", shifts: true }
      : null,
    ...robot.sensors.map((sensor): Lever | null =>
      sensor.kind === "eye" && knowns(eyeOffset(sensor).standardError)
        ? { key: `offset of ${sensor.name}`, words: `distance offset of ${sensor.name}`, shifts: true }
        : sensor.kind === "near" && knowns(nearThreshold(sensor).standardError)
          ? { key: `threshold of ${sensor.name}`, words: `threshold of ${sensor.name}`, shifts: true }
          : null,
    ),
    scatter.bumpRad > 0 ? { key: "floor", words: "evenness of the floor", shifts: false } : null,
    scatter.sensorNoise > 0 ? { key: "noise", words: "noise of the sensors", shifts: false } : null,
  ];
  return list.filter((lever): lever is Lever => lever !== null);
}
