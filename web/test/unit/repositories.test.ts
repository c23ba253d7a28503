// Every function that writes or reads rows takes the team whose they are, and says so in its SQL.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { expect, test } from "vitest";

const folder = path.resolve(import.meta.dirname, "../../src/server/repositories");
const functions = readdirSync(folder).flatMap((file) => {
  const text = readFileSync(path.join(folder, file), "utf8");
  const starts = [...text.matchAll(/^export (?:async )?function (\w+)/gm)];
  return starts.map(({ index, 1: name = "" }, i) => ({
    name: `${file}: ${name}`,
    text: text.slice(index, starts[i + 1]?.index),
  }));
});
const asking = functions.filter(({ text }) => /\bdb: Queryable\b/.test(text.slice(0, text.indexOf("{\n"))));

test("all that ask the database take the team", () => {
  expect(asking.length).toBeGreaterThan(40);
  // The team itself is looked for before it is known.
  const others = asking.filter(({ name }) => name !== "team.ts: localTeam");
  const without = others.filter(({ text }) => !/\bteam: string\b/.test(text.slice(0, text.indexOf("{\n"))));
  expect(without.map(({ name }) => name)).toEqual([]);
});
