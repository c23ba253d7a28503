// A project file taken into this installation: everything or nothing. What has the name of something that is here
// already, and is not the same, gets another name, and what names it follows.
import { LARGEST_TRACE, PLAIN, TRACE_FORMAT } from "@giddy-pebble/core";
import type { z } from "zod";
import { assetProblem, photoProblem } from "../assetService.js";
import { inTransaction, type Queryable } from "../database.js";
import { contentHash, contentProblems, mention, renamedHeader, storable } from "../documentService.js";
import { keepAsset } from "../repositories/assets.js";
import { insertCalibration } from "../repositories/calibrations.js";
import {
  type Content,
  findDocumentByName,
  findRevision,
  insertDocument,
  insertRevision,
  writeDraft,
} from "../repositories/documents.js";
import {
  dateCalibration,
  dateDocument,
  dateStudy,
  dateTrial,
  dateVersion,
  findSameArchived,
  isCalibrationKept,
  isKept,
} from "../repositories/project.js";
import { insertStudy } from "../repositories/studies.js";
import { insertTrace, insertTrial } from "../repositories/trials.js";
import { packedFault } from "../trialService.js";
import {
  calibrationSchema,
  type DocumentEntry,
  fileOf,
  INDEX,
  indexSchema,
  isText,
  PROJECT_FORMAT,
  PROJECT_VERSION,
  studySchema,
  trialSchema,
} from "./format.js";
import { type Unpacked, unpack } from "./unpacking.js";

export interface Taken {
  readonly documents: number;
  /** Those that were here already, word for word. */
  readonly same: number;
  readonly trials: number;
  readonly studies: number;
  readonly calibrations: number;
  /** "Drizzle is now Drizzle 2", for each that got another name. */
  readonly renamed: readonly string[];
}

export type Import = { readonly ok: true; readonly taken: Taken } | { readonly ok: false; readonly problem: string };

/** Why a project is not taken. */
class NotTaken extends Error {}

const KEPT_NAMES =
  /^(project\.json|[a-z]+s\/[^/]+\.(json|cairn)|versions\/.+|trials\/.+|studies\/.+|calibrations\/.+|pictures\/.+)$/;

function textOf(files: ReadonlyMap<string, Uint8Array>, name: string): string {
  const bytes = files.get(name);
  if (!bytes) throw new NotTaken(`${name} is missing in it`);
  try {
    const text = new TextDecoder("utf-8", { fatal: true }).decode(bytes);
    if (text.includes("\0")) throw new Error("a zero byte");
    return text;
  } catch {
    throw new NotTaken(`${name} in it is not text`);
  }
}

function jsonOf(files: ReadonlyMap<string, Uint8Array>, name: string): unknown {
  const text = textOf(files, name);
  // What a database cannot hold as JSON.
  if (/\\u0000/i.test(text)) throw new NotTaken(`${name} in it holds a character that cannot be stored`);
  try {
    return JSON.parse(text);
  } catch {
    throw new NotTaken(`${name} in it is not sound JSON`);
  }
}

function entryOf<T>(files: ReadonlyMap<string, Uint8Array>, name: string, schema: z.ZodType<T>): T {
  const read = schema.safeParse(jsonOf(files, name), PLAIN);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  throw new NotTaken(
    `${name} in it is not as it should be: ${issue?.path.slice(0, 6).join(".") || "file"}: ${issue?.message.slice(0, 160)}`,
  );
}

/** The index, or what it is instead. */
function indexOf(files: ReadonlyMap<string, Uint8Array>) {
  if (!files.has(INDEX)) throw new NotTaken("it is not a project of Giddy Pebble: it holds no project.json");
  const value = jsonOf(files, INDEX) as { format?: unknown; version?: unknown } | null;
  if (value?.format !== PROJECT_FORMAT) throw new NotTaken("its project.json is not one of Giddy Pebble");
  if (typeof value.version === "number" && value.version > PROJECT_VERSION)
    throw new NotTaken(
      `it has version ${value.version}, and this program knows versions up to ${PROJECT_VERSION}. Use a newer Giddy Pebble`,
    );
  return entryOf(files, INDEX, indexSchema);
}

/** The content of one version, or of what is on the screen. */
function contentFrom(
  files: ReadonlyMap<string, Uint8Array>,
  entry: DocumentEntry,
  version: number | "present",
): Content {
  const name = version === "present" ? fileOf.present(entry) : fileOf.version(entry, version);
  if (!isText(entry.kind)) return { text: null, body: jsonOf(files, name) };
  const used = version === "present" ? null : fileOf.collections(entry, version);
  return { text: textOf(files, name), body: used !== null && files.has(used) ? jsonOf(files, used) : null };
}

/** New names by kind and old name. */
type Renamed = ReadonlyMap<string, string>;
const keyOf = (kind: string, name: string) => `${kind}/${name}`;

