// A calibration procedure carried out on a stand-in, run by run, as a person at the table does it: put it in the jig,
// read the tape, run, read the tape again.
import {
  type Field,
  measuredOf,
  type Procedure,
  type Robot,
  type RunResult,
  rowOfRun,
  type Settings,
  STAGE_BEGIN,
  stageField,
  type TableRow,
} from "@giddy-pebble/core";
import type { StandIn, TapeReading } from "./standIn.js";

/** The begin place itself, where the tape is laid from for placing. */
const BEGIN: TapeReading = { alongM: 0, asideM: 0, headingRad: 0 };
const MOST_TICKS = 70_000;

/** Runs a text to its end. @throws RangeError when the robot refuses it */
export function runToEnd(standIn: StandIn, text: string, believed: Robot): RunResult {
  const started = standIn.run(text, believed);
  if (!started.ok) throw new RangeError(started.why);
  for (let i = 0; standIn.running && i < MOST_TICKS; i += 1) standIn.tick();
  if (!standIn.last) throw new RangeError("the run never ended");
  return standIn.last;
}

/** One row of a procedure. @throws RangeError when it has no program for this robot */
export function measureRow(
  standIn: StandIn,
  procedure: Procedure,
  believed: Robot,
  settings: Settings,
  index: number,
): TableRow {
  const text = procedure.program(believed, settings, index);
  if (text === null) throw new RangeError(`"${procedure.title}" has no program for this robot`);
  const field: Field = stageField(
    procedure.stage?.(settings, index, believed) ?? { floor: "open", aheadM: 0 },
    believed,
  );
  standIn.place(field, STAGE_BEGIN, procedure.placing?.(settings) ?? "jig");
  const before = procedure.placing ? BEGIN : standIn.tape();
  const run = runToEnd(standIn, text, believed);
  return rowOfRun(procedure, believed, measuredOf(run, before, standIn.tape(), null), index);
}
