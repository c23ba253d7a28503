// A mission onto a board, the whole way in the real page: compiled, written through the bootloader of an emulated chip, run
// by the chip's own lines, watched, halted, and kept as a run.

import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser } from "../support/browser.js";
import { says, unexpected } from "../support/linked.js";
import { getJson, type Loose, newMission, openMission, press, untilPlanned } from "../support/mission.js";
import { type RunningRobots, startRobots } from "../support/robots.js";
import { type RunningServer, startServer } from "../support/server.js";

let robots: RunningRobots;
let server: RunningServer;
let browser: TestBrowser;
let page: Page;

beforeAll(async () => {
  robots = await startRobots();
  server = await startServer({ robots: robots.port });
  browser = await launchBrowser();
});
afterAll(async () => {
  expect(unexpected(browser.troubles)).toEqual([]);
  await browser.close();
  await server.stop();
  await robots.stop();
});
beforeEach(async () => {
  await page?.close();
  page = await browser.newPage();
});

/** Goes on until it touches something, backs off, turns away, and so on for ever. */
const WANDER = `cairn 1
robot "Fog"
field "Boulder slope"
begin "hut"

mission
  repeat
    go at 18 cm/s until left_whisker.pressed or right_whisker.pressed
    back 12 cm at 15 cm/s
    turn left 75 deg
`;

async function linkBoard(robot: string): Promise<void> {
  await page.evaluate(() => localStorage.clear());
  await page.reload();
  await press(page, `Robot: ${robot}, not linked`);
  await press(page, "Link an emulated board");
  await page.waitForSelector(".robotpill.linked", { timeout: 60_000 });
  expect(await axe(page)).toEqual([]);
  await press(page, "Close");
}

describe("an emulated ATmega328P", () => {
  test("is given Fog's wandering through its bootloader, and avoids boulders for 30 s while the page watches", async () => {
    const id = await newMission(server, "Wandering", WANDER);
    await openMission(page, server, id);
    await linkBoard("Fog");
    await untilPlanned(page);
    await says(page, "Fog does not hold this mission yet");
    await press(page, "Send");
    await says(page, "Checking it");
    await says(page, "Fog holds version 1, the one on the screen");
    await press(page, "Run on Fog");
    await says(page, "Fog runs");
    // What the chip tells goes by: time, pack, and the step that it is at.
    await page.waitForFunction(() => /3\d\.\d s · /.test(document.querySelector(".robotrow")?.textContent ?? ""), {
      timeout: 90_000,
    });
    await press(page, "Halt Fog");
    await says(page, "Against the plan");
    const { trials } = (await getJson(server, `/api/trials?mission=${id}`)) as Loose;
    expect(trials[0]).toMatchObject({ source: "robot", robot: { name: "Fog" } });
    console.log(JSON.stringify(trials[0].summary).slice(0, 1500));
  });
});
