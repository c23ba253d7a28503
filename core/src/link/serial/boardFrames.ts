// What is said over a board's serial line, both ways: binary, little-endian, small enough for 115,200 baud.
import { clamp } from "../../math/clamp.js";
import type { Handset } from "../../remote/handset.js";
import { fromUtf8 } from "../../trials/utf8.js";
import { writeSerialFrame } from "./framing.js";

/** The version of this language that both ends speak. */
export const SERIAL_VERSION = 1;

const ORDER = { hello: 1, run: 2, halt: 3, hands: 4, drive: 5, beat: 6, tell: 7, leave: 8 } as const;

/** What is sent to a board. `ask` is a number from 1 to 255 that its answer repeats. */
export type BoardOrder =
  | { readonly kind: "hello" | "beat" }
  /** Ends the program: for boards that have a REPL behind it. */
  | { readonly kind: "leave" }
  /** Runs its mission from the start. Unheard for longer than this it stops, in ticks; 0 lets it run on. */
  | { readonly kind: "run"; readonly ask: number; readonly limitTicks: number }
  | { readonly kind: "halt"; readonly ask: number }
  | { readonly kind: "hands"; readonly seq: number; readonly handset: Handset }
  /** Shares of the voltage of both sides, -1..1. */
  | { readonly kind: "drive"; readonly seq: number; readonly left: number; readonly right: number }
  /** Tells its readings every so many ticks; 0 ends that. */
  | { readonly kind: "tell"; readonly ask: number; readonly everyTicks: number };

/** A share of -1..1 as a byte with a sign. */
function shareByte(share: number): number {
  const whole = Math.floor(clamp(share, 1) * 127 + 0.5);
  return whole & 0xff;
}

function levelByte(level: number): number {
  return Math.floor(clamp(Math.max(0, level), 1) * 255 + 0.5);
}

const low = (word: number) => word & 0xff;
const high = (word: number) => (word >> 8) & 0xff;

export function writeBoardOrder(order: BoardOrder): Uint8Array {
  const send = (...bytes: number[]) => writeSerialFrame(ORDER[order.kind], Uint8Array.from(bytes));
  switch (order.kind) {
    case "hello":
    case "beat":
    case "leave":
      return send();
    case "run":
      return send(order.ask, order.limitTicks);
    case "halt":
      return send(order.ask);
    case "tell":
      return send(order.ask, order.everyTicks);
    case "drive":
      return send(low(order.seq), high(order.seq), shareByte(order.left), shareByte(order.right));
    case "hands": {
      const { sticks, levels, buttons } = order.handset;
      const held = [...sticks.map(shareByte), ...levels.map(levelByte), low(buttons), high(buttons)];
      return send(low(order.seq), high(order.seq), ...held);
    }
  }
}

const DOING = ["idle", "running", "driven"] as const;
const HAND = ["itself", "silent", "driver"] as const;
const SAID = ["note", "show", "light", "beep"] as const;
/** How a step ended, in the order of the runtime's list. */
export const BOARD_ENDS = [
  "",
  "done",
  "until",
  "for",
  "limit",
  "stalled",
  "lost",
  "ended",
  "skipped",
  "bound",
  "interrupted",
] as const;
/** Why a run ended, in the order of the runtime's list. */
export const BOARD_WHYS = [
  "finished",
  "never ended",
  "clash",
  "no sender",
  "guard loops",
  "too long",
  "damaged",
  "beyond",
  "list full",
  "outside list",
  "tasks",
  "text",
  "halted",
  "silent",
  "crashed",
] as const;
export type BoardWhy = (typeof BOARD_WHYS)[number];

export interface BoardPose {
  readonly kind: "pose";
  readonly tick: number;
  /** From where it began, m and rad. */
  readonly xM: number;
  readonly yM: number;
  readonly headingRad: number;
  /** Of both sides: counts of the encoder, forward up; m/s; share of the voltage. */
  readonly counts: readonly [number, number];
  readonly speedMS: readonly [number, number];
  readonly duty: readonly [number, number];
  readonly packVolts: number;
  readonly seq: number;
  /** Number of the step in hand, as the mission's steps are numbered; null between two. */
  readonly step: number | null;
}

/** What a board says. */
export type BoardWord =
  | { readonly kind: "greeting"; readonly speaks: number; readonly version: number; readonly robot: string }
  | {
      readonly kind: "state";
      readonly doing: (typeof DOING)[number];
      /** Of the run before; null before the first. */
      readonly why: BoardWhy | null;
      readonly hand: (typeof HAND)[number];
      readonly packVolts: number;
      readonly lateTicks: number;
    }
  | BoardPose
  | { readonly kind: "values"; readonly tick: number; readonly first: number; readonly values: readonly number[] }
  | {
      readonly kind: "step";
      readonly step: number;
      readonly task: number;
      readonly how: string;
      readonly from: number;
      readonly to: number;
    }
  | { readonly kind: "said"; readonly what: (typeof SAID)[number]; readonly text: string }
  | {
      readonly kind: "ended";
      readonly why: BoardWhy;
      readonly a: number;
      readonly b: number;
      readonly tick: number;
    }
  | { readonly kind: "done"; readonly ask: number }
  | { readonly kind: "refused"; readonly ask: number; readonly why: "busy" | "unknown" }
  | { readonly kind: "heard"; readonly seq: number; readonly drives: boolean };

