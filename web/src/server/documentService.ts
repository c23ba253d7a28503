// What may happen to documents: read, make, save a draft, cut a revision; stale saves get both versions.
import { createHash } from "node:crypto";
import { LONGEST_TEXT, openField, openNotebook, openRobot } from "@giddy-pebble/core";
import { takePicture } from "./assetService.js";
import { inTransaction, type Queryable } from "./database.js";
import {
  type Content,
  collectionTexts,
  type DocumentKind,
  type DocumentRow,
  type DraftRow,
  findDocument,
  findDocumentByName,
  findDraft,
  findRevision,
  insertDocument,
  insertRevision,
  isNameTaken,
  keepMentions,
  lockDocument,
  type Mentions,
  missionsNaming,
  type RevisionRow,
  renameDocument,
  writeDraft,
} from "./repositories/documents.js";

/** Largest robot or field, characters of JSON. */
const LARGEST_DOCUMENT = 2_000_000;

/** No accounts yet: everything is written by the local person. */
const LOCAL_AUTHOR = "local";

export interface OpenDocument {
  readonly document: DocumentRow;
  readonly head: RevisionRow;
  readonly draft: DraftRow | null;
}

export type Outcome<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly why: "missing" }
  | { readonly ok: false; readonly why: "invalid"; readonly problems: readonly string[] }
  | { readonly ok: false; readonly why: "name-taken"; readonly name: string }
  /** It is in use, or not put away yet: a sentence that says where. */
  | { readonly ok: false; readonly why: "in-use"; readonly words: string }
  /** Somebody saved since: what is there now. */
  | { readonly ok: false; readonly why: "stale"; readonly current: OpenDocument };

/** Characters of a document without the bytes of its picture, which are kept apart. */
function sizeOf(body: unknown): number {
  const picture = (body as { picture?: { png?: unknown } }).picture;
  const png = typeof picture?.png === "string" ? picture.png.length : 0;
  return JSON.stringify(body).length - png;
}

/** A field none of whose things would be left out. */
function wholeField(body: unknown): ReturnType<typeof openField> {
  const read = openField(body);
  if (!read.ok || read.leftOut.length === 0) return read;
  return { ok: false, problems: read.leftOut };
}

/** Sentences about content that may not be stored as a document of this kind; empty when it may. */
export function contentProblems(kind: DocumentKind, content: Content): readonly string[] {
  if (kind === "mission" || kind === "collection") {
    if (content.text === null) return [`a ${kind} is stored as text`];
    return content.text.length > LONGEST_TEXT
      ? [`the ${kind} has ${content.text.length} characters; at most ${LONGEST_TEXT} can be stored`]
      : [];
  }
  if (content.body === null) return [`a ${kind} is stored as a JSON body`];
  if (sizeOf(content.body) > LARGEST_DOCUMENT)
    return [`the ${kind} has more than 2 MB; a ${kind} is a list of parts, not pictures`];
  // A robot or a field with faults may be stored: it is opened to be mended.
  const read =
    kind === "robot"
      ? openRobot(content.body)
      : kind === "field"
        ? wholeField(content.body)
        : kind === "notebook"
          ? openNotebook(content.body)
          : null;
  if (!read) return [`a ${kind} cannot be stored yet`];
  return read.ok ? [] : read.problems;
}

/** The same data in the same order: the database gives keys back in an order of its own. */
function canonical(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(canonical);
  if (typeof value !== "object" || value === null) return value;
  const entries = Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1));
  return Object.fromEntries(entries.map(([key, inner]) => [key, canonical(inner)]));
}

export function contentHash(content: Content): string {
  const hash = createHash("sha256").update(content.text ?? JSON.stringify(canonical(content.body)));
  // A mission holds the collections it uses beside its text.
  if (content.text !== null && content.body !== null) hash.update(JSON.stringify(canonical(content.body)));
  return hash.digest("hex");
}

/** A robot as it is stored: read, upgraded, nothing in it that is not its own. A field as it came, its picture kept apart. */
export async function storable(db: Queryable, team: string, kind: DocumentKind, content: Content): Promise<Content> {
  if (kind === "field") {
    const read = openField(content.body);
    if (!read.ok || !read.document.picture?.png) return content;
    const taken = await takePicture(db, team, read.document);
    if (typeof taken === "string") throw new Refused([taken]);
    return { ...content, body: { ...(content.body as object), picture: taken.picture } };
  }
  if (kind !== "robot") return content;
  const read = openRobot(content.body);
  return read.ok ? { ...content, body: read.document } : content;
}

