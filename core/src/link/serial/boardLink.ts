// A board as a robot on the link: what comes over its serial line becomes frames of the robot link, and what is asked of a
// robot becomes orders for the board. One that stands on this computer is asked for hands and tape beside its line.
import type { Pose } from "../../geometry/pose.js";
import { type FromRobot, type ProgramPackage, packageSchema, type ToRobot } from "../frames.js";
import { LINK_PROTOCOL, READINGS_HZ, TRACE_ROWS } from "../limits.js";
import { writeTraceRows } from "../traceFrame.js";
import type { FromBench, ToBench } from "./benchFrames.js";
import {
  type BoardOrder,
  type BoardPose,
  type BoardWord,
  readBoardWord,
  SERIAL_VERSION,
  writeBoardOrder,
} from "./boardFrames.js";
import type { BoardManifest } from "./boardManifest.js";
import { BoardRun, LINK_WAS_LOST, RESTARTED, whyBriefly, whyWords } from "./boardRun.js";
import { SerialReader } from "./framing.js";

type WithoutAsk<T> = T extends { ask: number } ? Omit<T, "ask"> : never;
type Outcome = { readonly ok: true } | { readonly ok: false; readonly why: string };

/** What a package on its way to the board is called. */
export interface BoardPackage {
  readonly name: string;
  readonly sha256: string;
  readonly bytes: number;
  readonly label: string;
  readonly origin: string;
  readonly program: ProgramPackage;
}

/** What a board link needs of where it lives. */
interface BoardHost {
  /** Bytes onto the line. */
  write(bytes: Uint8Array): void;
  /** A frame of the robot link, and the rows of a trace. */
  frame(frame: FromRobot): void;
  rows(bytes: Uint8Array): void;
  /** Calls later. @returns what ends it */
  after(ms: number, call: () => void): () => void;
  /** The robot that it is a board of, as whoever linked it said. */
  readonly robot: string;
  /** What is known of a program that a board says it holds. */
  manifest(version: number): BoardManifest | null;
  /** Builds a package and puts it on the board; the line is its own meanwhile. */
  put(sent: BoardPackage): Promise<Outcome>;
  /** What is said beside the line to a board of this computer; null for a real one. */
  readonly bench: ((what: WithoutAsk<ToBench>) => Promise<FromBench | null>) | null;
}

/** An order that was not answered is given again, this often and after this time, ms. */
const AGAIN = { times: 6, afterMs: 150 } as const;
/** A board that was not heard for this long of its own time is not there, ms. */
const SILENT_MS = 1500;
/** A mission that was begun over the link stops once nobody was heard for so long, ticks. */
const LIMIT_TICKS = 100;
/** One that hands over: so soon. */
const HANDS_LIMIT_TICKS = 30;
const TELL_EVERY_TICKS = 100 / READINGS_HZ;
const NOWHERE: Pose = { xM: 0, yM: 0, headingRad: 0 };

export class BoardLink {
  private readonly reader = new SerialReader();
  private manifest: BoardManifest | null = null;
  private greeting: Extract<BoardWord, { kind: "greeting" }> | null = null;
  private told: Extract<BoardWord, { kind: "state" }> | null = null;
  private run: BoardRun | null = null;
  private last: BoardRun | null = null;
  private runCount = 0;
  private doing: "idle" | "running" | "driven" = "idle";
  private why = "";
  private display = "";
  private light = "";
  private step: number | null = null;
  private seen: Pose | null = null;
  /** It was asked to run: the next greeting is its start. */
  private starting = false;
  private putting: { ask: number; text: string; head: Omit<BoardPackage, "program"> } | null = null;
  private busyPutting = false;
  private readonly waiting = new Map<number, (why: string | null) => void>();
  private nextAsk = 1;
  private endSilence = () => {};
  /** Of a board's time, in a person's: one of this computer may be slowed down. */
  private pace = 1;
  private buttons: readonly string[] = [];
  private plugs: readonly string[] = [];
  private readonly unplugged = new Set<string>();
  private begin = { name: "", ...NOWHERE };
  private closed = false;
  private saidEmpty = false;
  private wantsReadings = false;

