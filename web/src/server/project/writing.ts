// A team's whole project as a .zip, written while it is read, so that its size is not held in memory.
import { strToU8, Zip, ZipDeflate, ZipPassThrough } from "fflate";
import { pool, type Queryable } from "../database.js";
import { findPicture } from "../repositories/assets.js";
import {
  assetNames,
  calibrationsInOrder,
  contentOf,
  countAll,
  everyDocument,
  everyVersion,
  type Made,
  studiesInOrder,
  trialsInOrder,
  type WholeDocument,
} from "../repositories/project.js";
import {
  type DocumentEntry,
  fileOf,
  INDEX,
  isText,
  PROJECT_FORMAT,
  PROJECT_VERSION,
  type ProjectIndex,
  written,
} from "./format.js";

interface ProjectFile {
  readonly name: string;
  readonly bytes: Uint8Array;
  /** Bytes that are packed already. */
  readonly packed?: boolean;
}

/** Trials read at once: their traces are large. */
const TRIALS_AT_ONCE = 20;
/** The one time every file of a project has, so that the same project is the same file. */
const NO_TIME = new Date(1980, 0, 1);

/** "First roll out" → "first-roll-out", a number behind it when that is taken. */
function pathFor(document: WholeDocument, taken: Set<string>): string {
  const stem =
    document.name
      .normalize("NFKD")
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "")
      .slice(0, 60) || "untitled";
  for (let n = 1; ; n += 1) {
    const path = `${document.kind}s/${n === 1 ? stem : `${stem}-${n}`}`;
    if (taken.has(path)) continue;
    taken.add(path);
    return path;
  }
}

interface Known {
  readonly entry: DocumentEntry;
  readonly id: string;
}

/** Every file of the project, one after the other. */
async function* filesOf(db: Queryable, team: string): AsyncGenerator<ProjectFile> {
  const taken = new Set<string>();
  const known: Known[] = [];
  const places = new Map<string, { document: string; version: number }>();
  for (const document of await everyDocument(db, team)) {
    const versions = await everyVersion(db, team, document.id);
    const path = pathFor(document, taken);
    for (const { id, number } of versions) places.set(id, { document: path, version: number });
    const entry: DocumentEntry = {
      kind: document.kind,
      name: document.name,
      path,
      madeAt: document.created_at.toISOString(),
      archivedAt: document.archived_at?.toISOString() ?? null,
      head: document.head_revision,
      draftOver: document.draft_over,
      versions: versions.map(({ number, parent, name, reason, author, created_at }) => ({
        number,
        parent,
        name,
        reason,
        author,
        madeAt: created_at.toISOString(),
      })),
    };
    known.push({ entry, id: document.id });
  }
  const index: ProjectIndex = {
    format: PROJECT_FORMAT,
    version: PROJECT_VERSION,
    documents: known.map(({ entry }) => entry),
    ...(await countAll(db, team)),
  };
  const json = (name: string, value: unknown): ProjectFile => ({ name, bytes: strToU8(written(value)) });
  yield json(INDEX, index);
  for (const { entry, id } of known) yield* documentFiles(db, team, entry, id, json);
  const paths = new Map(known.map(({ entry, id }) => [id, entry.path]));
  const made = ({ mission_revision, robot_revision, field_revision, core_version }: Made) => ({
    mission: places.get(mission_revision),
    robot: places.get(robot_revision),
    field: field_revision === null ? null : places.get(field_revision),
    coreVersion: core_version,
  });
  for (let i = 0; i < index.trials; i += TRIALS_AT_ONCE) {
    const some = await trialsInOrder(db, team, i, Math.min(TRIALS_AT_ONCE, index.trials - i));
    for (const [at, trial] of some.entries()) {
      const { source, ideal, outcome, success, score, summary, note, tape, tags, trace } = trial;
      yield json(fileOf.trial(i + at + 1), {
        ...made(trial),
        source,
        seed: Number(trial.seed),
        ideal,
        outcome,
        success,
        score,
        durationMs: trial.duration_ms,
        summary,
        note,
        tape,
        tags,
        startedAt: trial.started_at.toISOString(),
        trace: trace !== null,
      });
      if (trace) yield { name: fileOf.trace(i + at + 1), bytes: trace, packed: true };
    }
  }
  for (const [i, study] of (await studiesInOrder(db, team)).entries()) {
    const { runs, successes, summary } = study;
    const madeAt = study.created_at.toISOString();
    yield json(fileOf.study(i + 1), { ...made(study), seed: Number(study.seed), runs, successes, summary, madeAt });
  }
  for (const [i, one] of (await calibrationsInOrder(db, team)).entries()) {
    yield json(fileOf.calibration(i + 1), {
      robot: paths.get(one.robot_id),
      quantity: one.quantity,
      rows: one.rows,
      result: one.result,
      appliedVersion: one.applied_revision === null ? null : (places.get(one.applied_revision)?.version ?? null),
      madeAt: one.created_at.toISOString(),
    });
  }
  for (const sha256 of await assetNames(db, team)) {
    const found = await findPicture(db, team, sha256);
    if (found) yield { name: fileOf.picture(sha256, found.media_type), bytes: found.bytes, packed: true };
  }
}

async function* documentFiles(
  db: Queryable,
  team: string,
  entry: DocumentEntry,
  id: string,
  json: (name: string, value: unknown) => ProjectFile,
): AsyncGenerator<ProjectFile> {
  for (const version of [...entry.versions.map(({ number }) => number), "present" as const]) {
    const asked = version === "present" ? (entry.draftOver === null ? entry.head : "draft") : version;
    const content = await contentOf(db, team, id, asked);
    if (!content) continue;
    const name = version === "present" ? fileOf.present(entry) : fileOf.version(entry, version);
    yield isText(entry.kind) ? { name, bytes: strToU8(content.text ?? "") } : json(name, content.body);
    if (version !== "present" && isText(entry.kind) && content.body !== null)
      yield json(fileOf.collections(entry, version), content.body);
  }
}

/** The project as a stream of a .zip's bytes. It is read no faster than it is taken. */
export function projectZip(team: string): ReadableStream<Uint8Array> {
  const files = filesOf(pool(), team);
  const ready: Uint8Array[] = [];
  let ended = false;
  let failed: Error | null = null;
  const zip = new Zip((error, chunk, last) => {
    if (error) failed = error;
    else if (chunk.length > 0) ready.push(chunk);
    if (last) ended = true;
  });
  return new ReadableStream<Uint8Array>({
    async pull(controller) {
      while (ready.length === 0 && !ended) {
        const next = await files.next();
        if (next.done) zip.end();
        else {
          const { name, bytes, packed } = next.value;
          const file = packed ? new ZipPassThrough(name) : new ZipDeflate(name, { level: 6 });
          file.mtime = NO_TIME;
          zip.add(file);
          file.push(bytes, true);
        }
        if (failed) throw failed;
      }
      const chunk = ready.shift();
      if (chunk) controller.enqueue(chunk);
      else controller.close();
    },
    async cancel() {
      await files.return(undefined);
    },
  });
}
