// Fields on the real server and database: pictures kept by their content, names that missions follow, faults that stay.
import { createHash } from "node:crypto";
import {
  type Field,
  findStart,
  makeField,
  openField,
  pictureText,
  randomStream,
  writePicturePng,
} from "@giddy-pebble/core";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Loose } from "../support/mission.js";
import { type RunningServer, request, startServer } from "../support/server.js";

let server: RunningServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.leave());

function send(method: string, address: string, body: unknown, headers: Record<string, string> = {}) {
  return request(server, address, {
    method,
    headers: { "content-type": "application/json", ...headers },
    body: JSON.stringify(body),
  });
}

function field(name: string, more: object = {}): Field {
  const table = findStart("table");
  if (!table) throw new Error("no table");
  return { ...makeField(table, name), ...more };
}

async function make(body: Field): Promise<Loose> {
  const { status, data } = await send("POST", "/api/documents", { kind: "field", name: body.name, body });
  expect([status, data.detail]).toEqual([201, undefined]);
  return data;
}

function png(seed: number, columns = 40, rows = 30): Uint8Array {
  const chance = randomStream(seed);
  const cells = Uint8Array.from({ length: 3 * columns * rows }, () => Math.floor(chance.uniform() * 256));
  return writePicturePng({ columns, rows, cells });
}

const shaOf = (bytes: Uint8Array) => createHash("sha256").update(bytes).digest("hex");

async function put(sha: string, bytes: Uint8Array | string): Promise<{ status: number; code: string }> {
  const answer = await fetch(`${server.url}/api/assets/${sha}`, { method: "PUT", body: bytes as never });
  return { status: answer.status, code: answer.status === 204 ? "" : ((await answer.json()) as Loose).code };
}

describe("pictures", () => {
  test("are kept by their content, once, and come back byte for byte, for good", async () => {
    const bytes = png(1);
    const sha = shaOf(bytes);
    expect(await put(sha, bytes)).toEqual({ status: 204, code: "" });
    expect(await put(sha, bytes)).toEqual({ status: 204, code: "" });
    const answer = await fetch(`${server.url}/api/assets/${sha}`);
    expect(Buffer.from(await answer.arrayBuffer()).equals(Buffer.from(bytes))).toBe(true);
    expect(answer.headers.get("cache-control")).toContain("immutable");
    expect(answer.headers.get("content-security-policy")).toContain("default-src 'none'");
    const head = await fetch(`${server.url}/api/assets/${sha}`, { method: "HEAD" });
    expect([head.status, (await head.text()).length]).toEqual([200, 0]);
  });

  test.each<[string, () => [string, Uint8Array | string], number, string]>([
    ["a wrong address", () => ["0".repeat(64), png(2)], 422, "no-picture"],
    ["something that is no PNG", () => [shaOf(Buffer.from("hello")), "hello"], 422, "no-picture"],
    ["nothing", () => [shaOf(new Uint8Array(0)), ""], 422, "no-picture"],
    ["an address that is none", () => ["abc", png(2)], 404, "not-found"],
    ["more than 4 MB", () => [shaOf(Buffer.alloc(5_000_000)), Buffer.alloc(5_000_000)], 413, "too-large"],
    [
      "a header of 30,000 cells",
      () => {
        const bytes = Uint8Array.from(png(3));
        new DataView(bytes.buffer).setUint32(16, 30_000);
        return [shaOf(bytes), bytes];
      },
      422,
      "no-picture",
    ],
  ])("%s is refused", async (_, given, status, code) => {
    expect(await put(...given())).toEqual({ status, code });
  });

  test("one that is not there is not found", async () => {
    expect((await fetch(`${server.url}/api/assets/${"1".repeat(64)}`)).status).toBe(404);
    expect((await fetch(`${server.url}/api/assets/${"1".repeat(64)}`, { method: "DELETE" })).status).toBe(405);
  });

  test("within a field they are taken out of it: versions and drafts stay small", async () => {
    const bytes = png(4);
    const picture = { columns: 40, rows: 30, asset: shaOf(bytes), png: pictureText(bytes) };
    const made = await make(field("Pictured", { picture }));
    expect(made.head.body.picture).toEqual({ columns: 40, rows: 30, asset: shaOf(bytes) });
    expect((await fetch(`${server.url}/api/assets/${shaOf(bytes)}`)).status).toBe(200);
    const other = png(5);
    const next = {
      ...made.head.body,
      picture: { columns: 40, rows: 30, asset: "f".repeat(64), png: pictureText(other) },
    };
    const draft = await send(
      "PUT",
      `/api/documents/${made.document.id}/draft`,
      { baseRevision: 1, body: next },
      { "if-match": '"0"' },
    );
    // What it is called is its content, whatever the document said.
    expect([draft.status, draft.data.body.picture.asset, draft.data.body.picture.png]).toEqual([
      200,
      shaOf(other),
      undefined,
    ]);
    const broken = { ...next, picture: { ...next.picture, png: pictureText(new Uint8Array(100)) } };
    const refused = await send(
      "PUT",
      `/api/documents/${made.document.id}/draft`,
      { baseRevision: 1, body: broken },
      { "if-match": '"1"' },
    );
    expect([refused.status, refused.data.detail]).toEqual([422, expect.stringContaining("not a PNG picture")]);
  });
});

