// The Robot workplace in a real browser: drawing, inspector, wiring, gears, revisions, files, faults.
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { axe as axeOf } from "../support/axe.js";
import { launchBrowser, named, type TestBrowser, visit } from "../support/browser.js";
import { getJson, type Loose, newMission, press } from "../support/mission.js";
import {
  choosePart,
  copyOf,
  makeRobot,
  openRobotPage,
  robotId,
  savedRobot,
  text,
  typeQuantity,
} from "../support/robot.js";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
let browser: TestBrowser;
let page: Page;
beforeAll(async () => {
  server = await startServer();
  browser = await launchBrowser();
  page = await browser.newPage();
});
afterAll(async () => {
  await browser?.close();
  await server?.leave();
});

const axe = () => axeOf(page);

describe("the drawing", () => {
  test("shows every demo robot with its parts, loads and no trouble", async () => {
    for (const name of ["Drizzle", "Gust", "Sleet", "Fog"]) {
      await openRobotPage(page, server, await robotId(server, name));
      expect(await page.$eval(".robotname", (input) => (input as HTMLInputElement).value)).toBe(name);
      expect((await page.$$(".loads text")).length).toBeGreaterThan(2);
      expect(await page.$$(".part .sr")).toEqual([]);
    }
    expect(browser.troubles).toEqual([]);
  });

  test("a part is dragged with snapping to the middle, and undone in one step", async () => {
    const id = await copyOf(server, "Drizzle", "Dragged");
    await openRobotPage(page, server, id);
    const eye = await named(page, "button", "Eye");
    const box = await (await page.$('.piece[aria-label="Eye"] .eye'))?.boundingBox();
    if (!box) throw new Error("no distance sensor");
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x - 30, y - 25, { steps: 4 });
    await page.mouse.up();
    const moved = (await savedRobot(page, server, id)).sensors.find((sensor: Loose) => sensor.name === "eye");
    expect(moved.xM).toBeLessThan(0.07);
    expect(moved.yM).toBeGreaterThan(0.008);
    // Whole millimetres.
    expect(Math.abs(moved.xM * 1000 - Math.round(moved.xM * 1000))).toBeLessThan(1e-6);
    await eye.evaluate((piece) => (piece as SVGElement).focus());
    await page.keyboard.press("ArrowRight");
    await page.keyboard.down("Shift");
    await page.keyboard.press("ArrowUp");
    await page.keyboard.up("Shift");
    const keyed = (await savedRobot(page, server, id)).sensors.find((sensor: Loose) => sensor.name === "eye");
    expect(keyed.xM).toBeCloseTo(moved.xM + 0.001, 9);
    expect(keyed.yM).toBeCloseTo(moved.yM + 0.01, 9);
    const undone = async () => {
      await press(page, "Undo");
      return (await savedRobot(page, server, id)).sensors.find((sensor: Loose) => sensor.name === "eye");
    };
    // Keys that follow one another quickly are one step. A busy computer may take longer between them: then they are two.
    let back = await undone();
    if (back.yM !== moved.yM) back = await undone();
    expect([back.xM, back.yM]).toEqual([moved.xM, moved.yM]);
    back = await undone();
    expect([back.xM, back.yM]).toEqual([0.08, 0]);
  });

  test("in the mirror the other wheel follows, and a dimension line edits its number", async () => {
    const id = await copyOf(server, "Drizzle", "Mirrored");
    await openRobotPage(page, server, id);
    await choosePart(page, "Left wheel");
    await typeQuantity(page, "Diameter", "2 in");
    expect((await savedRobot(page, server, id)).wheels.map((wheel: Loose) => wheel.diameterM)).toEqual([
      0.0508, 0.0508,
    ]);
    await press(page, "Mirror");
    await typeQuantity(page, "Diameter", "60 mm");
    expect((await savedRobot(page, server, id)).wheels.map((wheel: Loose) => wheel.diameterM)).toEqual([0.06, 0.0508]);
    await press(page, "Mirror");
    await page.click('.dimension [aria-label^="Track width"]');
    await page.keyboard.type("150 mm");
    await page.keyboard.press("Enter");
    expect((await savedRobot(page, server, id)).wheels.map((wheel: Loose) => wheel.yM)).toEqual([0.075, -0.075]);
  });

  test("a value out of its range is refused with a reason, and stays as typed", async () => {
    await openRobotPage(page, server, await copyOf(server, "Drizzle", "Refused"));
    await choosePart(page, "Left wheel");
    await typeQuantity(page, "Width", "2 m");
    expect(await text(page, ".inspector .bubble")).toContain("Width must be at most 300 mm");
    await page.keyboard.press("Escape");
  });

  test("the centre of mass is moved by hand, the loads follow, and past the wheels it is said to tip", async () => {
    const id = await copyOf(server, "Drizzle", "Balanced");
    await openRobotPage(page, server, id);
    const loads = () => page.$$eval(".loads text", (all) => all.map((one) => Number.parseFloat(one.textContent ?? "")));
    const before = await loads();
    await (await named(page, "button", "Centre of mass")).evaluate((piece) => (piece as SVGElement).focus());
    await page.keyboard.down("Shift");
    await page.keyboard.press("ArrowLeft");
    await page.keyboard.up("Shift");
    const after = await loads();
    expect(after[0]).toBeLessThan(before[0] as number);
    expect(after[2]).toBeGreaterThan(before[2] as number);
    await page.keyboard.down("Shift");
    for (let i = 0; i < 4; i += 1) await page.keyboard.press("ArrowRight");
    await page.keyboard.up("Shift");
    await choosePart(page, "Chassis");
    expect(await text(page, ".inspector .note.error")).toContain("tips over");
    expect(await page.$(".chassis.trouble")).not.toBeNull();
  });

  test("the side drawing shows heights and edits them", async () => {
    const id = await copyOf(server, "Drizzle", "Sideways");
    await openRobotPage(page, server, id);
    await page.keyboard.press("v");
    await page.waitForSelector('[aria-label="Side of the robot, from its right"]');
    await page.click('.dimension [aria-label^="Height of the robot"]');
    await page.keyboard.type("120 mm");
    await page.keyboard.press("Enter");
    expect((await savedRobot(page, server, id)).chassis.heightM).toBe(0.12);
  });
});

