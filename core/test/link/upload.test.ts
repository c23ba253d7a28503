// Writing a program through a bootloader and through a REPL, with the other end played here.
import { describe, expect, test } from "vitest";
import type { ByteLine } from "../../src/link/upload/byteLine.js";
import { readIntelHex } from "../../src/link/upload/intelHex.js";
import { writeByRawRepl } from "../../src/link/upload/rawRepl.js";
import { writeByStk500 } from "../../src/link/upload/stk500.js";

describe("a hexadecimal file of a program", () => {
  const DATA = ":0400000001020304F2";
  const END = ":00000001FF";

  test("gives its bytes, and 0xFF in between", () => {
    expect([...(readIntelHex(`${DATA}\n:020006000506ED\n${END}\n`, 100) ?? [])]).toEqual([1, 2, 3, 4, 255, 255, 5, 6]);
    // Addresses beyond 64 KB by lines of kind 2 and 4.
    expect(readIntelHex(`:020000021000EC\n${DATA}\n${END}`, 70_000)?.length).toBe(0x10000 + 4);
    expect(readIntelHex(`:020000040001F9\n${DATA}\n${END}`, 70_000)?.length).toBe(0x10000 + 4);
  });

  test.each([
    ["a wrong sum", ":0400000001020304F3\n:00000001FF"],
    ["a line that is too short", ":04000000010203\n:00000001FF"],
    ["no end", DATA],
    ["a letter that is none", `${DATA.replace("01", "0g")}\n${END}`],
    ["an address beyond the room", `:040062000102030490\n${END}`],
  ])("is none with %s", (_what, text) => {
    expect(readIntelHex(text, 100)).toBeNull();
  });

  test("is none when it is larger than the chip", () => {
    expect(readIntelHex(`${DATA}\n${END}`, 3)).toBeNull();
  });
});

/** A bootloader as its application note has it, with what can go wrong. */
class Bootloader implements ByteLine {
  readonly flash = new Uint8Array(1024).fill(0xff);
  /** Pages in the order in which they were written. */
  readonly written: number[] = [];
  resets = 0;
  signature = [0x1e, 0x95, 0x0f];
  /** Stops answering after so many questions. */
  dies = Number.POSITIVE_INFINITY;
  /** Its program begins after so many questions: it answers again once it is reset, and once more if it leaves again. */
  leaves = Number.POSITIVE_INFINITY;
  leavesAgain = Number.POSITIVE_INFINITY;
  /** So long an answer takes, ms. */
  lateMs = 0;
  /** A byte that does not take what is written. */
  bad = -1;
  private out: number[] = [];
  private at = 0;
  /** The first questions after a reset are not heard. */
  private deaf = 3;

  write(bytes: Uint8Array): Promise<void> {
    this.deaf -= 1;
    this.dies -= 1;
    this.leaves -= 1;
    if (this.deaf > 0 || this.dies < 0 || this.leaves < 0 || bytes[bytes.length - 1] !== 0x20) return Promise.resolve();
    const answer = (...inside: number[]) => this.out.push(0x14, ...inside, 0x10);
    const [asked, low = 0, high = 0] = bytes;
    if (asked === 0x55) this.at = (low | (high << 8)) * 2;
    if (asked === 0x75) answer(...this.signature);
    else if (asked === 0x74) answer(...this.flash.subarray(this.at, this.at + 128));
    else {
      if (asked === 0x64) {
        this.flash.set(bytes.subarray(4, -1), this.at);
        if (this.bad >= 0) this.flash[this.bad] = 0;
        this.written.push(this.at / 128);
      }
      answer();
    }
    return Promise.resolve();
  }
  read(count: number, withinMs: number): Promise<Uint8Array | null> {
    return Promise.resolve(
      this.out.length < count || withinMs < this.lateMs ? null : Uint8Array.from(this.out.splice(0, count)),
    );
  }
  drain(): void {
    this.out = [];
  }
  reset(): Promise<void> {
    this.resets += 1;
    if (this.leaves < 0) {
      this.leaves = this.leavesAgain;
      this.leavesAgain = Number.POSITIVE_INFINITY;
    }
    return Promise.resolve();
  }
}

