import { keptRunSchema } from "@giddy-pebble/core";
import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../../server/database.js";
import {
  BadRequest,
  cursorQuery,
  handle,
  MOST_WHOLE,
  otherMethods,
  problem,
  readBody,
  readQuery,
  TRACE_BODY,
} from "../../../server/http.js";
import { listTrials, type TrialCursor } from "../../../server/repositories/trials.js";
import { filterQuery, readFilter } from "../../../server/trialFilter.js";
import { storeTrial } from "../../../server/trialService.js";
import { trialView } from "../../../server/views.js";

const query = cursorQuery.extend(filterQuery.shape);
const body = z.object({
  missionRevision: z.uuid(),
  robotRevision: z.uuid(),
  fieldRevision: z.uuid().nullable(),
  coreVersion: z.string().min(1).max(40),
  source: z.enum(["rehearsal", "robot", "drive"]),
  seed: z.number().int(),
  ideal: z.boolean(),
  outcome: z.enum(["finished", "stopped"]),
  success: z.boolean(),
  score: z.number().nullable(),
  durationMs: z.number().int().nonnegative().max(MOST_WHOLE),
  summary: keptRunSchema,
  /** Packed trace, base64. */
  trace: z.base64(),
});

/** Times a cursor can hold; beyond them no run was ever kept. */
const OLDEST = new Date("2000-01-01T00:00:00Z");
const LATEST = new Date("2999-12-31T00:00:00Z");

function readCursor(cursor: string | undefined): TrialCursor | null {
  if (cursor === undefined) return null;
  const [time = "", id = ""] = cursor.split("_");
  const parsed = z
    .object({ startedAt: z.coerce.date().min(OLDEST).max(LATEST), id: z.uuid() })
    .safeParse({ startedAt: time, id });
  if (!parsed.success)
    throw new BadRequest(400, "bad-cursor", "This cursor was not given out by the list. Start from its first page.");
  return parsed.data;
}

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const { cursor, limit, ...rest } = readQuery(context.url, query);
    const rows = await listTrials(pool(), team, readFilter(rest), readCursor(cursor), limit + 1);
    const page = rows.slice(0, limit);
    const last = page.at(-1);
    return Response.json({
      trials: page.map(trialView),
      next: rows.length > limit && last ? `${last.started_at.toISOString()}_${last.id}` : null,
    });
  });

export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const { trace, ...trial } = await readBody(context.request, body, TRACE_BODY);
    const stored = await storeTrial(team, trial, Buffer.from(trace, "base64"));
    if (!stored.ok) return problem(422, "invalid-trial", "Not stored", `The trial was not stored: ${stored.problem}.`);
    return Response.json({ id: stored.id }, { status: 201, headers: { location: `/api/trials/${stored.id}` } });
  });

export const ALL = otherMethods({ GET, POST });
