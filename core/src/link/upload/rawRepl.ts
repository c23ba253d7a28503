// Puts files onto a board with MicroPython through its raw REPL: each is written piece by piece, and its hash is asked for.
import { toUtf8 } from "../../trials/utf8.js";
import { writeBoardOrder } from "../serial/boardFrames.js";
import { type ByteLine, CANCELLED, type Upload, type UploadWatch } from "./byteLine.js";

const CTRL_A = "\x01";
const CTRL_B = "\x02";
const CTRL_C = "\x03";
const CTRL_D = "\x04";
/** Bytes of a file in one piece: what boards take at once, with room for what has to be written as a code. */
const PIECE_BYTES = 192;
const ANSWER_MS = 3000;
const ENTER = { tries: 5, withinMs: 600 } as const;
/** The file that a board runs when it starts. */
const MAIN = "main.py";
const RAW = "raw REPL; CTRL-B to exit\r\n>";

/** Bytes as MicroPython writes them. */
function literal(bytes: Uint8Array): string {
  let out = "b'";
  for (const byte of bytes) {
    const plain = byte >= 32 && byte < 127 && byte !== 39 && byte !== 92;
    out += plain ? String.fromCharCode(byte) : `\\x${byte.toString(16).padStart(2, "0")}`;
  }
  return `${out}'`;
}

/** Reads until a text came; null when it does not come. */
async function until(line: ByteLine, text: string, withinMs: number): Promise<string | null> {
  let got = "";
  while (!got.endsWith(text)) {
    const byte = await line.read(1, withinMs);
    if (!byte) return null;
    got += String.fromCharCode(byte[0] as number);
  }
  return got.slice(0, -text.length);
}

const send = (line: ByteLine, text: string) => line.write(toUtf8(text));

/** @returns what it printed; null when it failed or did not answer */
async function run(line: ByteLine, code: string): Promise<string | null> {
  await send(line, `${code}${CTRL_D}`);
  if ((await until(line, "OK", ANSWER_MS)) === null) return null;
  const printed = await until(line, CTRL_D, ANSWER_MS);
  const failed = await until(line, CTRL_D, ANSWER_MS);
  const ready = await until(line, ">", ANSWER_MS);
  return printed !== null && failed === "" && ready !== null ? printed : null;
}

async function enter(line: ByteLine): Promise<boolean> {
  for (let i = 0; i < ENTER.tries; i += 1) {
    // A mission of ours that runs is asked to leave; any other program is interrupted.
    await line.write(writeBoardOrder({ kind: "leave" }));
    await line.read(1, 100);
    line.drain();
    await send(line, `\r${CTRL_C}${CTRL_C}`);
    await line.read(1, 100);
    line.drain();
    await send(line, `\r${CTRL_A}`);
    if ((await until(line, RAW, ENTER.withinMs)) !== null) return true;
  }
  return false;
}

const HASH = `import hashlib,binascii
def _hash(name):
 try:
  f=open(name,'rb')
 except OSError:
  return ''
 h=hashlib.sha256()
 while True:
  d=f.read(512)
  if not d: break
  h.update(d)
 f.close()
 return binascii.hexlify(h.digest()).decode()
`;

/**
 * @param files - their bytes by their names; those that the board holds already are left
 * @param hash - SHA-256 as 64 hexadecimal digits
 */
export async function writeByRawRepl(
  line: ByteLine,
  files: ReadonlyMap<string, Uint8Array>,
  hash: (bytes: Uint8Array) => Promise<string>,
  watch: UploadWatch,
): Promise<Upload> {
  if (!(await enter(line)))
    return {
      ok: false,
      why: "The board's REPL does not answer. Check that its cable is in and that MicroPython is on it, and try again.",
    };
  const failed = (name: string): Upload => ({
    ok: false,
    why: `The board stopped answering while ${name} was written. Check its cable, and put the mission on it again.`,
  });
  if ((await run(line, HASH)) === null) return failed("its first file");
  // What starts it is taken away first and written last: of what was cut off in between nothing runs.
  const starts = files.get(MAIN);
  const order = [...files].filter(([name]) => name !== MAIN);
  if (starts) order.push([MAIN, starts]);
  if ((await run(line, `import os\ntry:\n os.remove(${literal(toUtf8(MAIN))})\nexcept OSError:\n pass`)) === null)
    return failed("its first file");
  const all = [...files.values()].reduce((sum, bytes) => sum + bytes.length, 0);
  let done = 0;
  for (const [name, bytes] of order) {
    const wanted = await hash(bytes);
    const held = await run(line, `print(_hash(${literal(toUtf8(name))}))`);
    if (held === null) return failed(name);
    if (held.trim() !== wanted) {
      if ((await run(line, `f=open(${literal(toUtf8(name))},'wb')`)) === null) return failed(name);
      for (let at = 0; at < bytes.length; at += PIECE_BYTES) {
        if (watch.cancelled) return CANCELLED;
        const piece = bytes.subarray(at, at + PIECE_BYTES);
        if ((await run(line, `f.write(${literal(piece)})`)) === null) return failed(name);
        watch.progress((done + Math.min(bytes.length, at + PIECE_BYTES)) / all, "writing");
      }
      const now = await run(line, `f.close()\nprint(_hash(${literal(toUtf8(name))}))`);
      if (now === null) return failed(name);
      if (now.trim() !== wanted)
        return { ok: false, why: `What the board holds of ${name} is not what was sent. Put the mission on it again.` };
    }
    done += bytes.length;
    watch.progress(done / all, "writing");
  }
  // Back to the friendly REPL, and a soft reset: the mission is loaded.
  await send(line, `${CTRL_B}${CTRL_D}`);
  return { ok: true };
}
