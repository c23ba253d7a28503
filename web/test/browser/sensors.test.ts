// The Sensors panel of a mission: the error on the line, the tuner, the threshold, the looks of a head, and the strips of
// what each sensor sees.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser } from "../support/browser.js";
import { getJson, newMission, openMission, press, untilPlanned } from "../support/mission.js";
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
  expect(browser.troubles).toEqual([]);
  await browser.close();
  await server.leave();
});

async function open(name: string, steps: string): Promise<void> {
  const text = `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\n\nmission\n${steps}`;
  await openMission(page, server, await newMission(server, name, text));
  await untilPlanned(page);
  if (!(await page.$("aside[aria-label=Sensors]"))) await press(page, "Sensors");
  await page.waitForSelector("aside[aria-label=Sensors]");
}

const words = (selector: string) => page.$eval(selector, (element) => element.textContent ?? "");
const stepText = () => words(".steps");
const playheadAt = () => page.$eval(".scrubber", (slider) => Number((slider as HTMLInputElement).value));

describe("on the line", () => {
  test("the chart measures the error, and a press in it moves the playhead there", async () => {
    await open(
      "Along the trail",
      "  follow line on centre with floor at 12 cm/s until robot.travel > 90 cm limit 20 s\n",
    );
    await page.waitForFunction(() =>
      /off by [\d.]+ mm/.test(document.querySelector("[aria-label='On the line']")?.textContent ?? ""),
    );
    const said = await words("[aria-label='On the line']");
    expect(said).toMatch(/In the plan: off by [0-2](\.\d)? mm \(root mean square\)/);
    expect(said).toMatch(/never astray, 0\.9\d? m driven/);
    const box = await (await page.$(".lineerror svg"))?.boundingBox();
    if (!box) throw new Error("no chart");
    await page.mouse.click(box.x + box.width * 0.6, box.y + box.height / 2);
    const there = await playheadAt();
    expect(there).toBeGreaterThan(300);
    await page.mouse.click(box.x + box.width * 0.9, box.y + box.height / 2);
    expect(await playheadAt()).toBeGreaterThan(there + 100);
    expect(await axe(page)).toEqual([]);
  });

  test("the tuner's best is quicker, goes into the step, and comes out again by undo", async () => {
    await open("Tuned trail", "  follow line on centre with floor at 12 cm/s until robot.travel > 60 cm limit 20 s\n");
    await press(page, "Tune");
    await page.waitForFunction(
      () => /Best: /.test(document.querySelector("[aria-label='Line tuner'] [role=status]")?.textContent ?? ""),
      {},
    );
    const cells = await page.$$eval(".linemap button", (all) =>
      all.map((cell) => cell.getAttribute("aria-label") ?? ""),
    );
    expect(cells).toHaveLength(35);
    expect(cells.filter((cell) => cell.endsWith("as it is now"))).toEqual([
      expect.stringMatching(/^12 cm\/s, gain 100 %: 4 of 4/),
    ]);
    const [, best, bestSec, nowSec] =
      /Best: (.+?)\. Tried 20 times more: 20 of 20 held the line, ([\d.]+) s.*As it is now: 20 of 20 held the line, ([\d.]+) s/.exec(
        await words("[aria-label='Line tuner'] [role=status]"),
      ) ?? [];
    expect(Number(bestSec)).toBeLessThan(Number(nowSec) * 0.8);
    expect(await axe(page)).toEqual([]);
    await press(page, `Use ${best}`);
    const [speed = "", gain = ""] = (best ?? "").split(", gain ");
    await page.waitForFunction(
      (part) => (document.querySelector(".steps")?.textContent ?? "").includes(part),
      {},
      gain,
    );
    expect(await stepText()).toContain(speed);
    await press(page, "Undo");
    await page.waitForFunction(() => !/gain/.test(document.querySelector(".steps")?.textContent ?? ""));
    expect(await stepText()).toContain("12 cm/s");
  });

  test("tuning can be cancelled, and what was found stays", async () => {
    await open(
      "Cancelled trail",
      "  follow line on centre with floor at 8 cm/s until robot.travel > 90 cm limit 30 s\n",
    );
    await page.select("[aria-label='Rehearsals for each']", "20");
    await press(page, "Tune");
    await page.waitForSelector(".linemap button");
    await press(page, "Cancel");
    await page.waitForFunction(() =>
      [...document.querySelectorAll("button")].some((one) => one.textContent === "Tune again"),
    );
    const found = (await page.$$(".linemap button")).length;
    expect(found).toBeGreaterThan(0);
    expect(found).toBeLessThan(35);
    expect(await page.$("[aria-label='Line tuner'] [role=progressbar]")).toBeNull();
  });

  test("the threshold between the lightest and the darkest becomes a version of the robot", async () => {
    await open("Over light and dark", "  go 10 cm at 10 cm/s\n  turn left 60 deg at 40 deg/s\n");
    const { documents } = await getJson(server, "/api/documents?kind=robot");
    const { id } = documents.find((one: { name: string }) => one.name === "Drizzle");
    const before = (await getJson(server, `/api/documents/${id}`)).head.number;
    const label = await page.waitForFunction(
      () =>
        [...document.querySelectorAll("button")].find((one) => /as threshold$/.test(one.textContent ?? ""))
          ?.textContent,
    );
    const words = (await label.jsonValue()) as string;
    await press(page, words);
    const share = /[\d.]+ %/.exec(words)?.[0] ?? "";
    await page.waitForFunction(
      (said) =>
        document.querySelector("[aria-label='Threshold of floor']")?.textContent?.includes(`Dark below ${said}`),
      {},
      share,
    );
    const { head } = await getJson(server, `/api/documents/${id}`);
    expect(head.number).toBe(before + 1);
    const floor = head.body.sensors.find((sensor: { kind: string }) => sensor.kind === "floor");
    expect(floor.dark.value).toBeCloseTo(Number.parseFloat(share) / 100, 3);
  });
});

