// Talking to the server: every answer is parsed, every failure is a value with a sentence. What the server holds is
// kept for a moment by TanStack Query, so that parts of a page that ask for the same share one request; whatever this
// page changes is asked for anew.
import {
  dealtPinsSchema,
  type Program,
  type Robot,
  robotListSchema,
  studySummarySchema,
  type TypedTape,
  trialSummarySchema,
  typedTapeSchema,
} from "@giddy-pebble/core";
import { QueryClient } from "@tanstack/query-core";
import { z } from "zod";
import { inThisVisit, whenLeft } from "./visit.js";

const documentView = z.object({
  id: z.uuid(),
  kind: z.string(),
  name: z.string(),
  headRevision: z.number().int(),
  createdAt: z.string(),
  /** Of missions: the robot and field the text names, and whether it hands over to a driver. */
  robot: z.string().nullable(),
  field: z.string().nullable(),
  remote: z.boolean(),
  /** Collections it uses. */
  collections: z.array(z.string()).default([]),
});
export type DocumentView = z.infer<typeof documentView>;

const listedView = documentView.extend({ changedAt: z.string(), archivedAt: z.string().nullable() });
/** A document in a list: when it was changed last, and when it was put away. */
export type ListedDocument = z.infer<typeof listedView>;

const usesView = z.object({
  missions: z.array(z.object({ id: z.uuid(), name: z.string() })),
  trials: z.number().int(),
  studies: z.number().int(),
  calibrations: z.number().int(),
  words: z.string(),
});
export type Uses = z.infer<typeof usesView>;

export type BoardTarget = "cpp" | "micropython" | "avr";
const boardExport = z.object({
  files: z.array(z.object({ name: z.string(), text: z.string() })),
  steps: z.array(z.object({ step: z.string(), text: z.string(), line: z.number() })),
  problems: z.array(z.object({ line: z.number(), step: z.string(), message: z.string() })),
  /** What it takes of a chip, bytes; null where no chip is compiled for. */
  chip: z
    .object({
      name: z.string(),
      flashBytes: z.number(),
      flashMost: z.number(),
      ramBytes: z.number(),
      ramMost: z.number(),
    })
    .nullable(),
  missing: z.string().nullable(),
  /** The number by which a board tells this program; readings that it tells of; how much of the link fits. */
  version: z.number().int(),
  watched: z.array(z.string()),
  link: z.enum(["live", "bare", "none"]),
  pins: dealtPinsSchema.nullable(),
});
/** A mission as source for a board. */
export type BoardExport = z.infer<typeof boardExport>;

const count = z.number().int();
const roomView = z.object({
  room: z.object({
    documents: count,
    versions: count,
    versionBytes: z.number(),
    trials: count,
    trialBytes: z.number(),
    studies: count,
    studyBytes: z.number(),
    pictures: count,
    pictureBytes: z.number(),
  }),
  old: count,
});
/** What takes how much room, and how many old rehearsals nobody marked. */
export type RoomView = z.infer<typeof roomView>;

const takenView = z.object({
  documents: z.number().int(),
  same: z.number().int(),
  trials: z.number().int(),
  studies: z.number().int(),
  calibrations: z.number().int(),
  renamed: z.array(z.string()),
});
/** What was taken of a project file. */
export type Taken = z.infer<typeof takenView>;

const listedRevisionView = z.object({
  id: z.uuid(),
  number: z.number().int(),
  parent: z.number().int().nullable(),
  name: z.string().nullable(),
  reason: z.string(),
  createdAt: z.string(),
});
/** A revision in a list: what it holds is asked for by its number. */
export type ListedRevision = z.infer<typeof listedRevisionView>;

const revisionView = listedRevisionView.extend({ body: z.unknown(), text: z.string().nullable() });

const draftView = z.object({
  baseRevision: z.number().int(),
  version: z.number().int(),
  body: z.unknown(),
  text: z.string().nullable(),
  updatedAt: z.string(),
});

const openView = z.object({ document: documentView, head: revisionView, draft: draftView.nullable() });
export type OpenView = z.infer<typeof openView>;

