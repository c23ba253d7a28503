// npm run restore: puts a copy in place of what is there, which is copied first.
//   npm run restore                the newest copy
//   npm run restore -- NAME        one of npm run backup -- --list, or the path of a copy
import { existsSync, mkdirSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { backupsOf, holdsData, listBackups, makeBackup, restoreBackup } from "./lib/backup.mjs";
import { takeLock } from "./lib/lock.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { startCluster, stopCluster } from "./lib/postgres.mjs";
import { runMain, SetupError } from "./lib/say.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const dataFolder = path.resolve(process.env.GIDDY_DATA ?? path.join(root, ".data"));

/** @param {string | undefined} wanted */
function chosen(wanted) {
  const backups = backupsOf(dataFolder);
  if (wanted?.includes(path.sep)) {
    const folder = path.resolve(wanted);
    const [found] = listBackups(path.dirname(folder)).filter((one) => one.folder === folder);
    if (!found) throw new SetupError(`${folder} is not a copy of Giddy Pebble.`);
    return found;
  }
  // What was copied just before restoring is for going back by its name only.
  const all = listBackups(backups);
  const found = wanted === undefined ? all.find(({ kind }) => kind !== "before restoring") : all.find(({ name }) => name === wanted);
  if (found) return found;
  const there = all.length === 0 ? `There is no copy in ${backups}.` : `There are: ${all.map(({ name }) => name).join(", ")}.`;
  throw new SetupError(wanted === undefined ? there : `There is no copy called ${wanted}. ${there}`);
}

async function main() {
  const backup = chosen(process.argv.slice(2).find((word) => !word.startsWith("--")));
  await ensureModules(root);
  mkdirSync(dataFolder, { recursive: true });
  const lock = takeLock(path.join(dataFolder, "starting.lock"));
  if (!lock.ok) throw new SetupError("The application is running. Stop it first (Ctrl-C where it was started), then restore.");
  try {
    const cluster = await startCluster(path.join(dataFolder, "database"), { durable: true, quiet: true });
    try {
      if (existsSync(path.join(dataFolder, "database")) && (await holdsData(cluster))) {
        const before = await makeBackup(cluster, dataFolder, "before restoring");
        process.stdout.write(`What was there is kept as ${before.name}.\n`);
      }
      await restoreBackup(cluster, dataFolder, backup);
      process.stdout.write(
        `Restored the copy of ${backup.madeAt.slice(0, 16).replace("T", ", ")} UTC. Start the application: npm start.\n`,
      );
    } finally {
      stopCluster(cluster);
    }
  } finally {
    lock.release();
  }
  return 0;
}

await runMain(main);
process.exit();
