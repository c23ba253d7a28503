// Practice rounds as runs: timed by hand, without a trace, of the newest versions of mission, robot and field.
import { CORE_VERSION } from "@giddy-pebble/core";
import { inTransaction, type Queryable } from "./database.js";
import { findDocumentByName, findRevision } from "./repositories/documents.js";
import { dateTrial } from "./repositories/project.js";
import { insertTrial } from "./repositories/trials.js";

interface PracticeMark {
  /** Name of the mission. */
  readonly mission: string;
  /** From the beginning of the round, and since the mark before, s. */
  readonly atS: number;
  readonly tookS: number;
  readonly worked: boolean;
  readonly points: number;
}

async function newest(db: Queryable, team: string, kind: "mission" | "robot" | "field", name: string | null) {
  const document = name === null ? null : await findDocumentByName(db, team, kind, name);
  const version = document ? await findRevision(db, team, document.id, document.head_revision) : null;
  return document && version ? { document, revision: version.id } : null;
}

/** @returns how many runs were kept, and the missions that were not: this project does not have them, or their robot */
export async function keepPractice(
  team: string,
  begun: Date,
  marks: readonly PracticeMark[],
): Promise<{ kept: number; unknown: string[] }> {
  return inTransaction(async (db) => {
    const unknown = new Set<string>();
    let kept = 0;
    for (const { mission: name, atS, tookS, worked, points } of marks) {
      const mission = await newest(db, team, "mission", name);
      const robot = await newest(db, team, "robot", mission?.document.names_robot ?? null);
      if (!mission || !robot) {
        unknown.add(name);
        continue;
      }
      const field = await newest(db, team, "field", mission.document.names_field);
      const id = await insertTrial(db, team, {
        missionRevision: mission.revision,
        robotRevision: robot.revision,
        fieldRevision: field?.revision ?? null,
        coreVersion: CORE_VERSION,
        source: "practice",
        seed: 0,
        ideal: false,
        outcome: "finished",
        success: worked,
        score: worked ? points : 0,
        durationMs: Math.round(tookS * 1000),
        summary: { reason: worked ? "" : "It was ticked off as failed in a practice round." },
      });
      await dateTrial(db, team, id, new Date(begun.getTime() + atS * 1000).toISOString(), "", null, []);
      kept += 1;
    }
    return { kept, unknown: [...unknown] };
  });
}