describe("the looks of a head", () => {
  test("tells move, settle, ping and echo of each look, and steps from one to the next", async () => {
    await open("A look about", "  scan head from right 60 deg to left 60 deg with 5 looks\n  wait 0.3 s\n");
    await press(page, "Next look");
    const first = await playheadAt();
    expect(first).toBeGreaterThan(0);
    await page.waitForFunction(() =>
      /Look (left|right|ahead).*: moved \d+ ms, settled \d+ ms, waited \d+ ms for its ping and \d+ ms for the echo\. In all \d+ ms/.test(
        document.querySelector("[aria-label='Looks of eye']")?.textContent ?? "",
      ),
    );
    await press(page, "Next look");
    expect(await playheadAt()).toBeGreaterThan(first);
    expect(await page.$$eval(".headtiming rect", (all) => all.length)).toBeGreaterThanOrEqual(15);
    expect(await page.$$eval(".polarpicture .echo", (all) => all.length)).toBeGreaterThan(0);
    expect(await axe(page)).toEqual([]);
  });

  test("says so when nothing turns the head, and when no step follows a line", async () => {
    await open("Straight on", "  go 10 cm\n");
    const all = await words("aside[aria-label=Sensors]");
    expect(all).toContain("never turns in the plan");
    expect(all).toContain("No step follows a line");
  });
});

describe("strips under the field", () => {
  test("a strip of the floor's light stands there, tells its numbers, and others can be added", async () => {
    await open("Strips", "  follow line on centre with floor at 12 cm/s until robot.travel > 40 cm limit 20 s\n");
    await page.waitForSelector("[data-strip-of=floor] path");
    expect(
      await page.$$eval("[data-strip-of=floor] path", (all) => new Set(all.map((path) => path.style.fill)).size),
    ).toBeGreaterThan(3);
    expect(await words("[data-strip-of=floor] .value")).toMatch(/^\d+ % · \d+ %$/);
    expect(await page.$("[data-strip-of=bumper]")).toBeNull();
    await press(page, "Readings");
    await page.waitForSelector(".tracelist");
    await press(page, "bumper", "checkbox");
    await page.waitForSelector("[data-strip-of=bumper]");
    expect(await axe(page)).toEqual([]);
    expect(await words("[data-strip-of=bumper] .value")).toBe("free");
  });
});
