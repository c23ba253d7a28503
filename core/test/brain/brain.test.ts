// The brain on its own: what it makes of senses, and that equal senses give equal orders.
import { describe, expect, test } from "vitest";
import { Brain } from "../../src/brain/brain.js";
import { type Commands, newRawSenses, type RawSenses } from "../../src/brain/raw.js";
import { driveModel, prepareMission, Rehearsal, type Robot, randomStream, robotInForce } from "../../src/index.js";
import { demoField, demoRobot, drizzle, fellside, missionFile, missionOf } from "../support/demo.js";

const NOBODY = { inside: () => false, outsideM: () => 0, score: () => 0, touched: () => "", touching: () => false };

function brainOf(
  text: string,
  robot: Robot,
  raw: RawSenses = newRawSenses(robot),
  seed = 1,
  field = fellside(),
): Brain {
  const { program, check } = prepareMission(text, robot, field);
  if (!program) throw new Error(check.problems.map(({ message }) => message).join("; "));
  const known = robotInForce(robot);
  return new Brain({ program, robot, known, model: driveModel(robot), raw, chance: randomStream(seed), judge: NOBODY });
}

/** A copy of what passed in one tick: the objects themselves are used again. */
function copy<T extends RawSenses | Commands>(value: T): T {
  return structuredClone(value);
}

describe("senses", () => {
  test("a gyro's readings are added up, less its rest drift, times its scale", () => {
    const robot = drizzle((body) => {
      for (const sensor of body.sensors)
        if (sensor.kind === "gyro") {
          sensor.scale = { ...sensor.scale, value: 1.02, source: "typed" };
          sensor.restRadS = { ...sensor.restRadS, value: 0.05, source: "typed" };
        }
    });
    const brain = brainOf(missionOf("wait 5 s"), robot);
    const raw = brain.senses;
    raw.packVolts = 7;
    for (let i = 0; i < 100; i += 1) {
      raw.gyroRateRadS = 0.55;
      // A reading every other tick stands for two.
      raw.gyroSec = i % 2 === 0 ? 0.02 : 0;
      brain.step();
    }
    // The heading at the tick that began after 0.99 s: 50 readings of 0.02 s.
    expect(brain.drive.headingRad).toBeCloseTo((0.55 * 1 - 0.05 * 0.99) * 1.02, 9);
    expect(brain.drive.turnRateRadS).toBeCloseTo((0.55 - 0.05) * 1.02, 9);
  });

  test("an eye's known offset is taken off, and silence reads the far limit", () => {
    const robot = drizzle((body) => {
      for (const sensor of body.sensors)
        if (sensor.kind === "eye") sensor.offsetM = { ...sensor.offsetM, value: 0.03, source: "typed" };
    });
    const at = robot.sensors.findIndex(({ kind }) => kind === "eye");
    const eye = robot.sensors[at];
    if (eye?.kind !== "eye") throw new Error("no eye");
    const brain = brainOf(missionOf("repeat\n  note gap = eye.distance\n  wait 0.01 s"), robot);
    const sensor = brain.senses.sensors[at];
    if (!sensor) throw new Error("no raw sensor");
    const told = (distanceM: number, seen: number) => {
      sensor.told = true;
      sensor.values.set([distanceM, seen, 0]);
      brain.step();
      brain.step();
      return brain.notes.at(-1)?.value as number;
    };
    expect(told(0.5, 1)).toBeCloseTo(0.47, 12);
    expect(told(0.01, 1)).toBe(0);
    expect(told(0.5, 0)).toBe(eye.farM);
  });

  test("a button is counted once for each press, and one without a plug from the start counts nothing", () => {
    const robot = demoRobot("thaw");
    const at = robot.sensors.findIndex(({ kind }) => kind === "button");
    const name = robot.sensors[at]?.name ?? "";
    const brain = brainOf(
      `cairn 1\nrobot "Thaw"\n\nmission\n  set many = 0\n  repeat\n    wait until ${name}.tapped\n    set many = many + 1\n    note presses = many\n`,
      robot,
    );
    const line = [0, 0, 1, 1, 1, 0, 0, 1, 0, 0];
    for (const low of line) {
      Object.assign(brain.senses.sensors[at] ?? {}, { told: false });
      brain.senses.sensors[at]?.values.set([low]);
      brain.step();
    }
    expect(brain.notes).toHaveLength(0);
    for (const low of line) {
      Object.assign(brain.senses.sensors[at] ?? {}, { told: true });
      brain.senses.sensors[at]?.values.set([low]);
      brain.step();
    }
    expect(brain.notes.map(({ value }) => value)).toEqual([1, 2]);
  });
});

