// What happens to a robot in a run that no order of its brain asked for: an uneven floor, wheels out of round, a tilted
// table, the nap of a carpet, orders that arrive late, plugs that are out.
import type { RandomStream } from "../math/random.js";
import { cos, sin } from "../math/trig.js";
import { TICK_SEC } from "../physics/constants.js";
import type { World } from "../physics/world.js";

/** What no estimator models. */
export interface Oddities {
  /** Of each lead wheel: how far out of round, as a share of its radius, and where. */
  readonly wobble: readonly [number, number];
  readonly wobblePhaseRad: readonly [number, number];
  /** The table's pull downhill, m/s². */
  readonly tiltX: number;
  readonly tiltY: number;
  /** The carpet turns what rolls along a direction, rad/m. */
  readonly napRadPerM: number;
  readonly napRad: number;
}

export interface Disturbance {
  /** Heading wander on this floor, rad for the square root of a metre. */
  readonly bumpRad: number;
  readonly oddities: Oddities | null;
  /** From the brain's order to the motors' leads, ticks. */
  readonly commandDelayTicks: number;
  /** Sensors and motors (their encoders) whose plugs are out, by name; looked at each tick. */
  readonly unplugged: ReadonlySet<string>;
  /** Angle of each lead wheel so far, rad: goes on from run to run. */
  readonly wheelTurns: [number, number];
}

export function undisturbed(bumpRad = 0): Disturbance {
  return { bumpRad, oddities: null, commandDelayTicks: 0, unplugged: new Set(), wheelTurns: [0, 0] };
}

/** What acts on a world before its tick. */
export function disturb(world: World, { oddities, wheelTurns }: Disturbance): void {
  if (!oddities) return;
  for (const side of [0, 1] as const) {
    const wheel = world.wheels[side];
    if (!wheel) continue;
    wheelTurns[side] += wheel.spinRadS * TICK_SEC;
    const share = oddities.wobble[side] * cos(wheelTurns[side] + oddities.wobblePhaseRad[side]);
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

/** Small unevenness of the floor turns a moving robot a little. @param turned - rad of the tick */
export function bump(world: World, bumpRad: number, turned: number, chance: RandomStream): void {
  if (bumpRad === 0) return;
  const moved =
    Math.sqrt(world.velocityX * world.velocityX + world.velocityY * world.velocityY) * TICK_SEC +
    Math.abs(turned) * 0.05;
  if (moved > 1e-7) world.headingRad += bumpRad * Math.sqrt(moved) * chance.normal();
}