  /** @param lost - told once when the board is not heard any more */
  constructor(
    private readonly host: BoardHost,
    private readonly lost: (why: string) => void,
  ) {
    this.greet();
  }

  close(): void {
    this.closed = true;
    this.endSilence();
  }

  /** Says hello until it is answered. */
  private greet(): void {
    this.order({ kind: "hello" });
    this.heardNow();
  }

  private heardNow(): void {
    this.endSilence();
    if (this.closed) return;
    this.endSilence = this.host.after(SILENT_MS / this.pace, () => {
      if (this.greeting && !this.busyPutting) return this.lost("The board does not answer.");
      // Nothing of ours is on it yet, or it is being written.
      if (!this.busyPutting) this.empty();
      this.heardNow();
    });
  }

  /** To be called every tenth of a second: a board that hears nobody stops. */
  beat(): void {
    if (this.busyPutting || this.closed) return;
    this.order({ kind: this.greeting ? "beat" : "hello" });
  }

  private order(order: BoardOrder): void {
    if (!this.busyPutting) this.host.write(writeBoardOrder(order));
  }

  /** An order that has to be answered. @returns why not, or null */
  private ask(make: (ask: number) => BoardOrder): Promise<string | null> {
    const ask = this.nextAsk;
    this.nextAsk = (ask % 255) + 1;
    return new Promise((resolve) => {
      let stop = () => {};
      const settle = (why: string | null) => {
        stop();
        this.waiting.delete(ask);
        resolve(why);
      };
      const say = (left: number) => {
        if (left === 0) return settle("The board did not answer. Try again.");
        this.order(make(ask));
        stop = this.host.after(AGAIN.afterMs, () => say(left - 1));
      };
      this.waiting.set(ask, settle);
      say(AGAIN.times);
    });
  }

  // What the board says

  hear(bytes: Uint8Array): void {
    if (this.busyPutting) return;
    for (const frame of this.reader.take(bytes)) {
      const word = readBoardWord(frame);
      if (word) this.take(word);
    }
  }

  private take(word: BoardWord): void {
    this.heardNow();
    switch (word.kind) {
      case "greeting":
        return this.greeted(word);
      case "state":
        this.told = word;
        // Of a run before it was linked; of one that was seen its end has said more.
        if (word.why && this.runCount === 0 && word.doing === "idle") this.why = whyBriefly(word.why);
        return this.follow(word.doing);
      case "pose":
        return this.pose(word);
      case "values":
        return this.run?.takeValues(word.first, word.values);
      case "step":
        return this.stepped(word);
      case "said":
        return this.said(word.what, word.text);
      case "ended":
        return this.ended(whyWords(word.why, word.a, word.b, this.manifest), word.tick);
      case "done":
        return this.waiting.get(word.ask)?.(null);
      case "refused":
        return this.waiting.get(word.ask)?.(
          word.why === "busy"
            ? "The robot is busy with a run. Halt it first."
            : "The program on this board has no room for that. It only runs and halts.",
        );
      case "heard":
        return this.host.frame({ kind: "heard", seq: word.seq, drives: word.drives });
    }
  }

  private greeted(word: Extract<BoardWord, { kind: "greeting" }>): void {
    const known = this.greeting?.version === word.version;
    // Of another make: as good as none, and another one can be put there.
    if (word.speaks !== SERIAL_VERSION) return this.empty();
    this.saidEmpty = false;
    this.greeting = word;
    this.manifest = this.host.manifest(word.version);
    if (this.manifest && (!this.host.bench || this.begin.name === "")) this.begin = this.manifest.begin;
    this.tellAgain();
    if (this.starting || (known && !this.run && this.doing === "idle")) {
      this.starting = false;
      return;
    }
    // It began anew while it ran: what it told until then is left.
    if (this.run) this.ended(RESTARTED);
    this.doing = "idle";
    this.hello();
  }

  /** A board that holds no program with a link: it can be given one. */
  private empty(): void {
    if (this.saidEmpty) return;
    this.saidEmpty = true;
    this.hello();
    this.state();
  }

  private hello(): void {
    this.host.frame({
      kind: "hello",
      protocol: LINK_PROTOCOL,
      robot: this.host.robot,
      simulated: this.host.bench !== null,
      coreVersion: "",
      room: 1,
      buttons: [...this.buttons],
      plugs: [...this.plugs],
    });
    this.shelf(null);
  }

