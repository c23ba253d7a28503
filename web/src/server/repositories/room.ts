// What takes how much room, and old rehearsals that nobody marked.
import type { Queryable } from "../database.js";

export interface Room {
  readonly documents: number;
  readonly versions: number;
  readonly versionBytes: number;
  readonly trials: number;
  readonly trialBytes: number;
  readonly studies: number;
  readonly studyBytes: number;
  readonly pictures: number;
  readonly pictureBytes: number;
}

export async function measureRoom(db: Queryable, team: string): Promise<Room> {
  const found = await db.query<Room>(
    `select
       (select count(*)::int from document where team_id = $1) as documents,
       count(r.id)::int as versions,
       coalesce(sum(pg_column_size(r.body) + coalesce(octet_length(r.text), 0)), 0)::float8 as "versionBytes",
       (select count(*)::int from trial where team_id = $1) as trials,
       (select coalesce(sum(octet_length(c.data) + pg_column_size(t.summary)), 0)::float8
          from trial t left join trace c on c.trial_id = t.id where t.team_id = $1) as "trialBytes",
       (select count(*)::int from study where team_id = $1) as studies,
       (select coalesce(sum(pg_column_size(summary)), 0)::float8 from study where team_id = $1) as "studyBytes",
       (select count(*)::int from asset where team_id = $1) as pictures,
       (select coalesce(sum(octet_length(bytes)), 0)::float8 from asset where team_id = $1) as "pictureBytes"
     from revision r join document d on d.id = r.document_id where d.team_id = $1`,
    [team],
  );
  if (!found.rows[0]) throw new Error("the room was not measured");
  return found.rows[0];
}

/** Rehearsals before a day that nobody wrote a note, a tag or a place on. */
const UNMARKED = `team_id = $1 and source = 'rehearsal' and started_at < $2
  and note = '' and tape is null and cardinality(tags) = 0`;

export async function countOldRehearsals(db: Queryable, team: string, before: Date): Promise<number> {
  const found = await db.query<{ count: number }>(`select count(*)::int as count from trial where ${UNMARKED}`, [
    team,
    before,
  ]);
  return found.rows[0]?.count ?? 0;
}

/** @returns how many were deleted */
export async function deleteOldRehearsals(db: Queryable, team: string, before: Date): Promise<number> {
  return (await db.query(`delete from trial where ${UNMARKED}`, [team, before])).rowCount ?? 0;
}
