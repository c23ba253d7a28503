// One end of the robot link in the page: frames out, answers matched to what was asked, traces put together.
import {
  type FrameOf,
  type FromRobot,
  fromRobotSchema,
  LINK_PROTOCOL,
  readFrame,
  readTraceRows,
  type ToRobot,
  type Trace,
  TraceAssembly,
} from "@giddy-pebble/core";

type WithoutAsk<T> = T extends { ask: number } ? Omit<T, "ask"> : never;
export type Asking = WithoutAsk<ToRobot>;

type LinkAnswer<T = FromRobot> =
  | { readonly ok: true; readonly frame: T }
  | { readonly ok: false; readonly why: string };

interface LinkEvents {
  frame(frame: FromRobot): void;
  /** The link is gone; `why` is a sentence. Called once. */
  closed(why: string): void;
}

const ANSWER_MS = 8000;
export const LINK_LOST = "The link to the robot was lost.";

interface Waiting {
  readonly settle: (answer: LinkAnswer) => void;
  readonly timer: ReturnType<typeof setTimeout>;
}

/** What a link goes over: a WebSocket to a robot, or a board's serial line. */
export interface LinkSocket {
  readonly open: boolean;
  /** Bytes that wait to be sent. */
  readonly waiting: number;
  send(text: string): void;
  close(): void;
  onopen: () => void;
  ontext: (text: string) => void;
  onrows: (bytes: Uint8Array) => void;
  /** The link is gone; `why` is a sentence. */
  onclose: (why: string) => void;
}

/** A robot's own link. */
export function robotSocket(url: string): LinkSocket {
  const web = new WebSocket(url, LINK_PROTOCOL);
  web.binaryType = "arraybuffer";
  const socket: LinkSocket = {
    get open() {
      return web.readyState === WebSocket.OPEN;
    },
    get waiting() {
      return web.bufferedAmount;
    },
    send: (text) => web.send(text),
    close: () => web.close(),
    onopen: () => {},
    ontext: () => {},
    onrows: () => {},
    onclose: () => {},
  };
  web.onopen = () => socket.onopen();
  web.onmessage = ({ data }) => (typeof data === "string" ? socket.ontext(data) : socket.onrows(new Uint8Array(data)));
  web.onclose = () => socket.onclose(LINK_LOST);
  return socket;
}

export class LinkClient {
  private readonly waiting = new Map<number, Waiting>();
  private incoming: { readonly ask: number; readonly assembly: TraceAssembly } | null = null;
  private traceFrame: FrameOf<"trace"> | null = null;
  private lastTrace: Trace | null = null;
  private nextAsk = 1;
  private over = false;

  /** @param answerMs - within which an ordinary question is answered: a board is written while it waits */
  constructor(
    private readonly socket: LinkSocket,
    who: string,
    private readonly events: LinkEvents,
    private readonly answerMs = ANSWER_MS,
  ) {
    this.socket.onopen = () => this.send({ kind: "hello", protocol: LINK_PROTOCOL, who });
    this.socket.ontext = (text) => this.heard(text);
    this.socket.onrows = (bytes) => this.rows(bytes);
    this.socket.onclose = (why) => this.end(why);
  }

  get open(): boolean {
    return this.socket.open;
  }

  /** Whether frames pile up unsent: the radio is slower than the sticks. */
  get behind(): boolean {
    return this.socket.waiting > 16_384;
  }

  send(frame: ToRobot): void {
    if (this.open) this.socket.send(JSON.stringify(frame));
  }

  /** Sends a request and waits for its answer. */
  ask(frame: Asking, withinMs = this.answerMs): Promise<LinkAnswer> {
    if (!this.open) return Promise.resolve({ ok: false, why: LINK_LOST });
    const ask = this.nextAsk;
    this.nextAsk += 1;
    return new Promise((resolve) => {
      const timer = setTimeout(
        () => this.settle(ask, { ok: false, why: "The robot did not answer. Try again." }),
        withinMs,
      );
      this.waiting.set(ask, { settle: resolve, timer });
      this.send({ ...frame, ask } as ToRobot);
    });
  }

  /** The trace of the robot's latest run. */
  async trace(): Promise<{ readonly ok: true; readonly trace: Trace } | { readonly ok: false; readonly why: string }> {
    const answer = await this.ask({ kind: "trace" }, 20_000);
    if (!answer.ok) return answer;
    const trace = this.lastTrace;
    this.lastTrace = null;
    return trace ? { ok: true, trace } : { ok: false, why: "The run's trace arrived in pieces that do not fit." };
  }

  close(): void {
    this.over = true;
    this.socket.close();
    this.end("");
  }

  private settle(ask: number, answer: LinkAnswer): void {
    const waiting = this.waiting.get(ask);
    if (!waiting) return;
    clearTimeout(waiting.timer);
    this.waiting.delete(ask);
    waiting.settle(answer);
  }

  private heard(text: string): void {
    const read = readFrame(fromRobotSchema, text);
    // A robot of a newer make may say more than this page knows; what it cannot read it leaves alone.
    if (!read.ok) return;
    const { frame } = read;
    if (frame.kind === "trace") return this.beginTrace(frame);
    if (frame.kind === "refused" && frame.ask !== null) return this.settle(frame.ask, { ok: false, why: frame.why });
    if ((frame.kind === "done" || frame.kind === "tape") && "ask" in frame)
      return this.settle(frame.ask, { ok: true, frame });
    if (frame.kind === "shelf" && frame.ask !== null) this.settle(frame.ask, { ok: true, frame });
    this.events.frame(frame);
  }

  private beginTrace(frame: FrameOf<"trace">): void {
    this.traceFrame = frame;
    const { tickMs, events, columns, rows, ask } = frame;
    this.incoming = { ask, assembly: new TraceAssembly({ tickMs, events, columns }, rows) };
    if (rows === 0) this.endTrace();
  }

  private rows(bytes: Uint8Array): void {
    const { incoming } = this;
    const rows = readTraceRows(bytes);
    if (!incoming || !rows) return;
    if (!incoming.assembly.take(rows)) {
      this.incoming = null;
      return this.settle(incoming.ask, { ok: false, why: "The run's trace arrived in pieces that do not fit." });
    }
    if (incoming.assembly.whole) this.endTrace();
  }

  private endTrace(): void {
    const { incoming, traceFrame } = this;
    if (!incoming || !traceFrame) return;
    this.incoming = null;
    this.lastTrace = incoming.assembly.trace();
    this.settle(incoming.ask, { ok: true, frame: traceFrame });
  }

  private end(why: string): void {
    for (const ask of [...this.waiting.keys()]) this.settle(ask, { ok: false, why: LINK_LOST });
    if (this.over) return;
    this.over = true;
    this.events.closed(why);
  }
}
