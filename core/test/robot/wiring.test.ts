// Wiring: every check with its reason and mend, proposals, first roll, revisions side by side, edits.

import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { boardSign, mountSign, shaftsOf } from "../../src/drives/shafts.js";
import {
  addPart,
  applyAnswers,
  applyEstimate,
  BOARDS,
  benchRobot,
  benchWheels,
  boardProfile,
  CATALOGUE,
  checkWiring,
  compareRobots,
  currentBudget,
  emptyRobot,
  findPart,
  mirrorName,
  movePart,
  nudge,
  openRobot,
  type Robot,
  removePart,
  renamePart,
  setDriveKind,
  setPartValue,
  setWire,
  sizeChassis,
  snapPlace,
  useDrawing,
  withBoard,
  withProposedWiring,
} from "../../src/index.js";

import { proposeWiring } from "../../src/robot/propose.js";
import { demoRobot, drizzle } from "../support/demo.js";

const codes = (robot: Robot) =>
  checkWiring(robot)
    .filter(({ severity }) => severity !== "fine")
    .map(({ code }) => code);
const on = (robot: Robot, board: string) => {
  const profile = boardProfile(board);
  if (!profile) throw new Error(board);
  return withBoard(robot, profile);
};
const wired = (robot: Robot) => ({ ...robot, wiring: proposeWiring(robot) });

describe("wiring checks", () => {
  const fog = demoRobot("fog");
  const small = wired(
    on(
      drizzle((body) => {
        body.board.capacitorUf = 220;
      }),
      "small-3v3",
    ),
  );
  test.each<[string, Robot, string]>([
    ["a shared socket", setWire(drizzle(), "gyro", "plug", "5"), "shared-pin"],
    ["the wrong rail", setWire(drizzle(), "eye", "plug", "8"), "wrong-rail"],
    ["a motor in a sensor socket", setWire(drizzle(), "arm", "plug", "8"), "no-motor"],
    ["a servo where there is none", setWire(drizzle(), "head", "plug", "4"), "no-servo"],
    ["not plugged in", setWire(drizzle(), "gyro", "plug", null), "unwired"],
    ["no such socket", setWire(drizzle(), "gyro", "plug", "11"), "no-such-pin"],
    ["no ground", setWire(fog, "left_whisker", "ground", null), "missing-ground"],
    ["ground on a pin", setWire(fog, "left_whisker", "ground", "Q2"), "missing-ground"],
    ["a floating input", setPartValue(fog, "left_whisker", "pullUp", false), "floating"],
    ["no PWM", setWire(small, "head", "signal", "GND"), "no-pwm"],
    [
      "an encoder without an interrupt",
      setWire(wired(on(drizzle(), "eight-bit")), "left_motor", "encoder_a", "Q3"),
      "no-interrupt",
    ],
    ["light on a digital pin", setWire(small, "floor", "left", "S1"), "no-analog"],
    ["a gyro beside the bus", setWire(small, "gyro", "data", "S1"), "no-bus-data"],
    ["5 V into a 3.3 V pin", demoRobot("sleet"), "level"],
    ["the bridge off the pack", setWire(fog, "bridge", "supply", "5V"), "wrong-rail"],
    ["a servo without a capacitor", setPartValue(drizzle(), "board", "capacitorUf", 0), "servo-noise"],
    ["a thin pack", setPartValue(drizzle(), "pack", "internalResistanceOhm", 2), "brown-out"],
    ["too little current", setPartValue(drizzle(), "pack", "mostCurrentA", 1), "peak-current"],
    ["stall beyond the pack", setPartValue(drizzle(), "pack", "mostCurrentA", 2.5), "stall-current"],
    [
      "a wire of a part that left",
      { ...drizzle(), wiring: [...drizzle().wiring, { part: "ghost", terminal: "plug", to: "8" }] },
      "loose-wire",
    ],
    ["an unknown board", setPartValue(drizzle(), "board", "profile", "toaster"), "unknown-board"],
    ["a motor too strong for its driver", setPartValue(fog, "left_motor", "stallCurrentA", 4), "driver-current"],
    ["servos too hungry for their rail", setPartValue(drizzle(), "head", "stallCurrentA", 3), "rail-current"],
  ])("%s", (_, robot, code) => {
    const found = checkWiring(robot).find((note) => note.code === code);
    expect(found, codes(robot).join()).toBeDefined();
    expect(found?.message).toMatch(/^[A-Z0-9].*\.$/);
    expect(found?.mend).toMatch(/^[A-Z].*\.$/);
  });

  test("a robot in order is told what is fine", () => {
    const notes = checkWiring(drizzle());
    expect(notes.map(({ severity }) => severity)).toEqual(notes.map(() => "fine"));
    expect(notes.map(({ message }) => message)).toContain("Every motor has its own socket.");
  });

  test("the budget is the parallel circuit's: V = Voc / (1 + Ri sum 1/R)", () => {
    const robot = drizzle((body) => {
      body.servos = [];
      body.board.currentA = 0;
      body.sensors = body.sensors.filter((sensor) => sensor.kind !== "eye").slice(0, 0);
      body.wiring = [];
    });
    const g = 3 * (0.9 / 7.4);
    expect(currentBudget(robot).stallA).toBeCloseTo((8.36 / (1 + 0.18 * g)) * g, 9);
  });
});

