// Copies of everything: made, thinned by night, put back where the data folder is gone; what is no copy changes nothing.
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import pg from "pg";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  backupsOf,
  DATABASE,
  holdsData,
  isDue,
  listBackups,
  makeBackup,
  restoreBackup,
  thinBackups,
} from "../../../scripts/lib/backup.mjs";
import { connectionString, startCluster, stopCluster } from "../../../scripts/lib/postgres.mjs";

type Cluster = Awaited<ReturnType<typeof startCluster>>;
const folder = mkdtempSync(path.join(os.tmpdir(), "giddy-backup-"));
const data = path.join(folder, "data");
let cluster: Cluster;

async function ask<T>(text: string, database = DATABASE): Promise<T[]> {
  const client = new pg.Client({ connectionString: connectionString(cluster, database) });
  await client.connect();
  try {
    return (await client.query(text)).rows as T[];
  } finally {
    await client.end();
  }
}

beforeAll(async () => {
  mkdirSync(path.join(data, "robots"), { recursive: true });
  cluster = await startCluster(path.join(data, "database"), { durable: false, quiet: true });
  await ask(`create database ${DATABASE}`, "postgres");
  await ask("create table kept (n int); insert into kept values (1), (2)");
  writeFileSync(path.join(data, "robots", "drizzle.json"), "{}");
});
afterAll(() => {
  stopCluster(cluster);
  rmSync(folder, { recursive: true, force: true });
  // Where the server's user cannot reach the temporary folder, its files are elsewhere.
  if (!cluster.folder.startsWith(folder)) rmSync(cluster.folder, { recursive: true, force: true });
});

describe("a copy", () => {
  test("lies beside the data folder, not in it, and holds the database and the robots", async () => {
    const made = await makeBackup(cluster, data, "by hand");
    expect(path.dirname(made.folder)).toBe(`${data}-backups`);
    expect(readdirSync(made.folder).sort()).toEqual(["about.json", "database.dump", "robots"]);
    expect(listBackups(backupsOf(data))).toEqual([made]);
    expect(made.bytes).toBeGreaterThan(500);
  });

  test("brings back what was changed and deleted since, robots too", async () => {
    const [made] = listBackups(backupsOf(data));
    if (!made) throw new Error("no copy");
    await ask("delete from kept; insert into kept values (9)");
    writeFileSync(path.join(data, "robots", "drizzle.json"), '{"changed":true}');
    writeFileSync(path.join(data, "robots", "later.json"), "{}");
    await restoreBackup(cluster, data, made);
    expect((await ask<{ n: number }>("select n from kept order by n")).map(({ n }) => n)).toEqual([1, 2]);
    expect(readdirSync(path.join(data, "robots"))).toEqual(["drizzle.json"]);
    expect(readFileSync(path.join(data, "robots", "drizzle.json"), "utf8")).toBe("{}");
  });

  test("is put into an installation that has no data yet", async () => {
    const [made] = listBackups(backupsOf(data));
    if (!made) throw new Error("no copy");
    await ask(`drop database ${DATABASE} with (force)`, "postgres");
    expect(await holdsData(cluster)).toBe(false);
    await restoreBackup(cluster, data, made);
    expect(await holdsData(cluster)).toBe(true);
    expect(await ask("select n from kept")).toHaveLength(2);
  });

  test("that is damaged changes nothing", async () => {
    const made = await makeBackup(cluster, data, "by hand");
    writeFileSync(path.join(made.folder, "database.dump"), "not a dump");
    await expect(restoreBackup(cluster, data, made)).rejects.toThrow(/cannot be read, and nothing was changed/);
    expect(await ask("select n from kept")).toHaveLength(2);
    rmSync(made.folder, { recursive: true });
  });

  test("of which only half was written is none", () => {
    const half = path.join(backupsOf(data), "2026-01-01T00-00-00");
    mkdirSync(half);
    writeFileSync(path.join(half, "database.dump"), "x");
    expect(listBackups(backupsOf(data)).map(({ name }) => name)).not.toContain("2026-01-01T00-00-00");
    rmSync(half, { recursive: true });
  });

  test("cannot be made where nothing can be written, and it says so", async () => {
    const before = process.env.GIDDY_BACKUPS;
    process.env.GIDDY_BACKUPS = path.join(data, "robots", "drizzle.json", "inside");
    try {
      await expect(makeBackup(cluster, data, "by hand")).rejects.toThrow(/Check that the folder can be written/);
    } finally {
      if (before === undefined) delete process.env.GIDDY_BACKUPS;
      else process.env.GIDDY_BACKUPS = before;
    }
  });
});

/** Writes down a copy of a night without making one. */
function night(backups: string, day: string, kind = "nightly"): void {
  const one = path.join(backups, `${day}T03-00-00`);
  mkdirSync(one, { recursive: true });
  const madeAt = new Date(`${day}T03:00:00`).toISOString();
  writeFileSync(
    path.join(one, "about.json"),
    JSON.stringify({ format: "giddy-pebble/backup", version: 1, kind, madeAt, bytes: 1 }),
  );
}

describe("nights", () => {
  const backups = path.join(folder, "nights");
  const names = () => listBackups(backups).map(({ name }) => name.slice(0, 10));

  test("the newest seven are kept; what a person made is never removed", () => {
    for (let day = 1; day <= 9; day += 1) night(backups, `2026-11-0${day}`);
    night(backups, "2026-10-01", "by hand");
    thinBackups(backups);
    expect(names()).toEqual([9, 8, 7, 6, 5, 4, 3].map((day) => `2026-11-0${day}`).concat("2026-10-01"));
  });

  test.each([
    ["the evening after", "2026-11-09T22:00:00", false],
    ["before three at night", "2026-11-10T02:59:00", false],
    ["after three", "2026-11-10T03:01:00", true],
    ["days later, when the computer was off", "2026-11-14T12:00:00", true],
  ])("%s a copy is due: %s", (_, now, due) => {
    expect(isDue(backups, new Date(now))).toBe(due);
  });

  test("one is due where there was none", () => {
    expect(existsSync(path.join(folder, "nowhere"))).toBe(false);
    expect(isDue(path.join(folder, "nowhere"), new Date())).toBe(true);
  });
});
