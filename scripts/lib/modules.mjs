// Node modules: installed when missing or when the lock file changed since.
import { createHash } from "node:crypto";
import { existsSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { capture, passThrough } from "./command.mjs";
import { SetupError, say } from "./say.mjs";

// Not `npm ci`: it refuses a lock file made where a registry offers this platform's optional packages only.
const INSTALL = [
  "install",
  "--no-save",
  "--no-audit",
  "--no-fund",
  "--loglevel=error",
  "--fetch-retries=1",
  "--fetch-retry-mintimeout=2000",
  "--fetch-retry-maxtimeout=4000",
];

/** A registry that answers at all, be it with an error, is there. @param {string} root */
function registryAnswers(root) {
  const asked = capture("npm", ["ping", "--fetch-retries=0", "--fetch-timeout=10000"], { cwd: root, timeout: 30_000 });
  return asked.ok || /\bE\d{3}\b/.test(asked.err);
}

/** @param {string} root - the repository */
export async function ensureModules(root) {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    throw new SetupError(`Node ${process.versions.node} is too old. Install Node 20.19 or newer and start again.`);
  }
  const lock = path.join(root, "package-lock.json");
  const stamp = path.join(root, "node_modules", ".giddy-stamp");
  const wanted = createHash("sha256").update(readFileSync(lock)).digest("hex");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === wanted) return;
  rmSync(stamp, { force: true });
  say("installing node modules (a minute or two, once)");
  // npm itself would go on trying, package by package, for minutes.
  if (!registryAnswers(root)) {
    throw new SetupError(
      "The node modules are missing and the package registry cannot be reached. Connect to the network once and start again.",
    );
  }
  const status = await passThrough("npm", INSTALL, { cwd: root });
  if (status !== 0) {
    throw new SetupError(
      "The node modules could not be installed; npm's own words are above. Mend that (often: disk full) and start again.",
    );
  }
  writeFileSync(stamp, wanted);
}
