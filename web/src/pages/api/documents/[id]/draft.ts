import type { APIRoute } from "astro";
import { z } from "zod";
import { saveDraft } from "../../../../server/documentService.js";
import { handle, readBody, readId, readIfMatch } from "../../../../server/http.js";
import { answerOutcome } from "../../../../server/outcomes.js";
import { draftView } from "../../../../server/views.js";

const body = z.object({
  baseRevision: z.number().int().positive(),
  text: z.string().nullable().default(null),
  body: z.unknown().default(null),
});

export const PUT: APIRoute = (context) =>
  handle(context, async (team) => {
    const overVersion = readIfMatch(context.request);
    const { baseRevision, text, body: data } = await readBody(context.request, body);
    const saved = await saveDraft(team, readId(context), {
      baseRevision,
      overVersion,
      content: { text, body: data ?? null },
    });
    return answerOutcome(saved, (draft) =>
      Response.json(draftView(draft), { headers: { etag: `"${draft.version}"` } }),
    );
  });
