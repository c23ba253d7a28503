// What one edit of a mission costs the page: its text is parsed once, checked and lowered once, and the worker that
// draws the path gets the program.
import { readFileSync } from "node:fs";
import path from "node:path";
import { openRobot, parseMission, prepareMission } from "@giddy-pebble/core";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { useMission } from "../../src/shared/mission/state.js";
import { dispatch } from "../../src/shared/mission/store.js";
import { fellside } from "../support/demo.js";

vi.mock("@giddy-pebble/core", { spy: true });

const sent: { type: string; program?: { instructions: unknown[] }; text?: string }[] = [];
class FakeWorker {
  onmessage: unknown = null;
  postMessage(message: (typeof sent)[number]): void {
    sent.push(message);
  }
  terminate(): void {}
}

beforeEach(() => {
  vi.stubGlobal("Worker", FakeWorker);
  sent.length = 0;
});
afterEach(() => vi.unstubAllGlobals());

test("an edit parses once and prepares once, from what was parsed", () => {
  const file = path.resolve(import.meta.dirname, "../../../demo/drizzle.robot.json");
  const robot = openRobot(JSON.parse(readFileSync(file, "utf8")));
  if (!robot.ok) throw new Error(robot.problems.join("; "));
  const stored = { revisionId: "", revisionNumber: 1, pending: null };
  useMission.setState({
    robots: new Map([["Drizzle", { document: robot.document, ...stored }]]),
    fields: new Map([["Fellside", { document: fellside(), ...stored }]]),
  });
  const text = 'cairn 1\nrobot "Drizzle"\nfield "Fellside"\n\nmission\n  go 20 cm\n  turn left 90 deg\n';
  vi.mocked(parseMission).mockClear();
  vi.mocked(prepareMission).mockClear();
  dispatch({ type: "edit", text, label: "typing" });
  expect(vi.mocked(parseMission).mock.calls).toHaveLength(1);
  expect(vi.mocked(prepareMission).mock.calls).toHaveLength(1);
  expect(vi.mocked(prepareMission).mock.calls[0]?.[0]).toBe(useMission.getState().mission);
  const asked = sent.filter(({ type }) => type === "rehearse");
  expect(asked).toHaveLength(1);
  expect(asked[0]?.text).toBeUndefined();
  expect(asked[0]?.program?.instructions).toHaveLength(3);
});
