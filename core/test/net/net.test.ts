// The net: runs that must stay as they are to the bit, whatever is moved in the core. A smaller set; all of them: npm run same.
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import * as core from "../../src/index.js";
import { cases, generated, hashesOf } from "./cases.mjs";

const known = JSON.parse(readFileSync(new URL("hashes.json", import.meta.url), "utf8")) as Record<string, string[]>;

test("every run of the smaller set has the fingerprint that was written down", () => {
  const different: string[] = [];
  let runs = 0;
  for (const one of cases(core, false)) {
    const hashes = hashesOf(core, one);
    runs += hashes.length;
    if (hashes.some((hash, i) => known[one.id]?.[i] !== hash)) different.push(one.id);
  }
  expect(different).toEqual([]);
  expect(runs).toBeGreaterThan(200);
}, 120_000);

test("the whole set was written down: every demo mission, example, construct and calibration program", () => {
  const kinds = Object.keys(known).map((id) => id.split("/")[0] ?? "");
  expect([...new Set(kinds)].sort()).toEqual(["calibration", "demo", "docs", "generated", "reference"]);
  expect(kinds.filter((kind) => kind === "generated")).toHaveLength(300);
  for (const [id, hashes] of Object.entries(known)) {
    expect(hashes, id).toHaveLength({ demo: 21, generated: 2 }[id.split("/")[0] ?? ""] ?? 3);
    for (const hash of hashes) expect(hash, id).toMatch(/^[0-9a-f]{16}$/);
  }
});

test("generated missions hold every construct, and two of one seed are the same", () => {
  const all = Array.from({ length: 300 }, (_, i) => generated(i + 1, false)).join("\n");
  const constructs =
    "go back turn face arc roll wheels power follow wait move aim stop coast light beep note set show reset repeat if else leave together also during whenever every skip".split(
      " ",
    );
  for (const word of constructs) expect(all, word).toMatch(new RegExp(`^ +${word}\\b`, "m"));
  expect(generated(7, true)).toBe(generated(7, true));
  expect(generated(7, true)).not.toBe(generated(8, true));
});
