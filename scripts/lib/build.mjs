// Builds when a source file is newer than the last build.
import { existsSync, readdirSync, statSync, utimesSync, writeFileSync } from "node:fs";
import path from "node:path";
import { captureLater } from "./command.mjs";
import { showProgress } from "./progress.mjs";
import { SetupError } from "./say.mjs";

const STAMP = "web/dist/.built";
const OUTPUTS = [
  "core/dist/index.js",
  "core/dist/node.js",
  "cli/dist/main.js",
  "device/dist/main.js",
  "boards/dist/index.js",
  "web/dist/host/main.js",
  "web/dist/server/entry.mjs",
];
const SKIPPED = new Set(["node_modules", "dist", ".astro", "test"]);

const STAGES = [
  { title: "core, robots and command line", script: "build:parts" },
  { title: "the pages (half a minute)", script: "build:web" },
];

/** @param {string} folder @returns {number} newest modification time below it, ms */
function newestBelow(folder) {
  let newest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    // What a build writes asks for no other one.
    if (SKIPPED.has(entry.name) || entry.name.endsWith(".tsbuildinfo")) continue;
    const full = path.join(folder, entry.name);
    newest = Math.max(newest, entry.isDirectory() ? newestBelow(full) : statSync(full).mtimeMs);
  }
  return newest;
}

/** Whether a source is newer than the last build, or a part of the build is missing. @param {string} root */
export function needsBuild(root) {
  const newest = Math.max(
    ...["core", "boards", "cli", "device", "web"].map((name) => newestBelow(path.join(root, name))),
    statSync(path.join(root, "package-lock.json")).mtimeMs,
  );
  const stamp = path.join(root, STAMP);
  return !OUTPUTS.every((file) => existsSync(path.join(root, file))) || !existsSync(stamp) || statSync(stamp).mtimeMs <= newest;
}

/**
 * @param {string} root - the repository
 * @param {(script: string) => void} [built] - is told of each stage that is built, by the name of its script
 * @returns {Promise<void>} after a build, or at once when nothing changed
 */
export async function ensureBuild(root, built = () => {}) {
  if (!needsBuild(root)) return;
  const begun = new Date();
  const env = { ...process.env, ASTRO_TELEMETRY_DISABLED: "1", NODE_ENV: "production" };
  for (const [i, { title, script }] of STAGES.entries()) {
    const done = showProgress(`building ${title} (${i + 1} of ${STAGES.length})`, () => "");
    const { ok, out, err } = await captureLater("npm", ["run", script, "--silent"], { cwd: root, env });
    done();
    if (ok) {
      built(script);
      continue;
    }
    process.stderr.write(out + err);
    throw new SetupError("The build failed; the lines above say where. A clean clone of the main branch builds.");
  }
  const stamp = path.join(root, STAMP);
  writeFileSync(stamp, "");
  utimesSync(stamp, begun, begun);
}
