// Practice rounds as runs: of the newest versions, at their own times, without a trace; counted, filtered, and in the project file.
import { strFromU8, unzipSync } from "fflate";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Loose } from "../support/mission.js";
import { type RunningServer, request, startServer } from "../support/server.js";

let server: RunningServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.leave());

const post = (body: unknown) =>
  request(server, "/api/trials/practice", {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
const mark = (mission: string, atS: number, tookS: number, worked: boolean) => ({
  mission,
  atS,
  tookS,
  worked,
  points: 40,
});
const kept = async (): Promise<Loose[]> =>
  (await request(server, "/api/trials?source=practice")).data.trials.sort((a: Loose, b: Loose) =>
    a.startedAt < b.startedAt ? -1 : 1,
  );

describe("a practice round", () => {
  test("is kept mission by mission; what this project does not have is named", async () => {
    const marks = [
      mark("Trail to the mast", 21.5, 21.5, true),
      mark("Nobody's mission", 30, 8.5, true),
      mark("First roll out", 44, 14, false),
    ];
    const { status, data } = await post({ at: "2026-11-20T10:00:00.000Z", marks });
    expect([status, data]).toEqual([201, { kept: 2, unknown: ["Nobody's mission"] }]);
    const [trail, roll] = await kept();
    expect(trail).toMatchObject({
      mission: { name: "Trail to the mast", number: 1 },
      robot: { name: "Drizzle" },
      field: { name: "Fellside", number: 1 },
      success: true,
      score: 40,
      durationMs: 21_500,
      startedAt: "2026-11-20T10:00:21.500Z",
    });
    expect(roll).toMatchObject({ success: false, score: 0, durationMs: 14_000 });
    expect(roll?.summary.reason).toContain("ticked off as failed");
  });

  test("counts in how often its mission works, and has no trace", async () => {
    const [trail] = await kept();
    const { data } = await request(server, `/api/trials/counts?mission=${trail?.mission.document}`);
    expect(data).toMatchObject({ count: 1, worked: 1, versions: [{ number: 1, runs: 1, successes: 1 }] });
    expect((await request(server, `/api/trials/${trail?.id}/trace`)).status).toBe(404);
  });

  test("goes out with the project and comes into another installation", async () => {
    const zip = new Uint8Array(await (await fetch(`${server.url}/api/project`)).arrayBuffer());
    const files = unzipSync(zip);
    const trials = Object.entries(files)
      .filter(([name]) => /^trials\/.*\.json$/.test(name))
      .map(([, bytes]) => JSON.parse(strFromU8(bytes)));
    expect(trials).toHaveLength(2);
    expect(trials[0]).toMatchObject({ source: "practice", trace: false });
    const other = await startServer({ demo: false });
    try {
      const { status, data } = await request(other, "/api/project", {
        method: "POST",
        headers: { "content-type": "application/zip" },
        body: zip,
      });
      expect([status, data.trials]).toEqual([200, 2]);
    } finally {
      await other.stop();
    }
  });
});

test.each([
  ["no marks", { at: "2026-11-20T10:00:00Z", marks: [] }],
  ["a time that is none", { at: "yesterday", marks: [mark("Trail to the mast", 1, 1, true)] }],
  ["a mark before its round", { at: "2026-11-20T10:00:00Z", marks: [mark("Trail to the mast", -1, 1, true)] }],
  ["more than a day", { at: "2026-11-20T10:00:00Z", marks: [mark("Trail to the mast", 90_000, 1, true)] }],
])("%s is refused", async (_, body) => {
  const before = (await kept()).length;
  expect((await post(body)).status).toBe(400);
  expect(await kept()).toHaveLength(before);
});
