import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../server/database.js";
import { handle, otherMethods, readBody, readQuery } from "../../server/http.js";
import { countOldRehearsals, deleteOldRehearsals, measureRoom } from "../../server/repositories/room.js";

const DAY_MS = 86_400_000;
const days = z.coerce.number().int().min(0).max(3650);
const daysAgo = (n: number) => new Date(Date.now() - n * DAY_MS);

/** What takes how much room, and how many rehearsals older than so many days nobody marked. */
export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const { olderThan } = readQuery(context.url, z.object({ olderThan: days.default(30) }));
    const [room, old] = await Promise.all([
      measureRoom(pool(), team),
      countOldRehearsals(pool(), team, daysAgo(olderThan)),
    ]);
    return Response.json({ room, old });
  });

/** Deletes those rehearsals. */
export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const { olderThan } = await readBody(context.request, z.object({ olderThan: z.number().int().min(0).max(3650) }));
    return Response.json({ deleted: await deleteOldRehearsals(pool(), team, daysAgo(olderThan)) });
  });

export const ALL = otherMethods({ GET, POST });
