// Each listed key, from each place that can have the focus: it does what the list says, and the browser does nothing else.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { some } from "../../../core/test/support/search.js";
import { launchBrowser, type TestBrowser, visit } from "../support/browser.js";
import { newMission, openMission, savedText, untilPlanned, withKey } from "../support/mission.js";
import { openRobotPage } from "../support/robot.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;
let id = "";
let made = 0;
const HEAD = 'cairn 1\nrobot "Drizzle"\nmission\n';
const STEPS = ["wait 1 s", "repeat 2 times", "  wait 2 s", "  wait 4 s", "wait 3 s", "finish"];
const lines = (steps: readonly string[]) => `${HEAD}${steps.map((step) => `  ${step}\n`).join("")}`;
const TEXT = lines(STEPS);

beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
  page = await browser.newPage();
  // Keys that nobody took, and that the browser would act on by itself.
  await page.evaluateOnNewDocument(() => {
    const left: string[] = [];
    Object.assign(window, { leftKeys: left });
    window.addEventListener(
      "keydown",
      (event) => setTimeout(() => event.defaultPrevented || left.push(event.key)),
      true,
    );
  });
});
beforeEach(async () => {
  made += 1;
  id = await newMission(server, `Keys ${made}`, TEXT);
  await openMission(page, server, id);
  await untilPlanned(page);
});
afterAll(async () => {
  expect(browser.troubles).toEqual([]);
  await browser.close();
  await server.leave();
});

const text = () => savedText(page, server, id);
const left = () => page.evaluate(() => (window as unknown as { leftKeys: string[] }).leftKeys);
const row = (label: string) => `.row:has([aria-label="Step ${label}, drag to move"])`;

/** What can have the focus while a step is selected, and how a person puts it there. Step 3 is "wait 3 s". */
const PLACES: readonly (readonly [string, () => Promise<unknown>])[] = [
  ["the verb of the step", () => page.click(`${row("3")} .verb`)],
  ["the pebble of the step", () => page.click(`${row("3")} .handle`)],
  [
    "the page itself",
    async () => {
      await page.click(`${row("3")} .verb`);
      await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    },
  ],
  [
    "a number of the step",
    async () => {
      await page.click(`${row("3")} .verb`);
      await page.focus(`${row("3")} [role=spinbutton]`);
    },
  ],
  [
    "the field for a new step",
    async () => {
      await page.click(`${row("3")} .verb`);
      await page.click('[aria-label="Type a step"]');
    },
  ],
  [
    "a button",
    async () => {
      await page.click(`${row("3")} .verb`);
      await page.focus('[aria-label="Play"]');
    },
  ],
  [
    "a list to choose from",
    async () => {
      await page.click(`${row("3")} .verb`);
      await page.focus('[aria-label="How many times"]');
    },
  ],
  [
    "the playhead",
    async () => {
      await page.click(`${row("3")} .verb`);
      await page.focus(".scrubber");
    },
  ],
];

/** Keys with Ctrl or Alt, and the mission after each. */
const CHORDS = [
  ["Control", "d", lines(STEPS.toSpliced(5, 0, "wait 3 s"))],
  ["Control", "/", TEXT.replace("  wait 3 s", "  # off: wait 3 s")],
  ["Alt", "ArrowUp", lines(["wait 1 s", "wait 3 s", "repeat 2 times", "  wait 2 s", "  wait 4 s", "finish"])],
  ["Alt", "ArrowDown", lines([...STEPS.slice(0, 4), "finish", "wait 3 s"])],
  ["Alt", "ArrowRight", TEXT.replace("  wait 3 s", "    wait 3 s")],
] as const;

test.each(some(PLACES, 3))(
  "with the focus on %s a step is duplicated, switched off, moved up, down and into the block above by its keys",
  async (_place, focus) => {
    for (const [held, key, after] of CHORDS) {
      await focus();
      await withKey(page, held, key);
      await expect.poll(text, { message: `${held}+${key}` }).toBe(after);
      await page.focus(".steps");
      await withKey(page, "Control", "z");
    }
    await expect.poll(text).toBe(TEXT);
    expect((await left()).filter((key) => key !== "Control" && key !== "Alt")).toEqual([]);
  },
);

