// Storing a study: everything it refers to must be the team's own.
import { inTransaction } from "./database.js";
import { ownsRevision } from "./repositories/documents.js";
import { insertStudy, type NewStudy } from "./repositories/studies.js";

/** @returns its id, or null when it names a revision that is not the team's */
export async function storeStudy(team: string, study: NewStudy): Promise<string | null> {
  return inTransaction(async (db) => {
    const owned =
      (await ownsRevision(db, team, "mission", study.missionRevision)) &&
      (await ownsRevision(db, team, "robot", study.robotRevision)) &&
      (study.fieldRevision === null || (await ownsRevision(db, team, "field", study.fieldRevision)));
    return owned ? insertStudy(db, team, study) : null;
  });
}
