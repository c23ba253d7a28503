import type { APIRoute } from "astro";
import { pool } from "../../server/database.js";
import { handle, otherMethods } from "../../server/http.js";
import { countCalibratedRobots } from "../../server/repositories/calibrations.js";
import { countDocuments } from "../../server/repositories/documents.js";
import { newestTrials } from "../../server/repositories/trials.js";

/** Runs looked at: more say no more about how ready a team is. */
const MOST_TRIALS = 50;

/** How far everything is, in counts: what the trail on every page shows. */
export const GET: APIRoute = (context) =>
  handle(context, async (team) => {
    const [documents, trials, calibratedRobots] = await Promise.all([
      countDocuments(pool(), team),
      newestTrials(pool(), team, MOST_TRIALS),
      countCalibratedRobots(pool(), team),
    ]);
    return Response.json({ documents, trials: { ...trials, most: MOST_TRIALS }, calibratedRobots });
  });

export const ALL = otherMethods({ GET });
