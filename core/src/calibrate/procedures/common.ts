// What the procedures share: wheels and their turns, rows in use, rows that look wrong.

import { driveKind } from "../../drives/kinds.js";
import { gearTrain } from "../../drives/train.js";
import { cos, sin, TAU } from "../../math/trig.js";
import { robotInForce } from "../../robot/inForce.js";
import type { ShownUnit } from "../../robot/quantities.js";
import type { Robot } from "../../robot/schema.js";
import type { SensorOf } from "../../sensors/kinds/all.js";
import { traceColumn } from "../../trials/trace.js";
import type { Known } from "../../units/known.js";
import type { Column, KnownEdit, Measured, Result, TableRow } from "../procedure.js";
import { type Estimated, median, outliers } from "../statistics.js";

export function hasEncoders(robot: Robot): boolean {
  return robotInForce(robot).shafts.every(({ motor }) => motor.encoder !== null);
}

const NO_ENCODERS = "This robot has no wheel encoders. Speed at power and timed turns are its procedures.";

export const notCar = (robot: Robot) =>
  driveKind(robot.drive).turnsOnSpot ? null : "A car type cannot turn on the spot.";

export function gyroName(robot: Robot): string {
  return robotInForce(robot).gyro?.part.name ?? "gyro";
}

export function needsGyro(robot: Robot): string | null {
  return robotInForce(robot).gyro
    ? null
    : "This robot has no gyro. Add one in the Robot workplace, or use timed turns.";
}

/** The entry of a list whose turn it is in a row. */
export const of = (list: readonly number[], row: number) => list[row % list.length] as number;

export function needsEncoders(robot: Robot): string | null {
  return hasEncoders(robot) ? null : NO_ENCODERS;
}

export function needsTwoSides(robot: Robot): string | null {
  if (driveKind(robot.drive).steers) return "A car type steers with its axle: see its steering.";
  return needsEncoders(robot);
}

/** Lines that note how far both wheels' motors turned, for the end of a program. */
export function noteTurns(robot: Robot): string {
  const { left, right } = robotInForce(robot);
  return `  note left_turn = ${left.motor.name}.angle\n  note right_turn = ${right.motor.name}.angle\n`;
}

/** Way of a lead wheel's rim for a metre straight ahead: less than one where its rollers lie aslant of the way. */
function forwardShare(robot: Robot, side: "left" | "right"): number {
  return robotInForce(robot).mixing?.rows[side === "left" ? 0 : 1]?.forward ?? 1;
}

/** Turns of one wheel, as if it rolled straight, from the angle its motor noted; null when it was not noted. */
export function wheelTurns(robot: Robot, measured: Measured, side: "left" | "right"): number | null {
  const angle = measured.notes.get(`${side}_turn`);
  if (angle === undefined) return null;
  const { wheel } = robotInForce(robot)[side];
  return angle / TAU / gearTrain(robot, wheel).ratio / forwardShare(robot, side);
}

export function header(robot: Robot): string {
  return `cairn 1\nrobot "${robot.name}"\n\nmission\n`;
}

/** Rows that count: not struck out, and with every column that must be there. */
export function usable(
  rows: readonly TableRow[],
  columns: readonly Column[],
): { readonly row: TableRow; readonly index: number }[] {
  const needed = columns.filter((column) => !column.optional).map(({ id }) => id);
  return rows.flatMap((row, index) =>
    !row.struck && needed.every((id) => typeof row.values[id] === "number") ? [{ row, index }] : [],
  );
}

export function numberOf(row: TableRow, id: string): number {
  return row.values[id] as number;
}

export const FEW = "Not enough rows yet. Run it, or type what you measured.";

/** Rows whose value lies far from the others'. @param leastSi - smaller differences are never doubted */
export function doubtfulRows(
  rows: readonly { readonly index: number }[],
  values: readonly number[],
  leastSi: number,
): { row: number; why: string }[] {
  return outliers(values, leastSi).map((i) => ({
    row: (rows[i] as { index: number }).index,
    why: "It lies far from the other rows. Was the robot touched, or the tape misread? Strike it out, or keep it.",
  }));
}

