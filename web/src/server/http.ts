// The edge of every endpoint: reading bodies and queries with Zod, writing JSON and problem details (RFC 9457).
import { PLAIN } from "@giddy-pebble/core";
import type { APIContext, APIRoute } from "astro";
import { z } from "zod";
import { Unreadable as BadRequest, inTurn, readJson } from "./bodies.js";
import { databaseTrouble, pool } from "./database.js";
import { logger } from "./logger.js";
import { localTeam } from "./repositories/team.js";

/** Bodies taken, bytes: notes and settings; a robot, field or mission; a full trace in base64. */
const SMALL_BODY = 256 * 1024;
export const DOCUMENT_BODY = 5 * 1024 * 1024;
export const TRACE_BODY = 16 * 1024 * 1024;

/** Largest number a column of whole numbers holds. */
export const MOST_WHOLE = 2 ** 31 - 1;

export function problem(status: number, code: string, title: string, detail: string, extra: object = {}): Response {
  return new Response(JSON.stringify({ type: `about:blank#${code}`, title, status, detail, code, ...extra }), {
    status,
    headers: { "content-type": "application/problem+json" },
  });
}

/** A request that cannot be read; thrown by the readers below and turned into problem details by `handle`. */
export { Unreadable as BadRequest } from "./bodies.js";

function issuesWords(error: z.ZodError): string {
  return error.issues
    .slice(0, 5)
    .map((issue) => `${issue.path.slice(0, 8).join(".").slice(0, 120) || "body"}: ${issue.message.slice(0, 200)}`)
    .join("; ");
}

/** @param most - bytes taken at most */
export async function readBody<T>(request: Request, schema: z.ZodType<T>, most: number = SMALL_BODY): Promise<T> {
  if (!request.headers.get("content-type")?.startsWith("application/json"))
    throw new BadRequest(415, "not-json", "Send the body as application/json.");
  const parsed = schema.safeParse(await readJson(request, most), PLAIN);
  if (!parsed.success)
    throw new BadRequest(400, "bad-body", `The body is not as it should be: ${issuesWords(parsed.error)}.`);
  return parsed.data;
}

export function readQuery<T>(url: URL, schema: z.ZodType<T>): T {
  const parsed = schema.safeParse(Object.fromEntries(url.searchParams), PLAIN);
  if (!parsed.success)
    throw new BadRequest(400, "bad-query", `The address's query is not as it should be: ${issuesWords(parsed.error)}.`);
  return parsed.data;
}

export function readId(context: APIContext, name = "id"): string {
  const parsed = z.uuid().safeParse(context.params[name]);
  if (!parsed.success) throw new BadRequest(404, "not-found", "There is nothing with this address.");
  return parsed.data;
}

/** The number in If-Match, for saves over a version; 428 without one. */
export function readIfMatch(request: Request): number {
  const header = request.headers.get("if-match");
  if (header === null)
    throw new BadRequest(428, "no-if-match", "Say in If-Match which version this is saved over (0 for none).");
  const match = /^"?(\d{1,9})"?$/.exec(header.trim());
  if (!match) throw new BadRequest(400, "bad-if-match", 'If-Match must hold a version number in quotes, such as "3".');
  return Number(match[1]);
}

/** What a failure is to whoever asked; null when nobody can say. */
function failureAnswer(error: unknown, path: string): Response | null {
  if (error instanceof BadRequest) return problem(error.status, error.code, "Not taken", error.message);
  // A page that is left in the middle of a request is nobody's fault.
  if (error instanceof Error && /^(aborted|terminated)$/.test(error.message)) {
    logger.info({ path }, "the browser went away before its request was whole");
    return problem(400, "cut-off", "Not taken", "The request ended before it was whole. Send it again.");
  }
  const trouble = databaseTrouble(error);
  if (trouble === null) return null;
  logger.warn({ path, reason: (error as Error).message }, "the database did not answer");
  if (trouble === "full")
    return problem(
      507,
      "disk-full",
      "Not saved",
      "The disk is full, so nothing was saved. Make room on it and try again.",
    );
  const busy = problem(
    503,
    "database-away",
    "Try again",
    "The database does not answer just now. It is started again by itself; try again in a few seconds.",
  );
  busy.headers.set("retry-after", "2");
  return busy;
}

/** Runs an endpoint for the local team; unexpected failures are logged and answered plainly. */
export async function handle(context: APIContext, answer: (team: string) => Promise<Response>): Promise<Response> {
  const path = context.url.pathname;
  try {
    return await inTurn(context.request, async () => answer(await localTeam(pool())));
  } catch (error) {
    const known = failureAnswer(error, path);
    if (known) return known;
    logger.error({ path, reason: error instanceof Error ? error.message : String(error) }, "an endpoint failed");
    return problem(
      500,
      "failed",
      "The server failed",
      "Something went wrong on the server and nothing was changed. Try again; if it stays, start it again.",
    );
  }
}

/** Answers every method an endpoint does not have: HEAD from GET, OPTIONS with what there is, the rest with 405. */
export function otherMethods(has: Readonly<Record<string, APIRoute>>): APIRoute {
  const allowed = [...Object.keys(has), ...(has.GET ? ["HEAD"] : []), "OPTIONS"].join(", ");
  return async (context) => {
    const { method } = context.request;
    if (method === "OPTIONS") return new Response(null, { status: 204, headers: { allow: allowed } });
    if (method === "HEAD" && has.GET) {
      const { status, headers } = await has.GET(context);
      return new Response(null, { status, headers });
    }
    const answer = problem(405, "no-such-method", "Not possible", `This address takes ${allowed}, not ${method}.`);
    answer.headers.set("allow", allowed);
    return answer;
  };
}

export const cursorQuery = z.object({
  cursor: z.string().max(200).optional(),
  limit: z.coerce.number().int().min(1).max(200).default(50),
});
