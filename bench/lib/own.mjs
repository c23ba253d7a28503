// An application of the benches' own: nothing they make stays in anybody's lists or on a robot's shelf. Started once for all
// that are run together; ended with the last.
import { pathToFileURL } from "node:url";
import { clearOwn, newData, startOwn, stopOwn } from "../../scripts/lib/ownApp.mjs";

const data = newData();
const { child, url } = await startOwn(data);
let ended = false;

export { url };

export async function end() {
  if (ended) return;
  ended = true;
  await stopOwn(child);
  await clearOwn(data);
}

/** Ends it after a bench that was run alone. @param {string} file - its import.meta.url */
export async function endAlone(file) {
  if (process.argv[1] && pathToFileURL(process.argv[1]).href === file) await end();
}