describe("what it means", () => {
  test("figures follow the numbers, open their formula, and the bench compares gears", async () => {
    const id = await copyOf(server, "Gust", "Geared");
    await openRobotPage(page, server, id);
    await choosePart(page, "Left wheel");
    expect(await text(page, ".means")).toContain("106 cm/s");
    await page.click(".figure .foldline");
    expect(await text(page, ".formula")).toContain("v = (V − F / s) ÷ e");
    expect(await text(page, ".note.warning")).toContain("starts unevenly");
    await page.click(".stagemore .foldline");
    await typeQuantity(page, "Efficiency, stage 1", "80 %");
    expect((await savedRobot(page, server, id)).wheels.map((wheel: Loose) => wheel.stages[0].efficiency)).toEqual([
      0.8, 0.8,
    ]);
    await press(page, "Undo");
    await page.keyboard.press("g");
    await press(page, "Compare another choice");
    const teeth = await named(page, "spinbutton", "Choice 2, stage 1, driven teeth");
    await teeth.click({ count: 3 });
    await page.keyboard.type("30");
    await page.waitForFunction(() => document.querySelectorAll(".gearchoice .verdict:not(.caution)").length === 1);
    await press(page, "Fit this");
    expect((await savedRobot(page, server, id)).wheels.map((wheel: Loose) => wheel.stages[0].drivenTeeth)).toEqual([
      30, 30,
    ]);
    expect(await page.$$eval(".gearchart path", (paths) => paths.length)).toBeGreaterThan(1);
  });
});

