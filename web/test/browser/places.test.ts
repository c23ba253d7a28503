// What a screen says is so: of its version, its drawing, its robot; and where a person is goes along with them.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { some } from "../../../core/test/support/search.js";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser, visit } from "../support/browser.js";
import {
  choose,
  getJson,
  type Loose,
  newMission,
  openMission,
  press,
  quickAdd,
  rows,
  savedText,
  studyResult,
  untilPlanned,
  withKey,
} from "../support/mission.js";
import { choosePart, copyOf, openRobotPage, robotId, text, typeQuantity } from "../support/robot.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;

beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
});
afterAll(async () => {
  // No stand-ins run here, so one that was renamed is not found.
  expect(browser.troubles.filter((trouble) => !/ 502 /.test(trouble))).toEqual([]);
  await browser.close();
  await server.leave();
});
/** Tests that go on in the page of the one before: each opens a mission of its own in it. */
const SAME_PAGE = "everyday words";
beforeEach(async ({ task }) => {
  if (task.suite?.name !== SAME_PAGE) page = await browser.clearedPage(page);
});

const mission = (robot: string, steps: string) =>
  `cairn 1\nrobot "${robot}"\nfield "Fellside"\nbegin "hut dock"\n\nmission\n${steps}`;

/** Waits until an element says something. */
async function reads(selector: string, words: RegExp): Promise<void> {
  await expect.poll(() => text(page, selector).catch(() => ""), { timeout: 20_000 }).toMatch(words);
}

const chosenRobot = () =>
  page.$eval('[aria-label="Robot"]', (list) => (list as HTMLSelectElement).selectedOptions[0]?.text);

describe("a verdict", () => {
  test("names the version it speaks of, fades once the text changes, and is whole again when the change is undone", async () => {
    const id = await newMission(server, "Verdict", mission("Drizzle", "  go 20 cm\n  wait 1 s\n"));
    await openMission(page, server, id);
    await untilPlanned(page);
    await press(page, "Rehearse");
    await reads(".verdict", /^Version 1 · Finished in/);
    expect(await page.$(".verdict.good")).not.toBeNull();
    await quickAdd(page, "wait 2 s");
    await reads(".verdict", /^Version 1 · before your change: Finished in/);
    expect(await page.$(".verdict.before")).not.toBeNull();
    expect(await page.$(".verdict.good, .verdict.bad")).toBeNull();
    await page.focus(".steps");
    await withKey(page, "Control", "z");
    await reads(".verdict", /^Version 1 · Finished in/);
    expect(await page.$(".verdict.good")).not.toBeNull();
  });
});

describe("values as drawn", () => {
  test("follow the drawing; one that was typed stays and says what the drawing says", async () => {
    const id = await copyOf(server, "Drizzle", "Redrawn");
    await openRobotPage(page, server, id);
    await choosePart(page, "Left wheel");
    const shown = () => page.$eval('.inspector [aria-label="Rolls per turn"]', (one) => one.textContent ?? "");
    expect(await shown()).toBe("194.6 mm");
    await press(page, "use the drawing");
    await expect.poll(shown).toBe("194.8 mm");
    await typeQuantity(page, "Diameter", "56 mm");
    await expect.poll(shown).toBe("175.9 mm");
    await typeQuantity(page, "Rolls per turn", "230 mm");
    await expect.poll(() => text(page, ".inspector")).toContain("The drawing says 175.9 mm.");
    await typeQuantity(page, "Diameter", "62 mm");
    await expect.poll(() => text(page, ".inspector")).toContain("The drawing says 194.8 mm.");
    expect(await shown()).toBe("230 mm");
  });
});

describe("a robot's new name", () => {
  test("is in the list of robots, in the missions that name it and on every page, without a reload", async () => {
    const id = await copyOf(server, "Drizzle", "Puddle");
    const own = await newMission(server, "Splash", mission("Puddle", "  go 20 cm\n"));
    await openRobotPage(page, server, id);
    await page.click(".robotname", { count: 3 });
    await page.keyboard.type("Brook");
    await page.keyboard.press("Enter");
    await expect.poll(async () => (await getJson(server, `/api/documents/${id}`)).document.name).toBe("Brook");
    await press(page, "Robots");
    await reads(".panel", /Brook/);
    expect(await text(page, ".panel")).not.toContain("Puddle");
    await reads(".robotpill", /^Brook/);
    expect(await page.title()).toContain("Brook");
    await expect.poll(() => savedOf(own)).toContain('robot "Brook"');
    await visit(page, `${server.url}/calibrate?robot=${id}`);
    await page.waitForSelector('[aria-label="Robot"]');
    expect(await chosenRobot()).toBe("Brook");
    await openMission(page, server, own);
    await untilPlanned(page);
    await reads(".robotpill", /^Brook/);
  });
});

async function savedOf(id: string): Promise<string> {
  const { draft, head } = await getJson(server, `/api/documents/${id}`);
  return draft?.text ?? head.text;
}

