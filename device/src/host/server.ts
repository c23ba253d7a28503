// The stand-ins' server: a list of robots, building one from a drawing, and a link to each.
import { existsSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import http from "node:http";
import path from "node:path";
import type { Duplex } from "node:stream";
import { BOARD_PROTOCOL, LINK_PROTOCOL, MOST_FRAME_BYTES, MOST_LINKS, type Robot, readRobot } from "@giddy-pebble/core";
import { WebSocketServer } from "ws";
import * as z from "zod";
import { type BoardKind, Boards } from "../board/boards.js";
import { type Clock, realClock } from "./clock.js";
import { webFrameSocket } from "./frameSocket.js";
import type { RobotHost } from "./robotHost.js";
import { LocalSeat, type RobotPlan, type Seat } from "./seat.js";
import { ThreadSeat } from "./threadSeat.js";

const MOST_ROBOTS = 24;
const MOST_BODY = 5 * 1024 * 1024;
const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?$/;
/** Connections held at a time, to all robots together; a head and a request that do not end, ms. */
const MOST_SOCKETS = 400;
const SLOW = { headers: 10_000, request: 20_000 } as const;

const keptSchema = z.object({ seed: z.number().int(), robot: z.unknown() });
const buildSchema = z.object({
  robot: z.unknown(),
  seed: z.number().int().optional(),
  /** Its name before it was given another one: the stand-in of that name becomes this one, with its ways and shelf. */
  formerly: z.string().min(1).max(40).optional(),
});

interface DeviceOptions {
  /** Where robots and their shelves are kept. */
  readonly folder: string;
  readonly port: number;
  /** Folder with robot documents to build once. */
  readonly demo?: string | undefined;
  /** Moved by hand, in tests: robots then live in this thread. Left out, each has a thread of its own. */
  readonly clock?: Clock;
  /** Told what happens to robots, in sentences. */
  readonly tell?: (sentence: string) => void;
}

export class DeviceServer {
  private readonly seats = new Map<string, Seat>();
  /** Seeds of robots that are about to be built under another name. */
  private readonly dealt = new Map<string, number>();
  private readonly http: http.Server;
  private readonly sockets: WebSocketServer;
  private readonly boards: Boards;

  constructor(private readonly options: DeviceOptions) {
    this.boards = new Boards(options.clock ?? realClock, options.tell ?? (() => {}));
    for (const { id, robot, seed } of keptRobots(options.folder)) this.seat(id, robot, seed);
    if (options.demo) this.buildDemo(options.demo);
    this.http = http.createServer((request, response) => {
      request.on("error", () => {});
      response.on("error", () => {});
      this.answer(request, response).catch((error: unknown) => {
        // Cut off in the middle, or a disk that is full: whoever still listens is told.
        if (response.headersSent) return void response.destroy();
        response.writeHead(isDiskFull(error) ? 507 : 400, { "content-type": "application/json", connection: "close" });
        response.end(JSON.stringify({ why: isDiskFull(error) ? DISK_FULL : "The request ended before it was whole." }));
      });
    });
    this.http.headersTimeout = SLOW.headers;
    this.http.requestTimeout = SLOW.request;
    this.http.maxConnections = MOST_SOCKETS;
    this.http.on("connection", (socket) => socket.on("error", () => socket.destroy()));
    this.http.on("clientError", (_error, socket) => socket.destroy());
    this.sockets = new WebSocketServer({
      noServer: true,
      maxPayload: 4 * MOST_FRAME_BYTES,
      handleProtocols: (offered) => [LINK_PROTOCOL, BOARD_PROTOCOL].find((one) => offered.has(one)) ?? false,
    });
    this.http.on("upgrade", (request, socket, head) => this.upgrade(request, socket, head));
  }

  /** @returns the port it listens on */
  async listen(): Promise<number> {
    await new Promise<void>((resolve, reject) => {
      this.http.once("error", reject);
      this.http.listen(this.options.port, "127.0.0.1", resolve);
    });
    const address = this.http.address();
    return typeof address === "object" && address ? address.port : this.options.port;
  }

  async close(): Promise<void> {
    await Promise.all([this.boards.close(), ...[...this.seats.values()].map((seat) => seat.dispose())]);
    for (const socket of this.sockets.clients) socket.terminate();
    this.sockets.close();
    this.http.closeAllConnections();
    await new Promise<void>((resolve) => this.http.close(() => resolve()));
  }

  /** Robots that live in this thread, by their id. */
  get hosts(): ReadonlyMap<string, RobotHost> {
    return new Map([...this.seats].flatMap(([id, seat]) => (seat instanceof LocalSeat ? [[id, seat.host]] : [])));
  }

  /** Builds a stand-in from a drawing, or builds the one of that name again: its shelf and its seed stay. */
  build(robot: Robot, seed?: number): string {
    const id = idOf(robot.name);
    const before = this.seats.get(id);
    const dealt = seed ?? before?.plan.seed ?? this.dealt.get(id) ?? seedOf(robot.name);
    const file = path.join(this.options.folder, `${id}.robot.json`);
    writeFileSync(`${file}.new`, JSON.stringify({ seed: dealt, robot }));
    renameSync(`${file}.new`, file);
    void before?.dispose();
    // Its boards are built anew with it.
    this.boards.drop(id);
    this.seat(id, robot, dealt);
    return id;
  }

  /** Takes a stand-in over to another name: its seed and its shelf go along. Nothing when there is none, or one of that name is there. */
  private async rename(before: string, after: string): Promise<void> {
    const [from, to] = [idOf(before), idOf(after)];
    const seat = this.seats.get(from);
    if (!seat || this.seats.has(to)) return;
    this.seats.delete(from);
    await seat.dispose();
    const { folder } = this.options;
    rmSync(path.join(folder, `${from}.robot.json`), { force: true });
    if (existsSync(seat.plan.shelf)) renameSync(seat.plan.shelf, path.join(folder, `${to}.shelf`));
    // Built anew by the caller, from its drawing, with the ways it had.
    this.dealt.set(to, seat.plan.seed);
  }

  private seat(id: string, robot: Robot, seed: number): void {
    const { clock, tell, folder } = this.options;
    const plan: RobotPlan = { id, robot, seed, shelf: path.join(folder, `${id}.shelf`) };
    this.seats.set(id, clock ? new LocalSeat(plan, clock) : new ThreadSeat(plan, tell ? { tell } : {}));
  }

  private buildDemo(folder: string): void {
    for (const file of readdirSync(folder).filter((name) => name.endsWith(".robot.json"))) {
      const read = readRobot(JSON.parse(readFileSync(path.join(folder, file), "utf8")));
      if (read.ok && !this.seats.has(idOf(read.document.name))) this.build(read.document);
    }
  }

  private upgrade(request: http.IncomingMessage, socket: Duplex, head: Buffer): void {
    // From here on the socket is nobody's but ours: one that is reset at once must not end the process.
    socket.on("error", () => socket.destroy());
    const id = /^\/robots\/([a-z0-9-]+)$/.exec(request.url ?? "")?.[1];
    const seat = id === undefined ? undefined : this.seats.get(id);
    const board = /^\/boards\/([a-z0-9-]+)\/(avr|micropython)$/.exec(request.url ?? "");
    const deny = (status: string) => socket.end(`HTTP/1.1 ${status}\r\nconnection: close\r\n\r\n`);
    if (!ours(request)) return void deny("403 Forbidden");
    if (board) {
      const [, robot = "", kind = "avr"] = board;
      const { plan } = this.seats.get(robot) ?? {};
      if (!plan) return void deny("404 Not Found");
      return this.sockets.handleUpgrade(request, socket, head, (web) => {
        void this.boards.open(plan, kind as BoardKind, webFrameSocket(web));
      });
    }
    if (!seat) return void deny("404 Not Found");
    // Counted from the connection on: one that never says hello takes a place as well, until it is closed for it.
    if (seat.connections >= MOST_LINKS) return void deny("503 Service Unavailable");
    this.sockets.handleUpgrade(request, socket, head, (web) => seat.attach(web));
  }

  private async answer(request: http.IncomingMessage, response: http.ServerResponse): Promise<void> {
    const say = (status: number, body: unknown) => {
      response.writeHead(status, { "content-type": "application/json" });
      response.end(JSON.stringify(body));
    };
    if (!ours(request)) return say(403, { why: "This robot answers on this computer only." });
    if (request.url !== "/robots") return say(404, { why: "There is nothing here. The list of robots is at /robots." });
    if (request.method === "GET") return say(200, { robots: this.list() });
    if (request.method !== "POST") return say(405, { why: "The list of robots takes GET and POST." });
    const body = await readJson(request);
    if (body === TOO_LARGE) {
      response.setHeader("connection", "close");
      return say(413, { why: "This robot document is larger than 5 MB. A robot is a list of parts, not pictures." });
    }
    const read = buildSchema.safeParse(body);
    if (!read.success) return say(400, { why: "Send a robot document to build." });
    const robot = readRobot(read.data.robot);
    if (!robot.ok) return say(422, { why: `This robot cannot be built: ${robot.problems[0]}.` });
    if (!this.seats.has(idOf(robot.document.name)) && this.seats.size >= MOST_ROBOTS)
      return say(409, { why: `There are ${MOST_ROBOTS} simulated robots already.` });
    if (read.data.formerly !== undefined) await this.rename(read.data.formerly, robot.document.name);
    say(201, { id: this.build(robot.document, read.data.seed) });
  }

  private list() {
    return [...this.seats.values()].map(({ info }) => info);
  }
}

const DISK_FULL = "The disk is full, so the robot was not built. Make room on it and try again.";

function isDiskFull(error: unknown): boolean {
  return (error as { code?: unknown } | null)?.code === "ENOSPC";
}

/** Only from this machine, and not from another site's page: as strict as the page's own server. */
function ours({ headers }: http.IncomingMessage): boolean {
  const host = headers.host ?? "";
  if (!LOOPBACK.test(host)) return false;
  return headers.origin === undefined || headers.origin === `http://${host}`;
}

/** @returns the body as JSON, undefined when it is none, or "too large"; what is too large is not kept */
async function readJson(request: http.IncomingMessage): Promise<unknown> {
  const chunks: Buffer[] = [];
  let size = 0;
  await new Promise<void>((resolve, reject) => {
    request.on("data", (chunk: Buffer) => {
      size += chunk.length;
      if (size <= MOST_BODY) chunks.push(chunk);
      else resolve();
    });
    request.once("end", resolve);
    request.once("aborted", () => reject(new Error("aborted")));
    request.once("error", reject);
  });
  if (size > MOST_BODY) return TOO_LARGE;
  try {
    return JSON.parse(Buffer.concat(chunks).toString("utf8"));
  } catch {
    return undefined;
  }
}

const TOO_LARGE = Symbol("too large");

/** "Drizzle" → "drizzle"; other letters become dashes, with a digest of the name so that two names stay two. */
export function idOf(name: string): string {
  const plain = name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "")
    .slice(0, 40);
  return /^[a-z0-9 ]+$/i.test(name) && plain !== "" ? plain : `${plain || "robot"}-${seedOf(name).toString(36)}`;
}

/** A seed from a name (FNV-1a), so that a robot keeps its ways when everything else was deleted. */
function seedOf(name: string): number {
  let hash = 0x811c9dc5;
  for (const char of name) hash = Math.imul(hash ^ (char.codePointAt(0) ?? 0), 0x01000193);
  return hash >>> 1;
}

function keptRobots(folder: string): { id: string; robot: Robot; seed: number }[] {
  return readdirSync(folder).flatMap((file) => {
    const id = /^([a-z0-9-]+)\.robot\.json$/.exec(file)?.[1];
    if (id === undefined) {
      if (file.endsWith(".new")) rmSync(path.join(folder, file), { force: true });
      return [];
    }
    try {
      const kept = keptSchema.parse(JSON.parse(readFileSync(path.join(folder, file), "utf8")));
      const read = readRobot(kept.robot);
      return read.ok ? [{ id, robot: read.document, seed: kept.seed }] : [];
    } catch {
      return [];
    }
  });
}
