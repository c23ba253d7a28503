// Everything of a team, read in order for a project file, and written from one.
import type { Queryable } from "../database.js";
import type { Content, DocumentKind } from "./documents.js";

export interface WholeDocument {
  readonly id: string;
  readonly kind: DocumentKind;
  readonly name: string;
  readonly head_revision: number;
  readonly created_at: Date;
  readonly archived_at: Date | null;
  readonly draft_over: number | null;
}

/** In use and put away, in the order they were made. */
export async function everyDocument(db: Queryable, team: string): Promise<WholeDocument[]> {
  const found = await db.query<WholeDocument>(
    `select d.id, d.kind, d.name, d.head_revision, d.created_at, d.archived_at, w.base_revision as draft_over
     from document d left join draft w on w.document_id = d.id
     where d.team_id = $1 order by d.kind, d.created_at, d.id`,
    [team],
  );
  return found.rows;
}

interface WholeVersion {
  readonly id: string;
  readonly number: number;
  readonly parent: number | null;
  readonly name: string | null;
  readonly reason: string;
  readonly author: string;
  readonly created_at: Date;
}

export async function everyVersion(db: Queryable, team: string, document: string): Promise<WholeVersion[]> {
  const found = await db.query<WholeVersion>(
    `select r.id, r.number, r.parent, r.name, r.reason, r.author, r.created_at
     from revision r join document d on d.id = r.document_id
     where d.team_id = $1 and d.id = $2 order by r.number`,
    [team, document],
  );
  return found.rows;
}

export async function contentOf(
  db: Queryable,
  team: string,
  document: string,
  version: number | "draft",
): Promise<Content | null> {
  const of = (table: "draft" | "revision") =>
    `select t.body, t.text from ${table} t join document d on d.id = t.document_id where d.team_id = $1 and d.id = $2`;
  const found =
    version === "draft"
      ? await db.query<Content>(of("draft"), [team, document])
      : await db.query<Content>(`${of("revision")} and t.number = $3`, [team, document, version]);
  return found.rows[0] ?? null;
}

export interface Made {
  readonly mission_revision: string;
  readonly robot_revision: string;
  readonly field_revision: string | null;
  readonly core_version: string;
}

interface WholeTrial extends Made {
  readonly id: string;
  readonly source: string;
  readonly seed: string;
  readonly ideal: boolean;
  readonly outcome: string;
  readonly success: boolean;
  readonly score: number | null;
  readonly duration_ms: number;
  readonly summary: unknown;
  readonly note: string;
  readonly tape: unknown;
  readonly tags: string[];
  readonly started_at: Date;
  readonly trace: Buffer | null;
}

/** Oldest first, from `from` on, with their traces. */
export async function trialsInOrder(db: Queryable, team: string, from: number, count: number): Promise<WholeTrial[]> {
  const found = await db.query<WholeTrial>(
    `select t.*, c.data as trace from trial t left join trace c on c.trial_id = t.id
     where t.team_id = $1 order by t.started_at, t.source, t.seed, t.id limit $3 offset $2`,
    [team, from, count],
  );
  return found.rows;
}

interface WholeStudy extends Made {
  readonly seed: string;
  readonly runs: number;
  readonly successes: number;
  readonly summary: unknown;
  readonly created_at: Date;
}

export async function studiesInOrder(db: Queryable, team: string): Promise<WholeStudy[]> {
  const found = await db.query<WholeStudy>("select * from study where team_id = $1 order by created_at, seed, id", [
    team,
  ]);
  return found.rows;
}

interface WholeCalibration {
  readonly robot_id: string;
  readonly quantity: string;
  readonly rows: unknown;
  readonly result: unknown;
  readonly applied_revision: string | null;
  readonly created_at: Date;
}

export async function calibrationsInOrder(db: Queryable, team: string): Promise<WholeCalibration[]> {
  const found = await db.query<WholeCalibration>(
    "select * from calibration where team_id = $1 order by created_at, quantity, id",
    [team],
  );
  return found.rows;
}

