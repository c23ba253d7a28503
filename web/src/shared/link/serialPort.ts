// Serial ports as this page uses them: the browser's own (Web Serial), and one of the same shape for a board on this computer.
import { BOARD_PROTOCOL, type FromBench, fromBenchSchema, type ToBench } from "@giddy-pebble/core";

export type BoardKind = "avr" | "micropython";
export type BenchOrder = ToBench extends infer T ? (T extends { ask: number } ? Omit<T, "ask"> : never) : never;

/** As much of the browser's SerialPort as is used (W3C, Web Serial API). */
export interface PagePort {
  open(options: { baudRate: number }): Promise<void>;
  close(): Promise<void>;
  readonly readable: ReadableStream<Uint8Array> | null;
  readonly writable: WritableStream<Uint8Array> | null;
  setSignals(signals: { dataTerminalReady?: boolean; requestToSend?: boolean }): Promise<void>;
}

interface PageSerial {
  requestPort(): Promise<PagePort>;
  getPorts(): Promise<PagePort[]>;
}

/** The browser's serial ports; null where it has none. */
export function pageSerial(): PageSerial | null {
  return (navigator as { serial?: PageSerial }).serial ?? null;
}

/** For a board of this computer to answer what is asked beside its line, ms. */
const BENCH_MS = 5000;

/** The line to a board on this computer: bytes go over a WebSocket, and beside them what hands do. */
export class BenchPort implements PagePort {
  readable: ReadableStream<Uint8Array> | null = null;
  writable: WritableStream<Uint8Array> | null = null;
  /** Told what the bench says unasked. */
  onTold: (frame: FromBench) => void = () => {};
  private socket: WebSocket | null = null;
  private readonly waiting = new Map<number, (frame: FromBench | null) => void>();
  private nextAsk = 1;
  private ready = true;

  constructor(private readonly url: string) {}

  open(): Promise<void> {
    const socket = new WebSocket(this.url, BOARD_PROTOCOL);
    this.socket = socket;
    socket.binaryType = "arraybuffer";
    this.readable = new ReadableStream<Uint8Array>({
      start: (reader) => {
        socket.onmessage = ({ data }) => {
          if (typeof data === "string") this.told(data);
          else reader.enqueue(new Uint8Array(data));
        };
        socket.onclose = ({ reason }) => {
          for (const settle of this.waiting.values()) settle(null);
          reader.error(new Error(reason || "The line to the board is gone."));
        };
      },
    });
    this.writable = new WritableStream<Uint8Array>({
      write: (bytes) => {
        if (socket.readyState === WebSocket.OPEN) socket.send(bytes as Uint8Array<ArrayBuffer>);
      },
    });
    return new Promise((resolve, reject) => {
      socket.onopen = () => resolve();
      socket.onerror = () => reject(new Error("The boards of this computer do not answer."));
    });
  }

  close(): Promise<void> {
    this.socket?.close();
    return Promise.resolve();
  }

  /** The board's reset line hangs on this signal, as on most boards. */
  async setSignals({ dataTerminalReady: ready }: { dataTerminalReady?: boolean }): Promise<void> {
    if (ready === undefined) return;
    const falls = this.ready && !ready;
    this.ready = ready;
    if (falls) await this.bench({ do: "reset" });
  }

  /** Asks for what hands do. @returns null when nothing answered */
  bench(what: BenchOrder): Promise<FromBench | null> {
    const ask = this.nextAsk;
    this.nextAsk += 1;
    return new Promise((resolve) => {
      const settle = (frame: FromBench | null) => {
        clearTimeout(timer);
        this.waiting.delete(ask);
        resolve(frame);
      };
      const timer = setTimeout(() => settle(null), BENCH_MS);
      this.waiting.set(ask, settle);
      if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify({ ...what, ask }));
      else settle(null);
    });
  }

  private told(text: string): void {
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch {
      return;
    }
    const read = fromBenchSchema.safeParse(value);
    if (!read.success) return;
    const frame = read.data;
    const settle = "ask" in frame ? this.waiting.get(frame.ask) : undefined;
    if (settle) settle(frame);
    else this.onTold(frame);
  }
}
