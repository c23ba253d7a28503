// Put on a board, in the page: the mission as source, problems at their lines, a step's comment that chooses the step, and
// a .zip that holds what was shown.
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { strFromU8, unzipSync } from "fflate";
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser } from "../support/browser.js";
import { newMission, openMission, press, untilPlanned } from "../support/mission.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;
let downloads = "";
const TEXT =
  'cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\n\nset words = ""\n\nmission\n  go 30 cm at 20 cm/s\n  turn left 90 deg\n';

beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
  page = await browser.newPage();
  downloads = mkdtempSync(path.join(os.tmpdir(), "giddy-downloads-"));
  const session = await page.createCDPSession();
  await session.send("Browser.setDownloadBehavior", { behavior: "allow", downloadPath: downloads });
  await openMission(page, server, await newMission(server, "Out of the hut", TEXT));
  await untilPlanned(page);
});
afterAll(async () => {
  await browser?.close();
  await server?.leave();
  rmSync(downloads, { recursive: true, force: true });
});

async function shown(words: string): Promise<void> {
  await page.waitForFunction(
    (wanted) => document.querySelector(".boardsource")?.textContent?.includes(wanted),
    {},
    words,
  );
}

test("the mission's menu leads to it, and shows the mission as MicroPython", async () => {
  await page.click(".panehead h1 button");
  await press(page, "Put on a board…", "menuitem");
  await shown("drives(t, straight(0.3, False, straightly(0.2)))");
  const wires = await page.$$eval(".boardwires li", (items) => items.map((item) => item.textContent));
  expect(wires).toContain("left_motor: plug on 1");
  expect(await axe(page)).toEqual([]);
});

test("a step's comment chooses the step", async () => {
  await page.locator(".boardsource ::-p-text(# 2  turn left 90 deg)").click();
  await page.waitForFunction(() => document.querySelector('.row[aria-selected="true"]')?.textContent?.includes("turn"));
});

test("another language is written at once, and the .zip holds what was shown", async () => {
  await page.select(".boardtarget select", "cpp");
  await shown("drives(t, straight(0.3, false, straightly(0.2)));");
  await press(page, "Save as .zip");
  await expect.poll(() => readdirSync(downloads)).toEqual(["out-of-the-hut-cpp.zip"]);
  const files = unzipSync(new Uint8Array(readFileSync(path.join(downloads, "out-of-the-hut-cpp.zip"))));
  expect(Object.keys(files)).toEqual(expect.arrayContaining(["mission.cpp", "robot.h", "contract.h", "README.md"]));
  expect(strFromU8(files["mission.cpp"] as Uint8Array)).toContain("// 2  turn left 90 deg");
});

test("for a chip it is compiled: the room it takes, and the lines it is wired to", async () => {
  await page.select(".boardtarget select", "avr");
  await page.waitForSelector(".chipsizes");
  const rows = await page.$$eval(".chipsizes div dd", (items) => items.map((item) => item.textContent));
  expect(rows).toHaveLength(2);
  expect(rows[0]).toMatch(/^[\d,]+ of 32,256 bytes$/);
  const wires = await page.$$eval(".boardwires li", (items) => items.map((item) => item.textContent));
  expect(wires).toContain("left_motor: pulses on D5, way on D2, encoder on D7, its second channel on B0");
  // What this mission does not use has no line.
  expect(wires.join()).not.toContain("bumper");
  expect(await axe(page)).toEqual([]);
  await page.select(".boardtarget select", "cpp");
  await shown("drives(t, straight(0.3, false, straightly(0.2)));");
});

test("what a board cannot do is told at its line, which it leads to, and nothing is saved", async () => {
  await page.click('[aria-label="Type a step"]');
  await page.keyboard.type('set words = "far " + eye.distance');
  await page.keyboard.press("Enter");
  await page.waitForFunction(() => document.querySelector(".boardpanel")?.textContent?.includes("cannot keep a text"));
  expect(await page.$eval(".boardsave button", (button) => (button as HTMLButtonElement).disabled)).toBe(true);
  await page.locator(".boardpanel ::-p-text(Line 11)").click();
  await page.waitForFunction(() =>
    document.querySelector('.row[aria-selected="true"]')?.textContent?.includes("words"),
  );
  expect(browser.troubles).toEqual([]);
});
