// What leaves with a mission: it compiles without a warning, whatever the mission's names and texts hold, and says at its
// line what a board cannot do.
import { readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import { WHOLE } from "../../core/test/support/search.js";
import { compileExport, exportMission, TARGETS } from "../src/index.js";
import { demoMission, demoMissions, missionOf } from "./support.js";

async function exported(target: (typeof TARGETS)[number], prepared: ReturnType<typeof missionOf>) {
  if (!prepared.program) throw new Error("the mission has errors");
  return exportMission(target, prepared.program, prepared.context.robot, "A test");
}

describe("C++", () => {
  const one = new Map(demoMissions().map(({ prepared }) => [prepared.context.robot.name, prepared]));
  // Two missions of Drizzle are compiled below.
  test.runIf(WHOLE).each([...one])("of %s compiles without a warning", async (_name, prepared) => {
    const { files, problems } = await exported("cpp", prepared);
    expect(problems).toEqual([]);
    expect([...files.keys()]).toEqual(expect.arrayContaining(["mission.cpp", "robot.h", "my_board.cpp", "README.md"]));
    await compileExport(files);
  });

  test("names and texts of a mission cannot become code", async () => {
    const texts = ["a*/ b", "??/", "%s%n", "tab\\", "line\\", 'quote \\" end', "ünïcödé 雪", "#include", "'''"];
    const shows = texts.map((text) => `show "${text.replaceAll('"', "").replaceAll("\\", "")}"`);
    const comments = ["# */ int main() { return 1; } \\", "# ??/", '# """ + import os'];
    const prepared = missionOf(
      [...shows, ...comments, "go 5 cm", "note class = int + lambda"].join("\n"),
      "set int = 3\nset lambda = 2\nset None = 1",
    );
    const { files } = await exported("cpp", prepared);
    await compileExport(files);
    for (const line of (files.get("mission.cpp") ?? "").split("\n")) expect(line).not.toMatch(/\\$/);
    const python = (await exported("micropython", prepared)).files.get("mission.py") ?? "";
    expect(python).toContain("v.lambda_");
    expect(python).not.toMatch(/^\s*lambda =/m);
  });
});

test("a compiler that takes more than its memory is ended and said", async () => {
  const large = `char taken[] = {${"1,".repeat(7_000_000)}};\n`;
  await expect(compileExport(new Map([["my_board.cpp", large]]))).rejects.toThrow(/memory|Killed|allocat/);
});

test("the board that the docs add compiles with the functions it leaves as they were", async () => {
  const docs = readFileSync(path.resolve(import.meta.dirname, "../../docs/boards.md"), "utf8");
  const example = /```cpp\n([\s\S]*?)```/.exec(docs)?.[1] ?? "";
  const own = new Set([...example.matchAll(/\bhal[A-Z]\w*(?=\()/g)].map(([name]) => name));
  expect(own.size).toBe(6);
  expect(example.trimEnd().split("\n").length).toBeLessThanOrEqual(40);
  const { files } = await exported("cpp", demoMission("first-roll-out"));
  const rest = (files.get("my_board.cpp") ?? "").split(/^(?=\w+ \w+\()/m);
  const kept = rest.filter((text, i) => i > 0 && ![...own].some((name) => text.includes(` ${name}(`)));
  expect(kept.length).toBe(rest.length - 1 - own.size);
  await compileExport(new Map([...files, ["my_board.cpp", `${example}\n${kept.join("")}`]]));
});

describe("what a board cannot do", () => {
  test("a text that is put together and kept is told at its line, on every target", async () => {
    const prepared = missionOf('go 5 cm\nset words = "far " + eye.distance\nshow words', 'set words = ""');
    for (const target of TARGETS) {
      const { problems } = await exported(target, prepared);
      expect(problems.map(({ message }) => message)).toEqual([
        "A board cannot keep a text that it puts together. Show it, or note the number itself.",
      ]);
      expect(problems[0]).toMatchObject({ line: 5, step: "2" });
    }
  });

  test("the same text is no problem where it is shown at once", async () => {
    const prepared = missionOf('go 5 cm\nshow "far " + eye.distance\nnote words = "far " + eye.distance');
    for (const target of TARGETS) expect((await exported(target, prepared)).problems).toEqual([]);
  });
});

describe("what is written", () => {
  test("has each step as one call under its number and its words", async () => {
    const cpp = (await exported("cpp", demoMission("first-roll-out"))).files.get("mission.cpp") ?? "";
    expect(cpp).toContain("// 2  go 60 cm at cruise\n    case 1:");
    expect(cpp).toContain("drives(t, straight(0.6, false, straightly(v_cruise)));");
    const python = (await exported("micropython", demoMission("first-roll-out"))).files.get("mission.py") ?? "";
    expect(python).toContain("# 2  go 60 cm at cruise\ndef s1(t):");
    expect(python).toContain("drives(t, straight(0.6, False, straightly(v.cruise)))");
  });

  test("has what the robot was calibrated to, with how sure and when", async () => {
    const prepared = demoMission("first-roll-out");
    const header = (await exported("cpp", prepared)).files.get("robot.h") ?? "";
    expect(header).toMatch(/constexpr real GYRO_SCALE = 1\.002;.*measured ± 0\.0015, 2026-11-12/);
    const python = (await exported("micropython", prepared)).files.get("robot.py") ?? "";
    expect(python).toMatch(/^GYRO_SCALE = 1\.002 {2}#.*measured ± 0\.0015, 2026-11-12$/m);
  });

  test("says on its page what every number of a part is, and how it is wired", async () => {
    for (const target of TARGETS) {
      const page = (await exported(target, demoMission("into-the-garage"))).files.get("README.md") ?? "";
      expect(page).toContain("| motor 0 | drive_motor | drives |");
      // The chip's lines are dealt out; other boards are wired as the robot was drawn.
      expect(page).toMatch(
        target === "avr" ? /side_eye: trigger on [BCD]\d, echo on [BCD]\d/ : /side_eye: trigger on S11, echo on S12/,
      );
      for (const row of page.split("\n")) expect(row.length).toBeLessThan(220);
    }
  });
});
