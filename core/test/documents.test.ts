// What the documentation shows is true: examples check, schemas are current, the demo fits them.
import { readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import { documentSchemas, fieldSchema, formatMission, openFloor, prepareMission, rehearse } from "../src/index.js";
import { robotSchema } from "../src/robot/schema.js";
import { demoRobot, drizzle, fellside, missionFile } from "./support/demo.js";

const docs = path.resolve(import.meta.dirname, "../../docs");

const MOVES = new Map([["Moves", missionFile("collections/moves.cairn")]]);

function examplesIn(file: string): { readonly first: string | undefined; readonly example: string }[] {
  const text = readFileSync(path.join(docs, file), "utf8");
  return [...text.matchAll(/## ([^\n]*)|```cairn\n([\s\S]*?)```/g)].reduce<{ first: string; example: string }[]>(
    (found, [, heading, example]) => {
      if (heading !== undefined) found.push({ first: heading, example: "" });
      const last = found.at(-1);
      if (last && example !== undefined) last.example = example;
      return found;
    },
    [],
  );
}

describe("the recipes", () => {
  const recipes = examplesIn("recipes.md").filter(({ example }) => example !== "");

  test("cover lines, obstacles, walls, parking, places, carrying, sorting and a race", () => {
    const all = recipes.map(({ first }) => first).join("\n");
    for (const word of ["Line", "Obstacle", "Wall", "Parking", "Places", "Carrying", "Sorting", "race", "stays"])
      expect(all).toContain(word);
  });

  test.each(recipes)("$first: checks without a word, is canonical, and meets its goal in three runs", ({ example }) => {
    const robot = example.includes('robot "Sleet"') ? demoRobot("sleet") : drizzle();
    const prepared = prepareMission(example, robot, fellside());
    expect(prepared.check.problems.map(({ message }) => message)).toEqual([]);
    expect(formatMission(example)).toEqual({ ok: true, text: example });
    for (const seed of [1, 2, 3]) expect(rehearse(prepared, { seed, ideal: false }).summary.reason).toBe("");
  });
});

describe("the language reference", () => {
  const text = readFileSync(path.join(docs, "cairn.md"), "utf8");
  const examples = [...text.matchAll(/```cairn\n([\s\S]*?)```/g)].map(([, example]) => example as string);

  test("has examples", () => {
    expect(examples.length).toBeGreaterThanOrEqual(3);
  });

  test.each(examples.map((example) => ({ first: example.split("\n").at(-2), example })))(
    "example that ends with $first checks and is canonical",
    ({ example }) => {
      const robot = example.includes('robot "Sleet"') ? demoRobot("sleet") : drizzle();
      const field = example.includes('field "') ? fellside() : openFloor();
      const prepared = prepareMission(example, robot, field, undefined, MOVES);
      expect(prepared.check.problems.filter((problem) => problem.severity === "error")).toEqual([]);
      expect(formatMission(example)).toEqual({ ok: true, text: example });
      // Every example runs to its end.
      expect(rehearse(prepared, { seed: 1, ideal: true }).summary.outcome).toBe("finished");
    },
  );
});

describe("published schemas", () => {
  test.each(["robot", "field"] as const)(
    "the %s schema is the one the program reads with (npm run schemas)",
    (kind) => {
      expect(JSON.parse(readFileSync(path.join(docs, `schemas/${kind}.schema.json`), "utf8"))).toEqual(
        JSON.parse(JSON.stringify(documentSchemas()[kind])),
      );
    },
  );

  test("demo documents survive reading and writing", () => {
    expect(robotSchema.parse(JSON.parse(JSON.stringify(drizzle())))).toEqual(drizzle());
    expect(fieldSchema.parse(JSON.parse(JSON.stringify(fellside())))).toEqual(fellside());
  });
});
