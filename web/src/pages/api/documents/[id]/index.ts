import type { APIRoute } from "astro";
import { pool } from "../../../../server/database.js";
import { openDocument } from "../../../../server/documentService.js";
import { handle, otherMethods, problem, readId } from "../../../../server/http.js";
import { openView } from "../../../../server/views.js";

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const open = await openDocument(pool(), team, readId(context));
    if (!open) return problem(404, "not-found", "Not found", "There is no such document. It may have been archived.");
    return Response.json(openView(open), { headers: { etag: `"${open.draft?.version ?? 0}"` } });
  });

export const ALL = otherMethods({ GET });
