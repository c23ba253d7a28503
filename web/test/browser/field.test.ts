// The Field workplace in a real browser: drawing by pointer and by keys, files, pictures, the probe, and a mission on it.
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import {
  type Field,
  homographyOf,
  mapPoint,
  openField,
  Probe,
  prepareMission,
  readRobot,
  rehearse,
  writePicturePng,
} from "@giddy-pebble/core";
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { some } from "../../../core/test/support/search.js";
import { BOARD_MARGIN, fitField } from "../../src/shared/field/fieldView.js";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser, visit } from "../support/browser.js";
import { getJson, type Loose, newMission, openMission, press, untilPlanned } from "../support/mission.js";
import { robotId } from "../support/robot.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;
let folder: string;

beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-fields-"));
  server = await startServer();
  browser = await launchBrowser();
});
afterAll(async () => {
  expect(browser.troubles).toEqual([]);
  await browser.close();
  await server.leave();
  rmSync(folder, { recursive: true, force: true });
});
/** Tests that go on in the page of the one before: each makes a field of its own in it. */
const SAME_PAGE = "changing what is drawn";
beforeEach(async ({ task }) => {
  if (task.suite?.name !== SAME_PAGE) page = await browser.clearedPage(page);
});

function says(words: string | RegExp): Promise<unknown> {
  const wanted = typeof words === "string" ? words.replace(/[.*+?^${}()|[\]\\]/g, "\\$&") : words.source;
  return page.waitForFunction((text) => new RegExp(text, "s").test(document.body.textContent ?? ""), {}, wanted);
}

/** A new field from a ready start, open. @returns its id */
async function newField(start: string, name: string): Promise<string> {
  if (!page.url().startsWith(`${server.url}/field`)) await visit(page, `${server.url}/field`);
  await page.waitForSelector(".fieldbench");
  if (!(await page.$('[aria-label="Name of the new field"]'))) await press(page, "Fields");
  await page.waitForSelector('[aria-label="Name of the new field"]');
  await page.type('[aria-label="Name of the new field"]', name);
  await press(page, start);
  await page.waitForFunction(
    (wanted) => document.querySelector<HTMLInputElement>('[aria-label="Name of the field"]')?.value === wanted,
    {},
    name,
  );
  const { documents } = (await getJson(server, "/api/documents?kind=field")) as Loose;
  return documents.find((one: Loose) => one.name === name).id;
}

/** The field as the server has it, once the page has saved. */
async function saved(id: string): Promise<Field> {
  await page.waitForSelector('[data-save="saved"]');
  const { draft, head } = (await getJson(server, `/api/documents/${id}`)) as Loose;
  const read = openField(draft?.body ?? head.body);
  if (!read.ok) throw new Error(read.problems.join());
  return read.document;
}

/** Waits until the field is as it should be: saving takes a moment. */
async function until(id: string, fits: (field: Field) => boolean): Promise<Field> {
  const end = Date.now() + 15_000;
  for (;;) {
    const field = await saved(id);
    if (fits(field)) return field;
    if (Date.now() > end) throw new Error(`the field never was as wanted: ${JSON.stringify(field).slice(0, 600)}`);
    await new Promise((resolve) => setTimeout(resolve, 60));
  }
}

/** Where a place of the field is on the page, px. */
async function px(xM: number, yM: number, size = { widthM: 2.4, heightM: 1.2 }): Promise<[number, number]> {
  const box = await page.$eval(".board canvas", (one) => {
    const { left, top, width, height } = one.getBoundingClientRect();
    return { left, top, width, height };
  });
  const view = fitField(box.width, box.height, size, BOARD_MARGIN);
  return [box.left + view.originX + xM * view.scale, box.top + view.originY - yM * view.scale];
}

async function click(xM: number, yM: number): Promise<void> {
  const [x, y] = await px(xM, yM);
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.up();
}

async function drag(
  from: readonly [number, number],
  to: readonly [number, number],
  keys: "Shift" | null = null,
): Promise<void> {
  const [a, b] = [await px(...from), await px(...to)];
  await page.mouse.move(...a);
  if (keys) await page.keyboard.down(keys);
  await page.mouse.down();
  await page.mouse.move((a[0] + b[0]) / 2, (a[1] + b[1]) / 2);
  await page.mouse.move(...b);
  await page.mouse.up();
  if (keys) await page.keyboard.up(keys);
}

