// npm test: sets up all it needs, runs every check, ends with "N passed, N failed".
import { mkdirSync, readdirSync, readFileSync, rmSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { ensureBuild } from "./lib/build.mjs";
import { ensureChromium } from "./lib/chromium.mjs";
import { captureLater, isAlive, passThrough } from "./lib/command.mjs";
import { ensureCompiler } from "./lib/compiler.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { connectionString, startCluster, stopCluster, stopLeftover } from "./lib/postgres.mjs";
import { runMain, SetupError, say } from "./lib/say.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const scratch = path.resolve(process.env.GIDDY_DATA ?? path.join(root, ".data"), "tests");
let passed = 0;
let failed = 0;

/**
 * A check beside the tests: what it says is printed when it has ended.
 * @param {string} title @param {string[]} command @param {NodeJS.ProcessEnv} env
 */
async function check(title, command, env) {
  const [program, ...args] = command;
  const done = await captureLater(/** @type {string} */ (program), args, { cwd: root, env });
  process.stdout.write(`\n== ${title}\n${done.out}${done.err}`);
  if (done.ok) passed += 1;
  else failed += 1;
}

/** @param {string} project - a Vitest project @param {string} folder - for its report @param {NodeJS.ProcessEnv} env */
async function vitest(project, folder, env) {
  process.stdout.write(`\n== ${project} tests\n`);
  const report = path.join(folder, `${project}.json`);
  const args = ["vitest", "run", "--project", project, "--reporter=dot", "--reporter=json", `--outputFile.json=${report}`];
  const status = await passThrough("npx", ["--no-install", ...args], { cwd: root, env });
  let ran = { numPassedTests: 0, numFailedTests: 0, numFailedTestSuites: 0 };
  try {
    ran = JSON.parse(readFileSync(report, "utf8"));
  } catch {
    process.stdout.write(`The ${project} tests wrote no report.\n`);
  }
  passed += ran.numPassedTests;
  failed += ran.numFailedTests;
  if (ran.numPassedTests + ran.numFailedTests === 0) {
    process.stdout.write(`No ${project} test ran: that counts as a failure.\n`);
    failed += 1;
  } else if (status !== 0 && ran.numFailedTests === 0) failed += 1;
}

/** Clusters of test runs that were killed: stopped and removed. */
function sweep() {
  mkdirSync(scratch, { recursive: true });
  for (const name of readdirSync(scratch)) {
    if (isAlive(Number(name))) continue;
    stopLeftover(path.join(scratch, name, "database"));
    rmSync(path.join(scratch, name), { recursive: true, force: true });
  }
}

async function main() {
  process.stdout.write("Giddy Pebble, all checks\n");
  await ensureModules(root);
  const chromium = ensureChromium();
  ensureCompiler();
  sweep();
  const folder = path.join(scratch, String(process.pid));
  mkdirSync(folder, { recursive: true });
  const cluster = await startCluster(path.join(folder, "database"), { durable: false });
  const cleanUp = () => {
    stopCluster(cluster);
    rmSync(folder, { recursive: true, force: true });
    if (!cluster.folder.startsWith(folder)) rmSync(cluster.folder, { recursive: true, force: true });
  };
  for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) {
    process.on(signal, () => {
      cleanUp();
      process.exit(130);
    });
  }
  try {
    await ensureBuild(root);
    const env = {
      ...process.env,
      ASTRO_TELEMETRY_DISABLED: "1",
      GIDDY_TEST_DATABASE: connectionString(cluster, "postgres"),
      GIDDY_CHROMIUM: chromium,
      GIDDY_DEMO: path.join(root, "demo"),
    };
    await vitest("core", folder, env);
    await vitest("unit", folder, env);
    // The tests of the server run one file at a time: types and style are looked at beside them.
    const beside = check("lint", ["npm", "run", "--silent", "lint"], env).then(() =>
      check("types", ["npm", "run", "--silent", "typecheck"], env),
    );
    await Promise.all([vitest("server", folder, env), beside]);
    await vitest("browser", folder, env);
  } finally {
    cleanUp();
  }
  return failed === 0 && passed > 0 ? 0 : 1;
}

await runMain(async () => {
  try {
    return await main();
  } catch (error) {
    failed += 1;
    if (error instanceof SetupError) say(error.message);
    else process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
    return 1;
  }
});
process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exit();
