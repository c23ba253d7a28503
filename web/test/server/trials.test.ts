import { readFileSync } from "node:fs";
import path from "node:path";
import {
  CORE_VERSION,
  openFloor,
  packTrace,
  prepareMission,
  type RunResult,
  readRobot,
  rehearse,
  traceHash,
  unpackTrace,
} from "@giddy-pebble/core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { headOf, type RunningServer, request, startServer } from "../support/server.js";

let server: RunningServer;
let revisions: { mission: string; robot: string; missionDocument: string };
let run: RunResult;

// biome-ignore lint/suspicious/noExplicitAny: answers are looked at field by field
type Loose = any;

const json = (address: string, init?: RequestInit) => request(server, address, init);
const head = (kind: string) => headOf(server, kind);

beforeAll(async () => {
  server = await startServer();
  const mission = await head("mission");
  revisions = { mission: mission.revision, missionDocument: mission.document, robot: (await head("robot")).revision };
  const robot = readRobot(
    JSON.parse(readFileSync(path.resolve(import.meta.dirname, "../../../demo/drizzle.robot.json"), "utf8")),
  );
  if (!robot.ok) throw new Error("the demo robot does not read");
  run = rehearse(prepareMission('cairn 1\nrobot "Drizzle"\nmission\n  go 10 cm\n', robot.document, openFloor()), {
    seed: 7,
    ideal: false,
  });
});
afterAll(() => server.leave());

function store(change: Loose = {}): Promise<{ status: number; data: Loose }> {
  const { summary, trace } = run;
  const body = {
    missionRevision: revisions.mission,
    robotRevision: revisions.robot,
    fieldRevision: null,
    coreVersion: CORE_VERSION,
    source: "rehearsal",
    seed: 7,
    ideal: false,
    outcome: summary.outcome,
    success: summary.success,
    score: summary.score,
    durationMs: summary.durationMs,
    summary,
    trace: Buffer.from(packTrace(trace)).toString("base64"),
    ...change,
  };
  return json("/api/trials", {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
}

describe("trials", () => {
  test("a stored trial comes back with its trace, bit for bit, also after a restart", async () => {
    const { status, data } = await store();
    expect(status).toBe(201);
    await server.stop();
    server = await startServer({ database: server.database });
    const trial = (await json(`/api/trials/${data.id}`)).data;
    expect(trial).toMatchObject({
      seed: 7,
      outcome: "finished",
      success: true,
      mission: { revision: revisions.mission, number: 1 },
      summary: { traceHash: run.summary.traceHash },
    });
    const bytes = new Uint8Array(await (await fetch(`${server.url}/api/trials/${data.id}/trace`)).arrayBuffer());
    const read = unpackTrace(bytes);
    expect(read.ok && traceHash(read.trace)).toBe(run.summary.traceHash);
  });

  test.each([
    ["nothing", {}],
    ["words for a time", { durationMs: "long" }],
    ["an end that no run has", { outcome: "vanished" }],
    ["a step without a line", { steps: [{ step: "1", text: "go" }] }],
    ["notes that are no list", { notes: "many" }],
    ["a place without a heading", { end: { xM: 1, yM: 2 } }],
  ])("a summary with %s is refused, and nothing is kept", async (_, change) => {
    const before = (await json("/api/trials?limit=200")).data.trials.length;
    const summary = Object.keys(change).length === 0 ? {} : { ...run.summary, ...change };
    const { status, data } = await store({ summary });
    expect(status).toBe(400);
    expect(JSON.stringify(data)).toContain("summary");
    expect((await json("/api/trials?limit=200")).data.trials).toHaveLength(before);
  });

  test("pages hold every trial once, newest first", async () => {
    for (let i = 0; i < 7; i += 1) await store({ seed: 100 + i });
    const seen: string[] = [];
    let cursor: string | null = null;
    do {
      const page: Loose = (
        await json(
          `/api/trials?limit=3&mission=${revisions.missionDocument}${cursor ? `&cursor=${encodeURIComponent(cursor)}` : ""}`,
        )
      ).data;
      seen.push(...page.trials.map((trial: Loose) => trial.id));
      cursor = page.next;
    } while (cursor);
    expect(seen.length).toBeGreaterThanOrEqual(8);
    expect(new Set(seen).size).toBe(seen.length);
    const first = (await json("/api/trials?limit=1")).data.trials[0];
    expect(first.seed).toBe(106);
  });

  test.each<[string, object]>([
    ["a version that does not exist", { missionRevision: "00000000-0000-4000-8000-000000000000" }],
    ["a robot's version as its mission", { missionRevision: "ROBOT" }],
    ["bytes that are no trace", { trace: Buffer.from("hello").toString("base64") }],
  ])("%s is refused and nothing is stored", async (_, change) => {
    const before = (await json("/api/trials?limit=200")).data.trials.length;
    const real = JSON.parse(JSON.stringify(change).replace("ROBOT", revisions.robot));
    expect((await store(real)).status).toBe(422);
    expect((await json("/api/trials?limit=200")).data.trials).toHaveLength(before);
  });

  test("what a person wrote and taped stands beside it, one without the other, and comes off again", async () => {
    const { data } = await store({ source: "robot" });
    const patch = (body: object) =>
      json(`/api/trials/${data.id}`, {
        method: "PATCH",
        headers: { "content-type": "application/json" },
        body: JSON.stringify(body),
      });
    const kept = async () => (await json(`/api/trials/${data.id}`)).data;
    expect(await kept()).toMatchObject({ note: "", tape: null });
    const tape = { alongM: 0.104, asideM: -0.006, headingRad: 0.02 };
    expect((await patch({ tape })).status).toBe(200);
    expect((await patch({ note: "on carpet" })).status).toBe(200);
    expect(await kept()).toMatchObject({ note: "on carpet", tape });
    expect((await patch({ tape: { ...tape, headingRad: null } })).status).toBe(200);
    expect((await kept()).tape.headingRad).toBeNull();
    expect((await patch({ tape: null })).status).toBe(200);
    expect(await kept()).toMatchObject({ note: "on carpet", tape: null });
    for (const wrong of [{}, { tape: { alongM: 1 } }, { tape: { ...tape, asideM: 1e6 } }, { tape: "1 m" }])
      expect((await patch(wrong)).status).toBe(400);
    expect(
      (
        await json("/api/trials/00000000-0000-4000-8000-000000000000", {
          method: "PATCH",
          headers: { "content-type": "application/json" },
          body: '{"tape":null}',
        })
      ).status,
    ).toBe(404);
  });

  test("a trial that is not there", async () => {
    expect((await json("/api/trials/00000000-0000-4000-8000-000000000000")).status).toBe(404);
    expect((await json("/api/trials/00000000-0000-4000-8000-000000000000/trace")).status).toBe(404);
  });
});
