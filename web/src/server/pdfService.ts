// PDF by a Chromium of this computer, where there is one: pages that stand alone are printed, with scripts and network off.
import { accessSync, constants } from "node:fs";
import path from "node:path";
import puppeteer, { type Browser } from "puppeteer-core";

/** How long printing may take, ms. */
const LONGEST_MS = 120_000;

function isProgram(file: string): boolean {
  try {
    accessSync(file, constants.X_OK);
    return true;
  } catch {
    return false;
  }
}

/** Programs that print, the most usual first. */
const NAMES = ["chromium", "chromium-browser", "chromium-headless-shell"];

/** @returns path of a Chromium on this computer; null where there is none */
export function findChromium(): string | null {
  const said = process.env.GIDDY_CHROMIUM;
  if (said) return isProgram(said) ? said : null;
  for (const folder of (process.env.PATH ?? "").split(path.delimiter))
    for (const name of NAMES) {
      const file = path.join(folder, name);
      if (path.isAbsolute(file) && isProgram(file)) return file;
    }
  return null;
}

/** Headless and quiet. */
const FLAGS = [
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
];

/** With its sandbox where this computer has one. Without it too: what is printed runs no scripts and fetches nothing. */
async function launch(executablePath: string): Promise<Browser> {
  // By a pipe: it ends with this server, however that ends. How this server stops is its own affair.
  const ours = { pipe: true, handleSIGINT: false, handleSIGTERM: false, handleSIGHUP: false };
  // A part of Chromium that knows no windows is started in its own way.
  const headless = executablePath.endsWith("headless-shell") ? ("shell" as const) : true;
  const plain = { executablePath, headless, args: FLAGS, ...ours };
  const unboxed = { ...plain, args: [...FLAGS, "--no-sandbox"] };
  if (process.getuid?.() === 0) return puppeteer.launch(unboxed);
  return puppeteer.launch(plain).catch(() => puppeteer.launch(unboxed));
}

export class Cancelled extends Error {}

let printing = false;
export const isPrinting = () => printing;

/**
 * Prints HTML that needs nothing beside it.
 * @param paper - its page numbers are those of the style sheet
 * @throws Cancelled when the signal says so
 */
export async function printPdf(
  chromium: string,
  html: string,
  paper: "a4" | "letter",
  signal: AbortSignal,
): Promise<Uint8Array> {
  printing = true;
  try {
    if (signal.aborted) throw new Cancelled();
    const browser = await launch(chromium);
    const stop = () => void browser.close().catch(() => {});
    signal.addEventListener("abort", stop, { once: true });
    try {
      // It may have been given up while the browser started.
      if (signal.aborted) throw new Cancelled();
      const page = await browser.newPage();
      await page.setJavaScriptEnabled(false);
      await page.setRequestInterception(true);
      page.on("request", (request) =>
        request.url().startsWith("data:") || request.url() === "about:blank" ? request.continue() : request.abort(),
      );
      await page.setContent(html, { waitUntil: "load", timeout: LONGEST_MS });
      return await page.pdf({ format: paper, preferCSSPageSize: false, printBackground: true, timeout: LONGEST_MS });
    } catch (error) {
      if (signal.aborted) throw new Cancelled();
      throw error;
    } finally {
      signal.removeEventListener("abort", stop);
      await browser.close().catch(() => {});
    }
  } finally {
    printing = false;
  }
}
