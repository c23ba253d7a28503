// The pool that hands out a study's runs: every run once, cancelled at once, refused with a reason.
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { StudyPool } from "../../src/workers/studyPool.js";
import type { StudyRequest } from "../../src/workers/studyProtocol.js";

const digest = (index: number) => ({
  index,
  seed: index,
  success: index % 4 !== 0,
  reason: "",
  durationMs: 10,
  score: null,
  lostIn: null,
  ends: [],
});

/** A worker of this process: answers when the test says so. */
class FakeWorker {
  static all: FakeWorker[] = [];
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: (() => void) | null = null;
  readonly asked: StudyRequest[] = [];
  ended = false;
  constructor() {
    FakeWorker.all.push(this);
  }
  postMessage(request: StudyRequest): void {
    this.asked.push(request);
  }
  terminate(): void {
    this.ended = true;
  }
  /** Answers the oldest stretch it was given. */
  answer(): boolean {
    const at = this.asked.findIndex((request) => request.type === "runs");
    const [request] = at === -1 ? [] : this.asked.splice(at, 1);
    if (request?.type !== "runs") return false;
    const digests = Array.from({ length: request.to - request.from }, (_, i) => digest(request.from + i));
    this.onmessage?.({ data: { type: "digests", job: request.job, digests } });
    return true;
  }
}

const request = { programs: [], robot: {}, field: {}, seed: 1 };

beforeEach(() => {
  FakeWorker.all = [];
  vi.stubGlobal("Worker", FakeWorker);
});
afterEach(() => vi.unstubAllGlobals());

function listener() {
  const seen: number[][] = [];
  const heard = { done: 0, refused: "" };
  return {
    seen,
    heard,
    digests: (batch: number, digests: readonly { index: number }[]) => {
      seen[batch] = [...(seen[batch] ?? []), ...digests.map((one) => one.index)];
    },
    done: () => {
      heard.done += 1;
    },
    refused: (reason: string) => {
      heard.refused = reason;
    },
  };
}

function answerAll(): void {
  while (FakeWorker.all.some((worker) => !worker.ended && worker.answer()));
}

describe("a study's pool", () => {
  test.each([1, 2, 3])("with %i workers every run of every batch is done once", (size) => {
    const ears = listener();
    new StudyPool(size).start(
      request,
      [
        { runs: 21, adjustments: {} },
        { runs: 6, adjustments: {} },
      ],
      ears,
    );
    expect(FakeWorker.all).toHaveLength(size);
    answerAll();
    expect(ears.heard.done).toBe(1);
    expect(ears.seen[0]?.sort((a, b) => a - b)).toEqual(Array.from({ length: 21 }, (_, i) => i));
    expect(ears.seen[1]?.sort((a, b) => a - b)).toEqual([0, 1, 2, 3, 4, 5]);
  });

  test("cancelled, it says nothing more, and what was at work is ended", () => {
    const ears = listener();
    const pool = new StudyPool(2);
    pool.start(request, [{ runs: 40, adjustments: {} }], ears);
    FakeWorker.all[0]?.answer();
    pool.cancel();
    expect(FakeWorker.all.every((worker) => worker.ended)).toBe(true);
    for (const worker of FakeWorker.all) worker.answer();
    expect(ears.seen[0]).toHaveLength(4);
    expect(ears.heard.done).toBe(0);
  });

  test("begun anew, it takes no answer to the older study", () => {
    const [first, second] = [listener(), listener()];
    const pool = new StudyPool(1);
    pool.start(request, [{ runs: 4, adjustments: {} }], first);
    pool.start(request, [{ runs: 4, adjustments: {} }], second);
    answerAll();
    expect(first.heard.done).toBe(0);
    expect(second.heard.done).toBe(1);
  });

  test("a mission that cannot be run is refused with the worker's reason; a broken worker too", () => {
    const ears = listener();
    const pool = new StudyPool(1);
    pool.start(request, [{ runs: 4, adjustments: {} }], ears);
    FakeWorker.all[0]?.onmessage?.({ data: { type: "refused", job: 1, reason: "It has problems." } });
    expect(ears.heard.refused).toBe("It has problems.");
    const others = listener();
    pool.start(request, [{ runs: 4, adjustments: {} }], others);
    FakeWorker.all.at(-1)?.onerror?.();
    expect(others.heard.refused).toContain("Try again");
  });
});
