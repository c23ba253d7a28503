// Runs filtered, counted and marked on the server; what takes room, and old rehearsals; what happened; small pictures and files.
import { CORE_VERSION, openFloor, packTrace, prepareMission, readRobot, rehearse } from "@giddy-pebble/core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Loose } from "../support/mission.js";
import { headOf, type RunningServer, request, startServer } from "../support/server.js";
import { twentyRuns } from "../support/study.js";

let server: RunningServer;
let mission: { document: string; revision: string };
let robot: { document: string; revision: string };
const ids: string[] = [];

function send(method: string, address: string, body: unknown) {
  return request(server, address, {
    method,
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
}

const get = async (address: string): Promise<Loose> => (await request(server, address)).data;

/** Twelve rehearsals of which every third failed, then one run of a robot. */
beforeAll(async () => {
  server = await startServer();
  [mission, robot] = [await headOf(server, "mission"), await headOf(server, "robot")];
  const read = readRobot((await get(`/api/documents/${robot.document}`)).head.body);
  if (!read.ok) throw new Error("the robot does not read");
  const prepared = prepareMission("cairn 1\nmission\n  go 5 cm\n", read.document, openFloor());
  const run = rehearse(prepared, { seed: 1, ideal: true });
  const trace = Buffer.from(packTrace(run.trace)).toString("base64");
  for (let seed = 1; seed <= 13; seed += 1) {
    const { data } = await send("POST", "/api/trials", {
      missionRevision: mission.revision,
      robotRevision: robot.revision,
      fieldRevision: null,
      coreVersion: CORE_VERSION,
      source: seed === 13 ? "robot" : "rehearsal",
      seed,
      ideal: false,
      outcome: "finished",
      success: seed % 3 !== 0,
      score: null,
      durationMs: 1000 * seed,
      summary: run.summary,
      trace,
    });
    ids.push(data.id);
  }
});
afterAll(() => server.leave());

const seeds = async (query: string): Promise<number[]> =>
  (await get(`/api/trials?limit=200&${query}`)).trials
    .map(({ seed }: Loose) => seed)
    .sort((a: number, b: number) => a - b);

describe("filters", () => {
  test.each([
    ["result=failed", [3, 6, 9, 12]],
    ["source=robot", [13]],
    ["source=rehearsal&result=worked", [1, 2, 4, 5, 7, 8, 10, 11]],
    ["words=nothing%20of%20the%20kind", []],
  ])("%s", async (query, expected) => {
    expect(await seeds(query)).toEqual(expected);
    const counts = await get(`/api/trials/counts?${query}`);
    expect(counts.count).toBe(expected.length);
  });

  test("of one mission, page by page, without one twice or one left out", async () => {
    const found: number[] = [];
    let cursor = "";
    for (let pages = 0; pages < 10; pages += 1) {
      const page = await get(`/api/trials?limit=4&mission=${mission.document}&result=worked${cursor}`);
      found.push(...page.trials.map(({ seed }: Loose) => seed));
      if (!page.next) break;
      cursor = `&cursor=${encodeURIComponent(page.next)}`;
    }
    expect(found.sort((a, b) => a - b)).toEqual([1, 2, 4, 5, 7, 8, 10, 11, 13]);
  });

  test.each(["source=walking", "result=maybe", "mission=1", `tag=${"t".repeat(41)}`])(
    "%s is refused",
    async (query) => {
      expect((await request(server, `/api/trials?${query}`)).status).toBe(400);
      expect((await request(server, `/api/trials/counts?${query}`)).status).toBe(400);
    },
  );
});

test("counts by version take single runs and many at once together", async () => {
  await send("POST", "/api/studies", {
    missionRevision: mission.revision,
    robotRevision: robot.revision,
    fieldRevision: null,
    coreVersion: CORE_VERSION,
    seed: 5,
    summary: twentyRuns(),
  });
  const { count, worked, versions } = await get(`/api/trials/counts?mission=${mission.document}`);
  expect({ count, worked, versions }).toEqual({
    count: 13,
    worked: 9,
    versions: [{ number: 1, runs: 33, successes: 25 }],
  });
  const many = await get(`/api/trials/counts?mission=${mission.document}&source=study`);
  expect(many.versions).toEqual([{ number: 1, runs: 20, successes: 16 }]);
});

describe("marks", () => {
  test("a tag is put on several runs once, found by, and taken off", async () => {
    const some = ids.slice(0, 3);
    for (let twice = 0; twice < 2; twice += 1)
      expect((await send("POST", "/api/trials/marks", { ids: some, tag: " practice ", on: true })).data.marked).toBe(3);
    expect(await seeds("tag=practice")).toEqual([1, 2, 3]);
    expect((await get("/api/trials/counts")).tags).toEqual([{ tag: "practice", count: 3 }]);
    expect((await get(`/api/trials/${ids[0]}`)).tags).toEqual(["practice"]);
    await send("POST", "/api/trials/marks", { ids: some.slice(0, 2), tag: "practice", on: false });
    expect(await seeds("tag=practice")).toEqual([3]);
  });

  test("a note is written on several, and found by its words", async () => {
    await send("POST", "/api/trials/marks", { ids: ids.slice(3, 5), note: "Wet Floor" });
    expect(await seeds("words=wet%20floor")).toEqual([4, 5]);
  });

  test.each([
    ["no runs", { ids: [], tag: "a", on: true }],
    ["an empty tag", { ids: ["00000000-0000-4000-8000-000000000000"], tag: "  ", on: true }],
    ["a tag with a comma", { ids: ["00000000-0000-4000-8000-000000000000"], tag: "a,b", on: true }],
    ["a tag and a note", { ids: ["00000000-0000-4000-8000-000000000000"], tag: "a", on: true, note: "b" }],
  ])("%s is refused", async (_, body) => {
    expect((await send("POST", "/api/trials/marks", body)).status).toBe(400);
  });

  test("runs that are not there are passed over", async () => {
    const body = { ids: ["00000000-0000-4000-8000-000000000000"], tag: "a", on: true };
    expect((await send("POST", "/api/trials/marks", body)).data.marked).toBe(0);
  });
});

test("what happened is told newest first: versions, and many at once", async () => {
  const { events } = await get("/api/timeline");
  const times = events.map(({ at }: Loose) => at);
  expect(times).toEqual([...times].sort().reverse());
  expect(events.find(({ what }: Loose) => what === "study").words).toBe("16 of 20 rehearsals worked");
  expect(events.filter(({ what }: Loose) => what === "version").length).toBeGreaterThan(20);
});

describe("room", () => {
  test("is measured, and old rehearsals that nobody marked go; a robot's run and marked ones stay", async () => {
    const { room, old } = await get("/api/room?olderThan=0");
    expect(room).toMatchObject({ trials: 13, studies: 1 });
    expect(room.trialBytes).toBeGreaterThan(1000);
    // Of twelve rehearsals one has a tag and two a note.
    expect(old).toBe(9);
    expect((await get("/api/room?olderThan=30")).old).toBe(0);
    expect((await send("POST", "/api/room", { olderThan: 30 })).data.deleted).toBe(0);
    expect((await send("POST", "/api/room", { olderThan: 0 })).data.deleted).toBe(9);
    expect(await seeds("")).toEqual([3, 4, 5, 13]);
  });

  test.each([-1, 1.5, 4000, "all"])("an age of %s is refused", async (olderThan) => {
    expect((await send("POST", "/api/room", { olderThan })).status).toBe(400);
  });
});

describe("small pictures and files", () => {
  test("every robot, field and mission has a picture, the same one as long as nothing changes", async () => {
    const { documents } = await get("/api/documents");
    for (const { id, kind } of documents as Loose[]) {
      const answer = await fetch(`${server.url}/api/documents/${id}/picture`);
      if (kind === "collection") {
        expect(answer.status).toBe(404);
        continue;
      }
      expect([answer.status, answer.headers.get("content-type")]).toEqual([200, "image/svg+xml"]);
      expect(await answer.text()).toMatch(/^<svg [\s\S]*<\/svg>\n$/);
      const again = await fetch(`${server.url}/api/documents/${id}/picture`, {
        headers: { "if-none-match": answer.headers.get("etag") ?? "" },
      });
      expect(again.status).toBe(304);
    }
  });

  test("a mission that was run has its way on it", async () => {
    const svg = await (await fetch(`${server.url}/api/documents/${mission.document}/picture`)).text();
    expect(svg).toContain("<polyline");
  });

  test("a document is saved as a file of its open format, with what is being typed", async () => {
    const open = await get(`/api/documents/${mission.document}`);
    await request(server, `/api/documents/${mission.document}/draft`, {
      method: "PUT",
      headers: { "content-type": "application/json", "if-match": '"0"' },
      body: JSON.stringify({ baseRevision: 1, text: `${open.head.text}# typed\n` }),
    });
    const text = await fetch(`${server.url}/api/documents/${mission.document}/file`);
    expect(text.headers.get("content-disposition")).toMatch(/^attachment; filename="[a-z0-9-]+\.cairn"$/);
    expect(await text.text()).toBe(`${open.head.text}# typed\n`);
    const body = await fetch(`${server.url}/api/documents/${robot.document}/file`);
    expect(body.headers.get("content-disposition")).toContain(".robot.json");
    expect((await body.json()).format).toBe("giddy-pebble/robot");
  });
});
