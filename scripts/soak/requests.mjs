// Requests that nobody should send: every answer has to be one of ours, and never "the server failed".
import http from "node:http";
import net from "node:net";
import { deflateRawSync } from "node:zlib";
import { NUMBERS, oddValue, spoil, TEXTS } from "./chance.mjs";
import { failure } from "./counts.mjs";

/** @typedef {import("./chance.mjs").Chance} Chance */
/** @typedef {import("./counts.mjs").Counts} Counts */
/** @typedef {{ url: string, robotsPort: number, counts: Counts, quiet: () => boolean, samples: { robots: unknown[], missions: string[] } }} Target */

const UUID = "3f0f9a0c-6a5e-4f0e-9a57-0c7c6b1f2d3e";
/** The least that a run's summary is. */
const short = () => {
  const place = { xM: 0, yM: 0, headingDeg: 0 };
  const ended = { outcome: "finished", success: true, reason: "", durationMs: 10, score: null };
  return { ...ended, start: place, end: place, traceHash: "", steps: [] };
};
const PATHS = [
  "/api/documents",
  "/api/documents?kind=mission",
  "/api/documents?kind=",
  `/api/documents/${UUID}`,
  `/api/documents/${UUID}/draft`,
  `/api/documents/${UUID}/revisions`,
  `/api/documents/${UUID}/revisions/1`,
  "/api/trials",
  `/api/trials/${UUID}`,
  `/api/trials/${UUID}/trace`,
  "/api/studies",
  `/api/studies/${UUID}`,
  "/api/calibrations",
  "/api/robots",
  "/api/overview",
  "/api/health",
  "/api/schemas/robot",
  "/api/nothing",
  "/api",
  "/mission",
  "/robot",
  "/notebook",
  "/nowhere",
  "/_image?href=/x",
  "/_server-islands/x",
  "/link/drizzle",
  "/_astro/nothing.js",
  "/../../etc/passwd",
  "//evil.example/",
  "/%",
  "/%00",
  "/api/documents/%ff",
];
const METHODS = ["GET", "GET", "POST", "POST", "PUT", "PATCH", "DELETE", "HEAD", "OPTIONS", "TRACE", "PROPFIND", "LOCK", "SEARCH"];
const QUERIES = [
  "cursor=-271821-04-20T00:00:00.000Z_x",
  `cursor=-271821-04-20T00:00:00.000Z_${UUID}`,
  "limit=1e9",
  "limit=-1",
  "limit=NaN",
  "cursor=2147483648",
  "cursor=%00",
  `mission=${UUID}`,
  "mission=%00",
  "kind=robot",
  "kind=__proto__",
  `robot=${UUID}`,
];

/**
 * @param {string} url @param {string} method @param {Record<string, string>} headers @param {string | Buffer | null} body
 * @returns {Promise<{ status: number, text: string } | null>} null when the connection ended instead
 */
export function ask(url, method, headers, body, patienceMs = 15_000) {
  return new Promise((resolve) => {
    let settled = false;
    const settle = (/** @type {{ status: number, text: string } | null} */ answer) => {
      if (settled) return;
      settled = true;
      resolve(answer);
    };
    let request;
    try {
      const length = body === null ? {} : { "content-length": String(Buffer.byteLength(body)) };
      request = http.request(url, { method, headers: { ...headers, ...length }, timeout: patienceMs, agent: false }, (response) => {
        let text = "";
        response.setEncoding("utf8").on("data", (part) => {
          if (text.length < 2_000_000) text += part;
        });
        response.on("end", () => settle({ status: response.statusCode ?? 0, text }));
        response.on("error", () => settle(null));
      });
    } catch {
      return settle({ status: 0, text: "this client refuses to send it" });
    }
    request.on("error", () => settle(null));
    request.on("timeout", () => {
      request.destroy();
      settle(null);
    });
    request.end(body ?? undefined);
  });
}

