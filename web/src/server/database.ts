// One pool per process, and transactions that always end. A connection can be lost at any moment: whoever holds it
// is told by an error of the query, never by an error that nobody listens to.
import pg from "pg";
import { readConfig } from "./config.js";
import { logger } from "./logger.js";

export type Queryable = Pick<pg.Pool | pg.PoolClient, "query">;

/** The pool lives on globalThis: the host and Astro's bundle are two module graphs in one process. */
const holder = globalThis as typeof globalThis & { giddyPool?: pg.Pool };

/** A statement, a lock and a connection that take longer than these have failed, ms. */
const PATIENCE = { statement: 20_000, lock: 10_000, connect: 8000 } as const;
/** Longest wait for open statements when the process ends, ms. */
const CLOSING_MS = 2000;

export function pool(): pg.Pool {
  if (!holder.giddyPool) {
    holder.giddyPool = new pg.Pool({
      connectionString: readConfig().GIDDY_DATABASE,
      max: 10,
      connectionTimeoutMillis: PATIENCE.connect,
      statement_timeout: PATIENCE.statement,
      lock_timeout: PATIENCE.lock,
      idle_in_transaction_session_timeout: PATIENCE.statement,
      query_timeout: PATIENCE.statement + 2000,
    });
    const lost = (error: Error) => logger.warn({ error: error.message }, "a database connection was lost");
    // The pool listens to clients at rest only; those checked out would end the process.
    holder.giddyPool.on("connect", (client) => client.on("error", lost));
    holder.giddyPool.on("error", lost);
  }
  return holder.giddyPool;
}

/** Ends the pool; a database that does not answer keeps nobody waiting. */
export async function closePool(): Promise<void> {
  const open = holder.giddyPool;
  delete holder.giddyPool;
  if (!open) return;
  let timer: NodeJS.Timeout | undefined;
  const enough = new Promise<void>((resolve) => {
    timer = setTimeout(resolve, CLOSING_MS);
  });
  await Promise.race([open.end().catch(() => {}), enough]);
  clearTimeout(timer);
}

/** Runs `work` in one transaction: committed when it returns, rolled back when it throws. */
export async function inTransaction<T>(work: (db: Queryable) => Promise<T>): Promise<T> {
  const client = await pool().connect();
  let broken: Error | undefined;
  try {
    await client.query("begin");
    const result = await work(client);
    await client.query("commit");
    return result;
  } catch (error) {
    // A connection that cannot even roll back is thrown away; the first error is the one that is told.
    await client.query("rollback").catch((failure: Error) => {
      broken = failure;
    });
    throw error;
  } finally {
    client.release(broken);
  }
}

/** What kept the database from answering: a full disk, or anything that may be gone when it is asked again. */
type DatabaseTrouble = "full" | "unavailable";

const SYSTEM_CODES = new Set(["ECONNREFUSED", "ECONNRESET", "EPIPE", "ETIMEDOUT", "ENOENT", "EHOSTUNREACH"]);
/**
 * SQLSTATE classes and codes that trying again may mend: connection (08), resources (53), intervention and
 * shutdown (57), system (58), locks, deadlocks, and a transaction left idle.
 * Source: PostgreSQL's manual, appendix A.
 */
const PASSING = /^(08...|53...|57...|58...|40001|40P01|55P03|25P03)$/;
const LOST_WORDS =
  /connection terminated|connection timeout|timeout exceeded|connection error|read timeout|after calling end/i;

/** @param error - thrown by a query or a connection. @returns null for errors of our own making */
export function databaseTrouble(error: unknown): DatabaseTrouble | null {
  if (!(error instanceof Error)) return null;
  const code = String((error as { code?: unknown }).code ?? "");
  if (code === "53100" || code === "ENOSPC") return "full";
  return SYSTEM_CODES.has(code) || PASSING.test(code) || LOST_WORDS.test(error.message) ? "unavailable" : null;
}
