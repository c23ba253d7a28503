// Who may speak to us, and how: this machine's browser, on our own pages, in addresses and methods that exist.
// Checked on every request and upgrade, so that a page from elsewhere cannot reach the server through a rebound
// name or a form, and nothing odd reaches what stands behind.
import type { IncomingMessage } from "node:http";

const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?$/;
const METHODS = "GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS";
const KNOWN_METHODS: ReadonlySet<string> = new Set(METHODS.split(", "));
/** Endpoints the framework brings along and nothing here uses. */
const UNUSED = /^\/(_image|_server-islands|_actions)(\/|$)/;

/** @returns null when the request is ours to answer, else the sentence to refuse it with */
export function refusal(request: Pick<IncomingMessage, "headers" | "method">): string | null {
  const host = request.headers.host ?? "";
  if (!LOOPBACK.test(host)) return "This server answers on 127.0.0.1 only. Open the address that npm start printed.";
  const origin = request.headers.origin;
  if (origin !== undefined && origin !== `http://${host}`) {
    return "This request came from another site's page and was refused. Use Giddy Pebble's own page.";
  }
  return null;
}

/** A request that is answered before anyone looks at it. */
export interface Turned {
  readonly status: number;
  readonly title: string;
  readonly detail: string;
  readonly headers?: Record<string, string>;
}

function readable(url: string): URL | null {
  if (!url.startsWith("/") || url.startsWith("//")) return null;
  try {
    const address = new URL(url, "http://127.0.0.1");
    const path = decodeURIComponent(address.pathname);
    return path.includes("\0") ? null : address;
  } catch {
    return null;
  }
}

/** @returns how the request is turned away, or null when it may go on */
export function turnedAway(request: Pick<IncomingMessage, "headers" | "method" | "url">): Turned | null {
  const refused = refusal(request);
  if (refused) return { status: 403, title: "Refused", detail: refused };
  const { method = "GET", url = "/" } = request;
  if (!KNOWN_METHODS.has(method))
    return {
      status: 405,
      title: "Not possible",
      detail: `This server takes ${METHODS}, not ${method}.`,
      headers: { allow: METHODS },
    };
  const address = readable(url);
  if (!address)
    return { status: 400, title: "Not taken", detail: "This address cannot be read. Check how it is written." };
  if (UNUSED.test(address.pathname)) return { status: 404, title: "Not found", detail: "There is no such page." };
  return null;
}
