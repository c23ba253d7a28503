import type { APIRoute } from "astro";
import { pool } from "../../../../server/database.js";
import { handle, otherMethods, problem, readId } from "../../../../server/http.js";
import { findTrace } from "../../../../server/repositories/trials.js";

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const trace = await findTrace(pool(), team, readId(context));
    if (!trace) return problem(404, "not-found", "Not found", "This trial has no trace.");
    const headers = {
      "content-type": "application/octet-stream",
      "x-trace-format": String(trace.format),
      "cache-control": "private, max-age=31536000, immutable",
    };
    return new Response(new Uint8Array(trace.data), { headers });
  });

export const ALL = otherMethods({ GET });
