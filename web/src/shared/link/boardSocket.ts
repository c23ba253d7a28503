// A board as the other end of a link: its port is opened, its bytes are read, and missions are put on it.
import {
  BoardLink,
  type BoardPackage,
  CORE_VERSION,
  fieldPieces,
  HeardLine,
  readFrame,
  SERIAL_BAUD,
  toRobotSchema,
  type Upload,
  type UploadWatch,
} from "@giddy-pebble/core";
import { buildFor } from "./boardBuild.js";
import { keepManifest, manifestOf } from "./boardManifests.js";
import type { LinkSocket } from "./linkClient.js";
import { BenchPort, type BoardKind, type PagePort } from "./serialPort.js";

const BEAT_MS = 100;
const RESET_MS = 60;

/** Calls once after so many ms. @returns what calls it off */
function after(ms: number, call: () => void): () => void {
  const timer = setTimeout(call, ms);
  return () => clearTimeout(timer);
}

/** How far a mission is on its way to the board. */
export interface PutProgress {
  readonly words: string;
  /** 0..1; null while nobody can say. */
  readonly share: number | null;
}

interface BoardSocketParts {
  readonly port: PagePort;
  readonly kind: BoardKind;
  /** Name of the robot that it is a board of. */
  readonly robot: string;
  /** Told of a put's progress; null when it has ended. */
  readonly putting: (progress: PutProgress | null) => void;
}

export class BoardSocket implements LinkSocket {
  onopen = () => {};
  ontext: (text: string) => void = () => {};
  onrows: (bytes: Uint8Array) => void = () => {};
  onclose: (why: string) => void = () => {};
  open = false;
  waiting = 0;
  private writer: WritableStreamDefaultWriter<Uint8Array> | null = null;
  private reader: ReadableStreamDefaultReader<Uint8Array> | null = null;
  private beat: Worker | null = null;
  private over = false;
  private cancelled = false;
  /** While a mission is put there, bytes are for whoever writes it. */
  private line: HeardLine | null = null;
  private board: BoardLink | null = null;

  constructor(private readonly parts: BoardSocketParts) {
    void this.start();
  }

  private async start(): Promise<void> {
    const { port } = this.parts;
    try {
      await port.open({ baudRate: SERIAL_BAUD });
    } catch (error) {
      return this.end(error instanceof Error ? error.message : "The port could not be opened.");
    }
    if (this.over) return void port.close();
    this.writer = port.writable?.getWriter() ?? null;
    this.reader = port.readable?.getReader() ?? null;
    this.open = true;
    const bench = port instanceof BenchPort ? port : null;
    this.board = new BoardLink(
      {
        write: (bytes) => this.write(bytes),
        frame: (frame) =>
          this.ontext(JSON.stringify(frame.kind === "hello" ? { ...frame, coreVersion: CORE_VERSION } : frame)),
        rows: (bytes) => this.onrows(bytes),
        after,
        robot: this.parts.robot,
        manifest: manifestOf,
        put: (sent) => this.put(sent),
        bench: bench && ((what) => bench.bench(what)),
      },
      (why) => this.end(why),
    );
    if (bench) bench.onTold = (frame) => this.board?.hearBench(frame);
    this.onopen();
    // Timers of a page that nobody looks at are slowed down; a worker's are not.
    this.beat = new Worker(new URL("../../workers/beat.worker.ts", import.meta.url), { type: "module" });
    this.beat.onmessage = () => this.board?.beat();
    this.beat.postMessage(BEAT_MS);
    await this.read();
  }

  private async read(): Promise<void> {
    try {
      for (;;) {
        const got = await this.reader?.read();
        if (!got || got.done) return this.end("The line to the board is gone.");
        if (this.line) this.line.take(got.value);
        else this.board?.hear(got.value);
      }
    } catch (error) {
      this.end(error instanceof Error ? error.message : "The line to the board is gone.");
    }
  }

  private write(bytes: Uint8Array): void {
    if (!this.writer || this.over) return;
    this.waiting += bytes.length;
    const done = () => {
      this.waiting -= bytes.length;
    };
    // What cannot be written is told by the reader's end.
    this.writer.write(bytes).then(done, done);
  }

  send(text: string): void {
    const read = readFrame(toRobotSchema, text);
    if (read.ok) void this.board?.obey(read.frame);
  }

  /** Ends a put that is in progress. */
  cancel(): void {
    this.cancelled = true;
  }

  private async put(sent: BoardPackage): Promise<Upload> {
    const { port, kind, putting } = this.parts;
    this.cancelled = false;
    const isCancelled = () => this.cancelled || this.over;
    const watch: UploadWatch = {
      progress: (share, is) => putting({ words: is === "writing" ? "Writing it" : "Checking it", share }),
      get cancelled() {
        return isCancelled();
      },
    };
    try {
      putting({ words: kind === "avr" ? "Compiling it" : "Writing it out", share: null });
      const built = await buildFor(kind, sent);
      if (!built.ok) return built;
      if (isCancelled()) return { ok: false, why: "It was cancelled. The board holds what it held." };
      const line = new HeardLine({
        write: (bytes) => Promise.resolve(this.write(bytes)),
        reset: () => this.pullReset(),
        after,
      });
      this.line = line;
      const written = await built.write(line, watch);
      this.line = null;
      if (!written.ok) return written;
      keepManifest(built.manifest);
      if (port instanceof BenchPort) {
        // As hands do: its parts are hung on the lines that were dealt out, and its field is laid out.
        const wired = built.pins && (await port.bench({ do: "wire", pins: built.pins }));
        if (wired?.told === "refused") return { ok: false, why: wired.why };
        for (const piece of fieldPieces(sent.program.field)) {
          const laid = await port.bench(piece);
          if (laid?.told === "refused") return { ok: false, why: laid.why };
        }
      }
      return { ok: true };
    } finally {
      this.line = null;
      putting(null);
    }
  }

  private async pullReset(): Promise<void> {
    const { port } = this.parts;
    await port.setSignals({ dataTerminalReady: false, requestToSend: false });
    await new Promise((resolve) => setTimeout(resolve, RESET_MS));
    await port.setSignals({ dataTerminalReady: true, requestToSend: true });
  }

  close(): void {
    this.end("");
  }

  private end(why: string): void {
    if (this.over) return;
    this.over = true;
    this.open = false;
    this.board?.close();
    this.beat?.terminate();
    this.line?.end();
    void this.release();
    this.onclose(why);
  }

  private async release(): Promise<void> {
    await this.reader?.cancel().catch(() => {});
    this.reader?.releaseLock();
    await this.writer?.close().catch(() => {});
    await this.parts.port.close().catch(() => {});
  }
}
