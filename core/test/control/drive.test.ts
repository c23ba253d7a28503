// The drive's controller on the simulated robot: holds heading and speed although the robot is not as drawn.
import { describe, expect, test } from "vitest";
import { driveModel, type Robot, traceColumn } from "../../src/index.js";
import { drizzle, runSteps } from "../support/demo.js";

/** A robot whose truth differs from its belief: the values in force stay, the parts change. */
function lopsided(): Robot {
  return drizzle((body) => {
    (body.motors[0] as Robot["motors"][0]).coulombTorqueNm = 0.0008;
    (body.motors[0] as Robot["motors"][0]).stallTorqueNm *= 0.85;
  });
}

function column(steps: string, id: string, robot?: Robot): Float32Array {
  const values = traceColumn(runSteps(steps, robot ? { robot } : {}).trace, id);
  if (!values) throw new Error(`no column ${id}`);
  return values;
}

describe("heading and speed", () => {
  test("a robot with one weak and stiff motor still drives straight", () => {
    const { summary } = runSteps("go 1 m", { robot: lopsided() });
    expect(Math.abs(summary.end.yM - 2) * 1000).toBeLessThan(8);
    expect(Math.abs(summary.end.headingDeg)).toBeLessThan(0.6);
  });

  test("cruise is held within 3 %, from a few ramps on", () => {
    const speeds = column("go 1 m at 25 cm/s", "leftSpeed");
    const middle = speeds.slice(120, 300);
    for (const speed of middle) expect(Math.abs(speed / 0.25 - 1)).toBeLessThan(0.03);
  });

  test("a turn neither overshoots by more than a degree nor rings", () => {
    const headings = column("turn left 90 deg\nwait 0.5 s", "heading").map((heading) => (heading * 180) / Math.PI);
    expect(Math.max(...headings)).toBeLessThan(91);
    const late = headings.slice(-60);
    expect(Math.max(...late) - Math.min(...late)).toBeLessThan(0.1);
  });

  test("using caps the duty", () => {
    const duties = column("go 30 cm using 30 %", "leftDuty");
    expect(Math.max(...duties.map(Math.abs))).toBeLessThanOrEqual(0.3 + 1e-6);
  });

  test("ramp sets how fast it speeds up", () => {
    const reaches = (ramp: string) =>
      column(`go 1 m at 25 cm/s ramp ${ramp}`, "rightSpeed").findIndex((speed) => speed > 0.24);
    expect(reaches("20 cm/s/s")).toBeGreaterThan(2 * reaches("80 cm/s/s"));
  });

  test("a robot asked for more than it can do goes as fast as it can and still arrives", () => {
    const { summary } = runSteps("go 2 m at 3 m/s ramp 9 m/s/s");
    expect(summary).toMatchObject({ outcome: "finished", success: true });
    expect(Math.abs(summary.end.xM - 4)).toBeLessThan(0.03);
  });
});

describe("the drive model", () => {
  test("more voltage, less friction, lighter: faster or quicker", () => {
    const model = driveModel(drizzle());
    const stiff = driveModel(
      drizzle((body) => {
        for (const motor of body.motors) motor.coulombTorqueNm *= 3;
      }),
    );
    expect(stiff.topSpeedMS).toBeLessThan(model.topSpeedMS);
    const heavy = driveModel(
      drizzle((body) => {
        body.chassis.massKg *= 3;
      }),
    );
    expect(heavy.rampMS2).toBeLessThanOrEqual(model.rampMS2);
    expect(heavy.sideMassKg).toBeGreaterThan(model.sideMassKg);
    const slippery = driveModel(
      drizzle((body) => {
        for (const wheel of body.wheels) wheel.grip.value = 0.2;
      }),
    );
    expect(slippery.rampMS2).toBeLessThan(model.rampMS2);
  });

  test("gears change speed the way they change turns", () => {
    const geared = driveModel(
      drizzle((body) => {
        for (const wheel of body.wheels)
          wheel.stages = [
            { kind: "gears", driverTeeth: 20, drivenTeeth: 12, efficiency: 1, backlashRad: 0, slipTorqueNm: null },
          ];
      }),
    );
    expect(geared.topSpeedMS).toBeGreaterThan(1.3 * driveModel(drizzle()).topSpeedMS);
    expect(geared.left.metresPerCount).toBeCloseTo(0.1946 / (720 * 0.6), 9);
  });
});