function renamedContent(entry: DocumentEntry, content: Content, renamed: Renamed): Content {
  const own = renamed.get(keyOf(entry.kind, entry.name));
  if (entry.kind === "mission" && content.text !== null) {
    let { text } = content;
    for (const [key, name] of renamed) {
      const [kind = "", ...before] = key.split("/");
      if (kind === "robot" || kind === "field" || kind === "collection")
        text = renamedHeader(kind, before.join("/"), name)(text);
    }
    return { ...content, text };
  }
  if (own === undefined || isText(entry.kind)) return content;
  return { ...content, body: { ...(content.body as object), name: own } };
}

async function freeName(
  db: Queryable,
  team: string,
  entry: DocumentEntry,
  taken: ReadonlySet<string>,
): Promise<string> {
  for (let n = 2; ; n += 1) {
    const name = `${entry.name.slice(0, 110)} ${n}`;
    if (!taken.has(keyOf(entry.kind, name)) && !(await findDocumentByName(db, team, entry.kind, name))) return name;
  }
}

/** Ids of versions by document and number, of what was taken or was here already. */
type Places = Map<string, string>;
const placeOf = (path: string, version: number) => `${path}@${version}`;

interface Work {
  readonly db: Queryable;
  readonly team: string;
  readonly files: ReadonlyMap<string, Uint8Array>;
  readonly places: Places;
  readonly documents: Map<string, string>;
}

/** Whether the document that is here holds the same, version by version. */
async function isSame(work: Work, entry: DocumentEntry, id: string, head: number): Promise<boolean> {
  if (head !== entry.head) return false;
  for (const { number } of entry.versions) {
    const here = await findRevision(work.db, work.team, id, number);
    if (!here || here.content_hash !== contentHash(await storedAs(work, entry, contentFrom(work.files, entry, number))))
      return false;
  }
  return true;
}

async function storedAs({ db, team }: Work, entry: DocumentEntry, content: Content): Promise<Content> {
  const problems = contentProblems(entry.kind, content);
  if (problems.length > 0) throw new NotTaken(`${entry.path} in it cannot be read: ${problems[0]}`);
  return storable(db, team, entry.kind, content);
}

async function takeDocument(work: Work, entry: DocumentEntry, name: string, renamed: Renamed): Promise<void> {
  const { db, team, files, places, documents } = work;
  const { id } = await insertDocument(db, team, entry.kind, name);
  documents.set(entry.path, id);
  let latest: Content | null = null;
  for (const { number, parent, name: label, reason, author, madeAt } of entry.versions) {
    const content = await storedAs(work, entry, renamedContent(entry, contentFrom(files, entry, number), renamed));
    const made = await insertRevision(db, team, id, {
      ...content,
      number,
      parent,
      name: label,
      reason,
      author,
      contentHash: contentHash(content),
    });
    await dateVersion(db, team, made.id, madeAt);
    places.set(placeOf(entry.path, number), made.id);
    latest = content;
  }
  if (entry.draftOver !== null) {
    const draft = await storedAs(work, entry, renamedContent(entry, contentFrom(files, entry, "present"), renamed));
    await writeDraft(db, team, id, "local", entry.draftOver, 1, draft);
    latest = draft;
  }
  if (latest) await mention(db, team, { id, kind: entry.kind }, latest);
  // Put away last: its name is free again only then.
  await dateDocument(db, team, id, entry.madeAt, entry.archivedAt);
}

function madeWith({ places }: Work, made: { mission: Where; robot: Where; field: Where | null; coreVersion: string }) {
  const find = ({ document, version }: Where) => {
    const id = places.get(placeOf(document, version));
    if (!id) throw new NotTaken(`a run in it names ${document}, version ${version}, which it does not hold`);
    return id;
  };
  return {
    missionRevision: find(made.mission),
    robotRevision: find(made.robot),
    fieldRevision: made.field === null ? null : find(made.field),
    coreVersion: made.coreVersion,
  };
}
interface Where {
  readonly document: string;
  readonly version: number;
}

/** Each taker says whether it took something: what is here already stays as it is. */
async function takeTrial(work: Work, i: number): Promise<boolean> {
  const { db, team, files } = work;
  const trial = entryOf(files, fileOf.trial(i), trialSchema);
  const made = madeWith(work, trial);
  if (await isKept(db, team, "trial", { ...made, seed: trial.seed }, trial.startedAt)) return false;
  const id = await insertTrial(db, team, { ...trial, ...made });
  if (trial.trace) {
    const trace = files.get(fileOf.trace(i));
    if (!trace || trace.length > LARGEST_TRACE)
      throw new NotTaken(`${fileOf.trace(i)} is missing in it, or is too large`);
    const fault = await packedFault(trace);
    if (fault !== null) throw new NotTaken(`${fileOf.trace(i)} in it cannot be read: ${fault}`);
    await insertTrace(db, team, id, TRACE_FORMAT, trace);
  }
  await dateTrial(db, team, id, trial.startedAt, trial.note, trial.tape, trial.tags);
  return true;
}

