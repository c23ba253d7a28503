// A robot with roller wheels in every workplace: described, rolled for the first time, told to slide in steps and text,
// its sliding measured, and driven sideways by keys.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { axe } from "../support/axe.js";
import { launchBrowser, named, type TestBrowser, visit } from "../support/browser.js";
import { hurry, linkRobot, openLink, says, unexpected, wordsInstead } from "../support/linked.js";
import {
  getJson,
  type Loose,
  newMission,
  openMission,
  press,
  quickAdd,
  rows,
  savedText,
  untilPlanned,
} from "../support/mission.js";
import { choosePart, copyOf, openRobotPage, robotId, savedRobot } from "../support/robot.js";
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
  page = await browser.newPage();
});
afterAll(async () => {
  expect(unexpected(browser.troubles)).toEqual([]);
  await browser?.close();
  await server?.leave();
  await robots?.stop();
});

const HEAD = 'cairn 1\nrobot "Flurry"\nfield "Cliff run"\nbegin "start line"\n\nmission\n';

test("Robot: rollers on the plan, another kind and back by undo, no trouble for keys and readers", async () => {
  const id = await copyOf(server, "Flurry", "Flurry of its own");
  await openRobotPage(page, server, id);
  expect((await page.$$(".plan .tread.roller")).length).toBe(28);
  await choosePart(page, "Drive");
  await (await named(page, "combobox", "Kind")).select("three-rollers");
  await says(page, "Three roller wheels have three motors; this robot has 4 wheels and 4 driven ones.");
  await press(page, "Undo");
  await page.waitForFunction(() => !document.querySelector(".inspector .error, .part .sr"));
  expect((await savedRobot(page, server, id)).drive.kind).toBe("four-rollers");
  await choosePart(page, "Front left");
  expect(await axe(page)).toEqual([]);
  await page.click('.inspector input[type="checkbox"]');
  await says(page, 'Wheel "front_left" has no rollers');
  await press(page, "Undo");
});

test("Robot: a first roll nudges all four wheels and sets ports and directions", async () => {
  const id = await copyOf(server, "Flurry", "Flurry plugged in a hurry");
  await openRobotPage(page, server, id);
  await press(page, "First roll");
  for (const wheel of ["front left", "front right", "rear left", "rear right"]) {
    await press(page, `Nudge ${wheel}`);
    const turning = await page.waitForSelector("[data-turning]");
    const said = (await turning?.evaluate((one) => one.getAttribute("data-turning"))) ?? "";
    const [direction] = said.split(" ").slice(-1);
    await press(page, `${said.slice(0, said.lastIndexOf(" "))} wheel, ${direction}`);
  }
  await press(page, "All forward");
  await says(page, "All wheels turned forward. Ports and directions are right.");
});

test("Mission: slide in steps and in text, and what a robot that cannot is told", async () => {
  const id = await newMission(server, "Sideways", `${HEAD}  go 20 cm\n`);
  await openMission(page, server, id);
  await untilPlanned(page);
  await quickAdd(page, "slide left 25 cm at 15 cm/s");
  await page.waitForFunction(() => document.querySelectorAll(".row .took").length === 2);
  expect((await rows(page)).at(-1)).toBe("slideleft25 cmat15 cm/s");
  expect(await savedText(page, server, id)).toContain("  slide left 25 cm at 15 cm/s\n");
  const other = await newMission(
    server,
    "Sideways for Drizzle",
    `${HEAD.replace("Flurry", "Drizzle")}  slide left 25 cm\n`,
  );
  await openMission(page, server, other);
  await says(page, "Drizzle cannot slide: only roller wheels move sideways. Use turn and go.");
});

test("Calibrate: sliding is measured on the linked robot, and used", async () => {
  await visit(page, `${server.url}/calibrate?robot=${await robotId(server, "Flurry")}`);
  await linkRobot(page, "Flurry");
  await hurry(robots, "flurry", 20);
  await page.evaluate(() => {
    const row = [...document.querySelectorAll<HTMLElement>("button, a")].find((one) =>
      one.textContent?.startsWith("Sliding"),
    );
    row?.click();
  });
  await says(page, "Slide left and right by turns");
  await press(page, "Run 6 times");
  await says(page, /Of a metre its wheels say, it slides \d{3,4} mm.*6 slides put the share/);
  await press(page, "Use it");
  const id = await robotId(server, "Flurry");
  await page.waitForFunction(
    async (address: string) => {
      const { draft, head } = await (await fetch(address)).json();
      return (draft?.body ?? head.body).drive.slideShare.source === "measured";
    },
    {},
    `/api/documents/${id}`,
  );
  const { draft, head } = (await getJson(server, `/api/documents/${id}`)) as Loose;
  const { value, standardError, count } = (draft?.body ?? head.body).drive.slideShare;
  expect(value).toBeGreaterThan(0.93);
  expect(value).toBeLessThan(1.001);
  expect(standardError).toBeLessThan(0.005);
  expect(count).toBe(6);
  await hurry(robots, "flurry", 1);
});

test("Drive: A and D slide it, the arrow keys turn it", async () => {
  const { documents } = (await getJson(server, "/api/documents?kind=mission")) as Loose;
  const mission = documents.find(({ name }: Loose) => name === "Flurry by hand");
  page = await browser.freshPage(page);
  await page.goto(`${server.url}/drive?mission=${mission.id}`);
  await linkRobot(page, "Flurry");
  await says(page, "left stick → ahead, aside");
  const socket = await openLink(robots, "flurry");
  socket.send(JSON.stringify({ kind: "readings", ask: 1, on: true }));
  const heard: Loose[] = [];
  let hand = "";
  socket.on("message", (data: Buffer, binary: boolean) => {
    if (binary) return;
    const frame = JSON.parse(data.toString("utf8"));
    if (frame.kind === "readings") heard.push(frame);
    if (frame.kind === "state") hand = frame.hand;
  });
  const until = async (fits: (frame: Loose) => boolean, orSilent = false) => {
    const end = Date.now() + 30_000;
    while (!heard.some(fits) && !(orSilent && hand === "silent")) {
      if (Date.now() > end)
        throw new Error(`it never came: ${JSON.stringify(heard.at(-1))}; ${await wordsInstead(page)}`);
      await new Promise((resolve) => socket.once("message", resolve));
    }
  };
  /** Holds a key until that came. After a page that was held up for 300 ms it stands until all was let go: once more, then. */
  const hold = async (key: "KeyA" | "ArrowLeft", fits: (frame: Loose) => boolean) => {
    while (!heard.some(fits)) {
      await page.keyboard.down(key);
      await until(fits, true);
      await page.keyboard.up(key);
      await until(() => hand === "driver");
    }
  };
  await press(page, "Drive Flurry");
  await says(page, "You have it; this is recorded");
  await until(({ tick }) => tick > 5);
  const begin = heard.at(-1);
  // Two wheels roll back while two roll ahead: to its left, still looking ahead.
  await hold("KeyA", ({ yM, headingRad }) => yM - begin.yM > 0.1 && Math.abs(headingRad - begin.headingRad) < 0.1);
  const slid = heard.at(-1);
  await hold("ArrowLeft", ({ headingRad }) => headingRad - slid.headingRad > 0.5);
  await page.keyboard.press("Escape");
  await says(page, /Drive Flurry/);
  socket.terminate();
});
