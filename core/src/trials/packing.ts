// Traces as bytes: a JSON header, then the columns as little-endian float32, deflated as a whole.
//
// Layout before deflating: 4 bytes header length (unsigned, little-endian), header (UTF-8 JSON), padding to
// a multiple of 4, columns one after another. Bytes from elsewhere are held to limits before anything is made of
// them: a few kilobytes can inflate to gigabytes.
import { deflateSync, Inflate } from "fflate";
import * as z from "zod";
import type { Trace, TraceEvent } from "./trace.js";
import { fromUtf8, toUtf8 } from "./utf8.js";

export const TRACE_FORMAT = 1;
/** Largest packed trace, bytes. */
export const LARGEST_TRACE = 10 * 1024 * 1024;
/** Largest trace once inflated: ten minutes of 170 columns, bytes. */
export const LARGEST_UNPACKED = 40 * 1024 * 1024;
/** Largest header: as many events as the longest run has, bytes. */
const LARGEST_HEADER = 8 * 1024 * 1024;
/** Twice the steps and all the notes that a run writes down. */
export const MOST_EVENTS = 50_000;
const MOST_TRACE_COLUMNS = 512;
/** Rows of a run of ten minutes and its settling, with room. */
const MOST_TRACE_ROWS = 70_000;
const LONGEST_ID = 200;
const LONGEST_NOTE = 2000;
/** Packed bytes inflated at a time: deflate makes at most about 1,030 times as many of them. */
const PIECE_BYTES = 2048;

const word = z.string().max(LONGEST_ID);
const tick = z.number().int().nonnegative().max(MOST_TRACE_ROWS);
const columnSchema = z.object({
  id: word,
  quantity: word,
  unit: word,
  startTick: tick,
  everyTicks: z.number().int().positive().max(MOST_TRACE_ROWS),
  length: tick,
});
const headerSchema = z.object({
  format: z.literal(TRACE_FORMAT),
  tickMs: z.number().positive().max(1000),
  columns: z.array(columnSchema).max(MOST_TRACE_COLUMNS),
  events: z.array(z.unknown()).max(MOST_EVENTS),
});
type Header = Omit<z.infer<typeof headerSchema>, "events"> & { readonly events: readonly TraceEvent[] };

export function packTrace(trace: Trace): Uint8Array {
  const columns = trace.columns.map(({ values, ...info }) => ({ ...info, length: values.length }));
  const header = toUtf8(JSON.stringify({ format: TRACE_FORMAT, tickMs: trace.tickMs, columns, events: trace.events }));
  const dataStart = dataStartOf(header.length);
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

function dataStartOf(headerLength: number): number {
  return 4 + Math.floor((headerLength + 3) / 4) * 4;
}

type TraceReading = { ok: true; trace: Trace } | { ok: false; message: string };
type HeaderReading = { ok: true; header: Header } | { ok: false; message: string };

function bad(message: string): { ok: false; message: string } {
  return { ok: false, message: `this is not a trace: ${message}` };
}

/** Events by hand: a schema takes ten times as long for fifty thousand of them. */
function isEvent(value: unknown): value is TraceEvent {
  if (typeof value !== "object" || value === null) return false;
  const { tick: at, kind, stepId, data } = value as Record<string, unknown>;
  return (
    typeof at === "number" &&
    at >= 0 &&
    at <= MOST_TRACE_ROWS &&
    Math.floor(at) === at &&
    typeof kind === "string" &&
    kind.length <= LONGEST_ID &&
    typeof stepId === "string" &&
    stepId.length <= LONGEST_ID &&
    (typeof data === "number" || (typeof data === "string" && data.length <= LONGEST_NOTE))
  );
}

function readHeader(bytes: Uint8Array, headerLength: number): HeaderReading {
  const text = fromUtf8(bytes.subarray(4, 4 + headerLength));
  if (text === null) return bad("its header is not UTF-8");
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return bad("its header is not JSON");
  }
  const read = headerSchema.safeParse(value);
  if (!read.success || !read.data.events.every(isEvent)) return bad("its header is not as it should be");
  return { ok: true, header: { ...read.data, events: read.data.events as TraceEvent[] } };
}

/** Header of inflated bytes, held to the columns that follow it. */
function headerOf(bytes: Uint8Array): HeaderReading {
  if (bytes.length > LARGEST_UNPACKED) return bad("it inflates to more than 40 MB");
  if (bytes.length < 4) return bad("its bytes are damaged");
  const headerLength = new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0, true);
  if (headerLength > LARGEST_HEADER) return bad("its header is larger than 8 MB");
  if (4 + headerLength > bytes.length) return bad("its bytes are damaged");
  const read = readHeader(bytes, headerLength);
  if (!read.ok) return read;
  const data = read.header.columns.reduce((sum, { length }) => sum + 4 * length, dataStartOf(headerLength));
  return data === bytes.length ? read : bad("its columns are not as long as its header says");
}

/** Whether inflated bytes are a trace; its columns are not copied. @returns null, or why not */
export function traceFault(bytes: Uint8Array): string | null {
  const read = headerOf(bytes);
  return read.ok ? null : read.message;
}

/** Inflates piece by piece, and stops at the limit. @returns null beyond it, or for damaged bytes */
function inflate(packed: Uint8Array): Uint8Array | null {
  const parts: Uint8Array[] = [];
  let size = 0;
  let whole = false;
  const inflater = new Inflate((part, final) => {
    size += part.length;
    parts.push(part);
    whole = final;
  });
  try {
    for (let at = 0; at < packed.length && size <= LARGEST_UNPACKED; at += PIECE_BYTES)
      inflater.push(packed.subarray(at, at + PIECE_BYTES), at + PIECE_BYTES >= packed.length);
  } catch {
    return null;
  }
  if (!whole || size > LARGEST_UNPACKED) return null;
  const bytes = new Uint8Array(size);
  let at = 0;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  return bytes;
}

/** @param packed - bytes from anywhere; sizes are checked before anything is made */
export function unpackTrace(packed: Uint8Array): TraceReading {
  if (packed.length > LARGEST_TRACE) return bad("it is larger than 10 MB");
  const bytes = inflate(packed);
  if (!bytes) return bad("its bytes are damaged, or inflate to more than 40 MB");
  const read = headerOf(bytes);
  if (!read.ok) return read;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = dataStartOf(view.getUint32(0, true));
  const columns = read.header.columns.map(({ length, ...info }) => {
    const values = new Float32Array(length);
    for (let i = 0; i < length; i += 1, at += 4) values[i] = view.getFloat32(at, true);
    return { ...info, values };
  });
  return { ok: true, trace: { tickMs: read.header.tickMs, columns, events: read.header.events } };
}
