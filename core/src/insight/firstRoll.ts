// First roll: one motor is nudged at a time, a person says which wheel turned and which way, and ports and
// reversal follow from the answers. The robot on the bench is simulated, with cables as somebody plugged them.

import type { Motor } from "../drives/parts.js";
import { shaftsOf } from "../drives/shafts.js";
import { type Lead, needsReversing } from "../drives/train.js";
import { openFloor } from "../field/read.js";
import { mixSeed, randomStream } from "../math/random.js";
import type { Robot, Wire } from "../robot/schema.js";
import { noDeviations, worldFromRobot } from "../simulate/fromRobot.js";

/** What a nudge did to the robot on the bench. Wheels are counted as the shafts of the drive are. */
export interface NudgeSeen {
  readonly wheel: number;
  readonly direction: "forward" | "back";
  /** How far that wheel turned, rad, signed. */
  readonly turnedRad: number;
}

export interface Answer {
  readonly wheel: number;
  readonly direction: "forward" | "back";
}

const NUDGE = { duty: 0.5, sec: 0.5 } as const;
/** Terminals by which a motor hangs on a board: its plug, or its leads. */
const DRIVE_TERMINALS = ["plug", "leads"];

/** How somebody plugged the robot together: wheel behind each board terminal, and which way each turns. */
export interface BenchRobot {
  readonly wheelAt: ReadonlyMap<string, number>;
  /** Of each wheel: whether a positive duty turns it forward. */
  readonly forward: readonly boolean[];
}

/** What people call the wheels of the drive, in the order of its shafts: "left" and "right", or by their names. */
export function benchWheels(robot: Robot): { readonly name: string; readonly lead: Lead }[] {
  const shafts = shaftsOf(robot);
  return shafts.map((lead) => ({
    name: shafts.length === 2 ? lead.wheel.side : lead.wheel.name.replaceAll("_", " "),
    lead,
  }));
}

function portOf(robot: Robot, lead: Lead | undefined): string | null {
  const wire = robot.wiring.find((w) => w.part === lead?.motor.name && DRIVE_TERMINALS.includes(w.terminal));
  return wire?.to ?? null;
}

/** A robot on the bench, plugged together by somebody in a hurry. @param seed - decides how */
export function benchRobot(robot: Robot, seed: number): BenchRobot {
  const chance = randomStream(mixSeed(seed, 31));
  const shafts = shaftsOf(robot);
  const order = shafts.map((_, i) => i);
  for (let i = order.length - 1; i > 0; i -= 1) {
    const other = Math.floor(chance.uniform() * (i + 1));
    [order[i], order[other]] = [order[other] as number, order[i] as number];
  }
  const wheelAt = new Map<string, number>();
  shafts.forEach((lead, i) => {
    const port = portOf(robot, lead);
    if (port !== null && !wheelAt.has(port)) wheelAt.set(port, order[i] as number);
  });
  return { wheelAt, forward: shafts.map(() => chance.uniform() < 0.5) };
}

/** Nudges what the description takes for a wheel of the drive. @returns null when nothing is wired there */
export function nudge(robot: Robot, bench: BenchRobot, shaft: number): NudgeSeen | null {
  const lead = shaftsOf(robot)[shaft];
  const port = portOf(robot, lead);
  const wheel = port === null ? undefined : bench.wheelAt.get(port);
  if (wheel === undefined || !lead) return null;
  const sign = (lead.motor.reversed ? -1 : 1) * (bench.forward[wheel] ? 1 : -1);
  const world = worldFromRobot(robot, openFloor(), noDeviations(robot));
  world.command(wheel, "drive", sign * NUDGE.duty);
  for (let i = 0; i < NUDGE.sec / 0.005; i += 1) world.step();
  const turnedRad = world.wheels[wheel]?.angleRad ?? 0;
  return { wheel, direction: turnedRad >= 0 ? "forward" : "back", turnedRad };
}

type FirstRollResult =
  | { readonly ok: true; readonly robot: Robot; readonly changes: readonly string[] }
  | { readonly ok: false; readonly message: string };

/** Sets ports and reversal from what a person saw. @param answers - one for each shaft, in their order */
export function applyAnswers(robot: Robot, answers: readonly Answer[]): FirstRollResult {
  const wheels = benchWheels(robot);
  if (wheels.length < 2) return { ok: false, message: "A side has no motor. Give each side one first." };
  const twice = answers.find(({ wheel }, i) => answers.findIndex((other) => other.wheel === wheel) < i);
  if (twice)
    return {
      ok: false,
      message: `${wheels.length === 2 ? "Both" : "Two"} nudges turned the ${wheels[twice.wheel]?.name ?? ""} wheel. Check that the other motor is plugged in, then nudge again.`,
    };
  // The motor behind a shaft's port turns the wheel of its answer, and turned it so under this shaft's flag.
  const reversed = new Map<string, boolean>();
  const sits = new Map<string, string>();
  answers.forEach(({ wheel, direction }, i) => {
    const [described, real] = [wheels[i]?.lead.motor, wheels[wheel]?.lead.motor];
    if (!described || !real) return;
    reversed.set(real.name, direction === "forward" ? described.reversed : !described.reversed);
    if (described.name !== real.name) sits.set(described.name, real.name);
  });
  const changes: string[] = [];
  if (sits.size > 0)
    changes.push(
      wheels.length === 2
        ? "left and right motor change their places on the board"
        : `${sits.size} motors change their places on the board`,
    );
  const wiring: Wire[] = robot.wiring.map((wire) => ({ ...wire, part: sits.get(wire.part) ?? wire.part }));
  const motors = robot.motors.map((motor) => {
    const now = reversed.get(motor.name);
    if (now === undefined) return motor;
    if (now !== motor.reversed) changes.push(`${motor.name} is ${now ? "reversed" : "no longer reversed"}`);
    // What was seen is how it is mounted: a description that says otherwise is put right.
    const lead = wheels.find((candidate) => candidate.lead.motor.name === motor.name)?.lead;
    const turned = { ...motor, reversed: now };
    if (!lead || needsReversing(robot, { wheel: lead.wheel, motor: turned }) === now) return turned;
    const shaft: Motor["shaft"] = motor.shaft === "outward" ? "inward" : "outward";
    changes.push(`the shaft of ${motor.name} points ${shaft === "inward" ? "in" : "out"}`);
    return { ...turned, shaft };
  });
  return { ok: true, robot: { ...robot, wiring, motors }, changes };
}
