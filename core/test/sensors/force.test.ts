// The force sensor: its lag in closed form, its range, and what it reads pressed against a wall.
import { describe, expect, test } from "vitest";
import { openFloor, prepareMission, rehearse, traceColumn } from "../../src/index.js";
import { randomStream } from "../../src/math/random.js";
import { ForceSensor } from "../../src/sensors/force.js";
import { noDeviations, worldFromRobot } from "../../src/simulate/fromRobot.js";
import { demoRobot } from "../support/demo.js";

const truth = { settleSec: 0.05, noiseN: 0, rangeN: 10, periodTicks: 1 };

describe("a push", () => {
  test("comes with a first-order lag: F (1 - exp(-t / settle))", () => {
    const sensor = new ForceSensor(truth, null);
    for (let tick = 1; tick <= 30; tick += 1) {
      sensor.tick(4, 0.01);
      expect(sensor.forceN).toBeCloseTo(4 * (1 - Math.exp((-tick * 0.01) / 0.05)), 9);
    }
  });

  test("is read no further than its range, and never below none", () => {
    const sensor = new ForceSensor({ ...truth, settleSec: 0 }, null);
    sensor.tick(25, 0.01);
    expect(sensor.forceN).toBe(10);
    const noisy = new ForceSensor({ ...truth, noiseN: 0.2 }, randomStream(7));
    const read = Array.from({ length: 500 }, () => {
      noisy.tick(0, 0.01);
      return noisy.forceN;
    });
    expect(Math.min(...read)).toBe(0);
    expect(Math.max(...read)).toBeGreaterThan(0.2);
  });

  test("is read anew once a period", () => {
    const sensor = new ForceSensor({ ...truth, settleSec: 0, periodTicks: 4 }, null);
    const read = Array.from({ length: 8 }, (_, i) => {
      sensor.tick(i + 1, 0.01);
      return sensor.forceN;
    });
    expect(read).toEqual([1, 1, 1, 1, 5, 5, 5, 5]);
  });
});

describe("against a wall", () => {
  const robot = demoRobot("flurry", (body) => {
    for (const { grip } of body.wheels) grip.value = 2;
  });

  test("reads what the stalled motors push, e n k I / r of each, give or take what their friction holds", () => {
    const field = {
      ...openFloor(),
      walls: [
        {
          name: "wall",
          fromM: [2.3, 1] as [number, number],
          toM: [2.3, 3] as [number, number],
          heightM: 0.2,
          thicknessM: 0,
          reflectance: 0.7,
        },
      ],
    };
    const duty = 0.3;
    const text = `cairn 1\nrobot "${robot.name}"\n\nmission\n  power both ${duty * 100} % for 4 s\n`;
    const prepared = prepareMission(text, robot, field);
    if (!prepared.program) throw new Error(prepared.check.problems.map(({ message }) => message).join("; "));
    const { trace } = rehearse(prepared, { seed: 1, ideal: true });
    const felt = traceColumn(trace, "nose.force");
    const volts = traceColumn(trace, "battery");
    const world = worldFromRobot(robot, field, noDeviations(robot));
    // At rest friction holds either way: between e n (k I - f) / r and e n (k I + f) / r.
    const pushes = (sign: 1 | -1) =>
      world.drives.reduce((sum, { drive }, i) => {
        if (!drive) throw new Error("no motor");
        const { constants, gearRatio, efficiency, coulombTorqueNm } = drive;
        const amps = (duty * (volts?.at(-20) ?? Number.NaN)) / constants.resistanceOhm;
        const shaftNm = efficiency * gearRatio * (constants.torqueConstant * amps + sign * coulombTorqueNm);
        return sum + shaftNm / (world.wheels[i]?.spec.radiusM ?? Number.NaN);
      }, 0);
    const read = felt?.at(-20) ?? Number.NaN;
    expect(read).toBeGreaterThan(pushes(-1) * 0.97);
    expect(read).toBeLessThan(pushes(1) * 1.03);
  });
});
