// The page's side of a rehearsal worker: one warm worker, newest request wins, replaced if it falls silent.
import type { Program, RunSummary, Trace } from "@giddy-pebble/core";
import { type WorkerRequest, workerReply } from "./protocol.js";
import { startWorker } from "./startWorker.js";

/** A worker that says nothing for this long while at work is ended and made anew. */
const SILENCE_MS = 500;
/** The one in its place is given longer: perhaps nothing was wrong, and the computer had other things to do. */
const SECOND_SILENCE_MS = 5000;
/** A cold one first has to load. */
const COLD_MS = 10_000;

interface RehearsalRequest {
  readonly program: Program;
  readonly robot: unknown;
  readonly field: unknown;
  readonly seed: number;
  readonly ideal: boolean;
  /** It will be asked for again, with a changed program. */
  readonly replans?: boolean;
  /** A recorded driver, for missions that hand over. */
  readonly hands?: readonly Float32Array[];
  /** Values a robot kept of the mission, by name. */
  readonly remembered?: WorkerStart["remembered"];
}

type WorkerStart = Extract<WorkerRequest, { type: "rehearse" }>;

interface RehearsalListener {
  /** Rows since `from`, one array per column of RUN_COLUMNS. */
  rows(from: number, columns: readonly Float32Array[]): void;
  done(summary: RunSummary, trace: Trace): void;
  refused(reason: string): void;
}

export class Rehearser {
  private worker: Worker | null = null;
  private generation = 0;
  private listener: RehearsalListener | null = null;
  private silence: ReturnType<typeof setTimeout> | null = null;
  private pending: WorkerRequest | null = null;
  private revived = false;
  /** It has answered before, so it has loaded. */
  private warm = false;

  /** Starts the worker early, so that the first request finds it warm. */
  warmUp(): void {
    this.ensureWorker();
  }

  start(request: RehearsalRequest, listener: RehearsalListener): void {
    this.generation += 1;
    this.listener = listener;
    this.revived = false;
    this.pending = {
      type: "rehearse",
      generation: this.generation,
      ...request,
      replans: request.replans ?? false,
      hands: request.hands ? [...request.hands] : null,
      remembered: request.remembered ?? null,
    };
    this.ensureWorker().postMessage(this.pending);
    this.listen();
  }

  /** Stops what runs; its listener hears nothing more. */
  cancel(): void {
    this.generation += 1;
    this.listener = null;
    this.quiet();
    this.worker?.postMessage({ type: "stop", generation: this.generation } satisfies WorkerRequest);
  }

  dispose(): void {
    this.quiet();
    this.worker?.terminate();
    this.worker = null;
  }

  private ensureWorker(): Worker {
    if (this.worker) return this.worker;
    this.worker = startWorker("rehearsal");
    this.worker.onmessage = (event: MessageEvent<unknown>) => this.receive(event.data);
    return this.worker;
  }

  private receive(data: unknown): void {
    const reply = workerReply.parse(data);
    this.warm = true;
    if (reply.generation !== this.generation || !this.listener) return;
    this.quiet();
    if (reply.type === "rows") {
      this.listen();
      this.listener.rows(reply.from, reply.columns);
    } else if (reply.type === "done") {
      this.listener.done(reply.summary, reply.trace);
    } else this.listener.refused(reply.reason);
  }

  private quiet(): void {
    if (this.silence) clearTimeout(this.silence);
    this.silence = null;
  }

  private listen(): void {
    this.quiet();
    this.silence = setTimeout(() => this.revive(), this.patience());
  }

  private patience(): number {
    if (!this.warm) return COLD_MS;
    return this.revived ? SECOND_SILENCE_MS : SILENCE_MS;
  }

  private revive(): void {
    this.worker?.terminate();
    this.worker = null;
    this.warm = false;
    if (!this.pending || this.revived) {
      this.listener?.refused("The rehearsal did not answer and was stopped. Change the mission and try again.");
      return;
    }
    this.revived = true;
    this.ensureWorker().postMessage(this.pending);
    this.listen();
  }
}
