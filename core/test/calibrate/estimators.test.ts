// Every estimator against an example worked by hand, and against a truth without noise.
import { describe, expect, it } from "vitest";
import {
  curvatureOf,
  fitSquares,
  gyroScale,
  paperSquare,
  replay,
  sideFactors,
  spinWidth,
  straightness,
  travelPerTurn,
  wheelRatio,
} from "../../src/calibrate/odometry.js";
import { limitBetween } from "../../src/calibrate/procedures/eyeLimits.js";
import { splitLevels } from "../../src/calibrate/procedures/floorLight.js";
import {
  eyeDistance,
  gyroRest,
  lightLevels,
  normalTail,
  powerRamp,
  pullAwayDuty,
  speedAtPower,
  stepAnswer,
  stopping,
  timedTurn,
  timeForTurn,
} from "../../src/calibrate/signals.js";
import { fitLine, lineAt, meanOf, outliers, studentT95 } from "../../src/calibrate/statistics.js";
import { PI } from "../../src/index.js";
import { stopDistanceM } from "../../src/robot/found.js";

/** Noise-free truth is found again to a hundredth of a percent. */
const EXACT = 1e-4;

describe("statistics", () => {
  it("means five numbers with Student's interval, as by hand", () => {
    // Mean 3, variance 2.5, error √(2.5/5), t(4) = 2.776.
    const found = meanOf([1, 2, 3, 4, 5]);
    expect(found.value).toBe(3);
    expect(found.standardError).toBeCloseTo(Math.sqrt(2.5 / 5), 12);
    expect(found.high).toBeCloseTo(3 + 2.776 * Math.sqrt(2.5 / 5), 4);
  });

  it("gives no interval for fewer than three rows", () => {
    expect(meanOf([1, 2])).toMatchObject({ value: 1.5, standardError: null, low: null, high: null, count: 2 });
  });

  it("knows Student's t beyond its table within a thousandth", () => {
    // Abramowitz and Stegun, table 26.10.
    expect(studentT95(40)).toBeCloseTo(2.021, 3);
    expect(studentT95(60)).toBeCloseTo(2.0, 3);
    expect(studentT95(120)).toBeCloseTo(1.98, 3);
  });

  it("offers the row that lies far out, and none of five that agree", () => {
    expect(outliers([10, 10.1, 9.9, 10.05, 14])).toEqual([4]);
    expect(outliers([10, 10.1, 9.9, 10.05, 9.95])).toEqual([]);
    expect(outliers([10, 10, 10, 10.0001, 10], 0.001)).toEqual([]);
  });

  it("fits a line with its errors, as by hand", () => {
    // y = 1 + 2x with residuals +0.1, −0.2, +0.1 at x = 0, 1, 2: slope 2, intercept 1, s² = 0.06/1.
    const line = fitLine([
      [0, 1.1],
      [1, 2.8],
      [2, 5.1],
    ]);
    expect(line?.slope).toBeCloseTo(2, 12);
    expect(line?.intercept).toBeCloseTo(1, 12);
    expect(line?.residual).toBeCloseTo(Math.sqrt(0.06), 12);
    expect(line?.slopeError).toBeCloseTo(Math.sqrt(0.06 / 2), 12);
  });
});

