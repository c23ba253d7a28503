// `giddy field` as scripts use it: each command, its JSON, its exit status, and bad input.
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { homographyOf, mapPoint, writePicturePng } from "@giddy-pebble/core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { giddyIn } from "./support.js";

const root = path.resolve(import.meta.dirname, "../..");
const drizzle = path.join(root, "demo/drizzle.robot.json");
let folder = "";
beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-field-"));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const field = (...args: string[]) => giddyIn(folder, ["field", ...args]);

function inFolder(name: string): string {
  return path.join(folder, name);
}

function json(name: string) {
  return JSON.parse(readFileSync(inFolder(name), "utf8"));
}

describe("make", () => {
  test("writes a ready start with its numbers, in any unit", async () => {
    const made = await field(
      "make",
      "oval",
      "--set",
      "radius=30cm",
      "gap=50 mm",
      "gaps=2",
      "--name",
      "Ours",
      "--out",
      "oval.json",
    );
    expect(made).toEqual({ status: 0, out: "", err: "" });
    const { name, made: from, marks } = json("oval.json");
    expect([name, from.numbers.radius, from.numbers.gap, marks[0].gaps.length]).toEqual(["Ours", 0.3, 0.05, 2]);
    expect(JSON.parse((await field("make", "table")).out).size).toMatchObject({ widthM: 2.4, heightM: 1.2 });
  });

  test.each([
    [["make", "ovl"], /no ready start "ovl".*There are: table/],
    [["make", "oval", "--set", "radius=3kg"], /a length is wanted/],
    [["make", "oval", "--set", "speed=3"], /has no number "speed"/],
    [["make", "oval", "--set", "gaps=99"], /from 0 to 12/],
    [["make", "oval", "--out", "nowhere/x.json"], /cannot be written/],
  ])("%j is refused with a sentence, status 2", async (args, words) => {
    const { status, err } = await field(...args);
    expect(status).toBe(2);
    expect(err).toMatch(words);
  });
});

describe("export and import", () => {
  test("a field goes out as a drawing and comes back the same", async () => {
    await field("make", "maze", "--set", "seed=7", "--out", "maze.json");
    expect(await field("export", "maze.json", "--svg", "maze.svg")).toEqual({ status: 0, out: "", err: "" });
    expect(await field("import", "maze.svg", "--out", "again.json")).toEqual({ status: 0, out: "", err: "" });
    expect(json("again.json")).toEqual(json("maze.json"));
  });

  test("what a colour becomes is said with --as, and what was read with --json", async () => {
    writeFileSync(
      inFolder("d.svg"),
      '<svg xmlns="http://www.w3.org/2000/svg" width="1000mm" height="500mm" viewBox="0 0 1000 500"><path d="M100 100H900" stroke="#ff0000" stroke-width="20"/><text>a</text></svg>',
    );
    const { status, out } = await field("import", "d.svg", "--as", "stroke #FF0000=wall", "--out", "d.json", "--json");
    const said = JSON.parse(out);
    expect([status, said.ok, said.leftOut]).toEqual([0, true, ["Left out: 1 text."]]);
    expect(said.choices).toContainEqual({ key: "stroke #FF0000", count: 1, becomes: "wall" });
    expect(said.problems.map(({ code }: { code: string }) => code)).toEqual(["no-begin"]);
    expect(json("d.json").walls).toHaveLength(1);
    await field("import", "d.svg", "--mend", "--out", "mended.json");
    expect(json("mended.json").begins).toHaveLength(1);
  });

  test("a picture taken askew becomes the floor, where its corners are given", async () => {
    const [w, h] = [400, 300];
    const corners = [
      [40, 270],
      [370, 250],
      [340, 40],
      [70, 20],
    ] as const;
    const map = homographyOf(corners, [
      [0, 0],
      [1, 0],
      [1, 0.5],
      [0, 0.5],
    ]);
    if (!map) throw new Error("no map");
    const cells = new Uint8Array(3 * w * h);
    for (let y = 0; y < h; y += 1)
      for (let x = 0; x < w; x += 1) {
        const [u] = mapPoint(map, [x + 0.5, y + 0.5]);
        cells.fill(u > 0.5 ? 30 : 220, 3 * ((h - 1 - y) * w + x), 3 * ((h - 1 - y) * w + x) + 3);
      }
    writeFileSync(inFolder("mat.png"), writePicturePng({ columns: w, rows: h, cells }));
    const made = await field(
      "import",
      "mat.png",
      "--corners",
      "40,270 370,250 340,40 70,20",
      "--size",
      "1 m,50 cm",
      "--white",
      "100,150",
      "--out",
      "mat.json",
    );
    expect(made).toEqual({ status: 0, out: "", err: "" });
    const at = async (x: string) =>
      JSON.parse((await field("probe", "mat.json", "--robot", drizzle, "--at", `${x},25cm,0deg`, "--json")).out)
        .readings["floor.left.light"].value;
    expect([await at("30cm"), await at("60cm")]).toEqual([expect.closeTo(0.85, 1), expect.closeTo(0.02, 1)]);
  });

  test.each([
    [["import", "nothing.svg"], /there is no such file/],
    [["import", "nothing.png", "--size", "1m,1m"], /there is no such file/],
    [["import", "broken.svg"], /not sound XML/],
    [["import", "broken.png", "--size", "1m,1m"], /not a PNG picture/],
    [["import", "mat.png"], /--size/],
    [["import", "mat.png", "--size", "1 m"], /--size/],
    [["import", "mat.png", "--size", "1m,1m", "--corners", "1,2 3,4"], /four corners/],
    [["import", "mat.png", "--size", "1m,1m", "--white", "x"], /two numbers/],
    [["import", "mat.png", "--scale", "1,2 9,2 3kg"], /a length is wanted/],
    [["import", "d.svg", "--as", "stroke=house"], /--as needs/],
    [["export", "broken.svg"], /is not JSON/],
  ])("%j is refused with a sentence, status 2", async (args, words) => {
    writeFileSync(inFolder("broken.svg"), "<svg");
    writeFileSync(inFolder("broken.png"), "PNG");
    const { status, err } = await field(...args);
    expect([status, err]).toEqual([2, expect.stringMatching(words)]);
  });
});

