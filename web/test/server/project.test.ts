// A whole project out as one .zip, into a fresh installation, and out again; and files that are no project.
import { readFileSync } from "node:fs";
import { deflateRawSync } from "node:zlib";
import { CORE_VERSION, openFloor, packTrace, prepareMission, readRobot, rehearse } from "@giddy-pebble/core";
import { strToU8, unzipSync, Zip, ZipPassThrough, type Zippable, zipSync } from "fflate";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Loose } from "../support/mission.js";
import { type RunningServer, request, startServer } from "../support/server.js";
import { twentyRuns } from "../support/study.js";

let full: RunningServer;
let fresh: RunningServer;
beforeAll(async () => {
  [full, fresh] = await Promise.all([startServer(), startServer({ demo: false })]);
});
afterAll(() => Promise.all([full.stop(), fresh.stop()]));

function send(
  server: RunningServer,
  method: string,
  address: string,
  body: unknown,
  more: Record<string, string> = {},
) {
  return request(server, address, {
    method,
    headers: { "content-type": "application/json", ...more },
    body: JSON.stringify(body),
  });
}

async function out(server: RunningServer): Promise<Uint8Array> {
  const answer = await fetch(`${server.url}/api/project`);
  expect(answer.headers.get("content-disposition")).toMatch(
    /^attachment; filename="giddy-pebble-\d{4}-\d\d-\d\d\.zip"$/,
  );
  return new Uint8Array(await answer.arrayBuffer());
}

async function into(server: RunningServer, zip: Uint8Array): Promise<{ status: number; data: Loose }> {
  return request(server, "/api/project", {
    method: "POST",
    headers: { "content-type": "application/zip" },
    body: zip as never,
  });
}

async function documents(server: RunningServer): Promise<Loose[]> {
  return (await request(server, "/api/documents")).data.documents;
}

const open = async (server: RunningServer, id: string): Promise<Loose> =>
  (await request(server, `/api/documents/${id}`)).data;

/** Trials with notes, tapes and traces, a study, a calibration, drafts, an archived mission. */
async function fill(server: RunningServer, trials: number): Promise<void> {
  const all = await documents(server);
  const first = async (kind: string) => {
    const found = all.find((one) => one.kind === kind);
    if (!found) throw new Error(`no ${kind}`);
    return open(server, found.id);
  };
  const [mission, robot, field] = await Promise.all([first("mission"), first("robot"), first("field")]);
  const made = {
    missionRevision: mission.head.id,
    robotRevision: robot.head.id,
    fieldRevision: field.head.id,
    coreVersion: CORE_VERSION,
  };
  const drawn = readRobot(robot.head.body);
  if (!drawn.ok) throw new Error("the robot does not read");
  const prepared = prepareMission("cairn 1\nmission\n  go 5 cm\n", drawn.document, openFloor());
  for (let seed = 1; seed <= trials; seed += 1) {
    const run = rehearse(prepared, { seed, ideal: false });
    const trace = Buffer.from(packTrace(run.trace)).toString("base64");
    const trial = {
      ...made,
      source: "rehearsal",
      // The seeds that rehearsals draw are of either sign.
      seed: seed === 7 ? -85127888 : seed,
      ideal: false,
      outcome: "finished",
      success: seed % 3 !== 0,
      score: seed,
      durationMs: 500,
      summary: { ...run.summary, reason: `seed ${seed}` },
      trace,
    };
    const stored = await send(server, "POST", "/api/trials", trial);
    expect([stored.status, stored.data.detail]).toEqual([201, undefined]);
    if (seed % 10 === 0) {
      await send(server, "PATCH", `/api/trials/${stored.data.id}`, { note: `note ${seed}` });
      await send(server, "PATCH", `/api/trials/${stored.data.id}`, {
        tape: { alongM: 1, asideM: 0.2, headingRad: null },
      });
    }
  }
  await send(server, "POST", "/api/studies", { ...made, seed: -9, summary: twentyRuns() });
  await send(server, "POST", "/api/calibrations", {
    robot: robot.document.id,
    quantity: "wheel-size",
    rows: [],
    result: { title: "so and so" },
    appliedRevision: robot.head.id,
  });
  await send(
    server,
    "PUT",
    `/api/documents/${mission.document.id}/draft`,
    { baseRevision: mission.head.number, text: `${mission.head.text}  # being typed\n` },
    { "if-match": `"${mission.draft?.version ?? 0}"` },
  );
  const away = await send(server, "POST", "/api/documents", {
    kind: "mission",
    name: "Put away",
    text: "cairn 1\n\nmission\n  wait 1 s\n",
  });
  await send(server, "PATCH", `/api/documents/${away.data.document.id}`, { archived: true });
}

