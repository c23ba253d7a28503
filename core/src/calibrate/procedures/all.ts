// Every calibration procedure, in the order people do them.
import type { Procedure } from "../procedure.js";
import { armTravel } from "./armTravel.js";
import { batteryTest } from "./battery.js";
import { eyeDistanceTest } from "./eyeDistance.js";
import { eyeLimits } from "./eyeLimits.js";
import { floorLight } from "./floorLight.js";
import { gyroAtRest } from "./gyroRest.js";
import { gyroTurns } from "./gyroTurns.js";
import { headingHold } from "./headingHold.js";
import { placement } from "./placement.js";
import { pullAwayPower } from "./pullAway.js";
import { slidingTest } from "./sliding.js";
import { speedAtPowerTest } from "./speedAtPower.js";
import { steeringTest } from "./steering.js";
import { stoppingTest } from "./stopping.js";
import { tagColours } from "./tagColours.js";
import { timedTurns } from "./timedTurns.js";
import { turnByGyro } from "./turnByGyro.js";
import { squareBothWays, turningWidth } from "./turning.js";
import { straightDriving, wheelSize, wheelSizeByHand } from "./wheels.js";

export const PROCEDURES: readonly Procedure[] = [
  wheelSize,
  wheelSizeByHand,
  straightDriving,
  turningWidth,
  squareBothWays,
  slidingTest,
  gyroAtRest,
  gyroTurns,
  turnByGyro,
  headingHold,
  speedAtPowerTest,
  timedTurns,
  pullAwayPower,
  stoppingTest,
  steeringTest,
  floorLight,
  eyeDistanceTest,
  eyeLimits,
  tagColours,
  armTravel,
  batteryTest,
  placement,
];

export function procedureOf(id: string): Procedure | null {
  return PROCEDURES.find((procedure) => procedure.id === id) ?? null;
}

export { limitBetween } from "./eyeLimits.js";
export { splitLevels } from "./floorLight.js";
