// The Notebook workplace on the real page: made in one press, written, frozen, put out on paper and as files.
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { unzipSync } from "fflate";
import type { Page } from "puppeteer-core";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { WHOLE } from "../../../core/test/support/search.js";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser, visit } from "../support/browser.js";
import { hurry } from "../support/linked.js";
import { type Loose, press } from "../support/mission.js";
import { type RunningRobots, startRobots } from "../support/robots.js";
import { type RunningServer, request, startServer } from "../support/server.js";

let robots: RunningRobots;
let server: RunningServer;
let browser: TestBrowser;
let page: Page;
const downloads = mkdtempSync(path.join(os.tmpdir(), "giddy-notebook-"));

beforeAll(async () => {
  robots = await startRobots();
  [server, browser] = await Promise.all([startServer({ robots: robots.port }), launchBrowser()]);
  page = await browser.newPage();
  const session = await page.createCDPSession();
  await session.send("Browser.setDownloadBehavior", {
    behavior: "allow",
    downloadPath: downloads,
    eventsEnabled: true,
  });
});
afterAll(async () => {
  expect(browser.troubles).toEqual([]);
  await browser.close();
  await server.leave();
  await robots.stop();
  rmSync(downloads, { recursive: true, force: true });
});

/** As long as the server lets printing take. */
const LONGEST_PRINT_MS = 120_000;

const contents = () => page.$$eval(".contents button", (all) => all.map((one) => one.textContent ?? ""));
const paper = () => page.$eval(".paper", (one) => one.textContent ?? "");

async function show(title: string): Promise<void> {
  await page.evaluate((wanted: string) => {
    const found = [...document.querySelectorAll<HTMLElement>(".contents button")].find((one) =>
      one.textContent?.startsWith(wanted),
    );
    found?.click();
  }, title);
  await page.waitForFunction(
    (wanted: string) => document.querySelector(".paper")?.getAttribute("aria-label") === wanted,
    {},
    title,
  );
}

async function says(words: string): Promise<void> {
  await page.waitForFunction(
    (wanted: string) => document.querySelector(".paper")?.textContent?.includes(wanted),
    {},
    words,
  );
}

async function notebook(): Promise<Loose> {
  const { data } = await request(server, "/api/documents?kind=notebook");
  const { data: open } = await request(server, `/api/documents/${data.documents[0].id}`);
  return (open.draft ?? open.head).body;
}

async function saved(): Promise<void> {
  await page.waitForSelector('.foot [data-save="saved"]');
}

/** The bytes of the file that was saved last, once it is whole. A server that has other work too may print for a while. */
async function download(ending: string): Promise<Buffer> {
  const saved = () => readdirSync(downloads).find((name) => name.endsWith(ending));
  await expect.poll(saved, { timeout: LONGEST_PRINT_MS }).toBeDefined();
  return readFileSync(path.join(downloads, saved() ?? ""));
}