describe("proposals", () => {
  test.each(["drizzle", "gust", "fog"])("%s can be wired on every board that has the places", (name) => {
    for (const board of BOARDS) {
      const robot = wired(
        on(
          demoRobot(name, (body) => {
            body.board.capacitorUf = 220;
          }),
          board.id,
        ),
      );
      const bad = checkWiring(robot).filter(({ severity, code }) => severity === "error" && code !== "unwired");
      expect(bad, `${name} on ${board.id}: ${bad.map(({ message }) => message).join(" ")}`).toEqual([]);
    }
  });

  test("wires that fit stay where they are", () => {
    const robot = drizzle();
    expect(proposeWiring(robot)).toEqual(expect.arrayContaining(robot.wiring));
    expect(proposeWiring(setWire(robot, "gyro", "plug", "1")).find(({ part }) => part === "left_motor")?.to).toBe("1");
  });

  test("sets every motor to turn its wheel forward, as it is mounted", () => {
    const settings = [false, true].flatMap((left) =>
      [false, true].flatMap((right) => (["inward", "outward"] as const).map((shaft) => ({ left, right, shaft }))),
    );
    for (const { left, right, shaft } of settings) {
      const robot = drizzle((body) => {
        for (const motor of body.motors)
          if (motor.name.endsWith("motor"))
            Object.assign(motor, { shaft, reversed: motor.name === "left_motor" ? left : right });
      });
      const proposed = withProposedWiring(robot);
      expect(checkWiring(proposed).filter(({ code }) => code === "backwards")).toEqual([]);
      const shafts = shaftsOf(proposed);
      expect(shafts).toHaveLength(2);
      for (const lead of shafts) expect(mountSign(proposed, lead) * boardSign(lead)).toBe(1);
    }
  });

  test("never two signals in one place, whatever parts there are", () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(...CATALOGUE.map(({ id }) => id)), { maxLength: 14 }),
        fc.constantFrom(...BOARDS.map(({ id }) => id)),
        (parts, board) => {
          let robot = on(emptyRobot("Test"), board);
          for (const id of parts) robot = addPart(robot, id).robot;
          const bad = checkWiring(wired(robot)).filter(
            ({ code }) => code === "shared-pin" || code === "wrong-rail" || code.startsWith("no-"),
          );
          expect(bad).toEqual([]);
        },
      ),
      { numRuns: 150 },
    );
  });
});

