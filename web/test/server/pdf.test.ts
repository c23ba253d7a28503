// PDF by the server's own Chromium: whole pages of the asked size, no script run, nothing fetched, and given up when nobody waits.
import { existsSync, readFileSync } from "node:fs";
import http from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, expect, test } from "vitest";
import { type RunningServer, request, startServer } from "../support/server.js";

let server: RunningServer;
let elsewhere: http.Server;
let asked = 0;

beforeAll(async () => {
  server = await startServer({ demo: false });
  elsewhere = http.createServer((_request, response) => {
    asked += 1;
    response.end("x");
  });
  await new Promise<void>((resolve) => elsewhere.listen(0, "127.0.0.1", resolve));
});
afterAll(async () => {
  await server.leave();
  elsewhere.close();
});

function print(html: string, paper: string, signal?: AbortSignal): Promise<Response> {
  return fetch(`${server.url}/api/pdf`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ html, paper }),
    ...(signal ? { signal } : {}),
  });
}

const pagesOf = (pdf: string) => pdf.match(/\/Type \/Page\b(?!s)/g)?.length ?? 0;
/** Width and height in points. */
const sizeOf = (pdf: string) => (/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]/.exec(pdf)?.slice(1) ?? []).map(Number);

test("it says that it can", async () => {
  expect(await request(server, "/api/pdf")).toEqual({ status: 200, data: { available: true, busy: false } });
});

// ISO 216: A4 is 210 mm by 297 mm; letter is 8.5 in by 11 in. A point is 1/72 in.
test.each([
  ["a4", 595.3, 841.9],
  ["letter", 612, 792],
])("three sections on %s are three pages of that size", async (paper, width, height) => {
  const html = `<style>section + section{break-before:page}</style>${"<section>words</section>".repeat(3)}`;
  const answer = await print(html, paper);
  expect(answer.headers.get("content-type")).toBe("application/pdf");
  const pdf = Buffer.from(await answer.arrayBuffer()).toString("latin1");
  expect(pdf.startsWith("%PDF-")).toBe(true);
  expect(pagesOf(pdf)).toBe(3);
  const [wide = 0, high = 0] = sizeOf(pdf);
  // To one pixel of a screen, 0.75 points.
  expect(Math.abs(wide - width)).toBeLessThan(0.75);
  expect(Math.abs(high - height)).toBeLessThan(0.75);
});

test("a script in it does not run, and nothing is fetched", async () => {
  const far = `http://127.0.0.1:${(elsewhere.address() as AddressInfo).port}`;
  const html = `<style>@import "${far}/a.css";p{break-before:page}</style><img src="${far}/b.png"><iframe src="${far}/c"></iframe>
    <p>one</p><script>document.body.innerHTML += "<p>two</p>".repeat(20); fetch("${far}/d")</script>`;
  const answer = await print(html, "a4");
  expect(answer.status).toBe(200);
  expect(pagesOf(Buffer.from(await answer.arrayBuffer()).toString("latin1"))).toBe(2);
  expect(asked).toBe(0);
});

test("a server that dies while it prints leaves no browser behind", async () => {
  const dying = await startServer({ demo: false });
  const busy = async () => (await request(dying, "/api/pdf")).data.busy as boolean;
  const left = fetch(`${dying.url}/api/pdf`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ html: `<p>${"many words ".repeat(100_000)}</p>`, paper: "a4" }),
  }).catch(() => null);
  while (!(await busy()));
  const children = () =>
    readFileSync(`/proc/${dying.pid}/task/${dying.pid}/children`, "utf8").split(" ").filter(Boolean);
  await expect.poll(() => children().length, { timeout: 10_000 }).toBeGreaterThan(0);
  const browsers = children();
  await dying.kill();
  await left;
  await expect.poll(() => browsers.filter((pid) => existsSync(`/proc/${pid}`)), { timeout: 20_000 }).toEqual([]);
}, 60_000);

test("whoever goes away ends it, and the next one is served", async () => {
  const busy = async () => (await request(server, "/api/pdf")).data.busy as boolean;
  const leave = new AbortController();
  const left = print(`<p>${"many words ".repeat(100_000)}</p>`, "a4", leave.signal);
  while (!(await busy()));
  expect((await print("<p>another</p>", "a4")).status).toBe(503);
  leave.abort();
  await expect(left).rejects.toThrow("aborted");
  while (await busy());
  expect((await print("<p>short</p>", "a4")).status).toBe(200);
}, 60_000);

test.each([[{ html: "", paper: "a4" }], [{ html: "x", paper: "a3" }], [{ html: "x", paper: "a4", script: true }]])(
  "%j is refused",
  async (body) => {
    const { status } = await request(server, "/api/pdf", {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(body),
    });
    expect(status).toBe(400);
  },
);
