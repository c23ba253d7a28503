// The web server's process: listens, brings the database up to date, loads the demo once, serves pages, endpoints
// and files, and stops cleanly when asked or when the process that started it is gone.
import http from "node:http";
import type { Socket } from "node:net";
import path from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";
import compression from "compression";
import sirv from "sirv";
import { readConfig } from "../server/config.js";
import { closePool, databaseTrouble } from "../server/database.js";
import { logger } from "../server/logger.js";
import { answerBroken } from "./broken.js";
import { loadDemo } from "./demo.js";
import { turnedAway } from "./guard.js";
import { endOnUnknownErrors } from "./lastResort.js";
import { answerUpgrade } from "./link.js";
import { migrate } from "./migrate.js";

type Handler = (request: http.IncomingMessage, response: http.ServerResponse, next: () => void) => unknown;

const dist = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
/** Pauses between looks at a database that does not answer yet, ms; the last one stays. */
const PAUSES = [200, 500, 1000, 2000] as const;
/** How long a database may take to come back before this process gives up, ms. */
const LONGEST_WAIT_MS = 120_000;
/** A connection that says nothing, a head or a request that does not end, ms. */
const SLOW = { headers: 15_000, request: 60_000, idle: 30_000 } as const;

function writeProblem(
  response: http.ServerResponse,
  status: number,
  title: string,
  detail: string,
  headers: Record<string, string> = {},
): void {
  if (response.headersSent) return void response.destroy();
  response.writeHead(status, { "content-type": "application/problem+json", ...headers });
  response.end(JSON.stringify({ type: "about:blank", title, status, detail }));
}

async function listen(server: http.Server, port: number): Promise<number> {
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(port, "127.0.0.1", () => {
      server.off("error", reject);
      resolve();
    });
  });
  server.on("error", (error) => logger.error({ reason: error.message }, "the server's socket failed"));
  const address = server.address();
  return typeof address === "object" && address !== null ? address.port : port;
}

/** Migrates and loads the demo, as soon as the database answers. */
async function prepareDatabase(connection: string, demo: string | undefined): Promise<void> {
  const begun = performance.now();
  for (let attempt = 0; ; attempt += 1) {
    try {
      await migrate(connection);
      if (demo) await loadDemo(demo);
      return;
    } catch (error) {
      const passing = databaseTrouble(error) === "unavailable" && performance.now() - begun < LONGEST_WAIT_MS;
      if (!passing) throw error;
      const pause = PAUSES[Math.min(attempt, PAUSES.length - 1)] as number;
      await new Promise((resolve) => setTimeout(resolve, pause));
    }
  }
}

/** Answers while the server is not ready yet. */
const starting: Handler = (_request, response) =>
  writeProblem(response, 503, "Starting", "Giddy Pebble is starting. Try again in a few seconds.", {
    "retry-after": "2",
  });

function makeFiles(): Handler {
  return sirv(path.join(dist, "client"), {
    // Looked up at each request: a build beside a running server (npm test makes one) replaces files, and a
    // list read at the start would lead to files that are gone.
    dev: true,
    etag: true,
    gzip: true,
    brotli: true,
    setHeaders: (response, file) => {
      response.setHeader("vary", "Accept-Encoding");
      if (file.startsWith("/_astro/")) response.setHeader("cache-control", "public, max-age=31536000, immutable");
    },
  });
}

async function main(): Promise<void> {
  const config = readConfig();
  const files = makeFiles();
  const compress = compression();
  let pages: Handler = starting;
  const server = http.createServer((request, response) => {
    request.on("error", () => {});
    response.on("error", () => {});
    response.setHeader("x-content-type-options", "nosniff");
    response.setHeader("referrer-policy", "same-origin");
    response.setHeader("cross-origin-opener-policy", "same-origin");
    const turned = turnedAway(request);
    if (turned) return writeProblem(response, turned.status, turned.title, turned.detail, turned.headers);
    files(request, response, () => {
      compress(request as never, response as never, () => {
        pages(request, response, () => writeProblem(response, 404, "Not found", "There is no such page."));
      });
    });
  });
  server.headersTimeout = SLOW.headers;
  server.requestTimeout = SLOW.request;
  server.keepAliveTimeout = SLOW.idle;
  server.on("clientError", (error, socket) => answerBroken(error, socket as Socket));
  server.on("connection", (socket) => socket.on("error", () => socket.destroy()));
  server.on("upgrade", (request, socket, head) => answerUpgrade(request, socket, head, config.GIDDY_DEVICE_PORT));
  endOnUnknownErrors(() => server.close());
  stopWhenAsked(server);
  const port = await listen(server, config.GIDDY_PORT);
  await prepareDatabase(config.GIDDY_DATABASE, config.GIDDY_DEMO);
  const entry = pathToFileURL(path.join(dist, "server/entry.mjs")).href;
  pages = ((await import(entry)) as { handler: Handler }).handler;
  // A parent that is gone meanwhile is noticed by its disconnecting.
  if (process.send) process.send({ port }, undefined, undefined, () => {});
  else process.stdout.write(`http://127.0.0.1:${port}/\n`);
}

function stopWhenAsked(server: http.Server): void {
  let stopping = false;
  const stop = async () => {
    if (stopping) return;
    stopping = true;
    server.close();
    server.closeIdleConnections();
    setTimeout(() => server.closeAllConnections(), 1000).unref();
    await closePool();
    process.exit(0);
  };
  process.on("SIGTERM", stop);
  process.on("SIGINT", stop);
  if (process.send) process.on("disconnect", stop);
}

main().catch((error: unknown) => {
  logger.fatal(
    error instanceof Error ? { reason: error.message, stack: error.stack } : { reason: String(error) },
    "could not start",
  );
  process.exit(1);
});