describe("orders", () => {
  test.each([
    ["drizzle", "missions/maze-by-memory.cairn", "snow-maze"],
    ["thaw", "missions/batteries-to-the-shelters.cairn", "shelter-trail"],
    ["sleet", "missions/into-the-garage.cairn", "garage-lane"],
  ])("equal senses give equal orders: %s, %s", (name, file, where) => {
    const robot = demoRobot(name);
    const field = demoField(where);
    const text = missionFile(file);
    const prepared = prepareMission(text, robot, field);
    if (!prepared.program) throw new Error(prepared.check.problems.map(({ message }) => message).join("; "));
    const rehearsal = new Rehearsal(prepared, { seed: 5, ideal: false });
    const { body, brain } = rehearsal.run;
    const [sensed, ordered]: [RawSenses[], Commands[]] = [[], []];
    const [sense, step] = [body.sense.bind(body), brain.step.bind(brain)];
    body.sense = () => {
      const raw = sense();
      sensed.push(copy(raw));
      return raw;
    };
    brain.step = () => {
      const commands = step();
      ordered.push(copy(commands));
      return commands;
    };
    rehearsal.advance(1500);
    expect(sensed.length).toBeGreaterThan(500);
    expect(ordered.some(({ duties }) => duties[0] !== 0)).toBe(true);
    // Another brain that never saw the body.
    const raw = newRawSenses(robot);
    const twin = brainOf(text, robot, raw, 5, field);
    for (let i = 0; i < sensed.length; i += 1) {
      const { servos, sensors, holds, motorHeat, ...rest } = sensed[i] as RawSenses;
      Object.assign(raw, rest);
      raw.holds.set(holds);
      raw.motorHeat.set(motorHeat);
      servos.forEach((servo, k) => {
        Object.assign(raw.servos[k] ?? {}, servo);
      });
      sensors.forEach(({ values, told }, k) => {
        raw.sensors[k]?.values.set(values);
        Object.assign(raw.sensors[k] ?? {}, { told });
      });
      expect(copy(twin.step())).toEqual(ordered[i]);
    }
  });

  test("an on/off driver gives the mean of a duty by whole ticks", () => {
    const robot = drizzle((body) => {
      body.board.driver = "on-off";
    });
    const brain = brainOf(missionOf("power left 30 % right -80 % for 5 s"), robot);
    brain.senses.packVolts = 7;
    const given = Array.from({ length: 400 }, () => copy(brain.step()));
    const driving = given.slice(1);
    expect(new Set(driving.map(({ duties }) => Math.abs(duties[0] ?? 0)))).toEqual(new Set([0, 1]));
    const mean = (shaft: number) => driving.reduce((sum, { duties }) => sum + (duties[shaft] ?? 0), 0) / driving.length;
    expect(Math.abs(mean(0))).toBeCloseTo(0.3, 2);
    expect(Math.abs(mean(1))).toBeCloseTo(0.8, 2);
  });

  test("after the end everything brakes, and stays so", () => {
    const robot = demoRobot("thaw");
    const motor = robot.motors.findIndex(({ name }) => !robot.wheels.some(({ drivenBy }) => drivenBy === name));
    const name = robot.motors[motor]?.name ?? "";
    const brain = brainOf(`cairn 1\nrobot "Thaw"\n\nmission\n  power ${name} 60 %\n  wait 0.2 s\n`, robot);
    brain.senses.packVolts = 7;
    const orders = Array.from({ length: 40 }, () => copy(brain.step()).motors[motor]);
    expect(orders[10]).toEqual({ mode: "drive", duty: 0.6 });
    expect(orders.at(-1)).toEqual({ mode: "brake", duty: 0 });
    expect(brain.end).toEqual({ outcome: "finished" });
  });
});
