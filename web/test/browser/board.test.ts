// A mission onto a board, the whole way in the real page: compiled, written through the bootloader of an emulated chip, run
// by the chip's own lines, watched, halted, and kept as a run.

import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { WHOLE } from "../../../core/test/support/search.js";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser } from "../support/browser.js";
import { says, slowBoard, unexpected, wordsInstead } from "../support/linked.js";
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
  await server.leave();
  await robots.stop();
});
beforeEach(async () => {
  page = await browser.freshPage(page);
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

type Kind = "avr" | "micropython";
const board = (robot: string, kind: Kind) => `${robot.toLowerCase()}/${kind}`;

async function linkBoard(robot: string, kind: Kind = "avr"): Promise<void> {
  await slowBoard(robots, board(robot, kind), 1);
  await press(page, `Robot: ${robot}, not linked`);
  await linkBoardThere(kind);
  expect(await axe(page)).toEqual([]);
  await press(page, "Close");
}

async function linkBoardThere(kind: Kind): Promise<void> {
  await page.select(".boardchoice select", kind);
  await press(page, "Link an emulated board");
  await page.waitForSelector(".robotpill.linked");
}

/**
 * Sends the open mission, and slows its board down: it waits a second of its own for a page that is silent, and this computer
 * may have other things to do for longer than that.
 */
async function sendAndSlow(robot: string, kind: Kind, times: number): Promise<void> {
  const holds = `${robot} holds version 1, the one on the screen`;
  await press(page, "Send");
  await says(page, holds);
  await page.click(".robotpill");
  await press(page, "Unlink");
  await slowBoard(robots, board(robot, kind), times);
  await linkBoardThere(kind);
  await press(page, "Close");
  await says(page, holds);
}

/** Reads the foot of the mission until its clock has come to so many seconds. @returns what it says then, s */
async function untilClock(seconds: number): Promise<number> {
  const come = page.waitForFunction(
    (least: number) => {
      const said = /([\d.]+) s ·/.exec(document.querySelector(".robotrow")?.textContent ?? "")?.[1] ?? "";
      return Number.parseFloat(said) >= least && said;
    },
    {},
    seconds,
  );
  const said = await come.catch(async () => {
    throw new Error(`the clock never came to ${seconds} s; ${await wordsInstead(page)}`);
  });
  return Number(await said.jsonValue());
}

/** Waits until the robot is at a step, as its row shows while it runs. */
async function untilStep(verb: string): Promise<void> {
  const come = page.waitForFunction(
    (wanted: string) => document.querySelector(".row.lit .verb")?.textContent?.trim() === wanted,
    {},
    verb,
  );
  await come.catch(async () => {
    throw new Error(`it never came to "${verb}"; ${await wordsInstead(page)}`);
  });
}

/** The run that was kept last. */
async function newestTrial(mission: string): Promise<Loose> {
  return ((await getJson(server, `/api/trials?mission=${mission}`)) as Loose).trials[0];
}

describe("an emulated ATmega328P", () => {
  test("whose line is pulled for a moment in a run is linked again by itself, goes on, and can be halted", async () => {
    const id = await newMission(server, "Long way", WANDER);
    await openMission(page, server, id);
    await linkBoard("Fog");
    await untilPlanned(page);
    await sendAndSlow("Fog", "avr", 0.1);
    await press(page, "Run on Fog");
    await untilClock(0.3);
    await press(page, "Robot: Fog, board · running");
    await page.locator(".robotpanel .MuiAccordionSummary-root").click();
    await press(page, "Drop the link");
    await says(page, "Linked to Fog again.");
    await page.waitForSelector(".robotpill.linked");
    await press(page, "Close");
    // Half a second longer than it would have waited, had it heard nothing since the link was dropped.
    await untilClock((await untilClock(0.3)) + 1.5);
    await press(page, "Halt Fog");
    await says(page, "Against the plan");
    await says(page, "Fog holds version 1, the one on the screen");
    const kept = await newestTrial(id);
    expect(kept).toMatchObject({ source: "robot", robot: { name: "Fog" }, outcome: "stopped" });
    expect(kept.summary).toMatchObject({ reason: "it was halted" });
    // The tape was read when it stood.
    expect(kept.summary.tape).toMatchObject({ xM: expect.any(Number), yM: expect.any(Number) });
  });

  // What this adds to the test above and to those without a page is tried by the long search.
  test.runIf(WHOLE)(
    "is given the trail to the mast through its bootloader, follows it, and the tape finds it there",
    async () => {
      const { documents } = (await getJson(server, "/api/documents?kind=mission")) as Loose;
      const { id } = documents.find((one: Loose) => one.name === "Trail to the mast");
      await openMission(page, server, id);
      await linkBoard("Drizzle");
      await untilPlanned(page);
      await says(page, "Drizzle does not hold this mission yet");
      await sendAndSlow("Drizzle", "avr", 0.5);
      await press(page, "Run on Drizzle");
      await says(page, "Drizzle runs");
      await says(page, 'the tape finds it inside "mast yard"');
      expect(await newestTrial(id)).toMatchObject({ source: "robot", outcome: "finished", success: true });
    },
  );
});

describe("an emulated board with MicroPython", () => {
  // Without a page it is tried for longer.
  test.runIf(WHOLE)(
    "is given Fog's wandering through its REPL, and avoids boulders while the page watches",
    async () => {
      const id = await newMission(server, "Wandering in Python", WANDER);
      await openMission(page, server, id);
      await linkBoard("Fog", "micropython");
      await untilPlanned(page);
      await sendAndSlow("Fog", "micropython", 0.5);
      await press(page, "Run on Fog");
      await says(page, "Fog runs");
      // It touches a boulder, backs off, turns away and goes on.
      await untilStep("turn");
      await untilStep("go");
      await press(page, "Halt Fog");
      await says(page, "Against the plan");
      const kept = await newestTrial(id);
      expect(kept).toMatchObject({ source: "robot", outcome: "stopped" });
      const { summary } = (await getJson(server, `/api/trials/${kept.id}`)) as Loose;
      expect(summary.steps.slice(0, 3).map((step: Loose) => step.endedBy)).toEqual(["until", "done", "done"]);
    },
  );
});
