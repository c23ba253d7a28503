// @ts-nocheck: figures for people, checked by running it
// Playing a run on the field: what a frame takes of the page, with a plan of minutes against one of seconds. In an
// application of its own, in a browser that draws without a graphics processor.
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import puppeteer from "puppeteer-core";
import { chromiumOptions } from "../scripts/lib/chromium.mjs";
import { endAlone, url } from "./lib/own.mjs";

const PLAY_MS = 4000;
const HEAD = 'cairn 1\nrobot "Drizzle"\n\nmission\n';
const MISSIONS = [
  ["a plan of seconds", `${HEAD}  go 60 cm at 10 cm/s\n`],
  ["a plan of minutes", `${HEAD}  repeat 60 times\n    go 60 cm at 20 cm/s\n    turn left 95 deg\n`],
];

const profile = mkdtempSync(path.join(os.tmpdir(), "giddy-bench-"));
const browser = await puppeteer.launch({ ...chromiumOptions(), userDataDir: profile });
const say = (words) => process.stdout.write(`${words}\n`);

/** What a frame takes while the playhead of a mission moves, ms. */
async function frameMs([name, text]) {
  const made = await fetch(`${url}/api/documents`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ kind: "mission", name: `${name} ${Date.now()}`, text }),
  });
  const { document } = await made.json();
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  await page.goto(`${url}/mission?mission=${document.id}`);
  await page.waitForSelector('canvas[data-plan="whole"]');
  const session = await page.createCDPSession();
  await session.send("Performance.enable");
  const taken = async () => {
    const { metrics } = await session.send("Performance.getMetrics");
    return metrics.find((metric) => metric.name === "TaskDuration").value * 1000;
  };
  await (await page.waitForSelector("::-p-aria(Play)")).click();
  const before = await taken();
  const frames = await page.evaluate(
    (ms) =>
      new Promise((resolve) => {
        const from = performance.now();
        let count = 0;
        const frame = (now) => {
          if (now - from > ms) return resolve(count);
          count += 1;
          requestAnimationFrame(frame);
        };
        requestAnimationFrame(frame);
      }),
    PLAY_MS,
  );
  const each = ((await taken()) - before) / frames;
  say(`playing ${name}: ${frames} frames in ${PLAY_MS / 1000} s, ${each.toFixed(1)} ms of the page each`);
  await page.close();
  return each;
}

try {
  const [short, long] = [await frameMs(MISSIONS[0]), await frameMs(MISSIONS[1])];
  say(`a frame with a plan of minutes against one of seconds: ${(long / short).toFixed(2)} times`);
} finally {
  await browser.close();
  rmSync(profile, { recursive: true, force: true });
}
await endAlone(import.meta.url);
