// Whether stated intervals hold: a thousand seeded calibrations with normal scatter, straight on the estimators. Of
// 1,000 intervals of 95 %, 950 hold the truth, give or take 7 (one standard deviation of that many tosses).
import { describe, expect, test } from "vitest";
import { fitSquares, gyroScale, replay, spinWidth, straightness, travelPerTurn } from "../../src/calibrate/odometry.js";
import { eyeDistance, speedAtPower, stopping } from "../../src/calibrate/signals.js";
import { type Estimated, estimated, fitLine, lineAt, meanOf } from "../../src/calibrate/statistics.js";
import { mixSeed, PI, type RandomStream, randomStream, wilson95 } from "../../src/index.js";

const TIMES = 1000;

/** Share of 1,000 calibrations whose interval holds the truth. */
function held(truth: number, calibrate: (chance: RandomStream) => Estimated | null | undefined): number {
  let inside = 0;
  for (let seed = 0; seed < TIMES; seed += 1) {
    const found = calibrate(randomStream(mixSeed(26, seed)));
    if (found?.low == null || found.high === null) throw new Error("no interval was stated");
    expect(found.low).toBeLessThanOrEqual(found.value);
    expect(found.high).toBeGreaterThanOrEqual(found.value);
    if (found.low <= truth && truth <= found.high) inside += 1;
  }
  return inside / TIMES;
}

/** Between 93 and 97 %. */
function holds(share: number): void {
  expect(share).toBeGreaterThan(0.93);
  expect(share).toBeLessThan(0.97);
}

const repeat = <T>(n: number, one: (i: number) => T): T[] => Array.from({ length: n }, (_, i) => one(i));

describe("intervals of 95 % hold the truth 93 to 97 times of a hundred", () => {
  test.each([3, 5, 10])("of a mean of %i rows", (n) => {
    holds(held(2, (chance) => meanOf(repeat(n, () => 2 + 0.3 * chance.normal()))));
  });

  test("of the travel of a wheel turn, by runs of different lengths", () => {
    holds(
      held(0.195, (chance) =>
        travelPerTurn(repeat(5, (i) => ({ turns: 6 + i, distanceM: 0.195 * (6 + i) * (1 + 0.002 * chance.normal()) }))),
      ),
    );
  });

  test("of straightness, by where each run ended", () => {
    const ratio = 1.006;
    // κ of that ratio on 138 mm; two metres along, so far aside.
    const kappa = ((2 / 0.138) * (ratio - 1)) / (ratio + 1);
    const asideM = (kappa * 4) / 2;
    holds(
      held(ratio, (chance) =>
        straightness(
          repeat(5, () => ({
            alongM: 2,
            asideM: asideM / (1 + (kappa * asideM) / 2) + 0.006 * chance.normal(),
            turnsRatio: 1,
          })),
          0.138,
        ),
      ),
    );
  });

  test("of the width by spins both ways, and of the gyro's scale with a drift that adds one way and takes the other", () => {
    holds(
      held(0.142, (chance) =>
        spinWidth(
          repeat(6, (i) => {
            const turnedRad = (i % 2 === 0 ? 1 : -1) * 10 * PI + 0.02 * chance.normal();
            return { turnedRad, reckonedRad: (turnedRad * 0.142) / 0.138 + 0.02 * chance.normal() };
          }),
          0.138,
        ),
      ),
    );
    holds(
      held(1.006, (chance) =>
        gyroScale(
          repeat(6, (i) => {
            const trueRad = (i % 2 === 0 ? 1 : -1) * 20 * PI;
            return { trueRad, readRad: trueRad / 1.006 + 0.12 + 0.05 * chance.normal() };
          }),
        ),
      ),
    );
  });

  test("of a line's slope, and of what it says beside its points", () => {
    const points = (chance: RandomStream) => repeat(8, (i): [number, number] => [i, 1 + 2 * i + 0.4 * chance.normal()]);
    holds(
      held(2, (chance) => {
        const line = fitLine(points(chance));
        return line && estimated(line.slope, line.slopeError, line.count, line.count - 2);
      }),
    );
    holds(
      held(21, (chance) => {
        const line = fitLine(points(chance));
        return (
          line &&
          lineAt(
            line,
            repeat(8, (i) => i),
            10,
          )
        );
      }),
    );
  });

  test("of a distance sensor's offset, of how it brakes, and of what a volt drives", () => {
    holds(
      held(
        0.012,
        (chance) =>
          eyeDistance(repeat(8, (i) => ({ trueM: 0.1 + 0.1 * i, readM: 0.112 + 0.1 * i + 0.002 * chance.normal() })))
            .offsetM,
      ),
    );
    // d / v is a line over v: its intercept is the lead.
    holds(
      held(
        0.05,
        (chance) =>
          stopping(
            repeat(9, (i) => {
              const speedMS = 0.1 + 0.1 * (i % 3);
              return { speedMS, distanceM: speedMS * (0.05 + speedMS / 3 + 0.004 * chance.normal()) };
            }),
          )?.leadSec,
      ),
    );
    holds(
      held(
        0.09,
        (chance) =>
          speedAtPower(
            repeat(9, (i) => {
              const [volts, timeSec] = [4 + (i % 3), 1 + Math.floor(i / 3)];
              return { volts, timeSec, distanceM: 0.09 * (volts - 0.5) * (timeSec - 0.08) + 0.004 * chance.normal() };
            }),
          )?.speedPerVolt,
      ),
    );
  });

  test("of wheel ratio and width by squares both ways round", () => {
    const square = (way: 1 | -1) => {
      const travelM: number[] = [];
      for (let leg = 0; leg < 4; leg += 1) {
        for (let i = 0; i < 10; i += 1) travelM.push(0.1, 0.1);
        const arc = (way * PI * 0.138) / 4 / 10;
        for (let i = 0; i < 10; i += 1) travelM.push(-arc, arc);
      }
      return travelM;
    };
    const ways = [square(1), square(-1)];
    const ends = ways.map((travelM) => replay(travelM, 1.004, 0.141));
    const fitted = (chance: RandomStream) =>
      fitSquares(
        repeat(6, (i) => ({
          travelM: ways[i % 2] as number[],
          endXM: (ends[i % 2]?.[0] ?? 0) + 0.004 * chance.normal(),
          endYM: (ends[i % 2]?.[1] ?? 0) + 0.004 * chance.normal(),
        })),
        0.138,
      );
    holds(held(1.004, (chance) => fitted(chance)?.wheelRatio));
    holds(held(0.141, (chance) => fitted(chance)?.trackWidthM));
  }, 120_000);

  test.each([0.5, 0.8, 0.95])("of a success rate of %f by 200 runs, after Wilson", (rate) => {
    let inside = 0;
    for (let seed = 0; seed < TIMES; seed += 1) {
      const chance = randomStream(mixSeed(5, seed));
      let worked = 0;
      for (let i = 0; i < 200; i += 1) if (chance.uniform() < rate) worked += 1;
      const [low, high] = wilson95(worked, 200);
      if (low <= rate && rate <= high) inside += 1;
    }
    // Counts are whole, so its coverage moves about 95 % by a little more than chance.
    expect(inside / TIMES).toBeGreaterThan(0.925);
    expect(inside / TIMES).toBeLessThan(0.975);
  });
});
