// Prints every sentence a person can meet, with its number of words and where it stands:
//   npm run sentences                 all of them, longest first
//   npm run sentences -- --over 20    only those with more words
//   npm run sentences -- --find WORD  only those with this word
//   npm run sentences -- --write      writes the list of each package, docs/sentences/PACKAGE.pot, for translators
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { catalogue, longest, PACKAGES, sentencesOf } from "./lib/sentences.mjs";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const { values } = parseArgs({
  options: { over: { type: "string" }, find: { type: "string" }, write: { type: "boolean" } },
});
const all = PACKAGES.map((name) => ({ name, sentences: sentencesOf(root, name) }));
if (values.write) {
  const folder = path.join(root, "docs", "sentences");
  mkdirSync(folder, { recursive: true });
  for (const { name, sentences } of all) {
    writeFileSync(path.join(folder, `${name}.pot`), catalogue(name, sentences));
    console.log(`docs/sentences/${name}.pot: ${new Set(sentences.map(({ text }) => text)).size} sentences`);
  }
} else {
  const over = Number(values.over ?? 0);
  const find = values.find?.toLowerCase() ?? "";
  const rows = all.flatMap(({ sentences }) =>
    sentences.map(({ text, file, line }) => ({ words: longest(text), text, at: `${file}:${line}` })),
  );
  const wanted = rows.filter(({ words, text }) => words > over && text.toLowerCase().includes(find)).sort((a, b) => b.words - a.words);
  for (const { words, text, at } of wanted) console.log(`${String(words).padStart(3)}  ${text}   (${at})`);
  console.log(`${wanted.length} of ${rows.length} texts`);
}