const NO_STEP = 0xffff;

/** Reads one number after another. */
class Numbers {
  private at = 0;
  private readonly view: DataView;

  constructor(private readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  get left(): number {
    return this.bytes.length - this.at;
  }

  private next<T>(size: number, read: (at: number) => T): T {
    this.at += size;
    return read(this.at - size);
  }

  readonly u8 = () => this.next(1, (at) => this.view.getUint8(at));
  readonly u16 = () => this.next(2, (at) => this.view.getUint16(at, true));
  readonly u32 = () => this.next(4, (at) => this.view.getUint32(at, true));
  readonly i32 = () => this.next(4, (at) => this.view.getInt32(at, true));
  readonly f32 = () => this.next(4, (at) => this.view.getFloat32(at, true));
  /** What a line cut in the middle of a letter is told without it. */
  readonly text = () => {
    const bytes = this.bytes.subarray(this.at);
    return fromUtf8(bytes) ?? fromUtf8(bytes.filter((byte) => byte < 0x80)) ?? "";
  };
}

/** Bytes of each kind's payload: exactly, or at least. */
const WORDS: Readonly<Record<number, readonly [BoardWord["kind"], number, "exactly" | "at least"]>> = {
  129: ["greeting", 5, "at least"],
  130: ["state", 7, "exactly"],
  131: ["pose", 52, "exactly"],
  132: ["values", 5, "at least"],
  133: ["step", 12, "exactly"],
  134: ["said", 1, "at least"],
  135: ["ended", 9, "exactly"],
  136: ["done", 2, "exactly"],
  137: ["refused", 2, "exactly"],
  138: ["heard", 3, "exactly"],
};

/** @returns null for what is none of a board's words */
export function readBoardWord(frame: { readonly kind: number; readonly payload: Uint8Array }): BoardWord | null {
  const [kind, size, how] = WORDS[frame.kind] ?? ["", 0, "exactly"];
  if (kind === "" || (how === "exactly" ? frame.payload.length !== size : frame.payload.length < size)) return null;
  const n = new Numbers(frame.payload);
  switch (kind) {
    case "greeting":
      return { kind, speaks: n.u8(), version: n.u32(), robot: n.text() };
    case "state": {
      const [doing, why, hand] = [DOING[n.u8()], n.u8(), HAND[n.u8()]];
      if (!doing || !hand) return null;
      return { kind, doing, why: BOARD_WHYS[why - 1] ?? null, hand, packVolts: n.u16() / 1000, lateTicks: n.u16() };
    }
    case "pose": {
      const [tick, headingRad, , xM, yM] = [n.u32(), n.f32(), n.f32(), n.f32(), n.f32()] as const;
      const side = () => ({ speed: n.f32(), duty: n.f32(), counts: n.i32() });
      const [left, right] = [side(), side()];
      const [packVolts, seq, step] = [n.f32(), n.u16(), n.u16()];
      const numbers = [xM, yM, headingRad, left.speed, left.duty, right.speed, right.duty, packVolts];
      if (!numbers.every(Number.isFinite)) return null;
      return {
        kind,
        tick,
        xM,
        yM,
        headingRad,
        counts: [left.counts, right.counts],
        speedMS: [left.speed, right.speed],
        duty: [left.duty, right.duty],
        packVolts,
        seq,
        step: step === NO_STEP ? null : step,
      };
    }
    case "values": {
      const [tick, first] = [n.u32(), n.u8()];
      const values: number[] = [];
      while (n.left >= 4) values.push(n.f32());
      return { kind, tick, first, values };
    }
    case "step": {
      const [step, task, how] = [n.u16(), n.u8(), n.u8()];
      return { kind, step, task, how: BOARD_ENDS[how] ?? "", from: n.u32(), to: n.u32() };
    }
    case "said": {
      const what = SAID[n.u8()];
      return what ? { kind, what, text: n.text() } : null;
    }
    case "ended": {
      const why = BOARD_WHYS[n.u8()];
      return why ? { kind, why, a: n.u16(), b: n.u16(), tick: n.u32() } : null;
    }
    case "done":
      return { kind, ask: n.u8() };
    case "refused":
      return { kind, ask: n.u8(), why: n.u8() === 1 ? "busy" : "unknown" };
    case "heard":
      return { kind, seq: n.u16(), drives: n.u8() !== 0 };
  }
}
