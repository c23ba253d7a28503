// A radio to practise on: late, uneven, losing packets, and gone beyond its range. Chance comes from a seed.
import { mixSeed, type RandomStream, randomStream } from "@giddy-pebble/core";
import type { Clock } from "./clock.js";

export interface RadioManners {
  readonly delayMs: number;
  /** Added to the delay, evenly from nothing to this: later packets may overtake earlier ones. */
  readonly jitterMs: number;
  /** Share of packets that never arrive. */
  readonly loss: number;
  /** Beyond this distance nothing arrives, m; null for any distance. */
  readonly rangeM: number | null;
}

export const GOOD_RADIO: RadioManners = { delayMs: 0, jitterMs: 0, loss: 0, rangeM: null };

/**
 * Share of packets lost at a distance: that of the radio, rising with the fourth power of the distance to all of
 * them at its range.
 */
export function lossAt({ loss, rangeM }: RadioManners, distanceM: number): number {
  if (rangeM === null) return loss;
  const share = Math.min(1, distanceM / rangeM);
  const far = share * share * share * share;
  return loss + (1 - loss) * far;
}

export class Radio {
  manners: RadioManners = GOOD_RADIO;
  private readonly chance: RandomStream;

  constructor(
    private readonly clock: Clock,
    seed: number,
  ) {
    this.chance = randomStream(mixSeed(seed, 0x4ad10));
  }

  /** Delivers one packet: at once, later, or never. */
  pass(distanceM: number, deliver: () => void): void {
    const { delayMs, jitterMs } = this.manners;
    if (this.chance.uniform() < lossAt(this.manners, distanceM)) return;
    const late = delayMs + jitterMs * this.chance.uniform();
    if (late <= 0) deliver();
    else this.clock.after(late, deliver);
  }
}
