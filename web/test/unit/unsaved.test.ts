// What the browser's own store does to a page: answers, fails, or never answers. No page waits for it longer than 2 s,
// but where a file was dropped that has no other way.
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";

type Work = () => Promise<unknown>;
let open: Work;
vi.mock("idb", () => ({ openDB: () => open() }));

async function fresh() {
  vi.resetModules();
  return import("../../src/shared/unsaved.js");
}

const kept = { documentId: "1", text: "go 1 m", baseRevision: 1, overVersion: 0, typedAt: 1 };
const never: Work = () => new Promise(() => {});
/** How long a promise takes by the clock of the test, ms; -1 when it never comes. */
async function took(work: Promise<unknown>): Promise<number> {
  let at = -1;
  void work.then(() => {
    at = Date.now();
  });
  const begun = Date.now();
  for (let i = 0; i < 200 && at < 0; i += 1) await vi.advanceTimersByTimeAsync(100);
  return at < 0 ? -1 : at - begun;
}

beforeEach(() => vi.useFakeTimers());
afterEach(() => vi.useRealTimers());

describe("a store that never answers", () => {
  beforeEach(() => {
    open = never;
  });

  test("is waited for 2 s once, then not at all", async () => {
    const { findUnsaved, keepUnsaved } = await fresh();
    expect(await took(findUnsaved("1"))).toBe(2000);
    expect(await took(keepUnsaved(kept))).toBeLessThanOrEqual(100);
  });

  test("holds nothing, and takes no file; a file that was dropped is waited for 15 s", async () => {
    const { findUnsaved, handFile } = await fresh();
    const [found, handed] = [findUnsaved("1"), handFile({} as File)];
    await vi.advanceTimersByTimeAsync(2000);
    expect(await found).toBeNull();
    expect(await took(handed)).toBe(13_000);
    expect(await handed).toBe(false);
  });

  test("is used again as soon as it answers", async () => {
    let answer: (db: unknown) => void = () => {};
    open = () =>
      new Promise((resolve) => {
        answer = resolve;
      });
    const { findUnsaved } = await fresh();
    const first = findUnsaved("1");
    await vi.advanceTimersByTimeAsync(2000);
    expect(await first).toBeNull();
    answer({ get: async () => kept });
    expect(await findUnsaved("1")).toEqual(kept);
  });
});

test("a store that fails is tried again the next time", async () => {
  const { findUnsaved } = await (() => {
    open = async () => {
      throw new Error("denied");
    };
    return fresh();
  })();
  expect(await findUnsaved("1")).toBeNull();
  open = async () => ({ get: async () => kept });
  expect(await findUnsaved("1")).toEqual(kept);
});

test("a store that is closed in the middle of an act is one failure, told to who asked, and no error of the page", async () => {
  const unhandled: unknown[] = [];
  const hear = (reason: unknown) => unhandled.push(reason);
  process.on("unhandledRejection", hear);
  vi.useRealTimers();
  const closed = () => Promise.reject(new Error("Connection is closing"));
  open = async () => ({
    transaction: () => ({ store: { get: closed, delete: closed }, done: closed() }),
  });
  const { forgetUnsaved, takeHandedFile } = await fresh();
  await forgetUnsaved("1", "go 1 m");
  expect(await takeHandedFile()).toBeNull();
  // What nobody hears is reported once all that was promised has come.
  await new Promise((resolve) => setImmediate(resolve));
  process.off("unhandledRejection", hear);
  expect(unhandled).toEqual([]);
});
