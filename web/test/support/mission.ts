// What the browser tests do to the Mission workplace, in a person's words.
import type { Page } from "puppeteer-core";
import { pressThere, visit } from "./browser.js";
import type { RunningServer } from "./server.js";

// biome-ignore lint/suspicious/noExplicitAny: answers are looked at field by field
export type Loose = any;

export async function getJson(server: RunningServer, address: string): Promise<Loose> {
  return (await fetch(server.url + address)).json();
}

/** Makes a mission of its own for a test, so that tests do not meet. */
export async function newMission(server: RunningServer, name: string, text: string): Promise<string> {
  const made = await fetch(`${server.url}/api/documents`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ kind: "mission", name, text }),
  });
  return ((await made.json()) as Loose).document.id;
}

export async function openMission(page: Page, server: RunningServer, id?: string): Promise<void> {
  if (!(id && (await goneTo(page, server, "mission", id)))) {
    await visit(page, `${server.url}/mission${id ? `?mission=${id}` : ""}`);
  }
  // A page that shows text goes on showing text.
  else if (await page.$(".cm-content")) await press(page, "Steps");
  await page.waitForSelector(".row .verb");
}

/**
 * Goes to a document as Back and Forward do: in the page that is open, if it is this workplace and nothing stands over it.
 * That takes a tenth of the time of opening the page, and tries that nothing of the document before stays. The document
 * that is open is opened anew.
 * @returns whether it is open
 */
export async function goneTo(
  page: Page,
  server: RunningServer,
  kind: "mission" | "robot",
  id: string,
): Promise<boolean> {
  const here = await page.evaluate(
    (origin: string, path: string, asked: string) =>
      window.location.origin === origin &&
      window.location.pathname === path &&
      !window.location.search.includes(asked) &&
      document.querySelector("main") !== null &&
      document.querySelector("[role=dialog], [role=alertdialog], [role=menu], [role=listbox]") === null,
    server.url,
    `/${kind}`,
    id,
  );
  if (!here) return false;
  const { document: wanted } = await getJson(server, `/api/documents/${id}`);
  await page.evaluate((asked: string) => {
    (document.activeElement as HTMLElement | null)?.blur();
    window.history.pushState(null, "", asked);
    window.dispatchEvent(new PopStateEvent("popstate"));
  }, `/${kind}?${kind}=${id}`);
  await page.waitForFunction((title: string) => document.title.startsWith(title), {}, `${wanted.name} · `);
  return true;
}

/** Waits until the planned path of the text on screen is whole. */
export async function untilPlanned(page: Page): Promise<void> {
  await page.waitForSelector(".row .took");
}

export async function untilSaved(page: Page): Promise<void> {
  await page.waitForSelector('[data-save="saved"]');
}

/** The mission's text as the server has it, once the page has saved. */
export async function savedText(page: Page, server: RunningServer, id: string): Promise<string> {
  await untilSaved(page);
  const { draft, head } = await getJson(server, `/api/documents/${id}`);
  return draft?.text ?? head.text;
}

/** Words of all rows, one line each. */
export function rows(page: Page): Promise<string[]> {
  return page.$$eval(".row .words:not(.second)", (all) =>
    all.map((row) => (row.textContent ?? "").replace(/\s+/g, " ").trim()),
  );
}

export function took(page: Page): Promise<string[]> {
  return page.$$eval(".row .took", (all) => all.map((time) => time.textContent ?? ""));
}

/** Presses the button with this name, or what else has it. */
export async function press(page: Page, name: string, role = "button"): Promise<void> {
  await pressThere(page, { role, name });
}

export async function quickAdd(page: Page, words: string): Promise<void> {
  await page.click('[aria-label="Type a step"]');
  await page.keyboard.type(words);
  await page.keyboard.press("Enter");
}

/** Chooses the nth step (from 0) and gives the keys to the step list. */
export async function chooseStep(page: Page, index: number): Promise<void> {
  await page.focus(".steps");
  await page.keyboard.press("Home");
  for (let i = 0; i < index; i += 1) await page.keyboard.press("ArrowDown");
}

export async function withKey(
  page: Page,
  held: "Control" | "Alt" | "Shift",
  key:
    | "z"
    | "ArrowUp"
    | "ArrowDown"
    | "ArrowLeft"
    | "ArrowRight"
    | "Enter"
    | "a"
    | "d"
    | "f"
    | "c"
    | "v"
    | "x"
    | "/"
    | "End"
    | "k",
): Promise<void> {
  await page.keyboard.down(held);
  await page.keyboard.press(key);
  await page.keyboard.up(held);
}

/** Switches to the Text view and puts the cursor at the end of a line (from 1). */
export async function cursorAtEndOfLine(page: Page, line: number): Promise<void> {
  await page.waitForSelector(".cm-content");
  await page.focus(".cm-content");
  await withKey(page, "Control", "a");
  await page.keyboard.press("ArrowLeft");
  for (let i = 1; i < line; i += 1) await page.keyboard.press("ArrowDown");
  await page.keyboard.press("End");
}

/** Chooses from a menu or a list what says these words, by a press of the pointer. */
export async function choose(page: Page, selector: string, words: string): Promise<void> {
  await pressThere(page, { selector, words });
}

/** How many rehearsals of the shown study worked, once all are done: [worked, of]. */
export async function studyResult(page: Page): Promise<[number, number]> {
  await page.waitForFunction(
    () =>
      document.querySelector(".panel .rate") !== null && document.querySelector(".panel [role=progressbar]") === null,
    {},
  );
  const words = await page.$eval(".panel .rate", (rate) => rate.textContent ?? "");
  const [, worked = "0", of = "0"] = /(\d+) of (\d+);/.exec(words) ?? [];
  return [Number(worked), Number(of)];
}

/** Screen place of a point on the field that a canvas shows, px. */
export async function fieldPlace(page: Page, selector: string, xM: number, yM: number): Promise<[number, number]> {
  const [left, top, view] = await page.$eval(selector, (canvas) => {
    const box = canvas.getBoundingClientRect();
    return [box.left, box.top, (canvas as HTMLElement).dataset.view ?? ""] as const;
  });
  const [scale = 0, originX = 0, originY = 0] = view.split(" ").map(Number);
  return [left + originX + xM * scale, top + originY - yM * scale];
}