  private shelf(ask: number | null): void {
    const { manifest, greeting } = this;
    const unknown = greeting && {
      name: "A program of its own",
      sha256: "0".repeat(64),
      bytes: 0,
      label: "this browser did not put it there",
      origin: "",
      savedAt: "",
    };
    const entry = manifest ?? unknown;
    const entries = entry
      ? [entry].map(({ name, sha256, bytes, label, origin, savedAt }) => ({
          name,
          sha256,
          bytes,
          label,
          origin,
          savedAt,
        }))
      : [];
    this.host.frame({ kind: "shelf", ask, entries });
  }

  private follow(doing: "idle" | "running" | "driven"): void {
    if (doing !== "idle" && !this.run) {
      this.runCount += 1;
      this.run = new BoardRun(this.manifest, this.begin);
      this.display = "";
      this.light = "";
      this.step = null;
      this.why = "";
    }
    this.starting = this.starting && doing === "idle";
    const ended = doing === "idle" && this.run !== null && this.doing !== "idle";
    this.doing = doing;
    // Its last word was lost on the way.
    if (ended) this.ended(this.told?.why ? whyBriefly(this.told.why) : RESTARTED);
    else this.state();
  }

  private state(): void {
    const { told, manifest, begin } = this;
    if (!told && !this.saidEmpty) return;
    this.host.frame({
      kind: "state",
      doing: this.doing,
      run: this.runCount,
      mission: this.doing === "driven" ? null : (manifest?.name ?? null),
      sha256: manifest?.sha256 ?? null,
      packVolts: told?.packVolts ?? 0,
      windingC: null,
      display: this.display,
      light: this.light,
      driver: this.doing === "idle" ? "nobody" : "you",
      begin,
      field: manifest?.field ?? "",
      unplugged: [...this.unplugged],
      pace: 1,
      hand: told?.hand ?? "itself",
      why: this.why,
    });
  }

  private pose(pose: BoardPose): void {
    const { run } = this;
    if (!run) return;
    run.takePose(pose);
    const at = run.reckoned(pose);
    const watched = this.manifest?.watched ?? [];
    this.host.frame({
      kind: "readings",
      run: this.runCount,
      tick: pose.tick,
      xM: at.xM,
      yM: at.yM,
      headingRad: at.headingRad,
      leftMS: pose.speedMS[0],
      rightMS: pose.speedMS[1],
      leftDuty: pose.duty[0],
      rightDuty: pose.duty[1],
      packVolts: pose.packVolts,
      packAmps: null,
      motorAmps: [],
      motorC: [],
      seen: this.seen && { robot: this.seen, loads: [] },
      seq: pose.seq,
      values: Object.fromEntries(watched.map((id, i) => [id, run.values[i] as number])),
    });
    const known = pose.step === null ? null : this.manifest?.steps[pose.step];
    if (pose.step !== this.step && known)
      this.host.frame({
        kind: "step",
        run: this.runCount,
        tick: pose.tick,
        line: known.line,
        step: known.step,
        endedBy: null,
      });
    this.step = pose.step;
  }

  private stepped(word: Extract<BoardWord, { kind: "step" }>): void {
    const step = this.run?.takeStep(word);
    if (!step) return;
    this.host.frame({
      kind: "step",
      run: this.runCount,
      tick: word.to,
      line: step.line,
      step: step.step,
      endedBy: step.endedBy,
    });
  }

  private said(what: "note" | "show" | "light" | "beep", text: string): void {
    const { run } = this;
    if (!run) return;
    run.takeText(what, text);
    const note = run.newestNote;
    if (what === "note" && note)
      return this.host.frame({
        kind: "note",
        run: this.runCount,
        tick: note.atMs / 10,
        name: note.name,
        value: note.value,
      });
    if (what === "note") return;
    if (what === "show") this.display = text;
    if (what === "light") this.light = text;
    this.host.frame({ kind: "sign", run: this.runCount, tick: 0, sign: what, text });
    this.state();
  }