async function ctrl(key: string, shift = false): Promise<void> {
  await page.keyboard.down("Control");
  if (shift) await page.keyboard.down("Shift");
  await page.keyboard.press(key as "a");
  if (shift) await page.keyboard.up("Shift");
  await page.keyboard.up("Control");
}

async function choose(name: string): Promise<void> {
  await page.evaluate((wanted) => {
    const row = [...document.querySelectorAll<HTMLElement>(".parts .part")].find(
      (one) => one.querySelector(".name")?.textContent === wanted,
    );
    if (!row) throw new Error(`nothing is called ${wanted}`);
    row.click();
  }, name);
}

/** Types a quantity of the inspector. */
async function quantity(label: string, text: string): Promise<void> {
  await page.click(`.inspector [role="spinbutton"][aria-label="${label}"]`);
  await page.waitForSelector(`.inspector input[aria-label="${label}"]`);
  await page.keyboard.down("Control");
  await page.keyboard.press("a");
  await page.keyboard.up("Control");
  await page.keyboard.type(text);
  await page.keyboard.press("Enter");
}

function follower(field: string): string {
  return `cairn 1
robot "Drizzle"
field "${field}"
begin "begin"
goal untouched and clock < 60 s

mission
  move arm to 80 deg
  follow line on centre with floor at 16 cm/s until eye.distance < 12 cm limit 30 s
  turn left 50 deg
  go 24 cm
  turn right 50 deg
  go 12 cm
  turn right 40 deg
  go 40 cm at 12 cm/s until floor.right.dark
  turn left 30 deg
  follow line on centre with floor at 16 cm/s for 15 s
  finish
`;
}

function drizzle() {
  const read = readRobot(JSON.parse(readFileSync(`${process.env.GIDDY_DEMO}/drizzle.robot.json`, "utf8")));
  if (!read.ok) throw new Error(read.problems.join());
  return read.document;
}

/** How many of ten rehearsals of the follower meet the goal. */
function worked(text: string, field: Field): number {
  const prepared = prepareMission(text, drizzle(), field);
  return Array.from({ length: 10 }, (_, i) => rehearse(prepared, { seed: i + 1, ideal: false }).summary.success).filter(
    Boolean,
  ).length;
}

/** Places along an oval of straights and half circles, counter-clockwise from the middle of the lower straight, m. */
function oval(): [number, number][] {
  const points: [number, number][] = [];
  for (const x of [1.2, 1.45, 1.7]) points.push([x, 0.2]);
  for (const deg of [-90, -60, -30, 0, 30, 60, 90])
    points.push([1.85 + 0.4 * Math.cos((deg * Math.PI) / 180), 0.6 + 0.4 * Math.sin((deg * Math.PI) / 180)]);
  for (const x of [1.7, 1.2, 0.7]) points.push([x, 1.0]);
  for (const deg of [90, 120, 150, 180, 210, 240, 270])
    points.push([0.55 + 0.4 * Math.cos((deg * Math.PI) / 180), 0.6 + 0.4 * Math.sin((deg * Math.PI) / 180)]);
  for (const x of [0.7, 0.95]) points.push([x, 0.2]);
  return points.map(([x, y]) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]);
}