describe.each(some(PLACES.slice(0, 3), 2))("in the steps, with the focus on %s", (_place, focus) => {
  test("Delete deletes, Ctrl+Z undoes, Ctrl+Shift+Z and Ctrl+Y redo", async () => {
    await focus();
    await page.keyboard.press("Delete");
    await expect.poll(text).toBe(TEXT.replace("  wait 3 s\n", ""));
    await withKey(page, "Control", "z");
    await expect.poll(text).toBe(TEXT);
    await page.keyboard.down("Control");
    await page.keyboard.down("Shift");
    await page.keyboard.press("Z");
    await page.keyboard.up("Shift");
    await page.keyboard.up("Control");
    await expect.poll(text).toBe(TEXT.replace("  wait 3 s\n", ""));
    await withKey(page, "Control", "z");
    await expect.poll(text).toBe(TEXT);
  });

  test.each(["F2", "Enter"] as const)("%s opens the step as text, and Escape leaves it as it was", async (key) => {
    await focus();
    await page.keyboard.press(key);
    await page.waitForSelector('[aria-label="Step as text"]');
    await page.keyboard.press("Escape");
    await page.waitForFunction(() => !document.querySelector('[aria-label="Step as text"]'));
    expect(await text()).toBe(TEXT);
  });

  test("arrows choose steps, Alt+← moves out of a block, A begins a new step, T changes the view, ? lists the keys", async () => {
    await focus();
    await page.keyboard.press("ArrowUp");
    await withKey(page, "Alt", "ArrowLeft");
    await expect.poll(text).toBe(TEXT.replace("    wait 4 s", "  wait 4 s"));
    await withKey(page, "Control", "z");
    await expect.poll(text).toBe(TEXT);
    await page.keyboard.press("a");
    await page.waitForFunction(() => document.activeElement?.getAttribute("aria-label") === "Type a step");
    expect(await page.$eval('[aria-label="Type a step"]', (input) => (input as HTMLInputElement).value)).toBe("");
    await focus();
    await page.keyboard.type("?");
    await page.waitForSelector('[aria-label="Keyboard shortcuts"].panel');
    await page.keyboard.press("Escape");
    await page.waitForFunction(() => !document.querySelector(".panel"));
    await focus();
    await page.keyboard.press("t");
    await page.waitForSelector(".cm-content");
  });
});

test("what is being typed keeps its own keys: Delete, Ctrl+Z, arrows, letters", async () => {
  await page.click(`${row("3")} .verb`);
  await page.click('[aria-label="Type a step"]');
  await page.keyboard.type("wait ta?");
  await withKey(page, "Control", "z");
  await page.keyboard.type("x");
  await page.keyboard.press("Home");
  await page.keyboard.press("Delete");
  expect(await page.$eval('[aria-label="Type a step"]', (input) => (input as HTMLInputElement).value)).toMatch(/x$/);
  expect(await text()).toBe(TEXT);
  expect(await page.$(".panel")).toBeNull();
});

/** Opens the list of keys by its own key from where the focus is, and closes it again. */
async function keysAreListed(): Promise<void> {
  await page.keyboard.type("?");
  await page.waitForSelector('[aria-label="Keyboard shortcuts"].panel');
  await page.keyboard.press("Escape");
  await page.waitForFunction(() => !document.querySelector('[aria-label="Keyboard shortcuts"].panel'));
}

test("keys of the robot's workplace work from a part, a button and the page, and not while its name is typed", async () => {
  await openRobotPage(page, server);
  for (const place of [".part", ".piece", "main button:not(.part)"]) {
    const focus = () => page.$eval(place, (one) => (one as HTMLElement).focus());
    await focus();
    await keysAreListed();
    await focus();
    await page.keyboard.press("g");
    await page.waitForSelector('[aria-label="Gear bench"]');
    await page.keyboard.press("w");
    await page.waitForFunction(() => !document.querySelector('[aria-label="Gear bench"]'));
  }
  await page.focus(".robotname");
  await page.keyboard.type("gw?");
  expect(await page.$eval(".robotname", (input) => (input as HTMLInputElement).value)).toContain("gw?");
  expect(await page.$('[aria-label="Keyboard shortcuts"].panel')).toBeNull();
});

test.each([
  ["calibrate", [".knowns li button", ".topbar a", "main button:not([disabled])"]],
  ["drive", [".topbar a", "main button:not([disabled])"]],
] as const)("the keys of /%s work from its lists, links and buttons", async (workplace, places) => {
  await visit(page, `${server.url}/${workplace}`);
  await page.waitForSelector("main h1");
  for (const place of places) {
    await page.waitForSelector(place);
    await page.focus(place);
    await keysAreListed();
  }
});
