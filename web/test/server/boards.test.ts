// A mission as source for a real board, asked of the server: all files as text, and what is wrong said as a sentence.
import { readFileSync } from "node:fs";
import path from "node:path";
import { openFloor, openRobot, type Program, prepareMission, type Robot } from "@giddy-pebble/core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { type RunningServer, startServer } from "../support/server.js";

const demo = path.resolve(import.meta.dirname, "../../../demo");
let server: RunningServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server?.leave());

function drizzle(): Robot {
  const read = openRobot(JSON.parse(readFileSync(path.join(demo, "drizzle.robot.json"), "utf8")));
  if (!read.ok) throw new Error("Drizzle does not open");
  return read.document;
}

function programOf(steps: string): Program {
  const { program } = prepareMission(`cairn 1\nset words = ""\n\nmission\n${steps}\n`, drizzle(), openFloor());
  if (!program) throw new Error("the mission has errors");
  return program;
}

function ask(body: unknown): Promise<Response> {
  return fetch(`${server.url}/api/boards`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
}

describe("POST /api/boards", () => {
  test.each([
    ["micropython", "mission.py", "drives(t, straight(0.2, False, straightly(USUAL)))"],
    ["cpp", "mission.cpp", "drives(t, straight(0.2, false, straightly(USUAL)));"],
  ])("%s: all files, steps and no problem", async (target, name, call) => {
    const answer = await ask({ target, title: "Out", program: programOf("  go 20 cm"), robot: drizzle() });
    expect(answer.status).toBe(200);
    const { files, steps, problems } = (await answer.json()) as {
      files: { name: string; text: string }[];
      steps: unknown[];
      problems: unknown[];
    };
    expect(files.find((file) => file.name === name)?.text).toContain(call);
    expect(files.map((file) => file.name)).toContain("README.md");
    expect(steps).toEqual([{ step: "1", text: "go 20 cm", line: 5 }]);
    expect(problems).toEqual([]);
  });

  test("avr: compiled, with the room it takes and the file for the chip; ten at once are all answered", async () => {
    const asked = Array.from({ length: 10 }, (_, i) =>
      ask({ target: "avr", title: "Out", program: programOf(`  go ${20 + i} cm`), robot: drizzle() }),
    );
    for (const answer of await Promise.all(asked)) {
      expect(answer.status).toBe(200);
      const { files, chip, missing } = (await answer.json()) as {
        files: { name: string; text: string }[];
        chip: { name: string; flashBytes: number; flashMost: number; ramBytes: number; ramMost: number };
        missing: string | null;
      };
      expect(missing).toBeNull();
      expect(chip).toMatchObject({ name: "atmega328p", flashMost: 32_256 });
      expect(chip.flashBytes).toBeGreaterThan(5000);
      expect(chip.flashBytes).toBeLessThan(chip.flashMost);
      expect(chip.ramBytes).toBeLessThan(chip.ramMost);
      // Intel's format: lines of a colon and pairs of hex digits, the last one says that it is the end.
      const hex =
        files
          .find(({ name }) => name === "mission.hex")
          ?.text.trim()
          .split(/\s+/) ?? [];
      expect(hex.every((line) => /^:([0-9A-F]{2})+$/.test(line))).toBe(true);
      expect(hex.at(-1)).toBe(":00000001FF");
    }
  }, 120_000);

  test("what a board cannot do comes with its line", async () => {
    const program = programOf('  set words = "far " + eye.distance\n  show words');
    const answer = await ask({ target: "cpp", title: "Out", program, robot: drizzle() });
    expect(((await answer.json()) as { problems: object[] }).problems).toEqual([
      {
        line: 5,
        step: "1",
        message: "A board cannot keep a text that it puts together. Show it, or note the number itself.",
      },
    ]);
  });

  test.each([
    ["no program", { program: { format: "else" } }, 400],
    ["no robot", { robot: { name: "Nobody" } }, 400],
    ["another target", { target: "abacus" }, 400],
    ["a title of nothing", { title: "" }, 400],
  ])("%s is refused in words", async (_what, change, status) => {
    const whole = { target: "cpp", title: "Out", program: programOf("  go 20 cm"), robot: drizzle() };
    const answer = await ask({ ...whole, ...change });
    expect(answer.status).toBe(status);
    expect(((await answer.json()) as { detail: string }).detail).toMatch(/^[A-Z].*\.$/s);
  });
});