/** Follows the trail to another workplace. */
async function go(workplace: string): Promise<void> {
  await Promise.all([
    page.waitForNavigation(),
    page.evaluate(
      (name) =>
        [...document.querySelectorAll<HTMLElement>(".trail a")]
          .find((one) => one.textContent?.trim() === name)
          ?.click(),
      workplace,
    ),
  ]);
  await page.waitForSelector("main h1, main h2");
}

describe("the person's choice", () => {
  test("of a robot goes along to Calibrate, Back returns to it, and the page is titled by it", async () => {
    await openRobotPage(page, server, await robotId(server, "Sleet"));
    await expect.poll(() => page.title()).toContain("Sleet");
    await go("Calibrate");
    await page.waitForSelector('[aria-label="Robot"]');
    expect(await chosenRobot()).toBe("Sleet");
    await expect.poll(() => page.title()).toContain("Sleet");
    await page.select('[aria-label="Robot"]', await robotId(server, "Gust"));
    await expect.poll(() => page.title()).toContain("Gust");
    await page.goBack();
    await expect.poll(() => page.title()).toContain("Sleet");
    await expect.poll(chosenRobot).toBe("Sleet");
    await page.goForward();
    await expect.poll(chosenRobot).toBe("Gust");
    await go("Robot");
    await expect.poll(() => page.$eval(".robotname", (one) => (one as HTMLInputElement).value)).toBe("Gust");
  });

  test("of a mission goes to Trials and back, and Text stays the view through a reload", async () => {
    const id = await newMission(server, "Kept place", mission("Drizzle", "  go 20 cm\n"));
    await openMission(page, server);
    await page.click("h1 button");
    await choose(page, "[role=menuitem]", "Kept place");
    await reads("h1", /Kept place/);
    expect(new URL(page.url()).searchParams.get("mission")).toBe(id);
    await press(page, "Text");
    await page.waitForSelector(".cm-content");
    await page.reload();
    await page.waitForSelector(".cm-content");
    await reads("h1", /Kept place/);
    expect(await page.title()).toContain("Kept place");
    await go("Trials");
    await go("Mission");
    await reads("h1", /Kept place/);
    await page.goBack();
    await page.goBack();
    await page.waitForSelector(".cm-content");
    await reads("h1", /Kept place/);
  });
});

describe("Calibrate", () => {
  test("offers another robot when the one in the address has a fault", async () => {
    const { head } = await getJson(server, `/api/documents/${await robotId(server, "Drizzle")}`);
    const faulty = { ...head.body, name: "Wheel-less", wheels: head.body.wheels.slice(0, 1) };
    const made = await fetch(`${server.url}/api/documents`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ kind: "robot", name: "Wheel-less", body: faulty }),
    });
    expect(made.status).toBe(201);
    const { document } = (await made.json()) as Loose;
    await visit(page, `${server.url}/calibrate?robot=${document.id}`);
    await reads("main h1", /cannot be calibrated yet/);
    expect(await chosenRobot()).toBe("Wheel-less");
    await page.select('[aria-label="Robot"]', await robotId(server, "Fog"));
    await reads(".knowns h1", /What is known of/);
    expect(await chosenRobot()).toBe("Fog");
  });
});

describe(SAME_PAGE, () => {
  const meant = [
    ["drive 1 m", "go1 m"],
    ["forward 30", "go30 cm"],
    ["left 90", "turnleft90 deg"],
    ["wait 2 seconds", "wait2 s"],
    ["go 10 inches", "go10 in"],
  ] as const;

  test.each(some(meant, 2))("%s is fixed by one press to the step that was meant", async (typed, row) => {
    const id = await newMission(server, `Meant ${typed}`, mission("Drizzle", "  wait 1 s\n"));
    await openMission(page, server, id);
    await quickAdd(page, typed);
    await page.click(".quickadd .mend");
    await page.focus('[aria-label="Type a step"]');
    await page.keyboard.press("Enter");
    await expect.poll(() => rows(page)).toContain(row);
    expect(await page.$(".quickadd .bubble")).toBeNull();
  });
});

