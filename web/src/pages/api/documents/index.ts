import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../../server/database.js";
import { createDocument } from "../../../server/documentService.js";
import { DOCUMENT_BODY, handle, otherMethods, readBody, readQuery } from "../../../server/http.js";
import { answerOutcome } from "../../../server/outcomes.js";
import { documentKind, listDocuments } from "../../../server/repositories/documents.js";
import { listedDocumentView, openView } from "../../../server/views.js";

const query = z.object({ kind: documentKind.optional(), archived: z.enum(["true", "false"]).default("false") });
const body = z.object({
  kind: documentKind,
  name: z.string().trim().min(1).max(120),
  text: z.string().nullable().default(null),
  body: z.unknown().default(null),
  reason: z.string().max(400).default("made"),
});

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const { kind, archived } = readQuery(context.url, query);
    const documents = await listDocuments(pool(), team, kind ?? null, archived === "true");
    return Response.json({ documents: documents.map(listedDocumentView) });
  });

export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const { kind, name, text, body: data, reason } = await readBody(context.request, body, DOCUMENT_BODY);
    const made = await createDocument(team, { kind, name, reason, content: { text, body: data ?? null } });
    return answerOutcome(made, (open) =>
      Response.json(openView(open), { status: 201, headers: { location: `/api/documents/${open.document.id}` } }),
    );
  });

export const ALL = otherMethods({ GET, POST });
