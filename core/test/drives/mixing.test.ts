// Roller wheels: what each shaft does for a motion of the whole, against the closed forms of both layouts.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { driveKind } from "../../src/drives/kinds.js";
import { type Mixing, mixingOf, type ShaftRow } from "../../src/drives/mixing.js";
import { checkRobot, type Robot, robotFigures, setDriveKind, setPartValue } from "../../src/index.js";
import { robotInForce } from "../../src/robot/inForce.js";
import { demoRobot } from "../support/demo.js";
import { RING_M, threeRollers } from "../support/rollers.js";

const mixed = (robot: Robot): Mixing => {
  const { mixing } = robotInForce(robot);
  if (!mixing) throw new Error("no mixing");
  return mixing;
};
const along = ({ forward, left, turn }: ShaftRow, [x, y, w]: readonly [number, number, number]) =>
  forward * x + left * y + turn * w;

describe("wheel speeds for a motion of the whole", () => {
  test("four wheels with rollers at 45 deg: v - left ∓ (a + b) w and v + left ± (a + b) w", () => {
    const { rows } = mixed(demoRobot("flurry"));
    // Half the length and half the width between the wheels: 70 and 75 mm.
    const lever = 0.07 + 0.075;
    const wanted = [
      [1, -1, -lever],
      [1, 1, lever],
      [1, 1, -lever],
      [1, -1, lever],
    ];
    rows.forEach(({ forward, left, turn }, i) => {
      [forward, left, turn].forEach((value, k) => {
        expect(value).toBeCloseTo(wanted[i]?.[k] ?? Number.NaN, 9);
      });
    });
  });

  test("three wheels on a ring R: v along where each rolls, and R w", () => {
    const { rows } = mixed(threeRollers());
    const half = Math.sqrt(3) / 2;
    const wanted = [
      [half, -0.5, -RING_M],
      [half, 0.5, RING_M],
      [0, 1, -RING_M],
    ];
    rows.forEach(({ forward, left, turn }, i) => {
      [forward, left, turn].forEach((value, k) => {
        expect(value).toBeCloseTo(wanted[i]?.[k] ?? Number.NaN, 9);
      });
    });
    // Told by its front wheels as if they rolled straight: width 2 R / cos 30 deg.
    expect(robotInForce(threeRollers()).trackWidthM.value).toBeCloseTo((2 * RING_M) / half, 9);
  });

  test.each([
    ["four", demoRobot("flurry")],
    ["three", threeRollers()],
  ])("from the speeds of all %s rims comes the motion that made them", (_, robot) => {
    const { rows, back } = mixed(robot);
    const speed = fc.double({ min: -2, max: 2, noNaN: true });
    fc.assert(
      fc.property(fc.tuple(speed, speed, speed), (motion) => {
        const rims = rows.map((row) => along(row, motion));
        const found = (["forward", "left", "turn"] as const).map((way) =>
          back.reduce((sum, share, i) => sum + share[way] * (rims[i] ?? 0), 0),
        );
        found.forEach((value, k) => {
          expect(value).toBeCloseTo(motion[k] ?? 0, 9);
        });
      }),
    );
  });

  test("what was found about sliding and turning stands in the rows", () => {
    const robot = setPartValue(
      setPartValue(demoRobot("flurry"), "drive", "slideShare", 0.95),
      "drive",
      "trackWidthM",
      0.3,
    );
    const { rows } = mixed(robot);
    // A way of 0.95 m to the left takes a metre at the rims; a turn takes 0.3 / 0.29 of the drawn way.
    expect(along(rows[1] as ShaftRow, [0, 0.95, 0])).toBeCloseTo(1, 9);
    expect(along(rows[1] as ShaftRow, [0, 0, 1])).toBeCloseTo(0.15, 9);
  });

  test("rollers that all lie alike leave a way that no wheel can push", () => {
    const wheels = demoRobot("flurry").wheels.map((wheel) => ({ ...wheel, rollers: { axleRad: 0.7, friction: 0 } }));
    expect(mixingOf(wheels, { slide: 1, turn: 1 })).toBeNull();
  });
});

