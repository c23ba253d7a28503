// Trials and their traces.
import { type TypedTape, typedTapeSchema } from "@giddy-pebble/core";
import { z } from "zod";
import type { Queryable } from "../database.js";

const trialRow = z.object({
  id: z.uuid(),
  mission_revision: z.uuid(),
  robot_revision: z.uuid(),
  field_revision: z.uuid().nullable(),
  core_version: z.string(),
  source: z.enum(["rehearsal", "robot", "drive"]),
  seed: z.coerce.number(),
  ideal: z.boolean(),
  outcome: z.enum(["finished", "stopped", "problem"]),
  success: z.boolean(),
  score: z.number().nullable(),
  duration_ms: z.number().int(),
  summary: z.record(z.string(), z.unknown()),
  note: z.string(),
  tape: typedTapeSchema.nullable(),
  started_at: z.date(),
  mission_name: z.string(),
  mission_number: z.number().int(),
  mission_document: z.uuid(),
  robot_document: z.uuid(),
  robot_name: z.string(),
  robot_number: z.number().int(),
  field_name: z.string().nullable(),
});
export type TrialRow = z.infer<typeof trialRow>;

const columns = (
  summary: string,
) => `t.id, t.mission_revision, t.robot_revision, t.field_revision, t.core_version, t.source, t.seed, t.ideal, t.outcome, t.success,
  t.score, t.duration_ms, ${summary} as summary, t.note, t.tape, t.started_at, md.name as mission_name, mr.number as mission_number, md.id as mission_document,
  rd.id as robot_document, rd.name as robot_name, rr.number as robot_number, fd.name as field_name`;
const COLUMNS = columns("t.summary");
/** In lists without what grows with the length of a run. */
const LISTED = columns("t.summary - '{steps,notes,signs,loads}'::text[]");
const JOINS = `from trial t
  join revision mr on mr.id = t.mission_revision join document md on md.id = mr.document_id
  join revision rr on rr.id = t.robot_revision join document rd on rd.id = rr.document_id
  left join revision fr on fr.id = t.field_revision left join document fd on fd.id = fr.document_id`;

export interface NewTrial {
  readonly missionRevision: string;
  readonly robotRevision: string;
  readonly fieldRevision: string | null;
  readonly coreVersion: string;
  readonly source: TrialRow["source"];
  readonly seed: number;
  readonly ideal: boolean;
  readonly outcome: TrialRow["outcome"];
  readonly success: boolean;
  readonly score: number | null;
  readonly durationMs: number;
  readonly summary: unknown;
}

export async function insertTrial(db: Queryable, team: string, trial: NewTrial): Promise<string> {
  const made = await db.query<{ id: string }>(
    `insert into trial (team_id, mission_revision, robot_revision, field_revision, core_version, source, seed, ideal, outcome, success, score, duration_ms, summary)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13) returning id`,
    [
      team,
      trial.missionRevision,
      trial.robotRevision,
      trial.fieldRevision,
      trial.coreVersion,
      trial.source,
      trial.seed,
      trial.ideal,
      trial.outcome,
      trial.success,
      trial.score,
      trial.durationMs,
      JSON.stringify(trial.summary),
    ],
  );
  if (!made.rows[0]) throw new Error("the trial was not stored");
  return made.rows[0].id;
}

export async function insertTrace(db: Queryable, trialId: string, format: number, data: Uint8Array): Promise<void> {
  await db.query("insert into trace (trial_id, format, data) values ($1, $2, $3)", [
    trialId,
    format,
    Buffer.from(data),
  ]);
}

export interface TrialCursor {
  readonly startedAt: Date;
  readonly id: string;
}

/** Of the newest runs, at most `most`: how many there are, whether one met its goal, whether one was a robot's. */
export async function newestTrials(
  db: Queryable,
  team: string,
  most: number,
): Promise<{ count: number; worked: boolean; byRobot: boolean }> {
  const found = await db.query<{ count: number; worked: boolean | null; by_robot: boolean | null }>(
    `select count(*)::int as count, bool_or(n.success) as worked, bool_or(n.source = 'robot') as by_robot
     from (select success, source from trial where team_id = $1 order by started_at desc, id desc limit $2) n`,
    [team, most],
  );
  const row = found.rows[0];
  return { count: row?.count ?? 0, worked: row?.worked ?? false, byRobot: row?.by_robot ?? false };
}

/** Newest first, from the cursor on, with summaries as lists have them. */
export async function listTrials(
  db: Queryable,
  team: string,
  missionDocument: string | null,
  after: TrialCursor | null,
  limit: number,
): Promise<TrialRow[]> {
  // Which rows the page has is found first, so that what is told of each is worked out for those only.
  const found = await db.query(
    `with page as (
       select id as listed from trial
       where team_id = $1
         and ($2::uuid is null or mission_revision in (select id from revision where document_id = $2))
         and ($3::timestamptz is null or (started_at, id) < ($3, $4::uuid))
       order by started_at desc, id desc limit $5
     )
     select ${LISTED} ${JOINS} join page on page.listed = t.id
     order by t.started_at desc, t.id desc`,
    [team, missionDocument, after?.startedAt ?? null, after?.id ?? null, limit],
  );
  return found.rows.map((row) => trialRow.parse(row));
}

export async function findTrial(db: Queryable, team: string, id: string): Promise<TrialRow | null> {
  const found = await db.query(`select ${COLUMNS} ${JOINS} where t.team_id = $1 and t.id = $2`, [team, id]);
  return found.rows[0] ? trialRow.parse(found.rows[0]) : null;
}

export async function findTrace(
  db: Queryable,
  team: string,
  trialId: string,
): Promise<{ format: number; data: Buffer } | null> {
  const found = await db.query<{ format: number; data: Buffer }>(
    "select c.format, c.data from trace c join trial t on t.id = c.trial_id where t.team_id = $1 and c.trial_id = $2",
    [team, trialId],
  );
  return found.rows[0] ?? null;
}

/** @returns whether there is such a trial */
export async function noteTrial(db: Queryable, team: string, id: string, note: string): Promise<boolean> {
  const changed = await db.query("update trial set note = $3 where team_id = $1 and id = $2", [team, id, note]);
  return changed.rowCount === 1;
}

/** @returns whether there is such a trial */
export async function tapeTrial(db: Queryable, team: string, id: string, tape: TypedTape | null): Promise<boolean> {
  const changed = await db.query("update trial set tape = $3 where team_id = $1 and id = $2", [
    team,
    id,
    tape === null ? null : JSON.stringify(tape),
  ]);
  return changed.rowCount === 1;
}

/** The trace of a mission's newest run. */
export async function newestTrace(db: Queryable, team: string, missionDocument: string): Promise<Buffer | null> {
  const found = await db.query<{ data: Buffer }>(
    `select c.data from trial t join trace c on c.trial_id = t.id
     where t.team_id = $1 and t.mission_revision in (select id from revision where document_id = $2)
     order by t.started_at desc, t.id desc limit 1`,
    [team, missionDocument],
  );
  return found.rows[0]?.data ?? null;
}
