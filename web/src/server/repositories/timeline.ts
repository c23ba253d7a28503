// What happened, newest first: versions of documents, calibrations, many rehearsals at once.
import type { Queryable } from "../database.js";

interface TimelineRow {
  readonly at: Date;
  readonly what: "version" | "calibration" | "study";
  readonly kind: string;
  readonly document: string;
  readonly name: string;
  readonly number: number;
  readonly words: string;
}

export async function timeline(db: Queryable, team: string, limit: number): Promise<TimelineRow[]> {
  const found = await db.query<TimelineRow>(
    `select * from (
       (select r.created_at as at, 'version' as what, d.kind, d.id as document, d.name, r.number,
          coalesce(r.name || ': ', '') || r.reason as words
        from revision r join document d on d.id = r.document_id
        where d.team_id = $1 and d.archived_at is null order by r.created_at desc limit $2)
       union all
       (select c.created_at, 'calibration', d.kind, d.id, d.name, 0, coalesce(c.result ->> 'words', c.result ->> 'title', c.quantity)
        from calibration c join document d on d.id = c.robot_id
        where c.team_id = $1 and d.archived_at is null order by c.created_at desc limit $2)
       union all
       (select s.created_at, 'study', d.kind, d.id, d.name, r.number, s.successes || ' of ' || s.runs || ' rehearsals worked'
        from study s join revision r on r.id = s.mission_revision join document d on d.id = r.document_id
        where s.team_id = $1 and d.archived_at is null order by s.created_at desc limit $2)
     ) n order by at desc, name limit $2`,
    [team, limit],
  );
  return found.rows;
}
