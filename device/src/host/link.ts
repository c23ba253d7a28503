// One WebSocket link: frames are read, held to the limits and carried out; whatever cannot be read is answered.
import {
  type FromRobot,
  HALTED,
  LINK_PROTOCOL,
  MOST_FRAME_BYTES,
  MOST_FRAMES_PER_SEC,
  packageSchema,
  readFrame,
  type ToRobot,
  TRACE_ROWS,
  type Trace,
  toRobotSchema,
  writeTraceRows,
} from "@giddy-pebble/core";
import type { Clock } from "./clock.js";
import type { FrameSocket } from "./frameSocket.js";
import { frameText } from "./frameText.js";
import type { Linked, Outcome, RobotHost } from "./robotHost.js";
import { sha256 } from "./shelf.js";

/** What is asked for, one after the other: all but what may not come late. */
type Asked = Exclude<ToRobot, { kind: "hello" | "halt" | "drive" | "hands" }>;

/** A put in progress. */
interface Putting {
  readonly ask: number;
  readonly name: string;
  readonly label: string;
  readonly origin: string;
  readonly bytes: number;
  readonly sha256: string;
  text: string;
}

/** Time that the frames of one link may take in a second, ms; starting a long mission takes some hundred. */
const MOST_SPENT_MS = 600;
const SECOND_MS = 1000;
/** Requests that may wait for the next second. */
const MOST_ASKED = 32;
/** Events sent along with a trace. */
const MOST_SENT_EVENTS = 4000;
/** Frames that cannot be read, after which the link is closed. */
const MOST_BAD_FRAMES = 2000;
/** What may wait to be sent before frames that can be missed are left out, bytes. */
const MOST_WAITING = 512 * 1024;
/** A reader that lets this much wait is not reading: its link is closed, bytes. */
const NOT_READING = 3 * 1024 * 1024;
/** A connection that does not say hello by then is closed, ms. */
const SILENT_MS = 10_000;
/** Between looks whether a reader has room for more of a trace, ms. */
const TRACE_PAUSE_MS = 20;

export class RobotLink implements Linked {
  wantsReadings = false;
  private greeted = false;
  private putting: Putting | null = null;
  private secondBegan = 0;
  private framesThisSecond = 0;
  /** Time its frames took in this second, ms. */
  private spentMs = 0;
  /** Requests beyond that time: carried out in the next second, in order. */
  private readonly asked: Asked[] = [];
  private awaitsSecond = false;
  private badFrames = 0;
  /** When the latest frame goes out, by the clock. */
  private lastDue = 0;
  /** A trace is on its way. */
  private tracing = false;

  constructor(
    private readonly socket: FrameSocket,
    private readonly host: RobotHost,
    private readonly clock: Clock,
  ) {
    socket.onMessage((data, isBinary) => this.heard(data, isBinary));
    const giveUp = clock.after(SILENT_MS, () => {
      if (!this.greeted) this.socket.close(1008, "nobody said hello");
    });
    socket.onClose(() => {
      giveUp();
      host.part(this);
    });
    this.send(host.hello());
  }

  get crowded(): boolean {
    return this.socket.waiting > MOST_WAITING;
  }

  send(frame: FromRobot): void {
    // A link too slow for the readings misses some; everything else waits its turn.
    if (frame.kind === "readings" && this.crowded) return;
    this.sendText(frameText(frame));
  }

  sendText(text: string): void {
    if (this.socket.open) this.deliver(text);
  }

  sendBytes(bytes: Uint8Array): void {
    this.deliver(bytes);
  }

  /** Sends now, or late but in order, as a bad radio under a stream does. */
  private deliver(data: string | Uint8Array): void {
    const go = () => {
      if (!this.socket.open) return;
      if (this.socket.waiting > NOT_READING) return this.socket.terminate();
      this.socket.send(data);
    };
    const now = this.clock.now();
    const due = Math.max(this.lastDue, now + this.host.latenessMs(data.length));
    this.lastDue = due;
    if (due <= now) go();
    else this.clock.after(due - now, go);
  }

  close(): void {
    this.socket.terminate();
  }

