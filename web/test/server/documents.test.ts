import { readFileSync } from "node:fs";
import path from "node:path";
import pg from "pg";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.leave());

// biome-ignore lint/suspicious/noExplicitAny: answers are looked at field by field
type Loose = any;

async function call(method: string, address: string, body?: unknown, headers: Record<string, string> = {}) {
  const response = await fetch(server.url + address, {
    method,
    headers: { ...(body === undefined ? {} : { "content-type": "application/json" }), ...headers },
    ...(body === undefined ? {} : { body: typeof body === "string" ? body : JSON.stringify(body) }),
  });
  return {
    status: response.status,
    type: response.headers.get("content-type") ?? "",
    data: (await response.json()) as Loose,
  };
}

const over = (version: number) => ({ "if-match": `"${version}"` });

async function newMission(name: string, text = "cairn 1\nmission\n  wait 1 s\n"): Promise<Loose> {
  return (await call("POST", "/api/documents", { kind: "mission", name, text })).data;
}

describe("documents", () => {
  test("the demo is there: a robot, a field and a mission", async () => {
    const { data } = await call("GET", "/api/documents");
    const named = data.documents.map((document: Loose) => `${document.kind} ${document.name}`);
    expect(named).toEqual(expect.arrayContaining(["robot Drizzle", "field Fellside", "mission First roll out"]));
  });

  test("the demo comes once: what was archived stays away after a restart", async () => {
    const own = await startServer();
    const client = new pg.Client({ connectionString: own.database });
    await client.connect();
    await client.query("update document set archived_at = now() where name = 'First roll out'");
    await client.end();
    await own.stop();
    const again = await startServer({ database: own.database });
    const { documents } = (await (await fetch(`${again.url}/api/documents?kind=mission`)).json()) as Loose;
    expect(documents.map((document: Loose) => document.name)).not.toContain("First roll out");
    await again.stop();
  });

  test("make, open, list versions page by page", async () => {
    const made = await newMission("Paged");
    const id = made.document.id;
    let version = 0;
    for (let number = 1; number <= 4; number += 1) {
      const cut = await call(
        "POST",
        `/api/documents/${id}/revisions`,
        { baseRevision: number, text: `cairn 1\n# ${number}\n`, reason: "test" },
        over(version),
      );
      expect(cut.status).toBe(200);
      version = cut.data.draft.version;
    }
    const first = (await call("GET", `/api/documents/${id}/revisions?limit=2`)).data;
    expect(first.revisions.map((revision: Loose) => revision.number)).toEqual([5, 4]);
    const second = (await call("GET", `/api/documents/${id}/revisions?limit=9&cursor=${first.next}`)).data;
    expect(second.revisions.map((revision: Loose) => revision.number)).toEqual([3, 2, 1]);
    expect(second.next).toBeNull();
    expect((await call("GET", `/api/documents/${id}/revisions/1`)).data.text).toContain("wait 1 s");
    expect((await call("GET", `/api/documents/${id}/revisions/99`)).status).toBe(404);
  });

  test("a version is cut only when something changed", async () => {
    const made = await newMission("Unchanged");
    const cut = await call(
      "POST",
      `/api/documents/${made.document.id}/revisions`,
      { baseRevision: 1, text: made.head.text, reason: "again" },
      over(0),
    );
    expect(cut.data.head.number).toBe(1);
  });

  test("names are unique among active documents of a kind", async () => {
    await newMission("Twin");
    const twin = await call("POST", "/api/documents", { kind: "mission", name: "Twin", text: "cairn 1\n" });
    expect(twin).toMatchObject({
      status: 409,
      data: { code: "name-taken", detail: expect.stringContaining("Choose another name") },
    });
  });

  test("of ten that ask for one name at once, one has it and the others are told", async () => {
    const answers = await Promise.all(
      Array.from({ length: 10 }, () =>
        call("POST", "/api/documents", { kind: "mission", name: "Rush", text: "cairn 1\n" }),
      ),
    );
    expect(answers.map(({ status }) => status).sort()).toEqual([201, ...new Array(9).fill(409)]);
    for (const { status, data } of answers) if (status === 409) expect(data.code).toBe("name-taken");
  });
});

