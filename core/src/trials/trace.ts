// A trace: what a run looked like, tick by tick, in columns of float32, and the fingerprint of all of it.
import { fingerprint } from "../math/hash.js";
import { PI } from "../math/trig.js";

export interface ColumnInfo {
  readonly id: string;
  readonly quantity: string;
  /** SI unit of the numbers. */
  readonly unit: string;
}

interface TraceColumn extends ColumnInfo {
  readonly startTick: number;
  readonly everyTicks: number;
  readonly values: Float32Array;
}

export interface TraceEvent {
  readonly tick: number;
  readonly kind: string;
  readonly stepId: string;
  readonly data: string | number;
}

export interface Trace {
  readonly tickMs: number;
  readonly columns: readonly TraceColumn[];
  readonly events: readonly TraceEvent[];
}

/** Columns of a rehearsal, in order. x, y and heading are the robot's true pose in the field frame. */
export const RUN_COLUMNS: readonly ColumnInfo[] = [
  { id: "x", quantity: "position x", unit: "m" },
  { id: "y", quantity: "position y", unit: "m" },
  { id: "heading", quantity: "heading", unit: "rad" },
  { id: "leftSpeed", quantity: "left wheel speed", unit: "m/s" },
  { id: "rightSpeed", quantity: "right wheel speed", unit: "m/s" },
  { id: "leftDuty", quantity: "left duty", unit: "1" },
  { id: "rightDuty", quantity: "right duty", unit: "1" },
  { id: "gyroHeading", quantity: "gyro heading", unit: "rad" },
  { id: "battery", quantity: "battery voltage", unit: "V" },
];

/** How a column is called for people: what it measures in words; a sensor's reading as missions name it. */
export function columnName({ id, quantity }: ColumnInfo): string {
  const name = quantity === "" ? id : quantity;
  return name.charAt(0).toUpperCase() + name.slice(1);
}

/** Unit people read a column in, and what its SI values are multiplied with. Plain numbers have none. */
export function columnUnit({ id, unit }: ColumnInfo): { readonly unit: string; readonly perSi: number } {
  if (unit === "rad" || unit === "rad/s") return { unit: unit === "rad" ? "deg" : "deg/s", perSi: 180 / PI };
  if (/\.light$|Duty$/.test(id)) return { unit: "%", perSi: 100 };
  if (unit === "m" && /\.distance$/.test(id)) return { unit: "cm", perSi: 100 };
  return { unit: unit === "1" ? "" : unit, perSi: 1 };
}

/** Columns of one load's place, after those of the run. */
export function loadColumns(name: string): ColumnInfo[] {
  return [
    { id: `load:${name}:x`, quantity: `${name}, position x`, unit: "m" },
    { id: `load:${name}:y`, quantity: `${name}, position y`, unit: "m" },
    { id: `load:${name}:heading`, quantity: `${name}, heading`, unit: "rad" },
  ];
}

const FIRST_TICKS = 4096;

/** Collects rows tick by tick; memory doubles when full. */
export class TraceRecorder {
  count = 0;
  private capacity = FIRST_TICKS;
  private columns: Float32Array[];

  constructor(private readonly infos: readonly ColumnInfo[]) {
    this.columns = infos.map(() => new Float32Array(FIRST_TICKS));
  }

  /** Sets one number of the row being written. */
  put(column: number, value: number): void {
    (this.columns[column] as Float32Array)[this.count] = value;
  }

  next(): void {
    this.count += 1;
    if (this.count < this.capacity) return;
    this.capacity *= 2;
    this.columns = this.columns.map((old) => {
      const grown = new Float32Array(this.capacity);
      grown.set(old);
      return grown;
    });
  }

  /** Rows from `from` on, one array per column; for drawing a run while it goes on. */
  since(from: number): Float32Array[] {
    return this.columns.map((column) => column.slice(from, this.count));
  }

  finish(tickMs: number, events: readonly TraceEvent[]): Trace {
    const columns = this.infos.map((info, i) => ({
      ...info,
      startTick: 0,
      everyTicks: 1,
      values: (this.columns[i] as Float32Array).slice(0, this.count),
    }));
    return { tickMs, columns, events };
  }
}

/** 16 hexadecimal digits that differ when any number or event differs. */
export function traceHash(trace: Trace): string {
  const print = fingerprint();
  for (const column of trace.columns) {
    print.text(column.id);
    print.words(new Uint32Array(column.values.buffer, column.values.byteOffset, column.values.length));
  }
  for (const event of trace.events) print.text(`${event.tick} ${event.kind} ${event.stepId} ${event.data}`);
  return print.hex();
}

export function traceColumn(trace: Trace, id: string): Float32Array | null {
  return trace.columns.find((column) => column.id === id)?.values ?? null;
}
