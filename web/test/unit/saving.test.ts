// Drafts: one save at a time, newest text wins, nothing is given up while the server is away.
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { api } from "../../src/shared/api.js";
import { DraftSaver, type SaveState } from "../../src/shared/saving.js";

const kept = new Map<string, string>();
/** What the store will answer, once it does; nothing when it answers at once. */
const holding: Promise<boolean>[] = [];
vi.mock("../../src/shared/unsaved.js", () => ({
  keepUnsaved: async ({ documentId, text }: { documentId: string; text: string }) => {
    kept.set(documentId, text);
    return holding.shift();
  },
  forgetUnsaved: async (documentId: string, text: string) =>
    void (kept.get(documentId) === text && kept.delete(documentId)),
}));

interface Request {
  text: string;
  over: string;
  answer(status: number, body: unknown): void;
  fail(): void;
}

let requests: Request[] = [];
let states: SaveState[] = [];
const base = { documentId: "00000000-0000-4000-8000-000000000001", baseRevision: 1, draftVersion: 0 };

beforeEach(() => {
  vi.useFakeTimers();
  requests = [];
  states = [];
  kept.clear();
  vi.stubGlobal("fetch", (_: string, init: RequestInit) => {
    return new Promise((resolve, reject) => {
      requests.push({
        text: JSON.parse(String(init.body)).text,
        over: (init.headers as Record<string, string>)["if-match"] ?? "",
        answer: (status, body) => resolve(new Response(JSON.stringify(body), { status })),
        fail: () => reject(new TypeError("failed to fetch")),
      });
    });
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const draft = (version: number, text: string) => ({
  baseRevision: 1,
  version,
  body: null,
  text,
  updatedAt: "2026-11-12T16:20:00Z",
});
const newSaver = () => new DraftSaver(base, (state) => states.push(state), api.saveDraft);
const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);

describe("saving a draft", () => {
  test("is told to be kept here only once what was typed last is", async () => {
    const answers: ((kept: boolean) => void)[] = [];
    for (let i = 0; i < 2; i += 1) holding.push(new Promise((answer) => answers.push(answer)));
    const saver = newSaver();
    saver.typed("a");
    await pass(400);
    requests[0]?.fail();
    await pass(10);
    saver.typed("ab");
    answers[0]?.(true);
    await pass(10);
    expect(states.at(-1)).toEqual({ is: "saving" });
    answers[1]?.(true);
    await pass(10);
    expect(states.at(-1)?.is).toBe("away");
    saver.dispose();
  });

  test("waits for a pause, then saves the newest text over the version it knows", async () => {
    const saver = newSaver();
    saver.typed("a");
    await pass(200);
    saver.typed("ab");
    await pass(200);
    expect(requests).toHaveLength(0);
    await pass(400);
    expect(requests.map(({ text, over }) => [text, over])).toEqual([["ab", '"0"']]);
    requests[0]?.answer(200, draft(1, "ab"));
    await pass(0);
    expect(states.at(-1)).toEqual({ is: "saved" });
    expect(kept.size).toBe(0);
  });

  test("typing during a save makes a second one, over the first one's version", async () => {
    const saver = newSaver();
    saver.typed("a");
    await pass(400);
    saver.typed("ab");
    await pass(400);
    expect(requests).toHaveLength(1);
    requests[0]?.answer(200, draft(1, "a"));
    await pass(10);
    expect(requests.map(({ text, over }) => [text, over])).toEqual([
      ["a", '"0"'],
      ["ab", '"1"'],
    ]);
    expect(kept.get(base.documentId)).toBe("ab");
  });

  test("an absent server is tried again until it answers, and the text stays on this computer", async () => {
    const saver = newSaver();
    saver.typed("a");
    await pass(400);
    requests[0]?.fail();
    await pass(10);
    expect(states.at(-1)).toMatchObject({ is: "away" });
    expect(kept.get(base.documentId)).toBe("a");
    await pass(2100);
    expect(requests).toHaveLength(2);
    requests[1]?.answer(200, draft(1, "a"));
    await pass(10);
    expect(states.at(-1)).toEqual({ is: "saved" });
  });

  test("a stale save becomes a conflict with what is there, and is not tried again", async () => {
    const saver = newSaver();
    saver.typed("mine");
    await pass(400);
    const document = {
      id: base.documentId,
      kind: "mission",
      name: "m",
      headRevision: 1,
      createdAt: "2026-11-12T16:20:00Z",
      robot: "Drizzle",
      field: null,
      remote: false,
    };
    const head = {
      id: base.documentId,
      number: 1,
      parent: null,
      body: null,
      text: "",
      name: null,
      reason: "",
      createdAt: "2026-11-12T16:20:00Z",
    };
    requests[0]?.answer(409, {
      code: "stale",
      detail: "changed",
      current: { document, head, draft: draft(4, "theirs") },
    });
    await pass(5000);
    expect(states.at(-1)).toMatchObject({ is: "conflict", theirs: { draft: { text: "theirs", version: 4 } } });
    expect(requests).toHaveLength(1);
    expect(kept.get(base.documentId)).toBe("mine");
  });

  test("flush saves at once; a disposed saver saves no more", async () => {
    const saver = newSaver();
    saver.typed("a");
    const flushed = saver.flush();
    await pass(0);
    requests[0]?.answer(200, draft(1, "a"));
    await flushed;
    saver.typed("b");
    saver.dispose();
    await pass(5000);
    expect(requests).toHaveLength(1);
  });

  test("what the server refuses is said in its words", async () => {
    const saver = newSaver();
    saver.typed("a");
    await pass(400);
    requests[0]?.answer(422, { code: "invalid-document", detail: "Nothing was saved: too long." });
    await pass(10);
    expect(states.at(-1)).toEqual({ is: "refused", message: "Nothing was saved: too long." });
  });
});
