// Many rehearsals, versions, and what the field answers: on the real page, with the real workers and the database.
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { axe } from "../support/axe.js";
import { launchBrowser, pressThere, type TestBrowser } from "../support/browser.js";
import {
  chooseStep,
  fieldPlace,
  getJson,
  newMission,
  openMission,
  press,
  rows,
  savedText,
  studyResult,
  untilPlanned,
  withKey,
} from "../support/mission.js";
import { copyOf } from "../support/robot.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;
let made = 0;

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

async function open(steps: string, top = ""): Promise<string> {
  made += 1;
  const lines = steps.split("\n").map((line) => `  ${line}`);
  const text = `cairn 1\nrobot "Drizzle"\n${top}\nmission\n${lines.join("\n")}\n`;
  const id = await newMission(server, `Study ${made}`, text);
  await openMission(page, server, id);
  await untilPlanned(page);
  return id;
}

async function tryTimes(times: number): Promise<[number, number]> {
  await page.select('[aria-label="How many times"]', String(times));
  await press(page, `Try ${times} times`);
  return studyResult(page);
}

describe("try many times", () => {
  test("counts, blames, replays a lost run, and keeps the study with its version", async () => {
    const id = await open("set far = random(60 cm, 140 cm)\ngo far limit 1 m\nwait 0.2 s");
    const [worked, of] = await tryTimes(50);
    expect(of).toBe(50);
    expect(worked).toBeGreaterThan(5);
    expect(worked).toBeLessThan(45);
    expect(await page.$eval(".blames", (list) => list.textContent)).toContain("in step 2");
    await page.waitForFunction(() =>
      /rehearsals the run is lost here/.test(document.querySelector(".steps")?.textContent ?? ""),
    );
    expect(await axe(page)).toEqual([]);
    await page.click(".lostruns button");
    await page.waitForFunction(() =>
      /Run \d+: Not met: step 2 reached its limit/.test(document.querySelector(".verdict")?.textContent ?? ""),
    );
    await expect.poll(async () => (await getJson(server, `/api/studies?mission=${id}`)).studies.length).toBe(1);
    const { studies } = await getJson(server, `/api/studies?mission=${id}`);
    expect(studies[0]).toMatchObject({ runs: 50, successes: worked, mission: { number: 1 } });
  });

  test("begun in the same moment as a rehearsal, with a robot that was just changed: both are kept, nobody is in conflict", async () => {
    const robot = await copyOf(server, "Drizzle", "Hasty");
    const { head } = await getJson(server, `/api/documents/${robot}`);
    await fetch(`${server.url}/api/documents/${robot}/draft`, {
      method: "PUT",
      headers: { "content-type": "application/json", "if-match": '"0"' },
      body: JSON.stringify({ baseRevision: 1, body: { ...head.body, about: "Changed a moment ago." } }),
    });
    const id = await newMission(server, "In one moment", 'cairn 1\nrobot "Hasty"\n\nmission\n  go 20 cm\n');
    await openMission(page, server, id);
    await untilPlanned(page);
    await page.select('[aria-label="How many times"]', "50");
    await page.evaluate(() => {
      const named = (words: RegExp) =>
        [...document.querySelectorAll("button")].find((one) =>
          words.test(one.getAttribute("aria-label") ?? one.textContent ?? ""),
        );
      const both = [named(/^Rehearse$/), named(/^Try 50 times$/)];
      for (const one of both) one?.click();
    });
    await studyResult(page);
    const kept = async (what: string) => (await getJson(server, `/api/${what}?mission=${id}`))[what].length;
    await expect.poll(() => kept("studies")).toBe(1);
    await expect.poll(() => kept("trials")).toBe(1);
    expect(await page.$eval(".savewords", (words) => words.getAttribute("data-save"))).toBe("saved");
    expect((await getJson(server, `/api/documents/${robot}`)).head.number).toBe(2);
  });

  test("can be cancelled; what was run stays on the screen and is not kept", async () => {
    const id = await open("repeat 20 times\n  go 30 cm\n  turn left 90 deg");
    await page.select('[aria-label="How many times"]', "1000");
    await press(page, "Try 1000 times");
    await page.waitForFunction(
      () => Number(/^\d+/.exec(document.querySelector(".panel .progress [role=status]")?.textContent ?? "")?.[0]) > 8,
      {},
    );
    await press(page, "Cancel");
    await page.waitForFunction(() => /Cancelled after \d+ of 1000/.test(document.body.textContent ?? ""));
    expect(await page.$(".panel [role=progressbar]")).toBeNull();
    expect((await getJson(server, `/api/studies?mission=${id}`)).studies).toEqual([]);
  });

  test("says what would help most, in order", async () => {
    await open("go 20 cm\nwait 0.1 s");
    await tryTimes(20);
    await press(page, "Find out");
    await page.waitForFunction(
      () =>
        document.querySelectorAll("table.helps tbody tr").length > 8 &&
        document.querySelector(".panel [role=progressbar]") === null,
      {},
    );
    expect(
      await page.$$eval("table.helps tbody td:first-child", (cells) => cells.map((cell) => cell.textContent)),
    ).toContain("heading it is put down with");
  });

  test("changing the text takes the verdict away, since it is about another mission", async () => {
    await open("go 20 cm");
    await tryTimes(20);
    await page.waitForFunction(() => /Worked/.test(document.querySelector(".verdict")?.textContent ?? ""));
    await page.focus('[aria-label="go, cm"]');
    await page.keyboard.press("ArrowUp");
    await page.waitForFunction(() => !/Worked/.test(document.querySelector(".verdict")?.textContent ?? ""));
  });
});

