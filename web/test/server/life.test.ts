// The life of documents on the real server: renamed, copied, put away, brought back, deleted for good, and who uses them.
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Loose } from "../support/mission.js";
import { type RunningServer, request, startServer } from "../support/server.js";
import { twentyRuns } from "../support/study.js";

let server: RunningServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.leave());

function send(method: string, address: string, body?: unknown) {
  return request(server, address, {
    method,
    headers: { "content-type": "application/json" },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
}

async function list(kind: string, archived = false): Promise<Loose[]> {
  return (await request(server, `/api/documents?kind=${kind}&archived=${archived}`)).data.documents;
}

async function idOf(kind: string, name: string): Promise<string> {
  const found = (await list(kind)).find((one) => one.name === name);
  if (!found) throw new Error(`no ${kind} ${name}`);
  return found.id;
}

const open = async (id: string): Promise<Loose> => (await request(server, `/api/documents/${id}`)).data;

async function mission(name: string, text: string): Promise<string> {
  const { status, data } = await send("POST", "/api/documents", { kind: "mission", name, text });
  expect(status).toBe(201);
  return data.document.id;
}

describe("a new name", () => {
  test("of a mission changes its name alone", async () => {
    const id = await mission("Short", "cairn 1\n\nmission\n  wait 1 s\n");
    const { status, data } = await send("PATCH", `/api/documents/${id}`, { name: "Long" });
    expect([status, data.document.name, data.document.headRevision]).toEqual([200, "Long", 1]);
  });

  test("of a robot goes into the robot and into every mission that names it, and back again", async () => {
    const id = await idOf("robot", "Drizzle");
    const naming = (await list("mission")).filter(({ robot }) => robot === "Drizzle");
    expect(naming.length).toBeGreaterThan(0);
    expect((await send("PATCH", `/api/documents/${id}`, { name: "Squall" })).status).toBe(200);
    expect((await open(id)).head.body.name).toBe("Squall");
    for (const one of naming) {
      const { document, head, draft } = await open(one.id);
      expect([document.robot, /^robot "(.*)"/m.exec(head.text)?.[1]]).toEqual(["Squall", "Squall"]);
      expect(draft.text).toContain('robot "Squall"');
    }
    expect((await send("PATCH", `/api/documents/${id}`, { name: "Drizzle" })).status).toBe(200);
    for (const one of naming) expect((await open(one.id)).head.text).toContain('robot "Drizzle"');
  });

  test("of a collection goes into the missions that use it, which go on holding its routines", async () => {
    const text = "cairn 1\n\nroutine hop()\n  wait 1 s\n";
    const made = await send("POST", "/api/documents", { kind: "collection", name: "Hops", text });
    const user = await mission("Hopper", 'cairn 1\nuse "Hops"\n\nmission\n  hop()\n');
    await send("PATCH", `/api/documents/${made.data.document.id}`, { name: "Jumps" });
    const { document, head } = await open(user);
    expect(document.collections).toEqual(["Jumps"]);
    expect(head.text).toContain('use "Jumps"');
    expect(Object.keys(head.body.collections)).toEqual(["Jumps"]);
  });

  test.each([
    ["that another has", 409, "name-taken", { name: "First roll out" }],
    ["of blanks", 400, "bad-body", { name: "   " }],
    ["beside something else", 400, "bad-body", { name: "A", archived: true }],
    ["of 121 letters", 400, "bad-body", { name: "a".repeat(121) }],
  ])("%s is refused", async (_, status, code, body) => {
    const id = await idOf("mission", "Long");
    const answer = await send("PATCH", `/api/documents/${id}`, body);
    expect([answer.status, answer.data.code]).toEqual([status, code]);
    expect((await open(id)).document.name).toBe("Long");
  });
});

describe("a copy", () => {
  test("holds what is being typed, has a name of its own, and says what it is a copy of", async () => {
    const id = await idOf("robot", "Drizzle");
    const original = await open(id);
    const { status, data } = await send("POST", `/api/documents/${id}/copies`, { name: "Mist" });
    expect([status, data.head.body.name, data.head.reason]).toEqual([
      201,
      "Mist",
      `copy of Drizzle, version ${original.head.number}`,
    ]);
    expect({ ...data.head.body, name: "Drizzle" }).toEqual(original.head.body);
  });

  test("with a taken name is refused", async () => {
    const id = await idOf("robot", "Drizzle");
    expect((await send("POST", `/api/documents/${id}/copies`, { name: "Mist" })).data.code).toBe("name-taken");
  });
});

describe("put away", () => {
  test("it is in no list but its own, opens no more, and comes back as it was", async () => {
    const id = await idOf("mission", "Long");
    const before = await open(id);
    expect((await send("PATCH", `/api/documents/${id}`, { archived: true })).status).toBe(200);
    expect((await list("mission")).some((one) => one.id === id)).toBe(false);
    expect((await list("mission", true)).map((one) => one.id)).toEqual([id]);
    expect((await request(server, `/api/documents/${id}`)).status).toBe(404);
    expect((await send("PATCH", `/api/documents/${id}`, { archived: true })).status).toBe(404);
    expect((await send("PATCH", `/api/documents/${id}`, { archived: false })).status).toBe(200);
    expect((await open(id)).head).toEqual(before.head);
  });

  test("its name is free; when another took it, it waits", async () => {
    const id = await idOf("mission", "Long");
    await send("PATCH", `/api/documents/${id}`, { archived: true });
    const other = await mission("Long", "cairn 1\n\nmission\n  wait 2 s\n");
    const refused = await send("PATCH", `/api/documents/${id}`, { archived: false });
    expect([refused.status, refused.data.code]).toEqual([409, "name-taken"]);
    await send("PATCH", `/api/documents/${other}`, { name: "Longer" });
    expect((await send("PATCH", `/api/documents/${id}`, { archived: false })).status).toBe(200);
  });
});

describe("deleted for good", () => {
  test("only what was put away is, and nothing is left of it", async () => {
    const id = await idOf("mission", "Longer");
    const early = await send("DELETE", `/api/documents/${id}`);
    expect([early.status, early.data.code]).toEqual([409, "in-use"]);
    await send("PATCH", `/api/documents/${id}`, { archived: true });
    expect((await send("DELETE", `/api/documents/${id}`)).status).toBe(200);
    expect((await list("mission", true)).some((one) => one.id === id)).toBe(false);
    expect((await send("DELETE", `/api/documents/${id}`)).status).toBe(404);
  });

  test("a robot that missions name and runs were made with: it says where, and goes when one insists, with its runs", async () => {
    const robot = await idOf("robot", "Mist");
    const user = await mission("Misty", 'cairn 1\nrobot "Mist"\n\nmission\n  wait 1 s\n');
    const [used, drawn] = [(await open(user)).head.id, (await open(robot)).head.id];
    const study = {
      missionRevision: used,
      robotRevision: drawn,
      fieldRevision: null,
      coreVersion: "0.0.0",
      seed: 1,
      summary: twentyRuns(),
    };
    expect((await send("POST", "/api/studies", study)).status).toBe(201);
    await send("PATCH", `/api/documents/${robot}`, { archived: true });
    const { data } = await request(server, `/api/documents/${robot}/uses`);
    expect(data).toMatchObject({ missions: [{ id: user, name: "Misty" }], studies: 1, words: "1 mission, 1 study" });
    const refused = await send("DELETE", `/api/documents/${robot}`);
    expect([refused.status, refused.data.detail]).toEqual([
      409,
      "Mist is used by 1 mission, 1 study. Deleting it for good deletes its runs, studies and calibrations too.",
    ]);
    expect((await send("DELETE", `/api/documents/${robot}?insist=true`)).status).toBe(200);
    const studies = await request(server, `/api/studies?mission=${user}`);
    expect(studies.data.studies).toEqual([]);
    // The mission stays, and says itself that its robot is gone.
    expect((await open(user)).document.robot).toBe("Mist");
  });
});

test("lists say when each was changed last", async () => {
  const id = await mission("Fresh", "cairn 1\n\nmission\n  wait 1 s\n");
  const before = (await list("mission")).find((one) => one.id === id)?.changedAt as string;
  await request(server, `/api/documents/${id}/draft`, {
    method: "PUT",
    headers: { "content-type": "application/json", "if-match": '"0"' },
    body: JSON.stringify({ baseRevision: 1, text: "cairn 1\n\nmission\n  wait 2 s\n" }),
  });
  const after = (await list("mission")).find((one) => one.id === id)?.changedAt as string;
  expect(Date.parse(after)).toBeGreaterThan(Date.parse(before));
});
