// Who may speak to us: this machine's browser, on our own pages. Checked on every request and upgrade, so
// that a page from elsewhere cannot reach the server through a rebound name or a form.
import type { IncomingMessage } from "node:http";

const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

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