describe("wheels and straightness", () => {
  it("sums distances over turns", () => {
    const c = travelPerTurn([
      { distanceM: 2, turns: 10 },
      { distanceM: 1.98, turns: 10 },
      { distanceM: 4.02, turns: 20 },
    ]);
    expect(c.value).toBeCloseTo(0.2, 12);
    expect(c.count).toBe(3);
  });

  it("says what the five rows of the plan's picture say: the left wheel 0.31 % further", () => {
    const rows = [
      [1.992, -0.041],
      [1.988, -0.052],
      [1.991, -0.046],
      [1.994, -0.038],
      [1.989, -0.049],
    ].map(([alongM, asideM]) => ({ alongM: alongM as number, asideM: asideM as number, turnsRatio: 1 }));
    const ratio = straightness(rows, 0.138);
    expect(((1 - ratio.value) * 100).toFixed(2)).toBe("0.31");
    expect((((1 - (ratio.high ?? 0)) as number) * 100).toFixed(2)).toBe("0.26");
    expect((((1 - (ratio.low ?? 0)) as number) * 100).toFixed(2)).toBe("0.36");
  });

  it("finds the wheel ratio of an arc that was driven exactly", () => {
    // Wheels 1.2 % apart on a track of 140 mm: R = b/2 · (1 + E)/(E − 1).
    const ratio = 1.012;
    const radius = (0.14 / 2) * ((1 + ratio) / (ratio - 1));
    const angle = 2 / radius;
    const alongM = radius * Math.sin(angle);
    const asideM = radius * (1 - Math.cos(angle));
    expect(curvatureOf(alongM, asideM)).toBeCloseTo(1 / radius, 9);
    expect(Math.abs(wheelRatio(1 / radius, 0.14) / ratio - 1)).toBeLessThan(EXACT);
    // Unequal turns that make up for it drive straight.
    expect(straightness([{ alongM: 2, asideM: 0, turnsRatio: 1 / ratio }], 0.14).value).toBeCloseTo(ratio, 12);
  });

  it("keeps the mean of both wheels", () => {
    const { left, right } = sideFactors(1.01);
    expect(left + right).toBeCloseTo(2, 12);
    expect(right / left).toBeCloseTo(1.01, 12);
  });
});

describe("turning and the square", () => {
  it("finds the width from spins both ways", () => {
    // Reckoned by 138 mm as 5 turns, truly 4.8 turns: b = 138 · 5/4.8.
    const width = spinWidth(
      [1, -1, 1].map((way) => ({ reckonedRad: way * 10 * PI, turnedRad: way * 9.6 * PI })),
      0.138,
    );
    expect(width.value).toBeCloseTo(0.14375, 12);
  });

  it("has the paper's signs: start facing +x, counter-clockwise positive", () => {
    // x_cw = −2L(α+β), x_ccw = −2L(α−β), y_cw = −2L(α+β), y_ccw = 2L(α−β), with L = 1 m, α = 0.02, β = 0.01 rad.
    const [alpha, beta, side] = [0.02, 0.01, 1];
    const cw = { xM: -2 * side * (alpha + beta), yM: -2 * side * (alpha + beta) };
    const ccw = { xM: -2 * side * (alpha - beta), yM: 2 * side * (alpha - beta) };
    const found = paperSquare([cw], [ccw], side, 0.14);
    expect(found.alphaRad).toBeCloseTo(alpha, 12);
    expect(found.betaRad).toBeCloseTo(beta, 12);
    // E_b = 90/(90 − α°), R = (L/2)/sin(β/2), E_d = (R + b/2)/(R − b/2).
    expect(found.widthFactor).toBeCloseTo(90 / (90 - (0.02 * 180) / PI), 12);
    const radius = 0.5 / Math.sin(0.005);
    expect(found.wheelRatio).toBeCloseTo((radius + 0.07) / (radius - 0.07), 12);
    expect(found.worstM).toBeCloseTo(0.06 * Math.SQRT2, 9);
  });

  /** Increments of a square as believed, driven by wheels that are `ratio` apart on a width `width`. */
  function square(side: number, way: 1 | -1, believedWidth: number, ratio: number, width: number) {
    const travelM: number[] = [];
    for (let leg = 0; leg < 4; leg += 1) {
      for (let i = 0; i < 50; i += 1) travelM.push(side / 50, side / 50);
      const arc = (way * PI * believedWidth) / 4 / 50;
      for (let i = 0; i < 50; i += 1) travelM.push(-arc, arc);
    }
    const [endXM, endYM] = replay(travelM, ratio, width);
    return { travelM, endXM, endYM };
  }

  it("recovers ratio and width from squares of 1 m and of 4 m without noise", () => {
    for (const side of [1, 4]) {
      const squares = [square(side, 1, 0.138, 1.014, 0.144), square(side, -1, 0.138, 1.014, 0.144)];
      const fit = fitSquares([...squares, ...squares], 0.138);
      expect(Math.abs((fit?.wheelRatio.value ?? 0) / 1.014 - 1)).toBeLessThan(EXACT);
      expect(Math.abs((fit?.trackWidthM.value ?? 0) / 0.144 - 1)).toBeLessThan(EXACT);
      expect(fit?.worstAfterM).toBeLessThan((fit?.worstBeforeM ?? 0) / 100);
    }
  });

  it("agrees with the paper where errors are small", () => {
    const squares = [square(1, 1, 0.138, 1.0005, 0.1382), square(1, -1, 0.138, 1.0005, 0.1382)];
    const errors = squares.map(({ endXM, endYM }) => ({ xM: endXM, yM: endYM }));
    const paper = paperSquare([errors[1] as never], [errors[0] as never], 1, 0.138);
    // First order: the paper's figures are off by the square of the angles, here a tenth of what they measure.
    expect(Math.abs((paper.wheelRatio - 1) / 0.0005 - 1)).toBeLessThan(0.1);
    expect(Math.abs((paper.widthFactor - 1) / (0.1382 / 0.138 - 1) - 1)).toBeLessThan(0.1);
  });

  it("says when squares do not determine both", () => {
    expect(fitSquares([{ travelM: [0, 0], endXM: 0, endYM: 0 }], 0.138)).toBeNull();
  });
});