describe("field documents", () => {
  test("of version 1 come out as they went in, and are read as version 2", async () => {
    const { made: _, ...plain } = field("Old one");
    const old = { ...plain, version: 1 };
    const { status, data } = await send("POST", "/api/documents", { kind: "field", name: "Old one", body: old });
    expect([status, data.head.body]).toEqual([201, old]);
    expect(openField(data.head.body)).toMatchObject({ ok: true, document: { version: 2 } });
  });

  test("with faults are stored, to be fixed; with what cannot be read they are refused, and it says which", async () => {
    const walls = [{ fromM: [1, 1], toM: [1, 1], heightM: 0.06, reflectance: 0.7 }];
    const made = await make(field("Faulty", { walls }));
    expect(openField(made.head.body)).toMatchObject({ ok: true, leftOut: [] });
    const { status, data } = await send("POST", "/api/documents", {
      kind: "field",
      name: "Unreadable",
      body: { ...field("Unreadable"), boulders: [{ xM: "here" }] },
    });
    expect([status, data.detail]).toEqual([422, expect.stringContaining("boulder 1 was left out")]);
    const many = Array.from({ length: 2001 }, () => ({
      kind: "line",
      pointsM: [
        [0, 0],
        [1, 1],
      ],
      widthM: 0.02,
      reflectance: 0,
      colour: "#000000",
    }));
    const full = await send("POST", "/api/documents", {
      kind: "field",
      name: "Full",
      body: { ...field("Full"), marks: many },
    });
    expect([full.status, full.data.detail]).toEqual([422, expect.stringContaining("2000 is the most")]);
  });

  test("take a new name into the missions that name them, drafts and versions alike, and no others", async () => {
    const made = await make(field("Lower yard"));
    const text = (name: string) => `cairn 1\nrobot "Drizzle"\nfield "${name}"\nmission\n  go 10 cm\n`;
    const [mine, others] = [
      (await send("POST", "/api/documents", { kind: "mission", name: "On it", text: text("Lower yard") })).data,
      (await send("POST", "/api/documents", { kind: "mission", name: "Elsewhere", text: text("Fellside") })).data,
    ];
    const cut = await send(
      "POST",
      `/api/documents/${made.document.id}/revisions`,
      { baseRevision: 1, body: { ...made.head.body, name: "Upper yard" }, reason: "renamed", name: null },
      { "if-match": '"0"' },
    );
    expect([cut.status, cut.data.document.name]).toEqual([200, "Upper yard"]);
    const opened = async (one: Loose) => (await request(server, `/api/documents/${one.document.id}`)).data.head;
    expect(await opened(mine)).toMatchObject({
      number: 2,
      text: text("Upper yard"),
      reason: "its field is now called Upper yard",
    });
    expect(await opened(others)).toMatchObject({ number: 1, text: text("Fellside") });
    const taken = await send(
      "POST",
      `/api/documents/${made.document.id}/revisions`,
      { baseRevision: 2, body: { ...made.head.body, name: "Fellside" }, reason: "renamed", name: null },
      { "if-match": '"1"' },
    );
    expect([taken.status, taken.data.code]).toEqual([409, "name-taken"]);
  });

  test("the demo brings Fellside first, and the fields of its missions", async () => {
    const { data } = await request(server, "/api/documents?kind=field");
    const names = data.documents.map(({ name }: Loose) => name);
    expect(names[0]).toBe("Fellside");
    expect(names).toEqual(
      expect.arrayContaining(["Boulder slope", "Cliff run", "Garage lane", "Gauge slope", "Snow maze"]),
    );
  });
});
