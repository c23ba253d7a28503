import type { APIRoute } from "astro";
import { readConfig } from "../../server/config.js";
import { health } from "../../server/health.js";
import { otherMethods } from "../../server/http.js";

/** How the parts of the application are: always JSON, and 503 while something that saving needs is away. */
export const GET: APIRoute = async () => {
  const found = await health();
  const body = { ok: found.database.ok, instance: readConfig().GIDDY_INSTANCE, app: { ok: true, why: "" }, ...found };
  return Response.json(body, { status: body.ok ? 200 : 503, headers: { "cache-control": "no-store" } });
};

export const ALL = otherMethods({ GET });
