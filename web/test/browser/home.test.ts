// The home page as a new user meets it: documents found, renamed, copied, put away, deleted; files dropped anywhere;
// search by Ctrl+K; words with examples; the tour.
import { readFileSync } from "node:fs";
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { axe } from "../support/axe.js";
import { launchBrowser, setOnline, type TestBrowser, visit } from "../support/browser.js";
import { type Loose, press, withKey } from "../support/mission.js";
import { type RunningServer, request, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;

beforeAll(async () => {
  [server, browser] = await Promise.all([startServer(), launchBrowser()]);
  page = await browser.newPage();
});
afterAll(async () => {
  // What is refused is told by the server with a status, which the console writes down, as it does what was asked for in vain.
  const expected = /status of (409|422)|ERR_INTERNET_DISCONNECTED/;
  expect(browser.troubles.filter((trouble) => !expected.test(trouble))).toEqual([]);
  await browser.close();
  await server.leave();
});

async function home(): Promise<void> {
  await visit(page, `${server.url}/`);
  await page.waitForSelector(".cards .card");
}

/** In the page that is open, when it is the home page. */
async function stayHome(): Promise<void> {
  if (new URL(page.url()).pathname !== "/") await home();
}

const cards = () => page.$$eval(".card", (all) => all.map((one) => one.getAttribute("data-name")));

async function untilSaid(words: RegExp): Promise<void> {
  await page.waitForFunction(
    (pattern: string) => new RegExp(pattern).test(document.querySelector(".toast")?.textContent ?? ""),
    {},
    words.source,
  );
}

/** Chooses an act from the menu of a document. */
async function act(name: string, label: string): Promise<void> {
  await page.click(`[aria-label="What to do with ${name}"]`);
  await page.waitForSelector('[role="menuitem"]');
  await page.evaluate((wanted: string) => {
    const item = [...document.querySelectorAll<HTMLElement>('[role="menuitem"]')].find(
      (one) => one.textContent === wanted,
    );
    item?.click();
  }, label);
}

async function typeName(name: string): Promise<void> {
  await page.waitForSelector('[role="dialog"] input');
  await page.waitForFunction(() => document.activeElement?.matches('[role="dialog"] input'));
  await withKey(page, "Control", "a");
  await page.keyboard.type(name);
  await page.keyboard.press("Enter");
}

async function missions(): Promise<Loose[]> {
  return (await request(server, "/api/documents?kind=mission")).data.documents;
}

describe("documents", () => {
  test("stand there newest first with pictures, are found by name and by kind, and open", async () => {
    await home();
    const all = (await request(server, "/api/documents")).data.documents as Loose[];
    expect(await cards()).toHaveLength(all.length);
    await page.waitForFunction(() =>
      [...document.querySelectorAll<HTMLImageElement>(".card img")].slice(0, 6).every((one) => one.naturalWidth > 0),
    );
    expect(await axe(page)).toEqual([]);
    await page.keyboard.press("/");
    await page.keyboard.type("mast trail");
    await page.waitForFunction(() => document.querySelectorAll(".card").length === 1);
    expect(await cards()).toEqual(["Trail to the mast"]);
    await withKey(page, "Control", "a");
    await page.keyboard.press("Backspace");
    await press(page, "Robots");
    const robots = all.filter(({ kind }) => kind === "robot").length;
    await page.waitForFunction((n: number) => document.querySelectorAll(".card").length === n, {}, robots);
    await Promise.all([page.waitForNavigation(), page.click('.card[data-name="Gust"] a')]);
    await page.waitForSelector('[aria-label="Name of the robot"]');
    expect(await page.$eval('[aria-label="Name of the robot"]', (one) => (one as HTMLInputElement).value)).toBe("Gust");
  });

  test("a robot that missions use is renamed: they follow, and run; undo and redo go both ways", async () => {
    await home();
    const naming = (await missions()).filter(({ robot }) => robot === "Drizzle").map(({ id }) => id as string);
    expect(naming.length).toBeGreaterThan(3);
    await act("Drizzle", "Rename…");
    await typeName("Shower");
    await untilSaid(/Drizzle is called Shower now/);
    const robots = async () =>
      (await missions()).filter(({ id }) => naming.includes(id)).map(({ robot }) => robot as string);
    expect(new Set(await robots())).toEqual(new Set(["Shower"]));
    await visit(page, `${server.url}/mission?mission=${naming[0]}`);
    await page.waitForFunction(() => document.querySelector(".robotpill")?.textContent?.includes("Shower"));
    await home();
    // Another visit begins with nothing to undo; the act is made again to be taken back.
    await act("Shower", "Rename…");
    await typeName("Drizzle");
    await untilSaid(/Shower is called Drizzle now/);
    await page.keyboard.down("Control");
    await page.keyboard.press("z");
    await page.keyboard.up("Control");
    await untilSaid(/Undid/);
    expect(new Set(await robots())).toEqual(new Set(["Shower"]));
    await press(page, "Redo");
    await untilSaid(/Redid/);
    expect(new Set(await robots())).toEqual(new Set(["Drizzle"]));
  });

  test("a name that is taken is refused in the dialog, and nothing typed is lost", async () => {
    await stayHome();
    await act("Gust", "Rename…");
    await typeName("Fog");
    await page.waitForFunction(() =>
      document.querySelector('[role="dialog"]')?.textContent?.includes('There is already one called "Fog"'),
    );
    expect(await page.$eval('[role="dialog"] input', (one) => (one as HTMLInputElement).value)).toBe("Fog");
    await page.keyboard.press("Escape");
    await page.waitForFunction(() => document.querySelector('[role="dialog"]') === null);
  });

  test("a copy is made, archived, brought back, archived again and deleted for good", async () => {
    await stayHome();
    await act("First roll out", "Duplicate…");
    await typeName("Second roll out");
    await untilSaid(/Second roll out is a copy of First roll out/);
    expect(await cards()).toContain("Second roll out");
    await act("Second roll out", "Archive");
    await untilSaid(/Second roll out is archived/);
    expect(await cards()).not.toContain("Second roll out");
    await page.click('[role="tab"]:nth-of-type(2)');
    await page.waitForSelector('.card[data-name="Second roll out"]');
    await act("Second roll out", "Bring back");
    await untilSaid(/Second roll out is back/);
    await press(page, "Undo");
    await page.waitForSelector('.card[data-name="Second roll out"]');
    await act("Second roll out", "Delete for good…");
    await page.waitForSelector('[role="dialog"]');
    expect(await axe(page)).toEqual([]);
    await press(page, "Delete for good");
    await untilSaid(/deleted for good/);
    expect(await cards()).toEqual([]);
    expect((await request(server, "/api/documents?archived=true")).data.documents).toEqual([]);
  });

  test("where a robot is used is said, mission by mission", async () => {
    await home();
    await act("Thaw", "Where it is used");
    await page.waitForSelector(".useslist");
    const named = (await missions()).filter(({ robot }) => robot === "Thaw").map(({ name }) => name as string);
    const said = await page.$eval(".useslist", (list) => list.textContent ?? "");
    for (const name of named) expect(said).toContain(name);
    await press(page, "Close");
  });
});

/** Drops a file on the page as a hand does. */
async function drop(name: string, type: string, text: string): Promise<void> {
  await page.evaluate(
    (fileName: string, fileType: string, content: string) => {
      const transfer = new DataTransfer();
      transfer.items.add(new File([content], fileName, { type: fileType }));
      for (const kind of ["dragover", "drop"])
        window.dispatchEvent(new DragEvent(kind, { dataTransfer: transfer, bubbles: true, cancelable: true }));
    },
    name,
    type,
    text,
  );
}

describe("a file dropped on any page", () => {
  test("a mission on Trials opens in Mission; while the server is away that is said, and it opens later", async () => {
    await visit(page, `${server.url}/trials`);
    await page.waitForSelector("main h1");
    const text = 'cairn 1\nrobot "Drizzle"\n\nmission\n  go 12 cm\n';
    await setOnline(page, false);
    await drop("snow-patrol.cairn", "", text);
    await untilSaid(/The server does not answer, so the file was not opened\. Try again when it does\./);
    await setOnline(page, true);
    const opened = page.waitForNavigation();
    await drop("snow-patrol.cairn", "", text);
    await opened;
    await page.waitForSelector(".steps");
    expect(new URL(page.url()).pathname).toBe("/mission");
    await page.waitForFunction(() => document.querySelector(".panehead")?.textContent?.includes("snow patrol"));
  });

  test("a robot on Mission opens in Robot, under a free name", async () => {
    const text = readFileSync(new URL("../../../demo/gust.robot.json", import.meta.url), "utf8");
    const opened = page.waitForNavigation();
    await drop("gust.robot.json", "application/json", text);
    await opened;
    await page.waitForSelector('[aria-label="Name of the robot"]');
    expect(new URL(page.url()).pathname).toBe("/robot");
    expect(await page.$eval('[aria-label="Name of the robot"]', (one) => (one as HTMLInputElement).value)).toBe(
      "Gust 2",
    );
  });

  test("a drawing on Robot opens in Field, which asks what it is", async () => {
    const svg =
      '<svg xmlns="http://www.w3.org/2000/svg" width="2000mm" height="1000mm" viewBox="0 0 2000 1000"><path d="M100 500H1900" stroke="#000" stroke-width="20" fill="none"/></svg>';
    const opened = page.waitForNavigation();
    await drop("line.svg", "image/svg+xml", svg);
    await opened;
    await page.waitForSelector('[aria-label="A drawing"]');
    expect(new URL(page.url()).pathname).toBe("/field");
  });

  test.each([
    ["a text that is nothing", "notes.txt", "hello", /notes\.txt is not a file that Giddy Pebble knows/],
    ["other JSON", "data.json", '{"a": 1}', /is JSON, but neither a robot nor a field/],
    [
      "a robot with faults that cannot be read",
      "bad.json",
      '{"format":"giddy-pebble/robot","version":3}',
      /cannot be opened/,
    ],
    ["a zip that is no project", "x.zip", "PK\u0003\u0004 and so on", /was not taken/],
    ["a field of a later version", "f.json", '{"format":"giddy-pebble/field","version":99}', /version 99/],
  ])("%s is told, and nothing opens", async (_, name, text, words) => {
    if (new URL(page.url()).pathname !== "/trials") await visit(page, `${server.url}/trials`);
    await page.waitForSelector("main h1");
    await drop(name, "", text);
    await untilSaid(words);
    expect(new URL(page.url()).pathname).toBe("/trials");
  });
});

describe("something new", () => {
  test.each([
    ["A mission", "/mission", '[aria-label="Name of the new mission"]'],
    ["A robot", "/robot", '[aria-label="Name of the new robot"]'],
    ["A field", "/field", '[aria-label="Fields"] h3'],
  ])("%s is begun from the home page, once", async (kind, address, first) => {
    await home();
    await press(page, "New…");
    await Promise.all([page.waitForNavigation(), press(page, kind, "menuitem")]);
    await page.waitForSelector(first);
    expect(new URL(page.url()).pathname).toBe(address);
    await page.waitForFunction(() => !new URL(window.location.href).searchParams.has("new"));
  });
});

describe("search by Ctrl+K", () => {
  test("finds a document from any page and opens it", async () => {
    await visit(page, `${server.url}/drive`);
    await page.waitForSelector("main .foot");
    await withKey(page, "Control", "k");
    await page.waitForSelector('.palette [role="option"]');
    await page.keyboard.type("shelters");
    await page.waitForFunction(() =>
      document.querySelector('.palette [role="option"]')?.textContent?.startsWith("Batteries to the shelters"),
    );
    expect(await axe(page)).toEqual([]);
    await Promise.all([page.waitForNavigation(), page.keyboard.press("Enter")]);
    await page.waitForFunction(() => document.title.startsWith("Batteries to the shelters"));
  });

  test("finds a word by what others call it, and says when nothing fits; Escape closes it", async () => {
    await withKey(page, "Control", "k");
    await page.waitForSelector('.palette [role="option"]');
    await page.keyboard.type("qqqq");
    await page.waitForFunction(() => document.querySelector(".palette")?.textContent?.includes("Nothing fits “qqqq”"));
    await withKey(page, "Control", "a");
    await page.keyboard.type("ultrasonic");
    await page.waitForFunction(() =>
      document.querySelector('.palette [role="option"]')?.textContent?.startsWith("distance sensor"),
    );
    await page.keyboard.press("Escape");
    await page.waitForFunction(() => document.querySelector(".palette") === null);
  });
});

test("a word's example becomes a mission that opens without a problem", async () => {
  await visit(page, `${server.url}/help#arc`);
  await page.waitForSelector("#arc");
  expect(await axe(page)).toEqual([]);
  await Promise.all([page.waitForNavigation(), page.click('[aria-label="Try it as a mission: arc"]')]);
  await page.waitForSelector(".steps");
  expect(await page.$eval(".steps", (steps) => steps.textContent)).toContain("arc");
  expect((await missions()).some(({ name }) => name === "Example arc")).toBe(true);
});

test("the tour goes over five stops on real data, back too, and can be left at any of them", async () => {
  await home();
  const stop = () => page.$eval(".tour", (card) => card.textContent ?? "");
  await Promise.all([page.waitForNavigation(), press(page, "Take the tour: five stops")]);
  const pages: string[] = [];
  for (let n = 1; n <= 5; n += 1) {
    await page.waitForSelector(".tour");
    expect(await stop()).toContain(`Stop ${n} of 5`);
    pages.push(new URL(page.url()).pathname);
    if (n < 5) {
      const moved = page.waitForNavigation();
      await page.$eval(".tour .MuiButton-contained", (next) => (next as HTMLElement).click());
      await moved;
    }
  }
  expect(pages).toEqual(["/robot", "/calibrate", "/field", "/mission", "/trials"]);
  await Promise.all([page.waitForNavigation(), press(page, "Back")]);
  await page.waitForSelector(".tour");
  await press(page, "Leave the tour");
  await page.waitForFunction(() => document.querySelector(".tour") === null);
  await page.reload();
  await page.waitForSelector(".steps");
  expect(await page.$(".tour")).toBeNull();
});
