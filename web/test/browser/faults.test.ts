// Robots that cannot be: each opens, says where and what would mend it, is drawn so, and the rest of it stays usable.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser } from "../support/browser.js";
import { getJson, type Loose, press } from "../support/mission.js";
import { choosePart, makeRobot, openRobotPage, robotId, savedRobot, text, typeQuantity } from "../support/robot.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;
let drizzle: Loose;
let fog: Loose;
beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
  page = await browser.newPage();
  const bodyOf = async (name: string) =>
    (await getJson(server, `/api/documents/${await robotId(server, name)}`)).head.body;
  drizzle = await bodyOf("Drizzle");
  fog = await bodyOf("Fog");
});
afterAll(async () => {
  await browser?.close();
  await server?.leave();
});

/** Opens a robot of this name with something changed on it. @returns its id */
async function open(name: string, change: (body: Loose) => void, original: Loose = drizzle): Promise<string> {
  const body = structuredClone({ ...original, name });
  change(body);
  const id = await makeRobot(server, name, body);
  await openRobotPage(page, server, id);
  return id;
}

/** Names of the pieces drawn as being in trouble. */
const drawnWrong = () => page.$$eval(".piece.trouble", (all) => all.map((one) => one.getAttribute("aria-label") ?? ""));
const notes = () => page.$$eval(".inspector .note", (all) => all.map((one) => one.textContent ?? "").join(" "));

/** Whatever is wrong, another number of the robot can be changed and is saved. */
async function restUsable(id: string): Promise<void> {
  await choosePart(page, "Gyro");
  await typeQuantity(page, "Height", "33 mm");
  expect((await savedRobot(page, server, id)).sensors.find((one: Loose) => one.kind === "gyro").zM).toBe(0.033);
  expect(browser.troubles).toEqual([]);
}

describe("wheels", () => {
  test("off the chassis are flagged where they are, and dragged back they are well", async () => {
    const id = await open("Wheel away", (body) => {
      body.wheels[0].xM = 0.5;
    });
    expect(await drawnWrong()).toContain("Left wheel");
    await choosePart(page, "Left wheel");
    expect(await notes()).toMatch(/off the chassis|away from the chassis/);
    await restUsable(id);
    await choosePart(page, "Left wheel");
    await typeQuantity(page, "Ahead of the axle", "0 mm");
    await page.waitForFunction(() => document.querySelectorAll(".piece.trouble").length === 0);
    expect(await text(page, ".means")).toContain("Top speed");
  });

  test("that are not there leave a robot that says what to add, and can be added", async () => {
    const id = await open("No wheels", (body) => {
      body.wheels = [];
    });
    await choosePart(page, "Drive");
    expect(await notes()).toContain("has no wheels");
    expect(await text(page, ".means")).toContain("Not to be told yet");
    await restUsable(id);
    await page.keyboard.press("a");
    for (let i = 0; i < 2; i += 1) {
      await page.waitForSelector(".catalogue button");
      await page.evaluate(() =>
        [...document.querySelectorAll<HTMLElement>(".catalogue button")]
          .find((one) => one.textContent?.includes("Rubber wheel, 62 mm"))
          ?.click(),
      );
    }
    await press(page, "Close");
    await choosePart(page, "Drive");
    await page.waitForFunction(() => document.querySelector(".means")?.textContent?.includes("Top speed"));
  });

  test("of which one is driven are said to turn on the spot, with the mend", async () => {
    const id = await open("One driven", (body) => {
      body.wheels[1].drivenBy = null;
    });
    await choosePart(page, "Drive");
    expect((await notes()).length).toBeGreaterThan(20);
    await restUsable(id);
    await choosePart(page, "Right wheel");
    await page.select('.inspector select:has(option[value="right_motor"])', "right_motor");
    await page.waitForFunction(() => document.querySelectorAll(".inspector .note.error").length === 0);
  });
});

