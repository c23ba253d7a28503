// The browser for tests and pictures: Debian's Chromium.
import { onPath } from "./command.mjs";
import { installDebian } from "./debian.mjs";
import { SetupError } from "./say.mjs";

/** @returns {string | null} */
function find() {
  return process.env.GIDDY_CHROMIUM ?? onPath("chromium") ?? onPath("chromium-browser");
}

/** @returns {string} path of a Chromium, installed first where there is none */
export function ensureChromium() {
  const found = find();
  if (found) return found;
  installDebian(["chromium"], "Chromium");
  const installed = find();
  if (!installed) throw new SetupError("Chromium was installed but is not on PATH. Set GIDDY_CHROMIUM to its full path.");
  return installed;
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
