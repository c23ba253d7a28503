// @ts-nocheck: figures for people, checked by running it
// What a page costs when there is much: 2,000 documents and 20,000 runs in an application of its own. Prints how long
// each question takes (p50, p99), and how many questions each workplace asks until it is open.
//
//   node bench/pages.mjs [--documents 2000] [--trials 20000]
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import puppeteer from "puppeteer-core";
import { CORE_VERSION, packTrace, prepareMission, readField, readRobot, rehearse } from "../core/dist/index.js";
import { chromiumOptions } from "../scripts/lib/chromium.mjs";
import { clearOwn, newData, startOwn, stopOwn } from "../scripts/lib/ownApp.mjs";

const { values } = parseArgs({
  options: { documents: { type: "string", default: "2000" }, trials: { type: "string", default: "20000" } },
});
const [documents, trials] = [Number(values.documents), Number(values.trials)];
const demo = path.join(path.dirname(path.dirname(fileURLToPath(import.meta.url))), "demo");
const file = (name) => readFileSync(path.join(demo, name), "utf8");
const say = (words) => process.stdout.write(`${words}\n`);

const data = newData();
let url = "";
async function call(method, address, body, headers = {}) {
  const answer = await fetch(url + address, {
    method,
    headers: { ...(body ? { "content-type": "application/json" } : {}), ...headers },
    body: body ? JSON.stringify(body) : undefined,
  });
  if (!answer.ok) throw new Error(`${method} ${address}: ${answer.status} ${await answer.text()}`);
  return answer.json();
}

/** Does something many times, eight at once. */
async function many(count, act) {
  let next = 0;
  const worker = async () => {
    while (next < count) {
      const i = next;
      next += 1;
      await act(i);
    }
  };
  await Promise.all(Array.from({ length: 8 }, worker));
}

/** Robots, fields and missions in the shares a club has, and runs of the missions. */
async function fill() {
  const robot = JSON.parse(file("drizzle.robot.json"));
  const field = JSON.parse(file("fellside.field.json"));
  const text = file("missions/first-roll-out.cairn");
  const listed = (await call("GET", "/api/documents")).documents;
  const robotRevision = (await call("GET", `/api/documents/${listed.find(({ name }) => name === "Drizzle").id}`)).head
    .id;
  const missions = [];
  await many(documents, async (i) => {
    const name = `Bench ${i}`;
    const body =
      i % 20 === 0
        ? { kind: "robot", name, body: { ...robot, name } }
        : i % 20 === 1
          ? { kind: "field", name, body: { ...field, name } }
          : { kind: "mission", name, text };
    const { document } = await call("POST", "/api/documents", body);
    if (body.kind === "mission") missions.push(document.id);
  });
  const heads = new Map();
  // A short run: the answers do not depend on how long it was, and 20,000 of them are stored sooner.
  const short = 'cairn 1\nrobot "Drizzle"\n\nmission\n  go 10 cm\n';
  const prepared = prepareMission(short, readRobot(robot).document, readField(field).document);
  const run = rehearse(prepared, { seed: 7, ideal: false });
  const trace = Buffer.from(packTrace(run.trace)).toString("base64");
  await many(trials, async (i) => {
    // Half of the runs are of the one mission that everybody works on.
    const id = missions[i % 2 === 0 ? 0 : i % missions.length];
    if (!heads.has(id)) heads.set(id, (await call("GET", `/api/documents/${id}`)).head.id);
    await call("POST", "/api/trials", {
      missionRevision: heads.get(id),
      robotRevision,
      fieldRevision: null,
      coreVersion: CORE_VERSION,
      source: "rehearsal",
      seed: i,
      ideal: false,
      outcome: run.summary.outcome,
      success: i % 3 > 0,
      score: run.summary.score,
      durationMs: run.summary.durationMs,
      summary: run.summary,
      trace,
    });
  });
  return missions[0];
}

const share = (sorted, part) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * part))];

const { child } = await startOwn(data).then((own) => {
  url = own.url;
  return own;
});
const profile = mkdtempSync(path.join(os.tmpdir(), "giddy-bench-"));
let browser = null;
try {
  const begun = performance.now();
  const mission = await fill();
  say(`${documents} documents and ${trials} runs, stored in ${((performance.now() - begun) / 1000).toFixed(0)} s`);
  const [trial] = (await call("GET", `/api/trials?mission=${mission}&limit=1`)).trials;
  const { next } = await call("GET", "/api/trials?limit=50");
  say("  question                        p50 ms   p99 ms    KB");
  let worst = 0;
  for (const [name, address] of [
    ["overview", "/api/overview"],
    ["missions", "/api/documents?kind=mission"],
    ["all documents", "/api/documents"],
    ["a document", `/api/documents/${mission}`],
    ["its versions", `/api/documents/${mission}/revisions`],
    ["newest runs", "/api/trials"],
    ["older runs", `/api/trials?cursor=${encodeURIComponent(next)}`],
    ["runs of a mission", `/api/trials?mission=${mission}`],
    ["a run", `/api/trials/${trial.id}`],
    ["its trace", `/api/trials/${trial.id}/trace`],
    ["studies", "/api/studies"],
  ]) {
    const times = [];
    let bytes = 0;
    for (let i = 0; i < 220; i += 1) {
      const asked = performance.now();
      bytes = (await (await fetch(url + address)).arrayBuffer()).byteLength;
      // The first twenty warm it up.
      if (i >= 20) times.push(performance.now() - asked);
    }
    times.sort((a, b) => a - b);
    worst = Math.max(worst, share(times, 0.99));
    say(
      `  ${name.padEnd(30)} ${share(times, 0.5).toFixed(1).padStart(7)}  ${share(times, 0.99).toFixed(1).padStart(7)} ${(bytes / 1024).toFixed(0).padStart(5)}`,
    );
  }
  say(`  worst p99 ${worst.toFixed(1)} ms (aim: under 150)`);
  browser = await puppeteer.launch({ ...chromiumOptions(), userDataDir: profile });
  for (const workplace of ["robot", "calibrate", `mission?mission=${mission}`, "drive", "trials"]) {
    const page = await browser.newPage();
    const asked = [];
    page.on("request", (request) => new URL(request.url()).pathname.startsWith("/api/") && asked.push(request.url()));
    const opened = performance.now();
    await page.goto(`${url}/${workplace}`);
    await page.waitForSelector("main h1, main h2");
    const shown = performance.now() - opened;
    await page.waitForNetworkIdle({ idleTime: 700 });
    say(
      `  ${workplace.split("?")[0].padEnd(10)} ${asked.length} questions, first heading after ${shown.toFixed(0)} ms`,
    );
    await page.close();
  }
} finally {
  await browser?.close();
  rmSync(profile, { recursive: true, force: true });
  await stopOwn(child);
  await clearOwn(data);
}
