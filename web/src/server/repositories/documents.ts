// Documents, their revisions and drafts: one function per query, rows parsed at the edge.
import { z } from "zod";
import type { Queryable } from "../database.js";

export const documentKind = z.enum(["robot", "field", "mission", "collection", "controls", "notebook"]);
export type DocumentKind = z.infer<typeof documentKind>;

const documentRow = z.object({
  id: z.uuid(),
  kind: documentKind,
  name: z.string(),
  head_revision: z.number().int(),
  created_at: z.date(),
  /** Of missions: the robot and field the text names, and whether it hands over to a driver. */
  names_robot: z.string().nullable(),
  names_field: z.string().nullable(),
  has_remote: z.boolean(),
  names_collections: z.array(z.string()),
  archived_at: z.date().nullable(),
});
export type DocumentRow = z.infer<typeof documentRow>;

const revisionRow = z.object({
  id: z.uuid(),
  document_id: z.uuid(),
  number: z.number().int(),
  parent: z.number().int().nullable(),
  body: z.unknown(),
  text: z.string().nullable(),
  name: z.string().nullable(),
  reason: z.string(),
  author: z.string(),
  content_hash: z.string(),
  created_at: z.date(),
});
export type RevisionRow = z.infer<typeof revisionRow>;

const listedRevision = revisionRow.omit({ body: true, text: true });
export type ListedRevision = z.infer<typeof listedRevision>;

const draftRow = z.object({
  document_id: z.uuid(),
  author: z.string(),
  base_revision: z.number().int(),
  version: z.number().int(),
  body: z.unknown(),
  text: z.string().nullable(),
  updated_at: z.date(),
});
export type DraftRow = z.infer<typeof draftRow>;

/** What a revision or a draft holds: structured data, or text. */
export interface Content {
  readonly body: unknown;
  readonly text: string | null;
}

const DOCUMENT =
  "id, kind, name, head_revision, created_at, names_robot, names_field, names_collections, has_remote, archived_at";
/** What a list of revisions shows: neither text nor body. */
const LISTED = "id, document_id, number, parent, name, reason, author, content_hash, created_at";
const REVISION = "id, document_id, number, parent, body, text, name, reason, author, content_hash, created_at";
const DRAFT = "document_id, author, base_revision, version, body, text, updated_at";

const listedDocument = documentRow.extend({ changed_at: z.date() });
export type ListedDocument = z.infer<typeof listedDocument>;

/** In the order they were made, each with when it was changed last. @param archived - those put away instead of those in use */
export async function listDocuments(
  db: Queryable,
  team: string,
  kind: DocumentKind | null,
  archived = false,
): Promise<ListedDocument[]> {
  const found = await db.query(
    `select ${DOCUMENT}, date_trunc('milliseconds', greatest(created_at,
       (select created_at from revision r where r.document_id = document.id and r.number = document.head_revision),
       (select max(updated_at) from draft w where w.document_id = document.id))) as changed_at
     from document
     where team_id = $1 and (archived_at is not null) = $3 and ($2::text is null or kind = $2) order by kind, created_at, id`,
    [team, kind, archived],
  );
  return found.rows.map((row) => listedDocument.parse(row));
}

/** How many documents of each kind there are. */
export async function countDocuments(db: Queryable, team: string): Promise<Partial<Record<DocumentKind, number>>> {
  const found = await db.query<{ kind: DocumentKind; count: number }>(
    "select kind, count(*)::int as count from document where team_id = $1 and archived_at is null group by kind",
    [team],
  );
  return Object.fromEntries(found.rows.map(({ kind, count }) => [kind, count]));
}

export async function findDocument(db: Queryable, team: string, id: string): Promise<DocumentRow | null> {
  const found = await db.query(
    `select ${DOCUMENT} from document where team_id = $1 and id = $2 and archived_at is null`,
    [team, id],
  );
  return found.rows[0] ? documentRow.parse(found.rows[0]) : null;
}

