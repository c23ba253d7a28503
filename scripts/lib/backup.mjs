// Copies of everything that is kept: the database as a dump and the simulated robots' files, a folder for each copy,
// beside the data folder and not in it, so that a data folder that is lost can be had back.
import { spawn } from "node:child_process";
import { cpSync, existsSync, mkdirSync, readdirSync, realpathSync, renameSync, rmSync, statSync } from "node:fs";
import path from "node:path";
import { onPath } from "./command.mjs";
import { readJsonFile, writeWhole } from "./files.mjs";
import { connectionString } from "./postgres.mjs";
import { SetupError } from "./say.mjs";

/** @typedef {import("./postgres.mjs").Cluster} Cluster */
/** @typedef {"nightly" | "by hand" | "before restoring"} BackupKind */
/** @typedef {{ folder: string, name: string, kind: BackupKind, madeAt: string, bytes: number }} Backup */

export const DATABASE = "giddy_pebble";
/** Nightly copies are kept so long. */
const KEPT_NIGHTS = 7;
const ABOUT = "about.json";
const FORMAT = "giddy-pebble/backup";

/** @param {string} dataFolder @returns {string} where its copies are kept */
export function backupsOf(dataFolder) {
  return path.resolve(process.env.GIDDY_BACKUPS ?? `${dataFolder.replace(/[/\\]+$/, "")}-backups`);
}

/**
 * A program of PostgreSQL's clients: beside the server's, or the newest Debian has.
 * @param {Cluster} cluster @param {string} program @returns {string}
 */
function clientProgram(cluster, program) {
  const debian = "/usr/lib/postgresql";
  const versions = existsSync(debian) ? readdirSync(debian).sort((a, b) => Number(b) - Number(a)) : [];
  const real = existsSync(path.join(cluster.programs, "postgres"))
    ? [path.dirname(realpathSync(path.join(cluster.programs, "postgres")))]
    : [];
  const folders = [cluster.programs, ...real, ...versions.map((version) => path.join(debian, version, "bin"))];
  const found = folders.map((folder) => path.join(folder, program)).find((file) => existsSync(file)) ?? onPath(program);
  if (!found) throw new SetupError(`${program} was not found. Install PostgreSQL's clients (Debian: postgresql-client) and try again.`);
  return found;
}

/**
 * Runs one of PostgreSQL's programs on our database; its password goes by the environment, where nobody else sees it.
 * @param {Cluster} cluster @param {string} program @param {string[]} args @param {string} database
 * @returns {Promise<void>}
 */
function runClient(cluster, program, args, database) {
  const url = new URL(connectionString(cluster, database));
  const env = {
    ...process.env,
    PGHOST: url.hostname,
    PGPORT: url.port,
    PGUSER: url.username,
    PGPASSWORD: url.password,
    PGDATABASE: database,
  };
  return new Promise((resolve, reject) => {
    const child = spawn(clientProgram(cluster, program), args, { env, stdio: ["ignore", "ignore", "pipe"] });
    let said = "";
    child.stderr.on("data", (chunk) => {
      said = `${said}${chunk}`.slice(-2000);
    });
    child.on("error", (error) => reject(new SetupError(`${program} could not be run: ${error.message}.`)));
    child.on("close", (status) => {
      if (status === 0) resolve();
      else reject(new SetupError(`${program} ended with status ${status}: ${said.trim().split("\n").pop() ?? ""}`));
    });
  });
}

/** @param {string} folder @returns {number} bytes of all files in it */
function sizeOf(folder) {
  return readdirSync(folder, { withFileTypes: true }).reduce((sum, entry) => {
    const whole = path.join(folder, entry.name);
    return sum + (entry.isDirectory() ? sizeOf(whole) : statSync(whole).size);
  }, 0);
}

/** @param {string} backups @returns {Backup[]} newest first; what is no copy, or half of one, is left out */
export function listBackups(backups) {
  if (!existsSync(backups)) return [];
  return readdirSync(backups)
    .flatMap((name) => {
      const folder = path.join(backups, name);
      const about = /** @type {Partial<Backup> & { format?: string } | null} */ (readJsonFile(path.join(folder, ABOUT)));
      if (about?.format !== FORMAT || typeof about.madeAt !== "string") return [];
      const kind = /** @type {BackupKind} */ (about.kind ?? "by hand");
      return [{ folder, name, kind, madeAt: about.madeAt, bytes: Number(about.bytes ?? 0) }];
    })
    .sort((a, b) => (a.madeAt < b.madeAt ? 1 : -1));
}

/**
 * Makes a copy: written beside its place and renamed when it is whole.
 * @param {Cluster} cluster @param {string} dataFolder @param {BackupKind} kind
 * @returns {Promise<Backup>}
 */