describe("power", () => {
  test("a hundred motors on one pack are named as what they are, and every one of them is listed", async () => {
    const id = await open("Hundred motors", (body) => {
      for (let i = 0; i < 97; i += 1) body.motors.push({ ...body.motors[2], name: `extra_${i}` });
    });
    await choosePart(page, "Pack");
    expect(await notes()).toMatch(/101 motors and servos on one pack.*Keep to 16/);
    expect((await page.$$(".part")).length).toBeGreaterThan(100);
    expect((await page.$$(".terminals li")).length).toBeGreaterThan(100);
    await restUsable(id);
  });

  test("a port used twice is named on the board, with both who use it", async () => {
    const id = await open("Port twice", (body) => {
      for (const wire of body.wiring) if (wire.part === "right_motor") wire.to = "1";
    });
    const note = await text(page, ".wiringnotes .error");
    expect(note).toMatch(/Socket 1 has 2 wires: left motor and right motor/);
    expect(note).toContain("Move one of them to a free place.");
    expect(await page.$('.terminal.error[data-terminal="1"]')).not.toBeNull();
    await restUsable(id);
    await press(page, "Propose the wiring");
    await page.waitForFunction(() => document.querySelectorAll(".wiringnotes .error").length === 0);
  });

  test("a missing ground, an input that floats and a pin without PWM are told apart on a board with pins", async () => {
    await open(
      "Badly wired",
      (body) => {
        body.wiring = body.wiring
          .filter((wire: Loose) => !(wire.part === "near_left" && wire.terminal === "ground"))
          .map((wire: Loose) =>
            wire.part === "bridge" && wire.terminal === "enable_a"
              ? { ...wire, to: "Q1" }
              : wire.part === "go_button" && wire.terminal === "signal"
                ? { ...wire, to: "P5" }
                : wire,
          );
        for (const sensor of body.sensors) if (sensor.name === "left_whisker") sensor.pullUp = false;
        body.board.driver = "pwm";
      },
      fog,
    );
    const wrong = await page.$$eval(".wiringnotes .error", (all) => all.map((one) => one.textContent ?? ""));
    expect(wrong.some((one) => one.includes("Near left has no ground"))).toBe(true);
    expect(wrong.some((one) => /left whisker has no pull-up.*floats/i.test(one))).toBe(true);
    expect(wrong.some((one) => /Pin Q1 has no PWM/.test(one))).toBe(true);
    expect(await axe(page)).toEqual([]);
  });
});

describe("documents", () => {
  test("heights below the ground are flagged on the sensor and on the side drawing", async () => {
    const id = await open("Below ground", (body) => {
      body.sensors.find((one: Loose) => one.name === "eye").zM = -0.03;
    });
    expect(await drawnWrong()).toEqual(["Eye"]);
    await choosePart(page, "Eye");
    expect(await notes()).toContain("Eye: height must be at least 0 mm");
    await page.keyboard.press("v");
    await page.waitForSelector('[aria-label="Side of the robot, from its right"]');
    await restUsable(id);
    await choosePart(page, "Eye");
    await typeQuantity(page, "Height", "60 mm");
    await page.waitForFunction(() => document.querySelectorAll(".inspector .note.error").length === 0);
  });

  test("keys of __proto__ and constructor come to nothing", async () => {
    const sent = JSON.stringify({ kind: "robot", name: "Proto", body: { ...drizzle, name: "Proto" } }).replace(
      '"chassis":{',
      '"__proto__":{"polluted":1},"constructor":{"prototype":{"polluted":1}},"chassis":{"__proto__":{"massKg":99},',
    );
    const made = await fetch(`${server.url}/api/documents`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: sent,
    });
    const { document: kept } = (await made.json()) as Loose;
    await openRobotPage(page, server, kept.id);
    expect(await page.evaluate(() => ({}) as { polluted?: number })).toEqual({});
    expect(await page.evaluate(() => "polluted" in Object.prototype)).toBe(false);
    await choosePart(page, "Chassis");
    expect(await text(page, ".inspector")).toContain("0.92 kg");
    const { head } = await getJson(server, `/api/documents/${kept.id}`);
    expect(JSON.stringify(head.body)).not.toContain("polluted");
  });
});
