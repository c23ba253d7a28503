// The start command as a person has it: recovers from whatever the last one left, keeps its port, and keeps its parts
// running.
import { type ChildProcess, spawn } from "node:child_process";
import { chmodSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { tryPort } from "../../../scripts/lib/port.mjs";
import { stopLeftover } from "../../../scripts/lib/postgres.mjs";

const root = path.resolve(import.meta.dirname, "../../..");
let data: string;
let port: number;
beforeAll(async () => {
  data = mkdtempSync(path.join(os.tmpdir(), "giddy-start-"));
  chmodSync(data, 0o755);
  port = (await tryPort(0)) ?? 0;
});
afterAll(() => {
  stopLeftover(path.join(data, "database"));
  rmSync(data, { recursive: true, force: true, maxRetries: 5 });
});

interface Started {
  readonly child: ChildProcess;
  readonly url: string;
  said(): string;
  stop(signal?: NodeJS.Signals): Promise<void>;
}

/** @param fixed - asks for the port; otherwise the last one is tried first */
function start(fixed: boolean): Promise<Started> {
  const env: NodeJS.ProcessEnv = { ...process.env, GIDDY_DATA: data, GIDDY_LOG: "silent" };
  delete env.GIDDY_PORT;
  if (fixed) env.GIDDY_PORT = String(port);
  const child = spawn(process.execPath, [path.join(root, "scripts/start.mjs")], {
    env,
    stdio: ["ignore", "pipe", "pipe"],
  });
  let text = "";
  return new Promise((resolve, reject) => {
    const gone = new Promise<void>((over) => child.once("exit", () => over()));
    const hear = (part: Buffer) => {
      text += part.toString();
      const found = /Open (http:\S+)\//.exec(text)?.[1];
      if (found)
        resolve({
          child,
          url: found,
          said: () => text,
          stop: (signal = "SIGTERM") => {
            child.kill(signal);
            return gone;
          },
        });
    };
    child.stdout.on("data", hear);
    child.stderr.on("data", hear);
    child.once("exit", (code) => reject(new Error(`start ended with ${code}: ${text}`)));
  });
}

async function well(url: string): Promise<boolean> {
  try {
    const health = (await (await fetch(`${url}/api/health`)).json()) as { ok: boolean; robots: { ok: boolean } };
    return health.ok && health.robots.ok;
  } catch {
    return false;
  }
}

const untilWell = (url: string) => expect.poll(() => well(url), { timeout: 60_000, interval: 100 }).toBe(true);

async function make(url: string, name: string): Promise<number> {
  const answer = await fetch(`${url}/api/documents`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ kind: "mission", name, text: "cairn 1" }),
  });
  return answer.status;
}

async function names(url: string): Promise<string[]> {
  const { documents } = (await (await fetch(`${url}/api/documents?kind=mission`)).json()) as {
    documents: { name: string }[];
  };
  return documents.map(({ name }) => name);
}

function childPid(which: "web" | "robots"): number {
  const [robots, web] = JSON.parse(readFileSync(path.join(data, "children.json"), "utf8")) as { pid: number }[];
  return (which === "web" ? web : robots)?.pid ?? 0;
}

function postmaster(): number {
  return Number(readFileSync(path.join(data, "database/pg/postmaster.pid"), "utf8").split("\n")[0]);
}

describe("npm start", () => {
  test("keeps web server, robots and database running, whichever is ended, and nothing saved is lost", async () => {
    const started = await start(true);
    await untilWell(started.url);
    expect(await make(started.url, "Kept")).toBe(201);
    for (const [title, pid] of [
      ["the web server", () => childPid("web")],
      ["the process of the simulated robots", () => childPid("robots")],
      ["the database server", postmaster],
    ] as const) {
      process.kill(pid(), "SIGKILL");
      await expect.poll(() => started.said(), { timeout: 20_000 }).toContain(`${title} stopped`);
      await untilWell(started.url);
      expect(await names(started.url)).toContain("Kept");
    }
    // Another start in this folder finds it running.
    const second = spawn(process.execPath, [path.join(root, "scripts/start.mjs")], {
      env: { ...process.env, GIDDY_DATA: data },
    });
    let said = "";
    second.stdout.on("data", (part) => {
      said += part;
    });
    await new Promise((resolve) => second.once("exit", resolve));
    expect(said).toContain(`already running: ${started.url}`);
    await started.stop();
  }, 120_000);

  test("ended by force, with files left in the way and the password lost, starts again on its port with all that was saved", async () => {
    const first = await start(false);
    expect(first.url).toBe(`http://127.0.0.1:${port}`);
    await untilWell(first.url);
    expect(await make(first.url, "Before the storm")).toBe(201);
    await first.stop("SIGKILL");
    // Nothing that can lie there locks anybody out.
    writeFileSync(path.join(data, "running.json"), '{"url": "http://127.0.0.1:1/", "inst');
    writeFileSync(path.join(data, "starting.lock"), JSON.stringify({ pid: process.pid, born: "7" }));
    rmSync(path.join(data, "database/secret"));
    mkdirSync(path.join(data, "database/pg.new"), { recursive: true });
    const again = await start(false);
    expect(again.url).toBe(first.url);
    await untilWell(again.url);
    expect(again.said()).toContain("password was lost");
    expect(await names(again.url)).toEqual(expect.arrayContaining(["Kept", "Before the storm"]));
    await again.stop();
    expect(again.said()).toContain("stopped");
  }, 120_000);

  test("while a stranger has its port takes the next free one, and tries its own first again", async () => {
    const { createServer } = await import("node:net");
    const stranger = createServer();
    await new Promise<void>((resolve) => stranger.listen(port, "127.0.0.1", resolve));
    const other = await start(false);
    expect(other.url).not.toBe(`http://127.0.0.1:${port}`);
    await other.stop();
    await new Promise((resolve) => stranger.close(resolve));
  }, 60_000);
});
