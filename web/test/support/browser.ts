// Headless Chromium for the browser tests; every page collects what went wrong in it.
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { buildSync } from "esbuild";
import puppeteer, { type Browser, type ClickOptions, type ElementHandle, type Page } from "puppeteer-core";
import { BROWSER_FLAGS, headlessOf } from "../../../scripts/lib/chromium.mjs";
import type { InPage, Spot, Wanted } from "./inPage.js";

/** For one condition to come true, ms. */
const PATIENCE_MS = 90_000;
const POLLING_MS = 50;
/**
 * What the browser has compiled is used again in the pages that follow. Where another thread fetches, it compiles
 * everything anew each time: a tenth more work for a page.
 */
const USES_COMPILED = "--disable-features=BackgroundResourceFetch";

export interface TestBrowser {
  newPage(): Promise<Page>;
  /** A page that knows nothing of what was before. @param before - is closed first */
  freshPage(before?: Page): Promise<Page>;
  /** The same page, where nothing is linked, without what the browser keeps. What it shows stays until it goes on. */
  clearedPage(before?: Page): Promise<Page>;
  /** Page errors, console errors and policy violations seen so far, over all pages. */
  troubles: string[];
  close(): Promise<void>;
}

/** One for all files of tests that this process runs, one after another: each file has pages of its own in it. */
let shared: Promise<Browser> | undefined;

async function launch(): Promise<Browser> {
  const executablePath = process.env.GIDDY_CHROMIUM;
  if (!executablePath) throw new Error("GIDDY_CHROMIUM is not set: run npm test, which finds or installs the browser.");
  const userDataDir = mkdtempSync(path.join(os.tmpdir(), "giddy-browser-"));
  const headless = headlessOf(executablePath);
  const browser = await puppeteer.launch({
    executablePath,
    userDataDir,
    headless,
    args: [...BROWSER_FLAGS, USES_COMPILED],
  });
  process.once("exit", () => {
    browser.process()?.kill("SIGKILL");
    rmSync(userDataDir, { recursive: true, force: true, maxRetries: 5 });
  });
  return browser;
}

const { outputFiles } = buildSync({
  entryPoints: [path.join(import.meta.dirname, "inPage.ts")],
  bundle: true,
  minify: true,
  write: false,
});
const IN_PAGE = outputFiles[0]?.text ?? "";

/**
 * Presses what is wanted, where and when a person could. Puppeteer's own way asks the browser twenty times for a press, and
 * has it tell all of the page for a name: six times the work.
 */
export async function pressThere(page: Page, wanted: Wanted, options?: ClickOptions): Promise<void> {
  for (let missed = true; missed; ) {
    const found = await page.waitForFunction(
      (what: Wanted) => (window as unknown as { inPage: InPage }).inPage.spotOf(what),
      {},
      wanted,
    );
    const spot = (await found.jsonValue()) as Spot;
    await page.mouse.click(spot.x, spot.y, options);
    missed = await page.evaluate(() => (window as unknown as { inPage: InPage }).inPage.missed()).catch(() => false); // It led to another page.
  }
}

/** The element with this role and this accessible name, once there is one. */
export async function named(page: Page, role: string, name: string): Promise<ElementHandle> {
  const found = await page.waitForFunction(
    (...what: [string, string]) => (window as unknown as { inPage: InPage }).inPage.byRole(...what),
    {},
    role,
    name,
  );
  return found as ElementHandle;
}

/** What a browser keeps of an address. Of what it has compiled nothing goes: files of tests that follow have it at hand. */
const KEPT = "cookies,local_storage,indexeddb,cache_storage,service_workers,file_systems";

async function forgetAll(page: Page, origins: ReadonlySet<string>): Promise<void> {
  const session = await page.createCDPSession();
  for (const origin of origins) await session.send("Storage.clearDataForOrigin", { origin, storageTypes: KEPT });
  await session.detach();
}

/** What the browser's history calls the visit of a workplace; null on a page that is none of ours. */
function visitOf(page: Page): Promise<string | null> {
  return page.evaluate(() => (window.history.state as { visit?: string } | null)?.visit ?? null);
}

