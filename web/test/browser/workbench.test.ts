// The rest of the Mission workplace: values, names, missions, field, playing, cancelling, trouble on opening.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { launchBrowser, named, type TestBrowser } from "../support/browser.js";
import {
  cursorAtEndOfLine,
  getJson,
  newMission,
  openMission,
  press,
  rows,
  savedText,
  took,
  untilPlanned,
} from "../support/mission.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;
let id = "";
let number = 0;
const TEXT =
  'cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\n\nset cruise = 25 cm/s\nset slow = 8 cm/s\n\nmission\n  go 60 cm at cruise\n  turn left 90 deg\n  go until clock > 60 s limit 20 cm\n  back 5 cm at slow\n';

beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
  page = await browser.newPage();
});
beforeEach(async () => {
  number += 1;
  id = await newMission(server, `Workbench ${number}`, TEXT);
  await openMission(page, server, id);
  await untilPlanned(page);
});
afterAll(async () => {
  await browser?.close();
  await server?.leave();
});

const text = () => savedText(page, server, id);

function picture(): Promise<string> {
  return page.evaluate(
    () =>
      new Promise<string>((resolve) =>
        requestAnimationFrame(() =>
          requestAnimationFrame(() =>
            resolve((document.querySelector(".fieldpane canvas") as HTMLCanvasElement).toDataURL()),
          ),
        ),
      ),
  );
}

describe("values and names", () => {
  test("changing a value changes every step that uses it", async () => {
    const before = await took(page);
    await page.focus('.chip [role="spinbutton"][aria-valuetext="25 cm/s"]');
    await page.keyboard.down("Shift");
    await page.keyboard.press("ArrowDown");
    await page.keyboard.up("Shift");
    await page.waitForFunction((old) => document.querySelector(".row .took")?.textContent !== old, {}, before[0]);
    await expect.poll(text).toContain("set cruise = 15 cm/s");
  });

  test("a value is added above the mission, and deleting one that is used is a problem where it is used", async () => {
    await press(page, "+ value");
    await page.keyboard.type("far 40 cm");
    await page.keyboard.press("Enter");
    await expect.poll(text).toContain("set slow = 8 cm/s\nset far = 40 cm\n");
    await press(page, "Delete the value cruise");
    await page.waitForSelector(".row.trouble");
    expect(await page.$eval(".row.trouble .why", (why) => why.textContent)).toContain('"cruise" is not known');
    await press(page, "Undo");
    await page.waitForFunction(() => !document.querySelector(".row.trouble"));
  });

  test("a name in a step can be exchanged for another", async () => {
    await press(page, "cruise, press to change");
    await page.waitForSelector('[aria-label="Instead of cruise"]');
    await page.keyboard.down("Control");
    await page.keyboard.press("a");
    await page.keyboard.up("Control");
    await page.keyboard.type("slow");
    await page.keyboard.press("Enter");
    await expect.poll(text).toContain("go 60 cm at slow");
  });

  test("a number dragged over many digits is one step back", async () => {
    const spin = await page.waitForSelector('.row [role="spinbutton"][aria-valuetext="60 cm"]');
    const box = await spin?.boundingBox();
    if (!box) throw new Error("no number to drag");
    await page.mouse.move(box.x + 4, box.y + 4);
    await page.mouse.down();
    await page.mouse.move(box.x + 49, box.y + 4, { steps: 6 });
    // A hand that holds still for longer than typing may pause has not let go.
    const still = await page.evaluate(() => performance.now());
    await page.waitForFunction((since: number) => performance.now() - since > 1000, {}, still);
    await page.mouse.move(box.x + 94, box.y + 4, { steps: 6 });
    await page.mouse.up();
    await expect.poll(text).toContain("go 75 cm");
    await press(page, "Undo");
    await expect.poll(text).toBe(TEXT);
  });

  test("a step that reaches its limit as planned says so in its row", async () => {
    expect(await page.$$eval(".row .why", (all) => all.map((why) => why.textContent))).toEqual([
      "As planned, this step reaches its limit.",
    ]);
    expect(await page.$eval(".verdict", (verdict) => verdict.textContent)).toContain(
      "As planned: step 3 reached its limit",
    );
  });
});