const trialView = z.object({
  id: z.uuid(),
  source: z.string(),
  seed: z.number(),
  ideal: z.boolean(),
  outcome: z.string(),
  success: z.boolean(),
  note: z.string(),
  tape: typedTapeSchema.nullable(),
  tags: z.array(z.string()).default([]),
  score: z.number().nullable(),
  durationMs: z.number(),
  startedAt: z.string(),
  mission: z.object({ document: z.uuid(), name: z.string(), revision: z.uuid(), number: z.number().int() }),
  robot: z.object({ document: z.uuid(), name: z.string(), number: z.number().int() }),
  field: z
    .object({ document: z.uuid().nullable(), name: z.string().nullable(), number: z.number().int().nullable() })
    .nullable(),
  summary: trialSummarySchema,
});
export type TrialView = z.infer<typeof trialView>;

const studyView = z.object({
  id: z.uuid(),
  seed: z.number(),
  runs: z.number().int(),
  successes: z.number().int(),
  createdAt: z.string(),
  mission: z.object({ document: z.uuid(), name: z.string(), number: z.number().int() }),
  robot: z.object({ name: z.string(), number: z.number().int() }),
});
export type StudyView = z.infer<typeof studyView>;

const eventView = z.object({
  at: z.string(),
  what: z.enum(["version", "calibration", "study"]),
  kind: z.string(),
  document: z.uuid(),
  name: z.string(),
  number: count,
  words: z.string(),
});

const countsView = z.object({
  count: z.number().int(),
  worked: z.number().int(),
  tags: z.array(z.object({ tag: z.string(), count: z.number().int() })),
  versions: z.array(z.object({ number: z.number().int(), runs: z.number().int(), successes: z.number().int() })),
});
/** How many runs fit a filter and worked; by version where it names a mission. */
export type TrialCounts = z.infer<typeof countsView>;

/** Which runs are wanted; "" is all of them. */
export interface TrialFilter {
  readonly mission: string;
  readonly source: string;
  readonly result: "" | "worked" | "failed";
  readonly tag: string;
  readonly words: string;
}

function filterWords(filter: TrialFilter): string {
  const said = Object.entries(filter).filter(([, value]) => value !== "");
  return said.map(([key, value]) => `&${key}=${encodeURIComponent(value)}`).join("");
}

const problemView = z.object({ code: z.string(), detail: z.string(), current: openView.optional() });

export type Answer<T> =
  | { readonly ok: true; readonly value: T }
  /** `code` is "unreachable" when the server did not answer at all. */
  | { readonly ok: false; readonly code: string; readonly message: string; readonly current: OpenView | null };

const UNREACHABLE = "The server does not answer. What you typed is kept on this computer and saved as soon as it does.";

async function call<T>(path: string, schema: z.ZodType<T>, init: RequestInit = {}): Promise<Answer<T>> {
  let response: Response;
  try {
    response = await fetch(path, { signal: AbortSignal.timeout(15_000), ...init });
  } catch {
    return { ok: false, code: "unreachable", message: UNREACHABLE, current: null };
  }
  let data: unknown;
  try {
    data = await response.json();
  } catch {
    return {
      ok: false,
      code: "unreadable",
      message: "The server's answer could not be read. Reload the page.",
      current: null,
    };
  }
  if (!response.ok) {
    const problem = problemView.safeParse(data);
    return problem.success
      ? { ok: false, code: problem.data.code, message: problem.data.detail, current: problem.data.current ?? null }
      : { ok: false, code: "failed", message: "The server failed. Try again.", current: null };
  }
  const parsed = schema.safeParse(data);
  if (parsed.success) return { ok: true, value: parsed.data };
  return {
    ok: false,
    code: "unreadable",
    message: "The server's answer was not as expected. Reload the page.",
    current: null,
  };
}

const cache = new QueryClient({ defaultOptions: { queries: { retry: false } } });
/** How long an answer counts as fresh, ms: as long as a page takes to open. */
const FRESH = { list: 2500, open: 800 } as const;
/** What was cut never changes, ms. */
const FOR_GOOD = Number.POSITIVE_INFINITY;

/** A failure on its way through the cache, which keeps only what is good. */
class Failed<T> extends Error {
  constructor(readonly answer: Answer<T>) {
    super("no answer");
  }
}

async function cached<T>(key: readonly string[], staleTime: number, ask: () => Promise<Answer<T>>): Promise<Answer<T>> {
  try {
    const value = await cache.fetchQuery({
      queryKey: key,
      staleTime,
      queryFn: async () => {
        const answer = await ask();
        if (!answer.ok) throw new Failed<T>(answer);
        return answer.value;
      },
    });
    return { ok: true, value };
  } catch (error) {
    if (error instanceof Failed) return error.answer as Answer<T>;
    throw error;
  }
}