/** The same, holding the row until the transaction ends, so that numbers are given out one at a time. */
export async function lockDocument(db: Queryable, team: string, id: string): Promise<DocumentRow | null> {
  const found = await db.query(
    `select ${DOCUMENT} from document where team_id = $1 and id = $2 and archived_at is null for update`,
    [team, id],
  );
  return found.rows[0] ? documentRow.parse(found.rows[0]) : null;
}

export async function findDocumentByName(
  db: Queryable,
  team: string,
  kind: DocumentKind,
  name: string,
): Promise<DocumentRow | null> {
  const found = await db.query(
    `select ${DOCUMENT} from document where team_id = $1 and kind = $2 and name = $3 and archived_at is null`,
    [team, kind, name],
  );
  return found.rows[0] ? documentRow.parse(found.rows[0]) : null;
}

export async function insertDocument(
  db: Queryable,
  team: string,
  kind: DocumentKind,
  name: string,
): Promise<DocumentRow> {
  const made = await db.query(`insert into document (team_id, kind, name) values ($1, $2, $3) returning ${DOCUMENT}`, [
    team,
    kind,
    name,
  ]);
  return documentRow.parse(made.rows[0]);
}

/** Whether the database refused a name that another active document has. Source: PostgreSQL's code of a unique violation. */
export function isNameTaken(error: unknown): boolean {
  const { code, constraint } = error as { code?: unknown; constraint?: unknown };
  return code === "23505" && constraint === "document_active_name";
}

/** What a mission's text names, kept for lists. */
export interface Mentions {
  readonly robot: string | null;
  readonly field: string | null;
  readonly remote: boolean;
  /** Collections it uses. */
  readonly collections: readonly string[];
}

export async function keepMentions(db: Queryable, team: string, documentId: string, mentions: Mentions): Promise<void> {
  await db.query(
    `update document set names_robot = $2, names_field = $3, has_remote = $4, names_collections = $5
     where id = $1 and team_id = $6
       and (names_robot, names_field, has_remote, names_collections)
         is distinct from ($2::text, $3::text, $4::boolean, $5::text[])`,
    [documentId, mentions.robot, mentions.field, mentions.remote, mentions.collections, team],
  );
}

/** Missions in use whose text names it: $2 is the name, $3 the kind. */
const NAMING = `team_id = $1 and kind = 'mission' and archived_at is null
  and case $3 when 'robot' then names_robot = $2 when 'field' then names_field = $2 else $2 = any(names_collections) end`;

/** Missions whose text names a robot, field or collection, oldest first. @param hold - until the transaction ends */
export async function missionsNaming(
  db: Queryable,
  team: string,
  kind: string,
  name: string,
  hold: "held" | "free",
): Promise<DocumentRow[]> {
  const found = await db.query(
    `select ${DOCUMENT} from document where ${NAMING} order by created_at, id ${hold === "held" ? "for update" : ""}`,
    [team, name, kind],
  );
  return found.rows.map((row) => documentRow.parse(row));
}

/** Texts of the team's collections by name: the draft of each where there is one. */
export async function collectionTexts(
  db: Queryable,
  team: string,
  names: readonly string[],
): Promise<ReadonlyMap<string, { readonly number: number; readonly text: string }>> {
  const found = await db.query<{ name: string; number: number; text: string | null }>(
    `select d.name, d.head_revision as number, coalesce(w.text, r.text) as text
     from document d
     join revision r on r.document_id = d.id and r.number = d.head_revision
     left join draft w on w.document_id = d.id
     where d.team_id = $1 and d.kind = 'collection' and d.archived_at is null and d.name = any($2)`,
    [team, names],
  );
  return new Map(found.rows.flatMap(({ name, number, text }) => (text === null ? [] : [[name, { number, text }]])));
}

export async function renameDocument(db: Queryable, team: string, documentId: string, name: string): Promise<void> {
  await db.query("update document set name = $3 where team_id = $1 and id = $2", [team, documentId, name]);
}

