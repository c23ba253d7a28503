// A calibration procedure carried out on a stand-in, run by run, as a person at the table does it: put it in the jig,
// read the tape, run, read the tape again.
import {
  measuredOf,
  type Procedure,
  type Robot,
  type RunResult,
  rowOfRun,
  rowPlan,
  type Settings,
  STAGE_BEGIN,
  type TableRow,
} from "@giddy-pebble/core";
import type { StandIn } from "./standIn.js";

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
  const plan = rowPlan(procedure, believed, settings, index);
  if (!plan) throw new RangeError(`"${procedure.title}" has no program for this robot`);
  standIn.place(plan.field, STAGE_BEGIN, plan.put);
  const before = plan.from ?? standIn.tape();
  const run = runToEnd(standIn, plan.text, believed);
  return rowOfRun(procedure, believed, measuredOf(run, before, standIn.tape(), null), index);
}
