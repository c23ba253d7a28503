// `giddy` as tests call it: in this process, as its own process calls it, and as a process where that is what is tried.
import { execFile } from "node:child_process";
import path from "node:path";
import { giddy } from "../dist/commands.js";

export const giddyBin = path.resolve(import.meta.dirname, "../bin/giddy.mjs");

export interface Said {
  readonly status: number;
  readonly out: string;
  readonly err: string;
}

/** As a shell starts it. @param input - what it reads from its standard input */
export function giddyProcess(folder: string, args: readonly string[], input = ""): Promise<Said> {
  return new Promise((resolve) => {
    const options = { cwd: folder, maxBuffer: 64 * 1024 * 1024 };
    const child = execFile(process.execPath, [giddyBin, ...args], options, (error, out, err) => {
      resolve({ status: error ? Number(error.code) : 0, out, err });
    });
    child.stdin?.end(input);
  });
}

/** What is written meanwhile, instead of writing it. */
function collect(stream: NodeJS.WriteStream): { text: string; end(): void } {
  const usual = stream.write;
  const collected = {
    text: "",
    end: () => {
      stream.write = usual;
    },
  };
  stream.write = ((part: string | Uint8Array) => {
    collected.text += typeof part === "string" ? part : Buffer.from(part).toString("utf8");
    return true;
  }) as typeof stream.write;
  return collected;
}

let before: Promise<unknown> = Promise.resolve();

/** One command after the other, in a folder: starting a process for each takes ten times as long as most commands. */
export function giddyIn(folder: string, args: readonly string[]): Promise<Said> {
  const mine = before.then(async () => {
    const home = process.cwd();
    process.chdir(folder);
    const [out, err] = [collect(process.stdout), collect(process.stderr)];
    try {
      return { status: await giddy(args), out: out.text, err: err.text };
    } finally {
      out.end();
      err.end();
      process.chdir(home);
    }
  });
  before = mine.catch(() => {});
  return mine;
}
