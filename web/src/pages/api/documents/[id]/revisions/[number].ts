import type { APIRoute } from "astro";
import { pool } from "../../../../../server/database.js";
import { handle, otherMethods, problem, readId } from "../../../../../server/http.js";
import { findRevision } from "../../../../../server/repositories/documents.js";
import { revisionView } from "../../../../../server/views.js";

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const number = Number(context.params.number);
    const valid = Number.isInteger(number) && number >= 1 && number < 2 ** 31;
    const revision = valid ? await findRevision(pool(), team, readId(context), number) : null;
    if (!revision) return problem(404, "not-found", "Not found", "This document has no version with that number.");
    return Response.json(revisionView(revision));
  });

export const ALL = otherMethods({ GET });
