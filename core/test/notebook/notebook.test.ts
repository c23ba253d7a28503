// Pages of the notebook: what they are made of, what changed since one was frozen, and what goes out.

import { describe, expect, test } from "vitest";
import { ratesDrawing } from "../../src/notebook/drawings.js";
import { notebookHtml, notebookMarkdown } from "../../src/notebook/out.js";
import {
  calibrationsPage,
  changedSince,
  fieldPage,
  missionPage,
  type PageDocument,
  robotPage,
  timelinePage,
  trialsPage,
} from "../../src/notebook/pages.js";
import { dayWords, rateWords } from "../../src/notebook/pieces.js";
import { openNotebook, type PageBlock } from "../../src/notebook/schema.js";
import { demoField, demoRobot } from "../support/demo.js";

const document = (name: string): PageDocument => ({
  name,
  href: "/robot?robot=1",
  versions: [
    { number: 2, name: "Wider", reason: "it tipped over", madeAt: "2026-11-27T10:00:00Z" },
    { number: 1, name: null, reason: "made", madeAt: "2026-11-20T10:00:00Z" },
  ],
});

function wordsOf(blocks: readonly PageBlock[]): string {
  return JSON.stringify(blocks.filter(({ kind }) => kind !== "drawing"));
}

const ROBOTS = ["drizzle", "gust", "sleet", "fog", "thaw"];

describe("a robot's page", () => {
  test.each(ROBOTS)("of %s draws it, lists every part once, and gives every figure with its formula", (name) => {
    const robot = demoRobot(name);
    const blocks = robotPage(robot, document(robot.name), null);
    const tables = blocks.flatMap((block) => (block.kind === "table" ? [block] : []));
    const parts = tables[0]?.rows.map(([part]) => part) ?? [];
    for (const { name: part } of [...robot.wheels, ...robot.motors, ...robot.sensors])
      expect(parts.filter((one) => one === part.replaceAll("_", " "))).toHaveLength(1);
    expect(tables[1]?.rows.every(([, shown, formula]) => shown !== "" && formula !== "")).toBe(true);
    expect(blocks[0]).toMatchObject({ kind: "drawing", from: { href: "/robot?robot=1" } });
    expect(wordsOf(blocks)).toContain("it tipped over");
  });

  test("says what the newest version changed", () => {
    const before = demoRobot("drizzle");
    const after = demoRobot("drizzle", (robot) => {
      robot.chassis.massKg = 0.9;
    });
    expect(wordsOf(robotPage(after, document("Drizzle"), before))).toContain("Changed by the newest version");
    expect(wordsOf(robotPage(after, document("Drizzle"), after))).not.toContain("Changed by the newest version");
  });
});

test("a field's page draws it and counts what lies on it", () => {
  const field = demoField("fellside");
  const [drawing, ...rest] = fieldPage(field, document("Fellside"));
  expect(drawing).toMatchObject({ kind: "drawing", caption: "Fellside, 210 cm by 150 cm" });
  const table = rest.find((block) => block.kind === "table");
  expect(table?.kind === "table" && table.rows).toContainEqual(["boulders", String(field.boulders.length)]);
});

test("calibrations say what was found, how many rows, and in which version it is used", () => {
  const one = {
    title: "Wheel size",
    result: "194.6 mm",
    words: "",
    rows: 5,
    version: 3,
    madeAt: "2026-11-27T10:00:00Z",
    chart: null,
  };
  const [table] = calibrationsPage("Drizzle", "/calibrate", [one, { ...one, version: null }]);
  expect(table?.kind === "table" && table.rows).toEqual([
    ["Wheel size", "194.6 mm", "5", "version 3", "27 Nov 2026"],
    ["Wheel size", "194.6 mm", "5", "not used", "27 Nov 2026"],
  ]);
  expect(wordsOf(calibrationsPage("Drizzle", "/calibrate", []))).toContain("Nothing was measured on Drizzle yet");
});

describe("how often a mission works", () => {
  // Wilson 1927: for 19 of 20 at 95 % the interval is from 76.4 % to 99.1 %.
  test("is said with its interval", () => {
    expect(rateWords(19, 20)).toBe("19 of 20 (95 %, between 76 % and 99 %)");
    expect(rateWords(0, 10)).toBe("0 of 10 (0 %, between 0 % and 28 %)");
  });

  test("is drawn for each version where it belongs: all at the top, none at the bottom", () => {
    const svg = ratesDrawing([
      { number: 1, runs: 10, successes: 10 },
      { number: 2, runs: 10, successes: 0 },
    ]);
    const heights = [...svg.matchAll(/<circle cx="[\d.]+" cy="([\d.]+)"/g)].map(([, y]) => Number(y));
    expect(heights).toEqual([12, 146]);
    expect(svg).toContain("10 of 10");
  });

  test("a page says so, where runs were lost, and holds the text as a program", () => {
    const mission = {
      text: "# Short and good.\ncairn 1\nmission\n  go 10 cm\n",
      robot: "Drizzle",
      field: null,
      rates: [{ number: 4, runs: 20, successes: 19 }],
      lostIn: [{ step: "3", runs: 1 }],
      picture: null,
    };
    const words = wordsOf(missionPage(mission, document("Trail"), "/trials?of=1"));
    for (const part of ["It is for Drizzle.", "Short and good.", "Version 4 worked 19 of 20", "go 10 cm"])
      expect(words).toContain(part);
    expect(wordsOf(missionPage({ ...mission, rates: [], lostIn: [] }, document("Trail"), "/trials"))).toContain(
      "Nobody has run it yet",
    );
  });
});

