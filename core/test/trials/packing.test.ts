// Traces from elsewhere: held to limits before anything is made of them; and UTF-8 against the platform's own.

import { deflateRawSync } from "node:zlib";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { packTrace, type Trace, traceFault, unpackTrace } from "../../src/index.js";
import { MOST_EVENTS } from "../../src/trials/packing.js";
import { fromUtf8, toUtf8 } from "../../src/trials/utf8.js";
import { anyText } from "../support/anyText.js";

describe("UTF-8", () => {
  test("is written and read as the platform does it", () => {
    fc.assert(
      fc.property(anyText(300), (text) => {
        expect([...toUtf8(text)]).toEqual([...new TextEncoder().encode(text)]);
        expect(fromUtf8(toUtf8(text))).toBe(new TextDecoder().decode(new TextEncoder().encode(text)));
      }),
    );
  });

  test("that is none is told from UTF-8 as the platform does it", () => {
    const strict = new TextDecoder("utf-8", { fatal: true, ignoreBOM: true });
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 12 }), (bytes) => {
        let expected: string | null = null;
        try {
          expected = strict.decode(bytes);
        } catch {
          // not UTF-8
        }
        expect(fromUtf8(bytes)).toBe(expected);
      }),
      { numRuns: 3000 },
    );
  });
});

/** A packed trace of a header and bytes after it. */
function packed(header: unknown, data = new Uint8Array(0)): Uint8Array {
  const head = Buffer.from(typeof header === "string" ? header : JSON.stringify(header));
  const bytes = new Uint8Array(4 + Math.ceil(head.length / 4) * 4 + data.length);
  new DataView(bytes.buffer).setUint32(0, head.length, true);
  bytes.set(head, 4);
  bytes.set(data, bytes.length - data.length);
  return deflateRawSync(bytes);
}

const column = (length: number) => ({ id: "x", quantity: "x", unit: "m", startTick: 0, everyTicks: 1, length });
const event = { tick: 1, kind: "note", stepId: "1", data: "a" };
const good = { format: 1, tickMs: 10, columns: [column(2)], events: [event] };

describe("a trace from elsewhere", () => {
  test("that is sound is taken", () => {
    expect(unpackTrace(packed(good, new Uint8Array(8)))).toMatchObject({ ok: true });
  });

  test.each<[string, Uint8Array, string]>([
    ["columns longer than what follows", packed(good, new Uint8Array(4)), "as long as"],
    ["more after its columns", packed(good, new Uint8Array(800)), "as long as"],
    ["columns of absurd length", packed({ ...good, columns: [column(4e9)] }), "header"],
    ["too many columns", packed({ ...good, columns: Array.from({ length: 600 }, () => column(0)) }), "header"],
    ["too many events", packed({ ...good, columns: [], events: Array(MOST_EVENTS + 1).fill(event) }), "header"],
    ["an event at no tick", packed({ ...good, events: [{ ...event, tick: -1 }] }, new Uint8Array(8)), "header"],
    ["an event of endless text", packed({ ...good, events: [{ ...event, data: "x".repeat(3000) }] }), "header"],
    ["a header of spaces, 60 MB of them", packed(" ".repeat(60 * 1024 * 1024)), "40 MB"],
    ["a header that says it is longer than all", deflateRawSync(new Uint8Array([255, 255, 255, 127])), "8 MB"],
    ["bytes that are no UTF-8", packed("", new Uint8Array(0)).slice(0, 3), "damaged"],
  ])("with %s is refused in words", (_, bytes, words) => {
    const read = unpackTrace(bytes);
    expect(read).toMatchObject({ ok: false, message: expect.stringContaining("this is not a trace") });
    if (!read.ok) expect(read.message).toContain(words);
  });

  test("is judged alike with and without making its columns", () => {
    const trace: Trace = {
      tickMs: 10,
      columns: [{ ...column(3), values: Float32Array.of(1, 2, 3) }],
      events: [{ ...event, data: "\ud800 half a sign" }],
    };
    const bytes = packTrace(trace);
    const read = unpackTrace(bytes);
    expect(read.ok && read.trace.events[0]?.data).toBe("\ud800 half a sign");
    expect(traceFault(new Uint8Array(2))).toContain("damaged");
  });
});
