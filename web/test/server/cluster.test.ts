// The private database cluster: made, found again, taken over, and not confused by what a kill leaves behind.
import { mkdtempSync, readFileSync, readlinkSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import pg from "pg";
import { afterAll, expect, test } from "vitest";
import { connectionString, startCluster, stopCluster } from "../../../scripts/lib/postgres.mjs";

const folder = mkdtempSync(path.join(os.tmpdir(), "giddy-cluster-"));
type Cluster = Awaited<ReturnType<typeof startCluster>>;
let cluster: Cluster | null = null;
afterAll(() => {
  if (cluster) stopCluster(cluster);
  if (cluster && cluster.folder !== folder) rmSync(cluster.folder, { recursive: true, force: true });
  rmSync(folder, { recursive: true, force: true });
});

async function ask(on: Cluster, question: string): Promise<unknown[]> {
  const client = new pg.Client({ connectionString: connectionString(on, "postgres") });
  await client.connect();
  try {
    return (await client.query(question)).rows;
  } finally {
    await client.end();
  }
}

test("a cluster is made with a password, keeps its data, is taken over while it runs, and starts after a kill", async () => {
  cluster = await startCluster(folder, { durable: true });
  expect(await ask(cluster, "show server_encoding")).toEqual([{ server_encoding: "UTF8" }]);
  await ask(cluster, "create table kept as select 7 as n");
  await expect(ask({ ...cluster, secret: "wrong" }, "select 1")).rejects.toThrow(/password/);

  const again = await startCluster(folder, { durable: true });
  expect(again.port).toBe(cluster.port);

  const pidFile = path.join(cluster.data, "postmaster.pid");
  const pid = Number(readFileSync(pidFile, "utf8").split("\n")[0]);
  process.kill(pid, "SIGKILL");
  await expect.poll(() => isGone(pid)).toBe(true);
  // The number in the pid file now belongs to a stranger that lives: this very process.
  writeFileSync(pidFile, readFileSync(pidFile, "utf8").replace(String(pid), String(process.pid)));
  cluster = await startCluster(folder, { durable: true });
  expect(await ask(cluster, "select n from kept")).toEqual([{ n: 7 }]);

  stopCluster(cluster);
  await expect(ask(cluster, "select 1")).rejects.toThrow();
  cluster = await startCluster(folder, { durable: true });
  expect(await ask(cluster, "select n from kept")).toEqual([{ n: 7 }]);
});

/** A killed process that nobody has waited for yet still has a number, but no folder it works in. */
function isGone(pid: number): boolean {
  try {
    readlinkSync(`/proc/${pid}/cwd`);
    return false;
  } catch {
    return true;
  }
}
