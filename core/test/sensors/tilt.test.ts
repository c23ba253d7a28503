// The tilt sensor: the angles of a plane that slopes, its lag, its range, and missions that use it.
import { describe, expect, test } from "vitest";
import {
  openFloor,
  prepareMission,
  Rehearsal,
  type Robot,
  randomStream,
  readField,
  readingsOf,
  rehearse,
} from "../../src/index.js";
import { TiltSensor, tiltRad } from "../../src/sensors/tilt.js";
import { bodyPose } from "../../src/simulate/fromRobot.js";
import { drizzle } from "../support/demo.js";

const DEG = Math.PI / 180;
const robot = drizzle((body) => {
  body.sensors.push({
    kind: "tilt",
    name: "tilt",
    xM: 0,
    yM: 0,
    zM: 0.04,
    aimRad: 0,
    settleMs: 150,
    noiseRad: 0.004,
    rangeRad: 45 * DEG,
    periodMs: 20,
  } as Robot["sensors"][number]);
});

/** A floor whose right half slopes up to the right. */
function slope(deg: number, upRad = 0) {
  const read = readField({
    ...openFloor(),
    ramps: [
      {
        cornersM: [
          [2.5, 0],
          [4, 0],
          [4, 4],
          [2.5, 4],
        ],
        slopeRad: deg * DEG,
        upRad,
      },
    ],
  });
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
}

describe("angles", () => {
  test.each([0, 3, 8, 12])("on a slope of %s deg are those of the plane, whichever way it faces", (deg) => {
    const prepared = prepareMission('cairn 1\nrobot "Drizzle"\n\nmission\n  wait 1 s\n', robot, slope(deg));
    for (const facing of [0, 30, 90, 135, 180, -60]) {
      const { run } = new Rehearsal(prepared, { seed: 1, ideal: true });
      run.body.world.place(bodyPose(robot, { xM: 3.2, yM: 2, headingRad: facing * DEG }));
      run.advance();
      const value = (id: string) => run.brain.snapshot[readingsOf(robot).get(id)?.slot ?? -1];
      // A direction φ from uphill rises by asin(sin θ cos φ): the dot product of it with the plane's normal.
      expect(value("tilt.pitch")).toBeCloseTo(Math.asin(Math.sin(deg * DEG) * Math.cos(facing * DEG)), 9);
      expect(value("tilt.roll")).toBeCloseTo(Math.asin(-Math.sin(deg * DEG) * Math.sin(facing * DEG)), 9);
    }
  });

  test("a pull of g sin of an angle is that angle, and more than all of it is straight down", () => {
    for (const deg of [-80, -10, 0, 25, 60]) expect(tiltRad(-9.81 * Math.sin(deg * DEG))).toBeCloseTo(deg * DEG, 9);
    expect(tiltRad(-30)).toBeCloseTo(Math.PI / 2, 9);
  });
});

describe("readings", () => {
  const truth = { settleSec: 0.2, noiseRad: 0, rangeRad: 30 * DEG, periodTicks: 1 };
  const uphill = -9.81 * Math.sin(10 * DEG);

  test("settle on a new slope by 1 - exp(-t/T)", () => {
    const sensor = new TiltSensor(truth, null);
    sensor.tick(0, 0, 0.01);
    for (let i = 1; i <= 40; i += 1) {
      sensor.tick(uphill, 0, 0.01);
      expect(sensor.pitchRad).toBeCloseTo(10 * DEG * (1 - Math.exp(-i * 0.05)), 9);
    }
    expect(sensor.rollRad).toBe(0);
  });

  test("end at the range, come at their pace, and scatter as stated", () => {
    const steep = new TiltSensor({ ...truth, settleSec: 0 }, null);
    steep.tick(-9.81, 9.81, 0.01);
    expect([steep.pitchRad, steep.rollRad]).toEqual([30 * DEG, -30 * DEG]);
    const slow = new TiltSensor({ ...truth, settleSec: 0, periodTicks: 5 }, null);
    const seen = Array.from({ length: 11 }, (_, i) => {
      slow.tick(i === 0 ? 0 : uphill * 3, 0, 0.01);
      return slow.pitchRad;
    });
    // At the first, sixth and eleventh tick.
    expect(seen.map((value) => Math.round(value / DEG))).toEqual([0, 0, 0, 0, 0, 30, 30, 30, 30, 30, 30]);
    const noisy = new TiltSensor({ ...truth, settleSec: 0, noiseRad: 0.01 }, randomStream(3));
    const all = Array.from({ length: 2000 }, () => {
      noisy.tick(0, 0, 0.01);
      return noisy.pitchRad;
    });
    const deviation = Math.sqrt(all.reduce((sum, value) => sum + value * value, 0) / all.length);
    // 2,000 draws know it within 1.6 %; four of these.
    expect(Math.abs(deviation / 0.01 - 1)).toBeLessThan(0.065);
  });
});

test("a mission drives until it goes uphill, and says how steep it is", () => {
  const text = `cairn 1
robot "Drizzle"

mission
  go at 15 cm/s until tilt.pitch > 4 deg limit 3 m
  wait 1 s
  note steep = tilt.pitch
`;
  const prepared = prepareMission(text, robot, slope(8));
  expect(prepared.check.problems.map(({ code }) => code)).toEqual(["wiring"]);
  for (let seed = 1; seed <= 5; seed += 1) {
    const { summary } = rehearse(prepared, { seed, ideal: false });
    expect(summary.steps[0]?.endedBy).toBe("until");
    expect(summary.end.xM).toBeGreaterThan(2.4);
    expect(summary.end.xM).toBeLessThan(2.9);
  }
  const ideal = rehearse(prepared, { seed: 1, ideal: true }).summary.notes[0]?.value as number;
  expect(ideal).toBeGreaterThan(4 * DEG);
  expect(ideal).toBeLessThan(8.01 * DEG);
});
