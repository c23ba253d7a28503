// Every word of the reference has an example that runs as it stands and meets what it asks for.

import { describe, expect, test } from "vitest";
import { WORD_HELP } from "../../src/cairn/help.js";
import { CAIRN_REFERENCE } from "../../src/cairn/reference.js";
import { openFloor } from "../../src/field/read.js";
import { prepareMission } from "../../src/rehearse/prepare.js";
import { rehearse } from "../../src/rehearse/rehearsal.js";
import { demoField, demoRobot } from "../support/demo.js";

const ENTRIES = CAIRN_REFERENCE.flatMap(({ entries }) => entries);

test("every word that has help stands in the reference, but for use, which needs a collection", () => {
  const words = new Set(ENTRIES.flatMap(({ word }) => word.split(" ")));
  expect(Object.keys(WORD_HELP).filter((word) => !words.has(word))).toEqual(["use"]);
});

describe("the example of", () => {
  test.each(ENTRIES)("$word", ({ word, help, example }) => {
    expect(help).toMatch(/\.$/);
    for (const part of word.split(" ")) expect(example).toContain(part);
    const robot = demoRobot((/^robot "(.*)"$/m.exec(example)?.[1] ?? "").toLowerCase());
    const field = example.includes('field "Fellside"') ? demoField("fellside") : openFloor();
    const prepared = prepareMission(example, robot, field);
    expect(prepared.check.problems.filter(({ severity }) => severity === "error")).toEqual([]);
    const { summary } = rehearse(prepared, { seed: 1, ideal: true });
    expect([summary.outcome, summary.success, summary.reason]).toEqual(["finished", true, ""]);
  });
});