describe("wiring", () => {
  beforeAll(async () => {
    page = await browser.freshPage(page);
  });

  test("a wire is dragged onto a socket, a wrong one is named with its mend, a proposal puts it right", async () => {
    const id = await copyOf(server, "Drizzle", "Wired");
    await openRobotPage(page, server, id);
    const handle = await (await named(page, "button", "Drag eye plug")).boundingBox();
    const socket = await (await page.$('[data-terminal="8"] ellipse'))?.boundingBox();
    if (!handle || !socket) throw new Error("nothing to drag");
    await page.mouse.move(handle.x + 5, handle.y + 5);
    await page.mouse.down();
    await page.mouse.move(socket.x + socket.width / 2, socket.y + socket.height / 2, { steps: 5 });
    await page.mouse.up();
    await page.waitForSelector(".wiringnotes .error");
    expect(await text(page, ".wiringnotes .error")).toBe(
      "Socket 8 gives 3.3 V, the eye needs 5 V. Use socket 9 or 10.",
    );
    expect((await savedRobot(page, server, id)).wiring).toContainEqual({ part: "eye", terminal: "plug", to: "8" });
    await press(page, "Propose the wiring");
    await page.waitForFunction(() => document.querySelectorAll(".wiringnotes .error").length === 0);
    expect((await savedRobot(page, server, id)).wiring).toContainEqual({ part: "eye", terminal: "plug", to: "9" });
  });

  test("another board takes the wires off, and the sheet lists every terminal", async () => {
    const id = await copyOf(server, "Drizzle", "Pinned");
    await openRobotPage(page, server, id);
    await choosePart(page, "Board");
    await page.select(".inspector select", "eight-bit");
    await page.waitForSelector(".wiringnotes .error");
    await press(page, "Propose the wiring");
    await page.waitForFunction(() => document.querySelectorAll(".sheet tbody tr").length > 15);
    await page.emulateMediaType("print");
    expect(await page.$eval(".sheet", (sheet) => getComputedStyle(sheet).display)).toBe("block");
    expect(await page.$eval(".robotbench", (bench) => getComputedStyle(bench).display)).toBe("none");
    await page.emulateMediaType("screen");
  });
});

describe("versions and files", () => {
  test("a version is named, compared with only what differs, and restored", async () => {
    const id = await copyOf(server, "Drizzle", "Revised");
    await openRobotPage(page, server, id);
    await choosePart(page, "Left wheel");
    await typeQuantity(page, "Diameter", "70 mm");
    await page.click(".revbadge.mono");
    await (await named(page, "textbox", "Name of the version")).type("tall tyres");
    await (await named(page, "textbox", "Reason")).type("to clear the cable");
    await press(page, "Keep as a version");
    await page.waitForFunction(() => document.querySelectorAll(".revisionlist li").length === 2);
    expect(await text(page, ".revisionlist li")).toContain("tall tyres");
    await page.select('[aria-label="Earlier one"]', "1");
    await page.waitForSelector(".differences td");
    const rows = await page.$$eval(".differences tbody tr", (all) =>
      all.map((row) => [...row.cells].map((cell) => cell.textContent)),
    );
    expect(rows).toEqual([
      ["left wheel", "Diameter", "62 mm", "70 mm"],
      ["right wheel", "Diameter", "62 mm", "70 mm"],
    ]);
    await page.click(".revisionlist li:nth-child(2) button");
    await page.waitForFunction(() => document.querySelectorAll(".revisionlist li").length === 3);
    const { head } = await getJson(server, `/api/documents/${id}`);
    expect([head.number, head.body.wheels[0].diameterM, head.reason]).toEqual([3, 0.062, "restored from version 1"]);
  });

  test("a robot goes out as a file and comes in again as another; bad files are refused in words", async () => {
    const folder = mkdtempSync(path.join(os.tmpdir(), "giddy-files-"));
    const cdp = await page.createCDPSession();
    await cdp.send("Browser.setDownloadBehavior", { behavior: "allow", downloadPath: folder, eventsEnabled: true });
    await openRobotPage(page, server, await robotId(server, "Fog"));
    await page.click('[title^="Other robots"]');
    const done = new Promise<void>((resolve) =>
      cdp.on("Browser.downloadProgress", (event) => event.state === "completed" && resolve()),
    );
    await press(page, "Save as a file");
    await done;
    const [file = ""] = readdirSync(folder);
    expect(file).toBe("fog.robot.json");
    expect(JSON.parse(readFileSync(path.join(folder, file), "utf8"))).toMatchObject({
      format: "giddy-pebble/robot",
      version: 3,
      name: "Fog",
    });
    const input = await page.$('input[type="file"]');
    const bad = path.join(folder, "bad.json");
    for (const [content, words] of [
      ["{", "is not JSON"],
      ['{"format":"cake"}', "not a giddy-pebble/robot document"],
      [`"${"x".repeat(20_000_000)}"`, "has 20 MB"],
    ] as const) {
      writeFileSync(bad, content);
      await (input as import("puppeteer-core").ElementHandle<HTMLInputElement>)?.uploadFile(bad);
      await page.waitForFunction(
        (wanted) => document.querySelector(".nameform .note.error")?.textContent?.includes(wanted),
        {},
        words,
      );
    }
    await (input as import("puppeteer-core").ElementHandle<HTMLInputElement>)?.uploadFile(path.join(folder, file));
    await page.waitForFunction(() => document.querySelector<HTMLInputElement>(".robotname")?.value === "Fog 2");
  });
});

