// Milliseconds from a typed digit to the new planned path on screen, in the real page of an application of its own.
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import puppeteer from "puppeteer-core";
import { chromiumOptions } from "../scripts/lib/chromium.mjs";
import { endAlone, url } from "./lib/own.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const text = readFileSync(path.join(root, "demo/bench.cairn"), "utf8");
const made = await fetch(`${url}/api/documents`, {
  method: "POST",
  headers: { "content-type": "application/json" },
  body: JSON.stringify({ kind: "mission", name: `Bench ${Date.now()}`, text }),
});
const { document } = await made.json();
const profile = mkdtempSync(path.join(os.tmpdir(), "giddy-bench-"));
const browser = await puppeteer.launch({ ...chromiumOptions(), userDataDir: profile });
try {
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  await page.goto(`${url}/mission?mission=${document.id}`);
  await page.waitForSelector(".row .took");
  const spin = '.row [role="spinbutton"][aria-valuetext$=" cm"]';
  await page.focus(spin);
  const times = [];
  for (let i = 0; i < 21; i += 1) {
    // From the key event to the first frame after the first step's time (it changes with its length) has changed.
    // Armed before the key is sent: a key that nobody saw come has no beginning.
    const measured = await page.evaluateHandle(() => {
      let begun = 0;
      window.addEventListener(
        "keydown",
        () => {
          begun = performance.now();
        },
        { once: true, capture: true },
      );
      const took = new Promise((resolve) => {
        const before = window.document.querySelector(".row .took")?.textContent;
        const observer = new MutationObserver(() => {
          const now = window.document.querySelector(".row .took")?.textContent;
          if (now === undefined || now === before) return;
          observer.disconnect();
          requestAnimationFrame(() => requestAnimationFrame(() => resolve(performance.now() - begun)));
        });
        const steps = window.document.querySelector(".steps");
        if (steps) observer.observe(steps, { characterData: true, subtree: true, childList: true });
      });
      return { took };
    });
    await page.keyboard.down("Shift");
    await page.keyboard.press(i % 2 === 0 ? "ArrowUp" : "ArrowDown");
    await page.keyboard.up("Shift");
    times.push(await measured.evaluate(({ took }) => took).then(Number));
  }
  const sorted = [...times].sort((a, b) => a - b);
  process.stdout.write(
    `a changed number to the whole new path of a 60 s mission: first ${times[0]?.toFixed(0)} ms, median ${sorted[10]?.toFixed(0)} ms, worst ${sorted.at(-1)?.toFixed(0)} ms\n`,
  );
} finally {
  await browser.close();
  rmSync(profile, { recursive: true, force: true });
}
await endAlone(import.meta.url);