  private heard(data: Buffer, isBinary: boolean): void {
    if (!this.withinRate()) return this.refuse(null, `More than ${MOST_FRAMES_PER_SEC} frames a second. Send fewer.`);
    if (isBinary) return this.bad("A robot takes no binary frames.");
    if (data.length > MOST_FRAME_BYTES) return this.bad(`A frame has at most ${MOST_FRAME_BYTES} bytes.`);
    const read = readFrame(toRobotSchema, data.toString("utf8"));
    if (!read.ok) return this.bad(read.why);
    const { frame } = read;
    if (frame.kind === "hello") return this.greet(frame.protocol);
    const ask = "ask" in frame ? frame.ask : null;
    if (!this.greeted) return this.refuse(ask, "Say hello first, with the protocol.");
    // What one link costs is bounded, so that the robot's time is left to the others. A halt is always taken, and so are
    // a driver's sticks: they take next to no time, and a robot stops that does not hear them.
    if (frame.kind === "halt") this.forgetAsked();
    else if (
      frame.kind !== "drive" &&
      frame.kind !== "hands" &&
      (this.asked.length > 0 || this.spentMs > MOST_SPENT_MS)
    )
      return this.later(frame);
    this.carryOut(frame);
  }

  private carryOut(frame: Exclude<ToRobot, { kind: "hello" }>): void {
    const began = this.clock.now();
    this.obey(frame);
    this.spentMs += this.clock.now() - began;
  }

  /** A slow computer takes long over what is asked rightly: it waits for its turn, and only a crowd of requests is refused. */
  private later(frame: Asked): void {
    if (this.asked.length >= MOST_ASKED)
      return this.refuse(frame.ask, "This link keeps the robot too busy. Ask less often.");
    this.asked.push(frame);
    this.nextSecond();
  }

  /** One wait at a time, whatever is asked and halted meanwhile. */
  private nextSecond(): void {
    if (this.awaitsSecond) return;
    this.awaitsSecond = true;
    this.clock.after(Math.max(0, this.secondBegan + SECOND_MS - this.clock.now()), () => {
      this.awaitsSecond = false;
      if (this.clock.now() - this.secondBegan >= SECOND_MS) this.secondOver();
      while (this.asked.length > 0 && this.spentMs <= MOST_SPENT_MS && this.socket.open)
        this.carryOut(this.asked.shift() as Asked);
      if (this.asked.length > 0 && this.socket.open) this.nextSecond();
    });
  }

  /** Whoever halts wants nothing to begin that was asked for before. */
  private forgetAsked(): void {
    for (const { ask } of this.asked.splice(0)) this.refuse(ask, "The robot was halted before it came to this.");
  }

  private secondOver(): void {
    this.secondBegan = this.clock.now();
    this.framesThisSecond = 0;
    this.spentMs = 0;
  }

  private withinRate(): boolean {
    if (this.clock.now() - this.secondBegan >= SECOND_MS) this.secondOver();
    this.framesThisSecond += 1;
    return this.framesThisSecond <= MOST_FRAMES_PER_SEC;
  }

  private bad(why: string): void {
    this.badFrames += 1;
    this.refuse(null, why);
    if (this.badFrames >= MOST_BAD_FRAMES) this.socket.close(1008, "too many frames that cannot be read");
  }

  private refuse(ask: number | null, why: string): void {
    this.send({ kind: "refused", ask, why });
  }

  private greet(protocol: string): void {
    if (protocol !== LINK_PROTOCOL)
      return this.refuse(null, `This robot speaks ${LINK_PROTOCOL}, not "${protocol}". Update the one that is older.`);
    if (this.greeted) return;
    this.greeted = true;
    this.host.join(this);
  }

  private answer(ask: number, outcome: Outcome): void {
    if (outcome.ok) this.send({ kind: "done", ask });
    else this.refuse(ask, outcome.why);
  }