/** Content that turns out within the transaction to be none that can be stored. */
class Refused extends Error {
  constructor(readonly problems: readonly string[]) {
    super(problems.join("; "));
  }
}

/** Names of the collections a mission's text uses. */
function usedIn(text: string): string[] {
  return [...text.matchAll(/^use +"([^"\n]{1,120})"/gm)].map(([, name]) => name as string);
}

/** A mission with the collections it uses as they are now: its revision holds them. */
async function withCollections(db: Queryable, team: string, kind: DocumentKind, content: Content): Promise<Content> {
  const names = kind === "mission" && content.text !== null ? usedIn(content.text) : [];
  if (names.length === 0) return content;
  const collections = Object.fromEntries(await collectionTexts(db, team, names));
  return { ...content, body: { collections } };
}

/** What a mission's text names; null for other kinds. */
function mentionsOf(kind: DocumentKind, content: Content): Mentions | null {
  if (kind !== "mission" || content.text === null) return null;
  const named = (word: string) => new RegExp(`^${word} +"([^"\\n]*)"`, "m").exec(content.text ?? "")?.[1] ?? null;
  return {
    robot: named("robot"),
    field: named("field"),
    remote: /^remote[ \r]*$/m.test(content.text),
    collections: usedIn(content.text),
  };
}

export async function mention(
  db: Queryable,
  team: string,
  document: Pick<DocumentRow, "id" | "kind">,
  content: Content,
): Promise<void> {
  const mentions = mentionsOf(document.kind, content);
  if (mentions) await keepMentions(db, team, document.id, mentions);
}

/** A robot's or field's name is in its body; the document follows it when a revision is cut. */
function bodyName(kind: DocumentKind, content: Content): string | null {
  const name =
    kind === "robot" || kind === "field" || kind === "notebook" ? (content.body as { name?: unknown }).name : null;
  return typeof name === "string" ? name : null;
}

async function open(db: Queryable, team: string, document: DocumentRow): Promise<OpenDocument> {
  const head = await findRevision(db, team, document.id, document.head_revision);
  if (!head) throw new Error(`document ${document.id} has no version ${document.head_revision}`);
  return { document, head, draft: await findDraft(db, team, document.id, LOCAL_AUTHOR) };
}

/** A document that was just written, as it is now. */
async function openFresh(db: Queryable, team: string, id: string): Promise<OpenDocument> {
  const found = await openDocument(db, team, id);
  if (!found) throw new Error(`document ${id} is gone within its own transaction`);
  return found;
}

export async function openDocument(db: Queryable, team: string, id: string): Promise<OpenDocument | null> {
  const document = await findDocument(db, team, id);
  return document ? open(db, team, document) : null;
}

/** A transaction that gives a name: of two at once, the database lets one through, and the other is told. */
export async function namingOnce<T>(name: string, work: (db: Queryable) => Promise<Outcome<T>>): Promise<Outcome<T>> {
  try {
    return await inTransaction(work);
  } catch (error) {
    if (isNameTaken(error)) return { ok: false, why: "name-taken", name };
    if (error instanceof Refused) return { ok: false, why: "invalid", problems: error.problems };
    throw error;
  }
}

interface Creation {
  readonly kind: DocumentKind;
  readonly name: string;
  readonly content: Content;
  readonly reason: string;
}

export async function createDocument(team: string, creation: Creation): Promise<Outcome<OpenDocument>> {
  const { kind, name, reason } = creation;
  const problems = contentProblems(kind, creation.content);
  if (problems.length > 0) return { ok: false, why: "invalid", problems };
  return namingOnce(name, async (db) => {
    const content = await storable(db, team, kind, creation.content);
    if (await findDocumentByName(db, team, kind, name)) return { ok: false, why: "name-taken", name };
    const document = await insertDocument(db, team, kind, name);
    await insertRevision(db, team, document.id, {
      ...content,
      number: 1,
      parent: null,
      name: null,
      reason,
      author: LOCAL_AUTHOR,
      contentHash: contentHash(content),
    });
    await mention(db, team, document, content);
    return { ok: true, value: await openFresh(db, team, document.id) };
  });
}

/** Kinds that missions name, and the word they do it with. */
export type Followed = "robot" | "field" | "collection";
const HEADER_WORD: Readonly<Record<Followed, string>> = { robot: "robot", field: "field", collection: "use" };

/** @returns what gives a mission's text the new name wherever it names the old one */
export function renamedHeader(kind: Followed, before: string, after: string): (text: string) => string {
  const header = new RegExp(`^(${HEADER_WORD[kind]} +")([^"\\n]*)(")`, "gm");
  return (text) => text.replace(header, (line, start, name, end) => (name === before ? start + after + end : line));
}

