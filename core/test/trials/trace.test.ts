import { describe, expect, test } from "vitest";
import { LARGEST_TRACE, packTrace, type Trace, traceHash, traceToCsv, unpackTrace } from "../../src/index.js";
import { TraceRecorder } from "../../src/trials/trace.js";
import { runSteps } from "../support/demo.js";

const { trace } = runSteps('go 20 cm\nnote place = "café"');

describe("traces", () => {
  test("packing and unpacking gives the same trace", () => {
    const read = unpackTrace(packTrace(trace));
    expect(read.ok && traceHash(read.trace)).toBe(traceHash(trace));
    expect(read.ok && read.trace).toEqual(trace);
  });

  test("a second of driving packs into a few kilobytes", () => {
    expect(packTrace(trace).length).toBeLessThan(16_000);
  });

  test.each<[string, Uint8Array]>([
    ["nothing", new Uint8Array()],
    ["noise", Uint8Array.from({ length: 300 }, (_, i) => (i * 97) % 256)],
    ["a cut trace", packTrace(trace).slice(0, 500)],
    ["too much", new Uint8Array(LARGEST_TRACE + 1)],
  ])("%s is refused", (_, bytes) => {
    expect(unpackTrace(bytes)).toMatchObject({ ok: false, message: expect.stringContaining("this is not a trace") });
  });

  test("the hash sees every number and event", () => {
    const changed = (change: (copy: Trace) => void) => {
      const copy = structuredClone(trace);
      change(copy);
      return traceHash(copy);
    };
    expect(changed(() => {})).toBe(traceHash(trace));
    expect(
      changed((copy) => {
        (copy.columns[2] as Trace["columns"][0]).values[7] = 1;
      }),
    ).not.toBe(traceHash(trace));
    expect(
      changed((copy) => {
        (copy.events as unknown[]).pop();
      }),
    ).not.toBe(traceHash(trace));
  });

  test("the recorder grows and hands out rows as they come", () => {
    const recorder = new TraceRecorder([{ id: "a", quantity: "a", unit: "m" }]);
    for (let i = 0; i < 3000; i += 1) {
      recorder.put(0, i);
      recorder.next();
    }
    expect(recorder.since(2998)[0]).toEqual(Float32Array.of(2998, 2999));
    expect(recorder.finish(10, []).columns[0]?.values).toHaveLength(3000);
  });

  test("CSV has a header with units, CRLF, one row a tick", () => {
    const lines = traceToCsv(trace).split("\r\n");
    expect(lines[0]).toMatch(/,bumper.pressed \[1\],eye.distance \[m\],/);
    expect(lines[0]?.split(",bumper")[0]).toBe(
      "t [ms],x [m],y [m],heading [rad],leftSpeed [m/s],rightSpeed [m/s],leftDuty [1],rightDuty [1],gyroHeading [rad],battery [V],head.angle [rad]",
    );
    expect(lines).toHaveLength((trace.columns[0]?.values.length ?? 0) + 2);
    expect(lines[2]?.split(",")[0]).toBe("10");
  });
});
