// The lists of sentences for translators hold what the programs say now, and nothing in it is long.
import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { describe, expect, test } from "vitest";
import { catalogue, longest, PACKAGES, sentencesOf } from "../lib/sentences.mjs";

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../..");

describe.each(PACKAGES)("sentences of %s", (name) => {
  const sentences = sentencesOf(root, name);

  test("stand in its list as they are now; npm run sentences -- --write brings it up to date", () => {
    const written = readFileSync(path.join(root, `docs/sentences/${name}.pot`), "utf8");
    expect(catalogue(name, sentences)).toBe(written);
  });

  test("have 20 words at most", () => {
    expect(sentences.filter(({ text }) => longest(text) > 20).map(({ text }) => text)).toEqual([]);
  });
});

test("a text with quotes and a value that is worked out keeps both", () => {
  const list = catalogue("core", [{ text: 'Say "{name}" {…} times, then {…}.', file: "core/src/a.ts" }]);
  expect(list).toContain('#: core/src/a.ts\n#, brace-format\nmsgid "Say \\"{name}\\" {1} times, then {2}."\nmsgstr ""\n');
});
