import { mkdirSync, mkdtempSync, rmSync, utimesSync, writeFileSync } from "node:fs";
import net from "node:net";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { needsBuild } from "../lib/build.mjs";
import { capture, isAlive, onPath } from "../lib/command.mjs";
import { choosePort } from "../lib/port.mjs";

describe("ports", () => {
  let server: net.Server;
  let port = 0;
  beforeEach(async () => {
    server = net.createServer();
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    port = (server.address() as net.AddressInfo).port;
  });
  afterEach(() => new Promise((resolve) => server.close(resolve)));

  test("a taken one is passed over unless it was asked for", async () => {
    expect(await choosePort(port, false)).toBeGreaterThan(port);
    await expect(choosePort(port, true)).rejects.toThrow(`Port ${port} is taken by another program`);
  });

  test("what is no port says what would be", async () => {
    for (const wrong of [0, 70_000, Number.NaN, 12.5])
      await expect(choosePort(wrong, true)).rejects.toThrow("a whole number from 1 to 65535");
  });
});

describe("programs", () => {
  test("are found on PATH, run, and their failure seen", () => {
    expect(onPath("node")).toMatch(/node$/);
    expect(onPath("no-such-program-anywhere")).toBeNull();
    expect(capture(process.execPath, ["-e", "process.stdout.write('hello')"])).toMatchObject({ ok: true, out: "hello" });
    expect(capture(process.execPath, ["-e", "process.exit(3)"])).toMatchObject({ ok: false, status: 3 });
    expect(capture("no-such-program-anywhere", []).ok).toBe(false);
  });

  test("this process is alive, an impossible one is not", () => {
    expect(isAlive(process.pid)).toBe(true);
    expect(isAlive(2 ** 30)).toBe(false);
  });
});

describe("building", () => {
  let root = "";
  beforeEach(() => {
    root = mkdtempSync(path.join(os.tmpdir(), "giddy-build-"));
    for (const folder of [
      "core/dist",
      "core/src",
      "core/test",
      "cli/dist",
      "device/dist",
      "boards/dist",
      "web/dist/host",
      "web/dist/server",
      "web/src",
    ])
      mkdirSync(path.join(root, folder), { recursive: true });
    for (const file of [
      "core/dist/index.js",
      "core/dist/node.js",
      "core/src/a.ts",
      "core/test/a.test.ts",
      "cli/dist/main.js",
      "device/dist/main.js",
      "boards/dist/index.js",
      "web/dist/host/main.js",
      "web/dist/server/entry.mjs",
      "web/src/b.ts",
      "package-lock.json",
      "web/dist/.built",
    ]) {
      writeFileSync(path.join(root, file), "");
      utimesSync(path.join(root, file), 1000, file.endsWith(".built") ? 2000 : 1000);
    }
  });
  afterEach(() => rmSync(root, { recursive: true, force: true }));

  test("is not done again while nothing changed, nor for what the build wrote itself, nor for a changed test", () => {
    expect(needsBuild(root)).toBe(false);
    writeFileSync(path.join(root, "core/tsconfig.tsbuildinfo"), "");
    expect(needsBuild(root)).toBe(false);
    utimesSync(path.join(root, "core/test/a.test.ts"), 3000, 3000);
    expect(needsBuild(root)).toBe(false);
  });

  test.each(["core/src/a.ts", "web/src/b.ts", "package-lock.json"])("is done when %s is newer", (file) => {
    utimesSync(path.join(root, file), 3000, 3000);
    expect(needsBuild(root)).toBe(true);
  });

  test.each(["web/dist/.built", "core/dist/index.js", "core/dist/node.js", "web/dist/server/entry.mjs"])(
    "is done when %s is missing",
    (file) => {
      rmSync(path.join(root, file));
      expect(needsBuild(root)).toBe(true);
    },
  );
});