async function takeStudy(work: Work, i: number): Promise<boolean> {
  const { db, team, files } = work;
  const study = entryOf(files, fileOf.study(i), studySchema);
  const made = madeWith(work, study);
  if (await isKept(db, team, "study", { ...made, seed: study.seed }, study.madeAt)) return false;
  await dateStudy(db, team, await insertStudy(db, team, { ...study, ...made }), study.madeAt);
  return true;
}

async function takeCalibration(work: Work, i: number): Promise<boolean> {
  const { db, team, files, places, documents } = work;
  const one = entryOf(files, fileOf.calibration(i), calibrationSchema);
  const robot = documents.get(one.robot);
  if (!robot) throw new NotTaken(`${fileOf.calibration(i)} in it names a robot that it does not hold`);
  if (await isCalibrationKept(db, team, robot, one.quantity, one.madeAt)) return false;
  const id = await insertCalibration(db, team, {
    robot,
    quantity: one.quantity,
    rows: one.rows,
    result: one.result,
    appliedRevision: one.appliedVersion === null ? null : (places.get(placeOf(one.robot, one.appliedVersion)) ?? null),
  });
  if (id === null) throw new NotTaken(`${fileOf.calibration(i)} in it is not of a robot`);
  await dateCalibration(db, team, id, one.madeAt);
  return true;
}

async function takeEach(count: number, take: (i: number) => Promise<boolean>): Promise<number> {
  let taken = 0;
  for (let i = 1; i <= count; i += 1) if (await take(i)) taken += 1;
  return taken;
}

async function takeAll(db: Queryable, team: string, files: ReadonlyMap<string, Uint8Array>): Promise<Taken> {
  const index = indexOf(files);
  const work: Work = { db, team, files, places: new Map(), documents: new Map() };
  for (const [name, bytes] of files) {
    const [, sha256, kind] = /^pictures\/([0-9a-f]{64})\.(png|jpg)$/.exec(name) ?? [];
    if (!sha256) continue;
    const trouble = kind === "png" ? assetProblem(sha256, bytes) : photoProblem(sha256, bytes);
    if (trouble !== null) throw new NotTaken(`${name} in it cannot be taken. ${trouble}`);
    await keepAsset(db, team, sha256, Buffer.from(bytes), kind === "png" ? "image/png" : "image/jpeg");
  }
  const renamed = new Map<string, string>();
  const own = new Set(
    index.documents.filter(({ archivedAt }) => archivedAt === null).map(({ kind, name }) => keyOf(kind, name)),
  );
  const wanted: DocumentEntry[] = [];
  let same = 0;
  for (const entry of index.documents) {
    const numbers = entry.versions.map(({ number }) => number);
    if (!numbers.every((number, i) => number === i + 1) || numbers.length !== entry.head)
      throw new NotTaken(`the versions of ${entry.path} in it do not count from 1 to ${entry.head}`);
    const here =
      entry.archivedAt === null
        ? await findDocumentByName(db, team, entry.kind, entry.name)
        : await findSameArchived(db, team, entry.kind, entry.name, entry.madeAt);
    if (here && (await isSame(work, entry, here.id, here.head_revision))) {
      same += 1;
      work.documents.set(entry.path, here.id);
      for (const { number } of entry.versions) {
        const version = await findRevision(db, team, here.id, number);
        if (version) work.places.set(placeOf(entry.path, number), version.id);
      }
      continue;
    }
    if (here && entry.archivedAt === null)
      renamed.set(keyOf(entry.kind, entry.name), await freeName(db, team, entry, own));
    wanted.push(entry);
  }
  // Those put away first: the names they free are taken by those in use.
  for (const entry of wanted.sort((a, b) => Number(a.archivedAt === null) - Number(b.archivedAt === null)))
    await takeDocument(
      work,
      entry,
      (entry.archivedAt === null && renamed.get(keyOf(entry.kind, entry.name))) || entry.name,
      renamed,
    );
  return {
    documents: wanted.length,
    same,
    trials: await takeEach(index.trials, (i) => takeTrial(work, i)),
    studies: await takeEach(index.studies, (i) => takeStudy(work, i)),
    calibrations: await takeEach(index.calibrations, (i) => takeCalibration(work, i)),
    renamed: [...renamed].map(([key, name]) => `${key.split("/").slice(1).join("/")} is now ${name}`),
  };
}

/** Takes a project file into the team: all of it, or nothing. */
export async function importProject(team: string, stream: ReadableStream<Uint8Array>): Promise<Import> {
  const unpacked: Unpacked = await unpack(stream, (name) => KEPT_NAMES.test(name));
  if (!unpacked.ok) return unpacked;
  try {
    return { ok: true, taken: await inTransaction((db) => takeAll(db, team, unpacked.files)) };
  } catch (error) {
    if (error instanceof NotTaken) return { ok: false, problem: error.message };
    // 22P05: text that the database cannot hold. 23505, 23514: what the rules of the tables forbid.
    if (/^(22P05|22P02|22003|23505|23514)$/.test(String((error as { code?: unknown }).code)))
      return { ok: false, problem: "it holds something that cannot be stored" };
    throw error;
  }
}