describe("versions", () => {
  test("what did I change since it worked? compares with the last version whose trials met the goal", async () => {
    const id = await open("go 30 cm\nwait 0.2 s");
    await tryTimes(20);
    await page.focus('[aria-label="go, cm"]');
    await page.keyboard.press("5");
    await page.keyboard.press("Enter");
    await press(page, "Versions");
    await press(page, "What did I change since it worked? (version 1)");
    await page.waitForSelector(".versiondiff li.gone");
    expect(await page.$eval(".versiondiff li.gone", (line) => line.textContent)).toContain("go 30 cm");
    expect(await page.$eval(".versiondiff li.new", (line) => line.textContent)).toContain("go 5 cm");
    await page.waitForFunction(() => /version 1/.test(document.querySelector(".legend")?.textContent ?? ""));
    expect(await axe(page)).toEqual([]);
    const listTop = () => page.$eval(".revisionlist", (list) => list.getBoundingClientRect().top);
    const top = await listTop();
    await page.type('[aria-label="Name of the version"]', "short way");
    await press(page, "Keep this version");
    await page.waitForFunction(() => document.querySelector(".revisionlist strong")?.textContent === "short way");
    await page.waitForFunction(() =>
      document.querySelector(".nameform")?.textContent?.includes('Kept as "short way".'),
    );
    expect(await listTop(), "what is told moves no button under the pointer").toBe(top);
    await pressThere(page, { selector: ".revisionlist li:nth-child(2) button", words: "Restore" });
    await page.waitForFunction(() => document.querySelector(".row .words")?.textContent?.includes("30 cm"));
    expect(await savedText(page, server, id)).toContain("go 30 cm");
  });
});

describe("the field answers back", () => {
  const place = (x: number, y: number) => fieldPlace(page, ".fieldpane canvas", x, y);

  test("a pebble dragged along its way changes the distance, in one step back", async () => {
    const id = await open("go 50 cm\nwait 0.5 s");
    await page.mouse.move(...(await place(2.5, 2)));
    await page.mouse.down();
    await page.mouse.move(...(await place(2.8, 2.05)), { steps: 5 });
    await page.mouse.move(...(await place(3, 2)), { steps: 5 });
    await page.mouse.up();
    await expect.poll(() => savedText(page, server, id)).toMatch(/go (99\.5|100|100\.5) cm/);
    await withKey(page, "Control", "z");
    await page.waitForFunction(() => document.querySelector(".row .words")?.textContent?.includes("50 cm"));
  });

  test("the field stays where it is under a hand that holds a pebble, and makes room once it let go", async () => {
    await open("go 50 cm");
    const view = () => page.$eval(".fieldpane canvas", (canvas) => (canvas as HTMLElement).dataset.view);
    const drawn = () =>
      page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
    await page.mouse.move(...(await place(2.5, 2)));
    await page.mouse.down();
    await page.mouse.move(...(await place(2.6, 2)), { steps: 3 });
    await drawn();
    const before = await view();
    await page.$eval(".fieldpane .legend", (legend) => {
      (legend as HTMLElement).style.height = "220px";
    });
    await page.mouse.move(...(await place(2.8, 2)), { steps: 3 });
    await drawn();
    expect(await view()).toBe(before);
    await page.mouse.up();
    await expect.poll(view).not.toBe(before);
  });

  test("with a turn before it, the turn follows too", async () => {
    const id = await open("turn left 90 deg\ngo 50 cm");
    await page.mouse.move(...(await place(2, 2.5)));
    await page.mouse.down();
    await page.mouse.move(...(await place(1.5, 1.5)), { steps: 6 });
    await page.mouse.move(...(await place(2.5, 1.5)), { steps: 6 });
    await page.mouse.up();
    await expect.poll(() => savedText(page, server, id)).toMatch(/turn right 4[456] deg\n {2}go (70|70\.5|71) cm/);
  });

  test("measures between two points", async () => {
    await open("go 50 cm");
    await press(page, "Measure between two points");
    await page.mouse.click(...(await place(1, 1)));
    await page.mouse.click(...(await place(1, 2)));
    const words = await page.$eval(".fieldtools [role=status]", (status) => status.textContent);
    expect(words).toMatch(/^(99|100)\.\d cm, heading (89|90|91) deg$/);
  });
});