  private obey(frame: Exclude<ToRobot, { kind: "hello" }>): void {
    const { host } = this;
    switch (frame.kind) {
      case "shelf":
        return this.send({ kind: "shelf", ask: frame.ask, entries: host.shelf.entries });
      case "put": {
        this.putting = { ...frame, text: "" };
        return this.send({ kind: "done", ask: frame.ask });
      }
      case "part":
        return this.part(frame.ask, frame.at, frame.text);
      case "remove":
        return this.answer(frame.ask, host.remove(frame.name));
      case "run":
        return this.answer(frame.ask, host.run(this, frame.name));
      case "halt":
        host.stop(HALTED);
        return this.answer(frame.ask, { ok: true });
      case "drive": {
        const driven = host.drive(this, frame.seq, frame.left, frame.right);
        return driven.ok ? undefined : this.refuse(null, driven.why);
      }
      case "hands": {
        const { seq, sticks, levels, buttons } = frame;
        return host.hands(this, seq, { sticks, levels, buttons });
      }
      case "radio":
        return this.answer(frame.ask, host.setRadio(frame));
      case "leave":
        return this.answer(frame.ask, host.leave(this));
      case "press":
        host.standIn.press(frame.button, frame.down);
        return this.answer(frame.ask, { ok: true });
      case "readings":
        this.wantsReadings = frame.on;
        return this.answer(frame.ask, { ok: true });
      case "trace":
        return this.trace(frame.ask);
      case "place":
        return this.answer(frame.ask, host.place(this, frame.begin, frame.how, frame.fieldOf));
      case "tape": {
        const reading = host.tape();
        if (!reading) return this.refuse(frame.ask, "The tape is read while the robot stands. Halt it first.");
        return this.send({ kind: "tape", ask: frame.ask, ...reading });
      }
      case "pack":
        return this.answer(frame.ask, host.changePack(frame.charge));
      case "pace":
        return this.answer(frame.ask, host.setPace(frame.times));
      case "fault":
        return this.answer(frame.ask, host.fault(frame.fault, frame.part));
    }
  }

  /** Takes the next part of a package; with the last one the package is checked and put on the shelf. */
  private part(ask: number, at: number, text: string): void {
    const { putting } = this;
    if (!putting) return this.refuse(ask, "This part belongs to no put. Begin the put again.");
    if (at !== putting.text.length) {
      this.putting = null;
      return this.refuse(ask, `A part is missing: character ${putting.text.length} was due. Begin the put again.`);
    }
    putting.text += text;
    const bytes = Buffer.byteLength(putting.text);
    if (bytes < putting.bytes) return this.send({ kind: "done", ask });
    this.putting = null;
    if (bytes > putting.bytes || sha256(putting.text) !== putting.sha256)
      return this.refuse(ask, "What arrived is not what was sent: its SHA-256 differs. Send it again.");
    const read = readPackage(putting.text);
    if (!read.ok) return this.refuse(ask, read.why);
    const { name, label, origin } = putting;
    const sent = { name, label, origin, savedAt: new Date().toISOString() };
    this.answer(ask, this.host.put(sent, putting.text, read.program));
  }

  private trace(ask: number): void {
    const { last, runCount } = this.host.standIn;
    if (!last) return this.refuse(ask, "This robot has finished no run since it was switched on.");
    if (this.tracing) return this.refuse(ask, "A trace is on its way to you. Ask again when it is there.");
    const { trace } = last;
    const rows = trace.columns[0]?.values.length ?? 0;
    this.send({
      kind: "trace",
      ask,
      run: runCount,
      tickMs: trace.tickMs,
      rows,
      columns: trace.columns.map(({ id, quantity, unit }) => ({ id, quantity, unit })),
      events: trace.events
        .slice(0, MOST_SENT_EVENTS)
        .map(({ tick, kind, stepId, data }) => ({ tick, kind, stepId, data })),
    });
    this.tracing = true;
    this.traceRows(trace, runCount, 0, rows);
  }

  /** Sends rows while the reader has room; goes on later where it has none. */
  private traceRows(trace: Trace, run: number, from: number, rows: number): void {
    let row = from;
    for (; row < rows && !this.crowded && this.socket.open; row += TRACE_ROWS)
      this.sendBytes(writeTraceRows(trace, run, row, TRACE_ROWS));
    if (row < rows && this.socket.open) this.clock.after(TRACE_PAUSE_MS, () => this.traceRows(trace, run, row, rows));
    else this.tracing = false;
  }
}

function readPackage(
  text: string,
): { readonly ok: true; readonly program: ReturnType<typeof packageSchema.parse> } | { ok: false; why: string } {
  try {
    const read = packageSchema.safeParse(JSON.parse(text));
    if (read.success) return { ok: true, program: read.data };
  } catch {
    // Answered below, like a package of another shape.
  }
  return { ok: false, why: "What was sent is not a program package." };
}
