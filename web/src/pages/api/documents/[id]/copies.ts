import type { APIRoute } from "astro";
import { z } from "zod";
import { handle, otherMethods, readBody, readId } from "../../../../server/http.js";
import { duplicate } from "../../../../server/lifeService.js";
import { answerOutcome } from "../../../../server/outcomes.js";
import { openView } from "../../../../server/views.js";

const body = z.object({ name: z.string().trim().min(1).max(120) });

export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const { name } = await readBody(context.request, body);
    return answerOutcome(await duplicate(team, readId(context), name), (open) =>
      Response.json(openView(open), { status: 201, headers: { location: `/api/documents/${open.document.id}` } }),
    );
  });

export const ALL = otherMethods({ POST });
