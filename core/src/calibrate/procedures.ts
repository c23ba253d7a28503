// Every calibration procedure, in the order people do them.
import type { Procedure } from "./procedure.js";
import { gyroAtRest, gyroTurns, headingHold, turnByGyro } from "./procedures/gyro.js";
import { placement } from "./procedures/placement.js";
import { batteryTest, pullAwayPower, speedAtPowerTest, stoppingTest, timedTurns } from "./procedures/power.js";
import { armTravel, eyeDistanceTest, floorLight, steeringTest } from "./procedures/sensing.js";
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
  armTravel,
  batteryTest,
  placement,
];

export function procedureOf(id: string): Procedure | null {
  return PROCEDURES.find((procedure) => procedure.id === id) ?? null;
}

export { splitLevels } from "./procedures/sensing.js";
