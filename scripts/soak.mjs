// npm run soak: everything that should not happen, at once and from a seed, for ten minutes; with --full also a hundred
// thousand hostile missions and twenty thousand hostile documents; with --searches all tests with every case of their long
// searches, of which npm test takes a part. Prints counts; ends with 1 when one is not as it should be.
//
//   node scripts/soak.mjs [--minutes 10] [--seed 1] [--rest 9] [--kills N] [--calm] [--full] [--searches] [--json]
import { spawn } from "node:child_process";
import { once } from "node:events";
import { readdirSync, readFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { Worker } from "node:worker_threads";
import { readJsonFile } from "./lib/files.mjs";
import { clearOwn, newData, startOwn, stopOwn } from "./lib/ownApp.mjs";
import { isMarked } from "./lib/process.mjs";
import { chanceOf } from "./soak/chance.mjs";
import { failure, newCounts } from "./soak/counts.mjs";
import { tryHostile } from "./soak/hostile.mjs";
import { ask, costlyRequest, oddRequest } from "./soak/requests.mjs";
import { oddLink, oddSocket } from "./soak/sockets.mjs";
import { residentMb, writer } from "./soak/watchers.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const { values } = parseArgs({
  options: {
    minutes: { type: "string", default: "10" },
    seed: { type: "string", default: "1" },
    /** Between two kills, s: half of it to one and a half times. */
    rest: { type: "string", default: "9" },
    /** It ends once so many kills were survived, if the minutes are not over before. */
    kills: { type: "string", default: "" },
    /** Kills nothing. */
    calm: { type: "boolean", default: false },
    full: { type: "boolean", default: false },
    searches: { type: "boolean", default: false },
    json: { type: "boolean", default: false },
  },
});
const minutes = Number(values.minutes);
const seed = Number(values.seed);
const restMs = 1000 * Number(values.rest);
const mostKills = values.kills === "" ? Number.POSITIVE_INFINITY : Number(values.kills);
if (!(minutes > 0) || !Number.isInteger(seed) || !(restMs > 0) || !(mostKills > 0)) {
  process.stderr.write(
    "--minutes takes a number of minutes, --seed a whole number, --rest a number of seconds, --kills a number from 1 on.\n",
  );
  process.exit(2);
}

/** Memory that one process may take, MB. */
const MOST_RSS_MB = 400;
/** How long the application may be away after a kill, ms. */
const MOST_AWAY_MS = 60_000;

const data = newData();
const demo = path.join(root, "demo");
const counts = newCounts();
let killing = false;
let over = false;
/** @type {(message: object) => void} */
let halts = () => {};

/** @returns {Promise<void>} once database and robots answer */
async function untilWell(/** @type {string} */ url) {
  const begun = performance.now();
  for (;;) {
    const answer = await ask(`${url}/api/health`, "GET", {}, null, 5000);
    const health = answer ? JSON.parse(answer.text || "{}") : null;
    if (health?.ok && health.robots?.ok) break;
    if (performance.now() - begun > MOST_AWAY_MS)
      return failure(counts, `the application was away for more than ${MOST_AWAY_MS / 1000} s: ${answer?.text ?? "no answer"}`);
    await pause(100);
  }
  counts.longestAwayMs = Math.max(counts.longestAwayMs, Math.round(performance.now() - begun));
}

/** @param {number} ms @returns {Promise<void>} */
const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

/** @returns {{ name: string, pid: number }[]} processes that can be killed */
function parts() {
  const children = /** @type {{ pid: number }[]} */ (readJsonFile(path.join(data, "children.json")) ?? []);
  const found = children.filter(isMarked).map(({ pid }, i) => ({ name: i === 0 ? "robots" : "web", pid }));
  const postmaster = postmasterPid();
  return postmaster === null ? found : [...found, { name: "database", pid: postmaster }];
}

/** @returns {number | null} */
function postmasterPid() {
  for (const folder of [path.join(data, "database")]) {
    try {
      return Number(readFileSync(path.join(folder, "pg/postmaster.pid"), "utf8").split("\n")[0]);
    } catch {
      // elsewhere, or between two lives
    }
  }
  return null;
}

