// Pages and files: the policy, the nonce, what is cached, and who may ask.
import net from "node:net";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { type RunningServer, startServer } from "../support/server.js";

let server: RunningServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.leave());

/** Sends raw text, as no browser would, and reads the first line of the answer. */
function raw(text: string): Promise<string> {
  return new Promise((resolve, reject) => {
    const socket = net.connect(Number(new URL(server.url).port), "127.0.0.1", () => socket.write(text));
    socket.once("data", (data) => {
      resolve(data.toString().split("\r\n")[0] ?? "");
      socket.destroy();
    });
    socket.once("error", reject);
  });
}

describe("a page", () => {
  test("has a strict policy, and every script in it the nonce of this answer only", async () => {
    const [one, two] = await Promise.all([fetch(`${server.url}/mission`), fetch(`${server.url}/mission`)]);
    const policies = [one, two].map((answer) => answer.headers.get("content-security-policy") ?? "");
    const nonces = policies.map((policy) => /'nonce-([^']+)'/.exec(policy)?.[1] ?? "");
    expect(policies[0]).toContain("default-src 'none'");
    expect(policies[0]).not.toContain("unsafe");
    expect(nonces[0]).not.toBe(nonces[1]);
    const html = await one.text();
    const tags = [...html.matchAll(/<(?:script|style)\b[^>]*>/g)].map(([tag]) => tag);
    expect(tags.length).toBeGreaterThan(0);
    for (const tag of tags) expect(tag).toContain(`nonce="${nonces[0]}"`);
    expect(one.headers.get("cache-control")).toBe("no-store");
    expect(one.headers.get("x-content-type-options")).toBe("nosniff");
  });

  test("the first address is the home page, an unknown one is told with 404", async () => {
    const first = await fetch(server.url, { redirect: "manual" });
    expect([first.status, /<title>([^<]*)/.exec(await first.text())?.[1]]).toEqual([200, "Home · Giddy Pebble"]);
    expect((await fetch(`${server.url}/no/such/page`)).status).toBe(404);
  });

  test("built files may be kept for good", async () => {
    const html = await (await fetch(`${server.url}/mission`)).text();
    const file = /\/_astro\/[^"]+\.css/.exec(html)?.[0];
    const answer = await fetch(server.url + file);
    expect(answer.headers.get("cache-control")).toContain("immutable");
  });
});

describe("strangers", () => {
  test("a save from another site's page is refused", async () => {
    const answer = await fetch(`${server.url}/api/documents`, {
      method: "POST",
      headers: { origin: "http://evil.example", "content-type": "application/json" },
      body: "{}",
    });
    expect(answer.status).toBe(403);
  });

  test("a form, which needs no permission to be sent, is not taken", async () => {
    const answer = await fetch(`${server.url}/api/documents`, {
      method: "POST",
      body: new URLSearchParams({ kind: "mission" }),
    });
    expect(answer.status).toBe(415);
  });

  test("paths out of the folder lead nowhere", async () => {
    expect(await raw("GET /../../package.json HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")).toMatch(/ 404 /);
  });

  test("upgrades are turned away, strangers' with 403", async () => {
    const upgrade = (host: string) =>
      raw(`GET /link HTTP/1.1\r\nHost: ${host}\r\nConnection: Upgrade\r\nUpgrade: websocket\r\n\r\n`);
    expect(await upgrade("127.0.0.1")).toMatch(/ 404 /);
    expect(await upgrade("evil.example")).toMatch(/ 403 /);
  });
});