describe("gyro", () => {
  it("reads rest drift from blocks, and notices that the robot was moved", () => {
    const still = gyroRest([0, 0.004, 0.008, 0.012, 0.016], 4);
    expect(still.rateRadS.value).toBeCloseTo(0.001, 12);
    expect(still.moved).toBe(false);
    expect(gyroRest([0, 0.004, 0.3, 0.304, 0.308], 4).moved).toBe(true);
  });

  it("divides true by read", () => {
    expect(gyroScale([{ trueRad: 62.5, readRad: 62 }]).value).toBeCloseTo(62.5 / 62, 12);
  });
});

describe("time, power and stopping", () => {
  it("finds rate and dead time of timed turns, and the time for 90 deg", () => {
    const turn = timedTurn([0.5, 0.9, 1.3].map((timeSec) => ({ timeSec, angleRad: 2 * (timeSec - 0.08) })));
    expect(turn?.rateRadS).toBeCloseTo(2, 12);
    expect(turn?.deadTimeSec).toBeCloseTo(0.08, 12);
    expect(turn && timeForTurn(turn, PI / 2)).toBeCloseTo(0.08 + PI / 4, 12);
    expect(turn?.bent).toBe(false);
  });

  it("says when one line is not enough", () => {
    expect(timedTurn([0.5, 1, 1.5, 2].map((t) => ({ timeSec: t, angleRad: t * t * 2 })))?.bent).toBe(true);
  });

  it("finds speed for one volt", () => {
    const drives = [1, 2, 1.5].map((timeSec, i) => {
      const volts = 3 + i;
      return { volts, timeSec, distanceM: 0.08 * volts * (timeSec - 0.1) };
    });
    const found = speedAtPower(drives);
    expect(found?.speedPerVolt.value).toBeCloseTo(0.08, 9);
    expect(found?.deadTimeSec.value).toBeCloseTo(0.1, 9);
  });

  it("finds the volts that only overcome friction, once drives differ in volts and in time", () => {
    // 0.08 m/s/V beyond 0.6 V, after 0.1 s: by hand 5 V for 1.1 s go 0.08 · 4.4 · 1 = 0.352 m.
    const drives = [
      [5, 1.1],
      [5, 2.1],
      [7, 1.1],
      [7, 2.1],
      [6, 1.6],
    ].map(([volts, timeSec]) => ({
      volts: volts as number,
      timeSec: timeSec as number,
      distanceM: 0.08 * ((volts as number) - 0.6) * ((timeSec as number) - 0.1),
    }));
    expect(drives[0]?.distanceM).toBeCloseTo(0.352, 12);
    const found = speedAtPower(drives);
    expect(Math.abs((found?.speedPerVolt.value ?? 0) / 0.08 - 1)).toBeLessThan(EXACT);
    expect(Math.abs((found?.deadVolts?.value ?? 0) / 0.6 - 1)).toBeLessThan(EXACT);
    expect(Math.abs((found?.deadTimeSec.value ?? 0) / 0.1 - 1)).toBeLessThan(EXACT);
    expect(found?.residualM).toBeLessThan(1e-9);
  });

  it("takes drives of one voltage as a plain line, and refuses those that went less far for longer", () => {
    const same = [1, 2, 3, 4].map((timeSec) => ({ volts: 6, timeSec, distanceM: 0.5 * timeSec }));
    expect(speedAtPower(same)?.deadVolts).toBeNull();
    expect(speedAtPower(same.map((drive) => ({ ...drive, distanceM: 3 - drive.distanceM })))).toBeNull();
    expect(speedAtPower(same.map((drive) => ({ ...drive, timeSec: 1 })))).toBeNull();
  });

  it("finds deceleration and lead behind stops: d = t v + v²/2a", () => {
    // From 0.2 m/s with 1.5 m/s² after 50 ms: 10 mm and 13.33 mm.
    const stops = [0.1, 0.2, 0.4].map((speedMS) => ({ speedMS, distanceM: 0.05 * speedMS + (speedMS * speedMS) / 3 }));
    expect(stops[1]?.distanceM).toBeCloseTo(0.02333, 5);
    const found = stopping(stops);
    expect(found?.decelerationMS2.value).toBeCloseTo(1.5, 9);
    expect(found?.leadSec.value).toBeCloseTo(0.05, 9);
    expect(stopDistanceM(0.2, 0.05, 1.5)).toBeCloseTo(0.02333, 5);
    expect(stopDistanceM(-0.2, 0.05, 1.5)).toBeCloseTo(0.02333, 5);
  });

  it("says what a line gives at a place with the error it has there", () => {
    // Points on y = 1 + 2x but for ±0.1: residual √(0.04/2), at the middle error residual/√4.
    const points: [number, number][] = [
      [0, 1.1],
      [1, 2.9],
      [2, 4.9],
      [3, 7.1],
    ];
    const line = fitLine(points);
    if (!line) throw new Error("no line");
    const middle = lineAt(
      line,
      points.map(([x]) => x),
      1.5,
    );
    expect(middle.value).toBeCloseTo(4, 12);
    expect(middle.standardError).toBeCloseTo(Math.sqrt(0.04 / 2) / 2, 12);
  });

  it("puts a limit in the middle between what works and what does not", () => {
    const limit = limitBetween([60, 50, 40], [36, 30], true);
    expect(limit?.value).toBe(38);
    expect(limit?.standardError).toBeCloseTo(4 / Math.sqrt(12), 12);
    expect(limitBetween([30, 40], [50, 46, 35], false)?.value).toBe(43);
    expect(limitBetween([30], [], true)).toBeNull();
    expect(limitBetween([30], [35], true)).toBeNull();
  });

  it("finds dead duty and slope of a wheel that lags behind its ramp, up and down alike", () => {
    // v' = (s (d − d0) − v)/τ on a ramp lags by s · rate · τ, early or late: the mean of both ways is d0.
    const [slope, dead, tau, dt] = [0.9, 0.12, 0.08, 0.01];
    const duties: number[] = [];
    const speeds: number[] = [];
    let v = 0;
    for (let i = 0; i < 600; i += 1) {
      const duty = i < 300 ? i * 0.002 : (600 - i) * 0.002;
      v = Math.max(0, v + ((slope * (duty - dead) - v) * dt) / tau);
      duties.push(duty);
      speeds.push(v);
    }
    const ramp = powerRamp(duties, speeds);
    // The first tenths of a second are still bent: half a percent of power.
    expect(Math.abs((ramp?.deadDuty ?? 0) - dead)).toBeLessThan(0.005);
    expect(Math.abs((ramp?.slopeMS ?? 0) / slope - 1)).toBeLessThan(0.02);
    expect(ramp?.upDuty).toBeGreaterThan(dead);
    expect(ramp?.downDuty).toBeLessThan(dead + 0.02);
    expect(
      powerRamp(
        duties,
        speeds.map(() => 0),
      ),
    ).toBeNull();
  });

  it("reads pull-away power where the wheel goes on turning, not at a twitch", () => {
    expect(pullAwayDuty([0.01, 0.02, 0.03, 0.04, 0.05, 0.06, 0.07], [0, 0.02, 0, 0.02, 0.03, 0.04, 0.05], 0.01)).toBe(
      0.04,
    );
    expect(pullAwayDuty([0.1, 0.2], [0, 0], 0.01)).toBeNull();
  });

  it("tells damping from overshoot by the logarithmic decrement", () => {
    // Overshoot 16.3 % belongs to a damping of 0.5.
    const answer = stepAnswer([0, 0.5, 1.163, 1.02, 1, 1], 1, 0.1);
    expect(answer.damping).toBeCloseTo(0.5, 2);
    expect(answer.rings).toBe(false);
    expect(stepAnswer([0, 1.5, 0.5, 1.5, 0.5, 1.5, 0.5], 1, 0.1).rings).toBe(true);
  });
});

