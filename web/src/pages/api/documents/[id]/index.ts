import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../../../server/database.js";
import { openDocument } from "../../../../server/documentService.js";
import { handle, otherMethods, problem, readBody, readId, readQuery } from "../../../../server/http.js";
import { archive, bringBack, remove, rename } from "../../../../server/lifeService.js";
import { answerOutcome } from "../../../../server/outcomes.js";
import { openView } from "../../../../server/views.js";

const MISSING = "There is no such document. It may have been archived.";

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const open = await openDocument(pool(), team, readId(context));
    if (!open) return problem(404, "not-found", "Not found", MISSING);
    return Response.json(openView(open), { headers: { etag: `"${open.draft?.version ?? 0}"` } });
  });

const change = z.union([
  z.strictObject({ name: z.string().trim().min(1).max(120) }),
  z.strictObject({ archived: z.boolean() }),
]);

/** Another name, or put away, or taken back into use. */
export const PATCH: APIRoute = (context) =>
  handle(context, async (team) => {
    const id = readId(context);
    const wanted = await readBody(context.request, change);
    if ("name" in wanted)
      return answerOutcome(await rename(team, id, wanted.name), (open) => Response.json(openView(open)));
    if (wanted.archived) return answerOutcome(await archive(team, id), () => Response.json({ archived: true }));
    return answerOutcome(await bringBack(team, id), () => Response.json({ archived: false }));
  });

const removal = z.object({ insist: z.enum(["true", "false"]).default("false") });

/** For good, of what was put away. */
export const DELETE: APIRoute = (context) =>
  handle(context, async (team) => {
    const { insist } = readQuery(context.url, removal);
    return answerOutcome(await remove(team, readId(context), insist === "true"), () =>
      Response.json({ deleted: true }),
    );
  });

export const ALL = otherMethods({ GET, PATCH, DELETE });
