// Talking to the server: every answer is parsed, every failure is a value with a sentence.
import { robotListSchema, type TypedTape, typedTapeSchema } from "@giddy-pebble/core";
import { z } from "zod";

const documentView = z.object({
  id: z.uuid(),
  kind: z.string(),
  name: z.string(),
  headRevision: z.number().int(),
  createdAt: z.string(),
});
export type DocumentView = z.infer<typeof documentView>;

const revisionView = z.object({
  id: z.uuid(),
  number: z.number().int(),
  parent: z.number().int().nullable(),
  body: z.unknown(),
  text: z.string().nullable(),
  name: z.string().nullable(),
  reason: z.string(),
  createdAt: z.string(),
});

export type RevisionView = z.infer<typeof revisionView>;

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
  outcome: z.string(),
  success: z.boolean(),
  note: z.string(),
  tape: typedTapeSchema.nullable(),
  score: z.number().nullable(),
  durationMs: z.number(),
  startedAt: z.string(),
  mission: z.object({ document: z.uuid(), name: z.string(), revision: z.uuid(), number: z.number().int() }),
  robot: z.object({ document: z.uuid(), name: z.string(), number: z.number().int() }),
  field: z.object({ name: z.string().nullable() }).nullable(),
  summary: z.looseObject({}),
});
export type TrialView = z.infer<typeof trialView>;

const studyView = z.object({
  id: z.uuid(),
  seed: z.number(),
  runs: z.number().int(),
  successes: z.number().int(),
  createdAt: z.string(),
  mission: z.object({ number: z.number().int() }),
});
export type StudyView = z.infer<typeof studyView>;

const problemView = z.object({ code: z.string(), detail: z.string(), current: openView.optional() });

export type Answer<T> =
  | { readonly ok: true; readonly value: T }
  /** `code` is "unreachable" when the server did not answer at all. */
  | { readonly ok: false; readonly code: string; readonly message: string; readonly current: OpenView | null };

const UNREACHABLE = "The server does not answer. What you typed is kept on this computer and saved as soon as it does.";

async function call<T>(path: string, schema: z.ZodType<T>, init: RequestInit = {}): Promise<Answer<T>> {
  let response: Response;
  try {
    response = await fetch(path, { ...init, signal: AbortSignal.timeout(15_000) });
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

export const api = {
  calibrations: (robot: string) =>
    call(`/api/calibrations?robot=${robot}&limit=200`, z.object({ calibrations: z.array(calibrationView) })),
  storeCalibration: (made: unknown) => call("/api/calibrations", z.object({ id: z.uuid() }), send("POST", made)),
  robots: () => call("/api/robots", robotListSchema),
  buildRobot: (robot: unknown) => call("/api/robots", z.object({ id: z.string() }), send("POST", { robot })),
  documents: (kind?: string) =>
    call(`/api/documents${kind ? `?kind=${kind}` : ""}`, z.object({ documents: z.array(documentView) })),
  open: (id: string) => call(`/api/documents/${id}`, openView),
  create: (kind: string, name: string, text: string, reason: string) =>
    call("/api/documents", openView, send("POST", { kind, name, text, reason })),
  createBody: (kind: string, name: string, body: unknown, reason: string) =>
    call("/api/documents", openView, send("POST", { kind, name, body, reason })),
  saveDraftBody: (id: string, baseRevision: number, body: unknown, overVersion: number) =>
    call(`/api/documents/${id}/draft`, draftView, send("PUT", { baseRevision, body }, overVersion)),
  cutBody: (
    id: string,
    baseRevision: number,
    body: unknown,
    reason: string,
    name: string | null,
    overVersion: number,
  ) =>
    call(`/api/documents/${id}/revisions`, openView, send("POST", { baseRevision, body, reason, name }, overVersion)),
  revisions: (id: string, cursor: string | null) =>
    call(
      `/api/documents/${id}/revisions?limit=50${cursor ? `&cursor=${cursor}` : ""}`,
      z.object({ revisions: z.array(revisionView), next: z.string().nullable() }),
    ),
  saveDraft: (id: string, baseRevision: number, text: string, overVersion: number) =>
    call(`/api/documents/${id}/draft`, draftView, send("PUT", { baseRevision, text }, overVersion)),
  cutRevision: (
    id: string,
    baseRevision: number,
    text: string,
    reason: string,
    overVersion: number,
    name: string | null = null,
  ) =>
    call(`/api/documents/${id}/revisions`, openView, send("POST", { baseRevision, text, reason, name }, overVersion)),
  noteTrial: (id: string, note: string) =>
    call(`/api/trials/${id}`, z.object({ note: z.string() }), send("PATCH", { note })),
  tapeTrial: (id: string, tape: TypedTape | null) =>
    call(`/api/trials/${id}`, z.object({ tape: typedTapeSchema.nullable() }), send("PATCH", { tape })),
  trialsFrom: (cursor: string | null) =>
    call(
      `/api/trials?limit=100${cursor ? `&cursor=${cursor}` : ""}`,
      z.object({ trials: z.array(trialView), next: z.string().nullable() }),
    ),
  revision: (id: string, number: number) => call(`/api/documents/${id}/revisions/${number}`, revisionView),
  storeTrial: (trial: unknown) => call("/api/trials", z.object({ id: z.uuid() }), send("POST", trial)),
  trials: (mission?: string, limit = 30) =>
    call(
      `/api/trials?limit=${limit}${mission ? `&mission=${mission}` : ""}`,
      z.object({ trials: z.array(trialView), next: z.string().nullable() }),
    ),
  storeStudy: (study: unknown) => call("/api/studies", z.object({ id: z.uuid() }), send("POST", study)),
  studies: (mission: string) =>
    call(`/api/studies?mission=${mission}&limit=200`, z.object({ studies: z.array(studyView) })),
  trace: async (id: string): Promise<Answer<Uint8Array>> => {
    try {
      const response = await fetch(`/api/trials/${id}/trace`);
      if (!response.ok) return { ok: false, code: "not-found", message: "This run has no trace.", current: null };
      return { ok: true, value: new Uint8Array(await response.arrayBuffer()) };
    } catch {
      return { ok: false, code: "unreachable", message: UNREACHABLE, current: null };
    }
  },
};
