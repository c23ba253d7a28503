// What is kept of runs: today's form whole, an earlier one as far as it can be read.
import { expect, test } from "vitest";
import { keptRunSchema, runSummarySchema, storedSummary } from "../../src/index.js";
import { runSteps } from "../support/demo.js";

test("a run's summary is of the form it is kept in, and comes back the same", () => {
  const { summary } = runSteps("go 20 cm\nnote way = robot.travel\nshow 1");
  expect(runSummarySchema.parse(JSON.parse(JSON.stringify(summary)))).toEqual(summary);
  expect(storedSummary({ ...summary })).toEqual(summary);
  expect(storedSummary({ ...summary, tape: { xM: 1, yM: 2, headingRad: 0 } })).toMatchObject({ tape: { xM: 1 } });
});

test("fields that an earlier version wrote otherwise are left out, and the rest stays", () => {
  const { summary } = runSteps("go 20 cm");
  const old = { ...summary, contacts: ["bumper"], steps: [{ step: "1", line: 1 }], colour: "blue" };
  const read = storedSummary(old);
  expect(read).toMatchObject({ success: true, traceHash: summary.traceHash, end: summary.end });
  expect([read.contacts, read.steps, "colour" in read]).toEqual([undefined, undefined, false]);
  expect(keptRunSchema.safeParse(read).success).toBe(false);
  expect(storedSummary({})).toEqual({});
  expect(storedSummary({ reason: "It was ticked off as failed." })).toEqual({ reason: "It was ticked off as failed." });
});

test.each(["zones", "loads", "contacts", "heard", "notes", "remembered", "signs", "notesDropped", "tippedMs"])(
  "a summary without %s is whole: it came later",
  (key) => {
    const { summary } = runSteps("go 20 cm");
    const { [key as keyof typeof summary]: _, ...rest } = summary;
    expect(runSummarySchema.parse(rest)).toEqual(summary);
  },
);
