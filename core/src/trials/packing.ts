// Traces as bytes: a JSON header, then the columns as little-endian float32, deflated as a whole.
//
// Layout before deflating: 4 bytes header length (unsigned, little-endian), header (UTF-8 JSON), padding to
// a multiple of 4, columns one after another.
import { deflateSync, inflateSync } from "fflate";
import { z } from "zod";
import type { Trace } from "./trace.js";

export const TRACE_FORMAT = 1;
/** Largest packed trace, bytes. */
export const LARGEST_TRACE = 10 * 1024 * 1024;
const LARGEST_UNPACKED = 64 * 1024 * 1024;

const headerSchema = z.object({
  format: z.literal(TRACE_FORMAT),
  tickMs: z.number().positive(),
  columns: z
    .array(
      z.object({
        id: z.string(),
        quantity: z.string(),
        unit: z.string(),
        startTick: z.number().int(),
        everyTicks: z.number().int().positive(),
        length: z.number().int().nonnegative(),
      }),
    )
    .max(256),
  events: z.array(
    z.object({ tick: z.number().int(), kind: z.string(), stepId: z.string(), data: z.union([z.string(), z.number()]) }),
  ),
});

/** UTF-8 bytes of a text, without TextEncoder (core has no platform). */
function utf8(text: string): Uint8Array {
  const escaped = encodeURIComponent(text);
  const bytes: number[] = [];
  for (let i = 0; i < escaped.length; i += 1) {
    if (escaped[i] === "%") {
      bytes.push(Number.parseInt(escaped.slice(i + 1, i + 3), 16));
      i += 2;
    } else bytes.push(escaped.charCodeAt(i));
  }
  return Uint8Array.from(bytes);
}

function fromUtf8(bytes: Uint8Array): string {
  let escaped = "";
  for (const byte of bytes) escaped += `%${byte.toString(16).padStart(2, "0")}`;
  return decodeURIComponent(escaped);
}

export function packTrace(trace: Trace): Uint8Array {
  const columns = trace.columns.map(({ values, ...info }) => ({ ...info, length: values.length }));
  const header = utf8(JSON.stringify({ format: TRACE_FORMAT, tickMs: trace.tickMs, columns, events: trace.events }));
  const dataStart = 4 + Math.floor((header.length + 3) / 4) * 4;
  const total = trace.columns.reduce((sum, column) => sum + column.values.length * 4, dataStart);
  const bytes = new Uint8Array(total);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, header.length, true);
  bytes.set(header, 4);
  let at = dataStart;
  for (const { values } of trace.columns) {
    for (let i = 0; i < values.length; i += 1, at += 4) view.setFloat32(at, values[i] as number, true);
  }
  return deflateSync(bytes, { level: 6 });
}

export type TraceReading = { ok: true; trace: Trace } | { ok: false; message: string };

/** @param packed - bytes from anywhere; sizes are checked before anything is made */
export function unpackTrace(packed: Uint8Array): TraceReading {
  const bad = (message: string): TraceReading => ({ ok: false, message: `this is not a trace: ${message}` });
  if (packed.length > LARGEST_TRACE) return bad("it is larger than 10 MB");
  try {
    const bytes = inflateSync(packed, { out: new Uint8Array(Math.min(LARGEST_UNPACKED, packed.length * 1100 + 1024)) });
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const headerLength = view.getUint32(0, true);
    const header = headerSchema.safeParse(JSON.parse(fromUtf8(bytes.slice(4, 4 + headerLength))));
    if (!header.success) return bad("its header is not as it should be");
    let at = 4 + Math.floor((headerLength + 3) / 4) * 4;
    const columns = header.data.columns.map(({ length, ...info }) => {
      const values = new Float32Array(length);
      for (let i = 0; i < length; i += 1, at += 4) values[i] = view.getFloat32(at, true);
      return { ...info, values };
    });
    return { ok: true, trace: { tickMs: header.data.tickMs, columns, events: header.data.events } };
  } catch {
    return bad("its bytes are damaged");
  }
}
