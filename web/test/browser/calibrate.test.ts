// Calibrating in the real page: what is measured is put into the robot and used; choices in tables; what to do next.
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { drawnKnown, parseMission } from "@giddy-pebble/core";
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { axe } from "../support/axe.js";
import { launchBrowser, pressThere, type TestBrowser, visit } from "../support/browser.js";
import { hurry, linkRobot, says, unexpected } from "../support/linked.js";
import { getJson, type Loose, press, untilPlanned } from "../support/mission.js";
import { makeRobot, robotId } from "../support/robot.js";
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
/** In these a robot is linked. */
const LINKED = ["on a linked simulated robot", "on a linked simulated robot, again"] as const;
beforeEach(async ({ task }) => {
  const links = LINKED.some((name) => name === task.suite?.name);
  page = await (links ? browser.freshPage(page) : browser.clearedPage(page));
});

async function head(robot: string): Promise<Loose> {
  return ((await getJson(server, `/api/documents/${await robotId(server, robot)}`)) as Loose).head;
}

async function openKnown(robot: string, known: string): Promise<void> {
  await visit(page, `${server.url}/calibrate?robot=${robot}&known=${known}`);
  await page.waitForSelector(".knowns li button");
}

describe(LINKED[0], () => {
  test("pull-away power is ramped up and down, used as volts, shown in the inspector and forgotten again", async () => {
    await hurry(robots, "drizzle", 20);
    await openKnown("Drizzle", "pull-away");
    await linkRobot(page, "Drizzle");
    await press(page, "Run 4 times");
    await says(page, /Below .* left and .* right the wheels do not move/);
    await page.waitForFunction(() => document.querySelectorAll(".rowstable tbody tr").length === 5);
    expect(await axe(page)).toEqual([]);
    await press(page, "Use it");
    await says(page, "is at version 2");
    const { body, reason } = await head("Drizzle");
    expect(reason).toContain("Breakaway duty");
    expect(body.motors[0].pullAwayVolts).toMatchObject({ source: "measured", count: 4 });
    expect(body.motors[0].pullAwayVolts.value).toBeGreaterThan(0.2);
    // The Robot page has it as a number of the motor, and can let go of it.
    await visit(page, `${server.url}/robot?robot=${await robotId(server, "Drizzle")}`);
    await page.waitForSelector(".part");
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLElement>(".part")]
        .find((one) => one.textContent?.includes("Left motor"))
        ?.click(),
    );
    await says(page, /Pulls away at.*measured.*4 runs/);
    await press(page, "forget it");
    await page.waitForFunction(() => !document.querySelector(".inspector")?.textContent?.includes("Pulls away at"));
  });

  test("stopping is a curve, and its verdict tells missions how to use it", async () => {
    await hurry(robots, "drizzle", 20);
    await openKnown("Drizzle", "stopping");
    await linkRobot(page, "Drizzle");
    await press(page, "Run 6 times");
    await says(page, /From 30 cm\/s it rolls on \d+ mm/);
    await says(page, "until eye.distance < 20 cm + robot.stop_distance");
  });
});

describe(LINKED[1], () => {
  test("placing in a jig is measured, kept as a known, and missions put the robot down so", async () => {
    await hurry(robots, "drizzle", 20);
    await openKnown("Drizzle", "placement");
    await linkRobot(page, "Drizzle");
    await page.select('[aria-label="Put down"]', "1");
    await press(page, "Run 8 times");
    await says(page, /Put down in a jig it stands \d\.\d mm off/);
    await page.waitForFunction(() => document.querySelectorAll(".rowstable tbody tr").length === 9);
    expect(await page.$$eval(".rowstable .why", (all) => all.length)).toBe(0);
    expect(await axe(page)).toEqual([]);
    const [, aside] = await page.$eval(".verdict h3", (one) => /([\d.]+) deg aside/.exec(one.textContent ?? "") ?? []);
    await press(page, "Use it");
    await says(page, /Drizzle is at version \d/);
    const { placement } = (await head("Drizzle")).body;
    expect(placement.headingRad).toMatchObject({ source: "measured", method: "Start placement, in a jig", count: 8 });
    // Eight rows are dealt by chance. In a jig, with the tape's 0.5 deg, one in a million such tables says more than this.
    expect(placement.headingRad.standardError).toBeLessThan(0.02);
    // The robot keeps what the page said of them.
    expect(((placement.headingRad.standardError * 180) / Math.PI).toFixed(1)).toBe(aside);
    // What is measured is in the history, with its rows, and is drawn as what was before.
    await says(page, "Measured before");
    await says(page, /8 rows · version \d/);
    await page.reload();
    await says(page, "Measured before");
  });

  test("a run that is cancelled keeps the rows that were measured; struck out they do not count", async () => {
    await hurry(robots, "gust", 10);
    await openKnown("Gust", "gyro-scale");
    await linkRobot(page, "Gust");
    await press(page, "Run 6 times");
    await says(page, /Run .*2.* of .*6/);
    await press(page, "Cancel");
    await page.waitForFunction(() => ![...document.querySelectorAll("button")].some((b) => b.textContent === "Cancel"));
    const rows = await page.$$eval(".rowstable tbody tr", (all) => all.length - 1);
    expect(rows).toBeGreaterThanOrEqual(1);
    await says(page, "The gyro's scale is");
    for (let i = 0; i < rows; i += 1) await press(page, `Strike out row ${i + 1}`);
    await says(page, "Not enough rows yet");
    await press(page, "Count row 1 again");
    await says(page, "The gyro's scale is");
    await says(page, "no interval yet");
  });
});