describe("steps together", () => {
  test("several are chosen, copied as text, pasted, wrapped, switched off and on, moved in and out", async () => {
    const id = await open("go 10 cm\nturn left 90 deg\nrepeat 2 times\n  wait 1 s\nback 5 cm");
    await chooseStep(page, 0);
    await withKey(page, "Shift", "ArrowDown");
    await press(page, "Put into…");
    await press(page, "repeat");
    await expect
      .poll(() => savedText(page, server, id))
      .toContain("  repeat 2 times\n    go 10 cm\n    turn left 90 deg\n");
    await withKey(page, "Control", "z");
    // Three by the keys: the far end of the choice goes on, and comes back.
    await chooseStep(page, 0);
    for (const key of ["ArrowDown", "ArrowDown", "ArrowDown", "ArrowUp"] as const) await withKey(page, "Shift", key);
    await page.waitForFunction(() => document.querySelectorAll('.row[aria-selected="true"]').length === 3);
    await chooseStep(page, 1);
    await withKey(page, "Control", "d");
    await expect.poll(() => savedText(page, server, id)).toContain("  turn left 90 deg\n  turn left 90 deg\n");
    await chooseStep(page, 5);
    await withKey(page, "Alt", "ArrowRight");
    await expect.poll(() => savedText(page, server, id)).toContain("    wait 1 s\n    back 5 cm\n");
    await chooseStep(page, 0);
    await withKey(page, "Control", "/");
    await expect.poll(() => savedText(page, server, id)).toContain("  # off: go 10 cm\n");
    await press(page, "switch on");
    await expect.poll(() => savedText(page, server, id)).toContain("  go 10 cm\n");
  });

  test("become a routine, and a number becomes a named value and back", async () => {
    const id = await open("go 10 cm\nturn left 90 deg\nwait 1 s");
    await chooseStep(page, 0);
    await withKey(page, "Shift", "ArrowDown");
    await press(page, "Routine");
    await page.type('[aria-label="Name of the routine"]', "corner");
    await press(page, "Make it");
    await expect
      .poll(() => savedText(page, server, id))
      .toContain("routine corner()\n  go 10 cm\n  turn left 90 deg\n");
    await page.focus('[aria-label="go, cm"]');
    await page.keyboard.press("n");
    await page.keyboard.type("side");
    await page.keyboard.press("Enter");
    await expect.poll(() => savedText(page, server, id)).toContain("set side = 10 cm\n");
    await press(page, "Put side back into the steps as a number");
    await expect.poll(() => savedText(page, server, id)).toContain("  go 10 cm\n");
  });

  test("typing offers the unit and this robot's readings; blocks come whole", async () => {
    const id = await open("wait 0.1 s");
    await page.click('[aria-label="Type a step"]');
    await page.keyboard.type("go 45");
    await page.waitForFunction(() => document.querySelector(".offers")?.textContent?.includes("45 cm"));
    await page.keyboard.press("Tab");
    await page.keyboard.type(" until ");
    await page.waitForFunction(() => document.querySelector(".offers")?.textContent?.includes("bumper.pressed"));
    expect(await axe(page)).toEqual([]);
    await page.keyboard.type("bumper.pressed");
    await page.keyboard.press("Enter");
    await expect.poll(() => savedText(page, server, id)).toContain("go 45 cm until bumper.pressed");
    for (const block of ["during", "together", "choose robot.travel", "every 20 ms"]) {
      await page.keyboard.type(block);
      await page.keyboard.press("Enter");
      await expect.poll(async () => (await rows(page)).join("|")).toContain(block.split(" ")[0]);
    }
    expect(await page.$$(".row.broken, .row.trouble")).toEqual([]);
  });
});

describe("the text", () => {
  test("tells what a word means, formats when it is left, and finds", async () => {
    const id = await open("go   30cm   until   eye.distance < 20 cm");
    await press(page, "Text");
    await page.waitForSelector(".cm-content");
    const word = await page.waitForSelector("::-p-xpath(//*[contains(@class,'tok-name') and contains(., 'eye')])");
    await word?.hover();
    await page.waitForSelector(".hoverhelp");
    expect(await page.$eval(".hoverhelp", (help) => help.textContent)).toContain(
      "Distance to what the distance sensor sees",
    );
    await page.focus(".cm-content");
    await withKey(page, "Control", "f");
    await page.waitForSelector(".cm-search");
    await page.keyboard.press("Escape");
    await page.focus(".cm-content");
    await page.focus(".scrubber");
    await expect.poll(() => savedText(page, server, id)).toContain("  go 30 cm until eye.distance < 20 cm\n");
  });
});
