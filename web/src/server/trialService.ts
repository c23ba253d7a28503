// Storing a trial: everything it refers to must be the team's own, its trace must unpack.
import { promisify } from "node:util";
import { inflateRaw } from "node:zlib";
import { LARGEST_TRACE, LARGEST_UNPACKED, TRACE_FORMAT, traceFault } from "@giddy-pebble/core";
import { inTransaction } from "./database.js";
import { ownsRevision } from "./repositories/documents.js";
import { insertTrace, insertTrial, type NewTrial } from "./repositories/trials.js";

type TrialOutcome = { readonly ok: true; readonly id: string } | { readonly ok: false; readonly problem: string };

const inflateInPool = promisify(inflateRaw);

/** Why packed bytes are no trace; null when they are one. They are inflated beside the main thread, within a limit. */
export async function packedFault(packed: Uint8Array): Promise<string | null> {
  if (packed.length > LARGEST_TRACE) return "this is not a trace: it is larger than 10 MB";
  try {
    return traceFault(await inflateInPool(packed, { maxOutputLength: LARGEST_UNPACKED }));
  } catch {
    return "this is not a trace: its bytes are damaged, or inflate to more than 40 MB";
  }
}

export async function storeTrial(team: string, trial: NewTrial, trace: Uint8Array): Promise<TrialOutcome> {
  const fault = await packedFault(trace);
  if (fault !== null) return { ok: false, problem: fault };
  return inTransaction(async (db) => {
    const owned =
      (await ownsRevision(db, team, "mission", trial.missionRevision)) &&
      (await ownsRevision(db, team, "robot", trial.robotRevision)) &&
      (trial.fieldRevision === null || (await ownsRevision(db, team, "field", trial.fieldRevision)));
    if (!owned)
      return { ok: false, problem: "the trial names a version of a mission, robot or field that does not exist" };
    const id = await insertTrial(db, team, trial);
    await insertTrace(db, team, id, TRACE_FORMAT, trace);
    return { ok: true, id };
  });
}