describe("a number where it stands", () => {
  const sixty = '.row [role="spinbutton"][aria-valuetext="60 cm"]';
  const editor = ".row input.editor-in";

  test("takes another unit and keeps it", async () => {
    await page.focus(sixty);
    await page.keyboard.press("Enter");
    await page.waitForSelector(editor);
    await page.keyboard.type("2 ft");
    await page.keyboard.press("Enter");
    await expect.poll(text).toContain("go 2 ft at cruise");
    await page.waitForSelector('.row [role="spinbutton"][aria-valuetext="2 ft"]');
    expect(await page.evaluate(() => document.activeElement?.getAttribute("aria-valuetext"))).toBe("2 ft");
  });

  test("takes a bare number in the unit that stood there, begun by typing its first digit", async () => {
    await page.focus(sixty);
    await page.keyboard.type("45");
    await page.keyboard.press("Enter");
    await expect.poll(text).toContain("go 45 cm at cruise");
  });

  test("is left as it was by Escape, and by typing the same again", async () => {
    await page.focus(sixty);
    await page.keyboard.type("7");
    await page.waitForSelector(editor);
    await page.keyboard.press("Escape");
    await page.waitForSelector(sixty);
    await page.keyboard.press("Enter");
    await page.waitForSelector(editor);
    await page.keyboard.press("Enter");
    await page.waitForSelector(sixty);
    expect(await page.$eval(".foot button", (undo) => (undo as HTMLButtonElement).disabled)).toBe(true);
    expect(await text()).toBe(TEXT);
  });

  test("goes down by one digit of what is written, and not below nothing where that means nothing", async () => {
    await press(page, "Text");
    await cursorAtEndOfLine(page, 13);
    await page.keyboard.press("Enter");
    await page.keyboard.type("wait 0.1 s");
    await press(page, "Steps");
    const spin = await page.waitForSelector('.row [role="spinbutton"][aria-valuetext="0.1 s"]');
    await spin?.focus();
    await page.keyboard.press("ArrowDown");
    await page.waitForSelector(
      '.row [role="spinbutton"][aria-valuetext="0 s"], .row [role="spinbutton"][aria-valuetext="0.0 s"]',
    );
    await page.keyboard.press("ArrowDown");
    await expect.poll(text).toMatch(/wait 0(\.0)? s/);
  });
});

describe("missions", () => {
  test("a new one opens with robot, field and a first step; a name that is taken is told", async () => {
    const name = `Made ${number}`;
    await page.click("h1 button");
    await press(page, "New mission…", "menuitem");
    await page.waitForSelector('[aria-label="Name of the new mission"]');
    await page.keyboard.type(`Workbench ${number}`);
    await page.keyboard.press("Enter");
    await page.waitForFunction(() =>
      document.querySelector("form .bubble")?.textContent?.includes("Choose another name"),
    );
    await page.click('[aria-label="Name of the new mission"]', { count: 3 });
    await page.keyboard.type(name);
    await page.keyboard.press("Enter");
    await page.waitForFunction((wanted) => document.querySelector("h1")?.textContent?.includes(wanted), {}, name);
    await expect.poll(() => rows(page)).toEqual(["wait1 s"]);
    expect(await page.$eval(".robotpill", (pill) => pill.textContent)).toContain("Drizzle");
  });

  test("another one is opened from the list, and the address keeps it", async () => {
    await page.click("h1 button");
    await press(page, "First roll out", "menuitem");
    await page.waitForFunction(() => document.querySelector("h1")?.textContent?.includes("First roll out"));
    expect(new URL(page.url()).searchParams.get("mission")).not.toBe(id);
  });
});

describe("the field", () => {
  test("zooms, pans and comes back whole", async () => {
    await page.mouse.move(5, 5);
    const whole = await picture();
    await press(page, "Zoom in");
    const zoomed = await picture();
    expect(zoomed).not.toBe(whole);
    const box = await (await page.$(".fieldpane canvas"))?.boundingBox();
    if (!box) throw new Error("no field");
    await page.mouse.move(box.x + 60, box.y + 60);
    await page.mouse.down();
    await page.mouse.move(box.x + 140, box.y + 110, { steps: 4 });
    await page.mouse.up();
    expect(await picture()).not.toBe(zoomed);
    await page.mouse.wheel({ deltaY: -240 });
    await press(page, "Show the whole field");
    await page.mouse.move(5, 5);
    expect(await picture()).toBe(whole);
  });

  test("hovering a step lights its part of the path; clicking the path chooses the step", async () => {
    await page.mouse.move(900, 20);
    const plain = await picture();
    const verbs = await page.$$(".row .verb");
    await verbs[0]?.hover();
    expect(await picture()).not.toBe(plain);
    const at = await page.evaluate(() => {
      const canvas = document.querySelector(".fieldpane canvas") as HTMLCanvasElement;
      const { left, top, width, height } = canvas.getBoundingClientRect();
      // 40 cm ahead of the dock, on the way of step 1; the same fit as the page makes.
      const scale = Math.min((width - 72) / 2.1, (height - 72) / 1.5);
      const x = (width - 2.1 * scale) / 2 + (0.24 + 0.4) * scale;
      const y = 26 + (height - 72 - 1.5 * scale) / 2 + (1.5 - 0.7) * scale;
      return { x: left + x, y: top + y };
    });
    await page.mouse.move(at.x, at.y);
    await page.waitForSelector(".row.lit");
    await page.mouse.click(at.x, at.y);
    await expect.poll(() => page.$eval(".row.selected .verb", (verb) => verb.textContent)).toBe("go");
  });
});

