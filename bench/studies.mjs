// 200 rehearsals of a 30 s mission in the real page: seconds until all are done, and the longest frame meanwhile.
// In an application of its own.
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import puppeteer from "puppeteer-core";
import { chromiumOptions } from "../scripts/lib/chromium.mjs";
import { endAlone, url } from "./lib/own.mjs";

const legs = "  repeat 6 times\n    go 50 cm at 25 cm/s\n    back 50 cm at 25 cm/s\n";
const text = `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\ngoal inside "hut dock"\n\nmission\n${legs}`;
const made = await fetch(`${url}/api/documents`, {
  method: "POST",
  headers: { "content-type": "application/json" },
  body: JSON.stringify({ kind: "mission", name: `Bench of many ${Date.now()}`, text }),
});
const { document } = await made.json();
const profile = mkdtempSync(path.join(os.tmpdir(), "giddy-bench-"));
const browser = await puppeteer.launch({ ...chromiumOptions(), userDataDir: profile });
try {
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  await page.goto(`${url}/mission?mission=${document.id}`);
  await page.waitForSelector(".row .took");
  const minutes = await page.$eval(".transport .quiet", (time) => time.textContent);
  for (const pass of ["first", "again"]) {
    await page.evaluate(() => {
      const frames = { worst: 0, on: true };
      Object.assign(window, { frames });
      let before = performance.now();
      const next = (/** @type {number} */ now) => {
        frames.worst = Math.max(frames.worst, now - before);
        before = now;
        if (frames.on) requestAnimationFrame(next);
      };
      requestAnimationFrame(next);
    });
    const begun = performance.now();
    await page.click('::-p-aria([name="Try 200 times"][role="button"])');
    await page.waitForFunction(() => window.document.querySelector(".panel [role=progressbar]") !== null);
    await page.waitForFunction(
      () =>
        window.document.querySelector(".panel .rate") !== null &&
        window.document.querySelector(".panel [role=progressbar]") === null,
      { timeout: 120_000 },
    );
    const seconds = (performance.now() - begun) / 1000;
    const worst = await page.evaluate(() => {
      const { frames } = /** @type {any} */ (window);
      frames.on = false;
      return frames.worst;
    });
    process.stdout.write(
      `200 rehearsals of a mission of ${minutes?.replace("/ ", "")} (${pass}): ${seconds.toFixed(1)} s, longest frame ${Number(worst).toFixed(0)} ms\n`,
    );
  }
} finally {
  await browser.close();
  rmSync(profile, { recursive: true, force: true });
}
await endAlone(import.meta.url);
