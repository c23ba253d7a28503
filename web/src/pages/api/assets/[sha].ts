import type { APIRoute } from "astro";
import { assetProblem, LARGEST_ASSET } from "../../../server/assetService.js";
import { readBytes } from "../../../server/bodies.js";
import { pool } from "../../../server/database.js";
import { BadRequest, handle, otherMethods, problem } from "../../../server/http.js";
import { findPicture, keepAsset } from "../../../server/repositories/assets.js";

function readSha(given: string | undefined): string {
  if (!/^[0-9a-f]{64}$/.test(given ?? ""))
    throw new BadRequest(404, "not-found", "There is nothing with this address.");
  return given as string;
}

export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const found = await findPicture(pool(), team, readSha(context.params.sha));
    if (!found) return problem(404, "not-found", "Not found", "There is no picture with this address.");
    const headers = {
      "content-type": found.media_type,
      "content-security-policy": "default-src 'none'; sandbox",
      "cache-control": "private, max-age=31536000, immutable",
    };
    return new Response(new Uint8Array(found.bytes), { headers });
  });

export const PUT: APIRoute = (context) =>
  handle(context, async (team) => {
    const sha = readSha(context.params.sha);
    const bytes = await readBytes(context.request, LARGEST_ASSET);
    const trouble = assetProblem(sha, bytes);
    if (trouble !== null) return problem(422, "no-picture", "Not kept", trouble);
    await keepAsset(pool(), team, sha, Buffer.from(bytes));
    return new Response(null, { status: 204 });
  });

export const ALL = otherMethods({ GET, PUT });
