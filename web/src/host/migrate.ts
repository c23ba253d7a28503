// Brings the database to the newest schema: plain SQL files, applied once each, in order.
import path from "node:path";
import { fileURLToPath } from "node:url";
import { runner } from "node-pg-migrate";
import pg from "pg";

const folder = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../../db/migrations");

/** @param connection - of the database to use; made first if it does not exist */
export async function migrate(connection: string): Promise<void> {
  await createIfMissing(connection);
  await runner({
    databaseUrl: connection,
    dir: folder,
    direction: "up",
    migrationsTable: "migration",
    log: () => {},
  });
}

async function createIfMissing(connection: string): Promise<void> {
  const url = new URL(connection);
  const name = decodeURIComponent(url.pathname.slice(1));
  url.pathname = "/postgres";
  const client = new pg.Client({ connectionString: url.toString() });
  await client.connect();
  try {
    const found = await client.query("select 1 from pg_database where datname = $1", [name]);
    if (found.rowCount === 0) await client.query(`create database ${client.escapeIdentifier(name)}`);
  } finally {
    await client.end();
  }
}