describe("a new user draws a course and drives it", () => {
  test("by pointer: a table, an oval with a gap, two boulders; the follower goes round one and finds the line again", async () => {
    const id = await newField("Empty table", "By pointer");
    await page.keyboard.press("Escape");
    await press(page, "Curve");
    for (const [x, y] of [...oval(), oval()[0] as [number, number]]) await click(x, y);
    await page.keyboard.press("Enter");
    await says("a smooth curve of 22 points, closed");
    await press(page, "Add a gap");
    await quantity("First gap after", "3 m");
    await quantity("Gap length", "10 cm");
    await press(page, "Boulder");
    await drag([1.75, 0.2], [1.8, 0.2]);
    await drag([1.2, 0.6], [1.26, 0.6]);
    await press(page, "Choose");
    await choose("begin");
    await quantity("Along", "120 cm");
    await quantity("Up", "20 cm");
    const field = await until(id, ({ begins, boulders }) => begins[0]?.yM === 0.2 && boulders.length === 2);
    expect(field.size).toMatchObject({ widthM: 2.4, heightM: 1.2 });
    expect(field.boulders.map(({ radiusM }) => radiusM)).toEqual([expect.closeTo(0.05, 2), expect.closeTo(0.06, 2)]);
    expect(field.marks[0]).toMatchObject({ kind: "curve", closed: true, gaps: [{ atM: 3, lengthM: 0.1 }] });
    expect(await axe(page)).toEqual([]);
    expect(worked(follower("By pointer"), field)).toBeGreaterThanOrEqual(9);
    await choose("Size, edge");
    await press(page, "Write a mission on it");
    await page.waitForSelector(".row .verb");
    await says("On By pointer");
    const begun = (await getJson(server, "/api/documents?kind=mission")) as Loose;
    expect(begun.documents.find((one: Loose) => one.name === "On By pointer")).toMatchObject({ field: "By pointer" });
    const mission = await newMission(server, "Round the boulder", follower("By pointer"));
    await openMission(page, server, mission);
    await untilPlanned(page);
    await says("240 × 120 cm");
  });

  test("by keys alone: the same course from typed numbers", async () => {
    const id = await newField("Empty table", "By keys");
    await page.keyboard.press("Escape");
    /** One point: a digit opens the numbers, Tab goes to the second, Enter takes them. */
    const point = async (first: string, second: string) => {
      await page.keyboard.type(first);
      await page.keyboard.press("Tab");
      await page.keyboard.type(second);
      await page.keyboard.press("Enter");
    };
    await page.keyboard.press("c");
    const places = [...oval(), oval()[0] as [number, number]];
    for (const [i, at] of places.entries()) {
      const before = places[i - 1];
      if (!before) await point(`${at[0] * 100}cm`, `${at[1] * 100}cm`);
      else {
        const [dx, dy] = [at[0] - before[0], at[1] - before[1]];
        const deg = (Math.atan2(dy, dx) * 180) / Math.PI;
        await point(`${(Math.hypot(dx, dy) * 100).toFixed(4)}cm`, `${deg.toFixed(5)}deg`);
      }
    }
    await page.keyboard.press("Escape");
    await page.keyboard.press("Enter");
    await says("closed");
    await page.keyboard.press("b");
    await point("175cm", "20cm");
    await page.keyboard.press("b");
    await point("120cm", "60cm");
    await page.keyboard.press("v");
    const field = await until(id, ({ boulders }) => boulders.length === 2);
    const [mark] = field.marks;
    expect(mark).toMatchObject({ kind: "curve", closed: true });
    expect(mark?.kind === "curve" ? mark.nodes.map(({ atM }) => atM) : []).toEqual(
      oval().map(([x, y]) => [expect.closeTo(x, 3), expect.closeTo(y, 3)]),
    );
    // The full stop walks on from the boulder to the begin place.
    await page.keyboard.press(".");
    await says("a start place");
  });

  test("a number of the floor that is dragged is one step back, however often it changed", async () => {
    const id = await newField("Empty table", "Wider");
    await choose("Size, edge");
    const spin = await page.waitForSelector('[role="spinbutton"][aria-label="Width"]');
    const box = await spin?.boundingBox();
    if (!box) throw new Error("no number to drag");
    await page.mouse.move(box.x + 4, box.y + 4);
    await page.mouse.down();
    await page.mouse.move(box.x + 64, box.y + 4, { steps: 10 });
    await page.mouse.up();
    await until(id, ({ size }) => size.widthM === 2.5);
    await press(page, "Undo");
    await until(id, ({ size }) => size.widthM === 2.4);
  });
});

