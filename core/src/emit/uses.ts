// uses.h: what of the runtime a mission needs. A compiler leaves the rest out, so that a small board has room.
import { readingLayout, SLOT } from "../cairn/readings.js";
import type { Instruction, Program } from "../program/instructions.js";
import { sensorKind } from "../sensors/kinds/all.js";
import { type WatchedReading, watchedReadings } from "../trials/watched.js";
import type { BoardRobot } from "./boardRobot.js";

type Op = Instruction["op"];

/** Each part of the runtime that can be left out, with the instructions that need it. */
const PARTS: Readonly<Record<string, { readonly words: string; readonly ops: readonly Op[] }>> = {
  HAND: { words: "driving by hand", ops: ["hand over"] },
  GUARDS: { words: "during, and what interrupts", ops: ["guard", "guard ends", "resume"] },
  EVERIES: { words: "loops of every", ops: ["every", "next beat", "beats end"] },
  BRANCHES: { words: "several things at once", ops: ["together", "start", "stop routine", "hand over"] },
  MOTORS: { words: "motors beside the drive by a share of the voltage", ops: ["motor", "motor on", "stop motor"] },
  MOVES: { words: "motors and servos to an angle", ops: ["move", "move on", "home", "aim", "scan"] },
  HOMES: { words: "parts against their end stop", ops: ["home"] },
  LOOKS: { words: "heads that look around", ops: ["aim", "scan"] },
};

/** Places of readings that a program asks for, by values, conditions and motions. */
export function slotsRead(program: Program, board: BoardRobot): Set<number> {
  const slots = new Set<number>();
  const look = (value: unknown): void => {
    if (Array.isArray(value)) {
      const [word, slot] = value;
      if ((word === "reading" || word === "grew" || word === "grew anew") && typeof slot === "number") slots.add(slot);
      value.forEach(look);
    } else if (value !== null && typeof value === "object") Object.values(value).forEach(look);
  };
  look(program.instructions);
  look(program.sets);
  look(program.remote);
  for (const instruction of program.instructions) {
    if (instruction.op === "scan")
      slots.add(board.parts.find(({ name }) => name === instruction.head)?.distanceSlot ?? 0);
    if (instruction.op !== "drive" && instruction.op !== "roll on") continue;
    const { motion } = instruction;
    if (motion.is === "follow line") for (const slot of motion.slots) slots.add(slot);
    if (motion.is !== "follow wall") continue;
    slots.add(motion.slot);
    if (motion.ahead) slots.add(motion.ahead.slot);
  }
  return slots;
}

const MOTIONS = [
  ["LINE", "follow line", "following lines"],
  ["WALL", "follow wall", "following walls"],
  ["PATH", "places", "ways to places"],
] as const;

function follows(program: Program, motion: string): boolean {
  return program.instructions.some((instruction) => "motion" in instruction && instruction.motion.is === motion);
}

function waitsForSignals(program: Program): boolean {
  return program.instructions.some(
    (instruction) => instruction.op === "together" || JSON.stringify(instruction).includes('"signalOnly":true'),
  );
}

function keeps(program: Program): boolean {
  return program.instructions.some(
    (instruction) =>
      instruction.op === "roll on" || ("endings" in instruction && instruction.endings.ending === "keep"),
  );
}

function text(flags: readonly (readonly [string, boolean, string])[], sensors: readonly boolean[]): string {
  return [
    "// What of the runtime this mission needs. Written from its program; the compiler leaves the rest out.",
    "#pragma once",
    "",
    "namespace uses {",
    ...flags.map(([name, is, words]) => `constexpr bool ${name} = ${is};  // ${words}`),
    `constexpr bool SENSOR[] = {${(sensors.length > 0 ? sensors : [false]).join(", ")}};  // each sensor is read`,
    "}  // namespace uses",
    "",
  ].join("\n");
}

interface Uses {
  readonly flags: readonly (readonly [string, boolean, string])[];
  readonly sensors: readonly boolean[];
}

function usesOf(program: Program, board: BoardRobot): Uses {
  const { robot } = board;
  const ops = new Set<Op>(program.instructions.map(({ op }) => op));
  const slots = slotsRead(program, board);
  const layout = readingLayout(robot);
  const read = (from: number, count: number) =>
    Array.from({ length: count }, (_, i) => from + i).some((slot) => slots.has(slot));
  const dials = (program.remote?.dials ?? []).length > 0;
  const flags = Object.entries(PARTS).map(
    ([name, { words, ops: needing }]) =>
      [name, needing.some((op) => ops.has(op)) || (dials && (name === "MOVES" || name === "MOTORS")), words] as const,
  );
  const moves = flags.some(([name, is]) => is && (name === "MOVES" || name === "MOTORS"));
  const turned = read(SLOT.motors, layout.servos - SLOT.motors + robot.servos.length);
  const attached = read(layout.attachments, 2 * robot.attachments.length);
  const turns = moves || turned || attached;
  return {
    flags: [
      ...flags,
      ...MOTIONS.map(([name, motion, words]) => [name, follows(program, motion), words] as const),
      ["KEEPS", keeps(program) || ops.has("hand over"), "wheels that turn on after a step"],
      ["SIGNALS", waitsForSignals(program), "waiting for signals alone"],
      ["TURNED", turns, "how far motors and servos turned"],
    ],
    // A potentiometer tells the angle of what it turns with, also where nothing asks for its reading.
    sensors: robot.sensors.map(
      (sensor, i) =>
        (turns && sensor.kind === "potentiometer") ||
        read(layout.sensors[i] as number, sensorKind(sensor).readings(sensor).length),
    ),
  };
}

/** Which of a robot's sensors a mission reads. */
export function sensorsUsed(program: Program, board: BoardRobot): readonly boolean[] {
  return usesOf(program, board).sensors;
}

/** A board's line has room for so many readings fifty times a second. */
const MOST_WATCHED = 20;

/** Readings that a board tells its link of while it runs: those of the sensors that its mission reads. */
export function boardWatched(program: Program, board: BoardRobot): readonly WatchedReading[] {
  const used = sensorsUsed(program, board);
  const slots = slotsRead(program, board);
  const names = board.robot.sensors.filter((_, i) => used[i]).map(({ name }) => name);
  const isOfOne = (id: string) => names.some((name) => id.startsWith(`${name}.`) || id.startsWith(`${name}[`));
  return watchedReadings(board.robot)
    .filter(({ id, slot }) => slots.has(slot) || isOfOne(id))
    .slice(0, MOST_WATCHED);
}

/** What one mission needs of the runtime. */
export function cppUses(program: Program, board: BoardRobot, link: LinkRoom = "live"): string {
  const { flags, sensors } = usesOf(program, board);
  const links = [
    ["LINK", link !== "none", "a link over the serial line"],
    ["LIVE", link === "live", "readings, steps and texts over it, and driving by hand"],
  ] as const;
  return text([...flags, ...links], sensors);
}

/** How much of the link a board has room for: all, running and halting alone, or none. */
export type LinkRoom = "live" | "bare" | "none";
