// A short soak of everything at once.
import { spawn } from "node:child_process";
import path from "node:path";
import { expect, test } from "vitest";

const root = path.resolve(import.meta.dirname, "../../..");

test("a soak of everything at once, with kills, ends with nothing lost and no failure", async () => {
  const child = spawn(
    process.execPath,
    [path.join(root, "scripts/soak.mjs"), "--minutes", "2", "--rest", "1", "--kills", "2", "--seed", "5", "--json"],
    { stdio: ["ignore", "pipe", "inherit"], env: { ...process.env, GIDDY_DATA: "" } },
  );
  let said = "";
  child.stdout.on("data", (part) => {
    said += part;
  });
  await new Promise((resolve) => child.once("exit", resolve));
  const counts = JSON.parse(said.trim().split("\n").at(-1) ?? "{}");
  expect(counts.serverErrors).toBe(0);
  expect(counts.lostWrites).toBe(0);
  expect(counts.nulls).toBe(0);
  // How long a halt takes is measured by npm run soak; here the machine is busy with tests.
  expect(counts.failures.filter((one: string) => !/^a halt of/.test(one))).toEqual([]);
  expect(counts.requests).toBeGreaterThan(500);
  expect(counts.frames).toBeGreaterThan(1000);
  expect(counts.restarts).toBeGreaterThanOrEqual(2);
  expect(counts.halts).toBeGreaterThan(0);
}, 150_000);
