// Frames on a serial line, and what a board says and is told in them.
import { describe, expect, test } from "vitest";
import { type BoardOrder, readBoardWord, writeBoardOrder } from "../../src/link/serial/boardFrames.js";
import { crc16, SerialReader, writeSerialFrame } from "../../src/link/serial/framing.js";
import { randomStream } from "../../src/math/random.js";

const bytes = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));

test("the checksum is the published one of CRC-16 with 0x1021 and ones", () => {
  expect(crc16(bytes("123456789"))).toBe(0x29b1);
  expect(crc16(new Uint8Array(0))).toBe(0xffff);
});

describe("a frame", () => {
  test.each([
    { kind: 6, payload: [] },
    { kind: 1, payload: [0, 0, 0] },
    { kind: 255, payload: Array.from({ length: 251 }, (_, i) => (i % 255) + 1) },
    { kind: 9, payload: Array.from({ length: 200 }, () => 0) },
  ])("of kind $kind comes back as it went, and has no zero inside", ({ kind, payload }) => {
    const frame = writeSerialFrame(kind, Uint8Array.from(payload));
    expect(frame[0]).toBe(0);
    expect(frame[frame.length - 1]).toBe(0);
    expect(frame.subarray(1, -1).includes(0)).toBe(false);
    const reader = new SerialReader();
    expect(reader.take(frame)).toEqual([{ kind, payload: Uint8Array.from(payload) }]);
    expect(reader.bad).toBe(0);
  });

  test("is coded as its paper says: a count stands for each zero", () => {
    const frame = writeSerialFrame(0x11, Uint8Array.of(0x22, 0x00, 0x33));
    const sum = crc16(Uint8Array.of(0x11, 0x22, 0x00, 0x33));
    expect([...frame]).toEqual([0, 3, 0x11, 0x22, 4, 0x33, sum & 0xff, sum >> 8, 0]);
  });

  test("may come in any pieces", () => {
    const frames = [1, 2, 3].map((kind) => writeSerialFrame(kind, Uint8Array.of(kind, 0, kind)));
    const all = frames.flatMap((frame) => [...frame]);
    const reader = new SerialReader();
    const got = all.flatMap((byte) => reader.take(Uint8Array.of(byte)));
    expect(got.map(({ kind }) => kind)).toEqual([1, 2, 3]);
  });

  test("that is longer than any is refused, not read", () => {
    expect(() => writeSerialFrame(1, new Uint8Array(252))).toThrow(RangeError);
    const reader = new SerialReader();
    expect(reader.take(Uint8Array.from([...Array.from({ length: 5000 }, () => 1), 0]))).toEqual([]);
    expect(reader.bad).toBe(1);
  });

  test("100,000 of which three in four are damaged: all whole ones are read, and fewer than ten false ones", () => {
    const chance = randomStream(3);
    const below = (n: number) => Math.floor(chance.uniform() * n);
    const reader = new SerialReader();
    let wrong = 0;
    let read = 0;
    let whole = 0;
    for (let i = 0; i < 100_000; i += 1) {
      const payload = Uint8Array.from({ length: below(40) }, () => below(256));
      const frame = writeSerialFrame(below(256), payload);
      const how = below(4);
      const at = 1 + below(frame.length - 2);
      // Cut, one byte changed, two frames run together, or as it is.
      const sent = how === 0 ? frame.subarray(0, at) : Uint8Array.from(frame);
      if (how === 1) sent[at] = (sent[at] as number) ^ (1 + below(255));
      if (how === 3) whole += 1;
      for (const got of reader.take(
        how === 2 ? Uint8Array.from([...frame.subarray(0, at), ...frame.subarray(at + 1)]) : sent,
      )) {
        read += 1;
        readBoardWord(got);
        if (got.payload.length === payload.length && got.payload.every((byte, k) => byte === payload[k])) continue;
        wrong += 1;
      }
    }
    expect(read).toBeGreaterThanOrEqual(whole);
    // A sum of 16 bits lets one in 65,536 of the damaged ones through.
    expect(wrong).toBeLessThan(10);
  });
});

