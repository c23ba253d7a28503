// Node modules: installed when missing or when the lock file changed since.
import { createHash } from "node:crypto";
import { existsSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { capture, captureLater } from "./command.mjs";
import { readJsonFile } from "./files.mjs";
import { showProgress } from "./progress.mjs";
import { SetupError, say } from "./say.mjs";

const QUIET = [
  "--no-audit",
  "--no-fund",
  "--loglevel=error",
  "--fetch-retries=1",
  "--fetch-retry-mintimeout=2000",
  "--fetch-retry-maxtimeout=4000",
];
/** With it npm's own build after an install is left out: whoever installs builds afterwards. */
export const BUILDS_LATER = "GIDDY_BUILDS_LATER";
/** Exactly what the lock file says. */
const EXACT = ["ci", ...QUIET];
/** For machines whose platform's optional packages are not in the lock file: npm ci refuses those. */
const NEAR = ["install", "--no-save", ...QUIET];

/** How many of the lock file's packages are there already. @param {string} root @param {string[]} places */
function installedShare(root, places) {
  const there = places.filter((place) => existsSync(path.join(root, place))).length;
  return `${there} of ${places.length} packages`;
}

/** @param {string} root @param {boolean} buildsLater @returns {Promise<boolean>} whether npm put them there */
async function install(root, buildsLater) {
  const lock = /** @type {{ packages?: Record<string, { optional?: boolean }> } | null} */ (
    readJsonFile(path.join(root, "package-lock.json"))
  );
  const places = Object.entries(lock?.packages ?? {}).flatMap(([place, { optional }]) =>
    place.startsWith("node_modules/") && !optional ? [place] : [],
  );
  const done = showProgress("installing node modules (a minute or two, once)", () => installedShare(root, places));
  try {
    const options = { cwd: root, env: { ...process.env, [BUILDS_LATER]: buildsLater ? "1" : "" } };
    const exact = await captureLater("npm", EXACT, options);
    if (exact.ok) return true;
    if (!/EUSAGE|npm ci. can only install/.test(exact.err)) {
      process.stderr.write(exact.err);
      return false;
    }
    say("npm ci cannot use the lock file on this platform, which has other optional packages; npm install does");
    const near = await captureLater("npm", NEAR, options);
    if (!near.ok) process.stderr.write(near.err);
    return near.ok;
  } finally {
    done();
  }
}

/** A registry that answers at all, be it with an error, is there. @param {string} root */
function registryAnswers(root) {
  const asked = capture("npm", ["ping", "--fetch-retries=0", "--fetch-timeout=10000"], { cwd: root, timeout: 30_000 });
  return asked.ok || /\bE\d{3}\b/.test(asked.err);
}

/** @param {string} root - the repository @param {{ buildsLater?: boolean }} [options] - whether whoever asks builds afterwards */
export async function ensureModules(root, { buildsLater = false } = {}) {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    throw new SetupError(`Node ${process.versions.node} is too old. Install Node 20.19 or newer and start again.`);
  }
  const lock = path.join(root, "package-lock.json");
  const stamp = path.join(root, "node_modules", ".giddy-stamp");
  const wanted = createHash("sha256").update(readFileSync(lock)).digest("hex");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === wanted) return;
  rmSync(stamp, { force: true });
  // npm itself would go on trying, package by package, for minutes.
  if (!registryAnswers(root)) {
    throw new SetupError(
      "The node modules are missing and the package registry cannot be reached. Connect to the network once and start again.",
    );
  }
  if (!(await install(root, buildsLater))) {
    throw new SetupError(
      "The node modules could not be installed; npm's own words are above. Mend that (often: disk full) and start again.",
    );
  }
  writeFileSync(stamp, wanted);
}
