// Frames of the link: what is taken, what is refused, and traces through binary frames and back.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  MOST_PACKAGE_BYTES,
  readFrame,
  readTraceRows,
  type Trace,
  TraceAssembly,
  toRobotSchema,
  traceHash,
  writeTraceRows,
} from "../../src/index.js";

function trace(rows: number, columns: number): Trace {
  return {
    tickMs: 10,
    events: [{ tick: 1, kind: "note", stepId: "way", data: 0.5 }],
    columns: Array.from({ length: columns }, (_, c) => ({
      id: `c${c}`,
      quantity: `quantity ${c}`,
      unit: "m",
      startTick: 0,
      everyTicks: 1,
      values: Float32Array.from({ length: rows }, (_, r) => c * 1000 + r * 0.25),
    })),
  };
}

describe("frames", () => {
  it("are taken as they are written up", () => {
    expect(readFrame(toRobotSchema, '{"kind":"drive","seq":3,"left":0.5,"right":-1}')).toMatchObject({
      ok: true,
      frame: { kind: "drive", seq: 3 },
    });
  });

  it("beyond their bounds are refused with a sentence that names the place", () => {
    for (const [text, place] of [
      ['{"kind":"drive","seq":3,"left":1.5,"right":0}', "left"],
      [
        `{"kind":"put","ask":1,"name":"x","bytes":${MOST_PACKAGE_BYTES + 1},"sha256":"${"0".repeat(64)}","label":""}`,
        "bytes",
      ],
      ['{"kind":"put","ask":1,"name":"","bytes":3,"sha256":"zz","label":""}', "name"],
      ['{"kind":"fault","ask":1,"fault":"explode"}', "fault"],
    ] as const) {
      const read = readFrame(toRobotSchema, text);
      expect(read.ok).toBe(false);
      if (!read.ok) expect(read.why).toContain(`"${place}"`);
    }
  });

  it("never throw, whatever arrives", () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json()), (text) => {
        const read = readFrame(toRobotSchema, text);
        expect(read.ok || read.why.length > 10).toBe(true);
      }),
    );
  });
});

describe("trace rows", () => {
  it("come through in pieces, bit for bit", () => {
    const sent = trace(1234, 7);
    const assembly = new TraceAssembly({ tickMs: 10, events: sent.events, columns: sent.columns }, 1234);
    for (let row = 0; row < 1234; row += 500) {
      const part = readTraceRows(writeTraceRows(sent, 4, row, 500));
      expect(part?.run).toBe(4);
      expect(part && assembly.take(part)).toBe(true);
    }
    expect(assembly.whole).toBe(true);
    expect(traceHash(assembly.trace())).toBe(traceHash(sent));
  });

  it("are refused when a piece is missing, too long or of another width", () => {
    const sent = trace(20, 3);
    const assembly = new TraceAssembly({ tickMs: 10, events: [], columns: sent.columns }, 20);
    const second = readTraceRows(writeTraceRows(sent, 1, 10, 10));
    expect(second && assembly.take(second)).toBe(false);
    const wide = readTraceRows(writeTraceRows(trace(20, 4), 1, 0, 10));
    expect(wide && assembly.take(wide)).toBe(false);
    expect(readTraceRows(writeTraceRows(sent, 1, 0, 10).slice(0, -1))).toBeNull();
    expect(readTraceRows(new Uint8Array(3))).toBeNull();
  });

  it("never throw on other bytes", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        const read = readTraceRows(bytes);
        expect(read === null || read.values.length === read.rows * read.columns).toBe(true);
      }),
    );
  });
});
