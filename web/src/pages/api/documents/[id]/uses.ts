import type { APIRoute } from "astro";
import { handle, otherMethods, problem, readId } from "../../../../server/http.js";
import { usesOf, usesWords } from "../../../../server/lifeService.js";

/** Where a document is used: missions by name, kept things by number, and all of it in words. */
export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const uses = await usesOf(team, readId(context));
    if (!uses) return problem(404, "not-found", "Not found", "There is no such document.");
    return Response.json({ ...uses, words: usesWords(uses) });
  });

export const ALL = otherMethods({ GET });
