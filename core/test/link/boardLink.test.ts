// A board as a robot on the link, with a board of a few lines at the other end of its line.
import { beforeEach, describe, expect, test } from "vitest";
import type { FrameOf, FromRobot, ToRobot } from "../../src/link/frames.js";
import type { FromBench } from "../../src/link/serial/benchFrames.js";
import { BoardLink, type BoardPackage } from "../../src/link/serial/boardLink.js";
import type { BoardManifest } from "../../src/link/serial/boardManifest.js";
import { SerialReader, writeSerialFrame } from "../../src/link/serial/framing.js";
import { readTraceRows, TraceAssembly } from "../../src/link/traceFrame.js";
import { randomStream } from "../../src/math/random.js";

const MANIFEST: BoardManifest = {
  version: 77,
  name: "Wandering",
  sha256: "a".repeat(64),
  bytes: 10,
  label: "version 3",
  origin: "{}",
  savedAt: "2026-01-01T00:00:00Z",
  robot: "Fog",
  steps: [
    { step: "1", text: "go 30 cm", line: 6 },
    { step: "2", text: "turn left 90 deg", line: 7 },
  ],
  watched: ["eye.distance", "bumper.pressed"],
  link: "live",
  begin: { name: "hut", xM: 1, yM: 0.5, headingRad: 0 },
  field: "Fellside",
  handsOver: false,
};
const le = (value: number, count: number) => Array.from({ length: count }, (_, i) => (value >>> (8 * i)) & 0xff);
const f32 = (...values: number[]) => [...new Uint8Array(Float32Array.from(values).buffer)];

/** Time that a test moves on. */
class Timers {
  private now = 0;
  private readonly due = new Set<{ at: number; call: () => void }>();
  readonly after = (ms: number, call: () => void) => {
    const entry = { at: this.now + ms, call };
    this.due.add(entry);
    return () => void this.due.delete(entry);
  };
  pass(ms: number): void {
    const end = this.now + ms;
    for (;;) {
      const next = [...this.due].filter(({ at }) => at <= end).sort((a, b) => a.at - b.at)[0];
      if (!next) break;
      this.now = next.at;
      this.due.delete(next);
      next.call();
    }
    this.now = end;
  }
}

let timers: Timers;
let link: BoardLink;
let frames: FromRobot[];
let rows: Uint8Array[];
let lost: string[];
let heard: { kind: number; payload: Uint8Array }[];
/** Answers orders as a board does; without it nobody is there. */
let answers = true;
let version = 77;
let put: BoardPackage[];
let putWhy = "";
let benched: unknown[];
let bench: FromBench | null = null;

const say = (kind: number, ...payload: number[]) => link.hear(writeSerialFrame(kind, Uint8Array.from(payload)));
const greeting = () => say(129, 1, ...le(version, 4), 70, 111, 103);
const state = (doing: 0 | 1 | 2, why = 0) => say(130, doing, why, 0, ...le(8000, 2), 0, 0);
const pose = (tick: number, x: number, step: number) =>
  say(
    131,
    ...le(tick, 4),
    ...f32(0, 0, x, 0),
    ...f32(0.2, 0.5),
    ...le(tick, 4),
    ...f32(0.2, 0.5),
    ...le(tick, 4),
    ...f32(7.9),
    0,
    0,
    ...le(step, 2),
  );

function board(bytes: Uint8Array): void {
  for (const frame of reader.take(bytes)) {
    heard.push(frame);
    if (!answers) continue;
    const [ask = 0] = frame.payload;
    if (frame.kind === 1) {
      greeting();
      state(0);
    }
    if (frame.kind === 2 || frame.kind === 3 || frame.kind === 7) say(136, ask, 0);
  }
}
let reader = new SerialReader();

function made(withBench: boolean): BoardLink {
  return new BoardLink(
    {
      write: (bytes) => queueMicrotask(() => board(bytes)),
      frame: (frame) => frames.push(frame),
      rows: (bytes) => rows.push(bytes),
      after: timers.after,
      robot: "Fog",
      manifest: (asked) => (asked === MANIFEST.version ? MANIFEST : null),
      put: (sent) => {
        put.push(sent);
        return Promise.resolve(putWhy === "" ? { ok: true } : { ok: false, why: putWhy });
      },
      bench: withBench
        ? (what) => {
            benched.push(what);
            return Promise.resolve(bench);
          }
        : null,
    },
    (why) => lost.push(why),
  );
}

beforeEach(async () => {
  timers = new Timers();
  [frames, rows, lost, heard, put, benched] = [[], [], [], [], [], []];
  reader = new SerialReader();
  answers = true;
  version = 77;
  putWhy = "";
  bench = null;
  link = made(true);
  await settled();
});

/** What was put off to the end of this turn is done. */
async function settled(): Promise<void> {
  for (let i = 0; i < 20; i += 1) await Promise.resolve();
}
const last = <K extends FromRobot["kind"]>(kind: K) =>
  frames.filter((frame) => frame.kind === kind).at(-1) as FrameOf<K>;