describe("through a bootloader", () => {
  const image = Uint8Array.from({ length: 300 }, (_, i) => i % 251);
  const watch = () => ({
    shares: [] as string[],
    cancelled: false,
    progress(share: number, words: string) {
      this.shares.push(`${words} ${share.toFixed(2)}`);
    },
  });

  test("a program is written page by page, the first one last, and read back", async () => {
    const chip = new Bootloader();
    const seen = watch();
    expect(await writeByStk500(chip, image, seen)).toEqual({ ok: true });
    expect(chip.resets).toBe(1);
    expect([...chip.flash.subarray(0, 300)]).toEqual([...image]);
    expect(chip.flash[300]).toBe(0xff);
    expect(chip.written).toEqual([0, 1, 2, 0]);
    expect(seen.shares.at(-1)).toBe("checking 1.00");
  });

  test("nothing runs of what was cancelled: its first page is empty", async () => {
    const chip = new Bootloader();
    chip.flash.fill(7);
    const seen = {
      ...watch(),
      get cancelled() {
        return chip.written.length > 1;
      },
    };
    const done = await writeByStk500(chip, image, seen);
    expect(done).toMatchObject({ ok: false });
    expect([...chip.flash.subarray(0, 2)]).toEqual([0xff, 0xff]);
  });

  test.each([
    [300, 3],
    [900, 4],
  ])("one that answers %i ms late each time is waited for longer", async (lateMs, resets) => {
    const chip = new Bootloader();
    chip.lateMs = lateMs;
    expect(await writeByStk500(chip, image, watch())).toEqual({ ok: true });
    expect(chip.resets).toBe(resets);
  });

  test.each([4, 5, 9, 17])("one that stopped waiting after %i questions is asked once more", async (leaves) => {
    const chip = new Bootloader();
    chip.leaves = leaves;
    expect(await writeByStk500(chip, image, watch())).toEqual({ ok: true });
    expect(chip.resets).toBe(2);
    expect([...chip.flash.subarray(0, 300)]).toEqual([...image]);
  });

  test("one that stopped waiting twice is asked a third time, and three times is told", async () => {
    const chip = new Bootloader();
    chip.leaves = 9;
    chip.leavesAgain = 9;
    expect(await writeByStk500(chip, image, watch())).toEqual({ ok: true });
    expect(chip.resets).toBe(3);
    const always = new Bootloader();
    const reset = always.reset.bind(always);
    always.reset = () => {
      always.leaves = 9;
      return reset();
    };
    expect(await writeByStk500(always, image, watch())).toMatchObject({
      why: expect.stringContaining("while it was written"),
    });
    expect(always.resets).toBe(3);
  });

  test("one whose cable is pulled while it is written is told as that", async () => {
    const chip = new Bootloader();
    chip.dies = 9;
    const reset = chip.reset.bind(chip);
    chip.reset = () => (chip.dies < 0 ? Promise.reject(new Error("The port is closed.")) : reset());
    expect(await writeByStk500(chip, image, watch())).toMatchObject({
      why: expect.stringContaining("while it was written"),
    });
  });

  test("one that was cancelled before it answered holds what it held", async () => {
    const silent = new Bootloader();
    silent.dies = 0;
    const seen = {
      ...watch(),
      get cancelled() {
        return silent.resets > 1;
      },
    };
    expect(await writeByStk500(silent, image, seen)).toMatchObject({ why: expect.stringContaining("holds what it") });
    expect(silent.written).toEqual([]);
  });

  test("another chip, one that does not answer, one that stops, one that holds something else: each is said", async () => {
    const other = new Bootloader();
    other.signature = [0x1e, 0x94, 0x0b];
    expect(await writeByStk500(other, image, watch())).toMatchObject({ why: expect.stringContaining("another chip") });
    const silent = new Bootloader();
    silent.dies = 0;
    expect(await writeByStk500(silent, image, watch())).toMatchObject({
      why: expect.stringContaining("does not answer"),
    });
    const stops = new Bootloader();
    stops.dies = 9;
    expect(await writeByStk500(stops, image, watch())).toMatchObject({
      why: expect.stringContaining("while it was written"),
    });
    const worn = new Bootloader();
    worn.bad = 200;
    expect(await writeByStk500(worn, image, watch())).toMatchObject({
      why: expect.stringContaining("not what was sent"),
    });
  });
});

/** A REPL that knows the few things that are asked of it. */
class Repl implements ByteLine {
  readonly files = new Map<string, string>();
  readonly order: string[] = [];
  raw = false;
  restarted = false;
  /** Hashes that it tells wrong. */
  lies = false;
  private open = "";
  private out = "";
  private code = "";

