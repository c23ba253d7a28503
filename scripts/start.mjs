// npm start: from a fresh clone to a running Giddy Pebble, and one URL.
import { fork } from "node:child_process";
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { ensureBuild } from "./lib/build.mjs";
import { isAlive } from "./lib/command.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { choosePort } from "./lib/port.mjs";
import { connectionString, startCluster, stopCluster } from "./lib/postgres.mjs";
import { runMain, SetupError, say } from "./lib/say.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const dataFolder = path.resolve(process.env.GIDDY_DATA ?? path.join(root, ".data"));
const runFile = path.join(dataFolder, "running.json");
const DEFAULT_PORT = 4620;

/** @returns {Promise<string | null>} URL of an instance of this data folder that answers */
async function runningUrl() {
  if (!existsSync(runFile)) return null;
  const left = JSON.parse(readFileSync(runFile, "utf8"));
  if (!isAlive(left.pid)) return null;
  try {
    const answer = await fetch(new URL("/api/health", left.url), { signal: AbortSignal.timeout(3000) });
    const health = await answer.json();
    return health.instance === left.instance ? left.url : null;
  } catch {
    return null;
  }
}

/** Two starts at once in one folder: the first to make this file goes on. @returns {() => void} releases it */
function takeLock() {
  const lock = path.join(dataFolder, "starting.lock");
  for (let attempt = 0; attempt < 2; attempt += 1) {
    try {
      writeFileSync(lock, String(process.pid), { flag: "wx" });
      return () => rmSync(lock, { force: true });
    } catch {
      const holder = Number(readFileSync(lock, "utf8"));
      if (holder > 0 && isAlive(holder)) {
        throw new SetupError(`Giddy Pebble is being started already, by process ${holder}. Wait for its URL, or end it and start again.`);
      }
      rmSync(lock, { force: true });
    }
  }
  throw new SetupError(`The file ${lock} could not be made. Check that ${dataFolder} can be written.`);
}

/** The stand-ins' process, on a port of its own choice the first time. @param {number} port */
function forkDevice(port) {
  return fork(path.join(root, "device/dist/main.js"), [], {
    cwd: root,
    detached: true,
    env: {
      ...process.env,
      NODE_ENV: "production",
      GIDDY_DEVICE_DATA: path.join(dataFolder, "robots"),
      GIDDY_DEVICE_PORT: String(port),
      GIDDY_DEMO: path.join(root, "demo"),
    },
  });
}

/** Starts the stand-ins and starts them again when their process ends: a robot that failed is switched on again. */
async function startDevice() {
  let child = forkDevice(0);
  let wanted = true;
  const port = await /** @type {Promise<number>} */ (
    new Promise((resolve, reject) => {
      child.once("message", (message) => resolve(/** @type {{ port: number }} */ (message).port));
      child.once("exit", () => reject(new SetupError("The stand-in robots stopped while starting; their last words are above.")));
    })
  );
  const again = () => {
    if (!wanted) return;
    say("the stand-in robots stopped and are started again");
    setTimeout(() => {
      if (!wanted) return;
      child = forkDevice(port);
      child.once("exit", again);
    }, 500);
  };
  child.once("exit", again);
  return {
    port,
    async stop() {
      wanted = false;
      child.kill("SIGTERM");
      await untilExit(child);
    },
  };
}

/** @param {string} database @param {number} port @param {string} instance @param {number} devicePort */
function startWeb(database, port, instance, devicePort) {
  return fork(path.join(root, "web/dist/host/main.js"), [], {
    cwd: root,
    detached: true,
    env: {
      ...process.env,
      NODE_ENV: "production",
      GIDDY_DATABASE: database,
      GIDDY_PORT: String(port),
      GIDDY_INSTANCE: instance,
      GIDDY_DEVICE_PORT: String(devicePort),
      GIDDY_DEMO: path.join(root, "demo"),
    },
  });
}

/** @param {import("node:child_process").ChildProcess} child @returns {Promise<void>} once it serves */
function untilServing(child) {
  return new Promise((resolve, reject) => {
    child.once("message", () => resolve());
    child.once("exit", () => reject(new SetupError("The web server stopped while starting; its last words are above.")));
  });
}

/** @param {import("node:child_process").ChildProcess} child @returns {Promise<void>} */
function untilExit(child) {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => child.once("exit", () => resolve()));
}

async function main() {
  process.stdout.write("Giddy Pebble\n");
  await ensureModules(root);
  mkdirSync(dataFolder, { recursive: true });
  const already = await runningUrl();
  if (already) {
    process.stdout.write(`\n  Giddy Pebble is already running: ${already}\n\n`);
    return 0;
  }
  const unlock = takeLock();
  process.on("exit", unlock);
  // Until the servers run, an interrupt only has to be remembered; afterwards it ends the wait below.
  let interrupted = false;
  let wake = () => {};
  for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) {
    process.on(signal, () => {
      interrupted = true;
      wake();
    });
  }
  await ensureBuild(root);
  const cluster = await startCluster(path.join(dataFolder, "database"), { durable: true });
  try {
    const port = await choosePort(Number(process.env.GIDDY_PORT ?? DEFAULT_PORT), process.env.GIDDY_PORT !== undefined);
    const instance = `${process.pid}-${Date.now()}`;
    const device = await startDevice();
    const web = startWeb(connectionString(cluster, "giddy_pebble"), port, instance, device.port);
    try {
      await untilServing(web);
      const url = `http://127.0.0.1:${port}/`;
      writeFileSync(runFile, JSON.stringify({ pid: process.pid, url, instance }));
      unlock();
      process.stdout.write(`\n  Open ${url}   (Ctrl-C stops it; your work is kept)\n\n`);
      await Promise.race([
        untilExit(web),
        new Promise((resolve) => {
          wake = () => resolve(undefined);
          if (interrupted) wake();
        }),
      ]);
      if (!interrupted)
        throw new SetupError("The web server stopped by itself; its last words are above. Start again; nothing saved is lost.");
    } finally {
      web.kill("SIGTERM");
      await untilExit(web);
      await device.stop();
      rmSync(runFile, { force: true });
    }
  } finally {
    stopCluster(cluster);
  }
  process.stdout.write("  stopped\n");
  return 0;
}

await runMain(main);
process.exit();
