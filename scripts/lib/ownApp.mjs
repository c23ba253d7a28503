// An application of one's own, with its data in a folder of its own: for what would disturb the one a person uses.
import { fork } from "node:child_process";
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { endLeftovers } from "./children.mjs";
import { readJsonFile } from "./files.mjs";
import { tryPort } from "./port.mjs";
import { stopLeftover } from "./postgres.mjs";

const start = path.join(path.dirname(path.dirname(fileURLToPath(import.meta.url))), "start.mjs");

/** @returns {string} a new folder for its data */
export function newData() {
  const data = mkdtempSync(path.join(os.tmpdir(), "giddy-own-"));
  // As root the database runs as another user, who has to reach it.
  chmodSync(data, 0o755);
  return data;
}

/**
 * Starts it, or starts it again on the ports it had.
 * @param {string} data
 * @returns {Promise<{ child: import("node:child_process").ChildProcess, url: string, robotsPort: number }>}
 */
export async function startOwn(data) {
  const ports = path.join(data, "ports.json");
  const port = /** @type {{ web?: number } | null} */ (readJsonFile(ports))?.web ?? (await tryPort(0));
  const child = fork(start, [], {
    env: { ...process.env, GIDDY_DATA: data, GIDDY_PORT: String(port), GIDDY_LOG: "error" },
    stdio: ["ignore", "pipe", "pipe", "ipc"],
  });
  // It does not outlive the one that started it.
  const end = () => child.kill("SIGTERM");
  process.once("exit", end);
  child.once("exit", () => process.off("exit", end));
  for (const signal of /** @type {const} */ (["SIGINT", "SIGTERM"]))
    if (process.listenerCount(signal) === 0) process.once(signal, () => process.exit(1));
  let said = "";
  const url = await /** @type {Promise<string>} */ (
    new Promise((resolve, reject) => {
      const hear = (/** @type {Buffer} */ part) => {
        said = (said + part.toString()).slice(-20_000);
        const found = /Open (http:\S+)\//.exec(said);
        if (found) resolve(/** @type {string} */ (found[1]));
      };
      child.stdout?.on("data", hear);
      child.stderr?.on("data", hear);
      child.once("exit", (code) => reject(new Error(`start ended with ${code}: ${said.slice(-1500)}`)));
    })
  );
  return { child, url, robotsPort: /** @type {{ robots: number }} */ (readJsonFile(ports)).robots };
}

/** @param {import("node:child_process").ChildProcess} child @returns {Promise<void>} once it has ended */
export async function stopOwn(child) {
  const ended = new Promise((resolve) => child.once("exit", resolve));
  child.kill("SIGTERM");
  await ended;
}

/** Ends what is still there of it, however it ended, and takes its data away. @param {string} data */
export async function clearOwn(data) {
  await endLeftovers(path.join(data, "children.json"));
  stopLeftover(path.join(data, "database"));
  rmSync(data, { recursive: true, force: true, maxRetries: 5, retryDelay: 200 });
}