describe("from the drawing to the mission", () => {
  test("a changed robot drives the next rehearsal, which cuts its version", async () => {
    const id = await copyOf(server, "Drizzle", "Retyred");
    await openRobotPage(page, server, id);
    await choosePart(page, "Left wheel");
    await typeQuantity(page, "Rolls per turn", "250 mm");
    await savedRobot(page, server, id);
    const mission = await newMission(server, "On new tyres", 'cairn 1\nrobot "Retyred"\nmission\n  go 20 cm\n');
    await visit(page, `${server.url}/mission?mission=${mission}`);
    await page.waitForSelector(".row .took");
    await press(page, "Rehearse");
    await page.waitForFunction(() => document.querySelector(".verdict")?.textContent?.includes("Finished in"));
    await expect
      .poll(async () => (await getJson(server, `/api/trials?mission=${mission}`)).trials.length, { timeout: 30_000 })
      .toBe(1);
    const { trials } = await getJson(server, `/api/trials?mission=${mission}`);
    expect(trials[0].robot).toMatchObject({ name: "Retyred", number: 2 });
    const { head } = await getJson(server, `/api/documents/${id}`);
    expect([head.number, head.reason, head.body.wheels[0].rollPerTurnM.value]).toEqual([2, "rehearsed", 0.25]);
    // Once more: nothing changed, so the same revision serves.
    await press(page, "Rehearse");
    await expect
      .poll(async () => (await getJson(server, `/api/trials?mission=${mission}`)).trials.length, { timeout: 30_000 })
      .toBe(2);
    expect(
      (await getJson(server, `/api/trials?mission=${mission}`)).trials.map((trial: Loose) => trial.robot.number),
    ).toEqual([2, 2]);
  });

  test("a load that is pushed is drawn where the run has it", async () => {
    const text =
      'cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\nmission\n  go 80 cm\n  turn right 90 deg\n  go 50 cm\n  turn right 90 deg\n  go 35 cm at 15 cm/s\n';
    const mission = await newMission(server, "Push the gauge", text);
    await visit(page, `${server.url}/mission?mission=${mission}`);
    await page.waitForSelector(".row .took");
    await press(page, "Rehearse");
    await expect
      .poll(async () => (await getJson(server, `/api/trials?mission=${mission}`)).trials.length, { timeout: 30_000 })
      .toBe(1);
    const { trials } = await getJson(server, `/api/trials?mission=${mission}`);
    const full = await getJson(server, `/api/trials/${trials[0].id}`);
    // From 66 cm the bumper takes it some ten centimetres along; a run with bad luck topples it.
    expect(full.summary.loads[0]).toMatchObject({ name: "snow gauge" });
    expect(full.summary.loads[0].xM).toBeLessThan(0.6);
    expect(browser.troubles).toEqual([]);
  });
});