/**
 * Missions that name a robot, field or collection by its old name name it by its new one: their drafts, and a revision of each whose newest
 * one does, so that what runs next finds it. What is being typed stays what it is but for the name.
 */
export async function followRename(
  db: Queryable,
  team: string,
  kind: Followed,
  before: string,
  after: string,
): Promise<void> {
  const renamed = renamedHeader(kind, before, after);
  for (const mission of await missionsNaming(db, team, kind, before, "held")) {
    const { head, draft } = await open(db, team, mission);
    const cut = renamed(head.text ?? "");
    const typed = renamed(draft?.text ?? head.text ?? "");
    let number = mission.head_revision;
    if (cut !== head.text) {
      number += 1;
      const content = await withCollections(db, team, "mission", { text: cut, body: null });
      await insertRevision(db, team, mission.id, {
        ...content,
        number,
        parent: number - 1,
        name: null,
        reason: `its ${kind} is now called ${after}`,
        author: LOCAL_AUTHOR,
        contentHash: contentHash(content),
      });
    }
    const content = { text: typed, body: null };
    await writeDraft(db, team, mission.id, LOCAL_AUTHOR, number, (draft?.version ?? 0) + 1, content);
    await mention(db, team, mission, content);
  }
}

interface DraftSave {
  readonly content: Content;
  readonly baseRevision: number;
  /** Version of the draft this one was typed over; 0 when there was none. */
  readonly overVersion: number;
}

/** Saves what is being typed. Drafts are kept even when a mission in them has problems. */
export async function saveDraft(team: string, id: string, save: DraftSave): Promise<Outcome<DraftRow>> {
  return namingOnce("", async (db) => {
    const document = await lockDocument(db, team, id);
    if (!document) return { ok: false, why: "missing" };
    const problems = contentProblems(document.kind, save.content);
    if (problems.length > 0) return { ok: false, why: "invalid", problems };
    const content = await storable(db, team, document.kind, save.content);
    const draft = await findDraft(db, team, id, LOCAL_AUTHOR);
    const stale = (draft?.version ?? 0) !== save.overVersion || save.baseRevision !== document.head_revision;
    const same =
      draft !== null && contentHash(draft) === contentHash(content) && draft.base_revision === save.baseRevision;
    if (same) return { ok: true, value: draft };
    if (stale) return { ok: false, why: "stale", current: await open(db, team, document) };
    await mention(db, team, document, content);
    return {
      ok: true,
      value: await writeDraft(db, team, id, LOCAL_AUTHOR, save.baseRevision, save.overVersion + 1, content),
    };
  });
}

interface RevisionCut extends DraftSave {
  readonly reason: string;
  readonly name: string | null;
}

/**
 * Cuts a revision, or returns the head when nothing changed since it. The draft then starts from the new
 * head, so that another window that still types over the old one is told.
 */
export async function cutRevision(team: string, id: string, cut: RevisionCut): Promise<Outcome<OpenDocument>> {
  const wished = cut.content.body === null ? null : bodyName("robot", cut.content);
  return namingOnce(wished ?? "", async (db) => {
    const document = await lockDocument(db, team, id);
    if (!document) return { ok: false, why: "missing" };
    const problems = contentProblems(document.kind, cut.content);
    if (problems.length > 0) return { ok: false, why: "invalid", problems };
    const current = await open(db, team, document);
    const content = await withCollections(
      db,
      team,
      document.kind,
      await storable(db, team, document.kind, cut.content),
    );
    const hash = contentHash(content);
    const version = current.draft?.version ?? 0;
    if (hash === current.head.content_hash && cut.name === null && version === cut.overVersion)
      return { ok: true, value: current };
    if (cut.baseRevision !== document.head_revision || version !== cut.overVersion)
      return { ok: false, why: "stale", current };
    const renamed = bodyName(document.kind, content) ?? document.name;
    if (renamed !== document.name) {
      if (await findDocumentByName(db, team, document.kind, renamed))
        return { ok: false, why: "name-taken", name: renamed };
      await renameDocument(db, team, id, renamed);
      if (document.kind === "robot" || document.kind === "field")
        await followRename(db, team, document.kind, document.name, renamed);
    }
    const number = document.head_revision + 1;
    await insertRevision(db, team, id, {
      ...content,
      number,
      parent: document.head_revision,
      name: cut.name,
      reason: cut.reason,
      author: LOCAL_AUTHOR,
      contentHash: hash,
    });
    await writeDraft(db, team, id, LOCAL_AUTHOR, number, version + 1, content);
    await mention(db, team, document, content);
    return { ok: true, value: await openFresh(db, team, id) };
  });
}