/** After a change: what it touched is asked for anew. */
async function changing<T>(keys: readonly (readonly string[])[], answer: Promise<Answer<T>>): Promise<Answer<T>> {
  const given = await answer;
  // Refused or not: another window's change may be the reason.
  for (const key of keys) void cache.invalidateQueries({ queryKey: key });
  return given;
}

const listKeys = [["documents"], ["overview"]] as const;
const documentKeys = (id: string) => [...listKeys, ["document", id]];

function send(method: string, body: unknown, ifMatch?: number): RequestInit {
  const headers: Record<string, string> = { "content-type": "application/json" };
  if (ifMatch !== undefined) headers["if-match"] = `"${ifMatch}"`;
  return { method, headers, body: JSON.stringify(body) };
}

const calibrationView = z.object({
  id: z.uuid(),
  quantity: z.string(),
  rows: z.array(
    z.object({
      values: z.record(z.string(), z.number().nullable()),
      struck: z.boolean(),
      recorded: z.array(z.number()).exactOptional(),
    }),
  ),
  result: z.looseObject({ title: z.string().optional(), words: z.string().optional() }),
  appliedNumber: z.number().int().nullable(),
  createdAt: z.string(),
});
export type CalibrationView = z.infer<typeof calibrationView>;

const overviewView = z.object({
  documents: z.record(z.string(), z.number().int()),
  trials: z.object({ count: z.number().int(), worked: z.boolean(), byRobot: z.boolean(), most: z.number().int() }),
  calibratedRobots: z.number().int(),
});

const allDocuments = (staleTime: number) =>
  cached(["documents"], staleTime, () => call("/api/documents", z.object({ documents: z.array(listedView) })));

