// Faulty robots: each fault is named, placed and mended; the rest stays usable.
import { readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import { sourceOf } from "../../src/drives/train.js";
import { addPart, CATALOGUE, checkRobot, emptyRobot, openRobot, type Robot, readRobot } from "../../src/index.js";
import { insideHullBy } from "../../src/robot/check.js";
import { demoRobot, drizzle, drizzleBody, missionOf, runText } from "../support/demo.js";

function faulty(change: (body: Robot) => void): Robot {
  const opened = openRobot(structuredClone(drizzleBody()));
  if (!opened.ok) throw new Error(opened.problems.join());
  const body = structuredClone(opened.document);
  change(body);
  const again = openRobot(body);
  if (!again.ok) throw new Error(again.problems.join());
  return again.document;
}
const wheel = (body: Robot, i: number) => body.wheels[i] as Robot["wheels"][0];
const stage = {
  kind: "gears" as const,
  driverTeeth: 20,
  drivenTeeth: 12,
  efficiency: 0.95,
  backlashRad: 0,
  slipTorqueNm: null,
};

describe("what is wrong with a robot", () => {
  test.each<[string, (body: Robot) => void, string, string]>([
    [
      "wheels off the chassis",
      (b) => {
        wheel(b, 0).xM = 0.6;
      },
      "wheel-off",
      "left_wheel",
    ],
    [
      "no wheels",
      (b) => {
        b.wheels = [];
      },
      "no-wheels",
      "drive",
    ],
    [
      "one driven wheel",
      (b) => {
        wheel(b, 1).drivenBy = null;
      },
      "one-side",
      "drive",
    ],
    [
      "no driven wheel",
      (b) => {
        for (const w of b.wheels) w.drivenBy = null;
      },
      "one-side",
      "drive",
    ],
    [
      "zero teeth",
      (b) => {
        wheel(b, 0).stages = [{ ...stage, drivenTeeth: 0 }];
      },
      "out-of-range",
      "left_wheel",
    ],
    [
      "a gear chain back to itself",
      (b) => {
        wheel(b, 0).drivenBy = "right_wheel";
        wheel(b, 1).drivenBy = "left_wheel";
      },
      "gear-loop",
      "left_wheel",
    ],
    [
      "a wheel driven by itself",
      (b) => {
        wheel(b, 0).drivenBy = "left_wheel";
      },
      "gear-loop",
      "left_wheel",
    ],
    [
      "a height below ground",
      (b) => {
        (b.sensors[2] as Robot["sensors"][0]).zM = -0.02;
      },
      "out-of-range",
      "eye",
    ],
    [
      "100 motors on one pack",
      (b) => {
        b.motors = [
          ...b.motors,
          ...Array.from({ length: 97 }, (_, i) => ({ ...(b.motors[2] as Robot["motors"][0]), name: `extra_${i}` })),
        ];
      },
      "many-motors",
      "pack",
    ],
    [
      "a wheel on the wrong side",
      (b) => {
        wheel(b, 0).yM = -0.05;
      },
      "wrong-side",
      "left_wheel",
    ],
    [
      "one motor for both sides",
      (b) => {
        wheel(b, 1).drivenBy = "left_motor";
      },
      "one-motor-both",
      "drive",
    ],
    [
      "driven by a ghost",
      (b) => {
        wheel(b, 1).drivenBy = "ghost";
      },
      "driven-by-nothing",
      "right_wheel",
    ],
    [
      "no support",
      (b) => {
        b.support = null;
      },
      "in-one-line",
      "support",
    ],
    [
      "balance outside",
      (b) => {
        b.chassis.centreOfMassM = [0.05, 0, 0.04];
      },
      "tips-over",
      "chassis",
    ],
    [
      "balance near the edge",
      (b) => {
        b.chassis.centreOfMassM = [-0.002, 0, 0.08];
      },
      "tips-easily",
      "chassis",
    ],
    [
      "a steered wheel on two wheels",
      (b) => {
        wheel(b, 0).steered = true;
      },
      "steered-here",
      "left_wheel",
    ],
    [
      "a third wheel",
      (b) => {
        b.wheels.push({ ...wheel(b, 0), name: "third", yM: 0.05 });
      },
      "wheel-count",
      "drive",
    ],
    [
      "an arm without travel",
      (b) => {
        (b.attachments[0] as Robot["attachments"][0]).highRad = -1;
      },
      "attachment-stops",
      "lever",
    ],
    [
      "an arm moved by a wheel's motor",
      (b) => {
        (b.attachments[0] as Robot["attachments"][0]).drivenBy = "left_motor";
      },
      "attachment-shared",
      "lever",
    ],
    [
      "an arm moved by nothing",
      (b) => {
        (b.attachments[0] as Robot["attachments"][0]).drivenBy = "ghost";
      },
      "attachment-driver",
      "lever",
    ],
    [
      "a distance sensor on no head",
      (b) => {
        const eye = b.sensors[2];
        if (eye?.kind === "eye") eye.head = "ghost";
      },
      "eye-head",
      "eye",
    ],
    [
      "a servo without travel",
      (b) => {
        (b.servos[0] as Robot["servos"][0]).lowRad = 3;
      },
      "servo-range",
      "head",
    ],
    [
      "a motor that comes back hot",
      (b) => {
        (b.motors[0] as Robot["motors"][0]).thermal.recoverC = 120;
      },
      "motor-heat",
      "left_motor",
    ],
    [
      "half a cell",
      (b) => {
        b.pack.cells = 1.5;
      },
      "out-of-range",
      "pack",
    ],
    [
      "a roof below the floor",
      (b) => {
        b.chassis.clearanceM = 0.2;
      },
      "height-order",
      "chassis",
    ],
  ])("%s", (_, change, code, part) => {
    const robot = faulty(change);
    const problems = checkRobot(robot);
    const found = problems.find((problem) => problem.code === code);
    expect(found, problems.map((p) => `${p.code} ${p.message}`).join("\n")).toBeDefined();
    expect(found?.part).toBe(part);
    expect(found?.message).toMatch(/\.$/);
    expect(found?.mend).toMatch(/^[A-Z].*\.$/);
    // One that cannot be run is refused with the same words; a warning is not.
    expect(readRobot(robot).ok).toBe(found?.severity === "warning");
  });

  test("the demo robots are sound", () => {
    for (const name of ["drizzle", "gust", "sleet", "fog"]) expect(checkRobot(demoRobot(name)), name).toEqual([]);
  });

  test("keys that are not a robot's do not come through, __proto__ least of all", () => {
    const text = JSON.stringify(drizzleBody()).replace(
      '"chassis":{',
      '"__proto__":{"massKg":99},"chassis":{"__proto__":{"polluted":true},',
    );
    const opened = openRobot(JSON.parse(text));
    expect(opened.ok).toBe(true);
    if (!opened.ok) return;
    expect(Object.keys(opened.document.chassis)).not.toContain("__proto__");
    expect((opened.document.chassis as unknown as { polluted?: boolean }).polluted).toBeUndefined();
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
  });

  test("a robot of version 1 is upgraded: ports become wires, motors and gears a train", () => {
    const old = {
      ...drizzleBody(),
      version: 1,
      wiring: undefined,
      wheels: drizzle().wheels.map(({ drivenBy, stages, ...rest }) => ({
        ...rest,
        motor: drivenBy,
        gears: [{ driverTeeth: 20, drivenTeeth: 12, efficiency: 0.9 }],
        stages: undefined,
      })),
      motors: drizzle().motors.map((motor, i) => ({ ...motor, port: String(i + 1) })),
      sensors: drizzle().sensors.map((sensor) => ({ ...sensor, port: "" })),
    };
    const opened = openRobot(JSON.parse(JSON.stringify(old)));
    expect(opened.ok ? opened.document.wheels[0] : opened.problems).toMatchObject({
      drivenBy: "left_motor",
      stages: [{ kind: "gears", drivenTeeth: 12, backlashRad: 0 }],
    });
    expect(opened.ok && opened.document.wiring).toEqual([
      { part: "left_motor", terminal: "plug", to: "1" },
      { part: "right_motor", terminal: "plug", to: "2" },
      { part: "arm", terminal: "plug", to: "3" },
    ]);
  });

  test("the Drizzle of version 1 drives on as it was", () => {
    const old = JSON.parse(readFileSync(path.join(import.meta.dirname, "drizzle.version1.json"), "utf8"));
    const read = readRobot(old);
    expect(read.ok ? [] : read.problems).toEqual([]);
    if (!read.ok) return;
    expect(read.document.servos.map(({ name }) => name)).toEqual(["head"]);
    const text = missionOf("go 40 cm\nturn left 90 deg");
    const [now, then] = [runText(text), runText(text, { robot: read.document })];
    expect(Math.abs(now.summary.end.xM - then.summary.end.xM)).toBeLessThan(1e-3);
  });

  test("the edge of the wheels is measured to the hull of all supports", () => {
    expect(
      insideHullBy(
        [
          [0, 1],
          [0, -1],
          [-2, 0],
        ],
        [-0.5, 0],
      ),
    ).toBeCloseTo(0.5, 9);
    expect(
      insideHullBy(
        [
          [0, 1],
          [0, -1],
          [-2, 0],
        ],
        [0.25, 0],
      ),
    ).toBeCloseTo(-0.25, 9);
    expect(
      insideHullBy(
        [
          [0, 1],
          [0, -1],
        ],
        [0, 0],
      ),
    ).toBe(Number.NEGATIVE_INFINITY);
  });

  test("belts and chains keep the direction, gears flip it, through tied wheels too", () => {
    const fog = demoRobot("fog");
    const source = sourceOf(fog, fog.wheels[2] as Robot["wheels"][0]);
    expect(source.is === "motor" && source.motor.name).toBe("left_motor");
    expect(source.is === "motor" && source.train.flips).toBe(false);
    expect(source.is === "motor" && source.train.slipTorqueNm).toBeCloseTo(0.25, 12);
  });
});

describe("the catalogue", () => {
  test("every part can be added to an empty robot and reads back", () => {
    for (const { id } of CATALOGUE) {
      const { robot, ref } = addPart(emptyRobot("Test"), id);
      expect(openRobot(robot).ok, id).toBe(true);
      expect(ref.length).toBeGreaterThan(0);
    }
  });

  test("says of every part what such parts are like, as a range, and names nobody's", () => {
    for (const { id, title, about } of CATALOGUE) {
      expect(about, id).toMatch(/\d\S* to \d/);
      expect(`${title} ${about}`, id).not.toMatch(/[A-Z]{2,}-?\d|[®™]/);
    }
  });

  test("two motors, two wheels and a ball make a robot that drives", () => {
    let robot = emptyRobot("Test");
    for (const id of ["motor-encoder", "motor-encoder", "wheel-62", "wheel-62", "ball"])
      robot = addPart(robot, id).robot;
    expect(checkRobot(robot)).toEqual([]);
    expect(robot.wheels.map(({ name, drivenBy }) => [name, drivenBy])).toEqual([
      ["left_wheel", "left_motor"],
      ["right_wheel", "right_motor"],
    ]);
  });

  test("names count up when they are taken", () => {
    let robot = emptyRobot("Test");
    for (let i = 0; i < 3; i += 1) robot = addPart(robot, "eye").robot;
    expect(robot.sensors.map(({ name }) => name)).toEqual(["sonar", "sonar_2", "sonar_3"]);
  });
});