describe("a notebook", () => {
  test("is made in one press with a page for everything, each saying where its figures come from", async () => {
    await page.goto(`${server.url}/notebook`);
    await press(page, "Make a notebook");
    await page.waitForSelector(".contents");
    const { data } = await request(server, "/api/documents");
    const count = (kind: string) => data.documents.filter((one: Loose) => one.kind === kind).length;
    expect(await contents()).toHaveLength(4 + 2 * count("robot") + count("field") + count("mission"));
    await show("Robot Drizzle");
    await says("Gear bench");
    // From above, the gears against others, and the wiring.
    expect(await page.$$eval(".paper figcaption", (all) => all.map((one) => one.textContent ?? ""))).toEqual([
      expect.stringContaining("Drizzle from above"),
      expect.stringContaining("Speed against push"),
      expect.stringContaining("Wiring of Drizzle"),
    ]);
    expect(
      await page.$$eval(".paper figure img", (all) => all.every((one) => (one as HTMLImageElement).naturalWidth > 0)),
    ).toBe(true);
    expect(
      await page.$$eval(".paper a.from", (all) => all.every((one) => one.getAttribute("href")?.startsWith("/"))),
    ).toBe(true);
    expect(await axe(page)).toEqual([]);
    await show("Mission Trail to the mast");
    await says("Nobody has run it yet");
    await show("Timeline");
    await says("version 1");
  });

  test("an own page is written in Markdown, without scripts, without pictures from elsewhere, and undone", async () => {
    await show("About this season");
    await page.click('.paper textarea:not([aria-hidden="true"])');
    await page.keyboard.type(
      "# Why *this* gear\n\n<script>alert(1)</script> <b>bold</b>\n\n![far](https://example.com/a.png) [bad](javascript:alert(1)) [good](https://example.com)",
    );
    await press(page, "Show it");
    await page.waitForSelector(".papermarkdown h1");
    const html = await page.$eval(".papermarkdown", (one) => one.innerHTML);
    expect(html).toContain("<em>this</em>");
    expect(html).toContain("picture left out: far");
    expect(html).toContain('href="https://example.com"');
    expect(html).not.toMatch(/<script|<b>|<img|href="javascript/);
    await saved();
    expect((await notebook()).pages[0].text).toContain("Why *this* gear");
  });

  test("photographs are added, each with what it shows", async () => {
    const picture = path.join(downloads, "our-robot.jpg");
    await sharp({ create: { width: 640, height: 480, channels: 3, background: "#88aa88" } })
      .jpeg()
      .toFile(picture);
    const input = (await page.$('[aria-label="Photographs"]')) as Loose;
    await input.uploadFile(picture);
    await page.waitForSelector(".ownphoto img");
    expect(await page.$eval(".ownphoto input", (one) => (one as HTMLInputElement).value)).toBe("our robot");
    await saved();
    expect((await notebook()).pages[0].photos).toHaveLength(1);
    rmSync(picture);
    expect(await axe(page)).toEqual([]);
  });

  test("a frozen page stays as it is when the robot changes, and says what changed since", async () => {
    await show("Robot Gust");
    await says("Gear bench");
    await press(page, "Freeze as it is");
    await says("Nothing has changed since");
    await saved();
    const before = (await notebook()).pages.find((one: Loose) => one.name === "Gust" && one.of === "robot").frozen
      .blocks;
    const { data } = await request(server, "/api/documents?kind=robot");
    const { id } = data.documents.find((one: Loose) => one.name === "Gust");
    const { data: open } = await request(server, `/api/documents/${id}`);
    const body = { ...open.head.body, chassis: { ...open.head.body.chassis, massKg: 1.111 } };
    await request(server, `/api/documents/${id}/revisions`, {
      method: "POST",
      headers: { "content-type": "application/json", "if-match": '"0"' },
      body: JSON.stringify({ baseRevision: open.head.number, body, reason: "a heavier pack", name: null }),
    });
    await page.reload();
    await page.waitForSelector(".contents");
    await show("Robot Gust");
    await says("Since then:");
    expect(await paper()).toContain("New: chassis · chassis, 1111 g");
    expect(await paper()).toContain("a heavier pack");
    const frozen = (await notebook()).pages.find((one: Loose) => one.name === "Gust" && one.of === "robot").frozen;
    expect(frozen.blocks).toEqual(before);
    await press(page, "Let it change again");
    await page.waitForFunction(() => document.querySelector(".paper .frozen") === null);
    await press(page, "Undo");
    await says("Since then:");
  });

  test("a page of a robot that is archived says so, and the others are there", async () => {
    const { data } = await request(server, "/api/documents?kind=robot");
    const { id } = data.documents.find((one: Loose) => one.name === "Fog");
    const patch = (archived: boolean) =>
      request(server, `/api/documents/${id}`, {
        method: "PATCH",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ archived }),
      });
    await patch(true);
    await page.reload();
    await page.waitForSelector(".contents");
    await show("Robot Fog");
    await says("There is no robot called Fog now.");
    await show("Robot Thaw");
    await says("Gear bench");
    await patch(false);
  });

  test("pages are taken out, put in and moved, and come back by undo", async () => {
    const before = await contents();
    await show("Trials");
    await press(page, "Take out");
    await page.waitForFunction(
      (n: number) => document.querySelectorAll(".contents li").length === n,
      {},
      before.length - 1,
    );
    await press(page, "Add page");
    await press(page, "Trials");
    await page.waitForFunction(
      (n: number) => document.querySelectorAll(".contents li").length === n,
      {},
      before.length,
    );
    await press(page, "Move this page up");
    await press(page, "Undo");
    await press(page, "Undo");
    await press(page, "Undo");
    await page.waitForFunction(
      (titles: string) =>
        JSON.stringify([...document.querySelectorAll(".contents button")].map((one) => one.textContent)) === titles,
      {},
      JSON.stringify(before),
    );
  });
});

async function pick(mission: string): Promise<void> {
  await page.click(".addmission input");
  await page.keyboard.type(mission);
  await page.waitForFunction(
    (name: string) => document.querySelector('[role="option"]')?.textContent === name,
    {},
    mission,
  );
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await says(mission);
}

