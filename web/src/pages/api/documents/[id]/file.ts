import type { APIRoute } from "astro";
import { handle, otherMethods, problem, readId } from "../../../../server/http.js";
import { fileOfDocument } from "../../../../server/pictureService.js";

/** A document as a file of its open format. */
export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const file = await fileOfDocument(team, readId(context));
    if (!file) return problem(404, "not-found", "Not found", "There is no such document. It may have been archived.");
    return new Response(file.text, {
      headers: {
        "content-type": file.type,
        "content-disposition": `attachment; filename="${file.name}"`,
        "x-content-type-options": "nosniff",
      },
    });
  });

export const ALL = otherMethods({ GET });
