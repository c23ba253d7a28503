// Trials and their traces.
import { storedSummary, type TrialSummary, type TypedTape, typedTapeSchema } from "@giddy-pebble/core";
import { z } from "zod";
import type { Queryable } from "../database.js";

/** How a run came about: rehearsed, driven by a robot itself, by hand, or timed by hand in a practice round. */
export const TRIAL_SOURCES = ["rehearsal", "robot", "drive", "practice"] as const;

const trialRow = z.object({
  id: z.uuid(),
  mission_revision: z.uuid(),
  robot_revision: z.uuid(),
  field_revision: z.uuid().nullable(),
  core_version: z.string(),
  source: z.enum(TRIAL_SOURCES),
  seed: z.coerce.number(),
  ideal: z.boolean(),
  outcome: z.enum(["finished", "stopped", "problem"]),
  success: z.boolean(),
  score: z.number().nullable(),
  duration_ms: z.number().int(),
  summary: z.record(z.string(), z.unknown()).transform(storedSummary),
  note: z.string(),
  tape: typedTapeSchema.nullable(),
  tags: z.array(z.string()),
  started_at: z.date(),
  mission_name: z.string(),
  mission_number: z.number().int(),
  mission_document: z.uuid(),
  robot_document: z.uuid(),
  robot_name: z.string(),
  robot_number: z.number().int(),
  field_name: z.string().nullable(),
  field_document: z.uuid().nullable(),
  field_number: z.number().int().nullable(),
});
export type TrialRow = z.infer<typeof trialRow>;

const columns = (
  summary: string,
) => `t.id, t.mission_revision, t.robot_revision, t.field_revision, t.core_version, t.source, t.seed, t.ideal, t.outcome, t.success,
  t.score, t.duration_ms, ${summary} as summary, t.note, t.tape, t.tags, t.started_at, md.name as mission_name, mr.number as mission_number, md.id as mission_document,
  rd.id as robot_document, rd.name as robot_name, rr.number as robot_number, fd.name as field_name, fd.id as field_document, fr.number as field_number`;
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
  readonly summary: TrialSummary;
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

export async function insertTrace(
  db: Queryable,
  team: string,
  trialId: string,
  format: number,
  data: Uint8Array,
): Promise<void> {
  await db.query(
    "insert into trace (trial_id, format, data) select id, $3, $4 from trial where team_id = $1 and id = $2",
    [team, trialId, format, Buffer.from(data)],
  );
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

/** Which runs are wanted; null and "" are all of them. */
export interface TrialFilter {
  readonly mission: string | null;
  readonly source: string | null;
  readonly success: boolean | null;
  readonly tag: string | null;
  /** Part of the note or of the mission's name. */
  readonly words: string;
}

const FITS = `t.team_id = $1
  and ($2::uuid is null or t.mission_revision in (select id from revision where document_id = $2))
  and ($3::text is null or t.source = $3)
  and ($4::boolean is null or t.success = $4)
  and ($5::text is null or $5 = any(t.tags))
  and ($6 = '' or position(lower($6) in lower(t.note)) > 0 or t.mission_revision in
    (select r.id from revision r join document d on d.id = r.document_id where d.team_id = $1 and position(lower($6) in lower(d.name)) > 0))`;

const wantedValues = (team: string, filter: TrialFilter) => [
  team,
  filter.mission,
  filter.source,
  filter.success,
  filter.tag,
  filter.words,
];

/** Newest first, from the cursor on, with summaries as lists have them. */
export async function listTrials(
  db: Queryable,
  team: string,
  filter: TrialFilter,
  after: TrialCursor | null,
  limit: number,
): Promise<TrialRow[]> {
  // Which rows the page has is found first, so that what is told of each is worked out for those only.
  const found = await db.query(
    `with page as (
       select t.id as listed from trial t
       where ${FITS} and ($7::timestamptz is null or (t.started_at, t.id) < ($7, $8::uuid))
       order by t.started_at desc, t.id desc limit $9
     )
     select ${LISTED} ${JOINS} join page on page.listed = t.id
     order by t.started_at desc, t.id desc`,
    [...wantedValues(team, filter), after?.startedAt ?? null, after?.id ?? null, limit],
  );
  return found.rows.map((row) => trialRow.parse(row));
}

/** How often a version of a mission worked, in single runs. */
interface VersionCount {
  readonly number: number;
  readonly runs: number;
  readonly successes: number;
}

/** How many runs fit, and how many of them worked. */
export async function countTrials(
  db: Queryable,
  team: string,
  filter: TrialFilter,
): Promise<{ count: number; worked: number }> {
  const found = await db.query<{ count: number; worked: number }>(
    `select count(*)::int as count, (count(*) filter (where t.success))::int as worked from trial t where ${FITS}`,
    wantedValues(team, filter),
  );
  return found.rows[0] ?? { count: 0, worked: 0 };
}

/** Runs that fit, by version of their mission, and many at once beside them. */
export async function countByVersion(db: Queryable, team: string, filter: TrialFilter): Promise<VersionCount[]> {
  const found = await db.query<VersionCount>(
    `select r.number, sum(n.runs)::int as runs, sum(n.successes)::int as successes from (
       select t.mission_revision, 1 as runs, t.success::int as successes from trial t where ${FITS}
       union all
       select s.mission_revision, s.runs, s.successes from study s
       where s.team_id = $1 and s.mission_revision in (select id from revision where document_id = $2)
         and ($3::text is null or $3 = 'study') and $4::boolean is null and $5::text is null and $6 = ''
     ) n join revision r on r.id = n.mission_revision group by r.number order by r.number`,
    wantedValues(team, filter),
  );
  return found.rows;
}

/** Tags that are in use, with how many runs have each. */
export async function tagsInUse(db: Queryable, team: string): Promise<{ tag: string; count: number }[]> {
  const found = await db.query<{ tag: string; count: number }>(
    `select tag, count(*)::int as count from trial, unnest(tags) as tag where team_id = $1
     group by tag order by count desc, tag limit 100`,
    [team],
  );
  return found.rows;
}

/** Puts a tag on runs, or takes it off. @returns how many runs there are among those named */
export async function tagTrials(
  db: Queryable,
  team: string,
  ids: readonly string[],
  tag: string,
  on: boolean,
): Promise<number> {
  const changed = await db.query(
    `update trial set tags = case when $4 then array_append(array_remove(tags, $3), $3) else array_remove(tags, $3) end
     where team_id = $1 and id = any($2::uuid[]) and (not $4 or cardinality(array_remove(tags, $3)) < 20)`,
    [team, ids, tag, on],
  );
  return changed.rowCount ?? 0;
}

/** Writes the same note on several runs. */
export async function noteTrials(db: Queryable, team: string, ids: readonly string[], note: string): Promise<number> {
  const changed = await db.query("update trial set note = $3 where team_id = $1 and id = any($2::uuid[])", [
    team,
    ids,
    note,
  ]);
  return changed.rowCount ?? 0;
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
