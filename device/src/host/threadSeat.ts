// A robot in a thread of its own, which begins when somebody links for the first time. One that hangs or dies takes no other along: its beat is missed, its thread is
// ended and started again, with growing pauses while that does not help.
import { MessageChannel, type MessagePort, Worker } from "node:worker_threads";
import { MOST_FRAMES_PER_SEC, packVolts } from "@giddy-pebble/core";
import type { WebSocket } from "ws";
import { dealTruth } from "../standin/truth.js";
import { asBuffer } from "./frameSocket.js";
import type { RobotInfo, RobotPlan, Seat } from "./seat.js";
import { BEAT_MS, type FromThread, type ToThread, type Urgent } from "./threadMessages.js";

/** A robot that is silent for this long hangs, ms; the first beat may take longer. */
const SILENT_MS = 4000;
const FIRST_BEAT_MS = 30_000;
/** Pauses before a thread is started again, ms; the last one stays. */
const PAUSES = [100, 500, 1000, 2000, 5000, 10_000] as const;
/** A thread that lived this long starts the pauses afresh, ms. */
const WELL_MS = 30_000;
/** For a robot to end by itself, ms. */
const ENDING_MS = 1000;
/** Memory of one robot's thread, MB: several times what the longest run takes. */
const MEMORY = { maxOldGenerationSizeMb: 128, maxYoungGenerationSizeMb: 6 } as const;
/** What may wait for a reader that does not read, bytes; beyond, the link is closed. */
const MOST_WAITING = 4 * 1024 * 1024;

interface ThreadOptions {
  /** Script of the thread; another one in tests of threads that hang. */
  readonly script?: URL;
  readonly silentMs?: number;
  /** Told when a thread is ended or ended by itself. */
  readonly tell?: (sentence: string) => void;
}

interface Connection {
  readonly web: WebSocket;
  readonly link: number;
}

export class ThreadSeat implements Seat {
  private worker: Worker | null = null;
  private urgent: MessagePort | null = null;
  private latest: RobotInfo;
  private readonly open = new Map<number, Connection>();
  private nextLink = 1;
  private startedAt = 0;
  private beatAt = 0;
  private lookedAt = 0;
  private beaten = false;
  private restarts = 0;
  private begun = false;
  private ended = false;
  private again: NodeJS.Timeout | null = null;
  private readonly watch: NodeJS.Timeout;

  constructor(
    readonly plan: RobotPlan,
    private readonly options: ThreadOptions = {},
  ) {
    const { robot, seed } = plan;
    this.latest = { ...this.away(), doing: "idle", packVolts: packVolts(robot, dealTruth(robot, seed).charge) };
    this.watch = setInterval(() => this.look(), BEAT_MS);
  }

  get info(): RobotInfo {
    return this.latest;
  }

  get connections(): number {
    return this.open.size;
  }

  attach(web: WebSocket): void {
    const link = this.nextLink;
    this.nextLink += 1;
    this.open.set(link, { web, link });
    web.on("error", () => {});
    const within = frameBrake(web);
    web.on("message", (data, isBinary) => {
      within();
      const bytes = new Uint8Array(asBuffer(data));
      if (!isBinary && isHalt(bytes)) this.urge({ link, data: bytes });
      else this.tell({ kind: "heard", link, data: bytes, isBinary });
    });
    web.on("close", () => {
      this.open.delete(link);
      this.tell({ kind: "closed", link });
    });
    if (this.begun) this.tell({ kind: "opened", link });
    else this.begin();
  }

  /** Switches it on. Until then it stands, with what its pack holds. */
  begin(): void {
    if (this.begun) return;
    this.begun = true;
    this.start();
  }

  async dispose(): Promise<void> {
    this.ended = true;
    clearInterval(this.watch);
    this.urgent?.close();
    if (this.again) clearTimeout(this.again);
    for (const { web } of this.open.values()) web.terminate();
    const { worker } = this;
    this.worker = null;
    if (!worker) return;
    const gone = new Promise<void>((resolve) => worker.once("exit", () => resolve()));
    worker.postMessage({ kind: "end" } satisfies ToThread);
    const enough = setTimeout(() => void worker.terminate(), ENDING_MS);
    await gone;
    clearTimeout(enough);
  }

