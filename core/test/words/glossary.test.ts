import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { GLOSSARY, glossaryPage } from "../../src/words/glossary.js";

const ALL = GLOSSARY.flatMap(({ terms }) => terms);

test("docs/words.md is what the glossary says", () => {
  expect(readFileSync(new URL("../../../docs/words.md", import.meta.url), "utf8")).toBe(glossaryPage());
});

test("a word stands for one thing: no term twice, no synonym for two terms or for another term", () => {
  const said = ALL.flatMap(({ term, also }) => [term, ...also]);
  expect(said.filter((word, i) => said.indexOf(word) !== i)).toEqual([]);
});

test("what a term means is one short sentence, and leads to a page", () => {
  for (const { term, means, page } of ALL) {
    expect(means.split(/\s+/).length, term).toBeLessThanOrEqual(20);
    expect(page, term).toMatch(/^\/[a-z]*(\?known=[a-z-]+)?$/);
  }
});
