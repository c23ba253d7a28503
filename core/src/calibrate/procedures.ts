// Every calibration procedure, in the order people do them.
import type { Procedure } from "./procedure.js";
import { armTravel } from "./procedures/armTravel.js";
import { batteryTest } from "./procedures/battery.js";
import { eyeDistanceTest } from "./procedures/eyeDistance.js";
import { eyeLimits } from "./procedures/eyeLimits.js";
import { floorLight } from "./procedures/floorLight.js";
import { gyroAtRest } from "./procedures/gyroRest.js";
import { gyroTurns } from "./procedures/gyroTurns.js";
import { headingHold } from "./procedures/headingHold.js";
import { placement } from "./procedures/placement.js";
import { pullAwayPower } from "./procedures/pullAway.js";
import { speedAtPowerTest } from "./procedures/speedAtPower.js";
import { steeringTest } from "./procedures/steering.js";
import { stoppingTest } from "./procedures/stopping.js";
import { tagColours } from "./procedures/tagColours.js";
import { timedTurns } from "./procedures/timedTurns.js";
import { turnByGyro } from "./procedures/turnByGyro.js";
import { squareBothWays, turningWidth } from "./procedures/turning.js";
import { straightDriving, wheelSize, wheelSizeByHand } from "./procedures/wheels.js";

export const PROCEDURES: readonly Procedure[] = [
  wheelSize,
  wheelSizeByHand,
  straightDriving,
  turningWidth,
  squareBothWays,
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

export { limitBetween } from "./procedures/eyeLimits.js";
export { splitLevels } from "./procedures/floorLight.js";
