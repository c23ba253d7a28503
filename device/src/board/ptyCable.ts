// A cable to a board whose other end is a pseudo-terminal of this computer (pty(7)): any program opens it as it opens a
// serial port. Opening it pulls the board's reset line, as it does on most boards with an adapter.
import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import net from "node:net";
import path from "node:path";
import { MissingTool } from "@giddy-pebble/boards";
import type { FromBench, ToBench } from "@giddy-pebble/core";
import type { FrameSocket } from "../host/frameSocket.js";

type WithoutAsk<T> = T extends { ask: number } ? Omit<T, "ask"> : never;

/** What may wait for a program that does not read, bytes; beyond, it is lost as on a real line. */
const MOST_WAITING = 64 * 1024;
/** It looks so often whether somebody opened it, s. */
const LOOKS_EVERY_SEC = 0.02;

export class PtyCable implements FrameSocket {
  open = true;
  readonly waiting = 0;
  /** Where the board's robot was seen last. */
  seen: { readonly xM: number; readonly yM: number; readonly headingRad: number } | null = null;
  private take: (data: Buffer, isBinary: boolean) => void = () => {};
  private gone: () => void = () => {};
  private readonly asked = new Map<number, (frame: FromBench) => void>();
  private nextAsk = 1;
  private plugged: net.Socket | null = null;
  private relay: ChildProcess | null = null;
  private readonly door: net.Server;

  private constructor(
    private readonly folder: string,
    /** Name of the terminal, for whoever opens it. */
    readonly path: string,
    private readonly opened: () => void,
  ) {
    this.door = net.createServer((socket) => this.plug(socket));
  }

  /**
   * @param under - folder in which a new one is made for it
   * @param opened - called each time a program opens it
   * @throws MissingTool; Error when there is no terminal
   */
  static async lay(under: string, name: string, opened: () => void): Promise<PtyCable> {
    const folder = mkdtempSync(path.join(under, "giddy-board-"));
    const cable = new PtyCable(folder, path.join(folder, name), opened);
    try {
      await new Promise<void>((resolve, reject) => {
        cable.door.once("error", reject);
        cable.door.listen(cable.inside, resolve);
      });
      await cable.start();
    } catch (error) {
      cable.terminate();
      throw error;
    }
    return cable;
  }

  /** The socket that bytes of the terminal come through. */
  private get inside(): string {
    return path.join(this.folder, "line");
  }

  /** Makes the terminal. It is a new one each time that a program has closed it. @throws MissingTool; Error */
  private start(): Promise<void> {
    const terminal = `PTY,rawer,wait-slave,link=${this.path},pty-interval=${LOOKS_EVERY_SEC}`;
    const relay = spawn("socat", ["-d", "-d", terminal, `UNIX-CONNECT:${this.inside}`], {
      stdio: ["ignore", "ignore", "pipe"],
    });
    this.relay = relay;
    return new Promise((resolve, reject) => {
      let said = "";
      relay.stderr.on("data", (part: Buffer) => {
        said = (said + part.toString()).slice(-4000);
        // It is named once it is there.
        if (said.includes("PTY is ")) resolve();
      });
      relay.once("error", (error) =>
        reject(
          (error as NodeJS.ErrnoException).code === "ENOENT"
            ? new MissingTool("socat, which makes pseudo-terminals,", "socat")
            : error,
        ),
      );
      relay.once("exit", () => {
        reject(new Error(`There is no pseudo-terminal: ${said.trim().split("\n").at(-1) ?? "socat ended"}.`));
        if (this.open && relay === this.relay) this.start().catch(() => this.terminate());
      });
    });
  }

  private plug(socket: net.Socket): void {
    this.plugged?.destroy();
    this.plugged = socket;
    this.opened();
    socket.on("error", () => {});
    socket.on("data", (bytes) => this.take(bytes, true));
    socket.on("close", () => {
      if (this.plugged === socket) this.plugged = null;
    });
  }

  send(data: string | Uint8Array): void {
    if (typeof data === "string") return this.hear(JSON.parse(data) as FromBench);
    const { plugged } = this;
    if (plugged && plugged.writableLength < MOST_WAITING) plugged.write(data);
  }

  private hear(frame: FromBench): void {
    if (frame.told === "seen") this.seen = frame;
    if (!("ask" in frame)) return;
    this.asked.get(frame.ask)?.(frame);
    this.asked.delete(frame.ask);
  }

  /** What hands do beside the line. @returns what comes of it */
  bench(what: WithoutAsk<ToBench>): Promise<FromBench> {
    const ask = this.nextAsk;
    this.nextAsk += 1;
    return new Promise((resolve) => {
      this.asked.set(ask, resolve);
      this.take(Buffer.from(JSON.stringify({ ...what, ask })), false);
    });
  }

  close(): void {
    this.terminate();
  }

  terminate(): void {
    if (!this.open) return;
    this.open = false;
    this.plugged?.destroy();
    this.door.close();
    this.relay?.kill();
    rmSync(this.folder, { recursive: true, force: true });
    this.gone();
  }

  onMessage(take: (data: Buffer, isBinary: boolean) => void): void {
    this.take = take;
  }

  onClose(call: () => void): void {
    this.gone = call;
  }
}