describe("Trials", () => {
  test("tells worked from failed by word and shape, lists many rehearsals, names readings with units", async () => {
    const id = await newMission(
      server,
      "Told apart",
      `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\ngoal clock < 2 s\n\nmission\n  go 20 cm\n`,
    );
    await openMission(page, server, id);
    await untilPlanned(page);
    await press(page, "Rehearse");
    await reads(".verdict", /Goal met/);
    await quickAdd(page, "wait 3 s");
    await untilPlanned(page);
    await press(page, "Rehearse");
    await reads(".verdict", /Version 2 · Not met: .*clock/);
    await page.select('[aria-label="How many times"]', "20");
    await press(page, "Try 20 times");
    await studyResult(page);
    await go("Trials");
    await page.waitForSelector(".trialslist li button");
    await page.select('[aria-label="Mission"]', id);
    await expect.poll(() => page.$$eval(".trialslist li:not(.versionhead)", (all) => all.length)).toBe(3);
    // Of one mission they stand version by version, each with how often it worked, many at once counted in.
    expect(await page.$$eval(".versionhead", (all) => all.map((one) => one.textContent))).toEqual([
      "Version 2 worked 0 of 21",
      "Version 1 worked 1 of 1",
    ]);
    const marks = await page.$$eval(".trialslist li button", (all) =>
      all.map((one) => [one.querySelector(".trialend span")?.textContent, one.querySelector(".split") !== null]),
    );
    expect(marks).toEqual([
      ["did not work", true],
      ["worked", false],
    ]);
    await reads(".studyrow", /Told apart version 2.*rehearsed 20 times.*worked 0 of 20/);
    await page.click(".trialslist li button");
    await page.waitForSelector("[aria-label=Readings] option");
    const readings = await page.$$eval("[aria-label=Readings] option", (all) =>
      all.map((one) => one.textContent ?? ""),
    );
    expect(readings).toContain("Left wheel speed, m/s");
    expect(readings).toContain("Heading, deg");
    expect(readings).toContain("Eye.distance, cm");
    for (const reading of readings) expect(reading).toMatch(/^[A-Z][a-z]/);
    expect(await axe(page)).toEqual([]);
  });
});

/** What can be pressed and is smaller than 24 px, each in a few words. */
function tooSmall(): Promise<string[]> {
  return page.evaluate(() =>
    [
      ...document.querySelectorAll<HTMLElement>(
        "button, a[href], input, select, summary, [role=button], [role=spinbutton]",
      ),
    ]
      .filter((one) => {
        const box = one.getBoundingClientRect();
        const style = getComputedStyle(one);
        if (box.width === 0 || style.visibility === "hidden" || style.opacity === "0") return false;
        if (one.matches(":disabled") || one.closest(".sr, .skip, svg")) return false;
        // What stands in a label is pressed by its label.
        const label = one.matches("input") ? one.closest("label")?.getBoundingClientRect() : null;
        return Math.max(box.width, label?.width ?? 0) < 23.5 || Math.max(box.height, label?.height ?? 0) < 23.5;
      })
      .map((one) => `${one.tagName} ${one.className} ${(one.textContent || one.getAttribute("aria-label")) ?? ""}`),
  );
}

describe("every workplace", () => {
  test.each(["robot", "calibrate", "mission", "mission?view=text", "drive", "trials"])(
    "/%s has targets of 24 px, a skip link that leads past the trail, and at most 12 requests",
    async (workplace) => {
      const asked: string[] = [];
      let latest = performance.now();
      page.on("request", (request) => {
        const { pathname } = new URL(request.url());
        if (pathname.startsWith("/api/")) asked.push(pathname);
        latest = performance.now();
      });
      await page.goto(`${server.url}/${workplace}`);
      await page.waitForSelector("main h1, main h2");
      await expect.poll(() => asked.length > 0 && performance.now() - latest > 800, { timeout: 20_000 }).toBe(true);
      expect(asked.length).toBeGreaterThan(0);
      expect(asked.length, asked.join(" ")).toBeLessThanOrEqual(12);
      expect(await tooSmall()).toEqual([]);
      await page.keyboard.press("Tab");
      expect(await page.evaluate(() => document.activeElement?.textContent)).toBe("Skip to the work");
      await page.keyboard.press("Enter");
      await page.keyboard.press("Tab");
      expect(await page.evaluate(() => document.activeElement?.closest("main") !== null)).toBe(true);
    },
  );

  test("has no finding by axe in an open menu", async () => {
    await openMission(page, server);
    await page.click("h1 button");
    await page.waitForSelector("[role=menuitem]");
    expect(await axe(page)).toEqual([]);
  });

  test("lists its keys so that they can be read: what a key does has half of the width", async () => {
    await openMission(page, server);
    await page.focus(".steps");
    await page.keyboard.type("?");
    await page.waitForSelector('[aria-label="Keyboard shortcuts"].panel dd');
    const [panel, narrow] = await page.$eval('[aria-label="Keyboard shortcuts"].panel', (one) => [
      one.getBoundingClientRect().width,
      Math.min(...[...one.querySelectorAll("dd")].map((dd) => dd.getBoundingClientRect().width)),
    ]);
    expect((narrow ?? 0) / (panel ?? 1)).toBeGreaterThan(0.4);
  });
});

test("a pasted character that nobody can see is left out, and what is around it is saved", async () => {
  const id = await newMission(server, "Pasted", mission("Drizzle", "  go 20 cm\n"));
  await openMission(page, server, id);
  await press(page, "Text");
  await page.waitForSelector(".cm-content");
  await page.focus(".cm-content");
  await withKey(page, "Control", "End");
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.setData("text/plain", "  wait 1\u0000 s\ud800\n");
    document
      .querySelector(".cm-content")
      ?.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect.poll(() => savedText(page, server, id)).toMatch(/ {2}wait 1 s\n$/);
});
