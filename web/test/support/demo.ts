// Demo documents as data, for tests that spoil them.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";

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
