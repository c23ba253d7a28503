// How a motor is mounted, its gears, and whether it is reversed decide which way it turns its wheel: the wiring check
// and the rehearsal say the same of every one of the 64 settings.
import { describe, expect, test } from "vitest";
import { checkWiring, openRobot, type Robot } from "../../src/index.js";
import { demoRobot, drizzle, drizzleBody, runText } from "../support/demo.js";

const SETTINGS = [false, true].flatMap((reversed) =>
  (["outward", "inward"] as const).flatMap((shaft) => [false, true].map((gears) => ({ reversed, shaft, gears }))),
);

const GEARS = {
  kind: "gears",
  driverTeeth: 20,
  drivenTeeth: 20,
  efficiency: 0.95,
  backlashRad: 0,
  slipTorqueNm: null,
} as const;

function built(left: (typeof SETTINGS)[number], right: (typeof SETTINGS)[number]): Robot {
  return drizzle((body) => {
    for (const [side, setting] of [
      ["left", left],
      ["right", right],
    ] as const) {
      const motor = body.motors.find(({ name }) => name === `${side}_motor`);
      const wheel = body.wheels.find((candidate) => candidate.side === side);
      if (!motor || !wheel) throw new Error("Drizzle has two wheels");
      motor.reversed = setting.reversed;
      motor.shaft = setting.shaft;
      wheel.stages = setting.gears ? [{ ...GEARS }] : [];
    }
  });
}

describe("mounting", () => {
  test("wiring and rehearsal agree for all 64 settings of both sides", () => {
    let wrong = 0;
    for (const left of SETTINGS)
      for (const right of SETTINGS) {
        const robot = built(left, right);
        const said = checkWiring(robot)
          .filter(({ code }) => code === "backwards")
          .map(({ part }) => part);
        const { summary } = runText('cairn 1\nrobot "Drizzle"\nmission\n  power both 30 % for 0.4 s then coast\n', {
          robot,
        });
        const moved = summary.end.xM - summary.start.xM;
        const turned = summary.end.headingDeg - summary.start.headingDeg;
        const [backLeft, backRight] = ["left_motor", "right_motor"].map((name) => said.includes(name));
        if (backLeft || backRight) wrong += 1;
        if (backLeft === backRight) {
          expect(Math.abs(turned)).toBeLessThan(3);
          expect(moved > 0).toBe(!backLeft);
        } else expect(turned > 0).toBe(backLeft);
      }
    expect(wrong).toBe(48);
  });

  test("belts and chains do not turn the direction about, two pairs of gears do it twice", () => {
    const with_ = (stages: Robot["wheels"][number]["stages"]) => {
      const robot = drizzle((body) => {
        for (const wheel of body.wheels) wheel.stages = stages;
      });
      return checkWiring(robot).filter(({ code }) => code === "backwards").length;
    };
    expect([
      with_([{ ...GEARS, kind: "belt" }]),
      with_([{ ...GEARS, kind: "chain" }]),
      with_([{ ...GEARS }, { ...GEARS }]),
    ]).toEqual([0, 0, 0]);
    expect(with_([{ ...GEARS }])).toBe(2);
  });

  test("the demo robots drive forward; what an older document had was taken to fit, and still does", () => {
    for (const name of ["drizzle", "gust", "fog", "sleet"])
      expect(checkWiring(demoRobot(name)).filter(({ code }) => code === "backwards")).toEqual([]);
    const old = { ...drizzleBody(), version: 2 } as unknown as { motors: { name: string; reversed?: boolean }[] };
    const turned = structuredClone(old);
    for (const motor of turned.motors) motor.reversed = !motor.reversed;
    for (const document of [old, turned]) {
      const opened = openRobot(document);
      expect(opened.ok && checkWiring(opened.document).filter(({ code }) => code === "backwards")).toEqual([]);
    }
  });

  test("a wheel that turns backwards is said where the mission names the robot", () => {
    const robot = drizzle((body) => {
      for (const motor of body.motors) if (motor.name === "left_motor") motor.reversed = true;
    });
    const [note] = checkWiring(robot).filter(({ code }) => code === "backwards");
    expect(note?.message).toBe(
      "Left motor turns left wheel backwards: it sits on the left with its shaft pointing out, and nothing between them turns the direction about.",
    );
    expect(note?.mend).toBe("Set left motor to not reversed.");
  });
});