describe("match day", () => {
  test("a match sheet says what a round brings, finds a better order, and keeps practice with the clock", async () => {
    await press(page, "Add page");
    await press(page, "A match sheet");
    await says("Add the missions of a round");
    await pick("First roll out");
    await pick("Trail to the mast");
    const type = async (label: string, text: string) => {
      await page.click(`[aria-label^="${label}"]`);
      await page.keyboard.down("Control");
      await page.keyboard.press("a");
      await page.keyboard.up("Control");
      await page.keyboard.type(text);
      await page.keyboard.press("Enter");
    };
    // Of two missions with one try each, only the first fits into 30 s: the one with more points belongs first.
    await type("Length of the round", "30 s");
    await type("Points of First roll out", "10");
    await type("Points of Trail to the mast", "40");
    for (const name of ["First roll out", "Trail to the mast"]) {
      await type(`Time of ${name}`, "20 s");
      await type(`How often ${name} works`, "50 %");
      await type(`Tries of ${name}`, "1");
    }
    await says("On average 5.0 points");
    await press(page, "Find the best order");
    await says("This order brings 20.0 points instead of 5.0. Every order was looked at.");
    expect(await axe(page)).toEqual([]);
    await press(page, "Practise with the clock");
    await page.waitForSelector(".practiceclock");
    await page.keyboard.press("Space");
    await page.waitForFunction(() => document.querySelector(".practiceclock")?.textContent === "0:29");
    await page.keyboard.press("Digit1");
    await page.waitForFunction(() => document.querySelector(".practicepoints")?.textContent === "40 points");
    expect(await axe(page)).toEqual([]);
    await press(page, "Stop and keep");
    await says("1 round: 40.0 points on average");
    await saved();
    const sheet = (await notebook()).pages.find((one: Loose) => one.kind === "match");
    expect(sheet.rounds[0]).toMatchObject({ points: 40, marks: [{ name: "Trail to the mast", worked: true }] });
    // What was ticked off is a run of its mission, with a page of its own.
    await page.waitForFunction(() => document.querySelector(".toast")?.textContent?.includes("1 run of it stand"));
    await press(page, "Undo");
    await page.waitForFunction(() => !document.querySelector(".paper")?.textContent?.includes("1 round:"));
    await saved();
    const sheetAddress = page.url();
    await visit(page, `${server.url}/trials`);
    await page.waitForSelector(".trialslist .trialrow");
    await page.select('[aria-label="Source"]', "practice");
    await page.waitForFunction(() => document.querySelectorAll(".trialslist .trialrow").length === 1);
    await Promise.all([page.waitForNavigation(), page.click(".trialslist a.runrow")]);
    await says("Nothing recorded this run: it was timed by hand.");
    expect(await paper()).toContain("practice round");
    expect(await axe(page)).toEqual([]);
    await visit(page, sheetAddress);
    await page.waitForSelector(".contents");
  });

  test("a pit list looks for itself and is ticked by hand, with lines of one's own", async () => {
    await press(page, "Add page");
    await press(page, "A pit list");
    await says("Drizzle was never measured");
    await page.type('[aria-label="A line of your own"]', "Flag is on");
    await page.keyboard.press("Enter");
    await says("6 left");
    await page.click(".pitlines li:last-child input");
    await says("5 left");
    await saved();
    expect((await notebook()).pages.find((one: Loose) => one.kind === "pit").lines.at(-1)).toEqual({
      text: "Flag is on",
      done: true,
    });
    await press(page, "Begin anew");
    await says("6 left");
    expect(await axe(page)).toEqual([]);
  });
});

test("decisions tell what was changed, why, and what it did", async () => {
  await show("Decisions");
  // The heavier chassis of the test above.
  await says("a heavier pack");
  const cells = await page.$$eval(".paper td", (all) => all.map((one) => one.textContent ?? ""));
  expect(cells.some((cell) => /^chassis, .*→ 1\.111 kg/.test(cell))).toBe(true);
  expect(cells.some((cell) => /Top speed 106 cm\/s → 98 cm\/s/.test(cell))).toBe(true);
  expect(await axe(page)).toEqual([]);
});

test("the pit list asks a linked robot: its plugs, its pack, its gyro, and which versions it holds", async () => {
  await show("Pit list");
  await page.click('[aria-label^="Robot:"]');
  await press(page, "Link Drizzle");
  await page.waitForFunction(() => document.body.textContent?.includes("It stands and waits."));
  await says("Its sensors and motors answer");
  await says("more than half full");
  await press(page, "Close");
  await hurry(robots, "drizzle", 20);
  await press(page, "Look at the gyro at rest");
  await page.waitForFunction(() =>
    /At rest the gyro drifts -?\d+\.\d\d deg\/s/.test(document.querySelector(".pitchecks")?.textContent ?? ""),
  );
  // Nothing stays on its shelf.
  expect(await page.$$eval(".pitchecks li", (all) => all.some((one) => one.textContent?.includes("It holds")))).toBe(
    false,
  );
  expect(await axe(page)).toEqual([]);
});

