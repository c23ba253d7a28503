import type { APIRoute } from "astro";
import { z } from "zod";
import { handle, otherMethods, readBody } from "../../../server/http.js";
import { keepPractice } from "../../../server/practiceService.js";

const name = z.string().min(1).max(120);
const seconds = z.number().min(0).max(7200);
const body = z.strictObject({
  at: z.iso.datetime(),
  marks: z
    .array(
      z.strictObject({
        mission: name,
        atS: seconds,
        tookS: seconds,
        worked: z.boolean(),
        points: z.number().min(0).max(10_000),
      }),
    )
    .min(1)
    .max(200),
});

/** What was ticked off in a practice round, each mission a run of its newest version. */
export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const { at, marks } = await readBody(context.request, body);
    return Response.json(await keepPractice(team, new Date(at), marks), { status: 201 });
  });

export const ALL = otherMethods({ POST });
