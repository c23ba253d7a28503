// npm run backup: a copy of everything that is kept, while the application runs or not.
//   npm run backup            makes one
//   npm run backup -- --list  says which there are

import { existsSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { backupsOf, holdsData, listBackups, makeBackup } from "./lib/backup.mjs";
import { takeLock } from "./lib/lock.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { startCluster, stopCluster } from "./lib/postgres.mjs";
import { runMain, SetupError } from "./lib/say.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const dataFolder = path.resolve(process.env.GIDDY_DATA ?? path.join(root, ".data"));
const megabytes = (/** @type {number} */ bytes) => `${(bytes / 1e6).toFixed(1)} MB`;

async function main() {
  const backups = backupsOf(dataFolder);
  if (process.argv.includes("--list")) {
    const all = listBackups(backups);
    if (all.length === 0) process.stdout.write(`There is no copy in ${backups} yet. npm run backup makes one.\n`);
    for (const { name, kind, bytes } of all) process.stdout.write(`${name}  ${kind}, ${megabytes(bytes)}\n`);
    return 0;
  }
  await ensureModules(root);
  if (!existsSync(path.join(dataFolder, "database")))
    throw new SetupError(`There is nothing to copy in ${dataFolder} yet. Start the application first: npm start.`);
  // Held while no application runs; one that runs goes on, and its database is asked.
  const lock = takeLock(path.join(dataFolder, "starting.lock"));
  const cluster = await startCluster(path.join(dataFolder, "database"), { durable: true, quiet: true });
  try {
    if (!(await holdsData(cluster))) throw new SetupError("There is nothing to copy yet. Start the application first: npm start.");
    const { folder, bytes } = await makeBackup(cluster, dataFolder, "by hand");
    process.stdout.write(`A copy was made: ${folder} (${megabytes(bytes)}).\n`);
  } finally {
    if (lock.ok) {
      stopCluster(cluster);
      lock.release();
    }
  }
  return 0;
}

await runMain(main);
process.exit();
