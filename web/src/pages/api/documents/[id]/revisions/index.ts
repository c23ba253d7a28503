import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../../../../server/database.js";
import { cutRevision, openDocument } from "../../../../../server/documentService.js";
import {
  cursorQuery,
  DOCUMENT_BODY,
  handle,
  MOST_WHOLE,
  otherMethods,
  problem,
  readBody,
  readId,
  readIfMatch,
  readQuery,
} from "../../../../../server/http.js";
import { answerOutcome } from "../../../../../server/outcomes.js";
import { listRevisions } from "../../../../../server/repositories/documents.js";
import { listedRevisionView, openView } from "../../../../../server/views.js";

const body = z.object({
  baseRevision: z.number().int().positive().max(MOST_WHOLE),
  text: z.string().nullable().default(null),
  body: z.unknown().default(null),
  name: z.string().trim().min(1).max(120).nullable().default(null),
  reason: z.string().max(400),
});

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const id = readId(context);
    const { cursor, limit } = readQuery(context.url, cursorQuery);
    const before = z.coerce.number().int().positive().max(MOST_WHOLE).optional().catch(undefined).parse(cursor) ?? null;
    if (!(await openDocument(pool(), team, id)))
      return problem(404, "not-found", "Not found", "There is no such document. It may have been archived.");
    const rows = await listRevisions(pool(), team, id, before, limit + 1);
    const page = rows.slice(0, limit);
    return Response.json({
      revisions: page.map(listedRevisionView),
      next: rows.length > limit ? String(page.at(-1)?.number) : null,
    });
  });

export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const overVersion = readIfMatch(context.request);
    const { baseRevision, text, body: data, name, reason } = await readBody(context.request, body, DOCUMENT_BODY);
    const cut = await cutRevision(team, readId(context), {
      baseRevision,
      overVersion,
      name,
      reason,
      content: { text, body: data ?? null },
    });
    return answerOutcome(cut, (open) =>
      Response.json(openView(open), { headers: { etag: `"${open.draft?.version ?? 0}"` } }),
    );
  });

export const ALL = otherMethods({ GET, POST });
