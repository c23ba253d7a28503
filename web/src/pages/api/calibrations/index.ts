import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../../server/database.js";
import { DOCUMENT_BODY, handle, otherMethods, problem, readBody, readQuery } from "../../../server/http.js";
import { insertCalibration, listCalibrations } from "../../../server/repositories/calibrations.js";

const query = z.object({ robot: z.uuid(), limit: z.coerce.number().int().min(1).max(200).default(100) });
const row = z.object({
  values: z.record(z.string().max(40), z.number().nullable()),
  struck: z.boolean(),
  recorded: z.array(z.number()).max(20_000).optional(),
});
const body = z.object({
  robot: z.uuid(),
  quantity: z.string().min(1).max(40),
  rows: z.array(row).max(200),
  result: z.record(z.string(), z.unknown()),
  appliedRevision: z.uuid().nullable(),
});

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const { robot, limit } = readQuery(context.url, query);
    const found = await listCalibrations(pool(), team, robot, limit);
    return Response.json({
      calibrations: found.map((made) => ({
        id: made.id,
        quantity: made.quantity,
        rows: made.rows,
        result: made.result,
        appliedNumber: made.applied_number,
        createdAt: made.created_at.toISOString(),
      })),
    });
  });

export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const made = await readBody(context.request, body, DOCUMENT_BODY);
    const id = await insertCalibration(pool(), team, made);
    if (id === null)
      return problem(
        422,
        "invalid-calibration",
        "Not stored",
        "The calibration was not stored: it names a robot, or a version of it, that does not exist.",
      );
    return Response.json({ id }, { status: 201 });
  });

export const ALL = otherMethods({ GET, POST });
