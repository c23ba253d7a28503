// Bytes of script that each page loads before anything is pressed, in this build against another one:
//   node bench/pageScripts.mjs OTHER_CHECKOUT     (both built with npm run build:web)
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { gzipSync } from "node:zlib";

const here = path.dirname(path.dirname(fileURLToPath(import.meta.url)));

/** @param {string} root @returns {Map<string, {raw: number, packed: number}>} */
function pageScripts(root) {
  const folder = path.join(root, "web/dist/client/_astro");
  const names = readdirSync(folder);
  const found = new Map();
  for (const name of names) {
    const page = /^(\w+)Workplace\..*\.js$/.exec(name)?.[1];
    if (!page) continue;
    const seen = new Set();
    const load = (/** @type {string} */ file) => {
      if (seen.has(file)) return;
      seen.add(file);
      const text = readFileSync(path.join(folder, file), "utf8");
      for (const [, other] of text.matchAll(/(?:from|import)\s*"\.\/([^"]+\.js)"/g))
        load(/** @type {string} */ (other));
    };
    for (const file of [name, ...names.filter((one) => /^client\..*\.js$/.test(one))]) load(file);
    const bodies = [...seen].map((file) => readFileSync(path.join(folder, file)));
    found.set(page, {
      raw: bodies.reduce((sum, body) => sum + body.length, 0),
      packed: bodies.reduce((sum, body) => sum + gzipSync(body).length, 0),
    });
  }
  return found;
}

const now = pageScripts(here);
const before = process.argv[2] ? pageScripts(path.resolve(process.argv[2])) : new Map();
for (const [page, { raw, packed }] of now) {
  const old = before.get(page);
  const growth = old ? `, ${((raw / old.raw - 1) * 100).toFixed(1)} % more than before` : "";
  console.log(`${page}: ${(raw / 1000).toFixed(0)} kB, ${(packed / 1000).toFixed(0)} kB packed${growth}`);
}