describe("first roll", () => {
  test.each(["drizzle", "fog", "flurry"])("whatever way it was plugged, the answers set it right: %s", (name) => {
    const robot = demoRobot(name);
    const wheels = benchWheels(robot);
    const plugged = new Set<string>();
    for (let seed = 0; seed < 16; seed += 1) {
      const bench = benchRobot(robot, seed * 7919);
      plugged.add(JSON.stringify([...bench.wheelAt]));
      const seen = wheels.map((_, shaft) => nudge(robot, bench, shaft));
      const answers = seen.flatMap((one) => one ?? []);
      expect([...answers.map(({ wheel }) => wheel)].sort()).toEqual(wheels.map((_, i) => i));
      const set = applyAnswers(robot, answers);
      if (!set.ok) throw new Error(set.message);
      for (const shaft of wheels.keys())
        expect(nudge(set.robot, bench, shaft)).toMatchObject({ wheel: shaft, direction: "forward" });
      // All is right now: asking again changes nothing.
      const again = applyAnswers(
        set.robot,
        wheels.map((_, wheel) => ({ wheel, direction: "forward" })),
      );
      expect(again.ok && again.changes).toEqual([]);
    }
    expect(plugged.size).toBeGreaterThan(1);
  });

  test("two answers for one wheel are questioned, an unwired motor moves nothing", () => {
    const back = { wheel: 0, direction: "back" } as const;
    const twice = applyAnswers(drizzle(), [back, back]);
    expect(twice.ok ? "" : twice.message).toContain("Both nudges turned the left wheel");
    const four = applyAnswers(demoRobot("flurry"), [
      { ...back, wheel: 2 },
      back,
      { ...back, wheel: 1 },
      { ...back, wheel: 2 },
    ]);
    expect(four.ok ? "" : four.message).toContain("Two nudges turned the rear left wheel");
    const robot = setWire(drizzle(), "left_motor", "plug", null);
    expect(nudge(robot, benchRobot(robot, 1), 0)).toBeNull();
  });
});

describe("versions side by side", () => {
  test("only what differs, in words with units", () => {
    const before = drizzle();
    const after = addPart(
      setPartValue(setPartValue(before, "left_wheel", "diameterM", 0.0565), "right_motor", "reversed", false),
      "button",
    ).robot;
    const rows = compareRobots(before, after);
    expect(rows).toContainEqual({ part: "left_wheel", label: "Diameter", before: "62 mm", after: "56.5 mm" });
    expect(rows).toContainEqual({ part: "right_motor", label: "reversed", before: "true", after: "false" });
    expect(rows).toContainEqual({ part: "button", label: "added", before: "", after: "fitted" });
    expect(compareRobots(before, before)).toEqual([]);
    expect(compareRobots(before, structuredClone(before))).toEqual([]);
    expect(compareRobots(before, setWire(before, "gyro", "plug", "8"))).toHaveLength(2);
    expect(compareRobots(after, before)).toHaveLength(rows.length);
  });
});

describe("knowns side by side", () => {
  const HOW = { method: "Turning width", conditions: "", measuredAt: "2026-11-23T10:00:00Z", count: 6 };

  test("are one row each, with error and source", () => {
    const width = { ref: "drive", path: "trackWidthM", value: 0.1401, standardError: 0.0003 };
    const rows = compareRobots(drizzle(), applyEstimate(drizzle(), [width], HOW));
    expect(rows).toEqual([
      {
        part: "drive",
        label: "Track width",
        before: "138.4 ± 0.4 mm, measured, 4 rows, spins of five turns, both ways",
        after: "140.1 ± 0.3 mm, measured, 6 rows, Turning width",
      },
    ]);
  });

  test("that no drawing gives were not measured before, and are forgotten again", () => {
    const pull = { ref: "left_motor", path: "pullAwayVolts", value: 0.45, standardError: null };
    const known = applyEstimate(drizzle(), [pull], HOW);
    expect(compareRobots(drizzle(), known)).toEqual([
      {
        part: "left_motor",
        label: "Pulls away at",
        before: "not measured",
        after: "0.45 V, measured, 6 rows, Turning width",
      },
    ]);
    expect(useDrawing(known, "left_motor", "pullAwayVolts")).toEqual(drizzle());
  });

  test("say when a number was typed, or is as drawn", () => {
    const typed = setPartValue(drizzle(), "left_wheel", "rollPerTurnM", 0.2);
    const [row] = compareRobots(useDrawing(drizzle(), "left_wheel", "rollPerTurnM"), typed);
    expect(row?.before).toMatch(/^194\.\d+ mm, as drawn$/);
    expect(row?.after).toBe("200.0 mm, typed");
  });
});

