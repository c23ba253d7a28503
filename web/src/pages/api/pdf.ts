import type { APIRoute } from "astro";
import { z } from "zod";
import { handle, otherMethods, problem, readBody } from "../../server/http.js";
import { Cancelled, findChromium, isPrinting, printPdf } from "../../server/pdfService.js";

/** Photographs are in it. */
const LARGEST_HTML = 64 * 1024 * 1024;
const body = z.strictObject({ html: z.string().min(1), paper: z.enum(["a4", "letter"]) });

/** Whether PDF can be made here, and whether one is being made. */
export const GET: APIRoute = (context) =>
  handle(context, async () => Response.json({ available: findChromium() !== null, busy: isPrinting() }));

/** Prints a page that stands alone. It stops when whoever asked goes away. */
export const POST: APIRoute = (context) =>
  handle(context, async () => {
    const chromium = findChromium();
    if (chromium === null)
      return problem(
        501,
        "no-browser",
        "No PDF",
        "There is no Chromium on this computer. Use “Print” and choose PDF, or install the package chromium.",
      );
    const { html, paper } = await readBody(context.request, body, LARGEST_HTML);
    if (isPrinting())
      return problem(503, "busy", "Try again", "Another PDF is being made. Try again in a few seconds.");
    try {
      const pdf = await printPdf(chromium, html, paper, context.request.signal);
      return new Response(new Uint8Array(pdf), { headers: { "content-type": "application/pdf" } });
    } catch (error) {
      if (error instanceof Cancelled) return problem(499, "cancelled", "Cancelled", "The PDF was not made.");
      throw error;
    }
  });

export const ALL = otherMethods({ GET, POST });
