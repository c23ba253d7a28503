// The life of documents: another name, a copy, put away and brought back, deleted for good, and where each is used.
import { pool, type Queryable } from "./database.js";
import {
  createDocument,
  cutRevision,
  type Followed,
  followRename,
  namingOnce,
  type OpenDocument,
  type Outcome,
  openDocument,
} from "./documentService.js";
import {
  type Content,
  type DocumentKind,
  findDocumentByName,
  lockDocument,
  missionsNaming,
  renameDocument,
} from "./repositories/documents.js";
import {
  countKeptUses,
  deleteForGood,
  findArchived,
  isInUse,
  type KeptUses,
  setArchived,
} from "./repositories/life.js";

/** Where a document is used. */
export interface Uses extends KeptUses {
  /** Missions whose text names it. */
  readonly missions: readonly { readonly id: string; readonly name: string }[];
}

function isFollowed(kind: DocumentKind): kind is Followed {
  return kind === "robot" || kind === "field" || kind === "collection";
}

/** Robots, fields and notebooks have their name within them. */
function holdsName(kind: DocumentKind): boolean {
  return kind === "robot" || kind === "field" || kind === "notebook";
}

/** What is on the screen: the draft where there is one. */
function present({ draft, head }: OpenDocument): Content {
  const { body, text } = draft ?? head;
  return { body: body ?? null, text };
}

function named(kind: DocumentKind, content: Content, name: string): Content {
  return holdsName(kind) ? { ...content, body: { ...(content.body as object), name } } : content;
}

/** Gives a document another name. What names it follows: missions by their text, robots and fields by a version. */
export async function rename(team: string, id: string, name: string): Promise<Outcome<OpenDocument>> {
  const open = await openDocument(pool(), team, id);
  if (!open) return { ok: false, why: "missing" };
  const { document, draft } = open;
  if (document.name === name) return { ok: true, value: open };
  if (holdsName(document.kind))
    return cutRevision(team, id, {
      content: named(document.kind, present(open), name),
      baseRevision: document.head_revision,
      overVersion: draft?.version ?? 0,
      reason: `renamed from ${document.name} to ${name}`,
      name: null,
    });
  return namingOnce(name, async (db) => {
    const locked = await lockDocument(db, team, id);
    if (!locked) return { ok: false, why: "missing" };
    if (await findDocumentByName(db, team, locked.kind, name)) return { ok: false, why: "name-taken", name };
    await renameDocument(db, team, id, name);
    if (isFollowed(locked.kind)) await followRename(db, team, locked.kind, locked.name, name);
    const now = await openDocument(db, team, id);
    return now ? { ok: true, value: now } : { ok: false, why: "missing" };
  });
}

/** A document of its own with what this one holds now. */
export async function duplicate(team: string, id: string, name: string): Promise<Outcome<OpenDocument>> {
  const open = await openDocument(pool(), team, id);
  if (!open) return { ok: false, why: "missing" };
  const { kind, name: from, head_revision: version } = open.document;
  return createDocument(team, {
    kind,
    name,
    content: named(kind, present(open), name),
    reason: `copy of ${from}, version ${version}`,
  });
}

/** Puts a document away: it is in no list, and everything made with it stays. */
export async function archive(team: string, id: string): Promise<Outcome<null>> {
  return (await setArchived(pool(), team, id, true)) ? { ok: true, value: null } : { ok: false, why: "missing" };
}

/** Takes a document back into use, unless another has its name by now. */
export async function bringBack(team: string, id: string): Promise<Outcome<OpenDocument>> {
  return namingOnce("", async (db) => {
    const away = await findArchived(db, team, id);
    if (!away) return { ok: false, why: "missing" };
    if (await findDocumentByName(db, team, away.kind, away.name))
      return { ok: false, why: "name-taken", name: away.name };
    await setArchived(db, team, id, false);
    const open = await openDocument(db, team, id);
    return open ? { ok: true, value: open } : { ok: false, why: "missing" };
  });
}

async function usesNow(
  db: Queryable,
  team: string,
  document: { id: string; kind: DocumentKind; name: string },
): Promise<Uses> {
  const missions = isFollowed(document.kind)
    ? await missionsNaming(db, team, document.kind, document.name, "free")
    : [];
  return {
    missions: missions.map(({ id, name }) => ({ id, name })),
    ...(await countKeptUses(db, team, document.id)),
  };
}

/** @returns where a document is used, in use or put away; null when there is none */
export async function usesOf(team: string, id: string): Promise<Uses | null> {
  const open = await openDocument(pool(), team, id);
  if (open) return usesNow(pool(), team, open.document);
  const away = await findArchived(pool(), team, id);
  return away ? usesNow(pool(), team, away) : null;
}

const count = (n: number, one: string, many: string) => (n === 0 ? [] : [`${n} ${n === 1 ? one : many}`]);

/** "2 missions, 14 runs"; "" when nothing uses it. */
export function usesWords({ missions, trials, studies, calibrations }: Uses): string {
  return [
    ...count(missions.length, "mission", "missions"),
    ...count(trials, "run", "runs"),
    ...count(studies, "study", "studies"),
    ...count(calibrations, "calibration", "calibrations"),
  ].join(", ");
}

/**
 * Deletes for good what was put away.
 * @param insist - also when runs were made with it: they go with it
 */
export async function remove(team: string, id: string, insist: boolean): Promise<Outcome<null>> {
  return namingOnce("", async (db) => {
    const away = await findArchived(db, team, id);
    if (!away) {
      if (!(await isInUse(db, team, id))) return { ok: false, why: "missing" };
      return {
        ok: false,
        why: "in-use",
        words: "It is still in use. Archive it first; then it can be deleted for good.",
      };
    }
    const uses = await usesNow(db, team, away);
    const words = usesWords(uses);
    if (words !== "" && !insist)
      return {
        ok: false,
        why: "in-use",
        words: `${away.name} is used by ${words}. Deleting it for good deletes its runs, studies and calibrations too.`,
      };
    await deleteForGood(db, team, id);
    return { ok: true, value: null };
  });
}
