import type { APIRoute } from "astro";
import { pool } from "../../../server/database.js";
import { handle, otherMethods, readQuery } from "../../../server/http.js";
import { countByVersion, countTrials, tagsInUse } from "../../../server/repositories/trials.js";
import { filterQuery, readFilter } from "../../../server/trialFilter.js";

/** How many runs fit, how many worked, by version where a mission is named; and the tags in use. */
export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const filter = readFilter(readQuery(context.url, filterQuery));
    const [counts, tags, versions] = await Promise.all([
      countTrials(pool(), team, filter),
      tagsInUse(pool(), team),
      filter.mission === null ? [] : countByVersion(pool(), team, filter),
    ]);
    return Response.json({ ...counts, tags, versions });
  });

export const ALL = otherMethods({ GET });
