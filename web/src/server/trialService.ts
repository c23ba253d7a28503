// Storing a trial: everything it refers to must be the team's own, its trace must unpack.
import { TRACE_FORMAT, unpackTrace } from "@giddy-pebble/core";
import { inTransaction } from "./database.js";
import { ownsRevision } from "./repositories/documents.js";
import { insertTrace, insertTrial, type NewTrial } from "./repositories/trials.js";

export type TrialOutcome =
  | { readonly ok: true; readonly id: string }
  | { readonly ok: false; readonly problem: string };

export async function storeTrial(team: string, trial: NewTrial, trace: Uint8Array): Promise<TrialOutcome> {
  const read = unpackTrace(trace);
  if (!read.ok) return { ok: false, problem: read.message };
  return inTransaction(async (db) => {
    const owned =
      (await ownsRevision(db, team, "mission", trial.missionRevision)) &&
      (await ownsRevision(db, team, "robot", trial.robotRevision)) &&
      (trial.fieldRevision === null || (await ownsRevision(db, team, "field", trial.fieldRevision)));
    if (!owned)
      return { ok: false, problem: "the trial names a revision of a mission, robot or field that does not exist" };
    const id = await insertTrial(db, team, trial);
    await insertTrace(db, id, TRACE_FORMAT, trace);
    return { ok: true, id };
  });
}