  private ended(reason: string, tick?: number): void {
    const { run } = this;
    if (!run) return;
    const driven = this.doing === "driven";
    this.run = null;
    this.last = run;
    this.doing = "idle";
    this.why = reason;
    const summary = run.summary(reason, tick);
    this.host.frame({
      kind: "ended",
      run: this.runCount,
      mission: driven ? null : (this.manifest?.name ?? null),
      summary,
    });
    this.state();
  }

  /** What a board of this computer says beside its line. */
  hearBench(frame: FromBench): void {
    if (frame.told === "board") {
      this.buttons = frame.buttons;
      this.plugs = frame.plugs;
      this.pace = frame.pace;
      this.heardNow();
      if (this.greeting) this.hello();
    }
    if (frame.told === "seen") this.seen = { xM: frame.xM, yM: frame.yM, headingRad: frame.headingRad };
  }

  // What is asked of it

  /** Carries out what a robot on the link is asked. */
  async obey(frame: ToRobot): Promise<void> {
    if (frame.kind === "hello") return;
    if (frame.kind === "hands" || frame.kind === "drive") return this.held(frame);
    const answer = (why: string | null) =>
      this.host.frame(why === null ? { kind: "done", ask: frame.ask } : { kind: "refused", ask: frame.ask, why });
    if (this.busyPutting) return answer("A mission is being put on the board. Wait until that has ended.");
    switch (frame.kind) {
      case "shelf":
        return this.shelf(frame.ask);
      case "put":
        this.putting = {
          ask: frame.ask,
          text: "",
          head: {
            name: frame.name,
            sha256: frame.sha256,
            bytes: frame.bytes,
            label: frame.label,
            origin: frame.origin,
          },
        };
        return answer(null);
      case "part":
        return answer(await this.part(frame.at, frame.text));
      case "remove":
        return answer("A board always holds one mission. Put another one on it.");
      case "run":
        return answer(await this.start(frame.name));
      case "halt":
      case "leave":
        return answer(await this.ask((ask) => ({ kind: "halt", ask })));
      case "readings":
        this.wantsReadings = frame.on;
        return answer(await this.tell());
      case "trace":
        return this.tellTrace(frame.ask);
      default:
        return this.byHands(frame);
    }
  }

  /** A board forgets with every start that it is to tell its readings. @returns why not, or null */
  private tell(): Promise<string | null> {
    const everyTicks = this.wantsReadings ? TELL_EVERY_TICKS : 0;
    return this.ask((ask) => ({ kind: "tell", ask, everyTicks }));
  }

  private tellAgain(): void {
    if (this.wantsReadings) void this.tell();
  }

  private held(frame: Extract<ToRobot, { kind: "hands" | "drive" }>): void {
    const seq = frame.seq & 0xffff;
    if (frame.kind === "drive") this.order({ kind: "drive", seq, left: frame.left, right: frame.right });
    else {
      const { sticks, levels, buttons } = frame;
      this.order({ kind: "hands", seq, handset: { sticks, levels, buttons } });
    }
  }

  private async start(name: string): Promise<string | null> {
    const { manifest } = this;
    if (!manifest) return "This browser does not know the program on this board. Put the mission on it.";
    if (name !== manifest.name) return `The board holds "${manifest.name}", not "${name}". Send it first.`;
    if (this.doing !== "idle") return "The robot is busy with a run. Halt it first.";
    this.starting = true;
    const limitTicks = manifest.handsOver ? HANDS_LIMIT_TICKS : LIMIT_TICKS;
    const why = await this.ask((ask) => ({ kind: "run", ask, limitTicks }));
    if (why === null) return null;
    this.starting = false;
    // Its answer was lost, and the second order met a robot that runs already.
    return (this.doing as string) === "running" ? null : why;
  }

  private async part(at: number, text: string): Promise<string | null> {
    const { putting } = this;
    if (!putting) return "This part belongs to no put. Begin the put again.";
    if (at !== putting.text.length) {
      this.putting = null;
      return "A part is missing. Begin the put again.";
    }
    putting.text += text;
    if (putting.text.length < putting.head.bytes && !isWhole(putting.text)) return null;
    this.putting = null;
    const read = readPackage(putting.text);
    if (!read) return "What was sent is not a program package.";
    if (this.doing !== "idle") await this.ask((ask) => ({ kind: "halt", ask }));
    this.busyPutting = true;
    try {
      const put = await this.host.put({ ...putting.head, program: read });
      if (!put.ok) return put.why;
    } finally {
      this.busyPutting = false;
      this.greeting = null;
      this.heardNow();
    }
    return this.untilGreeted();
  }

