// From workplace to workplace: nothing is loaded anew, what was typed is saved first, the link stays, and what belonged
// to the workplace before is gone.
import type { HTTPRequest, Page } from "puppeteer-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { some } from "../../../core/test/support/search.js";
import { axe } from "../support/axe.js";
import { launchBrowser, saidInPassing, setOnline, type TestBrowser, visit } from "../support/browser.js";
import { hurry, linkRobot, says, unexpected } from "../support/linked.js";
import { getJson, type Loose, newMission, openMission, press, untilPlanned } from "../support/mission.js";
import { robotId } from "../support/robot.js";
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
  await browser.close();
  await server.leave();
  await robots.stop();
});

const mission = (steps: string) =>
  `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\n\nmission\n${steps}\n`;

/** Counts every load of a page from here on. */
function loads(): () => number {
  let count = 0;
  page.on("load", () => {
    count += 1;
  });
  return () => count;
}

/** Presses a pebble of the trail. */
async function trail(title: string): Promise<void> {
  await page.evaluate((wanted) => {
    const link = [...document.querySelectorAll<HTMLAnchorElement>(".trail a")].find(
      (one) => one.textContent?.trim() === wanted,
    );
    link?.click();
  }, title);
  await at(title);
}

const at = (title: string) =>
  page.waitForFunction(
    (wanted) =>
      document.querySelector('.trail a[aria-current="page"]')?.textContent?.trim() === wanted &&
      document.querySelector("main:not([aria-busy]) :is(h1, h2)") !== null,
    {},
    title,
  );

const TRAIL = ["Robot", "Calibrate", "Field", "Mission", "Drive", "Trials", "Notebook"];

test("the trail leads to every workplace without a load; Robot, Trials and Notebook look as they do when they are loaded", async () => {
  await openMission(page, server);
  /** How wide and high each part of the page is, and its ground. */
  const look = () =>
    page.$$eval("main, main > *, main > * > *", (all) =>
      all.map((one) => {
        const { width, height } = one.getBoundingClientRect();
        const { backgroundColor, fontSize, display } = getComputedStyle(one);
        return [one.className, Math.round(width), Math.round(height), backgroundColor, fontSize, display].join(" ");
      }),
    );
  const loaded = loads();
  for (const title of TRAIL) await trail(title);
  expect(loaded()).toBe(0);
  // Who does not see it hears where they are.
  expect(await page.$eval(".unseen", (words) => words.textContent)).toBe("Notebook · Giddy Pebble");
  for (const title of ["Robot", "Trials", "Notebook"]) {
    await trail(title);
    // What the page still waits for has come.
    await page.waitForNetworkIdle();
    const went = await look();
    await page.reload();
    await at(title);
    await expect.poll(look).toEqual(went);
  }
  expect(await axe(page)).toEqual([]);
});

test("Back and Forward go over workplaces, and over what was chosen in each", async () => {
  const [first, second] = [
    await newMission(server, "First way", mission("  go 11 cm")),
    await newMission(server, "Second way", mission("  go 12 cm")),
  ];
  await visit(page, `${server.url}/mission?mission=${first}`);
  await says(page, "11 cm");
  await visit(page, `${server.url}/mission?mission=${second}`);
  await says(page, "12 cm");
  await trail("Robot");
  const loaded = loads();
  await page.goBack();
  await says(page, "12 cm");
  await page.goBack();
  await says(page, "11 cm");
  await page.goForward();
  await page.goForward();
  await at("Robot");
  expect(new URL(page.url()).searchParams.get("mission")).toBe(second);
  expect(loaded()).toBe(0);
});

test("what was typed a moment ago is saved before the next workplace asks for it", async () => {
  const id = await newMission(server, "In haste", mission("  go 31 cm"));
  await openMission(page, server, id);
  await untilPlanned(page);
  await page.click('.row [role="spinbutton"][aria-valuetext="31 cm"]');
  await page.waitForSelector(".row input.editor-in");
  await page.keyboard.type("32 cm");
  await page.keyboard.press("Enter");
  await page.waitForSelector('.row [role="spinbutton"][aria-valuetext="32 cm"]');
  await trail("Drive");
  const { draft } = await getJson(server, `/api/documents/${id}`);
  expect(draft?.text).toContain("go 32 cm");
  await trail("Mission");
  await page.waitForSelector('.row [role="spinbutton"][aria-valuetext="32 cm"]');
  // A visit begins with nothing to undo.
  expect(await page.$$eval(".foot button", (all) => all.map((one) => (one as HTMLButtonElement).disabled))).toEqual([
    true,
    true,
    false,
  ]);
});

