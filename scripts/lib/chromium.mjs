// The browser for tests and pictures: Debian's Chromium. Its part without windows takes a tenth less of the processor.
import { onPath } from "./command.mjs";
import { installDebian } from "./debian.mjs";
import { SetupError } from "./say.mjs";

/** @returns {string | null} */
function find() {
  const { GIDDY_CHROMIUM: said } = process.env;
  return said ?? onPath("chromium-headless-shell") ?? onPath("chromium") ?? onPath("chromium-browser");
}

/** @returns {string} path of a Chromium, installed first where there is none */
export function ensureChromium() {
  const found = find();
  if (found) return found;
  installDebian(["chromium-headless-shell"], "Chromium");
  const installed = find();
  if (!installed) throw new SetupError("Chromium was installed but is not on PATH. Set GIDDY_CHROMIUM to its full path.");
  return installed;
}

/** How puppeteer starts it. @param {string} executablePath @returns {"shell" | true} */
export function headlessOf(executablePath) {
  return /headless-shell$/.test(executablePath) ? "shell" : true;
}

/** How Chromium is started everywhere: headless works as root and makes no connections of its own. */
export const BROWSER_FLAGS = [
  "--no-sandbox",
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
];

/** How puppeteer starts it for pictures and figures. */
export function chromiumOptions() {
  const executablePath = ensureChromium();
  return { executablePath, headless: headlessOf(executablePath), args: BROWSER_FLAGS };
}
