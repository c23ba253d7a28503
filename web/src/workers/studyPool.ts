// A pool of workers for studies: hands out stretches of a few runs, takes the digests in as they come. Results do
// not depend on how many workers there are, since each run has a seed of its own.
import type { Adjustments, FollowedLine, LineRun, Program, RunDigest } from "@giddy-pebble/core";
import { startWorker } from "./startWorker.js";
import { type StudyRequest, studyReply } from "./studyProtocol.js";

/** Runs handed out at a time: few, so that Cancel is quick and all workers end together. */
const STRETCH = 4;
const MOST_WORKERS = 8;

interface StudyRequestOfPage {
  /** One mission, or several to be compared. */
  readonly programs: readonly Program[];
  readonly robot: unknown;
  readonly field: unknown;
  readonly seed: number;
}

/** One batch: the same runs of one program under one set of adjustments. */
export interface Batch {
  readonly runs: number;
  readonly adjustments: Adjustments;
  /** Which of the programs; left out for the first. */
  readonly program?: number;
  /** The step whose line following is looked at: such runs come as `lines`. */
  readonly step?: FollowedLine;
}

interface StudyListener {
  /** Digests of one batch, in any order. */
  digests(batch: number, digests: readonly RunDigest[]): void;
  lines?(batch: number, runs: readonly LineRun[]): void;
  done(): void;
  refused(reason: string): void;
}

interface Stretch {
  readonly batch: number;
  readonly from: number;
  readonly to: number;
}

export class StudyPool {
  private workers: Worker[] = [];
  private readonly busy = new Map<Worker, Stretch>();
  private job = 0;
  private queue: Stretch[] = [];
  private batches: readonly Batch[] = [];
  private request: StudyRequestOfPage | null = null;
  private listener: StudyListener | null = null;

  constructor(private readonly size = Math.max(1, Math.min(MOST_WORKERS, navigator.hardwareConcurrency || 2))) {}

  start(request: StudyRequestOfPage, batches: readonly Batch[], listener: StudyListener): void {
    this.cancel();
    this.job += 1;
    this.request = request;
    this.batches = batches;
    this.listener = listener;
    this.queue = batches.flatMap((batch, b) =>
      Array.from({ length: Math.ceil(batch.runs / STRETCH) }, (_, i) => ({
        batch: b,
        from: i * STRETCH,
        to: Math.min(batch.runs, (i + 1) * STRETCH),
      })),
    );
    while (this.workers.length < this.size) this.workers.push(this.newWorker());
    const { programs, robot, field } = request;
    for (const worker of this.workers) {
      worker.postMessage({
        type: "prepare",
        job: this.job,
        programs: [...programs],
        robot,
        field,
      } satisfies StudyRequest);
      this.feed(worker);
    }
  }

  /** Ends the study in hand; its listener hears nothing more. Workers that are in the middle of a run are replaced. */
  cancel(): void {
    this.listener = null;
    this.queue = [];
    for (const worker of this.busy.keys()) {
      worker.terminate();
      this.workers = this.workers.filter((other) => other !== worker);
    }
    this.busy.clear();
  }

  dispose(): void {
    this.cancel();
    for (const worker of this.workers) worker.terminate();
    this.workers = [];
  }

  private newWorker(): Worker {
    const worker = startWorker("study");
    worker.onmessage = (event: MessageEvent<unknown>) => this.receive(worker, event.data);
    worker.onerror = () => this.refuse("The rehearsals did not answer and were stopped. Try again.");
    return worker;
  }

  private feed(worker: Worker): void {
    const next = this.queue.shift();
    if (!next || !this.request) {
      this.busy.delete(worker);
      if (this.busy.size === 0) this.finish();
      return;
    }
    this.busy.set(worker, next);
    const { adjustments, program = 0, step = null } = this.batches[next.batch] as Batch;
    const followed = step && { line: step.line, sensor: { name: step.sensor.name }, edge: step.edge };
    const { seed } = this.request;
    const { from, to } = next;
    const runs = { job: this.job, seed, from, to, adjustments, program, step: followed };
    worker.postMessage({ type: "runs", ...runs } satisfies StudyRequest);
  }

  private finish(): void {
    const { listener } = this;
    this.listener = null;
    listener?.done();
  }

  private refuse(reason: string): void {
    const { listener } = this;
    this.cancel();
    listener?.refused(reason);
  }

  private receive(worker: Worker, data: unknown): void {
    const reply = studyReply.parse(data);
    if (reply.job !== this.job || !this.listener) return;
    if (reply.type === "refused") return this.refuse(reply.reason);
    const stretch = this.busy.get(worker);
    if (stretch && reply.type === "lines") this.listener.lines?.(stretch.batch, reply.runs);
    else if (stretch && reply.type === "digests") this.listener.digests(stretch.batch, reply.digests);
    this.feed(worker);
  }
}
