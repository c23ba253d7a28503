// One pool per process, and transactions that always end.
import pg from "pg";
import { readConfig } from "./config.js";
import { logger } from "./logger.js";

export type Queryable = Pick<pg.Pool | pg.PoolClient, "query">;

/** The pool lives on globalThis: the host and Astro's bundle are two module graphs in one process. */
const holder = globalThis as typeof globalThis & { giddyPool?: pg.Pool };

export function pool(): pg.Pool {
  if (!holder.giddyPool) {
    holder.giddyPool = new pg.Pool({ connectionString: readConfig().GIDDY_DATABASE, max: 10 });
    holder.giddyPool.on("error", (error) =>
      logger.error({ error: error.message }, "an idle database connection failed"),
    );
  }
  return holder.giddyPool;
}

export async function closePool(): Promise<void> {
  const open = holder.giddyPool;
  delete holder.giddyPool;
  await open?.end();
}

/** Runs `work` in one transaction: committed when it returns, rolled back when it throws. */
export async function inTransaction<T>(work: (db: Queryable) => Promise<T>): Promise<T> {
  const client = await pool().connect();
  try {
    await client.query("begin");
    const result = await work(client);
    await client.query("commit");
    return result;
  } catch (error) {
    await client.query("rollback");
    throw error;
  } finally {
    client.release();
  }
}
