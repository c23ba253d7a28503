import type { APIRoute } from "astro";
import { pool } from "../../../server/database.js";
import { handle, otherMethods, problem, readId } from "../../../server/http.js";
import { findStudySummary } from "../../../server/repositories/studies.js";

/** Figures of one study. */
export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const id = readId(context);
    const summary = await findStudySummary(pool(), team, id);
    return summary === null
      ? problem(404, "not-found", "Not found", "There is no such study.")
      : Response.json({ id, summary });
  });

export const ALL = otherMethods({ GET });