async function main() {
  let running = await startOwn(data);
  const samples = {
    robots: readdirSync(demo)
      .filter((name) => name.endsWith(".robot.json"))
      .map((name) => JSON.parse(readFileSync(path.join(demo, name), "utf8"))),
    missions: readdirSync(path.join(demo, "missions")).map((name) => readFileSync(path.join(demo, "missions", name), "utf8")),
  };
  const target = { url: running.url, robotsPort: running.robotsPort, counts, quiet: () => !killing && !over, samples };
  await untilWell(target.url);
  const begun = performance.now();
  let until = begun + minutes * 60_000;
  const { write, verify } = writer(target);

  /** @param {number} stream @param {(chance: import("./soak/chance.mjs").Chance) => Promise<unknown>} attack @param {number} restMs */
  const attacker = async (stream, attack, restMs) => {
    const chance = chanceOf(seed * 7919 + stream);
    while (performance.now() < until) {
      await attack(chance).catch((error) => failure(counts, `an attacker failed: ${error instanceof Error ? error.stack : error}`));
      if (restMs > 0) await pause(restMs);
    }
  };
  const watchMemory = async () => {
    while (performance.now() < until) {
      for (const { name, pid } of parts()) counts.mostRssMb[name] = Math.max(counts.mostRssMb[name] ?? 0, Math.round(residentMb(pid)));
      await pause(250);
    }
  };
  const kill = async () => {
    const chance = chanceOf(seed * 7919 + 99);
    await pause(Math.min(3000, restMs));
    for (let turn = 0; turn < mostKills && performance.now() < until - 6000; turn += 1) {
      const victims = parts();
      const wanted = ["web", "robots", "database", "all"][turn % 4];
      killing = true;
      halts({ kind: "quiet", quiet: false });
      counts.kills[/** @type {string} */ (wanted)] = (counts.kills[/** @type {string} */ (wanted)] ?? 0) + 1;
      if (wanted === "all") {
        // The process that keeps the others first, so that it cannot start them again.
        running.child.kill("SIGKILL");
        for (const { pid } of victims) endOne(pid);
        await pause(chance.below(300));
        running = await startOwn(data);
        target.robotsPort = running.robotsPort;
        halts({ kind: "port", port: running.robotsPort });
      } else for (const { name, pid } of victims) if (name === wanted) endOne(pid);
      counts.restarts += 1;
      await untilWell(target.url);
      await pause(500);
      killing = false;
      halts({ kind: "quiet", quiet: true });
      await pause(restMs * (0.5 + chance.uniform()));
    }
    if (counts.restarts >= mostKills) until = performance.now();
  };
  const halter = new Worker(new URL("./soak/halter.mjs", import.meta.url), {
    workerData: { seed: seed * 7919 + 7, robots: samples.robots, url: target.url, robotsPort: target.robotsPort },
  });
  halts = (message) => halter.postMessage(message);
  // The attackers leave the processor to those they attack; the thread that measures halts was made before.
  os.setPriority(0, 10);
  await Promise.all([
    attacker(1, (chance) => oddRequest(chance, target), 0),
    attacker(2, (chance) => oddRequest(chance, target), 0),
    attacker(3, (chance) => oddSocket(chance, target), 0),
    attacker(4, (chance) => oddLink(chance, target), 0),
    attacker(5, (chance) => costlyRequest(chance, target), 800),
    attacker(6, write, 5),
    watchMemory(),
    values.calm ? Promise.resolve() : kill(),
  ]);
  over = true;
  soakedMinutes = (performance.now() - begun) / 60_000;
  const halted = await new Promise((resolve) => {
    halter.once("message", resolve);
    halter.postMessage({ kind: "over" });
  });
  counts.halts = halted.halts;
  counts.longestHaltMs = halted.longestHaltMs;
  for (const one of halted.failures) failure(counts, one);
  await untilWell(target.url);
  const documents = await verify();
  await stopOwn(running.child);
  return documents;
}

/** @param {number} pid */
function endOne(pid) {
  try {
    process.kill(pid, "SIGKILL");
  } catch {
    // gone meanwhile
  }
}

let documents = 0;
let soakedMinutes = 0;
try {
  documents = await main();
} catch (error) {
  failure(counts, error instanceof Error ? (error.stack ?? error.message) : String(error));
} finally {
  await clearOwn(data);
}

const hostile = [];
if (values.full) {
  for (const [kind, count] of /** @type {const} */ ([
    ["mission", 100_000],
    ["document", 20_000],
  ])) {
    const result = await tryHostile(kind, count, seed);
    hostile.push({ kind, ...result, failures: result.failures.length });
    for (const one of result.failures) failure(counts, one);
  }
}
if (values.searches) {
  // What is on its way is told beside what this prints.
  const tests = spawn(process.execPath, [path.join(root, "scripts/test.mjs")], {
    stdio: ["ignore", process.stderr.fd, process.stderr.fd],
    env: { ...process.env, GIDDY_SEARCHES: "whole" },
  });
  const [status] = await once(tests, "exit");
  if (status !== 0) failure(counts, `the tests with all cases of their long searches ended with ${status}; what is above says why`);
}
for (const [name, mb] of Object.entries(counts.mostRssMb))
  if (name !== "database" && mb > MOST_RSS_MB) failure(counts, `${name} took ${mb} MB, more than ${MOST_RSS_MB}`);

if (values.json) process.stdout.write(`${JSON.stringify({ ...counts, documents, hostile })}\n`);
else {
  const { failures, ...shown } = counts;
  process.stdout.write(`seed ${seed}, ${soakedMinutes.toFixed(1)} minutes\n`);
  for (const [name, value] of Object.entries({ ...shown, keptDocuments: documents }))
    process.stdout.write(`  ${name.padEnd(16)} ${typeof value === "object" ? JSON.stringify(value) : value}\n`);
  for (const one of hostile)
    process.stdout.write(
      `  hostile ${one.kind}s: ${one.tried} tried, ${one.ran} ran, ${one.failures} failed, ${one.slow} over a second, ${one.hangs} hung\n`,
    );
  for (const one of failures) process.stdout.write(`  ! ${one}\n`);
  process.stdout.write(failures.length === 0 ? "nothing came down\n" : `${failures.length} failures\n`);
}
process.exit(counts.failures.length === 0 ? 0 : 1);
