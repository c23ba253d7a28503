// Routines of collections, places taken from the field, and what a run touched, on the page.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { launchBrowser, type TestBrowser, visit } from "../support/browser.js";
import {
  chooseStep,
  fieldPlace,
  getJson,
  type Loose,
  newMission,
  openMission,
  press,
  rows,
  savedText,
  untilPlanned,
} from "../support/mission.js";
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
  await browser.close();
  await server.leave();
});

const HEAD = 'cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\n';
const verdict = () => page.$eval(".verdict", (element) => element.textContent ?? "");

describe("a mission that uses a collection", () => {
  test("runs its routines, is listed with the collection, and its version holds their text", async () => {
    const id = await newMission(server, "Bends", `${HEAD}use "Moves"\n\nmission\n  wait 0.2 s\n  bend(15 cm, 25 %)\n`);
    await openMission(page, server, id);
    await untilPlanned(page);
    await press(page, "Rehearse");
    await expect.poll(verdict).toMatch(/Finished in/);
    const versions = (await getJson(server, `/api/documents/${id}/revisions`)) as Loose;
    const [newest] = versions.revisions as Loose[];
    const held = (await getJson(server, `/api/documents/${id}/revisions/${newest?.number}`)) as Loose;
    expect(JSON.stringify(held)).toContain("routine bend(radius: length");
    // The collection opens from the same list, and says where it is used.
    await page.click(".panehead h1 button");
    await page.waitForSelector('[role="menuitem"]');
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLElement>('[role="menuitem"]')]
        .find((item) => /^Moves/.test(item.textContent ?? ""))
        ?.click(),
    );
    await expect.poll(verdict).toBe("Used by Bends");
  });

  test("weighs what is worth measuring for it", async () => {
    const id = await newMission(server, "Far bend", `${HEAD}use "Moves"\n\nmission\n  bend(30 cm, 50 %)\n  go 20 cm\n`);
    await visit(page, `${server.url}/calibrate`);
    const weigh = await page.waitForSelector('select[aria-label="Mission whose end it moves"]');
    await weigh?.select(id);
    const footer = () => page.$eval("footer:has(select)", (element) => element.textContent ?? "");
    await expect.poll(footer).toMatch(/Measure next: .* \d+ mm/);
  });

  test("says at its line that there is no such collection, and what there is", async () => {
    const id = await newMission(server, "Missing", `${HEAD}use "Mooves"\n\nmission\n  wait 1 s\n`);
    await openMission(page, server, id);
    await expect
      .poll(() => page.$eval(".problems, [aria-label='Problems'], main", (element) => element.textContent ?? ""))
      .toContain('There is no collection "Mooves"');
  });
});

describe("places", () => {
  test("pressed on the field become a path with a step, then more places of it, and the numbers of a go to", async () => {
    const id = await newMission(server, "Places", `${HEAD}\nmission\n  wait 0.1 s\n`);
    await openMission(page, server, id);
    await untilPlanned(page);
    await press(page, "Place points of a path");
    await page.waitForSelector(".fieldpane canvas[data-view]");
    const pressAt = async (xM: number, yM: number) =>
      page.mouse.click(...(await fieldPlace(page, ".fieldpane canvas", xM, yM)));
    await pressAt(1, 0.7);
    await expect
      .poll(() => savedText(page, server, id))
      .toMatch(/path way\n {2}-?[\d.]+ cm, -?[\d.]+ cm\n\nmission\n.*\n {2}go along way\n/s);
    await pressAt(1.2, 0.7);
    await expect.poll(() => savedText(page, server, id)).toMatch(/path way\n( {2}.* cm, .* cm\n){2}\n/);
    const first = /path way\n {2}(-?[\d.]+) cm, (-?[\d.]+) cm\n {2}(-?[\d.]+) cm, (-?[\d.]+) cm/.exec(
      await savedText(page, server, id),
    );
    // To the right on the screen is ahead of a robot that looks along x.
    expect(Number(first?.[3])).toBeGreaterThan(Number(first?.[1]) + 5);
    expect(Math.abs(Number(first?.[4]) - Number(first?.[2]))).toBeLessThan(1);
    await press(page, "Undo");
    await expect.poll(() => savedText(page, server, id)).toMatch(/path way\n( {2}.* cm, .* cm\n){1}\n/);
  });
});

describe("a run that touched something", () => {
  test("says what and when, and marks it in the legend", async () => {
    const id = await newMission(
      server,
      "Touching",
      `${HEAD}\nmission\n  move arm to 80 deg\n  turn left 90 deg\n  go at 25 cm/s until bumper.pressed limit 2 m\n`,
    );
    await openMission(page, server, id);
    await untilPlanned(page);
    await press(page, "Rehearse");
    await expect.poll(verdict).toMatch(/touched (the rim|boulder \d|cliff) at \d+\.\d s/);
    expect(await page.$eval(".legend", (element) => element.textContent)).toContain("touched");
    expect((await rows(page)).length).toBe(3);
    await chooseStep(page, 1);
  });
});