/** @param {Chance} chance @param {Target} target @returns {string} a body, hardly ever a good one */
function oddBody(chance, target) {
  const { robots, missions } = target.samples;
  const kind = chance.below(9);
  const name = chance.maybe(0.5) ? chance.pick(TEXTS) : `Soak ${chance.below(1e9)}`;
  if (kind === 0)
    return JSON.stringify({
      kind: chance.pick(["mission", "robot", "field", "notebook", "x"]),
      name,
      text: chance.pick(TEXTS),
      body: oddValue(chance),
    });
  if (kind === 1) return JSON.stringify({ kind: "robot", name, body: spoil(chance.pick(robots), chance, 3) });
  if (kind === 2)
    return JSON.stringify({ kind: "mission", name, text: chance.pick(missions) + chance.pick(TEXTS), reason: chance.pick(TEXTS) });
  if (kind === 3) return `${"[".repeat(chance.pick([10, 5000, 100_000]))}1`;
  if (kind === 4) return `${"[".repeat(5000)}1${"]".repeat(5000)}`;
  if (kind === 5)
    return JSON.stringify({
      baseRevision: chance.pick(NUMBERS),
      text: chance.pick(TEXTS),
      name: chance.pick(TEXTS),
      reason: chance.pick(TEXTS),
      body: oddValue(chance),
    });
  if (kind === 6)
    return JSON.stringify({
      missionRevision: UUID,
      robotRevision: UUID,
      fieldRevision: null,
      coreVersion: "1",
      source: "rehearsal",
      seed: chance.pick(NUMBERS),
      ideal: false,
      outcome: "finished",
      success: true,
      score: chance.pick(NUMBERS),
      durationMs: chance.pick(NUMBERS),
      summary: oddValue(chance),
      trace: chance.pick(["", "AAAA", "not base64"]),
      robot: UUID,
      quantity: chance.pick(TEXTS),
      rows: oddValue(chance),
      result: oddValue(chance),
    });
  if (kind === 7) return JSON.stringify({ note: chance.pick(TEXTS), tape: oddValue(chance), robot: spoil(chance.pick(robots), chance, 2) });
  return JSON.stringify(oddValue(chance)) ?? "null";
}

/** One odd request. @param {Chance} chance @param {Target} target */
export async function oddRequest(chance, target) {
  const { url, counts } = target;
  const method = chance.pick(METHODS);
  const path = chance.pick(PATHS) + (chance.maybe(0.3) ? `?${chance.pick(QUERIES)}` : "");
  const body = ["POST", "PUT", "PATCH", "DELETE"].includes(method) && chance.maybe(0.9) ? oddBody(chance, target) : null;
  /** @type {Record<string, string>} */
  const headers = { "content-type": chance.maybe(0.9) ? "application/json" : "text/plain" };
  if (chance.maybe(0.5)) headers["if-match"] = chance.pick(['"0"', "0", '"99999999999"', "*", "x"]);
  if (chance.maybe(0.05)) headers.host = "evil.example";
  if (chance.maybe(0.05)) headers.origin = "http://evil.example";
  if (chance.maybe(0.2)) headers["accept-encoding"] = "br, gzip";
  const calm = target.quiet();
  const answer = await ask(url + path, method, headers, body);
  counts.requests += 1;
  if (answer === null) {
    if (calm && target.quiet()) {
      counts.unanswered += 1;
      failure(counts, `no answer: ${method} ${path} ${body?.slice(0, 300) ?? ""}`);
    }
    return;
  }
  counts.answers[answer.status] = (counts.answers[answer.status] ?? 0) + 1;
  if (answer.status === 500) {
    counts.serverErrors += 1;
    failure(counts, `500: ${method} ${path} ${body?.slice(0, 600) ?? ""}`);
  }
  // Health says how each part is, whatever its status.
  const known =
    /^\/api(?!\/health)/.test(path) && method !== "HEAD" && method !== "OPTIONS" && answer.status >= 400 && !headers["accept-encoding"];
  if (known && !isProblem(answer.text))
    failure(counts, `${answer.status} without a sentence: ${method} ${path}: ${answer.text.slice(0, 200)}`);
}

