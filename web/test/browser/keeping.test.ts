// Nothing typed is lost: with the server away, and with two windows on one mission.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { launchBrowser, type TestBrowser } from "../support/browser.js";
import { getJson, newMission, openMission, press, quickAdd, rows, savedText, untilSaved } from "../support/mission.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
const TEXT = 'cairn 1\nrobot "Drizzle"\nmission\n  wait 1 s\n';

beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
});
afterAll(async () => {
  await browser?.close();
  await server?.leave();
});

async function restart(): Promise<void> {
  server = await startServer({ database: server.database, port: Number(new URL(server.url).port) });
}

test("the server goes away while typing: type on, reload, start it, and the text is there", async () => {
  const page: Page = await browser.newPage();
  const id = await newMission(server, "Kept through a stop", TEXT);
  await openMission(page, server, id);
  const place = () => page.$eval(".quickadd", (box) => box.getBoundingClientRect().top);
  const before = await place();
  await server.kill();
  await quickAdd(page, "wait 2 s");
  await quickAdd(page, "wait 3 s");
  // On a slow machine the first step may have been told of before the second is typed.
  await expect.poll(() => rows(page)).toEqual(["wait1 s", "wait2 s", "wait3 s"]);
  await page.waitForSelector('[data-save="away"]');
  expect(await page.$eval("[data-save]", (foot) => foot.textContent)).toContain("kept on this computer");
  expect(await place(), "what is told in the foot moves nothing under the pointer").toBe(before);
  await page.reload().catch(() => null);
  await restart();
  await openMission(page, server, id);
  await expect.poll(() => rows(page)).toEqual(["wait1 s", "wait2 s", "wait3 s"]);
  await expect.poll(() => savedText(page, server, id)).toBe(`${TEXT}  wait 2 s\n  wait 3 s\n`);
  await page.close();
});

test("the server comes back by itself: what was typed meanwhile is saved without a reload", async () => {
  const page = await browser.newPage();
  const id = await newMission(server, "Saved on return", TEXT);
  await openMission(page, server, id);
  await server.kill();
  await quickAdd(page, "wait 4 s");
  await page.waitForSelector('[data-save="away"]');
  await restart();
  await expect.poll(() => page.$eval("[data-save]", (foot) => foot.getAttribute("data-save"))).toBe("saved");
  expect(await savedText(page, server, id)).toBe(`${TEXT}  wait 4 s\n`);
  await page.close();
});

test("a browser whose store never answers opens, saves, and says that it keeps nothing", async () => {
  const other = await browser.newPage();
  await other.goto(`${server.url}/help`);
  // Another window wants to change the store and waits for itself: every other opening waits for it.
  await other.evaluate(
    () =>
      new Promise<void>((ready) => {
        const held = indexedDB.open("giddy-pebble");
        held.onsuccess = () => {
          const asked = indexedDB.open("giddy-pebble", 99);
          asked.onblocked = () => ready();
          asked.onupgradeneeded = () => asked.transaction?.abort();
          Object.assign(window, { letGo: () => held.result.close() });
        };
      }),
  );
  const page = await browser.newPage();
  const id = await newMission(server, "Without a store", TEXT);
  await openMission(page, server, id);
  await quickAdd(page, "wait 5 s");
  await untilSaved(page);
  expect(await savedText(page, server, id)).toBe(`${TEXT}  wait 5 s\n`);
  await server.kill();
  await quickAdd(page, "wait 6 s");
  await page.waitForSelector('[data-save="away"]');
  expect(await page.$eval("[data-save]", (foot) => foot.textContent)).toContain("could not keep what you typed");
  await restart();
  await expect.poll(() => page.$eval("[data-save]", (foot) => foot.getAttribute("data-save"))).toBe("saved");
  expect(await savedText(page, server, id)).toBe(`${TEXT}  wait 5 s\n  wait 6 s\n`);
  await page.close();
  // As if it had never been.
  await other.evaluate(
    () =>
      new Promise<void>((gone) => {
        (window as unknown as { letGo: () => void }).letGo();
        indexedDB.deleteDatabase("giddy-pebble").onsuccess = () => gone();
      }),
  );
  await other.close();
});

/** Side by side, for one mission after the other. */
let windows: readonly [Page, Page] | undefined;

/** Two windows that both changed the mission; the second has been told. */
async function conflict(name: string): Promise<{ id: string; second: Page }> {
  const id = await newMission(server, name, TEXT);
  windows ??= [await browser.newPage(), await browser.newPage()];
  const [first, second] = windows;
  await openMission(first, server, id);
  await openMission(second, server, id);
  await first.bringToFront();
  await quickAdd(first, "wait 11 s");
  await untilSaved(first);
  await expect.poll(async () => (await getJson(server, `/api/documents/${id}`)).draft?.text).toContain("wait 11 s");
  await second.bringToFront();
  await quickAdd(second, "wait 22 s");
  await second.waitForSelector(".banner[role=alert]");
  expect(await second.$eval(".banner[role=alert]", (banner) => banner.textContent)).toContain(
    "changed in another window",
  );
  return { id, second };
}

test("two windows, keep both: mine becomes a mission of its own, theirs stays", async () => {
  const { id, second } = await conflict("Twice");
  await press(second, "Keep both");
  await second.waitForFunction(() => document.querySelector("h1")?.textContent?.includes("Twice (2)"));
  expect((await getJson(server, `/api/documents/${id}`)).draft.text).toContain("wait 11 s");
  const copy = new URL(second.url()).searchParams.get("mission") ?? "";
  expect(copy).not.toBe(id);
  expect((await getJson(server, `/api/documents/${copy}`)).head.text).toContain("wait 22 s");
});

test("two windows, typing on before choosing: a reload brings it all back, and the choice", async () => {
  const { id, second } = await conflict("Typed on");
  await quickAdd(second, "wait 33 s");
  await expect.poll(() => rows(second)).toContain("wait33 s");
  await openMission(second, server, id);
  await second.waitForSelector(".banner[role=alert]");
  await expect.poll(() => rows(second)).toEqual(["wait1 s", "wait22 s", "wait33 s"]);
  await press(second, "Keep both");
  await second.waitForFunction(() => document.querySelector("h1")?.textContent?.includes("Typed on (2)"));
  const copy = new URL(second.url()).searchParams.get("mission") ?? "";
  expect((await getJson(server, `/api/documents/${copy}`)).head.text).toContain("wait 33 s");
  expect((await getJson(server, `/api/documents/${id}`)).draft.text).toContain("wait 11 s");
});

test("two windows, go on with mine: theirs is kept as a version first", async () => {
  const { id, second } = await conflict("Mine");
  await press(second, "Go on with mine");
  await expect.poll(async () => (await getJson(server, `/api/documents/${id}`)).draft.text).toContain("wait 22 s");
  expect((await getJson(server, `/api/documents/${id}/revisions/2`)).text).toContain("wait 11 s");
});

test("two windows, take the other: undo brings mine back", async () => {
  const { second } = await conflict("Theirs");
  await press(second, "Take the other");
  await expect.poll(() => rows(second)).toEqual(["wait1 s", "wait11 s"]);
  await press(second, "Undo");
  await expect.poll(() => rows(second)).toEqual(["wait1 s", "wait22 s"]);
});
