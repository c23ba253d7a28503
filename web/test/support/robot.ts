// What the browser tests do to the Robot workplace, in a person's words.
import type { Page } from "puppeteer-core";
import { visit } from "./browser.js";
import { getJson, goneTo, type Loose } from "./mission.js";
import type { RunningServer } from "./server.js";

export async function robotId(server: RunningServer, name: string): Promise<string> {
  const { documents } = await getJson(server, "/api/documents?kind=robot");
  const found = documents.find((one: Loose) => one.name === name);
  if (!found) throw new Error(`no robot called ${name}`);
  return found.id;
}

export async function makeRobot(server: RunningServer, name: string, body: unknown): Promise<string> {
  const made = await fetch(`${server.url}/api/documents`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ kind: "robot", name, body }),
  });
  return ((await made.json()) as Loose).document.id;
}

/** A copy of a demo robot of its own, so that tests do not meet. */
export async function copyOf(server: RunningServer, original: string, name: string): Promise<string> {
  const { head } = await getJson(server, `/api/documents/${await robotId(server, original)}`);
  return makeRobot(server, name, { ...head.body, name });
}

export async function openRobotPage(page: Page, server: RunningServer, id?: string): Promise<void> {
  if (!(id && (await goneTo(page, server, "robot", id)))) {
    await visit(page, `${server.url}/robot${id ? `?robot=${id}` : ""}`);
  }
  await page.waitForSelector(".inspector h2");
}

/** The robot as the server has it, once the page has saved. */
export async function savedRobot(page: Page, server: RunningServer, id: string): Promise<Loose> {
  await page.waitForSelector('[data-save="saved"]');
  const { draft, head } = await getJson(server, `/api/documents/${id}`);
  return draft?.body ?? head.body;
}

export async function choosePart(page: Page, title: string): Promise<void> {
  await page.evaluate((wanted) => {
    const button = [...document.querySelectorAll<HTMLElement>(".part")].find(
      (part) => part.querySelector(".name")?.textContent === wanted,
    );
    if (!button) throw new Error(`no part ${wanted}`);
    button.click();
  }, title);
  await page.waitForFunction((wanted) => document.querySelector(".inspector h2")?.textContent === wanted, {}, title);
}

/** Types a value into a quantity of the inspector. */
export async function typeQuantity(page: Page, label: string, text: string): Promise<void> {
  const field = await page.waitForSelector(`.inspector [role="spinbutton"][aria-label="${label}"]`);
  await field?.focus();
  await page.keyboard.press("Enter");
  await page.waitForSelector(`.inspector input[aria-label="${label}"]`);
  await page.keyboard.down("Control");
  await page.keyboard.press("a");
  await page.keyboard.up("Control");
  await page.keyboard.type(text);
  await page.keyboard.press("Enter");
}

export function text(page: Page, selector: string): Promise<string> {
  return page.$eval(selector, (element) => (element.textContent ?? "").replace(/\s+/g, " ").trim());
}