test("an answer that comes late belongs to nobody: the next workplace and its address stay as they are", async () => {
  const robot = await robotId(server, "Drizzle");
  await visit(page, `${server.url}/help`);
  await page.waitForSelector(".reference");
  await page.evaluate(() => {
    const holder = window as unknown as { answer?: () => void; asked?: boolean };
    const ask = window.fetch.bind(window);
    window.fetch = async (what, how) => {
      const answer = await ask(what, how);
      if (!String(what).includes("/api/documents/")) return answer;
      holder.asked = true;
      window.fetch = ask;
      await new Promise<void>((resolve) => {
        holder.answer = resolve;
      });
      return answer;
    };
  });
  await visit(page, `${server.url}/robot?robot=${robot}`);
  await page.waitForFunction(() => (window as unknown as { answer?: () => void }).answer !== undefined);
  await visit(page, `${server.url}/help#arc`);
  await page.waitForSelector("#arc");
  const address = page.url();
  await page.evaluate(async () => {
    (window as unknown as { answer: () => void }).answer();
    // Everything that hangs on the answer has had its turn after that.
    await new Promise((resolve) => setTimeout(resolve));
  });
  expect(page.url()).toBe(address);
  expect(await page.title()).toBe("Words · Giddy Pebble");
  // The robot opens as ever.
  await visit(page, `${server.url}/robot?robot=${robot}`);
  await page.waitForSelector(".inspector h2");
});

test("rehearsals that ended a moment ago are kept before the next workplace asks for them", async () => {
  const id = await newMission(server, "Kept on the way", mission("  go 10 cm"));
  await openMission(page, server, id);
  await untilPlanned(page);
  // The server is slow to take them.
  await page.evaluate(() => {
    const given = window.fetch;
    const own = window as unknown as { held: boolean; letGo: () => void };
    const free = new Promise<void>((resolve) => Object.assign(own, { letGo: resolve }));
    window.fetch = async (address, init) => {
      if (address === "/api/studies" && init?.method === "POST") {
        own.held = true;
        await free;
      }
      return given(address, init);
    };
  });
  await page.select('[aria-label="How many times"]', "20");
  await press(page, "Try 20 times");
  await page.waitForFunction(() => (window as unknown as { held?: boolean }).held === true);
  await page.evaluate(() => document.querySelector<HTMLAnchorElement>('.trail a[href^="/trials"]')?.click());
  await page.waitForFunction(() => document.documentElement.dataset.going !== undefined);
  await page.evaluate(() => (window as unknown as { letGo: () => void }).letGo());
  await at("Trials");
  await page.waitForSelector(".trialslist li");
  expect(await page.$$eval(".studyrow", (rows) => rows.map((row) => row.textContent))).toEqual([
    expect.stringMatching(/^×20Kept on the way/),
  ]);
});

test("the link to a robot stays; a run that nobody watches any more is stopped and kept, and that is said", async () => {
  const id = await newMission(server, "Long way", mission("  repeat 50 times\n    go 30 cm\n    back 30 cm"));
  await openMission(page, server, id);
  await linkRobot(page, "Drizzle");
  await untilPlanned(page);
  await hurry(robots, "drizzle", 1);
  await page.evaluate(() => {
    const holder = window as unknown as { unlinked: number };
    holder.unlinked = 0;
    new MutationObserver(() => {
      if (document.querySelector(".robotpill:not(.linked)")) holder.unlinked += 1;
    }).observe(document, { childList: true, subtree: true, attributes: true });
  });
  await press(page, "Run on Drizzle");
  await page.waitForSelector(".haltbutton");
  await trail("Robot");
  const told = async () => (await saidInPassing(page)).join(" ");
  await expect.poll(told).toContain("Drizzle was stopped, because you went to another page.");
  await page.waitForFunction(() => document.querySelector(".haltbutton") === null);
  const { trials } = (await getJson(server, `/api/trials?mission=${id}`)) as Loose;
  expect(trials).toHaveLength(1);
  expect(trials[0]).toMatchObject({ source: "robot", robot: { name: "Drizzle" }, outcome: "stopped" });
  await trail("Mission");
  expect(await page.$eval("body", (all) => all.textContent)).not.toContain("you went to another page");
  // It can be run again at once.
  await press(page, "Run on Drizzle");
  await page.waitForSelector(".haltbutton");
  await page.keyboard.press("Escape");
  await page.waitForFunction(() => document.querySelector(".haltbutton") === null);
  expect(await page.evaluate(() => (window as unknown as { unlinked: number }).unlinked)).toBe(0);
});

