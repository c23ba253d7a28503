import type { APIRoute } from "astro";
import { readConfig } from "../../server/config.js";
import { pool } from "../../server/database.js";

export const GET: APIRoute = async () => {
  await pool().query("select 1");
  return Response.json({ ok: true, instance: readConfig().GIDDY_INSTANCE });
};