describe("rehearsing", () => {
  test("plays at the speed chosen, pauses, and Ctrl+Enter rehearses", async () => {
    await page.focus(".steps");
    await page.keyboard.down("Control");
    await page.keyboard.press("Enter");
    await page.keyboard.up("Control");
    await page.waitForSelector("[data-value]");
    await page.select(".transport select", "8");
    await page.waitForFunction(() => Number((document.querySelector(".scrubber") as HTMLInputElement).value) > 300);
    await expect
      .poll(() =>
        page.$eval('.transport [aria-label="Play"], .transport [aria-label="Pause"]', (button) => button.textContent),
      )
      .toBe("Play");
    expect(await page.$eval(".verdict", (verdict) => verdict.textContent)).toContain(
      "Not met: step 3 reached its limit",
    );
  });

  test("a long one shows how far it is and can be cancelled; nothing is kept of it", async () => {
    const long = await newMission(
      server,
      "Endless",
      'cairn 1\nrobot "Drizzle"\nmission\n  repeat\n    go 20 cm\n    back 20 cm\n',
    );
    await openMission(page, server, long);
    const progress = page.evaluate(
      () =>
        new Promise<string>((resolve) => {
          let begun = false;
          let over = false;
          const observer = new MutationObserver(() => {
            const cancel = [...document.querySelectorAll(".transport button")].find(
              (button) => button.textContent === "Cancel",
            ) as HTMLButtonElement | undefined;
            const words = document.querySelector(".transport [role=status]")?.textContent ?? "";
            // A page too busy to show it before the run was over: once more, as soon as it can be.
            over = cancel === undefined && (over || begun);
            begun = cancel !== undefined;
            const again = [...document.querySelectorAll<HTMLButtonElement>(".transport button")].find(
              (button) => button.textContent === "Rehearse" && !button.disabled,
            );
            if (over && again) {
              over = false;
              again.click();
            }
            if (!cancel || !/[1-9]\d* s of mission time/.test(words)) return;
            observer.disconnect();
            cancel.click();
            resolve(words);
          });
          observer.observe(document.querySelector(".transport") as Element, {
            childList: true,
            subtree: true,
            characterData: true,
            attributes: true,
          });
        }),
    );
    await press(page, "Rehearse");
    expect(await progress).toContain("of mission time");
    await page.waitForFunction(() => document.querySelector(".toast")?.textContent?.includes("cancelled"));
    const { trials } = await getJson(server, `/api/trials?mission=${long}`);
    expect(trials.filter((trial: { durationMs: number }) => trial.durationMs < 600_000)).toEqual([]);
    await named(page, "button", "Rehearse");
  });

  test("without the server a run can still be watched, and says that it is not kept", async () => {
    await server.kill();
    await press(page, "Rehearse");
    await page.waitForFunction(() => document.querySelector(".toast")?.textContent?.includes("not kept"));
    const legend = await page.$eval(".legend", (one) => one.textContent);
    expect(legend).toContain("run, not kept");
    expect(legend).toContain("210 × 150 cm");
    server = await startServer({ database: server.database, port: Number(new URL(server.url).port) });
  });
});

describe("text", () => {
  test("completes a step with its form", async () => {
    await press(page, "Text");
    await cursorAtEndOfLine(page, 13);
    await page.keyboard.press("Enter");
    await page.keyboard.type("fac");
    await page.waitForSelector(".cm-tooltip-autocomplete");
    await page.waitForFunction(() =>
      document.querySelector(".cm-tooltip-autocomplete li[aria-selected]")?.textContent?.includes("face"),
    );
    await page.click(".cm-tooltip-autocomplete li[aria-selected]");
    await expect.poll(text).toContain("  face begin");
  });

  test("what it offers can be pressed in the very moment after a letter", async () => {
    const choice = ".cm-tooltip-autocomplete li[aria-selected]";
    await press(page, "Text");
    await cursorAtEndOfLine(page, 13);
    await page.keyboard.press("Enter");
    await page.keyboard.type("fa");
    await page.waitForFunction((css) => document.querySelector(css)?.textContent?.includes("face"), {}, choice);
    await page.evaluate(async (css) => {
      document.execCommand("insertText", false, "c");
      await null; // The editor has read it, and no time has gone by.
      const press = new MouseEvent("mousedown", { bubbles: true, cancelable: true });
      document.querySelector(css)?.dispatchEvent(press);
    }, choice);
    await expect.poll(text).toContain("  face begin");
  });
});

test("a server that fails on opening is told, with a way to try again", async () => {
  const other = await browser.newPage();
  await other.setRequestInterception(true);
  let down = true;
  other.on("request", (request) => {
    if (down && request.url().includes("/api/documents")) void request.abort();
    else void request.continue();
  });
  await other.goto(`${server.url}/mission`);
  await other.waitForFunction(
    () => document.querySelector("main h1")?.textContent === "The mission could not be opened",
  );
  expect(await other.$eval("main p", (words) => words.textContent)).toContain("The server does not answer");
  down = false;
  await press(other, "Try again");
  await other.waitForSelector(".row .verb");
  await other.close();
});