describe("without a link", () => {
  test("a tag reader's plates are chosen by name, told apart, and kept as its references", async () => {
    const { body } = await head("Drizzle");
    const tag = { name: "tag", kind: "tag", xM: -0.06, yM: 0, zM: 0.008, aimRad: 0, gapM: 0.008 };
    await makeRobot(server, "Plate reader", { ...body, name: "Plate reader", sensors: [...body.sensors, tag] });
    await openKnown("Plate reader", "tag-colours");
    await says(page, "Next: the red plate.");
    const looks: [string, number[]][] = [
      ["red", [52, 4, 3]],
      ["blue", [3, 12, 38]],
      ["red", [54, 4, 4]],
      ["blue", [4, 12, 40]],
      ["red", [53, 5, 3]],
      ["blue", [3, 11, 39]],
    ];
    for (const [row, [plate, light]] of looks.entries()) {
      const index = await page.$eval(
        `[aria-label="plate, row ${row + 1}"]`,
        (select, wanted) =>
          [...(select as HTMLSelectElement).options].find((one) => one.textContent === wanted)?.value ?? "",
        plate,
      );
      await page.select(`[aria-label="plate, row ${row + 1}"]`, index);
      for (const [i, part] of ["red", "green", "blue"].entries()) {
        await page.click(`#cell-${part}-${row}`, { count: 3 });
        await page.keyboard.type(String(light[i]));
        await page.keyboard.press("Tab");
      }
    }
    await says(page, "6 of 6 looks are named right");
    const table = await page.$$eval(".resulttable tr", (all) =>
      all.map((one) => [...one.children].map((cell) => cell.textContent)),
    );
    expect(table).toEqual([
      ["plate", "read as red", "read as blue"],
      ["red", "3", "0"],
      ["blue", "0", "3"],
    ]);
    expect(await axe(page)).toEqual([]);
    await press(page, "Use it");
    await says(page, "is at version 2");
    const made = (await head("Plate reader")).body.sensors.find((one: Loose) => one.kind === "tag");
    expect(Object.keys(made.references).sort()).toEqual(["blue", "red"]);
    expect(made.references.red.red.value).toBeCloseTo(0.53, 6);
  });

  test("limits of a distance sensor come from typed boards, which the page asks for one after the other", async () => {
    await openKnown("Sleet", "eye-limits");
    await says(page, /Next: \d+ mm away, square on\./);
    const type = async (row: number, values: Record<string, string>) => {
      for (const [id, text] of Object.entries(values)) {
        await page.click(`#cell-${id}-${row}`, { count: 3 });
        await page.keyboard.type(text);
        await page.keyboard.press("Tab");
      }
    };
    await type(0, { trueM: "60 mm", slantRad: "0", readM: "60 mm", seen: "100" });
    await type(1, { trueM: "300 mm", slantRad: "40", readM: "300 mm", seen: "98" });
    await says(page, "No row lies beyond a limit yet");
    await type(2, { trueM: "300 mm", slantRad: "50", readM: "3 m", seen: "2" });
    await says(page, "The distance sensor is silent beyond 45 ± 3 deg");
  });

  test("the trail says what to measure next, and leads there", async () => {
    await visit(page, `${server.url}/mission`);
    await untilPlanned(page);
    const pebble = await page.waitForSelector("::-p-xpath(//nav//a[contains(., 'Calibrate')])");
    await pebble?.hover();
    await page.waitForFunction(
      () => document.querySelector("[role=tooltip]")?.textContent?.includes("Measure next: "),
      {},
    );
    await Promise.all([page.waitForNavigation(), pressThere(page, { selector: "nav a", words: "Calibrate" })]);
    await page.waitForSelector(".knowns [aria-current='true']");
    const [address, chosen] = await page.evaluate(() => [
      window.location.search,
      document.querySelector(".knowns [aria-current='true'] .name")?.textContent,
    ]);
    expect(address).toMatch(/known=[a-z-]+/);
    expect(chosen?.length).toBeGreaterThan(3);
  });
});

