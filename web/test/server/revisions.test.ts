// Robots and fields: read and saved as bodies, revision by revision, each one still there afterwards.
import { readFileSync } from "node:fs";
import path from "node:path";
import { openRobot, readField } from "@giddy-pebble/core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.leave());

// biome-ignore lint/suspicious/noExplicitAny: answers are looked at field by field
type Loose = any;

async function call(
  method: string,
  address: string,
  body?: unknown,
  version?: number,
): Promise<{ status: number; etag: string | null; data: Loose }> {
  const response = await fetch(server.url + address, {
    method,
    headers: { "content-type": "application/json", ...(version === undefined ? {} : { "if-match": `"${version}"` }) },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  return { status: response.status, etag: response.headers.get("etag"), data: await response.json() };
}

function demo(file: string): Loose {
  return JSON.parse(readFileSync(path.resolve(import.meta.dirname, "../../../demo", file), "utf8"));
}

async function idOf(kind: string): Promise<string> {
  return (await call("GET", `/api/documents?kind=${kind}`)).data.documents[0].id;
}

describe.each([
  [
    "robot",
    "drizzle.robot.json",
    (body: Loose) => {
      body.about = "changed";
    },
  ],
  [
    "field",
    "fellside.field.json",
    (body: Loose) => {
      body.about = "changed";
    },
  ],
])("a %s", (kind, file, change) => {
  test("comes out as it went in", async () => {
    const { head } = (await call("GET", `/api/documents/${await idOf(kind)}`)).data;
    expect(head).toMatchObject({ number: 1, text: null, reason: "demo", parent: null });
    // A robot is kept with everything it leaves to the defaults.
    const read = kind === "robot" ? openRobot(demo(file)) : readField(demo(file));
    expect(head.body).toEqual(kind === "robot" ? read.ok && read.document : demo(file));
  });

  test("is saved as a draft, then as a named version; the old one stays readable", async () => {
    const id = await idOf(kind);
    const body = demo(file);
    change(body);
    const draft = await call("PUT", `/api/documents/${id}/draft`, { baseRevision: 1, body }, 0);
    expect([draft.status, draft.etag]).toEqual([200, '"1"']);
    expect((await call("GET", `/api/documents/${id}`)).etag).toBe('"1"');
    const cut = await call(
      "POST",
      `/api/documents/${id}/revisions`,
      { baseRevision: 1, body, name: "after the club evening", reason: "new tyres" },
      1,
    );
    expect(cut.data.head).toMatchObject({ number: 2, parent: 1, name: "after the club evening", reason: "new tyres" });
    const first = (await call("GET", `/api/documents/${id}/revisions/1`)).data.body;
    expect(first.about).toBe(demo(file).about);
    expect((await call("GET", `/api/documents/${id}/revisions/2`)).data.body.about).toBe("changed");
  });

  test("cannot be stored as text, nor a mission as a body", async () => {
    const id = await idOf(kind);
    const { draft } = (await call("GET", `/api/documents/${id}`)).data;
    const answer = await call("PUT", `/api/documents/${id}/draft`, { baseRevision: 2, text: "hello" }, draft.version);
    expect(answer).toMatchObject({
      status: 422,
      data: { detail: `Nothing was saved: a ${kind} is stored as a JSON body.` },
    });
    const mission = await idOf("mission");
    expect((await call("PUT", `/api/documents/${mission}/draft`, { baseRevision: 1, body: {} }, 0)).status).toBe(422);
  });
});

test("a restored version is a new one with the old content", async () => {
  const made = (await call("POST", "/api/documents", { kind: "mission", name: "Restored", text: "cairn 1\n# first\n" }))
    .data;
  const address = `/api/documents/${made.document.id}/revisions`;
  const second = await call("POST", address, { baseRevision: 1, text: "cairn 1\n# second\n", reason: "tried" }, 0);
  const restored = await call(
    "POST",
    address,
    { baseRevision: 2, text: made.head.text, reason: "restored version 1" },
    second.data.draft.version,
  );
  expect(restored.data.head).toMatchObject({ number: 3, parent: 2, contentHash: made.head.contentHash });
});

test("names and reasons have bounds", async () => {
  expect((await call("POST", "/api/documents", { kind: "mission", name: "   ", text: "cairn 1\n" })).status).toBe(400);
  expect(
    (await call("POST", "/api/documents", { kind: "mission", name: "x".repeat(121), text: "cairn 1\n" })).status,
  ).toBe(400);
  const made = (await call("POST", "/api/documents", { kind: "mission", name: "Bounded", text: "cairn 1\n" })).data;
  const tooLong = { baseRevision: 1, text: "cairn 1\n#\n", reason: "x".repeat(401) };
  expect((await call("POST", `/api/documents/${made.document.id}/revisions`, tooLong, 0)).status).toBe(400);
});

describe("robots", () => {
  const make = async (name: string, change: (body: Loose) => void = () => {}) => {
    const body = demo("drizzle.robot.json");
    body.name = name;
    change(body);
    return call("POST", "/api/documents", { kind: "robot", name, body });
  };

  test("one with faults is kept, to be fixed", async () => {
    const made = await make("Without wheels", (body) => {
      body.wheels = [];
    });
    expect(made.status).toBe(201);
    expect(made.data.head.body.wheels).toEqual([]);
  });

  test("one of version 1 is kept as version 3", async () => {
    const made = await make("Old one", (body) => {
      body.version = 1;
      body.wheels = body.wheels.map((wheel: Loose) => ({ ...wheel, motor: wheel.drivenBy, drivenBy: undefined }));
    });
    expect(made.data.head.body).toMatchObject({
      version: 3,
      wheels: [{ drivenBy: "left_motor" }, { drivenBy: "right_motor" }],
    });
  });

  test("what is not a robot's is left out, and one of 2 MB is refused in words", async () => {
    const made = await make("Slim", (body) => {
      body.surprise = "left out";
    });
    expect(made.data.head.body.surprise).toBeUndefined();
    const heavy = await make("Heavy", (body) => {
      body.surprise = "x".repeat(2_100_000);
    });
    expect([heavy.status, heavy.data.detail]).toEqual([422, expect.stringContaining("more than 2 MB")]);
    const absurd = await make("Absurd", (body) => {
      body.surprise = "x".repeat(20_000_000);
    });
    expect([absurd.status, absurd.data.code]).toEqual([413, "too-large"]);
  });

  test("saving the same thing again is no new version, whatever the order of its keys", async () => {
    const { document, head } = (await make("Same")).data;
    const reordered = Object.fromEntries(Object.entries(head.body).reverse());
    const cut = await call(
      "POST",
      `/api/documents/${document.id}/revisions`,
      { baseRevision: 1, body: reordered, reason: "again" },
      0,
    );
    expect(cut.data.document.headRevision).toBe(1);
  });

  test("its document takes its name with the next version, unless another has it", async () => {
    const { document, head } = (await make("Before")).data;
    const named = await call(
      "POST",
      `/api/documents/${document.id}/revisions`,
      { baseRevision: 1, body: { ...head.body, name: "After" }, reason: "renamed" },
      0,
    );
    expect(named.data.document.name).toBe("After");
    const taken = await call(
      "POST",
      `/api/documents/${document.id}/revisions`,
      { baseRevision: 2, body: { ...head.body, name: "Drizzle" }, reason: "renamed" },
      named.data.draft.version,
    );
    expect([taken.status, taken.data.code]).toEqual([409, "name-taken"]);
  });

  test("two that take one name at once: one has it, the other keeps its own and its text", async () => {
    const made = [(await make("First of two")).data, (await make("Second of two")).data];
    const cuts = await Promise.all(
      made.map(({ document, head }) =>
        call(
          "POST",
          `/api/documents/${document.id}/revisions`,
          { baseRevision: 1, body: { ...head.body, name: "The one name" }, reason: "renamed" },
          0,
        ),
      ),
    );
    expect(cuts.filter(({ status }) => status < 300)).toHaveLength(1);
    const lost = cuts.findIndex(({ status }) => status === 409);
    expect(cuts[lost]?.data.code).toBe("name-taken");
    const kept = await call("GET", `/api/documents/${made[lost]?.document.id}`);
    expect([kept.data.document.name, kept.data.head.number]).toEqual([made[lost]?.document.name, 1]);
  });
});
