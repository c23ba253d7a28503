// Robots that nobody drew: numbers anywhere in their ranges, and beyond them. Whatever is typed, every part of the
// Robot workplace has an answer; and what is found sound drives without losing its numbers.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  checkRobot,
  checkWiring,
  currentBudget,
  deviceTerminals,
  gearChoice,
  noDeviations,
  openFloor,
  openRobot,
  partsOf,
  prepareMission,
  QUANTITIES,
  type QuantityInfo,
  quantityAt,
  type Robot,
  readRobot,
  rehearse,
  robotFigures,
  setPartValue,
  supportLoads,
  worldFromRobot,
} from "../../src/index.js";
import { proposeWiring } from "../../src/robot/propose.js";
import { demoRobot } from "../support/demo.js";
import { evenly } from "../support/evenly.js";

const ROBOTS = ["drizzle", "gust", "sleet", "fog"].map((name) => demoRobot(name));

interface Place {
  readonly ref: string;
  readonly info: QuantityInfo;
  readonly value: number;
}

/** Every number of a robot, with where it stands. */
function places(robot: Robot): Place[] {
  return partsOf(robot).flatMap((part) =>
    (QUANTITIES[part.kind] ?? []).flatMap((info) => {
      const value = quantityAt(part.value, info);
      return value === null ? [] : [{ ref: part.ref, info, value }];
    }),
  );
}

/** A value somewhere between half and twice what it is, kept within its range. */
function within({ info, value }: Place, share: number): number {
  const wished = value === 0 ? 0.02 * (share - 0.5) : value * 4 ** (share - 0.5);
  const low = info.least ?? (info.over === undefined ? Number.NEGATIVE_INFINITY : info.over + 1e-6);
  const kept = Math.max(low, Math.min(info.most ?? Number.POSITIVE_INFINITY, wished));
  return info.whole ? Math.max(1, Math.round(kept)) : kept;
}

const share = evenly(0, 1);
const change = fc.record({ at: share, to: share });
const anyRobot = fc
  .record({ robot: fc.integer({ min: 0, max: 3 }), changes: fc.array(change, { maxLength: 12 }) })
  .map(({ robot: index, changes }) => {
    const base = ROBOTS[index] as Robot;
    const all = places(base);
    return changes.reduce((robot, { at, to }) => {
      const place = all[Math.min(all.length - 1, Math.floor(at * all.length))] as Place;
      return setPartValue(robot, place.ref, place.info.path, within(place, to));
    }, base);
  });

function finite(value: unknown, path = ""): void {
  if (typeof value === "number") expect(Number.isFinite(value), path).toBe(true);
  else if (typeof value === "object" && value !== null)
    for (const [key, one] of Object.entries(value)) finite(one, `${path}.${key}`);
}

describe("a robot of any numbers in their ranges", () => {
  test("has an answer to every question of the workplace, in finite numbers", () => {
    fc.assert(
      fc.property(anyRobot, (robot) => {
        const problems = checkRobot(robot);
        for (const { message, mend } of problems) {
          expect(message).toMatch(/^["A-Z].*\.$/);
          expect(mend).toMatch(/^[A-Z].*\.$/);
        }
        for (const { message } of checkWiring(robot)) expect(message).toMatch(/^[A-Z0-9].*\.$/);
        finite(supportLoads(robot));
        finite(currentBudget(robot));
        if (problems.some(({ severity }) => severity === "error")) return;
        for (const figure of robotFigures(robot)) {
          finite(figure.value, figure.id);
          expect(figure.shown, figure.id).not.toMatch(/NaN|Infinity|undefined/);
        }
        const choice = gearChoice(robot, [], 8, 7);
        finite(choice.points);
        expect(choice.verdict).not.toMatch(/NaN|Infinity/);
      }),
      { numRuns: 300 },
    );
  });

  test("that is found sound drives a second without losing its numbers, its weight on its wheels", () => {
    fc.assert(
      fc.property(anyRobot, share, share, (robot, left, right) => {
        if (!readRobot(robot).ok) return;
        const world = worldFromRobot(robot, openFloor(), noDeviations(robot));
        for (const i of world.drives.keys()) world.command(i, "drive", 2 * (i === 0 ? left : right) - 1);
        for (let i = 0; i < 200; i += 1) world.step();
        finite([world.xM, world.yM, world.headingRad, world.velocityX, world.packVolts, world.charge]);
        // A wheel turns no faster than its motor would alone on a pack of its highest voltage.
        expect(Math.hypot(world.velocityX, world.velocityY)).toBeLessThan(30);
        const weight = robot.chassis.massKg * 9.81;
        expect(world.loads.loadsN.reduce((sum, load) => sum + load, 0) / weight).toBeCloseTo(1, 6);
      }),
      { numRuns: 200 },
    );
  });

  test("goes a short way in a rehearsal to an end that is told", () => {
    fc.assert(
      fc.property(anyRobot, fc.integer({ min: 1, max: 1e6 }), (robot, seed) => {
        if (!readRobot(robot).ok) return;
        const prepared = prepareMission(
          `cairn 1\nrobot "${robot.name}"\nmission\n  go 20 cm\n  show battery.voltage\n`,
          robot,
          openFloor(),
        );
        if (!prepared.program) return;
        const { summary, trace } = rehearse(prepared, { seed, ideal: false });
        finite(summary.end);
        for (const { id, values } of trace.columns) expect(values.every(Number.isFinite), id).toBe(true);
        if (!summary.success) expect(summary.reason.length).toBeGreaterThan(5);
      }),
      { numRuns: 60 },
    );
  });

  test("is the same robot after it was written and read again", () => {
    fc.assert(
      fc.property(anyRobot, (robot) => {
        const read = openRobot(JSON.parse(JSON.stringify(robot)));
        expect(read.ok && read.document).toEqual(robot);
      }),
      { numRuns: 100 },
    );
  });

  test("is wired by proposal without two on one pin, as far as the board has pins", () => {
    fc.assert(
      fc.property(
        anyRobot,
        fc.constantFrom("smart-ten", "eight-bit", "small-3v3"),
        fc.array(fc.record({ at: share, to: share }), { maxLength: 6 }),
        (robot, profile, mixed) => {
          const devices = deviceTerminals({ ...robot, board: { ...robot.board, profile } });
          if (devices.length === 0) return;
          const wiring = mixed.map(({ at, to }) => {
            const { part, terminal } = devices[Math.floor(at * (devices.length - 1))] as (typeof devices)[number];
            return { part, terminal, to: robot.wiring[Math.floor(to * (robot.wiring.length - 1))]?.to ?? "nowhere" };
          });
          const wired = { ...robot, board: { ...robot.board, profile }, wiring };
          const proposed = { ...wired, wiring: proposeWiring(wired) };
          const codes = checkWiring(proposed).map(({ code }) => code);
          for (const code of ["shared-pin", "no-such-pin", "wrong-rail", "loose-wire"])
            expect(codes).not.toContain(code);
          // Proposing again changes nothing.
          expect(proposeWiring(proposed)).toEqual(proposed.wiring);
        },
      ),
      { numRuns: 200 },
    );
  });
});
