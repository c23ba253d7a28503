import type { APIRoute } from "astro";
import { z } from "zod";
import { pool } from "../../../server/database.js";
import { handle, otherMethods, readBody } from "../../../server/http.js";
import { noteTrials, tagTrials } from "../../../server/repositories/trials.js";

const ids = z.array(z.uuid()).min(1).max(1000);
const tag = z
  .string()
  .trim()
  .min(1)
  .max(40)
  .regex(/^[^,;\n]+$/, "has no comma, semicolon or line break");
const body = z.union([
  z.strictObject({ ids, tag, on: z.boolean() }),
  z.strictObject({ ids, note: z.string().max(2000) }),
]);

/** The same mark on several runs: a tag put on or taken off, or a note. */
export const POST: APIRoute = (context) =>
  handle(context, async (team) => {
    const mark = await readBody(context.request, body);
    const marked =
      "tag" in mark
        ? await tagTrials(pool(), team, mark.ids, mark.tag, mark.on)
        : await noteTrials(pool(), team, mark.ids, mark.note);
    return Response.json({ marked });
  });

export const ALL = otherMethods({ POST });