describe("edits", () => {
  test("a typed number over a measured known is a typed one, and can follow the drawing again", () => {
    const typed = setPartValue(drizzle(), "left_wheel", "rollPerTurnM", 0.2);
    expect(typed.wheels[0]?.rollPerTurnM).toMatchObject({ value: 0.2, source: "typed", standardError: null, count: 0 });
    expect(useDrawing(typed, "left_wheel", "rollPerTurnM").wheels[0]?.rollPerTurnM.source).toBe("drawing");
  });

  test("in the mirror a pair moves as a pair; wheels of two stay on their axle", () => {
    const moved = movePart(drizzle(), "left_wheel", 0.03, 0.08, true);
    expect(moved.wheels.map(({ xM, yM }) => [xM, yM])).toEqual([
      [0, 0.08],
      [0, -0.08],
    ]);
    const fog = movePart(demoRobot("fog"), "near_left", 0.1, 0.05, true);
    expect(findPart(fog, "near_right")?.value).toMatchObject({ xM: 0.1, yM: -0.05 });
    expect(findPart(setPartValue(fog, "near_left", "aimRad", 1, true), "near_right")?.value).toMatchObject({
      aimRad: -1,
    });
    expect(movePart(demoRobot("fog"), "near_left", 0.1, 0.05, false).sensors[3]?.xM).toBe(
      demoRobot("fog").sensors[3]?.xM,
    );
    expect([mirrorName("left_wheel"), mirrorName("near_right"), mirrorName("leftover")]).toEqual([
      "right_wheel",
      "near_left",
      null,
    ]);
  });

  test("places snap to the grid, and to the middle when near", () => {
    expect(snapPlace(drizzle(), "eye", 0.0814, 0.0012, 0.001)).toMatchObject({
      xM: 0.081,
      yM: 0,
      lines: { x: null, y: 0 },
    });
  });

  test("a new name reaches wires, drives and heads; a taken or odd one is refused", () => {
    const renamed = renamePart(drizzle(), "head", "neck");
    if (!renamed.ok) throw new Error(renamed.message);
    expect(renamed.robot.sensors.find((sensor) => sensor.kind === "eye")).toMatchObject({ head: "neck" });
    expect(renamed.robot.wiring.some(({ part }) => part === "neck")).toBe(true);
    const motor = renamePart(drizzle(), "left_motor", "port_motor");
    expect(motor.ok && motor.robot.wheels[0]?.drivenBy).toBe("port_motor");
    expect(renamePart(drizzle(), "eye", "bumper").ok).toBe(false);
    expect(renamePart(drizzle(), "eye", "My Eye").ok).toBe(false);
    expect(renamePart(drizzle(), "chassis", "hull").ok).toBe(false);
  });

  test("what leaves takes its wires along, and lets go of what it drove", () => {
    const less = removePart(drizzle(), "left_motor");
    expect(less.wheels[0]?.drivenBy).toBeNull();
    expect(less.wiring.some(({ part }) => part === "left_motor")).toBe(false);
    expect(removePart(drizzle(), "arm").attachments).toEqual([]);
    expect(removePart(drizzle(), "head").sensors.find((sensor) => sensor.kind === "eye")).toMatchObject({ head: null });
    expect(removePart(drizzle(), "support").support).toBeNull();
  });

  test("the chassis stretches about its middle, another drive reads back", () => {
    const sized = sizeChassis(drizzle(), 0.33, 0.22);
    const xs = sized.chassis.outlineM.map(([x]) => x);
    expect(Math.max(...xs) - Math.min(...xs)).toBeCloseTo(0.33, 9);
    expect(sizeChassis(drizzle(), 0, 1)).toEqual(drizzle());
    for (const kind of ["four-wheel", "car", "two-wheel"] as const) {
      const other = setDriveKind(drizzle(), kind);
      expect(other.drive.kind).toBe(kind);
      expect(openRobot(other).ok).toBe(true);
    }
  });
});
