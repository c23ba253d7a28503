// Studies: figures of many rehearsals of one version.
import { z } from "zod";
import type { Queryable } from "../database.js";

const studyRow = z.object({
  id: z.uuid(),
  seed: z.coerce.number(),
  runs: z.number().int(),
  successes: z.number().int(),
  core_version: z.string(),
  created_at: z.date(),
  mission_number: z.number().int(),
  mission_document: z.uuid(),
  mission_name: z.string(),
  robot_name: z.string(),
  robot_number: z.number().int(),
});
export type StudyRow = z.infer<typeof studyRow>;

export interface NewStudy {
  readonly missionRevision: string;
  readonly robotRevision: string;
  readonly fieldRevision: string | null;
  readonly coreVersion: string;
  readonly seed: number;
  readonly runs: number;
  readonly successes: number;
  readonly summary: unknown;
}

export async function insertStudy(db: Queryable, team: string, study: NewStudy): Promise<string> {
  const { missionRevision, robotRevision, fieldRevision, coreVersion, seed, runs, successes, summary } = study;
  const made = await db.query<{ id: string }>(
    `insert into study (team_id, mission_revision, robot_revision, field_revision, core_version, seed, runs, successes, summary)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9) returning id`,
    [team, missionRevision, robotRevision, fieldRevision, coreVersion, seed, runs, successes, JSON.stringify(summary)],
  );
  if (!made.rows[0]) throw new Error("the study was not stored");
  return made.rows[0].id;
}

/** Figures of one study; null when there is none. */
export async function findStudySummary(db: Queryable, team: string, id: string): Promise<unknown> {
  const found = await db.query<{ summary: unknown }>("select summary from study where team_id = $1 and id = $2", [
    team,
    id,
  ]);
  return found.rows[0]?.summary ?? null;
}

/** Newest first, without their figures. */
export async function listStudies(
  db: Queryable,
  team: string,
  missionDocument: string | null,
  limit: number,
): Promise<StudyRow[]> {
  const found = await db.query(
    `select s.id, s.seed, s.runs, s.successes, s.core_version, s.created_at, mr.number as mission_number,
       md.id as mission_document, md.name as mission_name, rd.name as robot_name, rr.number as robot_number
     from study s
     join revision mr on mr.id = s.mission_revision join document md on md.id = mr.document_id
     join revision rr on rr.id = s.robot_revision join document rd on rd.id = rr.document_id
     where s.team_id = $1 and ($2::uuid is null or mr.document_id = $2)
     order by s.created_at desc, s.id desc limit $3`,
    [team, missionDocument, limit],
  );
  return found.rows.map((row) => studyRow.parse(row));
}
