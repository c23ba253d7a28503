// The test of the whole, small: a new robot is calibrated by the application's own procedures and drives well.

import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import type { Robot } from "@giddy-pebble/core";
import { describe, expect, it } from "vitest";
import { calibrateWhole, checkDrives, dealTruth, returnError, StandIn } from "../src/index.js";
import { demoRobot } from "./support.js";

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../..");

/** A robot nobody measured yet. */
function asDrawn(robot: Robot): Robot {
  const drawn = <T extends { source: string; standardError: number | null }>(known: T) => ({
    ...known,
    source: "drawing" as const,
    standardError: null,
  });
  return {
    ...robot,
    drive: { ...robot.drive, trackWidthM: drawn(robot.drive.trackWidthM) },
    wheels: robot.wheels.map((wheel) => ({ ...wheel, rollPerTurnM: drawn(wheel.rollPerTurnM) })),
    sensors: robot.sensors.map((sensor) =>
      sensor.kind === "gyro" ? { ...sensor, scale: drawn(sensor.scale), restRadS: drawn(sensor.restRadS) } : sensor,
    ),
  } as Robot;
}

describe("a whole calibration", () => {
  for (const [name, seed] of [
    ["drizzle", 7],
    ["gust", 5],
  ] as const)
    it(`of ${name} makes its squares close ten times better and its drives end where they should`, () => {
      const robot = asDrawn(demoRobot(name));
      const standIn = new StandIn(robot, seed);
      const before = returnError(standIn, robot);
      const { robot: known, findings } = calibrateWhole(standIn, robot);
      standIn.changePack(0.9);
      const after = returnError(standIn, known);
      expect(findings.every(({ estimate }) => estimate.ok)).toBe(true);
      expect(before / after).toBeGreaterThan(10);
      const drives = checkDrives(standIn, known, 6);
      expect(Math.abs(drives.alongMm)).toBeLessThan(5);
      expect(Math.abs(drives.asideMm)).toBeLessThan(8);
      expect(Math.abs(drives.turnDeg)).toBeLessThan(1);
    });

  it("finds the hidden truth of wheels and gyro within four of its stated errors", () => {
    const robot = asDrawn(demoRobot("drizzle"));
    const standIn = new StandIn(robot, 3, false);
    const truth = dealTruth(robot, 3, false);
    const { findings } = calibrateWhole(standIn, robot, ["gyro-scale", "wheel-size"]);
    const [scale, size] = findings.map(({ estimate }) => (estimate.ok ? estimate.results[0]?.estimate : undefined));
    const near = (found: typeof scale, value: number) =>
      expect(Math.abs((found?.value ?? 0) - value)).toBeLessThan(4 * (found?.standardError ?? 0));
    near(scale, truth.gyroScale);
    near(size, (robot.wheels[0]?.diameterM ?? 0) * Math.PI * ((truth.rollLeft + truth.rollRight) / 2));
  });
});

describe("the hidden truth", () => {
  /** Every TypeScript file below a folder. */
  function sources(folder: string): string[] {
    return readdirSync(folder, { recursive: true, encoding: "utf8" })
      .filter((file) => /\.(ts|tsx|astro)$/.test(file))
      .map((file) => path.join(folder, file));
  }

  it("is imported neither by core, where the estimators are, nor by the web application", () => {
    const files = [...sources(path.join(root, "core/src")), ...sources(path.join(root, "web/src"))];
    expect(files.length).toBeGreaterThan(150);
    const reading = files.filter((file) =>
      /@giddy-pebble\/device|standin\/|HiddenTruth|dealTruth/.test(readFileSync(file, "utf8")),
    );
    expect(reading).toEqual([]);
  });

  it("is not read by what carries procedures out", () => {
    for (const file of ["measuring", "calibrating"]) {
      const text = readFileSync(path.join(root, `device/src/standin/${file}.ts`), "utf8");
      expect(text).not.toMatch(/truth\.js|dealTruth/);
    }
  });
});
