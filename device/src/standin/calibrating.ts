// A whole calibration of a stand-in by the application's own procedures, in the order people do them; and the drives
// that show what it was good for. For benches and tests: nothing here reads the hidden truth.
import {
  applyEstimate,
  type BeginPlace,
  type Estimate,
  type Field,
  PI,
  type Procedure,
  procedureOf,
  type Robot,
  STAGE_BEGIN,
  stageField,
  wrapAngle,
} from "@giddy-pebble/core";
import { measureRow, runToEnd } from "./measuring.js";
import { beginOfText, type StandIn } from "./standIn.js";
import type { TapeReading } from "./table.js";

export interface Finding {
  readonly procedure: string;
  readonly estimate: Estimate;
}

function known(id: string): Procedure {
  const found = procedureOf(id);
  if (!found) throw new RangeError(`there is no procedure "${id}"`);
  return found;
}

/** Runs one procedure its wished number of times. */
export function carryOut(standIn: StandIn, id: string, believed: Robot, rows?: number): Estimate {
  const procedure = known(id);
  const settings = Object.fromEntries(procedure.settings.map((setting) => [setting.id, setting.value]));
  const table = Array.from({ length: rows ?? procedure.rowsWanted }, (_, i) =>
    measureRow(standIn, procedure, believed, settings, i),
  );
  return procedure.estimate(believed, table, settings);
}

/** Everything a two-wheel robot with a gyro needs: gyro first, since its drives are steered by it. */
const WHOLE_ORDER = ["gyro-rest", "gyro-scale", "wheel-size", "straight-driving", "turning-width", "square"] as const;

/** @returns the robot with all that was found in force */
export function calibrateWhole(
  standIn: StandIn,
  robot: Robot,
  order: readonly string[] = WHOLE_ORDER,
): { readonly robot: Robot; readonly findings: readonly Finding[] } {
  const findings: Finding[] = [];
  let now = robot;
  for (const id of order) {
    const estimate = carryOut(standIn, id, now);
    findings.push({ procedure: id, estimate });
    if (!estimate.ok) throw new RangeError(`${id}: ${estimate.why}`);
    now = applyEstimate(now, estimate.edits, { method: id, conditions: "", measuredAt: "", count: 5 });
  }
  return { robot: now, findings };
}

/** Systematic return error of ten squares each way by the wheels alone, m: the paper's measure. */
export function returnError(standIn: StandIn, believed: Robot): number {
  const estimate = carryOut(standIn, "square", believed, 20);
  if (!estimate.ok) throw new RangeError(estimate.why);
  return estimate.results.find(({ id }) => id === "return")?.estimate.value ?? Number.NaN;
}

/** Where a text's run ends, seen from where the tape found its begin, in the begin place's frame. */
export function endOf(standIn: StandIn, text: string, believed: Robot, field?: Field): TapeReading {
  const floor = field ?? stageField({ floor: "open", aheadM: 0 }, believed);
  const begin: BeginPlace = field ? beginOfText(text, field) : STAGE_BEGIN;
  standIn.place(floor, begin, "jig");
  const before = standIn.tape();
  runToEnd(standIn, text, believed);
  const after = standIn.tape();
  return {
    alongM: after.alongM - before.alongM,
    asideM: after.asideM - before.asideM,
    headingRad: wrapAngle(after.headingRad - before.headingRad),
  };
}

/** Mean end of several runs of a text. */
export function meanEnd(standIn: StandIn, text: string, believed: Robot, runs: number, field?: Field): TapeReading {
  const ends = Array.from({ length: runs }, () => endOf(standIn, text, believed, field));
  const mean = (of: (end: TapeReading) => number) => ends.reduce((sum, end) => sum + of(end), 0) / runs;
  return {
    alongM: mean((end) => end.alongM),
    asideM: mean((end) => end.asideM),
    headingRad: mean((end) => end.headingRad),
  };
}

const DRIVE_2M = "cairn 1\nmission\n  wait 0.5 s\n  go 2 m at 25 cm/s\n  wait 0.5 s\n";
const TURN_90 = "cairn 1\nmission\n  wait 0.5 s\n  turn left 90 deg at 90 deg/s\n  wait 0.5 s\n";

/** What the check drives show, in mm and deg. */
interface CheckDrives {
  readonly alongMm: number;
  readonly asideMm: number;
  readonly turnDeg: number;
}

export function checkDrives(standIn: StandIn, believed: Robot, runs = 10): CheckDrives {
  const drive = meanEnd(standIn, DRIVE_2M, believed, runs);
  const turn = meanEnd(standIn, TURN_90, believed, runs);
  return {
    alongMm: (drive.alongM - 2) * 1000,
    asideMm: drive.asideM * 1000,
    turnDeg: (turn.headingRad * 180) / PI - 90,
  };
}
