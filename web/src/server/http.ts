// The edge of every endpoint: reading bodies and queries with Zod, writing JSON and problem details (RFC 9457).
import type { APIContext } from "astro";
import { z } from "zod";
import { pool } from "./database.js";
import { logger } from "./logger.js";
import { localTeam } from "./repositories/team.js";

/** Largest body taken, bytes: a full trace in base64 with room to spare. */
const LARGEST_BODY = 16 * 1024 * 1024;

export function problem(status: number, code: string, title: string, detail: string, extra: object = {}): Response {
  return new Response(JSON.stringify({ type: `about:blank#${code}`, title, status, detail, code, ...extra }), {
    status,
    headers: { "content-type": "application/problem+json" },
  });
}

/** A request that cannot be read; thrown by the readers below and turned into problem details by `handle`. */
export class BadRequest extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

function issuesWords(error: z.ZodError): string {
  return error.issues
    .slice(0, 5)
    .map((issue) => `${issue.path.join(".") || "body"}: ${issue.message}`)
    .join("; ");
}

export async function readBody<T>(request: Request, schema: z.ZodType<T>): Promise<T> {
  if (!request.headers.get("content-type")?.startsWith("application/json")) {
    throw new BadRequest(415, "not-json", "Send the body as application/json.");
  }
  const declared = Number(request.headers.get("content-length") ?? 0);
  if (declared > LARGEST_BODY)
    throw new BadRequest(413, "too-large", "The body is larger than 16 MB. Send less at once.");
  const text = await request.text();
  if (text.length > LARGEST_BODY)
    throw new BadRequest(413, "too-large", "The body is larger than 16 MB. Send less at once.");
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new BadRequest(400, "bad-json", "The body is not valid JSON.");
  }
  const parsed = schema.safeParse(value);
  if (!parsed.success)
    throw new BadRequest(400, "bad-body", `The body is not as it should be: ${issuesWords(parsed.error)}.`);
  return parsed.data;
}

export function readQuery<T>(url: URL, schema: z.ZodType<T>): T {
  const parsed = schema.safeParse(Object.fromEntries(url.searchParams));
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

/** Runs an endpoint for the local team; unexpected failures are logged and answered plainly. */
export async function handle(context: APIContext, answer: (team: string) => Promise<Response>): Promise<Response> {
  try {
    return await answer(await localTeam(pool()));
  } catch (error) {
    if (error instanceof BadRequest) return problem(error.status, error.code, "Not taken", error.message);
    // A page that is left in the middle of a request is nobody's fault.
    if (error instanceof Error && error.message === "aborted") {
      logger.info({ path: context.url.pathname }, "the browser went away before its request was whole");
      return problem(400, "cut-off", "Not taken", "The request ended before it was whole. Send it again.");
    }
    logger.error(
      { path: context.url.pathname, reason: error instanceof Error ? error.message : String(error) },
      "an endpoint failed",
    );
    return problem(
      500,
      "failed",
      "The server failed",
      "Something went wrong on the server and nothing was changed. Try again; if it stays, start it again.",
    );
  }
}

export const cursorQuery = z.object({
  cursor: z.string().max(200).optional(),
  limit: z.coerce.number().int().min(1).max(200).default(50),
});
