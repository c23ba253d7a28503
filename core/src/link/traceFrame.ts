// Binary frames of the link: rows of a trace as float32, little-endian, after a header of four uint32:
// run, first row, rows, columns. The columns' names went before in a `trace` frame.
import type { Trace } from "../trials/trace.js";

const HEADER_BYTES = 16;
const MOST_COLUMNS = 256;

interface TraceRows {
  readonly run: number;
  readonly firstRow: number;
  readonly rows: number;
  readonly columns: number;
  /** rows × columns, row by row. */
  readonly values: Float32Array;
}

/** @returns bytes of the rows from `firstRow` on, `rows` of them at most */
export function writeTraceRows(trace: Trace, run: number, firstRow: number, rows: number): Uint8Array {
  const columns = trace.columns.length;
  const length = trace.columns[0]?.values.length ?? 0;
  const count = Math.max(0, Math.min(rows, length - firstRow));
  const bytes = new Uint8Array(HEADER_BYTES + 4 * count * columns);
  const view = new DataView(bytes.buffer);
  [run, firstRow, count, columns].forEach((value, i) => {
    view.setUint32(4 * i, value, true);
  });
  let at = HEADER_BYTES;
  for (let row = firstRow; row < firstRow + count; row += 1)
    for (const { values } of trace.columns) {
      view.setFloat32(at, values[row] as number, true);
      at += 4;
    }
  return bytes;
}

/** @returns null when the bytes are not such a frame */
export function readTraceRows(bytes: Uint8Array): TraceRows | null {
  if (bytes.length < HEADER_BYTES) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [run, firstRow, rows, columns] = [0, 4, 8, 12].map((at) => view.getUint32(at, true)) as [
    number,
    number,
    number,
    number,
  ];
  if (columns === 0 || columns > MOST_COLUMNS || bytes.length !== HEADER_BYTES + 4 * rows * columns) return null;
  const values = new Float32Array(rows * columns);
  for (let i = 0; i < values.length; i += 1) values[i] = view.getFloat32(HEADER_BYTES + 4 * i, true);
  return { run, firstRow, rows, columns, values };
}

/** Columns put together from rows as they come; null once something does not fit. */
export class TraceAssembly {
  private readonly columns: Float32Array[];
  private filled = 0;

  constructor(
    private readonly header: Omit<Trace, "columns"> & {
      readonly columns: readonly { readonly id: string; readonly quantity: string; readonly unit: string }[];
    },
    readonly rows: number,
  ) {
    this.columns = header.columns.map(() => new Float32Array(rows));
  }

  /** @returns whether the rows followed on those before and fit */
  take(part: TraceRows): boolean {
    const { columns } = this;
    if (part.firstRow !== this.filled || part.columns !== columns.length || part.firstRow + part.rows > this.rows)
      return false;
    for (let row = 0; row < part.rows; row += 1)
      for (let column = 0; column < columns.length; column += 1)
        (columns[column] as Float32Array)[part.firstRow + row] = part.values[row * columns.length + column] as number;
    this.filled += part.rows;
    return true;
  }

  get whole(): boolean {
    return this.filled === this.rows;
  }

  trace(): Trace {
    return {
      tickMs: this.header.tickMs,
      events: this.header.events,
      columns: this.header.columns.map((info, i) => ({
        ...info,
        startTick: 0,
        everyTicks: 1,
        values: this.columns[i] as Float32Array,
      })),
    };
  }
}
