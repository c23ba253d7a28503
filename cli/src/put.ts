// `giddy put`: a mission onto a board that hangs on a serial port of this computer.
import { createHash } from "node:crypto";
import path from "node:path";
import { exportMission } from "@giddy-pebble/boards";
import { boardWriter, HeardLine, SERIAL_BAUD, type Upload } from "@giddy-pebble/core";
import { SerialPort } from "serialport";
import { ready } from "./boards.js";
import type { DocumentOptions } from "./documents.js";
import { nameOf } from "./files.js";

interface PutOptions extends DocumentOptions {
  target: string;
  port: string;
  json?: boolean;
}

export const KINDS = ["avr", "micropython"] as const;
export type BoardKind = (typeof KINDS)[number];

export function boardKind(words: string): BoardKind {
  const found = KINDS.find((name) => name === words);
  if (!found) throw new Error(`--target must be ${KINDS.join(" or ")}, not "${words}".`);
  return found;
}

const RESET_MS = 60;

/** @returns exit status: 0 the board holds it, 1 it does not, 2 when there is a problem */
export async function putCommand(file: string, options: PutOptions): Promise<number> {
  const kind = boardKind(options.target);
  const prepared = await ready(file, options);
  if (!prepared?.program) return 2;
  const title = path.basename(file).replace(/\.cairn$/, "");
  const { robot } = prepared.context;
  const made = await exportMission(kind, prepared.program, robot, title);
  const { problems, missing, files, link } = made;
  const refuse = (why: string, status: number) => {
    if (options.json) process.stdout.write(`${JSON.stringify({ ok: false, why })}\n`);
    else process.stderr.write(`${why}\n`);
    return status;
  };
  const [problem] = problems;
  if (problem) return refuse(`${nameOf(file)}:${problem.line}: ${problem.message}`, 2);
  if (missing !== null) return refuse(`It was not compiled. ${missing}`, 2);
  const hash = (bytes: Uint8Array) => Promise.resolve(createHash("sha256").update(bytes).digest("hex"));
  const write = boardWriter(kind, files, hash);
  if (!write) return refuse("The mission does not fit the chip. Shorten it.", 2);
  const port = await openPort(options.port);
  try {
    const put = await through(port, write);
    if (!put.ok) return refuse(put.why, 1);
  } finally {
    await new Promise<void>((resolve) => port.close(() => resolve()));
  }
  process.stdout.write(
    options.json
      ? `${JSON.stringify({ ok: true, target: kind, robot: robot.name, port: options.port, link })}\n`
      : `The board of ${robot.name} holds ${title}. It starts by itself after a second.\n`,
  );
  return 0;
}

/** @throws Error with a sentence that says which ports there are */
async function openPort(name: string): Promise<SerialPort> {
  const port = new SerialPort({ path: name, baudRate: SERIAL_BAUD, autoOpen: false });
  const error = await new Promise<Error | null>((resolve) => port.open(resolve));
  if (!error) return port;
  const known = await SerialPort.list().catch(() => []);
  const there = known.map((one) => one.path);
  throw new Error(
    `The port ${name} cannot be opened: ${whyNot(error.message)}. ${there.length > 0 ? `Ports here: ${there.join(", ")}.` : "Plug in the board's cable, and look for its port in /dev."}`,
  );
}

function whyNot(message: string): string {
  if (/No such file/i.test(message)) return "there is no such port";
  if (/Permission denied|Access denied/i.test(message)) return "this user may not open it";
  if (/lock|busy|temporarily unavailable/i.test(message)) return "another program has it";
  return /ioctl/i.test(message) ? "it is not a serial port" : message.replace(/^Error: /, "");
}

/** Writes through a port, says how far it is, and stops when the person asks for it (Ctrl-C). */
async function through(
  port: SerialPort,
  write: (
    line: HeardLine,
    watch: { progress(share: number, words: string): void; readonly cancelled: boolean },
  ) => Promise<Upload>,
): Promise<Upload> {
  const line = new HeardLine({
    write: (bytes) =>
      new Promise((resolve) => {
        // That a port has gone is told by the bytes that do not come.
        port.write(Buffer.from(bytes), () => resolve());
      }),
    reset: () => pullReset(port),
    after: (ms, call) => {
      const timer = setTimeout(call, ms);
      return () => clearTimeout(timer);
    },
  });
  port.on("data", (bytes: Buffer) => line.take(bytes));
  port.on("close", () => line.end());
  port.on("error", () => line.end());
  let cancelled = false;
  const cancel = () => {
    cancelled = true;
  };
  process.on("SIGINT", cancel);
  let said = "";
  try {
    return await write(line, {
      progress: (share, words) => {
        const now = `${words === "writing" ? "Writing it" : "Checking it"}: ${10 * Math.round(10 * share)} %`;
        if (now !== said) process.stderr.write(`${now}\n`);
        said = now;
      },
      get cancelled() {
        return cancelled;
      },
    });
  } finally {
    process.off("SIGINT", cancel);
  }
}

/** A port without a reset line, as a pseudo-terminal is, has pulled it when it was opened. */
async function pullReset(port: SerialPort): Promise<void> {
  const set = (high: boolean) =>
    new Promise<boolean>((resolve) => port.set({ dtr: high, rts: high }, (error) => resolve(!error)));
  if (!(await set(false))) return;
  await new Promise((resolve) => setTimeout(resolve, RESET_MS));
  await set(true);
}
