import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../../../server/database.js";
import { handle, problem, readBody, readId } from "../../../../server/http.js";
import { findTrial, noteTrial } from "../../../../server/repositories/trials.js";
import { trialView } from "../../../../server/views.js";

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const trial = await findTrial(pool(), team, readId(context));
    return trial ? Response.json(trialView(trial)) : problem(404, "not-found", "Not found", "There is no such trial.");
  });

const note = z.object({ note: z.string().max(2000) });

/** What a person writes beside a run; nothing else of it can be changed. */
export const PATCH: APIRoute = (context) =>
  handle(context, async (team) => {
    const body = await readBody(context.request, note);
    const kept = await noteTrial(pool(), team, readId(context), body.note);
    return kept
      ? Response.json({ note: body.note })
      : problem(404, "not-found", "Not found", "There is no such trial.");
  });
