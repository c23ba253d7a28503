// Content-Security-Policy with a fresh nonce per page. Astro's inline scripts get the nonce here; pages
// carry nothing a person typed, so every tag in them is ours.
import { randomBytes } from "node:crypto";
import type { MiddlewareHandler } from "astro";

function policy(nonce: string): string {
  return [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}'`,
    `style-src 'self' 'nonce-${nonce}'`,
    "font-src 'self'",
    "img-src 'self' data:",
    "connect-src 'self'",
    "worker-src 'self'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join("; ");
}

export const onRequest: MiddlewareHandler = async (context, next) => {
  const nonce = randomBytes(16).toString("base64");
  context.locals.nonce = nonce;
  const response = await next();
  if (!response.headers.get("content-type")?.startsWith("text/html")) return response;
  const html = (await response.text()).replace(/<(script|style)(?=[\s>])(?![^>]*\bnonce=)/g, `<$1 nonce="${nonce}"`);
  const headers = new Headers(response.headers);
  headers.set("content-security-policy", policy(nonce));
  headers.set("cache-control", "no-store");
  headers.delete("content-length");
  return new Response(html, { status: response.status, headers });
};
