// A new user's walk: from an empty robot to Drizzle, built from parts, wired by proposal, first roll, a revision
// named; every act of hand or key counted.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { launchBrowser, named, pressThere, type TestBrowser, visit } from "../support/browser.js";
import { getJson, type Loose } from "../support/mission.js";
import { openRobotPage } from "../support/robot.js";
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

/** What a person does, one act each: a click, a word typed, a choice made. */
class Hand {
  acts = 0;
  constructor(readonly page: Page) {}

  async click(name: string, role = "button"): Promise<void> {
    this.acts += 1;
    await pressThere(this.page, { role, name });
  }
  async clickText(selector: string, words: string): Promise<void> {
    this.acts += 1;
    await pressThere(this.page, { selector, words });
  }
  async type(words: string): Promise<void> {
    this.acts += 1;
    await this.page.keyboard.type(words);
  }
  async press(key: "Enter" | "a"): Promise<void> {
    this.acts += 1;
    await this.page.keyboard.press(key);
  }
  async choose(label: string, value: string): Promise<void> {
    this.acts += 1;
    await (await named(this.page, "combobox", label)).select(value);
  }
  async quantity(label: string, value: string): Promise<void> {
    this.acts += 2;
    await this.page.click(`.inspector [role="spinbutton"][aria-label="${label}"]`);
    await this.page.waitForSelector(`.inspector input[aria-label="${label}"]`);
    await this.page.keyboard.type(value);
    await this.page.keyboard.press("Enter");
  }
}

test("Drizzle in at most 60 acts", async () => {
  const page = await browser.newPage();
  await openRobotPage(page, server);
  const hand = new Hand(page);
  await hand.click("Robots");
  await hand.click("Name of the new robot", "textbox");
  await hand.type("Second Drizzle");
  await hand.press("Enter");
  await page.waitForFunction(() => document.querySelector<HTMLInputElement>(".robotname")?.value === "Second Drizzle");
  await page.waitForFunction(() => document.querySelector(".inspector")?.textContent?.includes("Not to be told yet"));
  await hand.press("a");
  for (const part of [
    "Geared motor with encoder",
    "Geared motor with encoder",
    "Rubber wheel, 62 mm",
    "Rubber wheel, 62 mm",
    "Ball",
    "Slow, strong motor with encoder",
    "Arm",
    "Bumper",
    "Distance sensor",
    "Small servo",
    "Light sensor pair",
    "Gyro",
  ])
    await hand.clickText(".catalogue button", part);
  await hand.click("Close");
  // The chassis: mass and balance as weighed.
  await hand.clickText(".part", "Chassis");
  await hand.quantity("Mass, whole robot", "920 g");
  await hand.clickText(".part", "Board");
  await hand.quantity("Capacitor on the servo rail", "220 uF");
  await hand.click("Propose the wiring");
  await page.waitForFunction(() => document.querySelectorAll(".wiringnotes .fine").length > 0);
  expect(await page.$$(".wiringnotes .error, .wiringnotes .warning")).toEqual([]);
  // First roll: says what it sees.
  await hand.click("First roll");
  for (const side of ["left", "right"]) {
    await hand.click(`Nudge ${side}`);
    const turning = await page.waitForSelector("[data-turning]");
    const [wheel, direction] = ((await turning?.evaluate((one) => one.getAttribute("data-turning"))) ?? "").split(" ");
    await hand.click(`${wheel} wheel, ${direction}`);
  }
  await hand.click("Both forward");
  await page.waitForFunction(() =>
    document.querySelector(".panel")?.textContent?.includes("Both wheels turned forward"),
  );
  await hand.click("Close");
  await page.click(".revbadge.mono");
  hand.acts += 1;
  await hand.click("Name of the version", "textbox");
  await hand.type("as built");
  await hand.press("Enter");
  await page.waitForFunction(() => document.querySelector(".revisionlist li")?.textContent?.includes("as built"));
  expect(hand.acts).toBeLessThanOrEqual(60);

  const { documents } = await getJson(server, "/api/documents?kind=robot");
  const { id } = documents.find((one: Loose) => one.name === "Second Drizzle");
  const { head } = await getJson(server, `/api/documents/${id}`);
  expect(head.name).toBe("as built");
  const part = (list: string, name: string) => head.body[list].find((one: Loose) => one.name === name);
  expect(head.body.chassis.massKg).toBe(0.92);
  expect(part("wheels", "left_wheel")).toMatchObject({ drivenBy: "left_motor", diameterM: 0.062 });
  expect(part("attachments", "lever").drivenBy).toBe("arm_motor");
  expect(part("sensors", "sonar").head).toBe("head");
  expect(browser.troubles).toEqual([]);

  // It drives: the mission of the demo runs with it.
  const made = await fetch(`${server.url}/api/documents`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({
      kind: "mission",
      name: "Walk",
      text: 'cairn 1\nrobot "Second Drizzle"\nmission\n  go 30 cm\n  turn left 90 deg\n',
    }),
  });
  const mission = (await made.json()) as Loose;
  await visit(page, `${server.url}/mission?mission=${mission.document.id}`);
  await page.waitForSelector(".row .took");
  expect(browser.troubles).toEqual([]);
});