describe(SAME_PAGE, () => {
  test("choosing, moving, arrows, copies, alignment and undo, each in one step", async () => {
    const id = await newField("Slalom", "Posts");
    await page.keyboard.press("Escape");
    const size = { widthM: 3, heightM: 1.2 };
    const at = (x: number, y: number) => px(x, y, size);
    const [x, y] = await at(0.5, 0.6);
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.up();
    await says("a boulder");
    for (let i = 0; i < 3; i += 1) await page.keyboard.press("ArrowUp");
    await until(id, ({ boulders }) => Math.abs((boulders[0]?.yM ?? 0) - 0.603) < 1e-6);
    await ctrl("z");
    await says("Undid: moving post 1");
    await until(id, ({ boulders }) => boulders[0]?.yM === 0.6);
    const [tx, ty] = await at(0.5, 0.9);
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move((x + tx) / 2, (y + ty) / 2);
    await page.mouse.move(tx, ty);
    await page.mouse.up();
    await until(id, ({ boulders }) => Math.abs((boulders[0]?.yM ?? 0) - 0.9) < 0.011);
    await ctrl("a");
    await says("7 things");
    await press(page, "Bottom");
    await ctrl("z");
    await choose("post 2");
    await ctrl("d");
    await until(id, ({ boulders }) => boulders.length === 6);
    await ctrl("c");
    await page.keyboard.press("Delete");
    await until(id, ({ boulders }) => boulders.length === 5);
    const other = await newField("Empty table", "Pasted onto");
    await page.keyboard.press("Escape");
    await ctrl("v");
    const pasted = await until(other, ({ boulders }) => boulders.length === 1);
    expect(pasted.boulders[0]?.name).toBe("post 6");
    await ctrl("z");
    await ctrl("z", true);
    await says("Redid: pasting");
    await choose("post 6");
    await page.keyboard.press("k");
    await says("Locked");
  });

  test("a ready start is made anew by its numbers, until something is drawn", async () => {
    const id = await newField("Oval line", "Round");
    await quantity("Curve radius", "25 cm");
    const round = await until(id, ({ made }) => made?.numbers.radius === 0.25);
    expect(round.marks).toHaveLength(1);
    await quantity("Crossings", "2");
    await until(id, ({ marks }) => marks.length === 3);
    await choose("line");
    await quantity("Line width", "30 mm");
    const drawn = await until(id, ({ marks }) => marks[0]?.kind === "curve" && marks[0].widthM === 0.03);
    expect(drawn.made).toBeUndefined();
    await quantity("Line width", "9 kg");
    await says(/kg is a mass/);
    await page.keyboard.press("Escape");
  });

  test("what is wrong is said at the thing, and fixed by one press", async () => {
    const id = await newField("Push yard", "Faults");
    await choose("box 2");
    await quantity("Up", "37.5 cm");
    await says("stands inside box 1");
    await press(page, "Move it to free floor");
    await page.waitForFunction(() => !document.body.textContent?.includes("stands inside"));
    const field = await until(id, ({ loads }) => loads[1]?.yM !== 0.375 || loads[1]?.xM !== 1.05);
    expect(field.loads).toHaveLength(3);
    /** Gives the chosen load a name. */
    const call = async (one: string, name: string) => {
      await choose(one);
      await page.click('[aria-label="Name"]', { count: 3 });
      await page.keyboard.type(name);
      await page.keyboard.press("Enter");
    };
    await call("box 3", "crate");
    await until(id, ({ loads }) => loads[2]?.name === "crate");
    // A name that is taken gets a number, so that a mission knows which is meant.
    await call("box 1", "crate");
    await until(id, ({ loads }) => loads[0]?.name === "crate 2");
  });

  test("a name goes into the missions that name the field; versions are compared and restored", async () => {
    const id = await newField("Corridor with doors", "Halls");
    const mission = await newMission(
      server,
      "In the halls",
      'cairn 1\nrobot "Drizzle"\nfield "Halls"\nmission\n  go 10 cm\n',
    );
    await page.click('[aria-label="Name of the field"]', { count: 3 });
    await page.keyboard.type("Corridors");
    await page.keyboard.press("Enter");
    await says("It is called Corridors now");
    const { head } = (await getJson(server, `/api/documents/${mission}`)) as Loose;
    expect(head.text).toContain('field "Corridors"');
    await choose("Size, edge");
    await quantity("Doors", "2");
    await until(id, ({ made }) => made?.numbers.doors === 2);
    await press(page, "version 2");
    await says("room 3");
    await page.waitForSelector(".differences");
    expect(await page.$eval(".differences", (one) => one.textContent)).toContain("removed");
    expect(await axe(page)).toEqual([]);
    await press(page, "Restore");
    await until(id, ({ made }) => made?.numbers.doors === 3);
  });
});