describe("what is told a board", () => {
  const orders: [BoardOrder, number[]][] = [
    [{ kind: "hello" }, [1]],
    [{ kind: "run", ask: 7, limitTicks: 30 }, [2, 7, 30]],
    [{ kind: "halt", ask: 9 }, [3, 9]],
    [{ kind: "drive", seq: 258, left: 1, right: -1 }, [5, 2, 1, 127, 129]],
    [{ kind: "drive", seq: 0, left: 5, right: -0.5 }, [5, 0, 0, 127, 193]],
    [{ kind: "beat" }, [6]],
    [{ kind: "tell", ask: 1, everyTicks: 2 }, [7, 1, 2]],
    [
      { kind: "hands", seq: 1, handset: { sticks: [1, 0, -1, 0.5], levels: [0, 1, 0.5, 2], buttons: 0x8001 } },
      [4, 1, 0, 127, 0, 129, 64, 0, 255, 128, 255, 1, 128],
    ],
  ];
  test.each(orders)("%o", (order, plain) => {
    const [frame] = new SerialReader().take(writeBoardOrder(order));
    expect([frame?.kind, ...(frame?.payload ?? [])]).toEqual(plain);
  });
});

describe("what a board says", () => {
  const word = (kind: number, ...payload: number[]) => readBoardWord({ kind, payload: Uint8Array.from(payload) });
  const f32 = (...values: number[]) => [...new Uint8Array(Float32Array.from(values).buffer)];

  test("its greeting", () => {
    expect(word(129, 1, 0x78, 0x56, 0x34, 0x12, ...bytes("Fog"))).toEqual({
      kind: "greeting",
      speaks: 1,
      version: 0x12345678,
      robot: "Fog",
    });
  });

  test("its state, with why the last run ended", () => {
    expect(word(130, 1, 0, 0, 0x40, 0x1f, 3, 0)).toEqual({
      kind: "state",
      doing: "running",
      why: null,
      hand: "itself",
      packVolts: 8,
      lateTicks: 3,
    });
    expect(word(130, 0, 14, 1, 0, 0, 0, 0)).toMatchObject({ doing: "idle", why: "silent", hand: "silent" });
  });

  test("where it reckons to be", () => {
    const found = word(
      131,
      ...[100, 0, 0, 0],
      ...f32(0.5, 0.1, 1.25, -0.5),
      ...f32(0.2, 0.6),
      ...[255, 255, 255, 255],
      ...f32(0.25, 0.5),
      ...[1, 0, 0, 0],
      ...f32(7.5),
      ...[9, 0, 255, 255],
    );
    expect(found).toMatchObject({
      tick: 100,
      xM: 1.25,
      yM: -0.5,
      headingRad: 0.5,
      counts: [-1, 1],
      seq: 9,
      step: null,
    });
    if (found?.kind === "pose") expect(found.speedMS[0]).toBeCloseTo(0.2, 6);
  });

  test("is nothing when it is too short, too long, of no kind, or not a number", () => {
    expect(word(131, 1, 2, 3)).toBeNull();
    expect(word(130, 1, 0, 0, 0, 0, 0, 0, 0)).toBeNull();
    expect(word(130, 9, 0, 0, 0, 0, 0, 0)).toBeNull();
    expect(word(77)).toBeNull();
    expect(word(131, ...[0, 0, 0, 0], ...f32(Number.NaN, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0))).toBeNull();
  });

  test("a text that was cut in the middle of a letter is told without it", () => {
    expect(word(134, 0, ...bytes("a = "), 0xc3)).toEqual({ kind: "said", what: "note", text: "a = " });
    expect(word(134, 1, 0xc3, 0xa9)).toEqual({ kind: "said", what: "show", text: "é" });
  });
});
