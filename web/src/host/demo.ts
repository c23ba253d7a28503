// Loads the demo documents, each once: what a person changed or archived stays as they left it.
import { readdir, readFile } from "node:fs/promises";
import path from "node:path";
import { pool } from "../server/database.js";
import { createDocument } from "../server/documentService.js";
import { logger } from "../server/logger.js";
import type { DocumentKind } from "../server/repositories/documents.js";
import { localTeam } from "../server/repositories/team.js";

interface DemoFile {
  readonly file: string;
  readonly kind: DocumentKind;
}

const FIRST = "first-roll-out.cairn";
const FIRST_FIELD = "fellside.field.json";

async function demoFiles(folder: string): Promise<DemoFile[]> {
  const endings = [
    [".robot.json", "robot"],
    [".field.json", "field"],
  ] as const;
  const files = (await readdir(folder)).sort();
  const top = [...files.filter((file) => file === FIRST_FIELD), ...files.filter((file) => file !== FIRST_FIELD)];
  const documents = endings.flatMap(([ending, kind]) =>
    top.filter((file) => file.endsWith(ending)).map((file) => ({ file, kind })),
  );
  const found = (await readdir(path.join(folder, "missions"))).filter((file) => file.endsWith(".cairn")).sort();
  // The one to begin with is made first, and so is the one that opens.
  const missions = [...found.filter((file) => file === FIRST), ...found.filter((file) => file !== FIRST)];
  const collections = (await readdir(path.join(folder, "collections")))
    .filter((file) => file.endsWith(".cairn"))
    .sort();
  return [
    ...documents,
    ...collections.map((file) => ({ file: path.join("collections", file), kind: "collection" as const })),
    ...missions.map((file) => ({ file: path.join("missions", file), kind: "mission" as const })),
  ];
}

/** "first-roll-out.cairn" → "First roll out" */
function missionName(file: string): string {
  const words = path.basename(file, ".cairn").replaceAll("-", " ");
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** The name a collection gives itself; null for a mission. */
function collectionName(text: string): string | null {
  return /^collection +"([^"\n]+)"/m.exec(text)?.[1] ?? null;
}

/** @param folder - the repository's demo folder */
export async function loadDemo(folder: string): Promise<void> {
  const team = await localTeam(pool());
  const loaded = await filesLoaded(team);
  for (const { file, kind } of await demoFiles(folder)) {
    if (loaded.has(file)) continue;
    const text = await readFile(path.join(folder, file), "utf8");
    const isText = kind === "mission" || kind === "collection";
    const body: unknown = isText ? null : JSON.parse(text);
    const name = isText
      ? (collectionName(text) ?? missionName(file))
      : String((body as { name?: unknown }).name ?? file);
    const made = await createDocument(team, {
      kind,
      name,
      reason: "demo",
      content: { text: isText ? text : null, body },
    });
    if (!made.ok && made.why !== "name-taken") logger.warn({ file, why: made.why }, "a demo document was not loaded");
    // Marked last: a process that is ended in between loads it at the next start, or finds its name taken.
    await markLoaded(team, file);
  }
}

async function filesLoaded(team: string): Promise<ReadonlySet<string>> {
  const found = await pool().query<{ file: string }>("select file from demo_load where team_id = $1", [team]);
  return new Set(found.rows.map(({ file }) => file));
}

async function markLoaded(team: string, file: string): Promise<void> {
  await pool().query(
    "insert into demo_load (team_id, file) values ($1, $2) on conflict on constraint demo_load_pkey do nothing",
    [team, file],
  );
}