describe("files", () => {
  async function give(name: string, content: string | Uint8Array): Promise<void> {
    const file = path.join(folder, name);
    writeFileSync(file, content);
    if (!(await page.$('[aria-label="Field file"]'))) await press(page, "Fields");
    const input = await page.waitForSelector('[aria-label="Field file"]');
    await (input as unknown as { uploadFile(path: string): Promise<void> }).uploadFile(file);
  }

  test("a drawing asks what its colours are, says what is left out, and opens as a field", async () => {
    await visit(page, `${server.url}/field`);
    await page.waitForSelector(".fieldbench");
    await give(
      "yard.svg",
      '<svg xmlns="http://www.w3.org/2000/svg" width="1200mm" height="800mm" viewBox="0 0 1200 800"><g id="fences"><path d="M100 100H500V400" fill="none" stroke="#aa5500" stroke-width="10"/></g><path d="M600 700H1100" stroke="#000000" stroke-width="20"/><text>yard</text></svg>',
    );
    await says("120 × 80 cm, with 2 marks");
    await says("Left out: 1 text.");
    await page.select('[aria-label="What group fences becomes"]', "wall");
    await says("1 marks, 2 walls");
    expect(await axe(page)).toEqual([]);
    await press(page, "Open as a field");
    await page.waitForFunction(
      () => document.querySelector<HTMLInputElement>('[aria-label="Name of the field"]')?.value === "yard",
    );
    await says("There is no start place");
    await press(page, "Add a start place");
    await give("broken.svg", "<svg><g>");
    await says("broken.svg: This is not sound XML");
    await give("notes.txt", "hello");
    await says("neither a drawing, a picture nor JSON");
  });

  test("a picture of a mat is straightened by its corners, is there after a reload, and sensors see it", async () => {
    const id = await newField("Empty table", "Photographed");
    const [w, h] = [500, 300];
    const corners = [
      [60, 270],
      [450, 255],
      [420, 40],
      [90, 25],
    ] as const;
    const map = homographyOf(corners, [
      [0, 0],
      [2.4, 0],
      [2.4, 1.2],
      [0, 1.2],
    ]);
    if (!map) throw new Error("no map");
    const cells = new Uint8Array(3 * w * h);
    for (let y = 0; y < h; y += 1)
      for (let x = 0; x < w; x += 1) {
        const [u] = mapPoint(map, [x + 0.5, y + 0.5]);
        cells.fill(u > 1.2 ? 30 : 225, 3 * ((h - 1 - y) * w + x), 3 * ((h - 1 - y) * w + x) + 3);
      }
    await give("mat.png", writePicturePng({ columns: w, rows: h, cells }));
    await says("Drag the four rings");
    const rings = await page.$$(".matpicture circle");
    const box = await page.$eval(".matpicture svg", (one) => {
      const { left, top, width, height } = one.getBoundingClientRect();
      return { left, top, width, height };
    });
    for (const [i, [cx, cy]] of corners.entries()) {
      const from = await rings[i]?.boundingBox();
      if (!from) throw new Error("no ring");
      await page.mouse.move(from.x + from.width / 2, from.y + from.height / 2);
      await page.mouse.down();
      await page.mouse.move(box.left + (cx / w) * box.width, box.top + (cy / h) * box.height, { steps: 3 });
      await page.mouse.up();
    }
    expect(await axe(page)).toEqual([]);
    await press(page, "Lay it as the floor");
    const field = await until(id, ({ picture }) => picture !== undefined);
    expect(field.picture).toMatchObject({ columns: 1200, rows: 600 });
    expect(field.picture?.png).toBeUndefined();
    const asset = await fetch(`${server.url}/api/assets/${field.picture?.asset}`);
    expect([asset.status, asset.headers.get("content-type")]).toEqual([200, "image/png"]);
    await page.reload();
    await page.waitForSelector(".fieldbench");
    await press(page, "Put a robot down");
    await says("What Drizzle would see here");
    await says(/floor left light\s*\d/);
    const light = async (x: string) => {
      await page.click('.probe [role="spinbutton"][aria-label="x"]');
      await page.waitForSelector('.probe input[aria-label="x"]');
      await ctrl("a");
      await page.keyboard.type(x);
      await page.keyboard.press("Enter");
      await page.waitForFunction(
        (wanted) => document.querySelector('.probe [role="spinbutton"][aria-label="x"]')?.textContent === wanted,
        {},
        x,
      );
      return page;
    };
    await light("60 cm");
    await page.waitForFunction(
      () => Number.parseFloat(document.querySelector(".lightrow .mono")?.textContent ?? "0") > 60,
    );
    await light("160 cm");
    await page.waitForFunction(
      () => Number.parseFloat(document.querySelector(".lightrow .mono")?.textContent ?? "99") < 10,
    );
  });
});

