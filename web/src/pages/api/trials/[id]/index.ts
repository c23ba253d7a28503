import type { APIRoute } from "astro";
import { pool } from "../../../../server/database.js";
import { handle, problem, readId } from "../../../../server/http.js";
import { findTrial } from "../../../../server/repositories/trials.js";
import { trialView } from "../../../../server/views.js";

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const trial = await findTrial(pool(), team, readId(context));
    return trial ? Response.json(trialView(trial)) : problem(404, "not-found", "Not found", "There is no such trial.");
  });