  /** The board starts with what was put on it. */
  private untilGreeted(): Promise<string | null> {
    return new Promise((resolve) => {
      const look = (left: number) => {
        if (this.greeting) return resolve(null);
        if (left === 0) return resolve("The mission is on the board, but the board does not answer. Reset it.");
        this.order({ kind: "hello" });
        this.host.after(AGAIN.afterMs, () => look(left - 1));
      };
      look(20);
    });
  }

  private tellTrace(ask: number): void {
    const { last } = this;
    if (!last)
      return this.host.frame({ kind: "refused", ask, why: "This robot has finished no run since it was linked." });
    const trace = last.trace();
    const rows = trace.columns[0]?.values.length ?? 0;
    this.host.frame({
      kind: "trace",
      ask,
      run: this.runCount,
      tickMs: trace.tickMs,
      rows,
      columns: trace.columns.map(({ id, quantity, unit }) => ({ id, quantity, unit })),
      events: trace.events.slice(0, 4000).map(({ tick, kind, stepId, data }) => ({ tick, kind, stepId, data })),
    });
    for (let row = 0; row < rows; row += TRACE_ROWS)
      this.host.rows(writeTraceRows(trace, this.runCount, row, TRACE_ROWS));
  }

  /** What only a person's hands can do, or the bench of a board on this computer. */
  private async byHands(
    frame: Extract<ToRobot, { kind: "press" | "place" | "tape" | "pack" | "pace" | "radio" | "fault" }>,
  ): Promise<void> {
    const { ask } = frame;
    const refuse = (why: string) => this.host.frame({ kind: "refused", ask, why });
    const done = () => {
      this.host.frame({ kind: "done", ask });
      this.state();
    };
    if (frame.kind === "pace" || frame.kind === "radio")
      return refuse("A board's time and radio are its own: this is for simulated robots.");
    const { bench } = this.host;
    if (!bench)
      return refuse("Nothing moves a real robot for you: put it down, press its buttons and read the tape yourself.");
    const what = this.benchOf(frame);
    if (!what) return refuse("A board on this computer cannot do that.");
    const answer = await bench(what);
    if (!answer) return refuse("The board on this computer did not answer. Try again.");
    if (answer.told === "refused") return refuse(answer.why);
    if (answer.told === "tape") {
      const { alongM, asideM, headingRad } = answer;
      return this.host.frame({ kind: "tape", ask, alongM, asideM, headingRad });
    }
    if (frame.kind === "place") this.begin = frame.begin;
    return done();
  }

  private benchOf(
    frame: Extract<ToRobot, { kind: "press" | "place" | "tape" | "pack" | "fault" }>,
  ): WithoutAsk<ToBench> | null {
    switch (frame.kind) {
      case "press":
        return { do: "press", button: frame.button, down: frame.down };
      case "place":
        return { do: "place", begin: frame.begin, how: frame.how, keepField: frame.fieldOf !== null };
      case "tape":
        return { do: "tape" };
      case "pack":
        return { do: "pack", charge: frame.charge };
      case "fault": {
        if (frame.fault === "restart") return { do: "reset" };
        if (frame.fault === "unplugged") {
          this.unplugged.add(frame.part);
          return { do: "plug", part: frame.part, in: false };
        }
        if (frame.fault === "none") {
          this.unplugged.clear();
          return { do: "plug", part: "", in: true };
        }
        if (frame.fault === "tired-pack") return { do: "pack", charge: 0.05 };
        if (frame.fault === "link-drops") this.lost(LINK_WAS_LOST);
        return null;
      }
    }
  }
}

/** A package may have more bytes than characters: it is whole when it reads. */
function isWhole(text: string): boolean {
  return text.endsWith("}") && readPackage(text) !== null;
}

function readPackage(text: string): ProgramPackage | null {
  try {
    const read = packageSchema.safeParse(JSON.parse(text));
    return read.success ? read.data : null;
  } catch {
    return null;
  }
}