test("a link for another window, a download and another site are the browser's", async () => {
  const left = await page.evaluate(() => {
    const press = (attributes: Record<string, string>, how: MouseEventInit = {}): boolean => {
      const link = document.createElement("a");
      for (const [name, value] of Object.entries(attributes)) link.setAttribute(name, value);
      document.body.append(link);
      let ours = false;
      // What the page left to the browser is kept from happening here.
      const last = (event: Event) => {
        ours = event.defaultPrevented;
        event.preventDefault();
      };
      window.addEventListener("click", last, { once: true });
      link.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true, ...how }));
      link.remove();
      return ours;
    };
    return [
      press({ href: "/robot" }, { ctrlKey: true }),
      press({ href: "/robot" }, { shiftKey: true }),
      press({ href: "/robot" }, { button: 1 }),
      press({ href: "/robot", target: "_blank" }),
      press({ href: "/robot", download: "robot.html" }),
      press({ href: "/api/project" }),
      press({ href: "http://127.0.0.1:1/robot" }),
      press({ href: "/nowhere" }),
      press({ href: "/robot/" }),
    ];
  });
  expect(left).toEqual([false, false, false, false, false, false, false, false, true]);
  await at("Robot");
});

/** Does something while the browser gets no file of a name. */
async function without(file: RegExp, from: Page, act: () => Promise<unknown>): Promise<void> {
  const refuse = (request: HTTPRequest) => {
    void (file.test(request.url()) ? request.abort() : request.continue());
  };
  await from.setRequestInterception(true);
  from.on("request", refuse);
  await act();
  from.off("request", refuse);
  await from.setRequestInterception(false);
  expect(browser.troubles.splice(0).filter((trouble) => !/ERR_FAILED/.test(trouble))).toEqual([]);
}

async function search(own: Page): Promise<void> {
  await own.keyboard.down("Control");
  await own.keyboard.press("k");
  await own.keyboard.up("Control");
}

/** What is read when it is asked for: how a sentence about it begins, how a person asks, and what it shows. */
type Part = readonly [string, (own: Page) => Promise<unknown>, string];

const ROBOT: readonly Part[] = [
  ["The gear bench", (own) => own.keyboard.press("g"), ".gearbench"],
  ["The versions", (own) => own.keyboard.press("r"), ".panel .revisionlist li"],
  ["The parts", (own) => own.keyboard.press("a"), '[aria-label="Catalogue of parts"]'],
  ["First roll", (own) => press(own, "First roll"), ".panel svg"],
  ["The search", search, ".palettepaper input"],
];
const MISSION: readonly Part[] = [
  ["The text", (own) => press(own, "Text"), ".cm-content"],
  [
    "The program for a board",
    async (own) => {
      await own.click(".panehead h1 button");
      await press(own, "Put on a board…", "menuitem");
    },
    ".boardpanel",
  ],
];

test.each([
  ["/robot", ".firstroll button", some(ROBOT, 3)],
  ["/mission", ".row .verb", MISSION],
] as const)(
  "%s stays without the server; what it reads when it is asked for says so, and opens once the server is back",
  async (address, ready, parts) => {
    const own = await browser.newPage();
    await own.goto(server.url + address);
    await own.waitForSelector(ready);
    for (const [what, ask, shown] of parts) {
      await setOnline(own, false);
      await ask(own);
      await says(own, `${what} could not be opened: the server does not answer. What you typed is kept.`);
      expect(await axe(own)).toEqual([]);
      // Asked again while the server is still away, it says so again.
      await press(own, "Try again");
      await own.waitForSelector(".unread[role=alert] button");
      expect(await own.$(".trail")).not.toBeNull();
      await setOnline(own, true);
      await press(own, "Try again");
      await own.waitForSelector(shown);
      expect(await own.$(".unread")).toBeNull();
    }
    await own.close();
    expect(browser.troubles.splice(0).filter((trouble) => !/ERR_INTERNET_DISCONNECTED/.test(trouble))).toEqual([]);
  },
);

test("a page that cannot be fetched whole says so, and so does a text whose editor cannot", async () => {
  const own = await browser.newPage();
  await without(/MissionWorkplace[^/]*\.js$/, own, async () => {
    await own.goto(`${server.url}/mission`);
    await says(own, "This page could not be fetched whole. Reload it.");
  });
  await own.reload();
  await own.waitForSelector(".row .verb");
  await without(/TextEditor[^/]*\.js$/, own, async () => {
    await press(own, "Text");
    await says(own, "The text could not be fetched. Reload the page. What you typed is kept.");
    expect(await axe(own)).toEqual([]);
  });
  // Without the server there would be no page to come back to.
  await setOnline(own, false);
  await press(own, "Reload");
  await says(own, "The server does not answer yet. Press Reload again when it does.");
  await setOnline(own, true);
  const loaded = new Promise((resolve) => own.once("load", resolve));
  await press(own, "Reload");
  await loaded;
  await own.waitForSelector(".cm-content");
  await own.close();
  expect(browser.troubles.splice(0).filter((trouble) => !/ERR_INTERNET_DISCONNECTED/.test(trouble))).toEqual([]);
});
