// Many rehearsals: how often a mission works, with its interval.
import { mixSeed } from "../math/random.js";

/** z for 95 %, two-sided. */
const Z95 = 1.959963984540054;

/**
 * Wilson score interval for a success rate (Wilson 1927), 95 %.
 * @returns [low, high], both within 0..1; [0, 1] without runs
 */
export function wilson95(successes: number, runs: number): [number, number] {
  if (runs <= 0) return [0, 1];
  const p = successes / runs;
  const z2 = Z95 * Z95;
  const middle = (p + z2 / (2 * runs)) / (1 + z2 / runs);
  const half = (Z95 * Math.sqrt((p * (1 - p)) / runs + z2 / (4 * runs * runs))) / (1 + z2 / runs);
  return [Math.max(0, middle - half), Math.min(1, middle + half)];
}

/** Seed of run `index` of a study. */
export function runSeed(seed: number, index: number): number {
  return mixSeed(seed, index);
}