describe("figures of roller wheels", () => {
  const figureOf = (robot: Robot, id: string) =>
    robotFigures(robot).find((figure) => figure.id === id)?.value ?? Number.NaN;

  test("what the floor holds along the way: μ m g cos 45 deg of four, μ m g / √3 of three", () => {
    const weightN = 0.98 * 9.81;
    expect(figureOf(demoRobot("flurry"), "push-before-slip")).toBeCloseTo(0.7 * weightN * Math.SQRT1_2, 2);
    expect(figureOf(threeRollers(), "push-before-slip")).toBeCloseTo((0.7 * weightN) / Math.sqrt(3), 2);
  });

  test("three wheels are as fast ahead as their rims over cos 30 deg, and the two in front give all the push", () => {
    const [four, three] = [demoRobot("flurry"), threeRollers()];
    const ratio = 2 / Math.sqrt(3);
    // Nearly: a robot with three wheels bears more on each, so that each rolls a little harder.
    expect(figureOf(three, "top-speed") / figureOf(four, "top-speed")).toBeCloseTo(ratio, 1);
    expect(figureOf(three, "stall-push") / figureOf(four, "stall-push")).toBeCloseTo(
      (2 * Math.cos(Math.PI / 6)) / 4,
      1,
    );
  });
});

describe("what is wrong with roller wheels", () => {
  const faults: readonly (readonly [string, (robot: Robot) => Robot, string])[] = [
    ["no rollers", (robot) => setPartValue(robot, "rear_left", "rollers", null), "no-rollers"],
    ["a shared motor", (robot) => setPartValue(robot, "rear_left", "drivenBy", "front_left_motor"), "shared-motor"],
    ["three of four", (robot) => ({ ...robot, wheels: robot.wheels.slice(0, 3) }), "wheel-count"],
    ["a steered wheel", (robot) => setPartValue(robot, "rear_left", "steered", true), "steered-here"],
    [
      "all alike",
      (robot) => ({
        ...robot,
        wheels: robot.wheels.map((wheel) => ({ ...wheel, rollers: { axleRad: 0.7, friction: 0.02 } })),
      }),
      "rollers-alike",
    ],
  ];
  test.each(faults)("%s", (_, spoil, code) => {
    const found = checkRobot(spoil(demoRobot("flurry"))).find((problem) => problem.code === code);
    expect(found?.message).toMatch(/^[A-Z].*\.$/);
    expect(found?.mend).toMatch(/^[A-Z].*\.$/);
  });

  test("the demo robot and its sister with three are in order", () => {
    expect(checkRobot(demoRobot("flurry"))).toEqual([]);
    expect(checkRobot(threeRollers())).toEqual([]);
  });

  test("choosing the kind puts the rollers on as they must lie, and choosing another takes them off", () => {
    const flurry = demoRobot("flurry");
    const two = setDriveKind(flurry, "four-wheel");
    expect(two.wheels.every(({ rollers, aimRad }) => rollers === null && aimRad === 0)).toBe(true);
    const again = setDriveKind(two, "four-rollers");
    again.wheels.forEach((wheel, i) => {
      expect(wheel.rollers?.axleRad).toBeCloseTo(flurry.wheels[i]?.rollers?.axleRad ?? 0, 9);
    });
    expect(checkRobot(again)).toEqual([]);
    const three = setDriveKind(threeRollers(), "two-wheel");
    const back = setDriveKind(three, "three-rollers");
    expect(back.wheels.map(({ aimRad }) => aimRad.toFixed(4))).toEqual(
      threeRollers().wheels.map(({ aimRad }) => aimRad.toFixed(4)),
    );
    expect(driveKind(back.drive).slides).toBe(true);
  });
});
