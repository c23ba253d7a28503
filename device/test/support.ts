// Demo robots and a linked client for the stand-in's tests.

import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import {
  type FromRobot,
  fromRobotSchema,
  LINK_PROTOCOL,
  type Robot,
  readFrame,
  readRobot,
  type ToRobot,
} from "@giddy-pebble/core";
import { WebSocket } from "ws";
import { sha256 } from "../src/index.js";

const demo = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../../demo");

export function demoText(file: string): string {
  return readFileSync(path.join(demo, file), "utf8");
}

export function demoRobot(name: string): Robot {
  const read = readRobot(JSON.parse(demoText(`${name}.robot.json`)));
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
}

type WithoutAsk<T> = T extends { ask: number } ? Omit<T, "ask"> : never;

/** A link as a program of its own has it: frames kept as they come. */
export class TestLink {
  readonly frames: FromRobot[] = [];
  readonly binary: Uint8Array[] = [];
  closed = false;
  private readonly waiting = new Set<() => void>();
  private nextAsk = 1;

  private constructor(readonly socket: WebSocket) {
    socket.on("message", (data: Buffer, isBinary) => {
      if (isBinary) this.binary.push(new Uint8Array(data));
      else {
        const read = readFrame(fromRobotSchema, data.toString("utf8"));
        if (!read.ok) throw new Error(`the robot sent what it should not: ${read.why}`);
        this.frames.push(read.frame);
      }
      for (const wake of [...this.waiting]) wake();
    });
    socket.on("close", () => {
      this.closed = true;
      for (const wake of [...this.waiting]) wake();
    });
    socket.on("error", () => {});
  }

  static async open(port: number, robot: string, greet = true): Promise<TestLink> {
    const socket = new WebSocket(`ws://127.0.0.1:${port}/robots/${robot}`, LINK_PROTOCOL);
    const link = new TestLink(socket);
    await new Promise<void>((resolve, reject) => {
      socket.once("open", resolve);
      socket.once("error", reject);
    });
    if (greet) {
      link.send({ kind: "hello", protocol: LINK_PROTOCOL, who: "test" });
      await link.until((frame) => frame.kind === "shelf");
    }
    return link;
  }

  send(frame: ToRobot): void {
    this.socket.send(JSON.stringify(frame));
  }

  /** The first frame, of those that came and those to come, that fits. */
  until<T extends FromRobot>(fits: (frame: FromRobot) => frame is T): Promise<T>;
  until(fits: (frame: FromRobot) => boolean): Promise<FromRobot>;
  until(fits: (frame: FromRobot) => boolean): Promise<FromRobot> {
    return new Promise((resolve, reject) => {
      const look = () => {
        const found = this.frames.find(fits);
        if (found) {
          this.waiting.delete(look);
          resolve(found);
        } else if (this.closed) {
          this.waiting.delete(look);
          reject(new Error("the link closed"));
        }
      };
      this.waiting.add(look);
      look();
    });
  }

  untilClosed(): Promise<void> {
    return new Promise((resolve) => {
      const look = () => {
        if (!this.closed) return;
        this.waiting.delete(look);
        resolve();
      };
      this.waiting.add(look);
      look();
    });
  }

  async ask(frame: WithoutAsk<ToRobot>): Promise<FromRobot> {
    const ask = this.nextAsk;
    this.nextAsk += 1;
    this.send({ ...frame, ask } as ToRobot);
    return this.until((answer) => "ask" in answer && answer.ask === ask);
  }

  /** Puts a mission on the shelf, in parts. @returns the answer to the last part */
  async put(
    name: string,
    text: string,
    robot: Robot,
    changes: { sha256?: string; partChars?: number } = {},
  ): Promise<FromRobot> {
    const payload = JSON.stringify({ format: "giddy-pebble/package", version: 1, text, robot, field: null });
    const begun = await this.ask({
      kind: "put",
      name,
      bytes: Buffer.byteLength(payload),
      sha256: changes.sha256 ?? sha256(payload),
      label: "version 1",
      origin: "",
    });
    if (begun.kind === "refused") return begun;
    let answer: FromRobot = begun;
    const size = changes.partChars ?? 8192;
    for (let at = 0; at < payload.length; at += size)
      answer = await this.ask({ kind: "part", at, text: payload.slice(at, at + size) });
    return answer;
  }

  close(): void {
    this.socket.terminate();
  }
}
