// npm run same: whether every run of the net is still the same, to the bit: demo missions on every robot that can run
// them, examples, generated missions over all constructs, calibration programs. Ends with 1 when one is not.
//
//   npm run same                      counts equal fingerprints and names those that differ
//   npm run same -- --write           writes them down anew; only where a fault was mended, and the commit says which
import { readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import * as core from "../core/dist/index.js";
import { cases, hashesOf } from "../core/test/net/cases.mjs";

const file = path.join(path.dirname(path.dirname(fileURLToPath(import.meta.url))), "core/test/net/hashes.json");
const { values } = parseArgs({ options: { write: { type: "boolean", default: false } } });

/** @type {Record<string, string[]>} */
const known = values.write ? {} : JSON.parse(readFileSync(file, "utf8"));
/** @type {Record<string, string[]>} */
const found = {};
let [equal, all, missions] = [0, 0, 0];
/** @type {string[]} */
const differ = [];
for (const one of cases(core, true)) {
  const hashes = hashesOf(core, one);
  found[one.id] = hashes;
  missions += 1;
  all += hashes.length;
  const before = known[one.id];
  const same = hashes.filter((hash, i) => before?.[i] === hash).length;
  equal += same;
  if (same < hashes.length) differ.push(`${one.id}: ${same} of ${hashes.length} equal`);
  if (missions % 50 === 0) process.stdout.write(`  ${missions} missions\n`);
}
const gone = Object.keys(known).filter((id) => !(id in found));
if (values.write) {
  const lines = Object.entries(found).map(([id, hashes]) => `  ${JSON.stringify(id)}: ${JSON.stringify(hashes)}`);
  writeFileSync(file, `{\n${lines.join(",\n")}\n}\n`);
  process.stdout.write(`${all} fingerprints of ${missions} missions written down\n`);
} else {
  for (const line of [...differ, ...gone.map((id) => `${id}: not there any more`)]) process.stdout.write(`${line}\n`);
  process.stdout.write(`${equal} of ${all} fingerprints equal, ${missions} missions\n`);
  process.exitCode = equal === all && gone.length === 0 ? 0 : 1;
}
