// What happens to a robot between two ticks that no estimator models: wheels out of round, a tilted floor, the nap
// of the carpet.
import { cos, sin, TICK_SEC, type World } from "@giddy-pebble/core";
import type { Oddities } from "./truth.js";

/** @param turnsRad - angle of each lead wheel so far; carried over from run to run by the caller */
export function applyOddities(world: World, oddities: Oddities, turnsRad: [number, number]): void {
  for (const side of [0, 1] as const) {
    const wheel = world.wheels[side];
    if (!wheel) continue;
    turnsRad[side] += wheel.spinRadS * TICK_SEC;
    const share = oddities.wobble[side] * cos(turnsRad[side] + oddities.wobblePhaseRad[side]);
    wheel.reachM = wheel.spec.radiusM * (1 + share) * (wheel.spec.ratio ?? 1);
  }
  const speed = Math.sqrt(world.velocityX * world.velocityX + world.velocityY * world.velocityY);
  // Standing wheels hold on a slope; a creeping push would never let them rest.
  if (speed < 1e-3) return;
  world.velocityX += oddities.tiltX * TICK_SEC;
  world.velocityY += oddities.tiltY * TICK_SEC;
  const along = world.velocityX * cos(oddities.napRad) + world.velocityY * sin(oddities.napRad);
  world.headingRad += oddities.napRadPerM * along * TICK_SEC;
}