test("trials and the timeline are newest first, days under one heading", () => {
  const at = (day: string) => ({ at: `${day}T10:00:00Z`, words: day, href: "/robot" });
  const blocks = timelinePage([at("2026-11-01"), at("2026-11-03"), at("2026-11-03")]);
  expect(blocks.map((block) => (block.kind === "heading" ? block.text : block.kind))).toEqual([
    "3 Nov 2026",
    "list",
    "1 Nov 2026",
    "list",
  ]);
  const twice = blocks[1];
  expect(twice?.kind === "list" && twice.items.map((item) => item.text)).toEqual(["2026-11-03 (2 times)"]);
  expect(dayWords("2026-01-09T23:59:00Z")).toBe("9 Jan 2026");
  expect(wordsOf(trialsPage([], 0, 0))).toContain("No run is kept yet");
});

test("what changed since a page was frozen: every line that came and every line that went, nothing else", () => {
  const robot = demoRobot("drizzle");
  const frozen = robotPage(robot, document("Drizzle"), null);
  expect(changedSince(frozen, frozen)).toEqual([]);
  const heavier = demoRobot("drizzle", (body) => {
    body.chassis.massKg = 0.9;
  });
  const lines = changedSince(frozen, robotPage(heavier, document("Drizzle"), null));
  expect(lines).toContain(
    "New: chassis · chassis, 900 g, 95 mm high".replace("95", String(robot.chassis.heightM * 1000)),
  );
  expect(lines.some((line) => line.startsWith("Gone: chassis"))).toBe(true);
  expect(lines.some((line) => line.includes("left wheel"))).toBe(false);
});

const NASTY = '</script><img src=x onerror="alert(1)"> & "quotes"';

describe("out", () => {
  const blocks: PageBlock[] = [
    { kind: "heading", text: NASTY, from: null },
    { kind: "text", text: NASTY, from: { words: NASTY, href: "/robot" } },
    { kind: "list", items: [{ text: NASTY, from: null }] },
    { kind: "table", head: [NASTY], rows: [[NASTY]], hrefs: ["/run?run=1"], from: null },
    { kind: "drawing", svg: "<svg/>", caption: NASTY, from: null },
    { kind: "photo", asset: "a".repeat(64), caption: NASTY },
  ];
  const page = { id: "one", title: NASTY, blocks, frozenAt: null };

  test("HTML stands alone: nothing a person wrote is a tag, nothing is fetched", () => {
    const html = notebookHtml(NASTY, [page], {
      site: "http://127.0.0.1:4620",
      markdown: () => "<p>own</p>",
      photo: () => "data:image/jpeg;base64,AA",
    });
    expect(html).not.toContain("<img src=x");
    expect(html).not.toContain("</script>");
    expect(html.match(/(src|href)="(?!data:|#|http:\/\/127\.0\.0\.1:4620\/)/g)).toBeNull();
    expect(html).toContain("default-src 'none'");
    expect(html.match(/<section /g)).toHaveLength(1);
  });

  test("Markdown has its drawings beside it, and marks in plain words stay plain", () => {
    const [file, drawing] = notebookMarkdown("Note*book*", [page], (asset) => `pictures/${asset}.jpg`);
    expect(file?.name).toBe("notebook.md");
    expect(file?.text).toContain("# Note\\*book\\*");
    expect(file?.text).toContain("(pictures/one-1.svg)");
    expect(file?.text).not.toMatch(/(?<!\\)<img/);
    expect(drawing).toEqual({ name: "pictures/one-1.svg", text: "<svg/>" });
  });
});

describe("the document", () => {
  const good = {
    format: "giddy-pebble/notebook",
    version: 1,
    name: "Ours",
    pages: [{ kind: "own", id: "a", title: "A", text: "words" }],
  };
  test("is read with its defaults", () => {
    const read = openNotebook(good);
    expect(read.ok && read.document.pages[0]).toMatchObject({ photos: [] });
  });

  test.each([
    ["another format", { ...good, format: "else" }, /not a giddy-pebble\/notebook/],
    ["a later version", { ...good, version: 2 }, /Use a newer Giddy Pebble/],
    [
      "a link that leads elsewhere",
      {
        ...good,
        pages: [
          {
            kind: "made",
            id: "a",
            of: "robot",
            name: "D",
            frozen: {
              at: "2026-11-01T00:00:00Z",
              blocks: [{ kind: "text", text: "x", from: { words: "w", href: "//evil.example" } }],
            },
          },
        ],
      },
      /href/,
    ],
    ["an id with a space", { ...good, pages: [{ kind: "own", id: "a b", title: "", text: "" }] }, /id/],
    [
      "201 pages",
      { ...good, pages: Array.from({ length: 201 }, (_, i) => ({ kind: "own", id: `p${i}`, title: "", text: "" })) },
      /pages/,
    ],
  ])("%s is refused", (_, value, words) => {
    const read = openNotebook(value);
    expect(read.ok).toBe(false);
    expect(!read.ok && read.problems.join(" ")).toMatch(words);
  });
});