describe("the probe", () => {
  test("reads what the core reads at that place, by pointer too, and gives the robot its threshold", async () => {
    await visit(page, `${server.url}/field`);
    await page.waitForSelector(".fieldbench");
    await press(page, "Fields");
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLElement>(".kept button")]
        .find((one) => one.textContent?.includes("Fellside"))
        ?.click(),
    );
    await page.waitForFunction(
      () => document.querySelector<HTMLInputElement>('[aria-label="Name of the field"]')?.value === "Fellside",
    );
    await press(page, "Put a robot down");
    await says("What Drizzle would see here");
    await says(/dark below \d+ %/);
    const { head } = (await getJson(
      server,
      `/api/documents/${(await getJson(server, "/api/documents?kind=field")).documents.find((one: Loose) => one.name === "Fellside").id}`,
    )) as Loose;
    const read = openField(head.body);
    if (!read.ok) throw new Error("no Fellside");
    const begin = read.document.begins[0];
    if (!begin) throw new Error("no start place");
    const wanted = new Probe(drizzle(), read.document).at(begin);
    const words = (id: string) => wanted.readings.find((one) => one.id === id)?.words ?? "";
    await says(new RegExp(`floor left light\\s*${words("floor.left.light").replace(".", "\\.")}`));
    await says(new RegExp(`eye distance\\s*${words("eye.distance").replace(".", "\\.")}, boulder 5`));
    const size = { widthM: 2.1, heightM: 1.5 };
    const [a, b] = [await px(begin.xM, begin.yM, size), await px(0.62, 0.64, size)];
    await page.mouse.move(...a);
    await page.mouse.down();
    await page.mouse.move((a[0] + b[0]) / 2, (a[1] + b[1]) / 2);
    await page.mouse.move(...b, { steps: 12 });
    await page.mouse.up();
    await page.waitForFunction(() =>
      /Take \d+ % as threshold/.test(document.querySelector(".probe")?.textContent ?? ""),
    );
    expect(await axe(page)).toEqual([]);
    const button = await page.waitForFunction(() =>
      [...document.querySelectorAll<HTMLElement>(".probe button")].find((one) =>
        /^Take \d+ %/.test(one.textContent ?? ""),
      ),
    );
    await (button as unknown as { click(): Promise<void> }).click();
    await says(/Drizzle: floor is dark below [\d.]+ % now/);
    const robot = (await getJson(server, `/api/documents/${await robotId(server, "Drizzle")}`)) as Loose;
    const dark = robot.head.body.sensors.find((one: Loose) => one.kind === "floor").dark;
    expect([dark.source, dark.method, robot.head.reason]).toEqual([
      "typed",
      "probe on Fellside",
      expect.stringMatching(/^dark below [\d.]+ % from the probe$/),
    ]);
    expect(dark.value).toBeGreaterThan(0.2);
    await press(page, "Take it away");
    await says("Put one of your robots down");
  });
});

describe("widths and schemes", () => {
  test.each(some([360, 768, 1280], 2))(
    "at %i px nothing sticks out, and axe finds nothing, light and dark",
    async (width) => {
      await page.setViewport({ width, height: 800 });
      for (const value of ["light", "dark"]) {
        await page.emulateMediaFeatures([{ name: "prefers-color-scheme", value }]);
        await visit(page, `${server.url}/field`);
        await page.waitForSelector(".fieldbench");
        await press(page, "Put a robot down");
        await says(/dark below \d+ %/);
        expect(await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)).toBeLessThanOrEqual(
          0,
        );
        expect(await axe(page)).toEqual([]);
      }
    },
  );
});
