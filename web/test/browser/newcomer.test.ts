// A newcomer makes "there, touch, and back" from an empty mission: once with the keyboard alone, once with the
// pointer alone. Each has to work in 8 of 10 rehearsals.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { launchBrowser, type TestBrowser } from "../support/browser.js";
import { choose, fieldPlace, openMission, press, rows, studyResult, untilPlanned } from "../support/mission.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;

beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
});
beforeEach(async () => {
  page = await browser.clearedPage(page);
});
afterAll(async () => {
  expect(browser.troubles).toEqual([]);
  await browser.close();
  await server.leave();
});

/** Presses Tab until what has the focus fits. */
async function tabTo(page: Page, fits: (name: string) => boolean): Promise<void> {
  for (let i = 0; i < 80; i += 1) {
    await page.keyboard.press("Tab");
    const name = await page.evaluate(() => {
      const element = document.activeElement;
      return element?.getAttribute("aria-label") ?? element?.textContent ?? "";
    });
    if (fits(name)) return;
  }
  throw new Error("Tab does not lead there");
}

async function enoughWork(page: Page): Promise<void> {
  const [worked, of] = await studyResult(page);
  expect(of).toBe(20);
  expect(worked).toBeGreaterThanOrEqual(16);
}

describe("from an empty mission to the beacon and back", () => {
  test("with the keyboard alone", async () => {
    await openMission(page, server);
    await untilPlanned(page);
    await tabTo(page, (name) => name.includes("▾"));
    await page.keyboard.press("Enter");
    await page.waitForSelector('[role="menuitem"]');
    await page.keyboard.press("Home");
    await page.keyboard.press("Enter");
    await page.waitForSelector('[aria-label="Name of the new mission"]');
    await page.waitForFunction(() => document.activeElement?.getAttribute("aria-label") === "Name of the new mission");
    await page.keyboard.type("There and back by keys");
    await page.keyboard.press("Enter");
    await page.waitForFunction(() => document.querySelector("h1")?.textContent?.includes("There and back by keys"));
    await page.waitForSelector(".row .took");
    // The steps go in one after another; what is offered completes them.
    await tabTo(page, (name) => name === "Type a step");
    const add = async (words: string) => {
      const before = (await rows(page)).length;
      await page.keyboard.type(words);
      await page.keyboard.press("Enter");
      await page.waitForFunction(
        (count) => document.querySelectorAll(".row .words:not(.second)").length > count,
        {},
        before,
      );
    };
    await add("move arm to 80 deg");
    await add("face left 5.4 deg");
    // "go 127" and Tab: the unit is offered.
    await page.keyboard.type("go 127");
    await page.keyboard.press("Tab");
    await add("");
    await add("face right 22.6 deg");
    await add("go 39 cm");
    await add("face left 90 deg");
    await add("go at 12 cm/s until bumper.pressed limit 30 cm");
    await add("set touched = last.travel");
    await add("back touched");
    await add("face right 22.6 deg");
    await add("back 39 cm");
    await add("face left 5.4 deg");
    await add("back 127 cm");
    await page.waitForFunction(() => document.querySelectorAll(".row .took").length >= 12);
    expect(await rows(page)).toHaveLength(14);
    // Twenty times, chosen with the keys too.
    await tabTo(page, (name) => name === "How many times");
    await page.keyboard.press("Home");
    await page.keyboard.down("Shift");
    await page.keyboard.press("Tab");
    await page.keyboard.up("Shift");
    await page.keyboard.press("Enter");
    await enoughWork(page);
  });

  test("with the pointer alone", async () => {
    await openMission(page, server);
    await untilPlanned(page);
    await page.click("h1 button");
    await choose(page, '[role="menuitem"]', "New mission…");
    await page.waitForSelector('[aria-label="Name of the new mission"]');
    await press(page, "Make");
    await page.waitForFunction(() => /Mission \d/.test(document.querySelector("h1")?.textContent ?? ""));
    await page.waitForSelector(".row .took");

    const offer = async (words: string) => {
      const before = (await rows(page)).length;
      await page.click('[aria-label="Type a step"]');
      await choose(page, ".offers [role=option] code", words);
      await page.waitForFunction(
        (count) => document.querySelectorAll(".row .words:not(.second)").length > count,
        {},
        before,
      );
    };
    const planned = (pebble: number) =>
      page.waitForFunction((count) => document.querySelectorAll(".row .took").length >= count, {}, pebble);
    /** Drags what lies at one place of the field to another, in metres. */
    const drag = async (from: readonly [number, number], to: readonly [number, number]) => {
      const at = ([x, y]: readonly [number, number]) => fieldPlace(page, ".fieldpane canvas", x, y);
      await page.mouse.move(...(await at(from)));
      await page.mouse.down();
      await page.mouse.move(...(await at([(from[0] + to[0]) / 2, (from[1] + to[1]) / 2])), { steps: 4 });
      await page.mouse.move(...(await at(to)), { steps: 4 });
      await page.mouse.up();
    };
    /** A turn and a way, dragged to a place; the first pebble stands 30 cm on after a quarter turn to the left. */
    const wayTo = async (from: readonly [number, number], headingDeg: number, to: readonly [number, number]) => {
      const before = await page.$$eval(".row .took", (all) => all.length);
      await offer("turn left 90 deg");
      await offer("go 30 cm");
      await planned(before + 2);
      const rad = ((headingDeg + 90) * Math.PI) / 180;
      const pebble = [from[0] + 0.3 * Math.cos(rad), from[1] + 0.3 * Math.sin(rad)] as const;
      await page.waitForFunction(
        () => (document.querySelector(".fieldpane canvas") as HTMLElement).style.cursor !== "x",
      );
      // While a path is being planned anew its pebbles cannot be taken.
      await page.waitForSelector('.fieldpane [data-plan="whole"]');
      await drag(pebble, to);
      await page.waitForFunction(() => document.querySelector('[data-save="saved"]') !== null);
    };

    await offer("move arm to 90 deg");
    await wayTo([0.24, 0.7], 0, [1.5, 0.82]);
    expect((await rows(page)).slice(2, 4)).toEqual([
      expect.stringMatching(/^turnleft[45-6] deg$/),
      expect.stringMatching(/^go12\d(\.5)? cm$/),
    ]);
    await wayTo([1.5, 0.82], 5.4, [1.88, 0.67]);
    // To the beacon until it is touched.
    await offer("turn left 90 deg");
    const touchTurn = (await rows(page)).length;
    await planned(touchTurn);
    await drag([1.88, 0.67], [1.88, 0.95]);
    await offer("go 30 cm");
    await press(page, "Add to it…");
    await press(page, "until bumper.pressed");
    await press(page, "Add to it…");
    await press(page, "without a length");
    await page.waitForFunction(() =>
      [...document.querySelectorAll(".row")].some((row) => row.textContent?.includes("bumper.pressed")),
    );
    await offer("back 10 cm");
    await page.waitForFunction(() => document.querySelectorAll(".row .took").length >= 9);
    // Ten centimetres back is near the boulder: the number is dragged down to seven.
    const far = await (await page.waitForSelector('[aria-label="back, cm"]'))?.boundingBox();
    if (!far) throw new Error("the number is on the screen");
    await page.mouse.move(far.x + 10, far.y + far.height / 2);
    await page.mouse.down();
    await page.mouse.move(far.x - 9, far.y + far.height / 2, { steps: 6 });
    await page.mouse.up();
    await page.waitForFunction(() =>
      [...document.querySelectorAll(".row")].some((row) => /^.*back7 cm/.test(row.textContent ?? "")),
    );
    await wayTo([1.88, 0.694], 90, [1.5, 0.82]);
    await wayTo([1.5, 0.82], 157, [0.24, 0.7]);
    await page.select('[aria-label="How many times"]', "20");
    await press(page, "Try 20 times");
    await enoughWork(page);
  });
});
