import { typedTapeSchema } from "@giddy-pebble/core";
import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../../../server/database.js";
import { handle, otherMethods, problem, readBody, readId } from "../../../../server/http.js";
import { findTrial, noteTrial, tapeTrial } from "../../../../server/repositories/trials.js";
import { trialView } from "../../../../server/views.js";

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const trial = await findTrial(pool(), team, readId(context));
    return trial ? Response.json(trialView(trial)) : problem(404, "not-found", "Not found", "There is no such trial.");
  });

const beside = z
  .object({ note: z.string().max(2000).optional(), tape: typedTapeSchema.nullable().optional() })
  .refine(({ note, tape }) => note !== undefined || tape !== undefined, { error: "has neither a note nor a tape" });

/** What a person writes beside a run and measures after it; nothing else of it can be changed. */
export const PATCH: APIRoute = (context) =>
  handle(context, async (team) => {
    const { note, tape } = await readBody(context.request, beside);
    const id = readId(context);
    const kept =
      (note === undefined || (await noteTrial(pool(), team, id, note))) &&
      (tape === undefined || (await tapeTrial(pool(), team, id, tape)));
    return kept ? Response.json({ note, tape }) : problem(404, "not-found", "Not found", "There is no such trial.");
  });

export const ALL = otherMethods({ GET, PATCH });
