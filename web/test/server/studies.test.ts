// Studies: stored with what made them, listed by mission, refused when they name what is not there.
import { CORE_VERSION, summariseStudy } from "@giddy-pebble/core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { headOf, type RunningServer, request, startServer } from "../support/server.js";
import { twentyRuns } from "../support/study.js";

let server: RunningServer;
let mission: { document: string; revision: string };
let robot: { document: string; revision: string };

// biome-ignore lint/suspicious/noExplicitAny: answers are looked at field by field
type Loose = any;

const json = (address: string, init?: RequestInit) => request(server, address, init);
const head = (kind: string) => headOf(server, kind);

beforeAll(async () => {
  server = await startServer();
  [mission, robot] = [await head("mission"), await head("robot")];
});
afterAll(() => server.leave());

function store(change: Loose = {}): Promise<{ status: number; data: Loose }> {
  const summary = twentyRuns();
  const body = {
    missionRevision: mission.revision,
    robotRevision: robot.revision,
    fieldRevision: null,
    coreVersion: CORE_VERSION,
    seed: 5,
    summary,
    ...change,
  };
  return json("/api/studies", {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
}

test("a study is kept and listed with its version, newest first", async () => {
  expect((await store()).status).toBe(201);
  expect((await store({ seed: 6 })).status).toBe(201);
  const { data } = await json(`/api/studies?mission=${mission.document}`);
  expect(data.studies.map((study: Loose) => study.seed)).toEqual([6, 5]);
  expect(data.studies[0]).toMatchObject({ runs: 20, successes: 16, mission: { number: 1 }, robot: { number: 1 } });
  expect(data.studies[0].summary).toBeUndefined();
  const one = await json(`/api/studies/${data.studies[0].id}`);
  expect(one.data.summary.blames[0]).toMatchObject({ step: "1", runs: 4 });
  expect((await json("/api/studies/00000000-0000-4000-8000-000000000000")).status).toBe(404);
  expect((await json(`/api/studies?mission=${robot.document}`)).data.studies).toEqual([]);
});

test("one that names a version that is not there, or makes no sense, is refused with a sentence", async () => {
  const unknown = await store({ missionRevision: "00000000-0000-4000-8000-000000000000" });
  expect(unknown.status).toBe(422);
  expect(unknown.data.detail).toContain("does not exist");
  expect((await store({ robotRevision: mission.revision })).status).toBe(422);
  expect((await store({ summary: summariseStudy([]) })).status).toBe(400);
  expect((await json("/api/studies?mission=all")).status).toBe(400);
});
