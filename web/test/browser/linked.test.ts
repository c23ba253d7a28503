// A linked robot in the real page, on the real robots' process: sent, run, watched, halted, cut off, measured.
import { readFileSync } from "node:fs";
import type { Page } from "puppeteer-core";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { WHOLE } from "../../../core/test/support/search.js";
import { axe } from "../support/axe.js";
import { launchBrowser, type TestBrowser, visit } from "../support/browser.js";
import { hurry, linkRobot, says, saysInPassing, tell, unexpected } from "../support/linked.js";
import { getJson, type Loose, newMission, openMission, press, untilPlanned } from "../support/mission.js";
import { choosePart, copyOf } from "../support/robot.js";
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
});
afterAll(async () => {
  expect(unexpected(browser.troubles)).toEqual([]);
  await browser.close();
  await server.leave();
  await robots.stop();
});
/** Tests that go on in the page of the one before, and with its link. */
const GO_ON = ["a linked robot", "a robot that is being sent a mission"];
/** Nothing is linked in these, and each looks at other runs. */
const TRIALS = "trials";
let linked = false;
/** Goes on for longer than what happens meanwhile takes on a slow machine. */
const LONG_RUN = "  go 60 cm at 8 cm/s\n  wait 60 s";
beforeEach(async ({ task }) => {
  const suite = task.suite?.name ?? "";
  if ((linked && GO_ON.includes(suite)) || suite === TRIALS) return;
  page = await browser.freshPage(page);
  linked = false;
});

async function missionFor(name: string, steps: string): Promise<string> {
  const text = `cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\n\nmission\n${steps}\n`;
  const id = await newMission(server, name, text);
  await openMission(page, server, id);
  // What was said in the test before is gone.
  await page.waitForFunction(() => document.querySelector(".toast") === null);
  if (linked) await page.waitForSelector(".robotpill.linked");
  else await linkRobot(page, "Drizzle");
  linked = true;
  await untilPlanned(page);
  return id;
}

describe("a linked robot", () => {
  test("is sent a mission, runs it, and its run is kept beside the plan", async () => {
    await hurry(robots, "drizzle", 5);
    const id = await missionFor("On the table", "  go 40 cm at 20 cm/s\n  turn left 90 deg\n  note way = robot.travel");
    await says(page, "Drizzle does not hold this mission yet");
    await press(page, "Send");
    await says(page, "Drizzle holds version 1, the one on the screen");
    await press(page, "Run on Drizzle");
    await says(page, "Against the plan");
    await says(page, "The tape finds it");
    expect(await axe(page)).toEqual([]);
    const { trials } = (await getJson(server, `/api/trials?mission=${id}`)) as Loose;
    expect(trials[0]).toMatchObject({
      source: "robot",
      success: true,
      outcome: "finished",
      robot: { name: "Drizzle" },
    });
    expect(trials[0].summary.tape.xM).toBeTypeOf("number");
    // A changed text is not what the robot holds.
    await page.click('[aria-label="Step 1, length"], .row .field-q');
    await page.keyboard.type("50 cm");
    await page.keyboard.press("Enter");
    await says(page, "Drizzle still holds version 1");
  });

  test("stops by Escape from anywhere, and says so", async () => {
    await hurry(robots, "drizzle", 1);
    await missionFor("Stopped", LONG_RUN);
    await press(page, "Run on Drizzle");
    await says(page, /Drizzle runs\d+\.\d s/);
    await page.keyboard.press("Escape");
    await says(page, "it was halted");
  });

  test("whose process dies in a run is linked again by itself, and nothing saved is lost", async () => {
    await hurry(robots, "drizzle", 1);
    const id = await missionFor("Cut off", LONG_RUN);
    await press(page, "Run on Drizzle");
    await says(page, /Drizzle runs\d+\.\d s/);
    await robots.kill();
    await says(page, "was lost");
    await robots.again();
    await says(page, "again.");
    await says(page, "Drizzle holds version");
    const open = (await getJson(server, `/api/documents/${id}`)) as Loose;
    expect(open.head.text).toContain("go 60 cm at 8 cm/s");
  });

  test("is watched by a second browser, which cannot run it but can halt it", async () => {
    await hurry(robots, "drizzle", 1);
    const id = await missionFor("Two at once", LONG_RUN);
    await press(page, "Run on Drizzle");
    await says(page, /Drizzle runs\d+\.\d s/);
    const other = await browser.newPage();
    await openMission(other, server, id);
    await other.waitForFunction(() => (document.body.textContent ?? "").includes("running"));
    await other.keyboard.press("Escape");
    await other.close();
    await says(page, "it was halted");
  });

  test("and a server that is started anew in a run: the robot stops, and the page links again", async () => {
    await hurry(robots, "drizzle", 1);
    await missionFor("Server gone", LONG_RUN);
    await press(page, "Run on Drizzle");
    await says(page, /Drizzle runs\d+\.\d s/);
    const port = Number(new URL(server.url).port);
    await server.kill();
    await says(page, "was lost");
    const hasSaid = await saysInPassing(page);
    server = await startServer({ robots: robots.port, database: server.database, port });
    await hasSaid("Linked to Drizzle again.");
    await page.click(".robotpill");
    await says(page, "Last time the link was lost.");
  });
});