/** Leaves of the pages that are made one of each kind, and those that are frozen: as many take several times as long to go out. */
async function shorten(): Promise<void> {
  const { data } = await request(server, "/api/documents?kind=notebook");
  const { id } = data.documents[0];
  const { data: open } = await request(server, `/api/documents/${id}`);
  const { pages } = open.draft?.body ?? open.head.body;
  const first = (one: Loose) => pages.find(({ kind, of }: Loose) => kind === "made" && of === one.of) === one;
  const left = pages.filter((one: Loose) => one.kind !== "made" || one.frozen || first(one));
  const cut = await request(server, `/api/documents/${id}/revisions`, {
    method: "POST",
    headers: { "content-type": "application/json", "if-match": `"${open.draft?.version ?? 0}"` },
    body: JSON.stringify({
      baseRevision: open.head.number,
      body: { ...(open.draft?.body ?? open.head.body), pages: left },
      reason: "fewer pages",
      name: null,
    }),
  });
  expect(cut.status).toBe(200);
  await page.reload();
  await page.waitForFunction(
    (count: number) => document.querySelectorAll(".contents li").length === count,
    {},
    left.length,
  );
}

describe("out", () => {
  beforeAll(async () => {
    // The long search prints all of it.
    if (!WHOLE) await shorten();
  });

  test(
    "PDF of the asked paper is made by the server, and can be cancelled",
    async () => {
      await press(page, "Save as PDF, letter");
      const pdf = (await download(".pdf")).toString("latin1");
      const sheets = pdf.match(/\/Type \/Page\b(?!s)/g)?.length ?? 0;
      expect(sheets).toBeGreaterThanOrEqual((await contents()).length);
      expect(pdf).toMatch(/MediaBox \[0 0 612 792\]/);
      await press(page, "Save as PDF, A4");
      await page.waitForSelector('[aria-label="Printing the PDF"]');
      expect(await axe(page)).toEqual([]);
      await press(page, "Cancel");
      await page.waitForFunction(() => document.querySelector(".toast")?.textContent?.includes("No PDF was made."));
    },
    2 * LONGEST_PRINT_MS,
  );

  test("one HTML file stands alone: every page, its pictures within, nothing fetched", async () => {
    await press(page, "Save as one HTML file");
    const html = (await download(".html")).toString("utf8");
    expect(html.match(/<section id=/g)).toHaveLength((await contents()).length);
    expect(html).toContain("data:image/jpeg;base64,");
    expect(html).not.toMatch(/src="(?!data:)/);
  });

  test("Markdown comes in a .zip with every picture it names", async () => {
    await press(page, "Save as Markdown");
    const files = unzipSync(new Uint8Array(await download(".zip")));
    const text = new TextDecoder().decode(files["notebook.md"]);
    const named = [...text.matchAll(/\]\((pictures\/[^)]+)\)/g)].map(([, name]) => name as string);
    const drawn = (await contents()).flatMap((title) => /^(?:Robot|Field|Mission) [^·]*[^· ]/.exec(title) ?? []);
    const stems = drawn.map((title) => title.toLowerCase().replace(/[^a-z0-9]+/g, "-"));
    expect(stems.length).toBeGreaterThan(3);
    for (const stem of stems) expect(named.join()).toContain(`pictures/${stem}-`);
    // And the photograph.
    expect(named.filter((name) => name.endsWith(".jpg"))).toHaveLength(1);
    for (const name of named) expect(Object.keys(files)).toContain(name);
  });

  test("on paper every page is there with its pictures, none is empty, and pages are numbered", async () => {
    await page.evaluate(() => {
      const said = { printed: [] as string[] };
      Object.assign(window, { said });
      window.print = () => {
        said.printed = [...document.querySelectorAll<HTMLElement>(".paperall section")].map(
          (one) => one.textContent ?? "",
        );
        said.printed.push(
          String(
            [...document.querySelectorAll<HTMLImageElement>(".paperall img")].every((one) => one.naturalWidth > 0),
          ),
        );
      };
    });
    await press(page, "Print");
    await page.waitForFunction(() => (window as unknown as Loose).said.printed.length > 0);
    const printed = (await page.evaluate(() => (window as unknown as Loose).said.printed)) as string[];
    expect(printed.pop()).toBe("true");
    expect(printed).toHaveLength((await contents()).length + 1);
    for (const text of printed) expect(text.length, text).toBeGreaterThan(20);
  });
});
