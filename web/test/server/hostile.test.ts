// Requests and connections that nobody should send, and a database that goes away: each is answered in words, nothing
// is lost, and the memory stays small.
import http from "node:http";
import net from "node:net";
import { deflateRawSync } from "node:zlib";
import pg from "pg";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { part } from "../../../core/test/support/search.js";
import { chanceOf } from "../../../scripts/soak/chance.mjs";
import { newCounts } from "../../../scripts/soak/counts.mjs";
import { costlyRequest, oddRequest } from "../../../scripts/soak/requests.mjs";
import { oddLink, oddSocket } from "../../../scripts/soak/sockets.mjs";
import { residentMb } from "../../../scripts/soak/watchers.mjs";
import { demoSamples } from "../support/demo.js";
import { type RunningRobots, startRobots } from "../support/robots.js";
import { headOf, type RunningServer, request, shortSummary, startServer } from "../support/server.js";

let server: RunningServer;
let robots: RunningRobots;
beforeAll(async () => {
  robots = await startRobots();
  server = await startServer({ robots: robots.port });
});
afterAll(async () => {
  await server.stop();
  await robots.stop();
});

const json = { "content-type": "application/json" };
const post = (address: string, body: unknown) =>
  request(server, address, {
    method: "POST",
    headers: json,
    body: typeof body === "string" ? body : JSON.stringify(body),
  });

/** A request as no browser makes one. */
function plain(method: string, address: string, headers: Record<string, string> = {}): Promise<http.IncomingMessage> {
  return new Promise((resolve, reject) => {
    const sent = http.request(server.url + address, { method, headers }, (response) => {
      response.resume();
      response.on("end", () => resolve(response));
    });
    sent.on("error", reject);
    sent.end();
  });
}

describe("connections", () => {
  test("reset, cut and never finished leave both processes alive", async () => {
    const counts = newCounts();
    const target = { url: server.url, robotsPort: robots.port, counts, quiet: () => true, samples: demoSamples() };
    const chance = chanceOf(11);
    await Promise.all(
      Array.from({ length: 8 }, async () => {
        for (let i = 0; i < 40; i += 1) await oddSocket(chance, target);
      }),
    );
    expect(counts.sockets).toBe(320);
    const { data } = await request(server, "/api/health");
    expect(data).toMatchObject({ ok: true, robots: { ok: true } });
  });

  test("an upgrade to another path is refused, also when it is reset at once", async () => {
    const upgrade = (path: string) =>
      new Promise<string>((resolve) => {
        const socket = net.connect(Number(new URL(server.url).port), "127.0.0.1", () =>
          socket.write(
            `GET ${path} HTTP/1.1\r\nhost: ${new URL(server.url).host}\r\nupgrade: websocket\r\nconnection: Upgrade\r\n\r\n`,
          ),
        );
        socket.once("data", (data) => resolve(String(data).split("\r\n")[0] ?? ""));
        socket.once("error", () => resolve("reset"));
      });
    expect(await upgrade("/nowhere")).toContain("404");
    for (let i = 0; i < 20; i += 1)
      await new Promise<void>((resolve) => {
        const socket = net.connect(Number(new URL(server.url).port), "127.0.0.1", () => {
          socket.write(`GET /nowhere HTTP/1.1\r\nhost: x\r\nupgrade: websocket\r\nconnection: Upgrade\r\n\r\n`);
          socket.resetAndDestroy();
        });
        socket.once("close", () => resolve());
        socket.once("error", () => {});
      });
    expect((await request(server, "/api/health")).status).toBe(200);
  });
});