describe("a robot that is being sent a mission", () => {
  test("when the server dies in between keeps what it had; the mission is whole and is sent again", async () => {
    await hurry(robots, "drizzle", 1);
    const comments = Array.from({ length: 4000 }, (_, i) => `  # line ${i} of a long account of what was tried`).join(
      "\n",
    );
    const id = await missionFor("Long story", `  go 10 cm\n${comments}`);
    await says(page, "Drizzle does not hold this mission yet");
    // Every answer of the robot comes late, so that the sending takes its time.
    await tell(robots, "drizzle", { kind: "fault", fault: "late-packets" });
    await press(page, "Send");
    await page.waitForFunction(() => /Sending [1-9]\d? %/.test(document.body.textContent ?? ""));
    const port = Number(new URL(server.url).port);
    await server.kill();
    await says(page, "Not sent");
    await tell(robots, "drizzle", { kind: "fault", fault: "none" });
    const hasSaid = await saysInPassing(page);
    server = await startServer({ robots: robots.port, database: server.database, port });
    await hasSaid("Linked to Drizzle again.");
    await says(page, "Drizzle does not hold this mission yet");
    await press(page, "Send");
    await says(page, "Drizzle holds version 1, the one on the screen");
    const open = (await getJson(server, `/api/documents/${id}`)) as Loose;
    expect(open.head.text).toContain("line 3999 of a long account");
  });
});

describe("a simulated robot whose drawing was changed", () => {
  test("is built again from it by one press, linked on, and drives as it is drawn now", async () => {
    const id = await copyOf(server, "Drizzle", "Rill");
    await page.goto(`${server.url}/robot?robot=${id}`);
    await page.waitForSelector(".inspector h2");
    await press(page, "Robot: Rill, not linked");
    await press(page, "Build a simulated robot of Rill");
    await says(page, "It stands and waits.");
    await press(page, "Close");
    // A part of another name: what the stand-in has and what missions ask for are two things now.
    await choosePart(page, "Arm");
    await page.click(".partnamefield input", { count: 3 });
    await page.keyboard.type("gripper");
    await page.keyboard.press("Enter");
    await page.waitForSelector('[data-save="saved"]');
    const text =
      'cairn 1\nrobot "Rill"\nfield "Fellside"\nbegin "hut dock"\n\nmission\n  power gripper 40 % for 0.2 s\n';
    const mission = await newMission(server, "With a gripper", text);
    await openMission(page, server, mission);
    await untilPlanned(page);
    await page.waitForSelector(".robotpill.linked");
    await press(page, "Send");
    await press(page, "Build Rill again from its drawing");
    await says(page, "is built as it is drawn now");
    await page.waitForSelector(".robotpill.linked");
    await press(page, "Run on Rill");
    await says(page, "Against the plan");
    await says(page, "It finished in");
  });
});

