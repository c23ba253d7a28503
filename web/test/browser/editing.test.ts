// Steps and Text are two faces of one tree with one history.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { launchBrowser, type TestBrowser } from "../support/browser.js";
import {
  chooseStep,
  cursorAtEndOfLine,
  newMission,
  openMission,
  press,
  quickAdd,
  rows,
  savedText,
  withKey,
} from "../support/mission.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;
let id = "";
let number = 0;
const TEXT =
  'cairn 1\nrobot "Drizzle"\nmission\n  wait 1 s\n  go 30 cm  # out\n  turn left 90 deg\n  repeat 2 times\n    back 5 cm\n  finish\n';

beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
  page = await browser.newPage();
});
beforeEach(async () => {
  number += 1;
  id = await newMission(server, `Editing ${number}`, TEXT);
  await openMission(page, server, id);
});
afterAll(async () => {
  await browser?.close();
  await server?.leave();
});

const text = () => savedText(page, server, id);

/** Waits until the page has saved a text that differs from the one it opened with. */
async function changedText(): Promise<string> {
  await expect.poll(text).not.toBe(TEXT);
  return text();
}

describe("by keyboard", () => {
  test("adds after the chosen step, moves, edits as text, deletes, and undoes all of it to the byte", async () => {
    await chooseStep(page, 1);
    await quickAdd(page, "wait 2 s");
    await expect.poll(() => rows(page)).toContain("wait2 s");
    await page.focus(".steps");
    await withKey(page, "Alt", "ArrowDown");
    await page.keyboard.press("Enter");
    await page.waitForSelector('[aria-label="Step as text"]');
    await withKey(page, "Control", "a");
    await page.keyboard.type("wait 3 s");
    await page.keyboard.press("Enter");
    await expect
      .poll(() => rows(page))
      .toEqual(["wait1 s", "go30 cm", "turnleft90 deg", "wait3 s", "repeat2times", "back5 cm", "finish"]);
    await page.keyboard.press("Home");
    await page.keyboard.press("Delete");
    await expect.poll(text).toBe(TEXT.replace("  wait 1 s\n", "").replace("90 deg\n", "90 deg\n  wait 3 s\n"));
    for (let i = 0; i < 4; i += 1) await withKey(page, "Control", "z");
    await expect.poll(text).toBe(TEXT);
    expect(await page.$eval(".toast", (toast) => toast.textContent)).toContain("Undid: adding a step");
  });

  test("a mistyped step is not added: it says why, offers the mend, and stays typed", async () => {
    await quickAdd(page, "trun left 90 deg");
    await page.waitForSelector(".quickadd .mend");
    expect(await page.$eval(".quickadd .bubble", (bubble) => bubble.textContent)).toContain(
      '"trun" is not a step. Did you mean "turn"?',
    );
    await page.click(".quickadd .mend");
    await page.focus('[aria-label="Type a step"]');
    await page.keyboard.press("Enter");
    await expect.poll(() => rows(page)).toContain("turnleft90 deg");
    expect((await rows(page)).filter((row) => row === "turnleft90 deg")).toHaveLength(2);
  });

  test("go 90 wants a length and offers 90 cm; a new repeat comes with a step inside", async () => {
    await quickAdd(page, "go 90");
    await page.waitForSelector(".quickadd .mend");
    expect(await page.$eval(".quickadd .mend", (mend) => mend.textContent)).toBe("write 90 cm");
    await page.click('[aria-label="Type a step"]', { count: 3 });
    await page.keyboard.type("repeat 3 times");
    await page.keyboard.press("Enter");
    expect(await changedText()).toContain("  finish\n  repeat 3 times\n    wait 1 s\n");
  });

  test("? lists the shortcuts", async () => {
    await page.focus(".steps");
    await page.keyboard.type("?");
    await page.waitForSelector('[aria-label="Keyboard shortcuts"].panel');
    await page.keyboard.press("Escape");
    await page.waitForFunction(() => !document.querySelector(".panel"));
  });
});