interface NewRevision extends Content {
  readonly number: number;
  readonly parent: number | null;
  readonly name: string | null;
  readonly reason: string;
  readonly author: string;
  readonly contentHash: string;
}

/** Adds a revision and makes it the head. @throws Error when the team has no such document */
export async function insertRevision(
  db: Queryable,
  team: string,
  documentId: string,
  revision: NewRevision,
): Promise<RevisionRow> {
  const { number, parent, body, text, name, reason, author, contentHash } = revision;
  const made = await db.query(
    `insert into revision (document_id, number, parent, body, text, name, reason, author, content_hash)
     select id, $3, $4, $5, $6, $7, $8, $9, $10 from document where team_id = $1 and id = $2 returning ${REVISION}`,
    [
      team,
      documentId,
      number,
      parent,
      body === null ? null : JSON.stringify(body),
      text,
      name,
      reason,
      author,
      contentHash,
    ],
  );
  await db.query("update document set head_revision = $3 where team_id = $1 and id = $2", [team, documentId, number]);
  return revisionRow.parse(made.rows[0]);
}

export async function findRevision(
  db: Queryable,
  team: string,
  documentId: string,
  number: number,
): Promise<RevisionRow | null> {
  const columns = REVISION.split(", ")
    .map((column) => `r.${column}`)
    .join(", ");
  const found = await db.query(
    `select ${columns} from revision r join document d on d.id = r.document_id where d.team_id = $1 and r.document_id = $2 and r.number = $3`,
    [team, documentId, number],
  );
  return found.rows[0] ? revisionRow.parse(found.rows[0]) : null;
}

/** Whether a revision with this id belongs to the team and to a document of this kind. */
export async function ownsRevision(
  db: Queryable,
  team: string,
  kind: DocumentKind,
  revisionId: string,
): Promise<boolean> {
  const found = await db.query(
    "select 1 from revision r join document d on d.id = r.document_id where d.team_id = $1 and d.kind = $2 and r.id = $3",
    [team, kind, revisionId],
  );
  return found.rowCount === 1;
}

/** Newest first, without texts and bodies; `before` is the number to go on from. */
export async function listRevisions(
  db: Queryable,
  team: string,
  documentId: string,
  before: number | null,
  limit: number,
): Promise<ListedRevision[]> {
  const columns = LISTED.split(", ")
    .map((column) => `r.${column}`)
    .join(", ");
  const found = await db.query(
    `select ${columns} from revision r join document d on d.id = r.document_id
     where d.team_id = $1 and r.document_id = $2 and ($3::int is null or r.number < $3) order by r.number desc limit $4`,
    [team, documentId, before, limit],
  );
  return found.rows.map((row) => listedRevision.parse(row));
}

export async function findDraft(
  db: Queryable,
  team: string,
  documentId: string,
  author: string,
): Promise<DraftRow | null> {
  const columns = DRAFT.split(", ")
    .map((column) => `w.${column}`)
    .join(", ");
  const found = await db.query(
    `select ${columns} from draft w join document d on d.id = w.document_id where d.team_id = $1 and w.document_id = $2 and w.author = $3`,
    [team, documentId, author],
  );
  return found.rows[0] ? draftRow.parse(found.rows[0]) : null;
}

/** Writes the draft; the caller has compared versions under the document's lock. */
export async function writeDraft(
  db: Queryable,
  team: string,
  documentId: string,
  author: string,
  baseRevision: number,
  version: number,
  content: Content,
): Promise<DraftRow> {
  const written = await db.query(
    `insert into draft (document_id, author, base_revision, version, body, text)
     select id, $3, $4, $5, $6, $7 from document where team_id = $1 and id = $2
     on conflict on constraint draft_pkey do update
       set base_revision = excluded.base_revision, version = excluded.version, body = excluded.body, text = excluded.text, updated_at = now()
     returning ${DRAFT}`,
    [
      team,
      documentId,
      author,
      baseRevision,
      version,
      content.body === null ? null : JSON.stringify(content.body),
      content.text,
    ],
  );
  return draftRow.parse(written.rows[0]);
}
