// What of the runtime a mission needs on a small board, and which lines of the chip it gets.
import { describe, expect, test } from "vitest";
import { avrPins } from "../../src/emit/avrPins.js";
import { boardRobot } from "../../src/emit/boardRobot.js";
import { cppUses, type LinkRoom } from "../../src/emit/uses.js";
import { openFloor } from "../../src/field/read.js";
import type { Program } from "../../src/program/instructions.js";
import { prepareMission } from "../../src/rehearse/prepare.js";
import type { Robot } from "../../src/robot/schema.js";
import { drizzle, missionOf } from "../support/demo.js";

function programOf(steps: string, top = ""): Program {
  const { program, check } = prepareMission(missionOf(steps, top), drizzle(), openFloor());
  if (!program) throw new Error(check.problems.map(({ message }) => message).join("; "));
  return program;
}

/** Names of the flags that are on. @param link - how much of the link there is room for */
function flagsOf(steps: string, top = "", link: LinkRoom = "none"): string[] {
  const text = cppUses(programOf(steps, top), boardRobot(drizzle()), link);
  return [...text.matchAll(/constexpr bool (\w+) = true;/g)].map(([, name]) => name as string);
}

/** Names of the sensors that are read. */
function sensorsOf(steps: string, top = ""): string[] {
  const text = cppUses(programOf(steps, top), boardRobot(drizzle()));
  const is = /SENSOR\[\] = \{(.*)\}/.exec(text)?.[1]?.split(", ") ?? [];
  return drizzle().sensors.flatMap(({ name }, i) => (is[i] === "true" ? [name] : []));
}

describe("of the runtime", () => {
  test.each([
    ["go 10 cm\nturn left 90 deg\nwait 1 s", "", []],
    ["hand over limit 5 s", "remote\n  drive one stick at 20 cm/s", ["BRANCHES", "HAND", "KEEPS"]],
    ["during\n  go 10 cm\nwhenever clock > 3 s\n  resume", "", ["GUARDS"]],
    ["every 0.1 s until clock > 1 s\n  power left 10 % right 10 %", "", ["EVERIES", "KEEPS"]],
    ["together\n  go 10 cm\nalso\n  wait 1 s", "", ["BRANCHES", "SIGNALS"]],
    ["start aside()\ngo 10 cm", "routine aside()\n  wait 1 s", ["BRANCHES"]],
    ["power arm 30 % for 1 s", "", ["MOTORS", "TURNED"]],
    ["move arm to 30 deg", "", ["MOVES", "TURNED"]],
    ["home arm toward low", "", ["HOMES", "MOVES", "TURNED"]],
    ["aim head to left 30 deg", "", ["LOOKS", "MOVES", "TURNED"]],
    ["go 10 cm then keep", "", ["KEEPS"]],
    ["follow line on centre with floor until floor.crossing limit 3 s", "", ["LINE"]],
    ["go to 30 cm, 30 cm", "", ["PATH"]],
    ["wait until left_motor.angle > 90 deg limit 1 s", "", ["TURNED"]],
  ])("%j", (steps, top, wanted) => {
    expect(flagsOf(steps, top).sort()).toEqual([...wanted].sort());
  });

  test("the link is left out in two steps: what is live first, then all of it", () => {
    expect(flagsOf("go 10 cm", "", "live")).toEqual(["LINK", "LIVE"]);
    expect(flagsOf("go 10 cm", "", "bare")).toEqual(["LINK"]);
    expect(flagsOf("go 10 cm", "", "none")).toEqual([]);
  });

  test.each([
    ["go 10 cm", "", []],
    ["go until bumper.pressed limit 1 m", "", ["bumper"]],
    ["show eye.distance", "", ["eye"]],
    ["follow line on centre with floor until floor.crossing limit 3 s", "", ["floor"]],
    ["set near = eye.distance\nwait until near > 1 m limit 1 s", "set near = 0 cm", ["eye"]],
    ["scan head from left 30 deg to right 30 deg with 3 looks", "", ["eye"]],
    ["go far()", "routine far()\n  give eye.distance", ["eye"]],
  ])("sensors of %j", (steps, top, wanted) => {
    expect(sensorsOf(steps, top)).toEqual(wanted);
  });
});

describe("lines of the chip", () => {
  const pinsOf = (steps: string, robot: Robot = drizzle()) => avrPins(programOf(steps), boardRobot(robot));
  const dealt = (text: string) =>
    [...text.matchAll(/FLASH = \{(.*)\};|BATTERY = (\w+);/g)]
      .flatMap(([, list, one]) => (list ?? one ?? "").replaceAll(/[{}]/g, "").split(", "))
      .filter((pin) => /^[BCD]\d$/.test(pin));

  test("no line is dealt twice, and the bus keeps its two", () => {
    const { text, problems } = pinsOf("show eye.distance, floor.left.light, bumper.pressed");
    expect(problems).toEqual([]);
    const lines = dealt(text);
    expect(new Set(lines).size).toBe(lines.length);
    expect(lines).not.toContain("C4");
    expect(lines).not.toContain("C5");
  });

  test("pulses go to lines that a timer has, voltages to those that measure", () => {
    const { text } = pinsOf("show floor.left.light\nmove arm to 30 deg");
    const pulsed = /MOTOR_PULSE\[\] FLASH = \{(.*)\}/.exec(text)?.[1]?.split(", ") ?? [];
    expect(pulsed).toHaveLength(3);
    for (const pin of pulsed) expect(["D5", "D6", "B3", "D3"]).toContain(pin);
    expect(/SENSOR_LEVEL.*\{(C\d), (C\d)\}/.exec(text)?.[0]).toBeTruthy();
  });

  test("what the mission does not use has no line, and is not listed", () => {
    const { text, wires } = pinsOf("go 10 cm");
    expect(text).toMatch(/MOTOR_PULSE\[\] FLASH = \{D5, D6, NO_PIN\}/);
    expect(wires.map((words) => words.split(":")[0])).toEqual([
      "left_motor",
      "right_motor",
      "gyro",
      "battery by a divider of four to one",
    ]);
  });

  test("a part that is only read has its encoder wired", () => {
    const { wires } = pinsOf("show arm.angle");
    expect(wires.find((words) => words.startsWith("arm:"))).toMatch(
      /encoder on [BCD]\d, its second channel on [BCD]\d/,
    );
  });

  test("a robot with more motors than the chip can pulse is told so", () => {
    const robot = drizzle();
    const [motor] = robot.motors.slice(2);
    if (!motor) throw new Error("Drizzle has no arm");
    const more = [1, 2, 3].map((n) => ({ ...motor, name: `arm_${n}` }));
    const wide = { ...robot, motors: [...robot.motors, ...more] };
    const steps = more.map(({ name }) => `power ${name} 30 % for 1 s`).join("\n");
    const { program } = prepareMission(missionOf(steps), wide, openFloor());
    if (!program) throw new Error("the mission has errors");
    const { problems } = avrPins(program, boardRobot(wide));
    expect(problems).toContain("The chip can pulse 4 motors. This mission uses 5 motors. Use fewer.");
  });
});
