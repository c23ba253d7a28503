// The looks of a turning head, against the servo's own law and the speed of sound.
import { describe, expect, test } from "vitest";
import { eyeBlind, headLooks, prepareMission, type Robot, rehearse, type SensorOf } from "../../src/index.js";
import { demoField, demoRobot } from "../support/demo.js";

const robot = demoRobot("drizzle");
const eye = robot.sensors.find(({ kind }) => kind === "eye") as SensorOf<"eye">;
const head = robot.servos.find(({ name }) => name === eye.head) as Robot["servos"][number];

function traceOf(steps: string) {
  const text = `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\nmission\n${steps}`;
  const prepared = prepareMission(text, robot, demoField("fellside"));
  expect(prepared.check.problems.filter(({ severity }) => severity === "error")).toEqual([]);
  return rehearse(prepared, { seed: 1, ideal: true }).trace;
}

describe("looks of a head", () => {
  test("moves on its ramps, settles over its lag, pings when it stands, hears after 2 d / 343 m/s", () => {
    const [look, ...more] = headLooks(traceOf("  wait 0.5 s\n  aim head to left 80 deg\n  wait 0.5 s\n"), eye);
    expect(more).toEqual([]);
    expect(look).toBeDefined();
    if (!look) return;
    const { movesTick, settlesTick, stillTick, pingTick, heardTick } = look;
    const angle = (80 * Math.PI) / 180;
    const lag = head.settleSec + 0.01;
    // It is told to speed up and to slow down at five times its top speed a second, and follows with a lag of the first
    // order: the way there is two ramps, and what is left dies over a few lags.
    const ramps = 2 * Math.sqrt(angle / (5 * head.speedRadS));
    expect((settlesTick - movesTick) / 100).toBeGreaterThan(ramps / 2);
    expect((settlesTick - movesTick) / 100).toBeLessThan(ramps + lag);
    expect(((stillTick ?? 0) - movesTick) / 100).toBeGreaterThan(ramps + lag);
    expect(((stillTick ?? 0) - movesTick) / 100).toBeLessThan(ramps + 5 * lag);
    expect(pingTick).toBeGreaterThanOrEqual(stillTick ?? 0);
    expect((pingTick ?? 0) - (stillTick ?? 0)).toBeLessThanOrEqual(eye.cycleMs / 10);
    expect(look.bearingRad).toBeCloseTo(eye.aimRad + angle, 1);
    const echoSec = look.heardM === null ? eye.cycleMs / 1000 : (2 * look.heardM) / 343;
    expect(((heardTick ?? 0) - (pingTick ?? 0)) / 100).toBeCloseTo(Math.max(0.01, Math.ceil(echoSec / 0.01) * 0.01), 2);
  });

  test("a scan is one look for each of its places, in order", () => {
    const looks = headLooks(traceOf("  scan head from right 60 deg to left 60 deg with 5 looks\n"), eye);
    const bearings = looks.slice(-5).map(({ bearingRad }) => Math.round((bearingRad * 180) / Math.PI) + 0);
    expect(bearings).toEqual([-60, -30, 0, 30, 60]);
    for (const { heardTick, pingTick } of looks) expect(heardTick ?? 0).toBeGreaterThan(pingTick ?? 0);
  });

  test("a head that never turns has no looks, nor has a sensor without a head", () => {
    const trace = traceOf("  wait 0.4 s\n");
    expect(headLooks(trace, eye)).toEqual([]);
    expect(headLooks(trace, { ...eye, head: null })).toEqual([]);
  });

  test("blind is what its head and cone do not reach, what is too near and what is too far", () => {
    const blind = eyeBlind(robot, eye);
    const half = eye.coneRad / 2;
    expect(blind.reachRad[0]).toBeCloseTo(eye.aimRad + head.lowRad - half, 9);
    expect(blind.reachRad[1]).toBeCloseTo(eye.aimRad + head.highRad + half, 9);
    expect(blind.echoSec).toBeCloseTo((2 * eye.farM) / 343, 9);
    const fixed = eyeBlind(robot, { ...eye, head: null, aimRad: 1 });
    expect(fixed.reachRad).toEqual([expect.closeTo(1 - half, 9), expect.closeTo(1 + half, 9)]);
  });
});
