// A round of a competition: missions one after the other until the time is up. What it brings on average, exactly on a
// grid of time; and how much that varies, by playing it many times.
import type { RandomStream } from "../math/random.js";

/** One mission on a match sheet. */
export interface Entry {
  readonly name: string;
  readonly points: number;
  /** Time of one try, s: its mean and its standard deviation. */
  readonly meanS: number;
  readonly spreadS: number;
  /** Share of tries that work, 0..1. */
  readonly success: number;
  /** What has to be on the robot; changing it takes time. */
  readonly attachment: string;
  /** Further tries after one that failed. */
  readonly retries: number;
}

export interface RoundRules {
  readonly roundS: number;
  /** Putting the robot down again before a try, s. */
  readonly resetS: number;
  /** Changing the attachment, s, beside that. */
  readonly changeS: number;
}

/**
 * The normal distribution in five pieces of equal weight, each at its mean: z of their means.
 * Source: mean of a standard normal between quantiles a and b is (φ(a) − φ(b)) / (1/5).
 */
const PIECES = [-1.3998, -0.5319, 0, 0.5319, 1.3998] as const;

/** Times that a try takes, all equally likely, s; never below a tenth of the mean. */
export function tryTimes({ meanS, spreadS }: Pick<Entry, "meanS" | "spreadS">): readonly number[] {
  return spreadS === 0 ? [meanS] : PIECES.map((z) => Math.max(meanS / 10, meanS + z * spreadS));
}

/** How likely each time is at which the next mission can begin; what is left out ran out of time. */
export type Clock = Float64Array;

/** Cells of time: the last whole cell within the round still counts. */
export function startClock({ roundS }: RoundRules, cellS: number): Clock {
  const clock = new Float64Array(Math.floor(roundS / cellS + 1e-9) + 1);
  clock[0] = 1;
  return clock;
}

/** One mission more. @param before - attachment on the robot; null at the beginning @returns points on average, and the clock behind it */
export function attempt(
  clock: Clock,
  entry: Entry,
  before: string | null,
  rules: RoundRules,
  cellS: number,
): { readonly points: number; readonly clock: Clock } {
  const times = tryTimes(entry);
  const after = new Float64Array(clock.length);
  let begin = clock;
  let reached = 0;
  const change = before !== null && before !== entry.attachment ? rules.changeS : 0;
  for (let tries = 0; tries <= entry.retries; tries += 1) {
    // The first mission of a round begins where it was put down.
    const wait = tries > 0 || before !== null ? rules.resetS + (tries === 0 ? change : 0) : 0;
    const last = tries === entry.retries;
    const next = last ? after : new Float64Array(clock.length);
    for (const time of times) {
      const cells = Math.floor((wait + time) / cellS + 0.5);
      for (let at = 0; at + cells < begin.length; at += 1) {
        const chance = (begin[at] ?? 0) / times.length;
        if (chance === 0) continue;
        const ends = at + cells;
        reached += chance * entry.success;
        after[ends] = (after[ends] ?? 0) + chance * entry.success;
        next[ends] = (next[ends] ?? 0) + chance * (1 - entry.success);
      }
    }
    begin = next;
  }
  return { points: reached * entry.points, clock: after };
}

/** Seconds of a cell for numbers that are shown. */
const FINE_S = 0.1;

/** What a round brings on average, in this order; and each mission's share of it. */
export function expectedPoints(
  entries: readonly Entry[],
  rules: RoundRules,
  cellS = FINE_S,
): { readonly total: number; readonly each: readonly number[] } {
  let clock = startClock(rules, cellS);
  let before: string | null = null;
  const each: number[] = [];
  for (const entry of entries) {
    const done: { points: number; clock: Clock } = attempt(clock, entry, before, rules, cellS);
    each.push(done.points);
    clock = done.clock;
    before = entry.attachment;
  }
  return { total: each.reduce((sum, points) => sum + points, 0), each };
}

export interface Spread {
  readonly mean: number;
  readonly deviation: number;
  /** One round in ten brings less, one in ten more. */
  readonly low: number;
  readonly high: number;
}

/** Plays the round many times. @param chance - decides how each goes */
export function playRounds(
  entries: readonly Entry[],
  rules: RoundRules,
  rounds: number,
  chance: Pick<RandomStream, "uniform">,
): Spread {
  const brought: number[] = [];
  for (let round = 0; round < rounds; round += 1) {
    let [clock, points] = [0, 0];
    let before: string | null = null;
    for (const entry of entries) {
      const times = tryTimes(entry);
      const change = before !== null && before !== entry.attachment ? rules.changeS : 0;
      for (let tries = 0; tries <= entry.retries; tries += 1) {
        if (tries > 0 || before !== null) clock += rules.resetS + (tries === 0 ? change : 0);
        clock += times[Math.floor(chance.uniform() * times.length)] ?? entry.meanS;
        if (clock > rules.roundS + 1e-9) break;
        if (chance.uniform() < entry.success) {
          points += entry.points;
          break;
        }
      }
      if (clock > rules.roundS + 1e-9) break;
      before = entry.attachment;
    }
    brought.push(points);
  }
  brought.sort((a, b) => a - b);
  const mean = brought.reduce((sum, points) => sum + points, 0) / Math.max(1, rounds);
  const square = brought.reduce((sum, points) => sum + (points - mean) * (points - mean), 0);
  const at = (share: number) => brought[Math.min(rounds - 1, Math.floor(share * rounds))] ?? 0;
  return { mean, deviation: Math.sqrt(square / Math.max(1, rounds - 1)), low: at(0.1), high: at(0.9) };
}
