import { studySummarySchema } from "@giddy-pebble/core";
import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../../server/database.js";
import { DOCUMENT_BODY, handle, otherMethods, problem, readBody, readQuery } from "../../../server/http.js";
import { listStudies } from "../../../server/repositories/studies.js";
import { storeStudy } from "../../../server/studyService.js";
import { studyView } from "../../../server/views.js";

/** Of one mission, or of all. */
const query = z.object({ mission: z.uuid().optional(), limit: z.coerce.number().int().min(1).max(200).default(50) });
const body = z
  .object({
    missionRevision: z.uuid(),
    robotRevision: z.uuid(),
    fieldRevision: z.uuid().nullable(),
    coreVersion: z.string().min(1).max(40),
    seed: z.number().int(),
    summary: studySummarySchema,
  })
  .refine(({ summary }) => summary.runs >= 1 && summary.runs <= 10_000 && summary.successes <= summary.runs, {
    message: "a study has 1 to 10,000 runs, and no more successes than runs",
  });

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const { mission, limit } = readQuery(context.url, query);
    return Response.json({ studies: (await listStudies(pool(), team, mission ?? null, limit)).map(studyView) });
  });

export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const { summary, ...study } = await readBody(context.request, body, DOCUMENT_BODY);
    const { runs, successes } = summary;
    const id = await storeStudy(team, { ...study, runs, successes, summary });
    if (id === null)
      return problem(
        422,
        "invalid-study",
        "Not stored",
        "The study was not stored: it names a version of a mission, robot or field that does not exist.",
      );
    return Response.json({ id }, { status: 201 });
  });

export const ALL = otherMethods({ GET, POST });
