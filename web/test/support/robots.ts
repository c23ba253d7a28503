// The stand-in robots' real process, for server and browser tests.
import { type ChildProcess, fork } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";

const main = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../../../device/dist/main.js");

export interface RunningRobots {
  readonly port: number;
  pid(): number;
  /** Ends the process at once, as a crash does. */
  kill(): Promise<void>;
  /** Starts it again on its port, with what it kept. */
  again(): Promise<void>;
  stop(): Promise<void>;
}

/** The port of the last that were started: a server that knows of it is of use to the next file of tests, too. */
let port = 0;

export async function startRobots(): Promise<RunningRobots> {
  const folder = mkdtempSync(path.join(os.tmpdir(), "giddy-robots-"));
  let child: ChildProcess;
  const start = async (wanted: number): Promise<number> => {
    child = fork(main, [], { env: { ...process.env, GIDDY_DEVICE_DATA: folder, GIDDY_DEVICE_PORT: String(wanted) } });
    return new Promise((resolve, reject) => {
      child.once("message", (message: { port: number }) => resolve(message.port));
      child.once("exit", (code) => reject(new Error(`the robots stopped while starting, status ${code}`)));
    });
  };
  const end = (signal: NodeJS.Signals) =>
    new Promise<void>((resolve) => {
      child.once("exit", () => resolve());
      child.kill(signal);
    });
  // Somebody else may have it by now: then it is another one.
  const own = await start(port).catch(() => start(0));
  port = own;
  return {
    port: own,
    pid: () => child.pid ?? 0,
    kill: () => end("SIGKILL"),
    again: async () => {
      await start(own);
    },
    stop: async () => {
      await end("SIGTERM");
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
