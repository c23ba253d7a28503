// @ts-nocheck: figures for people, checked by running it
// The link in the real page: from its click to the first reading, from a reading to the screen, and a put of 200 KB.
// In an application of its own.
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import puppeteer from "puppeteer-core";
import { chromiumOptions } from "../scripts/lib/chromium.mjs";
import { endAlone, url } from "./lib/own.mjs";

const name = `Long ${Date.now()}`;
const account = Array.from(
  { length: 4600 },
  (_, i) => `  # ${String(i).padStart(4, "0")} of a long account of what was tried\n`,
);
const text = `cairn 1\nrobot "Drizzle"\n\nmission\n${account.join("")}  go 60 cm at 10 cm/s\n`;
const made = await fetch(`${url}/api/documents`, {
  method: "POST",
  headers: { "content-type": "application/json" },
  body: JSON.stringify({ kind: "mission", name, text }),
});
const { document } = await made.json();
const profile = mkdtempSync(path.join(os.tmpdir(), "giddy-bench-"));
const browser = await puppeteer.launch({ ...chromiumOptions(), userDataDir: profile });
const say = (words) => process.stdout.write(`${words}\n`);
try {
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  // Stamps every reading as it arrives, before the page sees it.
  await page.evaluateOnNewDocument(() => {
    window.heard = { readings: [], first: null };
    const Plain = window.WebSocket;
    window.WebSocket = class extends Plain {
      constructor(...args) {
        super(...args);
        this.addEventListener("message", ({ data }) => {
          if (typeof data !== "string" || !data.includes('"kind":"readings"')) return;
          window.heard.first ??= performance.now();
          window.heard.readings.push(performance.now());
        });
      }
    };
  });
  await page.goto(`${url}/mission?mission=${document.id}`);
  const press = async (label) => (await page.waitForSelector(`::-p-aria(${label})`)).click();
  await press("Robot: Drizzle, not linked");
  const linkButton = await page.waitForSelector("::-p-aria(Link Drizzle)");
  const begun = await linkButton.evaluate((button) => {
    button.click();
    return performance.now();
  });
  await page.waitForFunction(() => document.querySelector(".robotpill.linked"));
  const linked = await page.evaluate(() => performance.now());
  say(`link asked to linked on the screen: ${(linked - begun).toFixed(0)} ms`);
  await press("Close");
  await page.waitForFunction(() =>
    [...document.querySelectorAll(".robotrow button")].some((b) => b.textContent === "Send" && !b.disabled),
  );
  const put = await page.evaluate(
    () =>
      new Promise((resolve) => {
        const from = performance.now();
        const row = document.querySelector(".robotrow");
        const observer = new MutationObserver(() => {
          if (!/holds version/.test(document.querySelector(".robotrow")?.textContent ?? "")) return;
          observer.disconnect();
          resolve(performance.now() - from);
        });
        observer.observe(row?.parentElement ?? document.body, { characterData: true, childList: true, subtree: true });
        [...document.querySelectorAll(".robotrow button")].find((b) => b.textContent === "Send").click();
      }),
  );
  say(
    `send pressed to held, ${(text.length / 1024).toFixed(0)} KB of text, version cut and SHA-256 included: ${put.toFixed(0)} ms`,
  );
  const lags = page.evaluate(
    () =>
      new Promise((resolve) => {
        const list = [];
        const observer = new MutationObserver(() => {
          const { readings } = window.heard;
          const came = readings[readings.length - 1];
          requestAnimationFrame(() => list.push(performance.now() - came));
          if (list.length < 150) return;
          observer.disconnect();
          resolve({ list, readings });
        });
        const look = () => {
          const shown = document.querySelector(".robotrow .mono");
          if (shown) observer.observe(shown, { characterData: true, childList: true, subtree: true });
          else requestAnimationFrame(look);
        };
        look();
      }),
  );
  await press("Run on Drizzle");
  const { list, readings } = await lags;
  const sorted = [...list].sort((a, b) => a - b);
  const gaps = readings.slice(1).map((at, i) => at - readings[i]);
  const rate = 1000 / (gaps.reduce((sum, gap) => sum + gap, 0) / gaps.length);
  say(
    `reading to the next frame that shows it, ${list.length} of them: median ${sorted[Math.floor(list.length / 2)].toFixed(0)} ms, worst ${sorted.at(-1).toFixed(0)} ms; readings came at ${rate.toFixed(0)} Hz`,
  );
} finally {
  await browser.close();
  rmSync(profile, { recursive: true, force: true });
}
await endAlone(import.meta.url);
