import { describe, expect, test } from "vitest";
import { tryPort } from "../lib/port.mjs";
import { findPrograms } from "../lib/postgres.mjs";

describe("finding what the start command needs", () => {
  test("PostgreSQL's programs are found when they are not on PATH", () => {
    const before = process.env.PATH;
    process.env.PATH = "/nowhere";
    try {
      expect(findPrograms()).toMatch(/bin$/);
    } finally {
      process.env.PATH = before;
    }
  });

  test("a port in use is reported as taken", async () => {
    const { createServer } = await import("node:net");
    const server = createServer();
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    const address = server.address();
    const port = typeof address === "object" && address ? address.port : 0;
    expect(await tryPort(port)).toBeNull();
    await new Promise((resolve) => server.close(resolve));
    expect(await tryPort(port)).toBe(port);
  });
});