async function ask(frame: ToRobot): Promise<void> {
  void link.obey(frame);
  await settled();
}

describe("a board on the link", () => {
  test("says who it is, what it holds, and how it is", () => {
    expect(last("hello")).toMatchObject({ robot: "Fog", simulated: true, room: 1 });
    expect(last("shelf").entries).toMatchObject([{ name: "Wandering", label: "version 3" }]);
    expect(last("state")).toMatchObject({ doing: "idle", packVolts: 8, windingC: null, begin: { name: "hut" } });
  });

  test("that holds a program which nobody here knows says so, and is not run", async () => {
    version = 5;
    greeting();
    expect(last("shelf").entries[0]?.label).toBe("this browser did not put it there");
    await ask({ kind: "run", ask: 4, name: "Wandering" });
    expect(last("refused").why).toContain("Put the mission on it");
  });

  test("that holds nothing can be given a mission", async () => {
    link.close();
    answers = false;
    frames = [];
    link = made(true);
    timers.pass(1600);
    expect(last("hello").robot).toBe("Fog");
    expect(last("shelf").entries).toEqual([]);
    expect(lost).toEqual([]);
    answers = true;
    const text = JSON.stringify({
      format: "giddy-pebble/package",
      version: 1,
      text: "cairn 1",
      robot: {},
      field: null,
    });
    await ask({
      kind: "put",
      ask: 1,
      name: "Wandering",
      bytes: text.length,
      sha256: "a".repeat(64),
      label: "v",
      origin: "",
    });
    await ask({ kind: "part", ask: 2, at: 0, text: text.slice(0, 20) });
    await ask({ kind: "part", ask: 3, at: 20, text: text.slice(20) });
    timers.pass(400);
    await settled();
    expect(put.map(({ name }) => name)).toEqual(["Wandering"]);
    expect(frames.filter((frame) => frame.kind === "done").map((frame) => "ask" in frame && frame.ask)).toEqual([
      1, 2, 3,
    ]);
    expect(last("shelf").entries[0]?.name).toBe("Wandering");
  });

  test("tells why a mission was not put on it, and takes a part out of its order for none", async () => {
    putWhy = "Its cable is out.";
    const text = JSON.stringify({ format: "giddy-pebble/package", version: 1, text: "é", robot: {}, field: null });
    const head = {
      kind: "put",
      name: "W",
      bytes: text.length + 1,
      sha256: "a".repeat(64),
      label: "v",
      origin: "",
    } as const;
    await ask({ ...head, ask: 1 });
    await ask({ kind: "part", ask: 2, at: 9, text });
    expect(last("refused")).toMatchObject({ ask: 2 });
    await ask({ ...head, ask: 3 });
    await ask({ kind: "part", ask: 4, at: 0, text });
    expect(last("refused")).toMatchObject({ ask: 4, why: "Its cable is out." });
  });

  test("runs: its place, its steps, its texts, and at the end a summary and a trace", async () => {
    await ask({ kind: "run", ask: 1, name: "Wandering" });
    expect(last("done").ask).toBe(1);
    expect([...(heard.filter(({ kind }) => kind === 2).at(-1)?.payload ?? [])].slice(1)).toEqual([100]);
    state(1);
    say(132, ...le(0, 4), 0, ...f32(0.4, 1));
    pose(2, 0.1, 0);
    expect(last("readings")).toMatchObject({ run: 1, tick: 2, leftMS: expect.closeTo(0.2, 5), packAmps: null });
    expect(last("readings").xM).toBeCloseTo(1.1, 5);
    expect(last("readings").values["eye.distance"]).toBeCloseTo(0.4, 5);
    expect(last("step")).toMatchObject({ line: 6, step: "1", endedBy: null });
    say(134, 0, ...Array.from("way = 12.5", (letter) => letter.charCodeAt(0)));
    expect(last("note")).toMatchObject({ name: "way", value: 12.5 });
    say(134, 1, 72, 105);
    expect(last("state").display).toBe("Hi");
    say(133, 0, 0, 0, 1, ...le(0, 4), ...le(4, 4));
    expect(last("step")).toMatchObject({ line: 6, endedBy: "done" });
    say(133, 0, 0, 0, 1, ...le(4, 4), ...le(6, 4));
    pose(6, 0.3, 1);
    say(135, 0, 0, 0, 0, 0, ...le(7, 4));
    const { summary } = last("ended");
    expect(summary).toMatchObject({ outcome: "finished", success: true, durationMs: 70 });
    expect(summary.end.xM).toBeCloseTo(1.3, 5);
    expect(summary.steps).toMatchObject([
      { step: "1", pass: 1, text: "go 30 cm", startMs: 0, endMs: 40, endedBy: "done" },
      { step: "1", pass: 2, text: "go 30 cm", startMs: 40, endMs: 60, endedBy: "done" },
    ]);
    await ask({ kind: "trace", ask: 9 });
    const told = last("trace");
    const assembly = new TraceAssembly(told, told.rows);
    for (const bytes of rows) {
      const part = readTraceRows(bytes);
      if (part) assembly.take(part);
    }
    const column = (id: string) => [...(assembly.trace().columns.find((one) => one.id === id)?.values ?? [])];
    // Rows of all ticks from 0 to 6: those in between are as the next one told.
    expect(column("x").map((x) => Math.round(x * 10))).toEqual([11, 11, 11, 13, 13, 13, 13]);
    expect(column("leftCounts")).toEqual([2, 2, 2, 6, 6, 6, 6]);
  });

  test.each([
    [12, "it was halted"],
    [13, "the link was lost"],
    [14, "its program hung, and the watchdog switched the motors off"],
    [1, "step 2 never ended within 9 s"],
    [2, "steps 2 and 1 both want the same part at the same time"],
  ])("that ends by %i says: %s", (why, words) => {
    state(1);
    say(135, why, 1, 0, ...(why === 1 ? [9, 0] : [0, 0]), ...le(7, 4));
    expect(last("ended").summary).toMatchObject({ outcome: "stopped", reason: words });
    expect(last("state").why).toBe(words);
    // What it says of itself later knows less, and changes nothing.
    state(0, why + 1);
    expect(last("state").why).toBe(words);
  });

  test("whose end was not heard says so, and makes up no step", () => {
    state(1);
    state(0, 2);
    expect(last("ended").summary.reason).toBe("it stopped early, and its reason was lost on the way");
  });

  test("with a program that speaks another language can be given one of ours", () => {
    link.close();
    answers = false;
    frames = [];
    link = made(true);
    say(129, 9, ...le(77, 4), 70);
    expect(last("shelf").entries).toEqual([]);
    expect(last("state").doing).toBe("idle");
    expect(lost).toEqual([]);
  });

  test("an order that is not answered is given again, and refused when it never is", async () => {
    answers = false;
    heard = [];
    await ask({ kind: "halt", ask: 5 });
    timers.pass(400);
    await settled();
    expect(heard.filter(({ kind }) => kind === 3).length).toBe(3);
    timers.pass(700);
    await settled();
    expect(last("refused")).toMatchObject({ ask: 5, why: "The board did not answer. Try again." });
  });

  test("that is not heard for a second and a half is lost; one that is heard is not", () => {
    for (let i = 0; i < 5; i += 1) {
      timers.pass(1000);
      state(0);
    }
    expect(lost).toEqual([]);
    timers.pass(1600);
    expect(lost).toEqual(["The board does not answer."]);
  });

  test("of this computer whose time is slowed down is waited for in its own time", () => {
    link.hearBench({ told: "board", robot: "Fog", kind: "avr", buttons: [], plugs: [], pace: 0.1 });
    for (let i = 0; i < 3; i += 1) {
      // It says its state after half a second of its own.
      timers.pass(5000);
      state(0);
    }
    timers.pass(14_900);
    expect(lost).toEqual([]);
    timers.pass(200);
    expect(lost).toEqual(["The board does not answer."]);
  });

  test("that is reset in a run ends it, and says so", () => {
    state(1);
    pose(4, 0.2, 0);
    greeting();
    state(0);
    expect(last("ended").summary).toMatchObject({ outcome: "stopped", reason: "the board restarted" });
    expect(frames.filter(({ kind }) => kind === "ended").length).toBe(1);
  });

  test("whose last word was lost on the way ends by what its state says", () => {
    state(1);
    state(0, 1);
    expect(last("ended").summary).toMatchObject({ outcome: "finished", reason: "" });
  });

  test("of this computer is put down and measured by its bench; a real one by its people", async () => {
    bench = { told: "done", ask: 1 };
    await ask({
      kind: "place",
      ask: 1,
      begin: { name: "mast", xM: 2, yM: 1, headingRad: 1 },
      how: "eye",
      fieldOf: "W",
    });
    expect(benched).toMatchObject([{ do: "place", keepField: true }]);
    expect(last("state").begin.name).toBe("mast");
    bench = { told: "tape", ask: 2, alongM: 0.5, asideM: 0.1, headingRad: 0 };
    await ask({ kind: "tape", ask: 2 });
    expect(last("tape")).toMatchObject({ ask: 2, alongM: 0.5 });
    link = made(false);
    await settled();
    await ask({ kind: "tape", ask: 3 });
    expect(last("refused").why).toContain("read the tape yourself");
    expect(last("hello").simulated).toBe(false);
  });

  test("takes 100,000 frames of noise and goes on", () => {
    const chance = randomStream(9);
    const below = (n: number) => Math.floor(chance.uniform() * n);
    frames = [];
    for (let i = 0; i < 100_000; i += 1) {
      const payload = Uint8Array.from({ length: below(60) }, () => below(256));
      link.hear(writeSerialFrame(129 + below(12), payload));
      if (i % 1000 === 0) frames = [];
    }
    greeting();
    state(0);
    expect(last("state").doing).toBe("idle");
  });
});
