// How often a text is read: an edit parses once, checks once, lowers once.
import { beforeEach, expect, test, vi } from "vitest";
import { checkMission } from "../../src/cairn/check.js";
import { parseMission } from "../../src/cairn/parser.js";
import { prepareMission, Rehearsal, rehearse } from "../../src/index.js";
import { linkProgram } from "../../src/program/link.js";
import { lowerMission } from "../../src/program/lower.js";
import { drizzle, fellside, missionOf } from "../support/demo.js";

vi.mock("../../src/cairn/parser.js", { spy: true });
vi.mock("../../src/cairn/check.js", { spy: true });
vi.mock("../../src/program/lower.js", { spy: true });

beforeEach(() => {
  vi.clearAllMocks();
});

const counts = () => [parseMission, checkMission, lowerMission].map((one) => vi.mocked(one).mock.calls.length);

test("a mission is parsed once, checked once and lowered once, however often it runs", () => {
  const text = missionOf("go 20 cm\nrepeat 2 times\n  turn left 90 deg");
  const prepared = prepareMission(parseMission(text), drizzle(), fellside());
  expect(prepared.program).not.toBeNull();
  expect(counts()).toEqual([1, 1, 1]);
  for (let seed = 1; seed <= 3; seed += 1) rehearse(prepared, { seed, ideal: false });
  expect(counts()).toEqual([1, 1, 1]);
});

test("a program that came without its text is run without reading any", () => {
  const prepared = prepareMission(missionOf("go 20 cm"), drizzle(), fellside());
  const program = JSON.parse(JSON.stringify(prepared.program));
  vi.clearAllMocks();
  new Rehearsal({ ...prepared, program }, { seed: 1, ideal: true }).advance(50);
  expect(counts()).toEqual([0, 0, 0]);
  expect(linkProgram(program)).toBe(linkProgram(program));
});
