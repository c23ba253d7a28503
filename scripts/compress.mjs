// Files of the pages, compressed once at the build: brotli (RFC 7932) and gzip (RFC 1952) beside each.
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import path from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";

const WORTH = /\.(js|mjs|css|svg|json|html|wasm)$/;
/** Smaller files gain nothing, bytes. */
const LEAST = 1000;
/** Of 11: beyond, the build takes many times as long for a few percent. */
const BROTLI_QUALITY = 9;

/** @param {string} folder */
function compressBelow(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const file = path.join(folder, entry.name);
    if (entry.isDirectory()) compressBelow(file);
    else if (WORTH.test(entry.name) && statSync(file).size >= LEAST) compress(file);
  }
}

/** @param {string} file */
function compress(file) {
  // Names of built files hold a digest of what is in them.
  if (existsSync(`${file}.br`) && statSync(`${file}.br`).mtimeMs > statSync(file).mtimeMs) return;
  const bytes = readFileSync(file);
  writeFileSync(`${file}.br`, brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: BROTLI_QUALITY } }));
  writeFileSync(`${file}.gz`, gzipSync(bytes, { level: 9 }));
}

compressBelow(path.resolve(/** @type {string} */ (process.argv[2])));
