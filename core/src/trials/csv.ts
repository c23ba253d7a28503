// Traces as CSV (RFC 4180): a header with units, CRLF line ends.
import { plainDigits } from "../units/quantity.js";
import type { Trace } from "./trace.js";

/** One row a tick: time in ms, then every column in SI units. */
export function traceToCsv(trace: Trace): string {
  const { columns, tickMs } = trace;
  const rows = [["t [ms]", ...columns.map((column) => `${column.id} [${column.unit}]`)].join(",")];
  const length = columns[0]?.values.length ?? 0;
  for (let i = 0; i < length; i += 1) {
    rows.push([String(i * tickMs), ...columns.map((column) => plainDigits(column.values[i] as number, 6))].join(","));
  }
  return `${rows.join("\r\n")}\r\n`;
}
