// A real server on a real, fresh database, for server and browser tests.

import { type ChildProcess, fork } from "node:child_process";
import { randomBytes } from "node:crypto";
import path from "node:path";
import { setTimeout } from "node:timers/promises";
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
 * Copies the demo, from the database that `npm test` has a server make, into a database that is new or made anew: loading
 * it takes as much of the processor as all else of a start. Without that one a server makes the database, and loads it.
 * @returns whether there is such a copy now
 */
async function copyDemo(database: string): Promise<boolean> {
  const template = process.env.GIDDY_TEST_TEMPLATE;
  if (!template) return false;
  const client = new pg.Client({ connectionString: process.env.GIDDY_TEST_DATABASE });
  await client.connect();
  try {
    const name = client.escapeIdentifier(new URL(database).pathname.slice(1));
    await client.query(`drop database if exists ${name} with (force)`);
    await client.query(`create database ${name} template ${client.escapeIdentifier(template)}`);
  } finally {
    await client.end();
  }
  return true;
}

export interface RunningServer {
  url: string;
  database: string;
  pid: number;
  stop(): Promise<void>;
  kill(): Promise<void>;
  /** Leaves it to the next file of tests, if that can use it; what it keeps is all in its database. */
  leave(): Promise<void>;
}

interface ServerOptions {
  readonly database?: string;
  readonly port?: number;
  readonly demo?: boolean;
  readonly robots?: number;
}

/** The port of this process's servers, one after another: what a browser has compiled of an address is at hand for the next. */
const kept = { port: 0, taken: false };

/** A server that was left, and the port of the robots it knows of. */
let left: { readonly server: RunningServer; readonly robots: number | undefined } | undefined;

/**
 * The built server, on a port of its own unless a test needs the same one twice. One that was left is taken if it is like
 * what is asked for, with the demo as if nobody had changed it: a start takes a second of the processor, and so does
 * getting warm.
 */
export async function startServer(options: ServerOptions = {}): Promise<RunningServer> {
  const { robots, ...others } = options;
  if (left && Object.keys(others).length === 0) {
    const { server, robots: known } = left;
    left = undefined;
    // Where no robots are asked for, nobody listens at the port of those that were.
    if ((robots === undefined || robots === known) && (await copyDemo(server.database))) {
      await answers(server);
      return server;
    }
    await server.stop();
  }
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
  const own: RunningServer = {
    ...server,
    stop: () => free(server.stop()),
    kill: () => free(server.kill()),
    leave: () => leave(own, options),
  };
  return own;
}

async function leave(server: RunningServer, { demo, robots }: ServerOptions): Promise<void> {
  if (left || demo === false) return server.stop();
  left = { server, robots };
}

/** Waits until a server has its database again: it hears a little later of connections that were ended. */
async function answers(server: RunningServer): Promise<void> {
  while (!(await fetch(`${server.url}/api/health`)).ok) await setTimeout(50);
}

async function startOn(wanted: number, options: ServerOptions): Promise<RunningServer> {
  const database = options.database ?? testDatabase();
  if (options.database === undefined && options.demo !== false) await copyDemo(database);
  const environment: NodeJS.ProcessEnv = {
    ...process.env,
    NODE_ENV: "production",
    GIDDY_DATABASE: database,
    GIDDY_PORT: String(wanted),
    GIDDY_INSTANCE: "test",
    // A database made anew ends connections: that is no news.
    GIDDY_LOG: "error",
  };
  if (options.robots !== undefined) environment.GIDDY_DEVICE_PORT = String(options.robots);
  if (options.demo === false) delete environment.GIDDY_DEMO;
  const child = fork(path.join(web, "dist/host/main.js"), [], { env: environment });
  const port = await new Promise<number>((resolve, reject) => {
    child.once("message", (message: { port: number }) => resolve(message.port));
    child.once("exit", (code) => reject(new Error(`the server stopped while starting, status ${code}`)));
  });
  const stop = () => end(child, "SIGTERM");
  return {
    url: `http://127.0.0.1:${port}`,
    database,
    pid: child.pid ?? 0,
    stop,
    kill: () => end(child, "SIGKILL"),
    leave: stop,
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