test("goes out, into a fresh installation, and out again as the same file, byte for byte", async () => {
  await fill(full, 40);
  const zip = await out(full);
  const files = unzipSync(zip);
  const index = JSON.parse(new TextDecoder().decode(files["project.json"]));
  expect(index).toMatchObject({ format: "giddy-pebble/project", version: 1, trials: 40, studies: 1, calibrations: 1 });
  expect(new TextDecoder().decode(files["missions/first-roll-out.cairn"])).toContain("# being typed");
  const drawn = JSON.parse(readFileSync(new URL("../../../demo/drizzle.robot.json", import.meta.url), "utf8"));
  expect(JSON.parse(new TextDecoder().decode(files["robots/drizzle.json"]))).toMatchObject({ name: drawn.name });
  expect(JSON.stringify(index)).not.toMatch(/[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}/);
  const taken = await into(fresh, zip);
  expect([taken.status, taken.data]).toEqual([
    200,
    { documents: index.documents.length, same: 0, trials: 40, studies: 1, calibrations: 1, renamed: [] },
  ]);
  expect(Buffer.from(await out(fresh)).equals(Buffer.from(zip))).toBe(true);
  const trials = (await request(fresh, "/api/trials?limit=200")).data.trials as Loose[];
  expect(trials).toHaveLength(40);
  expect(trials.find(({ seed }) => seed === 20)).toMatchObject({ note: "note 20", tape: { alongM: 1, asideM: 0.2 } });
});

describe("taken into an installation that has some of it", () => {
  test("what is the same stays, and its runs are not taken twice", async () => {
    const zip = await out(full);
    const before = await documents(full);
    const taken = await into(full, zip);
    expect(taken.data).toMatchObject({ trials: 0, studies: 0, calibrations: 0, renamed: [] });
    expect(taken.data).toMatchObject({ documents: 0, same: before.length + 1 });
    expect(await documents(full)).toHaveLength(before.length);
  });

  test("a robot that differs gets another name, and the missions that come with it name it so", async () => {
    const robots = (await documents(fresh)).filter(({ kind }) => kind === "robot");
    const gust = robots.find(({ name }) => name === "Gust");
    const { head, draft } = await open(fresh, gust?.id);
    await send(
      fresh,
      "POST",
      `/api/documents/${gust?.id}/revisions`,
      {
        baseRevision: head.number,
        body: { ...head.body, chassis: { ...head.body.chassis, massKg: 1.234 } },
        reason: "heavier",
        name: null,
      },
      { "if-match": `"${draft?.version ?? 0}"` },
    );
    const { data } = await into(fresh, await out(full));
    expect(data.renamed).toContain("Gust is now Gust 2");
    const now = await documents(fresh);
    const second = now.find(({ kind, name }) => kind === "robot" && name === "Gust 2");
    expect((await open(fresh, second?.id)).head.body.name).toBe("Gust 2");
    expect((await open(fresh, second?.id)).head.body.chassis.massKg).not.toBe(1.234);
  });
});

const index = (more: object = {}) => ({
  format: "giddy-pebble/project",
  version: 1,
  documents: [],
  trials: 0,
  studies: 0,
  calibrations: 0,
  ...more,
});
const json = (value: unknown) => strToU8(JSON.stringify(value));
const zipped = (files: Zippable) => zipSync(files, { level: 9 });
const entry = (more: object = {}) => ({
  kind: "mission",
  name: "One",
  path: "missions/one",
  madeAt: "2026-11-01T10:00:00.000Z",
  archivedAt: null,
  head: 1,
  draftOver: null,
  versions: [
    { number: 1, parent: null, name: null, reason: "made", author: "local", madeAt: "2026-11-01T10:00:00.000Z" },
  ],
  ...more,
});