describe("check", () => {
  test("says what is wrong at which thing, with what mends it", async () => {
    await field("make", "table", "--out", "t.json");
    const body = json("t.json");
    writeFileSync(
      inFolder("bad.json"),
      JSON.stringify({ ...body, walls: [{ fromM: [1, 1], toM: [1, 1] }, { fromM: 3 }] }),
    );
    const { status, out } = await field("check", "bad.json", "--json");
    const said = JSON.parse(out);
    expect([status, said.ok, said.problems, said.leftOut]).toEqual([
      2,
      false,
      [
        {
          code: "no-length",
          severity: "error",
          at: "walls/0",
          message: "wall 1 has no length: both its ends are in one place.",
          fix: "Remove it",
        },
      ],
      [expect.stringContaining("wall 2 was left out")],
    ]);
    expect((await field("check", "bad.json", "t.json")).out).toMatch(
      /error: wall 1: .*\n {4}mend: Remove it\n.*no problems/s,
    );
    expect((await field("check", "t.json", "--json")).status).toBe(0);
    expect((await field("check", "none.json", "--json")).status).toBe(2);
  });
});

describe("probe", () => {
  test("prints each sensor's reading, ideal, with its words", async () => {
    const at = ["--robot", drizzle, "--at", "500mm,69cm,0deg"];
    const { status, out } = await field("probe", path.join(root, "demo/fellside.field.json"), ...at, "--json");
    const said = JSON.parse(out);
    expect([status, said.robot, said.at.xM, said.hears]).toEqual([0, "Drizzle", 0.5, { eye: "boulder 5" }]);
    expect(said.readings["floor.right.dark"]).toEqual({ value: 1, kind: "truth", words: "yes" });
    expect((await field("probe", path.join(root, "demo/fellside.field.json"), ...at)).out).toMatch(
      /^eye\.distance +\d+\.\d cm$/m,
    );
  });

  test.each([
    [["--at", "1cm,2cm"], /needs a robot/],
    [["--robot", "none.json", "--at", "1cm,2cm"], /no such file/],
    [["--robot", drizzle], /--at needs a place/],
    [["--robot", drizzle, "--at", "1cm"], /--at needs a place/],
    [["--robot", drizzle, "--at", "1cm,2kg,0deg"], /a length is wanted/],
  ])("%j is refused, status 2", async (args, words) => {
    const { status, err } = await field("probe", path.join(root, "demo/fellside.field.json"), ...args);
    expect([status, err]).toEqual([2, expect.stringMatching(words)]);
  });
});
