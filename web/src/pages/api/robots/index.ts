import { robotListSchema } from "@giddy-pebble/core";
import type { APIRoute } from "astro";
import { z } from "zod";
import { DOCUMENT_BODY, handle, otherMethods, problem, readBody } from "../../../server/http.js";
import { askRobots } from "../../../server/robots.js";

const body = z.object({
  robot: z.record(z.string(), z.unknown()),
  /** Its name before, when it was given another one. */
  formerly: z.string().min(1).max(40).optional(),
});

/** Robots that can be linked. */
export const GET: APIRoute = (context) =>
  handle(context, async () => {
    const answer = await askRobots(robotListSchema);
    return answer.ok ? Response.json(answer.value) : problem(502, "no-robots", "No robots", answer.why);
  });

/** Builds a stand-in from a drawing. */
export const POST: APIRoute = (context) =>
  handle(context, async () => {
    const built = await readBody(context.request, body, DOCUMENT_BODY);
    const answer = await askRobots(z.object({ id: z.string() }), built);
    return answer.ok
      ? Response.json(answer.value, { status: 201 })
      : problem(422, "not-built", "Not built", answer.why);
  });

export const ALL = otherMethods({ GET, POST });
