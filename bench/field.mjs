// @ts-nocheck: figures for people, checked by running it
// The drawing board with 500 shapes: time of a frame while panning and while a thing is dragged (median, worst of 300), and
// how long a floor of 4 × 4 m with a picture takes until it can be read, beside one without.
//
//   node bench/field.mjs
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import puppeteer from "puppeteer-core";
import {
  FloorRaster,
  fieldSchema,
  fittingPng,
  openFloor,
  pictureText,
  randomStream,
  unpackPicture,
} from "../core/dist/index.js";
import { chromiumOptions } from "../scripts/lib/chromium.mjs";

const say = (words) => process.stdout.write(`${words}\n`);

/** Another picture, so that the one before is not at hand any more. */
function encodeSmall(i) {
  return fittingPng({ columns: 8, rows: 8, cells: new Uint8Array(192).fill(i) });
}

/** Inflated by the platform, as pages and workers do it. @param {Uint8Array} packed @param {number} length */
async function inflate(packed, length) {
  const { readable, writable } = new DecompressionStream("deflate");
  const writer = writable.getWriter();
  void writer.write(packed);
  void writer.close();
  const all = new Uint8Array(length);
  let at = 0;
  for await (const piece of readable) {
    all.set(piece, at);
    at += piece.length;
  }
  return all;
}

async function floorTimes() {
  const [columns, rows] = [2000, 2000];
  for (const noise of [0, 4]) {
    const chance = randomStream(1);
    const cells = Uint8Array.from({ length: 3 * columns * rows }, (_, i) => {
      const [x, y] = [Math.floor(i / 3) % columns, Math.floor(i / 3 / columns)];
      const dark = Math.abs(Math.hypot(x - 1000, y - 1000) - 700) < 6;
      return Math.max(0, Math.min(255, (dark ? 30 : 225) + (noise > 0 ? noise * chance.normal() : 0)));
    });
    const png = fittingPng({ columns, rows, cells });
    const picture = { columns, rows, asset: "0".repeat(64), png: pictureText(png) };
    const field = fieldSchema.parse({ ...openFloor(), picture });
    // Each is the first floor with its picture, then one more with the same.
    const timed = async (field) => {
      const from = performance.now();
      await unpackPicture(field, inflate);
      const floor = new FloorRaster(field);
      floor.disc(2, 2, 0.008, { light: 0, red: 0, green: 0, blue: 0 });
      return performance.now() - from;
    };
    const plain = fieldSchema.parse(openFloor());
    const [first, again] = [[], []];
    for (let i = 0; i < 5; i += 1) {
      const other = fieldSchema.parse({
        ...openFloor(),
        picture: { ...picture, png: pictureText(encodeSmall(i)), columns: 8, rows: 8 },
      });
      await timed(other);
      first.push(await timed(field));
      again.push(await timed(field));
    }
    const median = (times) => times.sort((a, b) => a - b)[2].toFixed(0);
    say(
      `floor of 4 × 4 m, ${noise === 0 ? "a clean print" : "a noisy photograph"} (${(png.length / 1e6).toFixed(1)} MB): ${median(first)} ms, with the same picture again ${median(again)} ms, without one ${(await timed(plain)).toFixed(0)} ms`,
    );
  }
}

function manyShapes() {
  const marks = Array.from({ length: 300 }, (_, i) => {
    const [x, y] = [0.1 + (i % 20) * 0.1, 0.1 + Math.floor(i / 20) * 0.07];
    const node = (dx, dy) => ({
      atM: [x + dx, y + dy],
      inM: [x + dx - 0.01, y + dy + 0.01],
      outM: [x + dx + 0.01, y + dy - 0.01],
    });
    return {
      kind: "curve",
      nodes: [node(0, 0), node(0.03, 0.02), node(0.06, 0)],
      widthM: 0.004,
      reflectance: 0.1,
      colour: "#2B2F31",
    };
  });
  const boulders = Array.from({ length: 200 }, (_, i) => ({
    xM: 0.1 + (i % 20) * 0.11,
    yM: 0.08 + Math.floor(i / 20) * 0.11,
    radiusM: 0.02,
  }));
  return fieldSchema.parse({
    ...openFloor(),
    name: `Bench ${Date.now()}`,
    size: { widthM: 2.4, heightM: 1.2 },
    edge: "rim",
    begins: [],
    marks,
    boulders,
  });
}

async function frames(url) {
  const field = manyShapes();
  const body = JSON.stringify({ kind: "field", name: field.name, body: field });
  const made = await (
    await fetch(`${url}/api/documents`, { method: "POST", headers: { "content-type": "application/json" }, body })
  ).json();
  const profile = mkdtempSync(path.join(os.tmpdir(), "giddy-bench-"));
  const browser = await puppeteer.launch({ ...chromiumOptions(), userDataDir: profile });
  try {
    const page = await browser.newPage();
    await page.setViewport({ width: 1280, height: 800 });
    // What the page does in each frame, and in the pointer's event before it.
    await page.evaluateOnNewDocument(() => {
      window.frameTimes = [];
      let event = 0;
      const ask = window.requestAnimationFrame.bind(window);
      window.requestAnimationFrame = (call) =>
        ask((time) => {
          const from = performance.now();
          call(time);
          window.frameTimes.push(performance.now() - from + event);
          event = 0;
        });
      let from = 0;
      const begin = () => {
        from = performance.now();
      };
      window.addEventListener("pointermove", begin, { capture: true });
      window.addEventListener("pointermove", () => {
        event += performance.now() - from;
      });
    });
    await page.goto(`${url}/field?field=${made.document.id}`);
    await page.waitForSelector(".board canvas");
    await page.waitForFunction(() => document.querySelectorAll(".parts .part").length > 50);
    const box = await (await page.$(".board canvas")).boundingBox();
    for (const what of ["panning", "dragging"]) {
      const start = what === "panning" ? [box.x + 60, box.y + box.height - 30] : await boulderAt(page, box);
      await page.mouse.move(...start);
      await page.mouse.down();
      await page.evaluate(() => {
        window.frameTimes = [];
      });
      for (let i = 0; i < 300; i += 1)
        await page.mouse.move(start[0] + 12 * Math.sin(i / 9), start[1] - 12 * Math.cos(i / 9));
      await page.mouse.up();
      const times = (await page.evaluate(() => window.frameTimes)).sort((a, b) => a - b);
      const middle = times[Math.floor(times.length / 2)];
      say(
        `${what} with 500 shapes, ${times.length} frames: median ${middle.toFixed(1)} ms, worst ${times.at(-1).toFixed(1)} ms`,
      );
    }
  } finally {
    await browser.close();
    rmSync(profile, { recursive: true, force: true });
  }
}

/** Where the first boulder is on the page. */
async function boulderAt(page, box) {
  // Room around the field on the board, px.
  const margin = { left: 46, right: 24, top: 40, bottom: 62 };
  const wide = box.width - margin.left - margin.right;
  const high = box.height - margin.top - margin.bottom;
  const scale = Math.min(wide / 2.4, high / 1.2);
  await page.evaluate(() => [...document.querySelectorAll(".fieldtools button")].at(-1)?.click());
  return [
    box.x + margin.left + (wide - 2.4 * scale) / 2 + 0.1 * scale,
    box.y + margin.top + (high - 1.2 * scale) / 2 + (1.2 - 0.08) * scale,
  ];
}

await floorTimes();
const { endAlone, url } = await import("./lib/own.mjs");
await frames(url);
await endAlone(import.meta.url);
