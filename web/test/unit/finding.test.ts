// What Ctrl+K finds, and in which order.
import { GLOSSARY } from "@giddy-pebble/core";
import { describe, expect, test } from "vitest";
import type { ListedDocument } from "../../src/shared/api.js";
import { everything, find } from "../../src/shared/palette/finding.js";

function document(name: string, kind: string, changedAt: string): ListedDocument {
  return {
    id: `00000000-0000-4000-8000-${name.length.toString().padStart(12, "0")}`,
    kind,
    name,
    headRevision: 1,
    createdAt: changedAt,
    changedAt,
    archivedAt: null,
    robot: kind === "mission" ? "Drizzle" : null,
    field: null,
    remote: false,
    collections: [],
  };
}

const ALL = everything([
  document("Turning about", "mission", "2026-11-01T10:00:00Z"),
  document("Drizzle", "robot", "2026-11-02T10:00:00Z"),
  document("Café run", "mission", "2026-11-03T10:00:00Z"),
]);
const titles = (typed: string) => find(ALL, typed).map(({ title }) => title);

describe("search over everything", () => {
  test("without words it offers the newest documents, then what can be done", () => {
    expect(titles("").slice(0, 3)).toEqual(["Café run", "Drizzle", "Turning about"]);
    expect(titles("")).toContain("Draw a field");
  });

  test("a title that begins so comes before one that only tells of it", () => {
    expect(titles("turn")[0]).toBe("turn");
    expect(titles("drizzle")[0]).toBe("Drizzle");
    expect(titles("drizzle")).toContain("Turning about");
  });

  test("accents, case and the order of words do not matter; every word has to fit", () => {
    expect(titles("RUN cafe")).toEqual(["Café run"]);
    expect(titles("cafe zzz")).toEqual([]);
  });

  test.each([
    ["ultrasonic", "distance sensor"],
    ["wheelbase", "effective track width"],
    ["simulate", "rehearse"],
    ["revision", "version"],
    ["imu", "gyro"],
  ])("the trade's word %s finds %s", (typed, term) => {
    expect(titles(typed)).toContain(term);
  });

  test("every term of the glossary is found by its own name first among the words", () => {
    for (const { terms } of GLOSSARY)
      for (const { term } of terms) {
        const words = find(ALL, term).filter(({ group }) => group === "Words");
        expect(words[0]?.title).toBe(term);
      }
  });

  test("what is found of one kind stays together", () => {
    const groups = find(ALL, "r").map(({ group }) => group);
    expect(groups.filter((group, i) => group !== groups[i - 1])).toHaveLength(new Set(groups).size);
  });
});