describe("requests", () => {
  test("of a method an address does not have get 405 with those it has, and a sentence", async () => {
    for (const [method, address, allow] of [
      ["DELETE", "/api/documents", "GET, POST, HEAD, OPTIONS"],
      ["PUT", "/api/trials", "GET, POST, HEAD, OPTIONS"],
      ["POST", "/api/health", "GET, HEAD, OPTIONS"],
      ["GET", "/api/documents/3f0f9a0c-6a5e-4f0e-9a57-0c7c6b1f2d3e/draft", "PUT, OPTIONS"],
    ] as const) {
      const answer = await fetch(server.url + address, { method });
      expect([method, answer.status, answer.headers.get("allow")]).toEqual([method, 405, allow]);
      expect((await answer.json()).detail).toContain(method);
    }
    const trace = await plain("TRACE", "/api/health");
    expect([trace.statusCode, trace.headers.allow]).toEqual([405, "GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS"]);
    expect((await fetch(`${server.url}/api/documents`, { method: "OPTIONS" })).headers.get("allow")).toContain("POST");
    expect((await fetch(`${server.url}/api/documents`, { method: "HEAD" })).status).toBe(200);
  });

  test("to addresses that are not there get 404 in JSON, and endpoints nothing uses are off", async () => {
    for (const address of ["/api", "/api/nothing", "/api/trials/x/y/z"]) {
      const { status, data } = await request(server, address);
      expect([address, status, data.code]).toEqual([address, 404, "no-such-address"]);
    }
    for (const address of ["/_image?href=/pebble.svg", "/_server-islands/x", "/_actions/x"])
      expect((await fetch(server.url + address)).status, address).toBe(404);
    expect((await plain("GET", "/%")).statusCode).toBe(400);
    expect((await plain("GET", "/%00")).statusCode).toBe(400);
  });

  test.each([
    ["a sign that is no text", { kind: "mission", name: "a", text: "go\0" }, 400, "U+0000"],
    ["one in a name", { kind: "mission", name: "a\0", text: "x" }, 400, "U+0000"],
    ["one in a key", { kind: "mission", name: "a", text: "x", body: { "a\0": 1 } }, 400, "U+0000"],
    ["half a sign", '{"kind":"mission","name":"a","text":"\\ud800"}', 400, "half a sign"],
    ["nesting without end", "[".repeat(5000) + "]".repeat(5000), 400, "nested"],
    ["brackets that never close", "[".repeat(100_000), 400, "JSON"],
    ["a text beyond all sizes", { kind: "mission", name: "a", text: "x".repeat(6_000_000) }, 413, "5 MB"],
  ])("with %s are told why", async (_, body, status, words) => {
    const answer = await post("/api/documents", body);
    expect(answer.status).toBe(status);
    expect(answer.data.detail).toContain(words);
  });

  test("with numbers and times no column holds are told why", async () => {
    const mission = await headOf(server, "mission");
    const save = (baseRevision: number) =>
      request(server, `/api/documents/${mission.document}/draft`, {
        method: "PUT",
        headers: { ...json, "if-match": '"0"' },
        body: JSON.stringify({ baseRevision, text: "cairn 1" }),
      });
    for (const odd of [2 ** 31, 1e300, 0.5, -1]) expect((await save(odd)).status, String(odd)).toBe(400);
    for (const query of [
      "trials?cursor=-271821-04-20T00:00:00.000Z_3f0f9a0c-6a5e-4f0e-9a57-0c7c6b1f2d3e",
      "trials?limit=1e9",
      "trials?cursor=%00",
      `documents/${mission.document}/revisions?limit=0`,
    ])
      expect((await request(server, `/api/${query}`)).status, query).toBe(400);
    // A page that lies beyond every revision is an empty one or the first, never a failure.
    expect((await request(server, `/api/documents/${mission.document}/revisions?cursor=2147483648`)).status).toBe(200);
  });

  test("of a thousand odd kinds are never answered by a failure, and always in words", async () => {
    const counts = newCounts();
    const target = { url: server.url, robotsPort: robots.port, counts, quiet: () => true, samples: demoSamples() };
    await Promise.all(
      [1, 2, 3, 4].map(async (seed) => {
        const chance = chanceOf(seed);
        for (let i = 0; i < 250; i += 1) await oddRequest(chance, target);
      }),
    );
    expect(counts.failures).toEqual([]);
    expect(counts.requests).toBe(1000);
    expect(counts.serverErrors + counts.unanswered).toBe(0);
  }, 60_000);
});