describe("calibrating", () => {
  /** Runs the open procedure to its wished rows and uses the result. */
  async function measureAndUse(known: string): Promise<void> {
    await visit(page, `${server.url}/calibrate?robot=Gust&known=${known}`);
    await page.waitForSelector(".robotpill.linked");
    const ready = (name: string) =>
      page.waitForFunction(
        (words: string) =>
          [...document.querySelectorAll<HTMLButtonElement>(".runs button")].find(
            (b) => new RegExp(words).test(b.textContent ?? "") && !b.disabled,
          )?.textContent,
        { timeout: 110_000 },
        name,
      );
    const run = await ready("^Run \\d+ times$");
    // Pressed once its place has come to rest.
    await press(page, (await run.jsonValue()) as string);
    try {
      await ready("^Run 1 more$");
    } catch {
      const text = await page.evaluate(() => document.body.textContent);
      throw new Error(`${known} was not measured to its end; the page says:\n${text}`);
    }
    await press(page, "Use it");
    await says(page, "is at version");
  }

  /** A Gust of this seed turns 1 deg wrong by its gyro in a quarter turn, or more: its squares do not close by luck. */
  const SEED = 9;

  const TWICE_ROUND = `cairn 1
robot "Gust"
field "Fellside"
begin "hut dock"
goal inside "hut dock"

mission
  wait 0.5 s
  go 60 cm at 30 cm/s
  repeat 8 times
    turn left 90 deg at 120 deg/s
  turn left 180 deg
  go 60 cm at 30 cm/s
  turn left 180 deg
`;

  /** Runs it on the table and looks at the trial that is kept. */
  async function runKept(mission: string): Promise<Loose> {
    await openMission(page, server, mission);
    await page.waitForSelector(".robotpill.linked");
    await untilPlanned(page);
    const count = async () => ((await getJson(server, `/api/trials?mission=${mission}`)) as Loose).trials.length;
    const before = await count();
    await press(page, "Run on Gust");
    await says(page, "The tape finds it");
    await page.waitForFunction(
      async (id, had) => (await (await fetch(`/api/trials?mission=${id}`)).json()).trials.length > had,
      { timeout: 20_000, polling: 200 },
      mission,
      before,
    );
    return ((await getJson(server, `/api/trials?mission=${mission}`)) as Loose).trials[0];
  }

  test("Gust from new makes its squares close, and comes home where it did not", async () => {
    const drawing = readFileSync(`${process.env.GIDDY_DEMO}/gust.robot.json`, "utf8");
    const body = JSON.stringify({ robot: JSON.parse(drawing), seed: SEED });
    expect((await fetch(`http://127.0.0.1:${robots.port}/robots`, { method: "POST", body })).status).toBe(201);
    await visit(page, `${server.url}/calibrate?robot=Gust&known=wheel-size`);
    await page.waitForSelector(".knowns");
    await linkRobot(page, "Gust");
    await hurry(robots, "gust", 20);
    const mission = await newMission(server, "Twice round", TWICE_ROUND);
    const lost = await runKept(mission);
    expect([lost.success, lost.outcome, lost.summary.reason]).toEqual([
      false,
      "finished",
      'the goal was not met: the tape finds it outside "hut dock"',
    ]);
    await visit(page, `${server.url}/calibrate?robot=Gust&known=wheel-size`);
    await page.waitForSelector(".robotpill.linked");
    await press(page, "Drive 4 squares");
    await page.waitForSelector(".ends");
    await page.waitForFunction(
      () => ![...document.querySelectorAll("button")].some((b) => b.textContent === "Cancel"),
      {},
    );
    // Without a page all five are tried, and what they say is held against the truth.
    const all = ["gyro-rest", "gyro-scale", "wheel-size", "turning-width", "straight-driving"];
    const knowns = WHOLE ? all : ["gyro-rest", "gyro-scale", "straight-driving"];
    for (const known of knowns) await measureAndUse(known);
    expect(await axe(page)).toEqual([]);
    await press(page, "Drive 4 squares");
    await page.waitForFunction(() => document.querySelectorAll(".ends circle").length === 8);
    const [before, after] = await page.$$eval(".check strong", (all) =>
      all.map((one) => Number.parseFloat(one.textContent ?? "")),
    );
    expect(after).toBeLessThan((before ?? 0) / 2);
    expect(after).toBeLessThan(25);
    const gust = ((await getJson(server, "/api/documents?kind=robot")) as Loose).documents.find(
      (one: Loose) => one.name === "Gust",
    );
    const { head } = (await getJson(server, `/api/documents/${gust.id}`)) as Loose;
    expect(head.reason).toContain("calibrated: Straight driving");
    expect(head.body.wheels[0].rollPerTurnM).toMatchObject({ source: "measured", method: "Straight driving" });
    const { calibrations } = (await getJson(server, `/api/calibrations?robot=${gust.id}`)) as Loose;
    expect(calibrations).toHaveLength(knowns.length);
    const home = await runKept(mission);
    expect([home.success, home.summary.reason]).toEqual([true, ""]);
    expect(home.robot.number).toBeGreaterThan(lost.robot.number);
  }, 400_000);

  test("in the middle of a run uses no result, and names the procedure that runs while another is looked at", async () => {
    await hurry(robots, "drizzle", 1);
    await page.goto(`${server.url}/calibrate?robot=Drizzle&known=wheel-size-by-hand`);
    await page.waitForSelector(".rowstable input");
    await linkRobot(page, "Drizzle");
    for (let row = 0; row < 3; row += 1)
      for (const [column, text] of [
        ["alongM", `${195 + row} mm`],
        ["turns", "1"],
      ] as const) {
        await page.click(`#cell-${column}-${row}`, { count: 3 });
        await page.keyboard.type(text);
        await page.keyboard.press("Tab");
      }
    await page.waitForFunction(
      () => document.querySelector<HTMLButtonElement>(".verdict .acts button:last-of-type")?.disabled === false,
    );
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLElement>(".knowns li button")]
        .find((one) => /Straight driving/.test(one.textContent ?? ""))
        ?.click(),
    );
    await press(page, "Run 5 times");
    await says(page, /Run 1 of 5/);
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLElement>(".knowns li button")]
        .find((one) => /Wheel size by hand/.test(one.textContent ?? ""))
        ?.click(),
    );
    await page.waitForFunction(() => document.querySelector(".procedure h2")?.textContent === "Wheel size by hand");
    expect(await page.$eval(".runs [role=status]", (one) => one.textContent)).toMatch(/^Straight driving Run \d of 5$/);
    expect(await page.$eval(".verdict .acts", (one) => one.textContent)).toContain("A measurement is in progress");
    const disabled = await page.$$eval(".verdict .acts button", (all) =>
      all.map((one) => (one as HTMLButtonElement).disabled),
    );
    expect(disabled).toEqual([true, true]);
    const before = (await getJson(server, "/api/documents?kind=robot")) as Loose;
    await press(page, "Cancel");
    await page.waitForFunction(
      () => document.querySelector<HTMLButtonElement>(".verdict .acts button:last-of-type")?.disabled === false,
    );
    // Pressed twice quickly, it makes one revision.
    await page.$eval(".verdict .acts button:last-of-type", (one) => {
      (one as HTMLElement).click();
      (one as HTMLElement).click();
    });
    await says(page, "is at version");
    const drizzle = (list: Loose) => list.documents.find((one: Loose) => one.name === "Drizzle").headRevision;
    expect(drizzle(await getJson(server, "/api/documents?kind=robot"))).toBe(drizzle(before) + 1);
  });

  test("takes typed rows without any link, questions an odd one, and undoes", async () => {
    await page.goto(`${server.url}/calibrate?robot=Sleet&known=wheel-size-by-hand`);
    await page.waitForSelector(".rowstable input");
    const type = async (row: number, column: string, text: string) => {
      await page.click(`#cell-${column}-${row}`, { count: 3 });
      await page.keyboard.type(text);
      await page.keyboard.press("Tab");
    };
    for (let row = 0; row < 3; row += 1) {
      await type(row, "alongM", `${195 + row} mm`);
      await type(row, "turns", "1");
    }
    await says(page, "One turn of the wheels rolls 196.0");
    await type(3, "alongM", "19.6 m");
    await says(page, "more than ten times the other rows");
    await page.click(".procedure header");
    await page.keyboard.down("Control");
    await page.keyboard.press("z");
    await page.keyboard.up("Control");
    await says(page, "Undone: a typed number");
    await type(0, "alongM", "-3");
    await says(page, "is at least");
    // What was typed is there after a reload.
    await page.reload();
    await says(page, "One turn of the wheels rolls 196.0");
  });
});

