// Writes a program into a chip through its bootloader: STK500 version 1 (Atmel's application note AVR061).
import { type ByteLine, CANCELLED, type Upload, type UploadWatch } from "./byteLine.js";

const EOP = 0x20;
const INSYNC = 0x14;
const OK = 0x10;
const ASK = { sync: 0x30, begin: 0x50, end: 0x51, address: 0x55, write: 0x64, read: 0x74, signature: 0x75 } as const;
const PAGE_BYTES = 128;
/** Of the ATmega328P, by its data sheet. */
const SIGNATURE = [0x1e, 0x95, 0x0f] as const;
const FLASH = 0x46;
/**
 * A bootloader listens for about a second after a reset: so long it is asked, and reset again while it does not answer. After
 * each reset an answer may take twice as long: a slow line, or a computer with much to do, answers late each time.
 */
const SYNC = { resets: 4, listensMs: 1440, withinMs: 120 } as const;
/** A line that is gone says so itself. What is silent for so long may be a computer with much to do, on either end. */
const ANSWER_MS = 4000;
/** Who asks may be held up for longer than a bootloader waits: then all is done once more, and once again. */
const ATTEMPTS = 3;

/** Asks, and takes the answer's bytes; null when it is none. */
async function ask(line: ByteLine, bytes: readonly number[], answer: number, withinMs = ANSWER_MS) {
  await line.write(Uint8Array.from([...bytes, EOP]));
  const got = await line.read(answer + 2, withinMs);
  return got && got[0] === INSYNC && got[answer + 1] === OK ? got.subarray(1, -1) : null;
}

const NO_BOOTLOADER: Upload = {
  ok: false,
  why: "The board's bootloader does not answer. Check that its cable is in and that it is the right port, and try again.",
};

const NOT_BEGUN: Upload = { ok: false, why: "It was cancelled. The board holds what it held." };

/** What came of an attempt; silent: the board stopped answering, so that another one may go better. */
interface Attempt {
  readonly upload: Upload;
  readonly silent: boolean;
}
const settled = (upload: Upload): Attempt => ({ upload, silent: false });
const silence = (why: string): Attempt => ({ upload: { ok: false, why }, silent: true });

/** @param image - the program from address 0 on */
export async function writeByStk500(line: ByteLine, image: Uint8Array, watch: UploadWatch): Promise<Upload> {
  let first: Attempt | null = null;
  for (let i = 0; i < ATTEMPTS; i += 1) {
    // A line that went away meanwhile cannot be reset: what the first attempt met is said.
    const synced = await inSync(line, watch).catch((error: unknown) => {
      if (first === null) throw error;
      return false;
    });
    if (!synced) {
      const begun = first !== null && first.upload !== NO_BOOTLOADER;
      if (watch.cancelled) return begun ? CANCELLED : NOT_BEGUN;
      break;
    }
    const attempt = await write(line, image, watch);
    if (!attempt.silent) return attempt.upload;
    first ??= attempt;
  }
  return first?.upload ?? NO_BOOTLOADER;
}

/** Resets the board and asks until its bootloader answers. @returns whether it did */
async function inSync(line: ByteLine, watch: UploadWatch): Promise<boolean> {
  for (let resets = 1; resets <= SYNC.resets; resets += 1) {
    const withinMs = SYNC.withinMs << (resets - 1);
    if (watch.cancelled) return false;
    await line.reset();
    for (let ms = 0; ms < SYNC.listensMs; ms += withinMs) {
      if (watch.cancelled) return false;
      line.drain();
      if ((await ask(line, [ASK.sync], 0, withinMs)) !== null) return true;
    }
  }
  return false;
}

async function write(line: ByteLine, image: Uint8Array, watch: UploadWatch): Promise<Attempt> {
  line.drain();
  const signature = await ask(line, [ASK.signature], 3);
  if (!signature) return { upload: NO_BOOTLOADER, silent: true };
  if (SIGNATURE.some((byte, i) => signature[i] !== byte))
    return settled({ ok: false, why: "This board has another chip. The mission was made for an ATmega328P." });
  const failed = (what: string) =>
    silence(`The board stopped answering while it was ${what}. Check its cable, and put the mission on it again.`);
  if (!(await ask(line, [ASK.begin], 0))) return failed("written");
  const pages = Math.floor((image.length + PAGE_BYTES - 1) / PAGE_BYTES);
  const page = (i: number) => {
    const bytes = new Uint8Array(PAGE_BYTES).fill(0xff);
    bytes.set(image.subarray(i * PAGE_BYTES, (i + 1) * PAGE_BYTES));
    return bytes;
  };
  const to = (i: number) => ask(line, [ASK.address, ((i * PAGE_BYTES) >> 1) & 0xff, (i * PAGE_BYTES) >> 9], 0);
  const put = async (i: number, bytes: Uint8Array) =>
    (await to(i)) !== null && (await ask(line, [ASK.write, 0, PAGE_BYTES, FLASH, ...bytes], 0)) !== null;
  // The first page is emptied first and written last: of what was cut off in between nothing runs.
  if (!(await put(0, new Uint8Array(PAGE_BYTES).fill(0xff)))) return failed("written");
  for (let done = 1; done <= pages; done += 1) {
    if (watch.cancelled) return settled(CANCELLED);
    const i = done % pages;
    if (!(await put(i, page(i)))) return failed("written");
    watch.progress(done / pages, "writing");
  }
  for (let i = 0; i < pages; i += 1) {
    if (watch.cancelled) return settled(CANCELLED);
    const got = (await to(i)) && (await ask(line, [ASK.read, 0, PAGE_BYTES, FLASH], PAGE_BYTES));
    if (!got) return failed("checked");
    const wanted = page(i);
    if (wanted.some((byte, k) => got[k] !== byte))
      return settled({ ok: false, why: "What the board holds is not what was sent. Put the mission on it again." });
    watch.progress((i + 1) / pages, "checking");
  }
  if (!(await ask(line, [ASK.end], 0))) return failed("checked");
  return settled({ ok: true });
}