describe("small inputs of large cost", () => {
  test("are refused before they cost it: both processes stay below 400 MB", async () => {
    const counts = newCounts();
    const target = { url: server.url, robotsPort: robots.port, counts, quiet: () => true, samples: demoSamples() };
    let most = { web: 0, robots: 0 };
    const watch = setInterval(() => {
      most = {
        web: Math.max(most.web, residentMb(server.pid)),
        robots: Math.max(most.robots, residentMb(robots.pid())),
      };
    }, 50);
    try {
      await Promise.all([
        ...[1, 2, 3, 4].map(async (seed) => {
          const chance = chanceOf(100 + seed);
          for (let i = 0; i < part(6, 2); i += 1) await costlyRequest(chance, target);
        }),
        ...[1, 2].map(async (seed) => {
          const chance = chanceOf(200 + seed);
          for (let i = 0; i < part(12, 2); i += 1) await oddLink(chance, target);
        }),
      ]);
    } finally {
      clearInterval(watch);
    }
    expect(counts.failures).toEqual([]);
    expect(most.web).toBeGreaterThan(50);
    expect(most.web).toBeLessThan(400);
    expect(most.robots).toBeLessThan(400);
  }, 90_000);

  test("a trace that inflates to a thousand times its size is refused, and others are answered meanwhile", async () => {
    const bytes = Buffer.alloc(60 * 1024 * 1024, 0x20);
    bytes.writeUInt32LE(bytes.length - 4, 0);
    const [mission, robot] = [await headOf(server, "mission"), await headOf(server, "robot")];
    const sent = post("/api/trials", {
      missionRevision: mission.revision,
      robotRevision: robot.revision,
      fieldRevision: null,
      coreVersion: "1",
      source: "rehearsal",
      seed: 1,
      ideal: false,
      outcome: "finished",
      success: true,
      score: null,
      durationMs: 1,
      summary: shortSummary(),
      trace: deflateRawSync(bytes).toString("base64"),
    });
    expect((await request(server, "/api/health")).status).toBe(200);
    const { status, data } = await sent;
    expect(status).toBe(422);
    expect(data.detail).toContain("inflate to more than 40 MB");
  });
});

describe("a database that goes away", () => {
  /** Ends every connection the server has, as a restart of the database does. */
  async function cutConnections(): Promise<void> {
    const client = new pg.Client({ connectionString: server.database });
    await client.connect();
    await client.query(
      "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()",
    );
    await client.end();
  }

  test("in the middle of saves loses none that was acknowledged, and the others are told to try again", async () => {
    const made = await post("/api/documents", { kind: "mission", name: "Through cuts", text: "cairn 1" });
    const address = `/api/documents/${made.data.document.id}`;
    let version = 0;
    let kept = "cairn 1";
    const seen = new Set<number>();
    for (let i = 0; i < 60; i += 1) {
      const text = `cairn 1\n# ${i}`;
      const saving = request(server, `${address}/draft`, {
        method: "PUT",
        headers: { ...json, "if-match": `"${version}"` },
        body: JSON.stringify({ baseRevision: 1, text }),
      });
      if (i % 4 === 0) await cutConnections();
      const { status } = await saving;
      seen.add(status);
      const now = await retried(address);
      if (status === 200) {
        version = now.draft.version;
        kept = text;
      } else if ((now.draft?.version ?? 0) > version) {
        version = now.draft.version;
        kept = now.draft.text;
      }
      expect(now.draft?.text ?? now.head.text).toBe(kept);
    }
    expect([...seen].every((status) => status === 200 || status === 503)).toBe(true);
    expect(seen.has(200)).toBe(true);
  }, 60_000);

  async function retried(address: string) {
    for (let i = 0; i < 20; i += 1) {
      const { status, data } = await request(server, address);
      if (status === 200) return data;
      expect(status).toBe(503);
      expect(data.detail).toContain("try again");
    }
    throw new Error("the database never came back");
  }

  test("a full disk is told where it happens, and nothing dies", async () => {
    const client = new pg.Client({ connectionString: server.database });
    await client.connect();
    // The error PostgreSQL raises when it cannot write (53100), raised by a trigger.
    await client.query(
      `create function no_room() returns trigger language plpgsql as
       $$ begin raise exception 'could not extend file' using errcode = '53100'; end $$`,
    );
    await client.query("create trigger no_room before insert on revision execute function no_room()");
    try {
      const full = await post("/api/documents", { kind: "mission", name: "No room", text: "cairn 1" });
      expect([full.status, full.data.code]).toEqual([507, "disk-full"]);
      expect(full.data.detail).toContain("Make room");
    } finally {
      await client.query("drop trigger no_room on revision");
      await client.query("drop function no_room()");
      await client.end();
    }
    expect((await post("/api/documents", { kind: "mission", name: "No room", text: "cairn 1" })).status).toBe(201);
  });

  test("health tells application, database and robots apart, in JSON, always", async () => {
    const alone = await startServer({ robots: 1 });
    const { status, data } = await request(alone, "/api/health");
    expect([status, data.app.ok, data.database.ok, data.robots.ok]).toEqual([200, true, true, false]);
    expect(data.robots.why).toContain("do not answer");
    await alone.stop();
  });
});
