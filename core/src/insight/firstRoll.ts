// First roll: one side is nudged at a time, a person says which wheel turned and which way, and ports and
// reversal follow from the answers. The robot on the bench is simulated, with cables as somebody plugged them.

import { openFloor } from "../field/read.js";
import { mixSeed, randomStream } from "../math/random.js";
import { leadWheel, needsReversing } from "../robot/drivetrain.js";
import type { Motor, Robot, Wire } from "../robot/schema.js";
import { noDeviations, worldFromRobot } from "../simulate/fromRobot.js";

type Side = "left" | "right";

/** What a nudge did to the robot on the bench. */
export interface NudgeSeen {
  readonly wheel: Side;
  readonly direction: "forward" | "back";
  /** How far that wheel turned, rad, signed. */
  readonly turnedRad: number;
}

export interface Answer {
  readonly wheel: Side;
  readonly direction: "forward" | "back";
}

const NUDGE = { duty: 0.5, sec: 0.5 } as const;
/** Terminals by which a motor hangs on a board: its plug, or its leads. */
const DRIVE_TERMINALS = ["plug", "leads"];

/** How somebody plugged the robot together: motor behind each board terminal, and which way each turns. */
export interface BenchRobot {
  readonly motorAt: ReadonlyMap<string, Side>;
  /** Whether a positive duty turns that side's wheel forward. */
  readonly forward: Readonly<Record<Side, boolean>>;
}

function portOf(robot: Robot, side: Side): string | null {
  const lead = leadWheel(robot, side);
  const wire = robot.wiring.find((w) => w.part === lead?.motor.name && DRIVE_TERMINALS.includes(w.terminal));
  return wire?.to ?? null;
}

/** A robot on the bench, plugged together by somebody in a hurry. @param seed - decides how */
export function benchRobot(robot: Robot, seed: number): BenchRobot {
  const chance = randomStream(mixSeed(seed, 31));
  const swapped = chance.uniform() < 0.5;
  const forward = { left: chance.uniform() < 0.5, right: chance.uniform() < 0.5 };
  const motorAt = new Map<string, Side>();
  const [left, right] = [portOf(robot, "left"), portOf(robot, "right")];
  if (left !== null) motorAt.set(left, swapped ? "right" : "left");
  if (right !== null && right !== left) motorAt.set(right, swapped ? "left" : "right");
  return { motorAt, forward };
}

/** Nudges what the description takes for a side. @returns null when nothing is wired there */
export function nudge(robot: Robot, bench: BenchRobot, side: Side): NudgeSeen | null {
  const port = portOf(robot, side);
  const lead = leadWheel(robot, side);
  const wheel = port === null ? undefined : bench.motorAt.get(port);
  if (!wheel || !lead) return null;
  const sign = (lead.motor.reversed ? -1 : 1) * (bench.forward[wheel] ? 1 : -1);
  const world = worldFromRobot(robot, openFloor(), noDeviations(robot));
  const index = wheel === "left" || world.drives.length === 1 ? 0 : 1;
  world.command(index, "drive", sign * NUDGE.duty);
  for (let i = 0; i < NUDGE.sec / 0.005; i += 1) world.step();
  const turnedRad = world.wheels[wheel === "left" ? 0 : 1]?.angleRad ?? 0;
  return { wheel, direction: turnedRad >= 0 ? "forward" : "back", turnedRad };
}

type FirstRollResult =
  | { readonly ok: true; readonly robot: Robot; readonly changes: readonly string[] }
  | { readonly ok: false; readonly message: string };

/** Sets ports and reversal from what a person saw. */
export function applyAnswers(robot: Robot, answers: Readonly<Record<Side, Answer>>): FirstRollResult {
  if (answers.left.wheel === answers.right.wheel)
    return {
      ok: false,
      message: `Both nudges turned the ${answers.left.wheel} wheel. Check that the other motor is plugged in, then nudge again.`,
    };
  const leads = { left: leadWheel(robot, "left"), right: leadWheel(robot, "right") };
  if (!leads.left || !leads.right) return { ok: false, message: "A side has no motor. Give each side one first." };
  const names = { left: leads.left.motor.name, right: leads.right.motor.name };
  const reversed = new Map<string, boolean>();
  for (const side of ["left", "right"] as const) {
    const { wheel, direction } = answers[side];
    const was = leads[side]?.motor.reversed ?? false;
    // The motor behind this side's port turns that wheel, and turned it this way under this side's flag.
    reversed.set(names[wheel], direction === "forward" ? was : !was);
  }
  const swapped = answers.left.wheel === "right";
  const changes: string[] = [];
  if (swapped) changes.push("left and right motor change their places on the board");
  const wiring: Wire[] = robot.wiring.map((wire) => {
    if (!swapped) return wire;
    const other = wire.part === names.left ? names.right : wire.part === names.right ? names.left : null;
    return other === null ? wire : { ...wire, part: other };
  });
  const motors = robot.motors.map((motor) => {
    const now = reversed.get(motor.name);
    if (now === undefined) return motor;
    if (now !== motor.reversed) changes.push(`${motor.name} is ${now ? "reversed" : "no longer reversed"}`);
    // What was seen is how it is mounted: a description that says otherwise is put right.
    const lead = [leads.left, leads.right].find((candidate) => candidate?.motor.name === motor.name);
    const turned = { ...motor, reversed: now };
    if (!lead || needsReversing(robot, { wheel: lead.wheel, motor: turned }) === now) return turned;
    const shaft: Motor["shaft"] = motor.shaft === "outward" ? "inward" : "outward";
    changes.push(`the shaft of ${motor.name} points ${shaft === "inward" ? "in" : "out"}`);
    return { ...turned, shaft };
  });
  return { ok: true, robot: { ...robot, wiring, motors }, changes };
}
