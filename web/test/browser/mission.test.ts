// The first user's walk: open, change a distance, see the path change, rehearse, reload, find the run.
import { readFileSync } from "node:fs";
import path from "node:path";
import { prepareMission, readField, readRobot, rehearse } from "@giddy-pebble/core";
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser, visit } from "../support/browser.js";
import { getJson, openMission, press, rows, savedText, took, untilPlanned } from "../support/mission.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;
beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
  page = await browser.newPage();
});
afterAll(async () => {
  await browser?.close();
  await server?.leave();
});

/** How many pixels of a colour the field shows; moves with the path. */
function fieldPicture(): Promise<string> {
  return page.evaluate(() => (document.querySelector(".fieldpane canvas") as HTMLCanvasElement).toDataURL());
}

function demo(file: string): unknown {
  return JSON.parse(readFileSync(path.resolve(import.meta.dirname, "../../../demo", file), "utf8"));
}

describe("a new user", () => {
  let missionId = "";

  test("sees Fellside with Drizzle and a mission with its planned path", async () => {
    await openMission(page, server);
    await untilPlanned(page);
    missionId = new URL(page.url()).searchParams.get("mission") ?? "";
    expect(await page.$eval("h1", (title) => title.textContent)).toContain("First roll out");
    expect(await page.$eval(".robotpill", (pill) => pill.textContent)).toContain("Drizzle");
    expect((await rows(page)).slice(0, 3)).toEqual(["wait1 s", "go60 cmatcruise", "repeat4times"]);
    expect(await page.$eval(".fieldpane canvas", (canvas) => canvas.getAttribute("aria-label"))).toContain("Fellside");
    expect(await axe(page)).toEqual([]);
  });

  test("changes a distance in place and sees the path change", async () => {
    const before = await fieldPicture();
    const times = await took(page);
    await page.click('.row [role="spinbutton"][aria-valuetext="60 cm"]');
    await page.waitForSelector(".row input.editor-in");
    await page.keyboard.type("40cm");
    await page.keyboard.press("Enter");
    await page.waitForFunction((old) => document.querySelectorAll(".row .took")[1]?.textContent !== old, {}, times[1]);
    expect(await fieldPicture()).not.toBe(before);
    expect((await rows(page))[1]).toBe("go40 cmatcruise");
    expect(await savedText(page, server, missionId)).toContain("go 40 cm at cruise");
  });

  test("is told in place why 40 deg is no distance, and nothing typed is lost", async () => {
    await page.click('.row [role="spinbutton"][aria-valuetext="40 cm"]');
    await page.waitForSelector(".row input.editor-in");
    await page.keyboard.type("40 deg");
    await page.keyboard.press("Enter");
    await page.waitForFunction(() =>
      document.querySelector(".row .bubble")?.textContent?.includes("40 deg is an angle; a length is wanted"),
    );
    expect(await page.$eval(".row input.editor-in", (input) => (input as HTMLInputElement).value)).toBe("40 deg");
    await page.keyboard.press("Escape");
    await page.waitForSelector('.row [role="spinbutton"][aria-valuetext="40 cm"]');
  });

  test("steps a number with the arrow keys, by one digit and by ten", async () => {
    await page.focus('.row [role="spinbutton"][aria-valuetext="40 cm"]');
    await page.keyboard.press("ArrowUp");
    await page.waitForSelector('.row [role="spinbutton"][aria-valuetext="41 cm"]');
    await page.keyboard.down("Shift");
    await page.keyboard.press("ArrowUp");
    await page.keyboard.up("Shift");
    await page.waitForSelector('.row [role="spinbutton"][aria-valuetext="51 cm"]');
  });

  test("rehearses: the robot drives, the run is kept with everything that made it", async () => {
    await press(page, "Rehearse");
    await page.waitForFunction(() => /Goal met|Not met/.test(document.querySelector(".verdict")?.textContent ?? ""));
    await page.waitForFunction(() => Number((document.querySelector(".scrubber") as HTMLInputElement).value) > 20);
    await press(page, "Pause");
    expect(
      await page.$$eval("[data-value]", (values) =>
        values.map((value) => /[\d.]+ (cm\/s|deg|V)/.test(value.textContent ?? "")),
      ),
    ).toEqual([true, true, true, true]);
    await page.waitForFunction(() => document.querySelector(".foot")?.textContent?.includes("version 2"));
    expect(await axe(page)).toEqual([]);
  });

  test("the worker's run is the same, bit for bit, as the same run in Node", async () => {
    await expect.poll(async () => (await getJson(server, `/api/trials?mission=${missionId}`)).trials.length).toBe(1);
    const { trials } = await getJson(server, `/api/trials?mission=${missionId}`);
    const [robot, field] = [readRobot(demo("drizzle.robot.json")), readField(demo("fellside.field.json"))];
    if (!robot.ok || !field.ok) throw new Error("the demo documents do not read");
    const { text } = await getJson(server, `/api/documents/${missionId}/revisions/2`);
    const again = rehearse(prepareMission(text, robot.document, field.document), {
      seed: trials[0].seed,
      ideal: false,
    });
    expect(again.summary.traceHash).toBe(trials[0].summary.traceHash);
  });

  test("reloads after the server started anew and finds the run, and the draft, again", async () => {
    const port = Number(new URL(server.url).port);
    await server.stop();
    server = await startServer({ database: server.database, port });
    await page.reload();
    await page.waitForSelector(".row .verb");
    await page.waitForFunction(() => /Goal met|Not met/.test(document.querySelector(".verdict")?.textContent ?? ""));
    expect((await rows(page))[1]).toBe("go51 cmatcruise");
    await press(page, "Runs");
    expect(await page.$$eval(".kept button", (kept) => kept.map((run) => run.textContent))).toEqual([
      expect.stringContaining("version 2"),
    ]);
    expect(await axe(page)).toEqual([]);
    await page.keyboard.press("Escape");
  });

  test("scrubs with the keys and hears the time", async () => {
    await page.focus(".scrubber");
    await page.keyboard.press("Home");
    await page.keyboard.press("ArrowRight");
    expect(await page.$eval(".scrubber", (slider) => slider.getAttribute("aria-valuetext"))).toBe("0.10 s");
  });

  test("nothing on the way was refused by the page's policy or failed", () => {
    expect(browser.troubles).toEqual([]);
  });
});

test("every workplace opens from the trail, empty ones say what to do first", async () => {
  await visit(page, `${server.url}/mission`);
  await page.waitForSelector(".trail a");
  const links = await page.$$eval(".trail a", (all) => all.map((link) => (link as HTMLAnchorElement).pathname));
  expect(links).toEqual(["/robot", "/calibrate", "/field", "/mission", "/drive", "/trials", "/notebook"]);
  for (const link of links) {
    await visit(page, server.url + link);
    await page.waitForSelector("main:not([aria-busy]) :is(h1, h2)");
  }
  await visit(page, `${server.url}/notebook`);
  await page.waitForSelector("main.centre h1");
  expect(await page.$eval("main", (words) => words.textContent)).toContain("Make a notebook");
  expect(await axe(page)).toEqual([]);
  const answer = await page.goto(`${server.url}/nowhere`);
  expect(answer?.status()).toBe(404);
});

test("works at 360 px and in the dark, with nothing for axe-core to find", async () => {
  const small = await browser.newPage();
  await small.setViewport({ width: 360, height: 740 });
  await small.emulateMediaFeatures([{ name: "prefers-color-scheme", value: "dark" }]);
  await openMission(small, server);
  await untilPlanned(small);
  expect(await small.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(360);
  expect(await axe(small)).toEqual([]);
  await small.close();
});
