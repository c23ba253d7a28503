// The stand-ins' server: a list of robots, building one from a drawing, and a link to each.
import { readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import http from "node:http";
import path from "node:path";
import { LINK_PROTOCOL, MOST_FRAME_BYTES, MOST_LINKS, type Robot, readRobot } from "@giddy-pebble/core";
import { WebSocketServer } from "ws";
import { z } from "zod";
import { StandIn } from "../standin/standIn.js";
import { type Clock, realClock } from "./clock.js";
import { RobotLink } from "./link.js";
import { RobotHost } from "./robotHost.js";
import { Shelf } from "./shelf.js";

const MOST_ROBOTS = 24;
const MOST_BODY = 1024 * 1024;
const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

const keptSchema = z.object({ seed: z.number().int(), robot: z.unknown() });
const buildSchema = z.object({ robot: z.unknown(), seed: z.number().int().optional() });

export interface DeviceOptions {
  /** Where robots and their shelves are kept. */
  readonly folder: string;
  readonly port: number;
  /** Folder with robot documents to build once. */
  readonly demo?: string | undefined;
  readonly clock?: Clock;
}

export class DeviceServer {
  readonly hosts = new Map<string, RobotHost>();
  private readonly clock: Clock;
  private readonly http: http.Server;
  private readonly sockets: WebSocketServer;

  constructor(private readonly options: DeviceOptions) {
    this.clock = options.clock ?? realClock;
    for (const { id, robot, seed } of keptRobots(options.folder)) this.host(id, robot, seed);
    if (options.demo) this.buildDemo(options.demo);
    this.http = http.createServer((request, response) => void this.answer(request, response));
    this.sockets = new WebSocketServer({
      noServer: true,
      maxPayload: 4 * MOST_FRAME_BYTES,
      handleProtocols: (offered) => (offered.has(LINK_PROTOCOL) ? LINK_PROTOCOL : false),
    });
    this.http.on("upgrade", (request, socket, head) =>
      this.upgrade(request, socket as import("node:net").Socket, head),
    );
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
    for (const host of this.hosts.values()) host.dispose();
    for (const socket of this.sockets.clients) socket.terminate();
    this.sockets.close();
    this.http.closeAllConnections();
    await new Promise<void>((resolve) => this.http.close(() => resolve()));
  }

  /** Builds a stand-in from a drawing, or builds the one of that name again: its shelf and its seed stay. */
  build(robot: Robot, seed?: number): string {
    const id = idOf(robot.name);
    const before = this.hosts.get(id);
    const dealt = seed ?? before?.standIn.seed ?? seedOf(robot.name);
    before?.dispose();
    const file = path.join(this.options.folder, `${id}.robot.json`);
    writeFileSync(`${file}.new`, JSON.stringify({ seed: dealt, robot }));
    renameSync(`${file}.new`, file);
    this.host(id, robot, dealt);
    return id;
  }

  private host(id: string, robot: Robot, seed: number): void {
    const shelf = new Shelf(path.join(this.options.folder, `${id}.shelf`));
    this.hosts.set(id, new RobotHost(id, new StandIn(robot, seed), shelf, this.clock));
  }

  private buildDemo(folder: string): void {
    for (const file of readdirSync(folder).filter((name) => name.endsWith(".robot.json"))) {
      const read = readRobot(JSON.parse(readFileSync(path.join(folder, file), "utf8")));
      if (read.ok && !this.hosts.has(idOf(read.document.name))) this.build(read.document);
    }
  }

  private upgrade(request: http.IncomingMessage, socket: import("node:net").Socket, head: Buffer): void {
    const id = /^\/robots\/([a-z0-9-]+)$/.exec(request.url ?? "")?.[1];
    const host = id === undefined ? undefined : this.hosts.get(id);
    const deny = (status: string) => socket.end(`HTTP/1.1 ${status}\r\nconnection: close\r\n\r\n`);
    if (!ours(request)) return void deny("403 Forbidden");
    if (!host) return void deny("404 Not Found");
    if (host.links.size >= MOST_LINKS) return void deny("503 Service Unavailable");
    this.sockets.handleUpgrade(request, socket, head, (web) => new RobotLink(web, host, this.clock));
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
    const read = buildSchema.safeParse(await readJson(request));
    if (!read.success) return say(400, { why: "Send a robot document to build." });
    const robot = readRobot(read.data.robot);
    if (!robot.ok) return say(422, { why: `This robot cannot be built: ${robot.problems[0]}.` });
    if (!this.hosts.has(idOf(robot.document.name)) && this.hosts.size >= MOST_ROBOTS)
      return say(409, { why: `There are ${MOST_ROBOTS} stand-ins already.` });
    say(201, { id: this.build(robot.document, read.data.seed) });
  }

  private list() {
    return [...this.hosts.values()].map(({ id, standIn }) => ({
      id,
      name: standIn.built.name,
      simulated: true,
      doing: standIn.doing,
      packVolts: standIn.packVolts,
    }));
  }
}

/** Only from this machine, and not from another site's page. */
function ours({ headers }: http.IncomingMessage): boolean {
  const host = headers.host ?? "";
  if (!LOOPBACK.test(host)) return false;
  return headers.origin === undefined || LOOPBACK.test(headers.origin.replace(/^http:\/\//, ""));
}

async function readJson(request: http.IncomingMessage): Promise<unknown> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > MOST_BODY) return null;
    chunks.push(chunk);
  }
  try {
    return JSON.parse(Buffer.concat(chunks).toString("utf8"));
  } catch {
    return null;
  }
}

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