describe("faults", () => {
  test("a robot without wheels, with a loop and with zero teeth opens, says where, and stays usable", async () => {
    const { head } = await getJson(server, `/api/documents/${await robotId(server, "Drizzle")}`);
    const stages = [{ driverTeeth: 20, drivenTeeth: 0 }];
    const body = {
      ...head.body,
      name: "Broken",
      wheels: head.body.wheels.map((wheel: Loose, i: number) => ({
        ...wheel,
        stages,
        drivenBy: i === 0 ? "right_wheel" : "left_wheel",
      })),
    };
    const id = await makeRobot(server, "Broken", body);
    await openRobotPage(page, server, id);
    await choosePart(page, "Left wheel");
    const notes = await page.$$eval(".inspector .note.error", (all) => all.map((note) => note.textContent ?? ""));
    expect(notes.join(" ")).toContain("comes back to itself: left_wheel ← right_wheel ← left_wheel");
    expect(notes.join(" ")).toContain("driven teeth must be at least 1");
    expect((await page.$$(".piece.trouble")).length).toBe(2);
    await choosePart(page, "Eye");
    await typeQuantity(page, "Height", "70 mm");
    expect((await savedRobot(page, server, id)).sensors[2].zM).toBe(0.07);
    // Missions do not offer it, and say what they need.
    const mission = await newMission(server, "On a broken robot", 'cairn 1\nrobot "Broken"\nmission\n  wait 1 s\n');
    await visit(page, `${server.url}/mission?mission=${mission}`);
    await page.waitForFunction(() => document.body.textContent?.includes("Broken"));
    expect(browser.troubles).toEqual([]);
  });
});

test("nothing keeps a screen reader or a keyboard out", async () => {
  await openRobotPage(page, server, await robotId(server, "Drizzle"));
  expect(await axe()).toEqual([]);
  await page.keyboard.press("a");
  await page.waitForSelector('[aria-label="Catalogue of parts"]');
  expect(await axe()).toEqual([]);
  await page.keyboard.press("Escape");
});

test("two windows on one robot: the later one is told, and nothing is lost", async () => {
  const id = await copyOf(server, "Drizzle", "Shared");
  await openRobotPage(page, server, id);
  const other = await browser.newPage();
  await openRobotPage(other, server, id);
  await choosePart(page, "Chassis");
  await typeQuantity(page, "Height", "100 mm");
  await savedRobot(page, server, id);
  await other.bringToFront();
  await choosePart(other, "Chassis");
  await typeQuantity(other, "Height", "110 mm");
  await other.waitForSelector(".banner");
  await press(other, "Go on with mine");
  expect((await savedRobot(other, server, id)).chassis.heightM).toBe(0.11);
  await other.close();
});

test("while the server is away changes are kept here, through a reload, and saved when it is back", async () => {
  const id = await copyOf(server, "Drizzle", "Away");
  const own = await browser.newPage();
  await openRobotPage(own, server, id);
  await choosePart(own, "Chassis");
  await server.kill();
  await typeQuantity(own, "Height", "105 mm");
  await own.waitForSelector('[data-save="away"]');
  expect(await text(own, ".foot [data-save]")).toContain("kept on this computer");
  server = await startServer({ database: server.database, port: Number(new URL(server.url).port) });
  await openRobotPage(own, server, id);
  await expect.poll(async () => (await savedRobot(own, server, id)).chassis.heightM, { timeout: 20_000 }).toBe(0.105);
  await own.close();
  // A server that is away shows in the console; that is not trouble of the page's own.
  browser.troubles.length = 0;
});
