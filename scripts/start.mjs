// npm start: from a fresh clone to a running Giddy Pebble, and one URL. Keeps its three parts running until it is
// stopped: the database, the stand-in robots, the web server.
import { fork } from "node:child_process";
import { mkdirSync, rmSync } from "node:fs";
import { setPriority } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { backUpNightly } from "./lib/backup.mjs";
import { ensureBuild } from "./lib/build.mjs";
import { endLeftovers, rememberChildren } from "./lib/children.mjs";
import { readJsonFile, writeWhole } from "./lib/files.mjs";
import { takeLock } from "./lib/lock.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { choosePort, tryPort, untilFree } from "./lib/port.mjs";
import { connectionString, startCluster, stopCluster, watchCluster } from "./lib/postgres.mjs";
import { runMain, SetupError, say } from "./lib/say.mjs";
import { keepRunning } from "./lib/supervise.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const dataFolder = path.resolve(process.env.GIDDY_DATA ?? path.join(root, ".data"));
/** @param {string} name */
const inData = (name) => path.join(dataFolder, name);
const DEFAULT_PORT = 4620;
/** For a port that an ended start still holds, ms. */
const PORT_FREED_MS = 5000;
/** For the other start to serve, ms. */
const OTHER_MS = 3000;

/** @returns {Promise<string | null>} URL of an instance of this data folder that answers */
async function runningUrl() {
  const left = /** @type {{ url?: string, instance?: string } | null} */ (readJsonFile(inData("running.json")));
  if (typeof left?.url !== "string") return null;
  try {
    const answer = await fetch(new URL("/api/health", left.url), { signal: AbortSignal.timeout(OTHER_MS) });
    const health = /** @type {{ instance?: string }} */ (await answer.json());
    return health.instance === left.instance ? left.url : null;
  } catch {
    return null;
  }
}

/** Ports of the last start, tried first, so that bookmarks and unsent drafts stay. @returns {{ web: number, robots: number }} */
function lastPorts() {
  const kept = /** @type {{ web?: unknown, robots?: unknown } | null} */ (readJsonFile(inData("ports.json")));
  const port = (/** @type {unknown} */ value, /** @type {number} */ other) =>
    typeof value === "number" && Number.isInteger(value) && value > 0 && value < 65536 ? value : other;
  return { web: port(kept?.web, DEFAULT_PORT), robots: port(kept?.robots, 0) };
}

/** @returns {Promise<{ web: number, robots: number }>} */
async function choosePorts() {
  const last = lastPorts();
  const asked = process.env.GIDDY_PORT;
  const wanted = asked === undefined ? last.web : Number(asked);
  if (Number.isInteger(wanted) && wanted > 0 && wanted < 65536) await untilFree(wanted, PORT_FREED_MS);
  const web = await choosePort(wanted, asked !== undefined);
  const robots = last.robots !== web ? await tryPort(last.robots) : null;
  const ports = { web, robots: robots ?? /** @type {number} */ (await tryPort(0)) };
  writeWhole(inData("ports.json"), JSON.stringify(ports));
  return ports;
}

/** @param {string} script @param {Record<string, string>} env */
function forkPart(script, env) {
  return fork(path.join(root, script), [], {
    cwd: root,
    detached: true,
    env: { ...process.env, NODE_ENV: "production", GIDDY_DEMO: path.join(root, "demo"), ...env },
  });
}

/** @param {number} pid - of a process that waits for others where the processor is busy */
function behind(pid) {
  try {
    setPriority(pid, 5);
  } catch {
    // ended meanwhile
  }
}

/** Everything between "the database runs" and "stop". @param {Awaited<ReturnType<typeof startCluster>>} cluster @param {Promise<void>} asked @param {() => boolean} interrupted */
async function serve(cluster, asked, interrupted) {
  await endLeftovers(inData("children.json"));
  const children = rememberChildren(inData("children.json"));
  const ports = await choosePorts();
  const instance = `${process.pid}-${Date.now()}`;
  const device = await keepRunning(
    "the process of the simulated robots",
    () => forkPart("device/dist/main.js", { GIDDY_DEVICE_DATA: inData("robots"), GIDDY_DEVICE_PORT: String(ports.robots) }),
    (child) => children.add("robots", child),
    asked,
  );
  /** @type {Awaited<ReturnType<typeof keepRunning>> | null} */
  let web = null;
  // Watched from here on: the web server itself waits for a database that is away.
  const endBackups = backUpNightly(cluster, dataFolder, say);
  const unwatch = watchCluster(cluster, { durable: true }, (moved) => moved && web?.renew());
  try {
    web = await keepRunning(
      "the web server",
      () =>
        forkPart("web/dist/host/main.js", {
          GIDDY_DATABASE: connectionString(cluster, "giddy_pebble"),
          GIDDY_PORT: String(ports.web),
          GIDDY_INSTANCE: instance,
          GIDDY_DEVICE_PORT: String(ports.robots),
        }),
      (child) => {
        // The robots live in real time: where there is little of it, they go first.
        if (child.pid !== undefined) behind(child.pid);
        children.add("web", child);
      },
      asked,
    );
    const url = `http://127.0.0.1:${ports.web}/`;
    writeWhole(inData("running.json"), JSON.stringify({ url, instance }));
    if (!interrupted()) process.stdout.write(`\n  Open ${url}   (Ctrl-C stops it; your work is kept)\n\n`);
    await asked;
  } finally {
    await Promise.all([unwatch(), endBackups()]);
    await Promise.all([web?.stop(), device.stop()]);
    rmSync(inData("running.json"), { force: true, recursive: true });
  }
}

async function main() {
  process.stdout.write("Giddy Pebble\n");
  await ensureModules(root, { buildsLater: true });
  try {
    mkdirSync(dataFolder, { recursive: true });
  } catch (error) {
    const { code } = /** @type {NodeJS.ErrnoException} */ (error);
    throw new SetupError(
      `The data folder ${dataFolder} could not be made (${code}). Set GIDDY_DATA to a folder that can be written, and start again.`,
    );
  }
  const lock = takeLock(inData("starting.lock"));
  if (!lock.ok) {
    const url = await runningUrl();
    if (url) {
      process.stdout.write(`\n  Giddy Pebble is already running: ${url}\n\n`);
      return 0;
    }
    throw new SetupError(
      `Giddy Pebble is being started already, by process ${lock.pid}. Wait for its URL, or end that process and start again.`,
    );
  }
  process.on("exit", lock.release);
  let stopping = false;
  /** @type {Promise<void>} */
  const asked = new Promise((resolve) => {
    for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"])
      process.on(signal, () => {
        stopping = true;
        resolve();
      });
  });
  await ensureBuild(root);
  const cluster = await startCluster(inData("database"), { durable: true });
  try {
    await serve(cluster, asked, () => stopping);
  } finally {
    stopCluster(cluster);
  }
  process.stdout.write("  stopped\n");
  return 0;
}

await runMain(main);
process.exit();