describe("by mouse", () => {
  test("drags a step to another place", async () => {
    const handles = await page.$$(".handle");
    const [from, to] = [await handles[1]?.boundingBox(), await handles[2]?.boundingBox()];
    if (!from || !to) throw new Error("no handles to drag");
    await page.mouse.move(from.x + 8, from.y + 8);
    await page.mouse.down();
    await page.mouse.move(from.x + 8, from.y + 20, { steps: 4 });
    await page.mouse.move(to.x + 8, to.y + 14, { steps: 8 });
    await page.mouse.up();
    expect(await changedText()).toBe(
      TEXT.replace("  go 30 cm  # out\n  turn left 90 deg\n", "  turn left 90 deg\n  go 30 cm  # out\n"),
    );
  });

  test("turns a side over by a click, and scrubs a number by dragging it", async () => {
    await page.click('[aria-label="left, press for the other side"]');
    expect(await changedText()).toContain("turn right 90 deg");
    const spin = await page.waitForSelector('[role="spinbutton"][aria-valuetext="30 cm"]');
    const box = await spin?.boundingBox();
    if (!box) throw new Error("no number to drag");
    await page.mouse.move(box.x + 5, box.y + 5);
    await page.mouse.down();
    await page.mouse.move(box.x + 65, box.y + 5, { steps: 5 });
    await page.mouse.up();
    await expect.poll(text).toContain("go 40 cm");
  });
});

describe("both views", () => {
  test("a line broken in Text is an amber row in Steps; reordering and four undos give the same bytes", async () => {
    await press(page, "Text");
    await cursorAtEndOfLine(page, 4);
    await page.keyboard.type(" oops");
    await press(page, "Steps");
    await page.waitForSelector(".row.broken");
    expect(await page.$eval(".row.broken", (row) => row.textContent)).toContain("wait 1 s oops");
    await chooseStep(page, 1);
    await withKey(page, "Alt", "ArrowDown");
    await chooseStep(page, 0);
    await page.keyboard.press("Delete");
    await quickAdd(page, "wait 9 s");
    await expect.poll(() => rows(page)).toContain("wait9 s");
    expect(await changedText()).not.toBe(TEXT);
    await page.focus(".steps");
    for (let i = 0; i < 4; i += 1) await withKey(page, "Control", "z");
    await expect.poll(text).toBe(TEXT);
  });

  test("undo in Text takes back what was done in Steps", async () => {
    await chooseStep(page, 4);
    await page.keyboard.press("Delete");
    await changedText();
    await press(page, "Text");
    await page.waitForSelector(".cm-content");
    await page.focus(".cm-content");
    await withKey(page, "Control", "z");
    await expect.poll(text).toBe(TEXT);
    expect(await page.$eval(".cm-content", (content) => content.textContent)).toContain("back 5 cm");
  });

  test("the chosen step is chosen in both", async () => {
    await chooseStep(page, 2);
    await press(page, "Text");
    await page.waitForSelector(".cm-activeLine");
    await expect.poll(() => page.$eval(".cm-activeLine", (line) => line.textContent)).toBe("  turn left 90 deg");
  });

  test("problems stand in Text with their mend", async () => {
    await press(page, "Text");
    await cursorAtEndOfLine(page, 9);
    await page.keyboard.press("Enter");
    await page.keyboard.type("go 90");
    await page.waitForSelector(".cm-lintRange-error");
    expect(await page.$eval(".leftpane > p.foot", (foot) => foot.textContent)).toContain("Write 90 cm");
  });
});

test("a robot that does not exist is named, with those there are", async () => {
  const other = await newMission(server, "Strange robot", 'cairn 1\nrobot "Dizzle"\nmission\n  wait 1 s\n');
  await openMission(page, server, other);
  await page.waitForSelector(".steps .banner");
  expect(await page.$eval(".steps .banner", (banner) => banner.textContent)).toContain(
    'There is no robot called "Dizzle".',
  );
});

test("nothing on the way was refused by the page's policy or failed", () => {
  expect(browser.troubles).toEqual([]);
});