describe("light and distance", () => {
  it("sets the threshold at equal error, nearer the level that scatters less", () => {
    const found = lightLevels([0.1, 0.12, 0.08, 0.1], [0.7, 0.76, 0.64, 0.7]);
    // Deviations 0.01633 and 0.04899: three quarters of the way down.
    expect(found.threshold).toBeCloseTo((0.1 * 3 + 0.7) / 4, 6);
    expect(found.marginSigma).toBeCloseTo(0.6 / (0.01633 + 0.04899), 2);
  });

  it("knows the normal tail", () => {
    expect(normalTail(0)).toBeCloseTo(0.5, 7);
    expect(normalTail(1.959964)).toBeCloseTo(0.025, 6);
    expect(normalTail(-1)).toBeCloseTo(0.841345, 5);
  });

  it("splits a sweep into dark and pale and leaves the edge out", () => {
    const split = splitLevels([0.1, 0.11, 0.09, 0.45, 0.8, 0.82, 0.79, 0.81]);
    expect(split?.dark).toEqual([0.09, 0.1, 0.11]);
    expect(split?.pale).toEqual([0.79, 0.8, 0.81, 0.82]);
    expect(splitLevels([0.5])).toBeNull();
  });

  it("a slow way onto the line does not move the threshold: it lies half-way between levels of the same scatter", () => {
    const around = (level: number, count: number) =>
      Array.from({ length: count }, (_, i) => level + 0.01 * Math.sin(i * 2.4));
    const edge = Array.from({ length: 60 }, (_, i) => 0.08 + (i * 0.77) / 60);
    const split = splitLevels([...around(0.08, 100), ...edge, ...around(0.85, 300)]);
    const found = lightLevels(split?.dark ?? [], split?.pale ?? []);
    expect(found.dark.value).toBeCloseTo(0.08, 1);
    expect(Math.abs(found.threshold - 0.465)).toBeLessThan(0.08);
  });

  it("finds a distance sensor's offset and scale", () => {
    const found = eyeDistance([0.1, 0.2, 0.4].map((trueM) => ({ trueM, readM: trueM + 0.012 })));
    expect(found.offsetM.value).toBeCloseTo(0.012, 12);
    expect(found.scale).toBeCloseTo(1, 12);
  });
});
