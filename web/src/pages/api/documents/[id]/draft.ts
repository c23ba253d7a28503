import type { APIRoute } from "astro";
import { z } from "zod";
import { saveDraft } from "../../../../server/documentService.js";
import {
  DOCUMENT_BODY,
  handle,
  MOST_WHOLE,
  otherMethods,
  readBody,
  readId,
  readIfMatch,
} from "../../../../server/http.js";
import { answerOutcome } from "../../../../server/outcomes.js";
import { draftView } from "../../../../server/views.js";

const body = z.object({
  baseRevision: z.number().int().positive().max(MOST_WHOLE),
  text: z.string().nullable().default(null),
  body: z.unknown().default(null),
});

export const PUT: APIRoute = (context) =>
  handle(context, async (team) => {
    const overVersion = readIfMatch(context.request);
    const { baseRevision, text, body: data } = await readBody(context.request, body, DOCUMENT_BODY);
    const saved = await saveDraft(team, readId(context), {
      baseRevision,
      overVersion,
      content: { text, body: data ?? null },
    });
    return answerOutcome(saved, (draft) =>
      Response.json(draftView(draft), { headers: { etag: `"${draft.version}"` } }),
    );
  });

export const ALL = otherMethods({ PUT });