describe("what is no project is refused with a reason, and nothing of it is kept", () => {
  // 1.2 GB of zeros in 1.2 MB: forty files that share the same packed bytes.
  const zeros = deflateRawSync(Buffer.alloc(30_000_000), { level: 9 });
  const parts: Uint8Array[] = [];
  const writer = new Zip((_, chunk) => void parts.push(chunk));
  for (let i = 0; i < 40; i += 1) {
    const file = new ZipPassThrough(`pictures/${i}.png`);
    file.compression = 8;
    writer.add(file);
    file.push(zeros, true);
  }
  writer.end();
  const bomb = Buffer.concat(parts);
  test.each<[string, Uint8Array, string]>([
    ["text", strToU8("hello, this is not a zip at all"), "it is not a .zip file"],
    ["nothing", new Uint8Array(0), ""],
    ["a zip of something else", zipped({ "a.txt": strToU8("a") }), "it holds no project.json"],
    ["a name that leads out of it", zipped({ "../../etc/x": strToU8("a") }), "it holds a file with the name"],
    ["a name from the root", zipped({ "/etc/x": strToU8("a") }), "it holds a file with the name"],
    ["a name with a backslash", zipped({ "..\\x": strToU8("a") }), "it holds a file with the name"],
    ["a megabyte that unpacks to more than a gigabyte", bomb, "it unpacks to more than 100 times its size"],
    ["a later version", zipped({ "project.json": json(index({ version: 2 })) }), "it has version 2"],
    ["another format", zipped({ "project.json": json(index({ format: "else" })) }), "not one of Giddy Pebble"],
    ["JSON that is none", zipped({ "project.json": strToU8("{") }), "not sound JSON"],
    [
      "an index with odd values",
      zipped({ "project.json": json(index({ trials: -1 })) }),
      "not as it should be: trials",
    ],
    [
      "a missing version",
      zipped({ "project.json": json(index({ documents: [entry()] })) }),
      "versions/missions/one/1.cairn is missing",
    ],
    [
      "versions that do not count",
      zipped({ "project.json": json(index({ documents: [entry({ head: 3 })] })) }),
      "do not count from 1 to 3",
    ],
    [
      "a robot that is none",
      zipped({
        "project.json": json(index({ documents: [entry({ kind: "robot", path: "robots/one" })] })),
        "versions/robots/one/1.json": json({ wheels: 3 }),
      }),
      "robots/one in it cannot be read",
    ],
    [
      "text with a zero byte",
      zipped({
        "project.json": json(index({ documents: [entry()] })),
        "versions/missions/one/1.cairn": strToU8("cairn 1\0"),
      }),
      "is not text",
    ],
    [
      "JSON with a zero character",
      zipped({
        "project.json": json(index({ documents: [entry({ kind: "field", path: "fields/one" })] })),
        "versions/fields/one/1.json": json({ name: "a\0" }),
      }),
      "holds a character that cannot be stored",
    ],
    [
      "a run of a mission it does not hold",
      zipped({
        "project.json": json(index({ studies: 1 })),
        "studies/000001.json": json({
          mission: { document: "missions/x", version: 1 },
          robot: { document: "robots/x", version: 1 },
          field: null,
          coreVersion: "1",
          seed: 1,
          runs: 1,
          successes: 1,
          summary: twentyRuns(),
          madeAt: "2026-11-01T10:00:00.000Z",
        }),
      }),
      "names missions/x, version 1",
    ],
    [
      "a picture that is not one",
      zipped({ "project.json": json(index()), [`pictures/${"0".repeat(64)}.png`]: strToU8("x") }),
      "not a PNG",
    ],
    [
      "half a file",
      zipped({
        "project.json": json(index({ documents: [entry()] })),
        "missions/one.cairn": strToU8("x".repeat(5000)),
      }).subarray(0, 150),
      "",
    ],
  ])("%s", async (_, zip, reason) => {
    const before = await documents(fresh);
    const began = performance.now();
    const { status, data } = await into(fresh, zip);
    expect(status, data.detail).toBeGreaterThanOrEqual(400);
    expect(status).toBeLessThan(500);
    expect(data.detail).toContain(reason);
    expect(performance.now() - began).toBeLessThan(20_000);
    expect(await documents(fresh)).toEqual(before);
  });
});
