// Demo documents as data, for tests that spoil them.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";

import { type Field, readField } from "@giddy-pebble/core";

const demo = process.env.GIDDY_DEMO ?? "";

export function demoSamples(): { robots: unknown[]; missions: string[] } {
  const read = (name: string) => readFileSync(path.join(demo, name), "utf8");
  return {
    robots: readdirSync(demo)
      .filter((name) => name.endsWith(".robot.json"))
      .map((name) => JSON.parse(read(name)) as unknown),
    missions: readdirSync(path.join(demo, "missions")).map((name) => read(path.join("missions", name))),
  };
}

/** The demo's table. */
export function fellside(): Field {
  const read = readField(
    JSON.parse(readFileSync(path.resolve(import.meta.dirname, "../../../demo/fellside.field.json"), "utf8")),
  );
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
}