/**
 * Goes to an address of ours as a link does: within the page, if one of ours is open there. Else the page is loaded.
 * What stood there before is gone then.
 */
export async function visit(page: Page, address: string): Promise<void> {
  const within = new URL(page.url()).origin === new URL(address).origin;
  const before = within ? await visitOf(page) : null;
  if (before === null) return void (await page.goto(address));
  await page.evaluate((href: string) => {
    const link = document.createElement("a");
    link.href = href;
    document.body.append(link);
    link.click();
    link.remove();
  }, address);
  await page.waitForFunction(
    (old: string) => (window.history.state as { visit?: string } | null)?.visit !== old,
    {},
    before,
  );
}

/** What the page said for a few seconds since it was opened, one after the other. */
export function saidInPassing(page: Page): Promise<readonly string[]> {
  return page.evaluate(() => (window as { saidInPassing?: readonly string[] }).saidInPassing ?? []);
}

/**
 * Takes the network from a page, or gives it back. The browser answers before the part of it that fetches has heard: the
 * page tells when it is so.
 */
export async function setOnline(page: Page, online: boolean): Promise<void> {
  await page.setOfflineMode(!online);
  await page.waitForFunction(
    (wanted: boolean) =>
      fetch("/pebble.svg", { method: "HEAD", cache: "no-store" }).then(
        () => wanted,
        () => !wanted,
      ),
    {},
    online,
  );
}

/** Pages of one file of tests. Nothing that the browser keeps goes from one file to another. */
export async function launchBrowser(): Promise<TestBrowser> {
  shared ??= launch();
  const browser = await shared;
  const pages: Page[] = [];
  const origins = new Set<string>();
  const troubles: string[] = [];
  const own: TestBrowser = {
    troubles,
    async freshPage(before) {
      if (before && !before.isClosed()) await before.close();
      const page = await own.newPage();
      await forgetAll(page, origins);
      return page;
    },
    async clearedPage(before) {
      if (!before || before.isClosed()) return own.freshPage(before);
      await forgetAll(before, origins);
      await before.evaluate(() => sessionStorage.clear());
      return before;
    },
    async newPage() {
      const page = await browser.newPage();
      pages.push(page);
      await page.setViewport({ width: 1280, height: 800 });
      // What is waited for is a condition. A machine with much else to do may take its time over it.
      page.setDefaultTimeout(PATIENCE_MS);
      // Asked twenty times a second, not at each frame: drawing frames for nobody takes time from what is waited for.
      const wait = page.waitForFunction.bind(page);
      page.waitForFunction = (what, options, ...rest) => wait(what, { polling: POLLING_MS, ...options }, ...rest);
      // What is pressed may be drawn anew while it is being pressed: a person presses what stands there then.
      page.click = (selector, options) => pressThere(page, { selector }, options);
      await page.evaluateOnNewDocument(IN_PAGE);
      page.on("domcontentloaded", () => {
        const { origin } = new URL(page.url());
        if (origin !== "null") origins.add(origin);
      });
      page.on("pageerror", (error) =>
        troubles.push(`page error: ${error instanceof Error ? error.message : String(error)}`),
      );
      page.on("console", (message) => {
        if (message.type() === "error") troubles.push(`console: ${message.text()}`);
      });
      await page.evaluateOnNewDocument(() => {
        const passing: string[] = [];
        (window as { saidInPassing?: readonly string[] }).saidInPassing = passing;
        new MutationObserver(() => {
          const said = document.querySelector(".toast")?.textContent;
          if (said && said !== passing.at(-1)) passing.push(said);
        }).observe(document, { childList: true, subtree: true, characterData: true });
        document.addEventListener("securitypolicyviolation", (event) => {
          console.error(`policy violation: ${event.violatedDirective} ${event.blockedURI} ${event.sample}`);
        });
      });
      return page;
    },
    async close() {
      for (const page of pages) if (!page.isClosed()) await page.close();
      const last = await browser.newPage();
      await forgetAll(last, origins);
      await last.close();
    },
  };
  return own;
}
