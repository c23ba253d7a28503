// Brings the database to the newest schema: plain SQL files, applied once each, in order.
import { readdir } from "node:fs/promises";
import path from "node:path";
import { fileURLToPath } from "node:url";
import pg from "pg";

const folder = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../../db/migrations");

/** @param connection - of the database to use; made first if it does not exist */
export async function migrate(connection: string): Promise<void> {
  await createIfMissing(connection);
  await withClient(connection, async (client) => {
    if (await isNewest(client)) return;
    // It takes a tenth of the time of a start to be read, and most starts have nothing for it to do.
    const { runner } = await import("node-pg-migrate");
    await runner({ dbClient: client, dir: folder, direction: "up", migrationsTable: "migration", log: () => {} });
  });
}

/** Whether all files were applied, and no other. */
async function isNewest(client: pg.Client): Promise<boolean> {
  const { rows } = await client.query<{ is: string | null }>("select to_regclass('migration') as is");
  if (rows[0]?.is == null) return false;
  const applied = await client.query<{ name: string }>("select name from migration order by name");
  const files = (await readdir(folder)).sort();
  return applied.rows.map(({ name }) => `${name}.sql`).join() === files.join();
}

/** A connection of its own; one that is lost meanwhile is told by the query that fails. */
async function withClient(connection: string, work: (client: pg.Client) => Promise<void>): Promise<void> {
  const client = new pg.Client({ connectionString: connection, connectionTimeoutMillis: 4000 });
  client.on("error", () => {});
  await client.connect();
  try {
    await work(client);
  } finally {
    await client.end().catch(() => {});
  }
}

async function createIfMissing(connection: string): Promise<void> {
  const url = new URL(connection);
  const name = decodeURIComponent(url.pathname.slice(1));
  url.pathname = "/postgres";
  await withClient(url.toString(), async (client) => {
    const found = await client.query("select 1 from pg_database where datname = $1", [name]);
    if (found.rowCount === 0) await client.query(`create database ${client.escapeIdentifier(name)}`);
  });
}
