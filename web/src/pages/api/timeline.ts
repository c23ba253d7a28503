import type { APIRoute } from "astro";
import { pool } from "../../server/database.js";
import { handle, otherMethods } from "../../server/http.js";
import { timeline } from "../../server/repositories/timeline.js";

const MOST = 400;

/** What happened, newest first. */
export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const rows = await timeline(pool(), team, MOST);
    return Response.json({ events: rows.map(({ at, ...row }) => ({ ...row, at: at.toISOString() })) });
  });

export const ALL = otherMethods({ GET });