export const STUDENT = "95 % by Student's t";

/** An edit for a known that an estimate gives; factor scales value and error. */
export function knownEdit(ref: string, path: string, estimate: Estimated, factor = 1): KnownEdit {
  const { value, standardError } = estimate;
  return {
    ref,
    path,
    value: value * factor,
    standardError: standardError === null ? null : Math.abs(standardError * factor),
  };
}

/** A known as it stands now, for the list. */
export function presentKnown(
  id: string,
  label: string,
  shown: ShownUnit,
  value: number,
  standardError: number,
  known: Known,
): Result {
  return {
    id,
    label,
    shown,
    estimate: {
      value,
      standardError: known.standardError === null && known.source === "drawing" ? standardError : known.standardError,
      low: null,
      high: null,
      count: known.count,
    },
  };
}

/** Wheels of one side, whose roll goes with the lead wheel's. */
export function rollEdits(
  robot: Robot,
  left: { value: number; standardError: number | null },
  right: { value: number; standardError: number | null },
): KnownEdit[] {
  const known = robotInForce(robot);
  return robot.wheels.map((wheel) => {
    const own = wheel.side === "left" ? left : right;
    const lead = known[wheel.side].wheel;
    // Other wheels of a side are scaled as their lead wheel is: nothing measured them by themselves.
    const share = wheel.diameterM / lead.diameterM;
    return {
      ref: wheel.name,
      path: "rollPerTurnM",
      value: own.value * share,
      standardError: own.standardError === null ? null : own.standardError * share,
    };
  });
}

/** One sample of a recorded drive stands for this many rows of the trace: a tenth of a second. */
const SAMPLE_ROWS = 10;

/** Wheel turns of a run, [left, right] interleaved increments. */
export function recordedTurns(robot: Robot, { trace }: Measured): number[] | undefined {
  if (!trace) return undefined;
  const counts = [traceColumn(trace, "leftCounts"), traceColumn(trace, "rightCounts")];
  const [left, right] = counts;
  if (!left || !right) return undefined;
  const known = robotInForce(robot);
  const perTurn = (["left", "right"] as const).map((which) => {
    const { wheel, motor } = known[which];
    return (motor.encoder?.countsPerTurn ?? 1) * gearTrain(robot, wheel).ratio * forwardShare(robot, which);
  }) as [number, number];
  const turns: number[] = [];
  const clean = (value: number) => Math.floor(value * 1e7 + 0.5) / 1e7;
  for (let i = 0; i < left.length - 1; i += SAMPLE_ROWS) {
    const j = Math.min(left.length - 1, i + SAMPLE_ROWS);
    turns.push(
      clean(((left[j] as number) - (left[i] as number)) / perTurn[0]),
      clean(((right[j] as number) - (right[i] as number)) / perTurn[1]),
    );
  }
  return turns;
}

/** Wheel travel of a recorded drive by the constants in force. */
export function travelOf(robot: Robot, turns: readonly number[]): number[] {
  const { left, right } = robotInForce(robot);
  return turns.map((turn, i) => turn * (i % 2 === 0 ? left : right).rollPerTurnM.value);
}

type Eye = SensorOf<"eye">;
/** The first distance sensor of a robot. */
export const eyeOf = (robot: Robot): Eye | null =>
  robot.sensors.find((sensor): sensor is Eye => sensor.kind === "eye") ?? null;

/** Median of what the eye read after its first half second: a look that met no echo does not count for more than one. */
export function middleReading(robot: Robot, { trace }: Measured): number | null {
  const eye = eyeOf(robot);
  const column = eye && trace ? traceColumn(trace, `${eye.name}.distance`) : null;
  return column && column.length > 60 ? median([...column.slice(50)]) : null;
}

/** How far the robot moved the way its eye looks. */
export function towards(robot: Robot, { alongM, asideM }: { alongM: number; asideM: number }): number {
  const aim = eyeOf(robot)?.aimRad ?? 0;
  return alongM * cos(aim) + asideM * sin(aim);
}
