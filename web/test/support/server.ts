// A real server on a real, fresh database, for server and browser tests.

import { type ChildProcess, fork } from "node:child_process";
import { randomBytes } from "node:crypto";
import path from "node:path";
import { fileURLToPath } from "node:url";
import pg from "pg";
import type { Loose } from "./mission.js";

const web = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../..");

/** The least that a run's summary is. */
export function shortSummary() {
  const place = { xM: 0, yM: 0, headingDeg: 0 };
  return {
    outcome: "finished",
    success: true,
    reason: "",
    durationMs: 10,
    score: null,
    start: place,
    end: place,
    traceHash: "",
    steps: [],
  };
}

export function testDatabase(): string {
  const base = process.env.GIDDY_TEST_DATABASE;
  if (!base) throw new Error("GIDDY_TEST_DATABASE is not set: run npm test, which starts a database for the tests.");
  const url = new URL(base);
  url.pathname = `/test_${randomBytes(6).toString("hex")}`;
  return url.toString();
}

/**
 * A database with the demo in it, copied from the one that `npm test` has a server make: loading the demo takes as much of
 * the processor as all else of a start. Without that one it does not exist yet, and the server makes it.
 */
async function demoDatabase(): Promise<string> {
  const database = testDatabase();
  const template = process.env.GIDDY_TEST_TEMPLATE;
  if (!template) return database;
  const client = new pg.Client({ connectionString: process.env.GIDDY_TEST_DATABASE });
  await client.connect();
  try {
    const name = client.escapeIdentifier(new URL(database).pathname.slice(1));
    await client.query(`create database ${name} template ${client.escapeIdentifier(template)}`);
  } finally {
    await client.end();
  }
  return database;
}

export interface RunningServer {
  url: string;
  database: string;
  pid: number;
  stop(): Promise<void>;
  kill(): Promise<void>;
}

interface ServerOptions {
  readonly database?: string;
  readonly port?: number;
  readonly demo?: boolean;
  readonly robots?: number;
}

/** The port of this process's servers, one after another: what a browser has compiled of an address is at hand for the next. */
const kept = { port: 0, taken: false };

/** Starts the built server, on a port of its own unless a test needs the same one twice. */
export async function startServer(options: ServerOptions = {}): Promise<RunningServer> {
  if (options.port !== undefined || kept.taken) return startOn(options.port ?? 0, options);
  kept.taken = true;
  // Somebody else may have the port by now: then it is another one.
  const again = (error: unknown) => {
    if (kept.port !== 0) return startOn(0, options);
    throw error;
  };
  const server = await startOn(kept.port, options)
    .catch(again)
    .catch((error) => {
      kept.taken = false;
      throw error;
    });
  kept.port = Number(new URL(server.url).port);
  const free = async (ended: Promise<void>) => {
    await ended;
    kept.taken = false;
  };
  return { ...server, stop: () => free(server.stop()), kill: () => free(server.kill()) };
}

async function startOn(wanted: number, options: ServerOptions): Promise<RunningServer> {
  const database = options.database ?? (await (options.demo === false ? testDatabase() : demoDatabase()));
  const environment: NodeJS.ProcessEnv = {
    ...process.env,
    NODE_ENV: "production",
    GIDDY_DATABASE: database,
    GIDDY_PORT: String(wanted),
    GIDDY_INSTANCE: "test",
  };
  if (options.robots !== undefined) environment.GIDDY_DEVICE_PORT = String(options.robots);
  if (options.demo === false) delete environment.GIDDY_DEMO;
  const child = fork(path.join(web, "dist/host/main.js"), [], { env: environment });
  const port = await new Promise<number>((resolve, reject) => {
    child.once("message", (message: { port: number }) => resolve(message.port));
    child.once("exit", (code) => reject(new Error(`the server stopped while starting, status ${code}`)));
  });
  return {
    url: `http://127.0.0.1:${port}`,
    database,
    pid: child.pid ?? 0,
    stop: () => end(child, "SIGTERM"),
    kill: () => end(child, "SIGKILL"),
  };
}

function end(child: ChildProcess, signal: NodeJS.Signals): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  const gone = new Promise<void>((resolve) => child.once("exit", () => resolve()));
  child.kill(signal);
  return gone;
}

/** Status and JSON of one request. */
export async function request(
  server: RunningServer,
  address: string,
  init?: RequestInit,
): Promise<{ status: number; data: Loose }> {
  const response = await fetch(server.url + address, init);
  return { status: response.status, data: await response.json() };
}

/** The first document of a kind and its newest revision. */
export async function headOf(server: RunningServer, kind: string): Promise<{ document: string; revision: string }> {
  const { data } = await request(server, `/api/documents?kind=${kind}`);
  const opened = await request(server, `/api/documents/${data.documents[0].id}`);
  return { document: opened.data.document.id, revision: opened.data.head.id };
}
