// Repeatable chance: xoroshiro128+ from a seed, and the draws the rehearsal needs from it.
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";
import { log } from "./exponential.js";

export interface RandomStream {
  /** Uniform in [0, 1), 32 bits fine. */
  uniform(): number;
  /** Normal with mean 0 and standard deviation 1. */
  normal(): number;
}

/** @param seed - any whole number; equal seeds give equal streams */
export function randomStream(seed: number): RandomStream {
  return new Stream(seed);
}

/** Its whole state lies in its fields, so that a run can be put back to an earlier moment. */
class Stream implements RandomStream {
  private readonly generator;
  private spare: number | null = null;

  constructor(seed: number) {
    this.generator = xoroshiro128plus(seed | 0);
  }

  uniform(): number {
    return (this.generator.next() >>> 0) / 4294967296;
  }

  normal(): number {
    if (this.spare !== null) {
      const kept = this.spare;
      this.spare = null;
      return kept;
    }
    // Marsaglia's polar method: needs no sine.
    for (;;) {
      const u = 2 * this.uniform() - 1;
      const v = 2 * this.uniform() - 1;
      const s = u * u + v * v;
      if (s > 0 && s < 1) {
        const scale = Math.sqrt((-2 * log(s)) / s);
        this.spare = v * scale;
        return u * scale;
      }
    }
  }
}

/** Mixes two whole numbers into one 32-bit seed, so that run i of a study has a seed of its own. */
export function mixSeed(seed: number, index: number): number {
  let h = Math.imul(seed ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(index + 0x7f4a7c15, 0xc2b2ae35);
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d);
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b);
  return (h ^ (h >>> 16)) | 0;
}
