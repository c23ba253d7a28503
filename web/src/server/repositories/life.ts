// What a document goes through beside its versions: put away, brought back, deleted for good, and what uses it.
import type { Queryable } from "../database.js";
import { type DocumentRow, findDocument } from "./documents.js";

/** Puts a document away, or takes it back into use. @returns whether there is one that was not so before */
export async function setArchived(db: Queryable, team: string, id: string, archived: boolean): Promise<boolean> {
  const changed = await db.query(
    `update document set archived_at = case when $3 then now() end
     where team_id = $1 and id = $2 and (archived_at is null) = $3`,
    [team, id, archived],
  );
  return changed.rowCount === 1;
}

/** A document that was put away. */
export async function findArchived(
  db: Queryable,
  team: string,
  id: string,
): Promise<Pick<DocumentRow, "id" | "kind" | "name"> | null> {
  const found = await db.query<Pick<DocumentRow, "id" | "kind" | "name">>(
    "select id, kind, name from document where team_id = $1 and id = $2 and archived_at is not null for update",
    [team, id],
  );
  return found.rows[0] ?? null;
}

/** How many kept things were made with any version of a document. */
export interface KeptUses {
  readonly trials: number;
  readonly studies: number;
  readonly calibrations: number;
}

const OWN = "select id from revision where document_id = $2";

export async function countKeptUses(db: Queryable, team: string, id: string): Promise<KeptUses> {
  const of = (table: string) =>
    `(select count(*)::int from ${table} where team_id = $1
      and (mission_revision in (${OWN}) or robot_revision in (${OWN}) or field_revision in (${OWN})))`;
  const found = await db.query<KeptUses>(
    `select ${of("trial")} as trials, ${of("study")} as studies,
       (select count(*)::int from calibration where team_id = $1 and robot_id = $2) as calibrations`,
    [team, id],
  );
  return found.rows[0] ?? { trials: 0, studies: 0, calibrations: 0 };
}

/** Deletes a document with its versions, and every kept thing that was made with one of them. */
export async function deleteForGood(db: Queryable, team: string, id: string): Promise<void> {
  for (const table of ["trial", "study"])
    await db.query(
      `delete from ${table} where team_id = $1
       and (mission_revision in (${OWN}) or robot_revision in (${OWN}) or field_revision in (${OWN}))`,
      [team, id],
    );
  await db.query("delete from calibration where team_id = $1 and robot_id = $2", [team, id]);
  // A calibration of another robot cannot have been used in a version of this one; if one was, it only forgets where.
  await db.query(
    "update calibration set applied_revision = null where applied_revision in (select id from revision where document_id = $1)",
    [id],
  );
  await db.query("delete from draft where document_id = $1", [id]);
  await db.query("delete from revision where document_id = $1", [id]);
  await db.query("delete from document where team_id = $1 and id = $2", [team, id]);
}

/** Whether the document is in use, not put away. */
export async function isInUse(db: Queryable, team: string, id: string): Promise<boolean> {
  return (await findDocument(db, team, id)) !== null;
}
