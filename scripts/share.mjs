// npm run share: non-blank lines under test/ over all non-blank TypeScript, Astro, CSS and SQL lines.
import { readFileSync } from "node:fs";
import { capture } from "./lib/command.mjs";

const files = capture("git", ["ls-files", "--cached", "--others", "--exclude-standard"]).out.split("\n");
const counted = files.filter((file) => /\.(ts|tsx|mjs|astro|css|sql)$/.test(file) && !/(^|\/)(fixtures|demo|dist)\//.test(file));
/** @param {string} file */
const lines = (file) =>
  readFileSync(file, "utf8")
    .split("\n")
    .filter((line) => line.trim() !== "").length;
let tests = 0;
let all = 0;
for (const file of counted) {
  const count = lines(file);
  all += count;
  if (/(^|\/)test\//.test(file)) tests += count;
}
process.stdout.write(`${tests} of ${all} non-blank lines are tests: ${((100 * tests) / all).toFixed(1)} %\n`);