  private say(text: string): void {
    this.out += text;
  }
  write(bytes: Uint8Array): Promise<void> {
    for (const byte of bytes) this.take(String.fromCharCode(byte));
    return Promise.resolve();
  }
  private take(letter: string): void {
    if (letter === "\x01") {
      this.raw = true;
      this.code = "";
      this.say("raw REPL; CTRL-B to exit\r\n>");
    } else if (letter === "\x02") this.raw = false;
    else if (letter === "\x04" && !this.raw) this.restarted = this.order.length > 0;
    else if (letter === "\x04") {
      this.say(`OK${this.run(this.code)}\x04\x04>`);
      this.code = "";
    } else if (this.raw) this.code += letter;
  }
  private run(code: string): string {
    const text = (literal = "") =>
      literal
        .slice(2, -1)
        .replaceAll(/\\x([0-9a-f]{2})/g, (_all, digits: string) => String.fromCharCode(Number.parseInt(digits, 16)));
    const [, opened] = /^f=open\((b'.*?'),'wb'\)$/.exec(code) ?? [];
    if (opened) {
      this.open = text(opened);
      this.files.set(this.open, "");
      this.order.push(this.open);
    }
    const [, piece] = /^f\.write\((b'.*')\)$/.exec(code) ?? [];
    if (piece) this.files.set(this.open, (this.files.get(this.open) ?? "") + text(piece));
    const [, removed] = /os\.remove\((b'.*?')\)/.exec(code) ?? [];
    if (removed) this.files.delete(text(removed));
    const [, asked] = /print\(_hash\((b'.*?')\)\)/.exec(code) ?? [];
    if (!asked) return "";
    const held = this.files.get(text(asked));
    return `${held === undefined ? "" : hashOf(held)}${this.lies ? "x" : ""}\r\n`;
  }
  read(count: number): Promise<Uint8Array | null> {
    if (this.out.length < count) return Promise.resolve(null);
    const got = Uint8Array.from(this.out.slice(0, count), (letter) => letter.charCodeAt(0));
    this.out = this.out.slice(count);
    return Promise.resolve(got);
  }
  drain(): void {
    this.out = "";
  }
  reset(): Promise<void> {
    return Promise.resolve();
  }
}
/** Stands in for SHA-256: what matters here is that both ends tell the same. */
const hashOf = (text: string) =>
  `${text.length} ${[...text].reduce((sum, letter) => (sum * 31 + letter.charCodeAt(0)) % 65_521, 7)}`;

describe("through a REPL", () => {
  const bytes = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
  const hash = (data: Uint8Array) => Promise.resolve(hashOf(String.fromCharCode(...data)));
  const watch = { progress: () => {}, cancelled: false };
  const long = Array.from({ length: 700 }, (_, i) => String.fromCharCode(i % 256)).join("");
  const files = new Map([
    ["main.py", bytes("start()")],
    ["a.py", bytes(long)],
    ["b.py", bytes("it's = '\\'\n")],
  ]);

  test("files arrive byte for byte, what starts them last, and the board begins anew", async () => {
    const repl = new Repl();
    expect(await writeByRawRepl(repl, files, hash, watch)).toEqual({ ok: true });
    for (const [name, data] of files) expect(repl.files.get(name)).toBe(String.fromCharCode(...data));
    expect(repl.order).toEqual(["a.py", "b.py", "main.py"]);
    expect(repl.restarted).toBe(true);
    // The second time only what starts them is written.
    repl.order.length = 0;
    expect(await writeByRawRepl(repl, files, hash, watch)).toEqual({ ok: true });
    expect(repl.order).toEqual(["main.py"]);
  });

  test("of what was cancelled nothing starts; what does not arrive is said", async () => {
    const repl = new Repl();
    repl.files.set("main.py", "old()");
    const cancelled = { ...watch, cancelled: true };
    expect(await writeByRawRepl(repl, files, hash, cancelled)).toMatchObject({ ok: false });
    expect(repl.files.has("main.py")).toBe(false);
    const liar = new Repl();
    liar.lies = true;
    expect(await writeByRawRepl(liar, files, hash, watch)).toMatchObject({
      why: expect.stringContaining("of a.py is not what was sent"),
    });
  });
});