  /** What is said of it while it does not live. */
  private away(): RobotInfo {
    return { id: this.plan.id, name: this.plan.robot.name, simulated: true, doing: "restarting", packVolts: 0 };
  }

  private start(): void {
    const script = this.options.script ?? new URL("./robotThread.js", import.meta.url);
    const { port1, port2 } = new MessageChannel();
    this.urgent?.close();
    this.urgent = port1;
    port1.unref();
    const worker = new Worker(script, {
      workerData: { plan: this.plan, urgent: port2 },
      transferList: [port2],
      resourceLimits: MEMORY,
    });
    this.worker = worker;
    this.startedAt = performance.now();
    this.beatAt = this.startedAt;
    this.lookedAt = this.startedAt;
    this.beaten = false;
    worker.on("message", (message: FromThread) => this.hear(message));
    worker.on("error", (error) => this.options.tell?.(`The robot ${this.plan.robot.name} failed: ${error.message}`));
    worker.on("exit", () => this.lost(worker));
    for (const link of this.open.keys()) this.tell({ kind: "opened", link });
  }

  private lost(worker: Worker): void {
    if (worker !== this.worker || this.ended) return;
    this.worker = null;
    this.latest = this.away();
    // Whoever is linked links again, and finds it as it is then.
    for (const { web } of this.open.values()) web.terminate();
    if (performance.now() - this.startedAt > WELL_MS) this.restarts = 0;
    const pause = PAUSES[Math.min(this.restarts, PAUSES.length - 1)] as number;
    this.restarts += 1;
    this.options.tell?.(`The robot ${this.plan.robot.name} stopped and is started again in ${pause} ms.`);
    this.again = setTimeout(() => this.start(), pause);
  }

  /** Looks whether the thread still beats. */
  private look(): void {
    const now = performance.now();
    const late = now - this.lookedAt > 4 * BEAT_MS;
    this.lookedAt = now;
    // This very thread was held up: what was said meanwhile is still to be read.
    if (late) this.beatAt = now;
    const patience = this.beaten ? (this.options.silentMs ?? SILENT_MS) : FIRST_BEAT_MS;
    if (!this.worker || now - this.beatAt < patience) return;
    this.options.tell?.(`The robot ${this.plan.robot.name} hangs and is ended.`);
    this.beatAt = now;
    void this.worker.terminate();
  }

  private tell(message: ToThread): void {
    this.worker?.postMessage(message);
  }

  private urge(message: Urgent): void {
    this.urgent?.postMessage(message);
    this.tell({ kind: "urgent" });
  }

  private hear(message: FromThread): void {
    if (message.kind === "beat") {
      this.beatAt = performance.now();
      this.beaten = true;
      this.latest = message.info;
      return;
    }
    const web = this.open.get(message.link)?.web;
    if (!web) return;
    if (message.kind === "send") this.send(web, message.link, message.data);
    else if (message.kind === "close") web.close(message.code, message.reason);
    else web.terminate();
  }

  private send(web: WebSocket, link: number, data: string | Uint8Array): void {
    const left = () => this.tell({ kind: "left", link, bytes: data.length });
    if (web.readyState !== web.OPEN) return left();
    if (web.bufferedAmount > MOST_WAITING) return web.terminate();
    web.send(data, left);
  }
}

/** Longest frame that can be a halt, bytes. */
const HALT_BYTES = 200;

/** Whether a text frame asks for a halt. Only looked at: the robot reads it as any other frame. */
function isHalt(bytes: Uint8Array): boolean {
  return bytes.length <= HALT_BYTES && /"kind"\s*:\s*"halt"/.test(Buffer.from(bytes).toString("utf8"));
}

/** Frames a second after which a link is not read any further until the second is over: what it sends waits there. */
const BRAKE_FRAMES = 1.5 * MOST_FRAMES_PER_SEC;

/** Keeps one link from taking the time of all others. @returns called at each frame */
function frameBrake(web: WebSocket): () => void {
  let began = performance.now();
  let frames = 0;
  return () => {
    const now = performance.now();
    if (now - began >= 1000) {
      began = now;
      frames = 0;
    }
    frames += 1;
    if (frames < BRAKE_FRAMES || web.isPaused) return;
    web.pause();
    setTimeout(
      () => {
        if (web.readyState === web.OPEN) web.resume();
      },
      began + 1000 - now,
    ).unref();
  };
}