describe("two windows", () => {
  test("the second save over the same draft gets 409 with what is there, and loses nothing", async () => {
    const { document } = await newMission("Contested");
    const draft = (text: string, version: number) =>
      call("PUT", `/api/documents/${document.id}/draft`, { baseRevision: 1, text }, over(version));
    expect(await draft("cairn 1\n# one\n", 0)).toMatchObject({ status: 200, data: { version: 1 } });
    const stale = await draft("cairn 1\n# two\n", 0);
    expect(stale).toMatchObject({
      status: 409,
      type: "application/problem+json",
      data: { code: "stale", current: { draft: { text: "cairn 1\n# one\n", version: 1 } } },
    });
    expect((await call("GET", `/api/documents/${document.id}`)).data.draft.text).toBe("cairn 1\n# one\n");
    expect((await draft("cairn 1\n# two\n", 1)).status).toBe(200);
  });

  test("the same text saved twice is no conflict", async () => {
    const { document } = await newMission("Repeated");
    const save = () =>
      call("PUT", `/api/documents/${document.id}/draft`, { baseRevision: 1, text: "cairn 1\n# same\n" }, over(0));
    expect((await save()).status).toBe(200);
    expect((await save()).status).toBe(200);
  });

  test("a draft that starts from an old version is stale", async () => {
    const { document } = await newMission("Outrun");
    await call(
      "POST",
      `/api/documents/${document.id}/revisions`,
      { baseRevision: 1, text: "cairn 1\n# new\n", reason: "rehearsed" },
      over(0),
    );
    const late = await call(
      "PUT",
      `/api/documents/${document.id}/draft`,
      { baseRevision: 1, text: "cairn 1\n# late\n" },
      over(0),
    );
    expect(late).toMatchObject({ status: 409, data: { current: { head: { number: 2 } } } });
  });

  test("twenty saves at once: one wins each version", async () => {
    const { document } = await newMission("Crowded");
    const saves = await Promise.all(
      Array.from({ length: 20 }, (_, i) =>
        call("PUT", `/api/documents/${document.id}/draft`, { baseRevision: 1, text: `cairn 1\n# ${i}\n` }, over(0)),
      ),
    );
    expect(saves.filter((save) => save.status === 200)).toHaveLength(1);
    expect(saves.filter((save) => save.status === 409)).toHaveLength(19);
  });
});

describe("bad input", () => {
  const robot = () =>
    JSON.parse(readFileSync(path.resolve(import.meta.dirname, "../../../demo/drizzle.robot.json"), "utf8"));

  test.each<[string, (body: Loose) => void, string]>([
    [
      "a text where a number belongs",
      (body) => {
        body.wheels[0].diameterM = "62 mm";
      },
      "wheels[0].diameterM must be a number",
    ],
    [
      "two corners",
      (body) => {
        body.chassis.outlineM = [
          [0, 0],
          [1, 1],
        ];
      },
      "chassis.outlineM needs at least three corners",
    ],
    [
      "NaN as JSON has it",
      (body) => {
        body.chassis.heightM = null;
      },
      "chassis.heightM must be a number",
    ],
  ])("a robot with %s is not saved over the good one", async (_, change, words) => {
    const { data } = await call("GET", "/api/documents?kind=robot");
    const { id } = data.documents[0];
    const body = robot();
    change(body);
    for (const [method, address] of [
      ["PUT", "draft"],
      ["POST", "revisions"],
    ] as const) {
      const answer = await call(
        method,
        `/api/documents/${id}/${address}`,
        { baseRevision: 1, body, reason: "test" },
        over(0),
      );
      expect(answer).toMatchObject({
        status: 422,
        data: { code: "invalid-document", detail: expect.stringContaining(words) },
      });
    }
    expect((await call("GET", `/api/documents/${id}`)).data).toMatchObject({ head: { number: 1 }, draft: null });
  });

  test.each<[string, string, string, unknown, Record<string, string>, number]>([
    ["no JSON", "POST", "/api/documents", "{", {}, 400],
    ["a wrong shape", "POST", "/api/documents", { kind: "cake" }, {}, 400],
    ["no such document", "GET", "/api/documents/00000000-0000-4000-8000-000000000000", undefined, {}, 404],
    ["no identifier", "GET", "/api/documents/1%27%20or%201=1", undefined, {}, 404],
    ["an unknown kind", "GET", "/api/documents?kind=cake", undefined, {}, 400],
    ["a made-up cursor", "GET", "/api/trials?cursor=banana", undefined, {}, 400],
    ["an endless page", "GET", "/api/trials?limit=100000", undefined, {}, 400],
    ["a trial of nothing", "POST", "/api/trials", {}, {}, 400],
  ])("%s is a problem, not a crash", async (_, method, address, body, headers, status) => {
    const answer = await call(method, address, body, headers);
    expect(answer.status).toBe(status);
    expect(answer.type).toBe("application/problem+json");
    expect(answer.data.detail).toMatch(/\.$/);
  });

  test("a save without If-Match is told what to send", async () => {
    const { document } = await newMission("Unmatched");
    expect(await call("PUT", `/api/documents/${document.id}/draft`, { baseRevision: 1, text: "x" })).toMatchObject({
      status: 428,
    });
    expect(
      await call("PUT", `/api/documents/${document.id}/draft`, { baseRevision: 1, text: "x" }, { "if-match": "*" }),
    ).toMatchObject({ status: 400 });
  });

  test("a text too long for a mission is refused", async () => {
    expect(
      (await call("POST", "/api/documents", { kind: "mission", name: "Long", text: "x".repeat(1_100_000) })).status,
    ).toBe(422);
  });
});