describe(TRIALS, () => {
  const onlyOfRobots = () =>
    page.waitForFunction(() =>
      [...document.querySelectorAll(".trialslist li > button")].every((row) => row.textContent?.includes("robot ·")),
    );

  test("are filtered, noted on, laid over one another and told apart", async () => {
    await visit(page, `${server.url}/trials`);
    await page.waitForSelector(".trialslist li > button");
    await page.select('[aria-label="Source"]', "robot");
    await onlyOfRobots();
    await page.waitForSelector(".trialslist li:nth-child(2 of :has(> button)) > button");
    await page.click(".trialslist li > button");
    await page.waitForSelector(".trialnote input");
    await page.type(".trialnote input", "carpet, fresh pack");
    await page.keyboard.press("Enter");
    await page.click(".trialslist li:nth-child(2 of :has(> button)) > button");
    await page.waitForSelector('[aria-label="What changed"]');
    expect(await page.$$eval(".readinglines path", (all) => all.length)).toBe(2);
    expect(await axe(page)).toEqual([]);
    await page.reload();
    await says(page, "carpet, fresh pack");
  });

  test("take what a person's tape says, with its unit, in place of the simulated robot's own", async () => {
    await visit(page, `${server.url}/trials`);
    await page.waitForSelector(".trialslist li > button");
    await page.select('[aria-label="Source"]', "robot");
    await onlyOfRobots();
    await page.click(".trialslist li > button");
    await page.waitForSelector(".trialtape input");
    await says(page, "as the simulated robot's own tape found it");
    await says(page, "from where the robot thinks it is");
    const type = async (part: string, text: string) => {
      await page.click(`[aria-label^="Tape ${part}"]`, { count: 3 });
      await page.keyboard.type(text);
    };
    await type("along", "10 kg");
    await page.keyboard.press("Enter");
    await says(page, /kg is a mass; a length is wanted/);
    await type("along", "1.5 m");
    await type("aside", "25");
    await type("looks", "");
    await page.keyboard.press("Backspace");
    await page.keyboard.press("Enter");
    await page.waitForFunction(
      () => !document.body.textContent?.includes("as the simulated robot's own tape found it"),
    );
    // The address of the page names the run: it is there again.
    await page.reload();
    await page.waitForSelector(".trialtape input");
    expect(await page.$$eval(".trialtape input", (all) => all.map((one) => (one as HTMLInputElement).value))).toEqual([
      "150 cm",
      "25 mm",
      "",
    ]);
    expect(await axe(page)).toEqual([]);
  });

  test("of a robot before and after calibrating say what changed on it", async () => {
    await visit(page, `${server.url}/trials`);
    await page.waitForSelector(".trialslist li > button");
    const missions = await page.$$eval('[aria-label="Mission"] option', (all) =>
      all.map((one) => [(one as HTMLOptionElement).value, one.textContent ?? ""]),
    );
    const twice = missions.find(([, name]) => name === "Twice round")?.[0] ?? "";
    await page.select('[aria-label="Mission"]', twice);
    await page.waitForFunction(() => document.querySelectorAll(".trialslist li > button").length === 2);
    // The newest stands first: from the run before calibrating to the one after.
    await page.click(".trialslist li:nth-child(2 of :has(> button)) > button");
    await page.waitForFunction(() => document.querySelectorAll(".readinglines path").length === 1);
    await page.click(".trialslist li > button");
    await page.waitForSelector('[aria-label="What changed"] .fold');
    const rows = await page.$$eval('[aria-label="What changed"] .fold tr', (all) =>
      all.map((one) => [...one.querySelectorAll("td")].map((cell) => cell.textContent ?? "")),
    );
    const roll = rows.find(([part, what]) => part === "left wheel" && what === "Rolls per turn");
    expect(roll?.[2]).toMatch(/ mm, /);
    expect(roll?.[3]).toMatch(/ ± .* mm, measured, \d+ rows, Straight driving$/);
    const scale = rows.find(([part, what]) => part === "gyro" && what === "Scale, true over read");
    expect(scale?.[3]).toMatch(/, measured, \d+ rows, Gyro scale$/);
  });
});
