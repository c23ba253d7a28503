import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { containsPoint, counterClockwise, gyrationM2, isConvex, signedAreaM2 } from "../../src/geometry/polygon.js";
import { placePoint } from "../../src/geometry/pose.js";
import { composePoses, type Point, wrapAngle } from "../../src/index.js";
import { encoderCounts } from "../../src/sensors/encoder.js";
import { GyroSensor } from "../../src/sensors/gyro.js";
import { evenly } from "../support/evenly.js";

const box: Point[] = [
  [0, 0],
  [0.2, 0],
  [0.2, 0.1],
  [0, 0.1],
];

describe("geometry", () => {
  test("wrapped angles lie in (-pi, pi] and differ by whole turns", () => {
    fc.assert(
      fc.property(evenly(-50, 50), (angle) => {
        const wrapped = wrapAngle(angle);
        expect(wrapped).toBeGreaterThan(-Math.PI - 1e-9);
        expect(wrapped).toBeLessThanOrEqual(Math.PI + 1e-9);
        const turns = (angle - wrapped) / (2 * Math.PI);
        expect(Math.abs(turns - Math.round(turns))).toBeLessThan(1e-9);
      }),
    );
  });
  test("a plate's gyration about its middle is (a² + b²)/12", () => {
    expect(gyrationM2(box, [0.1, 0.05])).toBeCloseTo((0.2 ** 2 + 0.1 ** 2) / 12, 15);
  });
  test("area, direction, convexity and containment of a polygon", () => {
    expect(signedAreaM2(box)).toBeCloseTo(0.02, 15);
    expect(signedAreaM2(counterClockwise([...box].reverse()))).toBeCloseTo(0.02, 15);
    expect(isConvex(box)).toBe(true);
    expect(
      isConvex([
        [0, 0],
        [1, 0],
        [0.2, 0.2],
        [0, 1],
      ]),
    ).toBe(false);
    expect([containsPoint(box, [0.1, 0.05]), containsPoint(box, [0.3, 0.05])]).toEqual([true, false]);
  });
  test("composing poses places points twice", () => {
    const outer = { xM: 1, yM: 2, headingRad: 0.7 };
    const inner = { xM: -0.3, yM: 0.4, headingRad: -2 };
    const both = placePoint(composePoses(outer, inner), [0.1, 0.2]);
    const twice = placePoint(outer, placePoint(inner, [0.1, 0.2]));
    expect(both[0]).toBeCloseTo(twice[0], 12);
    expect(both[1]).toBeCloseTo(twice[1], 12);
  });
});

describe("sensors", () => {
  test("a gyro reads rate over scale plus rest, at its own pace, and stops at its range", () => {
    const truth = { scale: 1.02, restRadS: 0.01, noiseRadS: 0, rangeRadS: 5, periodTicks: 2, wanderRadS: 0 };
    const gyro = new GyroSensor(truth, 0, null);
    const delivered = Array.from({ length: 100 }, (_, i) => gyro.tick((i + 1) * 0.02, 0.01));
    expect(delivered.filter(Boolean)).toHaveLength(50);
    expect(gyro.rateRadS).toBeCloseTo(2 / 1.02 + 0.01, 12);
    for (let i = 1; i <= 10; i += 1) gyro.tick(2 + i * 0.1, 0.01);
    expect(gyro.rateRadS).toBe(5);
  });
  test("an encoder counts whole steps downwards too", () => {
    expect([0, 0.999, 1, -0.001].map((turns) => encoderCounts(turns * 2 * Math.PI + 1e-12, 100))).toEqual([
      0, 99, 100, -1,
    ]);
  });
});
