import { afterAll, beforeAll, expect, test } from "vitest";
import { launchBrowser, type TestBrowser } from "../support/browser.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
});
afterAll(async () => {
  await browser?.close();
  await server?.leave();
});

test("the first page opens with nothing refused by its own policy", async () => {
  const page = await browser.newPage();
  await page.goto(server.url);
  expect(await page.title()).toContain("Giddy Pebble");
  expect(browser.troubles).toEqual([]);
});
