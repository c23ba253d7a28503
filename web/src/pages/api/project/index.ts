import type { APIRoute } from "astro";
import { handle, otherMethods, problem } from "../../../server/http.js";
import { importProject } from "../../../server/project/reading.js";
import { projectZip } from "../../../server/project/writing.js";

/** The whole project as one .zip of open formats. */
export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const day = new Date().toISOString().slice(0, 10);
    return new Response(projectZip(team), {
      headers: {
        "content-type": "application/zip",
        "content-disposition": `attachment; filename="giddy-pebble-${day}.zip"`,
      },
    });
  });

/** Takes such a file in: all of it, or nothing. */
export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const { request } = context;
    if (!request.headers.get("content-type")?.startsWith("application/zip") || !request.body)
      return problem(415, "not-zip", "Not taken", "Send the project as application/zip.");
    const done = await importProject(team, request.body);
    if (!done.ok) return problem(422, "invalid-project", "Not taken", `This file was not taken: ${done.problem}.`);
    return Response.json(done.taken);
  });

export const ALL = otherMethods({ GET, POST });
