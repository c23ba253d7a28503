// What the documentation shows is true: examples check, schemas are current, the demo fits them.
import { readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import {
  documentSchemas,
  fieldSchema,
  formatMission,
  openFloor,
  prepareMission,
  rehearse,
  robotSchema,
} from "../src/index.js";
import { demoRobot, drizzle, fellside } from "./support/demo.js";

const docs = path.resolve(import.meta.dirname, "../../docs");

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
      const prepared = prepareMission(example, robot, example.includes('field "') ? fellside() : openFloor());
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