const asked = {
  overview: () => cached(["overview"], FRESH.list, () => call("/api/overview", overviewView)),
  calibrations: (robot: string) =>
    cached(["calibrations", robot], FRESH.list, () =>
      call(`/api/calibrations?robot=${robot}&limit=200`, z.object({ calibrations: z.array(calibrationView) })),
    ),
  storeCalibration: (made: { readonly robot: string; readonly [key: string]: unknown }) =>
    changing(
      [["calibrations", made.robot], ["overview"]],
      call("/api/calibrations", z.object({ id: z.uuid() }), send("POST", made)),
    ),
  robots: () => call("/api/robots", robotListSchema),
  /** @param formerly - its name before, when it was given another one: the stand-in of that name becomes this one */
  buildRobot: (robot: unknown, formerly?: string) =>
    call("/api/robots", z.object({ id: z.string() }), send("POST", formerly ? { robot, formerly } : { robot })),
  /**
   * All documents of a kind, or of all kinds: one request for the whole page.
   * @param anew - asks the server in any case: something is looked for that was not there a moment ago
   */
  documents: async (kind?: string, anew = false): Promise<Answer<{ documents: readonly ListedDocument[] }>> => {
    const list = await allDocuments(anew ? 0 : FRESH.list);
    if (!list.ok || kind === undefined) return list;
    return { ok: true, value: { documents: list.value.documents.filter((document) => document.kind === kind) } };
  },
  archived: () => call("/api/documents?archived=true", z.object({ documents: z.array(listedView) })),
  uses: (id: string) => call(`/api/documents/${id}/uses`, usesView),
  /** What names it follows: everything is asked for anew. */
  rename: (id: string, name: string) =>
    changing([...listKeys, ["document"]], call(`/api/documents/${id}`, openView, send("PATCH", { name }))),
  duplicate: (id: string, name: string) =>
    changing(listKeys, call(`/api/documents/${id}/copies`, openView, send("POST", { name }))),
  archive: (id: string, archived: boolean) =>
    changing(
      documentKeys(id),
      call(`/api/documents/${id}`, z.object({ archived: z.boolean() }), send("PATCH", { archived })),
    ),
  remove: (id: string, insist: boolean) =>
    changing(
      documentKeys(id),
      call(`/api/documents/${id}?insist=${insist}`, z.object({ deleted: z.literal(true) }), { method: "DELETE" }),
    ),
  room: (olderThan: number) => call(`/api/room?olderThan=${olderThan}`, roomView),
  thin: (olderThan: number) =>
    changing([["trials"], ["overview"]], call("/api/room", z.object({ deleted: count }), send("POST", { olderThan }))),
  /** Takes a project file in. It may be large, so that it has longer. */
  takeProject: (file: Blob) =>
    changing(
      [...listKeys, ["document"], ["trials"], ["studies"], ["calibrations"]],
      call("/api/project", takenView, {
        method: "POST",
        headers: { "content-type": "application/zip" },
        body: file,
        signal: AbortSignal.timeout(300_000),
      }),
    ),
  open: (id: string) => cached(["document", id], FRESH.open, () => call(`/api/documents/${id}`, openView)),
  create: (kind: string, name: string, text: string, reason: string) =>
    changing(listKeys, call("/api/documents", openView, send("POST", { kind, name, text, reason }))),
  createBody: (kind: string, name: string, body: unknown, reason: string) =>
    changing(listKeys, call("/api/documents", openView, send("POST", { kind, name, body, reason }))),
  saveDraftBody: (id: string, baseRevision: number, body: unknown, overVersion: number) =>
    changing(
      documentKeys(id),
      call(`/api/documents/${id}/draft`, draftView, send("PUT", { baseRevision, body }, overVersion)),
    ),
  /** A robot's new name is taken over by the missions that name it: all documents are asked for anew. */
  cutBody: (
    id: string,
    baseRevision: number,
    body: unknown,
    reason: string,
    name: string | null,
    overVersion: number,
  ) =>
    changing(
      [...listKeys, ["document"]],
      call(`/api/documents/${id}/revisions`, openView, send("POST", { baseRevision, body, reason, name }, overVersion)),
    ),
  revisions: (id: string, cursor: string | null) =>
    call(
      `/api/documents/${id}/revisions?limit=50${cursor ? `&cursor=${cursor}` : ""}`,
      z.object({ revisions: z.array(listedRevisionView), next: z.string().nullable() }),
    ),
  saveDraft: (id: string, baseRevision: number, text: string, overVersion: number) =>
    changing(
      documentKeys(id),
      call(`/api/documents/${id}/draft`, draftView, send("PUT", { baseRevision, text }, overVersion)),
    ),
  cutRevision: (
    id: string,
    baseRevision: number,
    text: string,
    reason: string,
    overVersion: number,
    name: string | null = null,
  ) =>
    changing(
      documentKeys(id),
      call(`/api/documents/${id}/revisions`, openView, send("POST", { baseRevision, text, reason, name }, overVersion)),
    ),
  noteTrial: (id: string, note: string) =>
    changing(
      [["trials"], ["trial", id]],
      call(`/api/trials/${id}`, z.object({ note: z.string() }), send("PATCH", { note })),
    ),
  tapeTrial: (id: string, tape: TypedTape | null) =>
    changing(
      [["trials"], ["trial", id]],
      call(`/api/trials/${id}`, z.object({ tape: typedTapeSchema.nullable() }), send("PATCH", { tape })),
    ),
  trialCounts: (filter: TrialFilter) => call(`/api/trials/counts?${filterWords(filter).slice(1)}`, countsView),
  markTrials: (mark: { readonly ids: readonly string[]; readonly [key: string]: unknown }) =>
    changing(
      [["trials"], ["trial"]],
      call("/api/trials/marks", z.object({ marked: z.number().int() }), send("POST", mark)),
    ),
  /** Runs of a practice round; which missions this project does not have is told. */
  keepPractice: (round: unknown) =>
    changing(
      [["trials"], ["overview"]],
      call(
        "/api/trials/practice",
        z.object({ kept: z.number().int(), unknown: z.array(z.string()) }),
        send("POST", round),
      ),
    ),
  trialsFrom: (filter: TrialFilter, cursor: string | null) =>
    call(
      `/api/trials?limit=100${filterWords(filter)}${cursor ? `&cursor=${cursor}` : ""}`,
      z.object({ trials: z.array(trialView), next: z.string().nullable() }),
    ),
  /** One run with its whole summary: lists leave out its steps. */
  trial: (id: string) => cached(["trial", id], FRESH.open, () => call(`/api/trials/${id}`, trialView)),
  revision: (id: string, number: number) =>
    cached(["revision", id, String(number)], FOR_GOOD, () =>
      call(`/api/documents/${id}/revisions/${number}`, revisionView),
    ),
  storeTrial: (trial: unknown) =>
    changing([["trials"], ["overview"]], call("/api/trials", z.object({ id: z.uuid() }), send("POST", trial))),
  trials: (mission: string, limit = 30) =>
    cached(["trials", mission, String(limit)], FRESH.open, () =>
      call(
        `/api/trials?limit=${limit}&mission=${mission}`,
        z.object({ trials: z.array(trialView), next: z.string().nullable() }),
      ),
    ),
  storeStudy: (study: unknown) =>
    changing([["studies"]], call("/api/studies", z.object({ id: z.uuid() }), send("POST", study))),
  /** Of one mission, or of all. */
  studies: (mission: string | null) =>
    cached(["studies", mission ?? "all"], FRESH.open, () =>
      call(`/api/studies?limit=200${mission ? `&mission=${mission}` : ""}`, z.object({ studies: z.array(studyView) })),
    ),
  study: (id: string) =>
    cached(["study", id], FOR_GOOD, () =>
      call(`/api/studies/${id}`, z.object({ id: z.uuid(), summary: studySummarySchema })),
    ),
  timeline: () => call("/api/timeline", z.object({ events: z.array(eventView) })),
  /** The small drawing of a document as SVG text; null when there is none. */
  picture: async (id: string): Promise<string | null> => {
    try {
      const answer = await fetch(`/api/documents/${id}/picture`);
      return answer.ok ? await answer.text() : null;
    } catch {
      return null;
    }
  },
  keepPhoto: (photo: Blob) =>
    call("/api/photos", z.object({ asset: z.string(), width: count, height: count }), {
      method: "POST",
      headers: { "content-type": "application/octet-stream" },
      body: photo,
      signal: AbortSignal.timeout(60_000),
    }),
  /** Writes a program out for a real board. */
  exportBoard: (made: { target: BoardTarget; title: string; program: Program; robot: Robot }) =>
    // A chip's compiler works for some seconds.
    call("/api/boards", boardExport, { ...send("POST", made), signal: AbortSignal.timeout(120_000) }),
  canPdf: () => call("/api/pdf", z.object({ available: z.boolean(), busy: z.boolean() })),
  /** Prints HTML that stands alone, on the server. */
  printPdf: async (html: string, paper: "a4" | "letter", signal: AbortSignal): Promise<Answer<Uint8Array>> => {
    try {
      const response = await fetch("/api/pdf", { ...send("POST", { html, paper }), signal });
      if (response.ok) return { ok: true, value: new Uint8Array(await response.arrayBuffer()) };
      const said = problemView.safeParse(await response.json());
      const message = said.success ? said.data.detail : "The server failed. Try again.";
      return { ok: false, code: "failed", message, current: null };
    } catch {
      return { ok: false, code: "unreachable", message: UNREACHABLE, current: null };
    }
  },
  trace: (id: string): Promise<Answer<Uint8Array>> =>
    cached(["trace", id], FOR_GOOD, async (): Promise<Answer<Uint8Array>> => {
      try {
        const response = await fetch(`/api/trials/${id}/trace`);
        if (!response.ok) return { ok: false, code: "not-found", message: "This run has no trace.", current: null };
        return { ok: true, value: new Uint8Array(await response.arrayBuffer()) };
      } catch {
        return { ok: false, code: "unreachable", message: UNREACHABLE, current: null };
      }
    }),
};

/** What goes on when the person goes to another workplace: the link to the robot asks it. */
const LASTING: ReadonlySet<string> = new Set(["robots", "buildRobot"]);

/** What the server is asked. Its answer is heard in the visit in which it was asked for. */
export const api = Object.fromEntries(
  Object.entries<(...args: never[]) => Promise<unknown>>(asked).map(([name, ask]) => [
    name,
    LASTING.has(name) ? ask : (...args: never[]) => inThisVisit(ask(...args)),
  ]),
) as typeof asked;

/** What never changes is kept for the next visit. */
const FOR_ALL_VISITS: ReadonlySet<unknown> = new Set(["revision", "study", "trace"]);
whenLeft(() => cache.removeQueries({ predicate: ({ queryKey }) => !FOR_ALL_VISITS.has(queryKey[0]) }));