export async function assetNames(db: Queryable, team: string): Promise<string[]> {
  const found = await db.query<{ sha256: string }>("select sha256 from asset where team_id = $1 order by sha256", [
    team,
  ]);
  return found.rows.map(({ sha256 }) => sha256);
}

export async function countAll(
  db: Queryable,
  team: string,
): Promise<{ trials: number; studies: number; calibrations: number }> {
  const of = (table: string) => `(select count(*)::int from ${table} where team_id = $1)`;
  const found = await db.query<{ trials: number; studies: number; calibrations: number }>(
    `select ${of("trial")} as trials, ${of("study")} as studies, ${of("calibration")} as calibrations`,
    [team],
  );
  return found.rows[0] ?? { trials: 0, studies: 0, calibrations: 0 };
}

/** Sets times that were kept elsewhere. */
export async function dateDocument(
  db: Queryable,
  team: string,
  id: string,
  madeAt: string,
  archivedAt: string | null,
): Promise<void> {
  await db.query("update document set created_at = $3, archived_at = $4 where team_id = $1 and id = $2", [
    team,
    id,
    madeAt,
    archivedAt,
  ]);
}

export async function dateVersion(db: Queryable, team: string, id: string, madeAt: string): Promise<void> {
  await db.query(
    `update revision set created_at = $3 from document d
     where d.id = revision.document_id and d.team_id = $1 and revision.id = $2`,
    [team, id, madeAt],
  );
}

export async function dateTrial(
  db: Queryable,
  team: string,
  id: string,
  startedAt: string,
  note: string,
  tape: unknown,
  tags: readonly string[],
): Promise<void> {
  await db.query("update trial set started_at = $3, note = $4, tape = $5, tags = $6 where team_id = $1 and id = $2", [
    team,
    id,
    startedAt,
    note,
    tape === null ? null : JSON.stringify(tape),
    tags,
  ]);
}

export async function dateStudy(db: Queryable, team: string, id: string, madeAt: string): Promise<void> {
  await db.query("update study set created_at = $3 where team_id = $1 and id = $2", [team, id, madeAt]);
}

export async function dateCalibration(db: Queryable, team: string, id: string, madeAt: string): Promise<void> {
  await db.query("update calibration set created_at = $3 where team_id = $1 and id = $2", [team, id, madeAt]);
}

/** Which of the team's documents put away has this name and was made then. */
export async function findSameArchived(
  db: Queryable,
  team: string,
  kind: DocumentKind,
  name: string,
  madeAt: string,
): Promise<{ readonly id: string; readonly head_revision: number } | null> {
  const found = await db.query<{ id: string; head_revision: number }>(
    `select id, head_revision from document
     where team_id = $1 and kind = $2 and name = $3 and archived_at is not null and date_trunc('milliseconds', created_at) = $4`,
    [team, kind, name, madeAt],
  );
  return found.rows[0] ?? null;
}

/** Whether a run, or many at once, of these versions with this seed was kept at that moment. */
export async function isKept(
  db: Queryable,
  team: string,
  table: "trial" | "study",
  made: { readonly missionRevision: string; readonly robotRevision: string; readonly seed: number },
  at: string,
): Promise<boolean> {
  const time = table === "trial" ? "started_at" : "created_at";
  const found = await db.query(
    `select 1 from ${table} where team_id = $1 and mission_revision = $2 and robot_revision = $3 and seed = $4 and ${time} = $5`,
    [team, made.missionRevision, made.robotRevision, made.seed, at],
  );
  return found.rowCount !== 0;
}

export async function isCalibrationKept(
  db: Queryable,
  team: string,
  robot: string,
  quantity: string,
  at: string,
): Promise<boolean> {
  const found = await db.query(
    "select 1 from calibration where team_id = $1 and robot_id = $2 and quantity = $3 and created_at = $4",
    [team, robot, quantity, at],
  );
  return found.rowCount !== 0;
}
