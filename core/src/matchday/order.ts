// The order of missions that brings most on average: every order up to nine missions, beyond that a search that says so.
import { attempt, type Clock, type Entry, expectedPoints, type RoundRules, startClock } from "./round.js";

/** Up to so many missions every order is looked at. */
export const EXACT_UP_TO = 9;
/** Seconds of a cell while orders are compared. */
const COARSE_S = 0.5;

interface BestOrder {
  /** Places in the given list, in the order to drive. */
  readonly order: readonly number[];
  readonly points: number;
  /** Whether every order was looked at. */
  readonly exact: boolean;
}

/** @param onShare - told how much is done, 0..1; ends the search by returning false */
export function bestOrder(
  entries: readonly Entry[],
  rules: RoundRules,
  onShare: (share: number) => boolean = () => true,
  cellS = COARSE_S,
): BestOrder {
  const exact = entries.length <= EXACT_UP_TO;
  const order = exact ? everyOrder(entries, rules, onShare, cellS) : climbing(entries, rules, onShare, cellS);
  const points = expectedPoints(
    order.map((i) => entries[i] as Entry),
    rules,
  ).total;
  return { order, points, exact };
}

/** Depth first through all orders; a beginning that can no longer win is left. */
function everyOrder(
  entries: readonly Entry[],
  rules: RoundRules,
  onShare: (share: number) => boolean,
  cellS: number,
): number[] {
  const most = entries.map(({ points, success, retries }) => {
    let failed = 1;
    for (let tries = 0; tries <= retries; tries += 1) failed *= 1 - success;
    return points * (1 - failed);
  });
  let best: number[] = greedy(entries, rules, cellS);
  let bestPoints = averageOf(best, entries, rules, cellS);
  let stopped = false;
  const visit = (done: number[], left: readonly number[], clock: Clock, points: number) => {
    if (stopped) return;
    if (points > bestPoints + 1e-12) {
      bestPoints = points;
      best = [...done, ...left];
    }
    if (left.length === 0) return;
    const alive = clock.reduce((sum, chance) => sum + chance, 0);
    const bound = points + alive * left.reduce((sum, i) => sum + Math.max(0, most[i] ?? 0), 0);
    if (bound <= bestPoints + 1e-12) return;
    const last = done.at(-1);
    const before = last === undefined ? null : (entries[last]?.attachment ?? null);
    for (const [k, i] of left.entries()) {
      const next = attempt(clock, entries[i] as Entry, before, rules, cellS);
      visit(
        [...done, i],
        left.filter((_, at) => at !== k),
        next.clock,
        points + next.points,
      );
      if (done.length === 0 && !onShare((k + 1) / left.length)) stopped = true;
    }
  };
  visit(
    [],
    entries.map((_, i) => i),
    startClock(rules, cellS),
    0,
  );
  return best;
}

function averageOf(order: readonly number[], entries: readonly Entry[], rules: RoundRules, cellS: number): number {
  return expectedPoints(
    order.map((i) => entries[i] as Entry),
    rules,
    cellS,
  ).total;
}

/** What brings most in its time comes first. */
function greedy(entries: readonly Entry[], rules: RoundRules, cellS: number): number[] {
  const left = new Set(entries.map((_, i) => i));
  const order: number[] = [];
  let clock = startClock(rules, cellS);
  while (left.size > 0) {
    const last = order.at(-1);
    const before = last === undefined ? null : (entries[last]?.attachment ?? null);
    const rated = [...left].map((i) => {
      const entry = entries[i] as Entry;
      const next = attempt(clock, entry, before, rules, cellS);
      const change = before !== null && before !== entry.attachment ? rules.changeS : 0;
      return { i, next, rate: next.points / Math.max(1e-6, entry.meanS + rules.resetS + change) };
    });
    const [first] = rated.sort((a, b) => b.rate - a.rate);
    if (!first) break;
    order.push(first.i);
    left.delete(first.i);
    clock = first.next.clock;
  }
  return order;
}

/** From the greedy order: moves one mission elsewhere, or swaps two, for as long as that brings more. */
function climbing(
  entries: readonly Entry[],
  rules: RoundRules,
  onShare: (share: number) => boolean,
  cellS: number,
): number[] {
  let best = greedy(entries, rules, cellS);
  let points = averageOf(best, entries, rules, cellS);
  const most = 40;
  for (let pass = 0; pass < most; pass += 1) {
    let better = false;
    for (let from = 0; from < best.length; from += 1)
      for (let to = 0; to < best.length; to += 1) {
        if (from === to) continue;
        const others = best.filter((_, at) => at !== from);
        const moved = [...others.slice(0, to), best[from] as number, ...others.slice(to)];
        const swapped = best.map((i, at) => (at === from ? best[to] : at === to ? best[from] : i) as number);
        for (const tried of [moved, swapped]) {
          const value = averageOf(tried, entries, rules, cellS);
          if (value <= points + 1e-9) continue;
          [best, points, better] = [tried, value, true];
        }
      }
    if (!better || !onShare((pass + 1) / most)) break;
  }
  return best;
}