/** @param {string} text */
function isProblem(text) {
  try {
    const { title, detail } = JSON.parse(text);
    return typeof title === "string" && typeof detail === "string" && detail.length > 10;
  } catch {
    return false;
  }
}

/** A trace that inflates to a thousand times its size. @param {number} megabytes */
function bomb(megabytes) {
  const bytes = Buffer.alloc(megabytes * 1024 * 1024, 0x20);
  bytes.writeUInt32LE(bytes.length - 4, 0);
  return deflateRawSync(bytes);
}

/** @param {number} count */
function manyEvents(count) {
  const event = { tick: 1, kind: "step begins", stepId: "1", data: 1 };
  const header = Buffer.from(JSON.stringify({ format: 1, tickMs: 10, columns: [], events: Array.from({ length: count }, () => event) }));
  const bytes = Buffer.alloc(4 + Math.ceil(header.length / 4) * 4);
  bytes.writeUInt32LE(header.length, 0);
  header.copy(bytes, 4);
  return deflateRawSync(bytes);
}

/** Small inputs that cost much, if nobody looks. @param {Chance} chance @param {Target} target */
export async function costlyRequest(chance, target) {
  const { url, counts } = target;
  const kind = chance.below(4);
  counts.requests += 1;
  const json = { "content-type": "application/json" };
  if (kind < 2) {
    const packed = kind === 0 ? bomb(chance.pick([60, 60, 200])) : manyEvents(chance.pick([500_000, 49_000]));
    const trial = {
      missionRevision: UUID,
      robotRevision: UUID,
      fieldRevision: null,
      coreVersion: "1",
      source: "rehearsal",
      seed: 1,
      ideal: false,
      outcome: "finished",
      success: true,
      score: null,
      durationMs: 1,
      summary: short(),
      trace: packed.toString("base64"),
    };
    const answer = await ask(`${url}/api/trials`, "POST", json, JSON.stringify(trial), 30_000);
    if (answer && answer.status !== 422 && answer.status !== 413 && answer.status !== 503)
      failure(counts, `a costly trace was answered with ${answer.status}: ${answer.text.slice(0, 200)}`);
    return;
  }
  if (kind === 2) return stream(new URL(url), "/api/trials", counts);
  const large = JSON.stringify({ kind: "mission", name: "Large", text: "x".repeat(chance.pick([900_000, 4_000_000, 14_000_000])) });
  await ask(`${url}/api/documents`, "POST", json, large, 30_000);
}

/** A body in chunks that does not end by itself, until it is refused. @param {URL} url @param {string} path @param {Counts} counts @returns {Promise<void>} */
function stream(url, path, counts) {
  return new Promise((resolve) => {
    const socket = net.connect(Number(url.port), "127.0.0.1");
    const chunk = Buffer.from(`10000\r\n${"x".repeat(65_536)}\r\n`);
    let sent = 0;
    const most = 600 * 1024 * 1024;
    const pump = () => {
      while (sent < most && socket.writable) {
        sent += chunk.length;
        if (!socket.write(chunk)) return;
      }
      if (sent >= most) socket.destroy();
    };
    socket.on("connect", () => {
      socket.write(`POST ${path} HTTP/1.1\r\nhost: ${url.host}\r\ncontent-type: application/json\r\ntransfer-encoding: chunked\r\n\r\n`);
      pump();
    });
    socket.on("drain", pump);
    socket.on("data", () => socket.destroy());
    socket.on("error", () => {});
    socket.setTimeout(30_000, () => socket.destroy());
    socket.on("close", () => {
      if (sent >= most) failure(counts, "600 MB in chunks were taken without a word");
      resolve();
    });
  });
}
