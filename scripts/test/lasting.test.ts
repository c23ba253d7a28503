// What keeps the application going: locks, leftovers, small files, children that end.
import { fork, spawn } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { endLeftovers, rememberChildren } from "../lib/children.mjs";
import { readJsonFile, writeWhole } from "../lib/files.mjs";
import { takeLock } from "../lib/lock.mjs";
import { bornAt, isMarked, mark } from "../lib/process.mjs";
import { keepRunning, pauseAfter } from "../lib/supervise.mjs";
import { usedPackages } from "../notices.mjs";

let folder = "";
beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-lasting-"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

describe("the lock of a data folder", () => {
  const file = () => path.join(folder, "starting.lock");

  test("is had by one at a time, and given back", () => {
    const first = takeLock(file());
    expect(first.ok).toBe(true);
    expect(takeLock(file())).toEqual({ ok: false, pid: process.pid });
    if (first.ok) first.release();
    expect(takeLock(file()).ok).toBe(true);
  });

  test.each<[string, (file: string) => void]>([
    ["a process that is gone", (at) => writeFileSync(at, JSON.stringify({ pid: 2 ** 22 - 3, born: "1" }))],
    ["a stranger with the number of one that is gone", (at) => writeFileSync(at, JSON.stringify({ pid: process.pid, born: "1" }))],
    ["nothing readable", (at) => writeFileSync(at, "\0\0{half")],
    ["a bare number", (at) => writeFileSync(at, String(process.pid))],
    ["nothing at all", (at) => writeFileSync(at, "")],
    ["a folder", (at) => mkdirSync(path.join(at, "in the way"), { recursive: true })],
  ])("that was left by %s keeps nobody out", (_, leave) => {
    leave(file());
    expect(takeLock(file()).ok).toBe(true);
  });

  test("in a folder that is not there is one sentence", () => {
    expect(() => takeLock(path.join(folder, "nowhere", "starting.lock"))).toThrow(/could not be made .* start again/);
  });
});

describe("processes", () => {
  test("are known again by number and birth", () => {
    expect(bornAt(process.pid)).toMatch(/^\d+$/);
    expect(isMarked(mark(process.pid))).toBe(true);
    for (const wrong of [null, 7, {}, { pid: -1, born: "1" }, { pid: 1.5, born: "1" }, { pid: process.pid, born: "12" }])
      expect(isMarked(wrong), JSON.stringify(wrong)).toBe(false);
  });

  test("that an earlier start left are ended, and no stranger is", async () => {
    const file = path.join(folder, "children.json");
    const left = spawn(process.execPath, ["-e", "setInterval(() => {}, 1000)"]);
    const stranger = spawn(process.execPath, ["-e", "setInterval(() => {}, 1000)"]);
    try {
      rememberChildren(file).add("left", left);
      const kept = JSON.parse(readFileSync(file, "utf8"));
      writeFileSync(file, JSON.stringify([...kept, { pid: stranger.pid, born: "1" }]));
      const gone = new Promise((resolve) => left.once("exit", (_, signal) => resolve(signal)));
      await endLeftovers(file);
      expect(await gone).toBe("SIGKILL");
      expect(isMarked(mark(stranger.pid ?? 0))).toBe(true);
    } finally {
      left.kill("SIGKILL");
      stranger.kill("SIGKILL");
    }
  });
});

describe("small files", () => {
  test("are written whole, and what cannot be read is nothing", () => {
    const file = path.join(folder, "ports.json");
    expect(readJsonFile(file)).toBeNull();
    writeWhole(file, '{"web":1}');
    expect(readJsonFile(file)).toEqual({ web: 1 });
    writeFileSync(file, '{"web":');
    expect(readJsonFile(file)).toBeNull();
  });

  test("in whose place something else is are one sentence with what to do", () => {
    const file = path.join(folder, "ports.json");
    mkdirSync(path.join(file, "inside"), { recursive: true });
    expect(() => writeWhole(file, "{}")).toThrow(/is in the way.*Move it elsewhere and start again/);
    expect(() => writeWhole(path.join(folder, "none", "x"), "{}")).toThrow(/could not be written/);
  });
});

describe("a child that is kept running", () => {
  const script = () => {
    const file = path.join(folder, "child.mjs");
    writeFileSync(file, 'process.send({ pid: process.pid }); setInterval(() => {}, 1000); process.on("disconnect", () => process.exit());');
    return file;
  };

  test("is started again when it ends by itself, and not once it was stopped", async () => {
    const born: number[] = [];
    const kept = await keepRunning(
      "the child",
      () => fork(script()),
      (child) => born.push(child.pid ?? 0),
    );
    process.kill(born[0] ?? 0, "SIGKILL");
    await expect.poll(() => born.length, { timeout: 5000 }).toBe(2);
    await expect.poll(() => isMarked(mark(born[1] ?? 0))).toBe(true);
    await kept.stop();
    expect(bornAt(born[1] ?? 0)).toBeNull();
    expect(born).toHaveLength(2);
  });

  test("that ends again and again is started with growing pauses, and after five times that is told", async () => {
    const file = path.join(folder, "failing.mjs");
    const once = path.join(folder, "served");
    writeFileSync(
      file,
      `import { existsSync, writeFileSync } from "node:fs";
       if (existsSync(${JSON.stringify(once)})) process.exit(3);
       writeFileSync(${JSON.stringify(once)}, "");
       process.send({}); process.on("disconnect", () => process.exit());`,
    );
    const told: string[] = [];
    const asked: number[] = [];
    const paused = (times: number) => {
      asked.push(times);
      return 1;
    };
    const kept = await keepRunning("the robots", () => fork(file), undefined, undefined, {
      paused,
      tell: (words) => told.push(words),
    });
    kept.renew();
    await expect.poll(() => told.length, { timeout: 20_000 }).toBeGreaterThanOrEqual(6);
    await kept.stop();
    expect(asked.slice(0, 6)).toEqual([1, 2, 3, 4, 5, 6]);
    expect(told.slice(0, 4).every((words) => words === "the robots stopped by itself and is started again")).toBe(true);
    expect(told[4]).toMatch(/^the robots stopped by itself 5 times in a row/);
    expect(told[5]).toMatch(/^the robots stopped by itself 6 times in a row/);
    const pauses = [1, 2, 3, 4, 5, 6, 7].map(pauseAfter);
    for (let i = 1; i < 6; i += 1) expect(pauses[i]).toBeGreaterThan(pauses[i - 1] as number);
    expect(pauses[6]).toBe(pauses[5]);
  });

  test("that ends while it starts is one sentence", async () => {
    const file = path.join(folder, "bad.mjs");
    writeFileSync(file, "process.exit(3);");
    await expect(keepRunning("the web server", () => fork(file))).rejects.toThrow("The web server stopped while starting");
  });

  test("is not waited for by somebody who asked to stop", async () => {
    const file = path.join(folder, "slow.mjs");
    writeFileSync(file, "setInterval(() => {}, 1000);");
    const kept = await keepRunning(
      "the child",
      () => fork(file),
      () => {},
      Promise.resolve(),
    );
    await kept.stop();
  });
});

test("the notices name every package the application runs with", () => {
  const root = path.resolve(import.meta.dirname, "../..");
  const notices = readFileSync(path.join(root, "THIRD-PARTY-NOTICES.md"), "utf8");
  const used = usedPackages(readFileSync(path.join(root, "package-lock.json"), "utf8"));
  expect(used.length).toBeGreaterThan(100);
  for (const { name, version } of used) expect(notices).toContain(`- ${name} ${version}: `);
});
