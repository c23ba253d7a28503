import http from "node:http";
import { afterAll, beforeAll, expect, test } from "vitest";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.leave());

function statusWith(headers: Record<string, string>): Promise<number> {
  return new Promise((resolve, reject) => {
    const request = http.get(`${server.url}/api/health`, { headers }, (response) => {
      response.resume();
      resolve(response.statusCode ?? 0);
    });
    request.on("error", reject);
  });
}

test("answers once the database does", async () => {
  const answer = await fetch(`${server.url}/api/health`);
  expect(await answer.json()).toMatchObject({ ok: true, instance: "test", app: { ok: true }, database: { ok: true } });
});

test("refuses a foreign host name and a foreign origin", async () => {
  expect(await statusWith({ host: "robots.example" })).toBe(403);
  expect(await statusWith({ origin: "http://robots.example" })).toBe(403);
  expect(await statusWith({ origin: server.url })).toBe(200);
});

test("a second server on the same database finds the schema in place", async () => {
  const second = await startServer({ database: server.database });
  expect((await fetch(`${second.url}/api/health`)).status).toBe(200);
  await second.stop();
});
