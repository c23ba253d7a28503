// Match sheets: points on average against closed forms and enumeration, the best order against every order.

import { describe, expect, test } from "vitest";
import { bestOrder, EXACT_UP_TO } from "../../src/matchday/order.js";
import { type Entry, expectedPoints, playRounds, type RoundRules, tryTimes } from "../../src/matchday/round.js";
import { randomStream } from "../../src/math/random.js";

function entry(more: Partial<Entry> = {}): Entry {
  return { name: "m", points: 10, meanS: 20, spreadS: 0, success: 0.8, attachment: "", retries: 0, ...more };
}
const LONG: RoundRules = { roundS: 100_000, resetS: 5, changeS: 10 };

describe("points on average", () => {
  // Closed form without a limit: Σ points · (1 − (1 − p)^(tries)).
  test.each([
    [[entry()], 8],
    [[entry(), entry({ success: 0.5, points: 40 })], 28],
    [[entry({ retries: 1 }), entry({ success: 0.5, points: 40, retries: 2 })], 9.6 + 40 * 0.875],
    [[entry({ spreadS: 6, success: 1 })], 10],
    [[entry({ success: 0 })], 0],
  ])("without a limit are each mission's own, %#", (entries, points) => {
    const { total } = expectedPoints(entries, { ...LONG, roundS: 2000 });
    expect(Math.abs(total - points)).toBeLessThan(0.001 * Math.max(1, points));
  });

  test("twenty planted sheets without a limit agree with the closed form within 0.1 %", () => {
    const chance = randomStream(4);
    for (let n = 0; n < 20; n += 1) {
      const entries = Array.from({ length: 6 }, () =>
        entry({
          points: 5 + Math.floor(chance.uniform() * 40),
          success: chance.uniform(),
          spreadS: 3 * chance.uniform(),
          retries: Math.floor(chance.uniform() * 3),
        }),
      );
      const closed = entries.reduce((sum, e) => sum + e.points * (1 - (1 - e.success) ** (e.retries + 1)), 0);
      expect(expectedPoints(entries, { ...LONG, roundS: 3000 }).total / closed).toBeCloseTo(1, 3);
    }
  });

  /** Every way a round of single tries can go, one by one. */
  function enumerated(entries: readonly Entry[], rules: RoundRules): number {
    const go = (at: number, clock: number, before: string | null): number => {
      const next = entries[at];
      if (!next) return 0;
      const times = tryTimes(next);
      const change = before !== null && before !== next.attachment ? rules.changeS : 0;
      const wait = before === null ? 0 : rules.resetS + change;
      return times.reduce((sum, time) => {
        const ends = clock + wait + time;
        if (ends > rules.roundS + 1e-9) return sum;
        return sum + (next.success * next.points + go(at + 1, ends, next.attachment)) / times.length;
      }, 0);
    };
    return go(0, 0, null);
  }

  test("with a limit they equal the enumeration of every way the round can go", () => {
    const chance = randomStream(11);
    for (let n = 0; n < 30; n += 1) {
      // Times on the grid, so that rounding takes no part.
      const entries = Array.from({ length: 4 }, (_, i) =>
        entry({
          points: 10 * (i + 1),
          meanS: 10 + Math.floor(chance.uniform() * 30),
          success: chance.uniform(),
          attachment: chance.uniform() < 0.5 ? "fork" : "arm",
        }),
      );
      const rules = { roundS: 60 + Math.floor(chance.uniform() * 60), resetS: 5, changeS: 8 };
      expect(expectedPoints(entries, rules).total).toBeCloseTo(enumerated(entries, rules), 9);
    }
  });

  test("a mission that ends exactly with the round counts, one that ends a cell later does not", () => {
    const sure = [entry({ success: 1, meanS: 30 })];
    expect(expectedPoints(sure, { roundS: 30, resetS: 0, changeS: 0 }).total).toBe(10);
    expect(expectedPoints(sure, { roundS: 29.9, resetS: 0, changeS: 0 }).total).toBe(0);
  });
});

test("played many times, a round brings on average what was worked out", () => {
  const entries = [
    entry({ spreadS: 4, retries: 1 }),
    entry({ points: 30, success: 0.6, meanS: 35, attachment: "fork" }),
    entry({ points: 20, meanS: 40 }),
  ];
  const rules = { roundS: 110, resetS: 4, changeS: 9 };
  const spread = playRounds(entries, rules, 20_000, randomStream(2));
  const { total } = expectedPoints(entries, rules);
  // Four standard errors of the mean.
  expect(Math.abs(spread.mean - total)).toBeLessThan((4 * spread.deviation) / Math.sqrt(20_000) + 0.05);
  expect(spread.low).toBeLessThan(spread.mean);
  expect(spread.high).toBeGreaterThan(spread.mean);
});

describe("the best order", () => {
  function orders(n: number): number[][] {
    if (n === 0) return [[]];
    return orders(n - 1).flatMap((rest) =>
      Array.from({ length: n }, (_, i) => [...rest.slice(0, i), n - 1, ...rest.slice(i)]),
    );
  }

  test("equals brute force over every order on 200 random sheets", () => {
    const chance = randomStream(77);
    const all = new Map([2, 3, 4, 5].map((n) => [n, orders(n)]));
    for (let n = 0; n < 200; n += 1) {
      const count = 2 + (n % 4);
      const entries = Array.from({ length: count }, () =>
        entry({
          points: 5 + Math.floor(chance.uniform() * 40),
          meanS: 10 + 40 * chance.uniform(),
          spreadS: chance.uniform() < 0.5 ? 0 : 5 * chance.uniform(),
          success: chance.uniform(),
          attachment: ["", "fork", "arm"][Math.floor(chance.uniform() * 3)] ?? "",
          retries: Math.floor(chance.uniform() * 2),
        }),
      );
      const rules = { roundS: 40 + 100 * chance.uniform(), resetS: 5, changeS: 12 };
      const found = bestOrder(entries, rules, () => true, 0.5);
      const best = Math.max(
        ...(all.get(count) ?? []).map(
          (order) =>
            expectedPoints(
              order.map((i) => entries[i] as Entry),
              rules,
              0.5,
            ).total,
        ),
      );
      const own = expectedPoints(
        found.order.map((i) => entries[i] as Entry),
        rules,
        0.5,
      ).total;
      expect(own).toBeCloseTo(best, 9);
      expect([found.exact, [...found.order].sort()]).toEqual([true, entries.map((_, i) => i)]);
    }
  });

  test("beyond nine missions a search says that it is one, and is no worse than the order given", () => {
    const chance = randomStream(5);
    const entries = Array.from({ length: EXACT_UP_TO + 3 }, (_, i) =>
      entry({ points: 10 + (i % 4) * 10, meanS: 15 + 20 * chance.uniform(), success: 0.4 + 0.6 * chance.uniform() }),
    );
    const rules = { roundS: 150, resetS: 5, changeS: 10 };
    const found = bestOrder(entries, rules);
    expect(found.exact).toBe(false);
    expect(found.points).toBeGreaterThan(expectedPoints(entries, rules).total);
  });

  test("can be ended in between, with the best so far", () => {
    const entries = Array.from({ length: 7 }, (_, i) => entry({ points: i + 1, meanS: 30 }));
    const found = bestOrder(entries, { roundS: 100, resetS: 5, changeS: 0 }, () => false);
    expect([...found.order].sort()).toEqual([0, 1, 2, 3, 4, 5, 6]);
  });
});