describe("for a robot of one's own", () => {
  test("the program is shown and saved, and the sheet is what the printer gets", async () => {
    const folder = mkdtempSync(path.join(os.tmpdir(), "giddy-sheet-"));
    const cdp = await page.createCDPSession();
    await cdp.send("Browser.setDownloadBehavior", { behavior: "allow", downloadPath: folder, eventsEnabled: true });
    await openKnown("Gust", "turning-width");
    await page.click(".procedure .fold .foldline");
    await says(page, "Runs take turns with a second program; both are in the file.");
    const done = new Promise<void>((resolve) =>
      cdp.on("Browser.downloadProgress", (event) => event.state === "completed" && resolve()),
    );
    await press(page, "Save the program");
    await done;
    const saved = readFileSync(path.join(folder, "turning-width.cairn"), "utf8");
    const [first = "", second = ""] = saved.split("\n# The next run:\n");
    expect(first).toContain("turn left 1800 deg");
    expect(second).toContain("turn right 1800 deg");
    for (const text of [first, second]) expect(parseMission(text).problems).toEqual([]);
    await page.emulateMediaType("print");
    const shown = await page.$eval(".sheetonly", (sheet) => ({
      display: getComputedStyle(sheet).display,
      heads: [...sheet.querySelectorAll("th")].map((one) => one.textContent),
      lines: sheet.querySelectorAll("tbody tr").length,
    }));
    expect(shown.display).not.toBe("none");
    expect(shown.heads).toEqual(["run", "way ", "left over (deg)", "by the wheels (turns)", "remarks"]);
    expect(shown.lines).toBe(6);
    await page.emulateMediaType("screen");
    rmSync(folder, { recursive: true, force: true });
  });

  test("what was measured by hand is kept without changing the robot, then used as a version that says why", async () => {
    await openKnown("Sleet", "steering");
    const before = (await head("Sleet")).number;
    const { wheelbaseM } = (await head("Sleet")).body.drive;
    for (const [row, told] of [-20, -10, 0, 10, 20].entries()) {
      // Arcs of 40 cm that bend 1.5 deg more to the left than told.
      const bend = Math.tan(((told + 1.5) * Math.PI) / 180) / wheelbaseM.value;
      const values = {
        steerRad: `${told}`,
        alongM: `${(1000 * Math.sin(0.4 * bend)) / bend}`,
        asideM: `${(1000 * (1 - Math.cos(0.4 * bend))) / bend}`,
      };
      for (const [id, typed] of Object.entries(values)) {
        await page.click(`#cell-${id}-${row}`, { count: 3 });
        await page.keyboard.type(Number(typed).toFixed(3));
        await page.keyboard.press("Tab");
      }
    }
    await says(page, /Told to go straight it steers 1\.5.* deg to the left/);
    await press(page, "Keep as is");
    await says(page, "Kept in the history. The robot stays as it is.");
    await says(page, "kept, not used");
    expect((await head("Sleet")).number).toBe(before);
    await press(page, "Use it");
    await says(page, `Sleet is at version ${before + 1} now.`);
    const now = await head("Sleet");
    expect(now.reason).toContain("calibrated: Steering, Told to go straight it steers 1.5");
    expect((now.body.drive.steering.centreRad.value * 180) / Math.PI).toBeCloseTo(1.5, 2);
    expect(now.body.drive.steering.centreRad.conditions).toContain("typed by hand");
  });

  test("a procedure that does not fit says why, and the arrows pass it by", async () => {
    await openKnown("Fog", "wheel-size");
    await says(page, "This robot has no wheel encoders. Speed at power and timed turns are its procedures.");
    await page.focus(".knowns [aria-current='true']");
    await page.keyboard.press("ArrowDown");
    const chosen = await page.$eval(".knowns [aria-current='true'] .name", (one) => one.textContent);
    expect(chosen).not.toBe("Wheel size");
    expect(await page.$eval(".procedure h2", (one) => one.textContent)).toBe(chosen);
  });
});

test("a robot whose numbers came from older versions still opens here", async () => {
  const { body } = await head("Fog");
  const { holdGainPerRad: _gain, turnPastRad: _past, ...drive } = body.drive;
  await makeRobot(server, "Old Fog", { ...body, name: "Old Fog", drive: { ...drive, trackWidthM: drawnKnown(0.2) } });
  await openKnown("Old Fog", "timed-turn");
  await says(page, "Timed turn");
});