export async function makeBackup(cluster, dataFolder, kind) {
  const backups = backupsOf(dataFolder);
  const madeAt = new Date().toISOString();
  const name = madeAt.slice(0, 19).replaceAll(":", "-");
  const beside = path.join(backups, `.${name}.${process.pid}`);
  try {
    mkdirSync(beside, { recursive: true, mode: 0o700 });
    await runClient(cluster, "pg_dump", ["--format=custom", "--no-owner", "--file", path.join(beside, "database.dump")], DATABASE);
    const robots = path.join(dataFolder, "robots");
    if (existsSync(robots)) cpSync(robots, path.join(beside, "robots"), { recursive: true });
    const bytes = sizeOf(beside);
    writeWhole(path.join(beside, ABOUT), JSON.stringify({ format: FORMAT, version: 1, kind, madeAt, bytes }));
    let folder = path.join(backups, name);
    for (let n = 2; existsSync(folder); n += 1) folder = path.join(backups, `${name}-${n}`);
    renameSync(beside, folder);
    return { folder, name: path.basename(folder), kind, madeAt, bytes };
  } catch (error) {
    try {
      rmSync(beside, { recursive: true, force: true });
    } catch {
      // It was never there.
    }
    if (error instanceof SetupError) throw error;
    const { code } = /** @type {NodeJS.ErrnoException} */ (error);
    if (code === "ENOSPC") throw new SetupError(`The disk is full: no copy was made in ${backups}. Make room and try again.`);
    throw new SetupError(`No copy could be made in ${backups} (${code ?? error}). Check that the folder can be written.`);
  }
}

/** Nightly copies beyond the newest seven are removed; what a person made is never. @param {string} backups */
export function thinBackups(backups) {
  const nightly = listBackups(backups).filter(({ kind }) => kind === "nightly");
  for (const { folder } of nightly.slice(KEPT_NIGHTS)) rmSync(folder, { recursive: true, force: true });
}

/** Hour of the night from which the copy is made. */
const NIGHT_HOUR = 3;

/** @param {Date} now @returns {Date} the latest moment at which a night's copy was due */
function lastDue(now) {
  const due = new Date(now);
  due.setHours(NIGHT_HOUR, 0, 0, 0);
  if (due > now) due.setDate(due.getDate() - 1);
  return due;
}

/** Whether the night's copy is still to be made: a computer that was off then makes it when it is on again. @param {string} backups @param {Date} now */
export function isDue(backups, now) {
  const newest = listBackups(backups).find(({ kind }) => kind === "nightly");
  return newest === undefined || new Date(newest.madeAt) < lastDue(now);
}

const FIRST_LOOK_MS = 60_000;
const EVERY_MS = 10 * 60_000;

/**
 * Makes a copy each night for as long as the application runs.
 * @param {Cluster} cluster @param {string} dataFolder @param {(words: string) => void} tell
 * @returns {() => Promise<void>} ends it, after a copy that is being made
 */
export function backUpNightly(cluster, dataFolder, tell) {
  const backups = backupsOf(dataFolder);
  /** @type {Promise<void> | null} */
  let making = null;
  const look = () => {
    if (making || !isDue(backups, new Date())) return;
    making = makeBackup(cluster, dataFolder, "nightly")
      .then(() => thinBackups(backups))
      .catch((error) => tell(error instanceof Error ? error.message : String(error)))
      .finally(() => {
        making = null;
      });
  };
  const first = setTimeout(look, FIRST_LOOK_MS);
  const timer = setInterval(look, EVERY_MS);
  return async () => {
    clearTimeout(first);
    clearInterval(timer);
    await making;
  };
}

/**
 * Puts a copy in place of what is there. The database is made anew beside the old one, which goes only when the new one is whole.
 * @param {Cluster} cluster @param {string} dataFolder @param {Backup} backup
 */
export async function restoreBackup(cluster, dataFolder, backup) {
  const { default: pg } = await import("pg");
  const fresh = `${DATABASE}_restored`;
  const ask = async (/** @type {string[]} */ ...statements) => {
    const client = new pg.Client({ connectionString: connectionString(cluster, "postgres") });
    await client.connect();
    try {
      for (const statement of statements) await client.query(statement);
    } finally {
      await client.end();
    }
  };
  await ask(`drop database if exists ${fresh}`, `create database ${fresh}`);
  try {
    const dump = path.join(backup.folder, "database.dump");
    await runClient(cluster, "pg_restore", ["--no-owner", "--exit-on-error", "--dbname", fresh, dump], fresh);
  } catch (error) {
    await ask(`drop database if exists ${fresh}`);
    throw new SetupError(`This copy cannot be read, and nothing was changed. ${error instanceof Error ? error.message : error}`);
  }
  await ask(`drop database if exists ${DATABASE} with (force)`, `alter database ${fresh} rename to ${DATABASE}`);
  const [robots, kept] = [path.join(dataFolder, "robots"), path.join(backup.folder, "robots")];
  rmSync(robots, { recursive: true, force: true });
  if (existsSync(kept)) cpSync(kept, robots, { recursive: true });
}

/** Whether the cluster holds our database. @param {Cluster} cluster */
export async function holdsData(cluster) {
  const { default: pg } = await import("pg");
  const client = new pg.Client({ connectionString: connectionString(cluster, "postgres") });
  await client.connect();
  try {
    return (await client.query("select 1 from pg_database where datname = $1", [DATABASE])).rowCount === 1;
  } finally {
    await client.end();
  }
}
