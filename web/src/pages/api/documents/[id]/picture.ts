import { createHash } from "node:crypto";
import type { APIRoute } from "astro";
import { handle, otherMethods, problem, readId } from "../../../../server/http.js";
import { pictureOf } from "../../../../server/pictureService.js";

/** A small drawing of a robot, of a field, or of a mission's field with its newest run. */
export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const picture = await pictureOf(team, readId(context));
    if (picture === null) return problem(404, "no-picture", "Not found", "There is nothing to draw of this.");
    const etag = `"${createHash("sha256").update(picture).digest("hex").slice(0, 24)}"`;
    const headers = {
      etag,
      "cache-control": "private, no-cache",
      "content-type": "image/svg+xml",
      "content-security-policy": "default-src 'none'; style-src 'unsafe-inline'",
    };
    if (context.request.headers.get("if-none-match") === etag) return new Response(null, { status: 304, headers });
    return new Response(picture, { headers });
  });

export const ALL = otherMethods({ GET });
