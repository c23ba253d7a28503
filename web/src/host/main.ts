// The web server's process: migrates, loads the demo once, serves pages, endpoints and files, and stops
// cleanly when asked or when the process that started it is gone.
import http from "node:http";
import type { Socket } from "node:net";
import path from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";
import sirv from "sirv";
import { readConfig } from "../server/config.js";
import { closePool } from "../server/database.js";
import { logger } from "../server/logger.js";
import { loadDemo } from "./demo.js";
import { refusal } from "./guard.js";
import { linkedRobot, passOn } from "./link.js";
import { migrate } from "./migrate.js";

type Handler = (request: http.IncomingMessage, response: http.ServerResponse, next: () => void) => void;

const dist = path.dirname(path.dirname(fileURLToPath(import.meta.url)));

function writeProblem(response: http.ServerResponse, status: number, title: string, detail: string): void {
  response.writeHead(status, { "content-type": "application/problem+json" });
  response.end(JSON.stringify({ type: "about:blank", title, status, detail }));
}

async function listen(server: http.Server, port: number): Promise<number> {
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(port, "127.0.0.1", resolve);
  });
  const address = server.address();
  return typeof address === "object" && address !== null ? address.port : port;
}

async function main(): Promise<void> {
  const config = readConfig();
  await migrate(config.GIDDY_DATABASE);
  if (config.GIDDY_DEMO) await loadDemo(config.GIDDY_DEMO);
  const entry = pathToFileURL(path.join(dist, "server/entry.mjs")).href;
  const { handler } = (await import(entry)) as { handler: Handler };
  const files = sirv(path.join(dist, "client"), {
    // Looked up at each request: a build beside a running server (npm test makes one) replaces files, and a
    // list read at the start would lead to files that are gone.
    dev: true,
    etag: true,
    setHeaders: (response, file) => {
      if (file.startsWith("/_astro/")) response.setHeader("cache-control", "public, max-age=31536000, immutable");
    },
  });
  const server = http.createServer((request, response) => {
    response.setHeader("x-content-type-options", "nosniff");
    response.setHeader("referrer-policy", "same-origin");
    response.setHeader("cross-origin-opener-policy", "same-origin");
    const refused = refusal(request);
    if (refused) return writeProblem(response, 403, "Refused", refused);
    files(request, response, () => {
      handler(request, response, () => writeProblem(response, 404, "Not found", "There is no such page."));
    });
  });
  server.on("upgrade", (request, socket, head) => {
    const robot = linkedRobot(request.url);
    if (!refusal(request) && robot !== null && config.GIDDY_DEVICE_PORT)
      return passOn(request, socket as Socket, head, config.GIDDY_DEVICE_PORT, robot);
    // What asks for another upgrade is turned away, not left hanging.
    const status = refusal(request) ? "403 Forbidden" : "404 Not Found";
    socket.end(`HTTP/1.1 ${status}\r\nconnection: close\r\n\r\n`);
  });
  const port = await listen(server, config.GIDDY_PORT);
  stopWhenAsked(server);
  if (process.send) process.send({ port });
  else process.stdout.write(`http://127.0.0.1:${port}/\n`);
}

function stopWhenAsked(server: http.Server): void {
  let stopping = false;
  const stop = async () => {
    if (stopping) return;
    stopping = true;
    server.close();
    server.closeIdleConnections();
    setTimeout(() => server.closeAllConnections(), 2000).unref();
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
