// npm test: sets up all it needs, runs every check, ends with "N passed, N failed".
import { fork } from "node:child_process";
import { mkdirSync, readdirSync, readFileSync, rmSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { ensureBuild } from "./lib/build.mjs";
import { ensureChromium } from "./lib/chromium.mjs";
import { captureLater, isAlive, passThrough } from "./lib/command.mjs";
import { ensureCompiler } from "./lib/compiler.mjs";
import { watchLent } from "./lib/lent.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { connectionString, makeCluster, startCluster, stopCluster, stopLeftover } from "./lib/postgres.mjs";
import { runMain, SetupError } from "./lib/say.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const scratch = path.resolve(process.env.GIDDY_DATA ?? path.join(root, ".data"), "tests");
/** Attacks on the server while others work with it. */
const ATTACKED = ["web/test/server/hostile.test.ts"];
/** A soak of everything at once counts how much gets done: nothing runs beside it. */
const SOAKED = ["web/test/server/soak.test.ts"];
/** Mostly waits until what was ended is there again. */
const STARTS = ["web/test/server/start.test.ts"];
const began = Date.now();
const taken = watchLent();
let passed = 0;
let failed = 0;
/** What failed and why: said again at the end, where it is looked for. @type {string[]} */
const failures = [];

/** A heading of what is printed next, with the time that went by until now. @param {string} title */
function head(title) {
  process.stdout.write(`\n== ${title} (after ${Math.round((Date.now() - began) / 1000)} s)\n`);
}

/**
 * A check beside the tests: what it says is printed when it has ended.
 * @param {string} title @param {string[]} command @param {NodeJS.ProcessEnv} env
 */
async function check(title, command, env) {
  const [program, ...args] = command;
  const done = await captureLater(/** @type {string} */ (program), args, { cwd: root, env });
  head(title);
  process.stdout.write(done.out + done.err);
  if (done.ok) passed += 1;
  else fail(`${title}\n${lastLines(done.out + done.err, 40)}`);
}

/** @param {string} what - failed, and why */
function fail(what) {
  failed += 1;
  failures.push(what);
}

/** @param {string} text @param {number} count - lines @returns {string} its last lines */
function lastLines(text, count) {
  return text.trimEnd().split("\n").slice(-count).join("\n");
}

/**
 * What a report of Vitest says of what failed.
 * @param {{name: string, status: string, message: string, assertionResults: {status: string, fullName: string, failureMessages: string[]}[]}[]} files
 */
function tellFailures(files) {
  for (const { name, status, message, assertionResults } of files) {
    const file = path.relative(root, name);
    const those = assertionResults.filter((one) => one.status === "failed");
    for (const { fullName, failureMessages } of those) failures.push(`${file}: ${fullName}\n${failureMessages.join("\n")}`);
    if (status === "failed" && those.length === 0) failures.push(`${file}\n${message}`);
  }
}

/**
 * @param {string} project - a Vitest project @param {string} folder - for its report @param {NodeJS.ProcessEnv} env
 * @param {{name?: string, more?: string[], beside?: boolean}} options - a name of its own, arguments for Vitest, and
 *   whether it runs beside another: then what it says is printed when it has ended
 */
async function vitest(project, folder, env, { name = project, more = [], beside = false } = {}) {
  const report = path.join(folder, `${name.replaceAll(" ", "-")}.json`);
  const reporters = ["--reporter=dot", "--reporter=json", `--outputFile.json=${report}`];
  const args = ["--no-install", "vitest", "run", "--project", project, ...reporters, ...more];
  let ok = false;
  if (beside) {
    const done = await captureLater("npx", args, { cwd: root, env });
    head(`${name} tests, ended`);
    process.stdout.write(done.out + done.err);
    ({ ok } = done);
  } else {
    head(`${name} tests`);
    ok = (await passThrough("npx", args, { cwd: root, env })) === 0;
  }
  let ran = { numPassedTests: 0, numFailedTests: 0, testResults: [] };
  try {
    ran = JSON.parse(readFileSync(report, "utf8"));
  } catch {
    process.stdout.write(`The ${name} tests wrote no report.\n`);
  }
  passed += ran.numPassedTests;
  failed += ran.numFailedTests;
  tellFailures(ran.testResults);
  if (ran.numPassedTests + ran.numFailedTests === 0) fail(`No ${name} test ran: that counts as a failure.`);
  else if (!ok && ran.numFailedTests === 0) fail(`The ${name} tests ended with an error outside a test. What is printed above says which.`);
}

/** Has a server make a database with the demo in it, which tests copy. @param {NodeJS.ProcessEnv} env @returns {Promise<string>} its name */
async function makeTemplate(env) {
  const name = "demo_template";
  const database = new URL(/** @type {string} */ (env.GIDDY_TEST_DATABASE));
  database.pathname = `/${name}`;
  const server = fork(path.join(root, "web/dist/host/main.js"), [], {
    env: { ...env, NODE_ENV: "production", GIDDY_DATABASE: database.href, GIDDY_PORT: "0", GIDDY_INSTANCE: "test" },
  });
  const ended = new Promise((resolve) => server.once("exit", resolve));
  const ready = new Promise((resolve) => server.once("message", () => resolve(true)));
  if (!(await Promise.race([ready, ended.then(() => false)]))) throw new SetupError("The server did not start. The lines above say why.");
  server.kill("SIGTERM");
  await ended;
  return name;
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
  // The compiler of types clears its memory less often: a fifth less work for it, and a tenth more memory.
  process.env.GOGC ??= "400";
  // What Debian has is installed while npm installs what it has.
  const modules = ensureModules(root, { buildsLater: true });
  modules.catch(() => {});
  sweep();
  const folder = path.join(scratch, String(process.pid));
  mkdirSync(folder, { recursive: true });
  try {
    await everything(folder, modules);
  } finally {
    await modules.catch(() => {});
    rmSync(folder, { recursive: true, force: true });
  }
  return failed === 0 && passed > 0 ? 0 : 1;
}

/** @param {string} folder - for the reports and the database @param {Promise<void>} modules - of Node, on their way */
async function everything(folder, modules) {
  const chromium = ensureChromium();
  ensureCompiler();
  const database = path.join(folder, "database");
  const made = makeCluster(database);
  const cleanUp = () => {
    stopCluster(made);
    if (!made.folder.startsWith(folder)) rmSync(made.folder, { recursive: true, force: true });
  };
  for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) {
    process.on(signal, () => {
      cleanUp();
      rmSync(folder, { recursive: true, force: true });
      process.exit(130);
    });
  }
  await modules.catch((error) => {
    cleanUp();
    throw error;
  });
  const cluster = await startCluster(database, { durable: false });
  /** @type {NodeJS.ProcessEnv} */
  const built = { ...process.env, GIDDY_BUILT: "1", GIDDY_DEMO: path.join(root, "demo") };
  /** @type {Promise<void> | undefined} */
  let core;
  // The core's tests need nothing else: the pages are built beside them.
  const begin = () => {
    core ??= vitest("core", folder, built, { beside: true });
  };
  // Looks at sources alone: beside what takes one processor.
  const lint = check("lint", ["npm", "run", "--silent", "lint"], process.env);
  try {
    await ensureBuild(root, begin);
    begin();
    /** @type {NodeJS.ProcessEnv} */
    const env = {
      ...built,
      ASTRO_TELEMETRY_DISABLED: "1",
      GIDDY_TEST_DATABASE: connectionString(cluster, "postgres"),
      GIDDY_CHROMIUM: chromium,
    };
    env.GIDDY_TEST_TEMPLATE = await makeTemplate(env);
    const apart = [...ATTACKED, ...SOAKED, ...STARTS].flatMap((file) => ["--exclude", file]);
    // Server tests wait for their database much of the time: something else is always at work beside them.
    const unit = Promise.resolve(core).then(() => vitest("unit", folder, env, { more: ["--project", "mocking"], beside: true }));
    const others = async () => {
      await vitest("server", folder, env, { more: apart });
      await vitest("server", folder, env, { name: "start", more: STARTS, beside: true });
      // Building has tried the types of what was built.
      await check("types", ["npm", "run", "--silent", "typecheck:built"], env);
      await vitest("server", folder, env, { name: "attacked server", more: ATTACKED });
    };
    await Promise.all([unit, others()]);
    await vitest("server", folder, env, { name: "soaked server", more: SOAKED });
    await vitest("browser", folder, env);
  } finally {
    await Promise.all([core, lint]);
    cleanUp();
  }
}

await runMain(async () => {
  try {
    return await main();
  } catch (error) {
    fail(error instanceof SetupError ? error.message : error instanceof Error ? String(error.stack) : String(error));
    return 1;
  }
});
if (failures.length > 0) {
  head("what failed");
  process.stdout.write(`${failures.join("\n\n")}\n`);
}
head("all done");
// A computer that is lent is slower when its host has other work: a time alone says nothing then.
const share = taken();
if (share !== null && share >= 0.01)
  process.stdout.write(`The host gave ${Math.round(share * 100)} % of the processors' time to others.\n`);
process.stdout.write(`${passed} passed, ${failed} failed\n`);
process.exit();
