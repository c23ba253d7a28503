// What a board told of one run, put together as a robot's own record of it: steps, texts, a trace, a summary.
import { composePoses, type Pose } from "../../geometry/pose.js";
import { TICK_MS } from "../../physics/constants.js";
import { type RunSummary, runSummarySchema, type StepSummary } from "../../trials/summary.js";
import { RUN_COLUMNS, type Trace, TraceRecorder } from "../../trials/trace.js";
import { HALTED } from "../limits.js";
import type { BoardPose, BoardWhy, BoardWord } from "./boardFrames.js";
import type { BoardManifest } from "./boardManifest.js";

const DEG_PER_RAD = 57.29577951308232;
/** Notes and signs of one run that are kept. */
const MOST_TEXTS = 2000;
const COUNTS = [
  { id: "leftCounts", quantity: "left encoder counts", unit: "1" },
  { id: "rightCounts", quantity: "right encoder counts", unit: "1" },
] as const;

export const LINK_WAS_LOST = "the link was lost";
export const RESTARTED = "the board restarted";

/** Why a run ended, as a half sentence; empty for one that came to its end. */
export function whyWords(why: BoardWhy, a: number, b: number, manifest: BoardManifest | null): string {
  const step = (i: number) => manifest?.steps[i]?.step ?? String(i + 1);
  switch (why) {
    case "finished":
      return "";
    case "halted":
      return HALTED;
    case "silent":
      return LINK_WAS_LOST;
    case "crashed":
      return "its program hung, and the watchdog switched the motors off";
    case "never ended":
      return `step ${step(a)} never ended within ${b} s`;
    case "clash":
      return `steps ${step(a)} and ${step(b)} both want the same part at the same time`;
    case "no sender":
      return "it waited for a signal that nobody can send any more";
    case "guard loops":
      return `step ${step(a)} was interrupted again and again, and got no further`;
    case "too long":
      return "a loop in it never gives up its tick";
    case "list full":
      return `step ${step(a)} adds to a list that is full`;
    case "outside list":
      return `step ${step(a)} asks for a place that its list does not have`;
    case "tasks":
      return "it wanted to do more things at once than it has room for";
    case "text":
      return "a text in it was too long";
    case "beyond":
      return `step ${step(a)} reckons with a number that is too large`;
    case "damaged":
      return "the program on the board is damaged";
  }
}

/** The same where only the kind is known: its step and its numbers were told once, and are gone. */
export function whyBriefly(why: BoardWhy): string {
  const whole = why === "finished" || why === "halted" || why === "silent" || why === "crashed";
  return whole ? whyWords(why, 0, 0, null) : "it stopped early, and its reason was lost on the way";
}

export class BoardRun {
  private readonly recorder: TraceRecorder;
  private readonly steps: StepSummary[] = [];
  private readonly notes: { atMs: number; name: string; value: number | string }[] = [];
  private readonly signs: { atMs: number; kind: "show" | "light" | "beep"; text: string }[] = [];
  private notesDropped = 0;
  /** How often each step was told. */
  private readonly passes = new Map<string, number>();
  private tick = 0;
  values: number[];
  private latest: Pose;

  /** @param begin - where it was put down */
  constructor(
    private readonly manifest: BoardManifest | null,
    private readonly begin: Pose,
  ) {
    const watched = manifest?.watched ?? [];
    this.recorder = new TraceRecorder([
      ...RUN_COLUMNS,
      ...watched.map((id) => ({ id, quantity: id, unit: id.endsWith(".distance") ? "m" : "1" })),
      ...COUNTS,
    ]);
    this.values = watched.map(() => 0);
    this.latest = begin;
  }

  /** Where it reckons to be on its field. */
  reckoned(pose: BoardPose): Pose {
    return composePoses(this.begin, pose);
  }

  takePose(pose: BoardPose): void {
    const at = this.reckoned(pose);
    this.latest = at;
    const row = [
      at.xM,
      at.yM,
      at.headingRad,
      ...pose.speedMS,
      ...pose.duty,
      pose.headingRad,
      pose.packVolts,
      ...this.values,
      ...pose.counts,
    ];
    // Every tick has a row: those that were not told of are as the next one.
    for (; this.tick <= pose.tick && this.tick < MOST_TICKS; this.tick += 1) {
      for (let i = 0; i < row.length; i += 1) this.recorder.put(i, row[i] as number);
      this.recorder.next();
    }
  }

  takeValues(first: number, values: readonly number[]): void {
    values.forEach((value, i) => {
      if (first + i < this.values.length) this.values[first + i] = value;
    });
  }

  takeStep(word: Extract<BoardWord, { kind: "step" }>): StepSummary | null {
    const known = this.manifest?.steps[word.step];
    const name = known?.step ?? String(word.step + 1);
    const pass = (this.passes.get(name) ?? 0) + 1;
    this.passes.set(name, pass);
    const step = {
      step: name,
      pass,
      text: known?.text ?? "",
      line: known?.line ?? 1,
      task: word.task,
      startMs: word.from * TICK_MS,
      endMs: word.to * TICK_MS,
      endedBy: word.how,
      timed: true,
    };
    const read = runSummarySchema.shape.steps.unwrap().element.safeParse(step);
    if (!read.success) return null;
    this.steps.push(read.data);
    return read.data;
  }

  takeText(what: "note" | "show" | "light" | "beep", text: string): void {
    const atMs = this.tick * TICK_MS;
    if (what === "note") {
      const [name = "", ...rest] = text.split(" = ");
      const words = rest.join(" = ");
      const value = words !== "" && Number.isFinite(Number(words)) ? Number(words) : words;
      this.notes.push({ atMs, name, value });
      if (this.notes.length > MOST_TEXTS) {
        this.notes.shift();
        this.notesDropped += 1;
      }
    } else if (this.signs.length < MOST_TEXTS) this.signs.push({ atMs, kind: what, text });
  }

  get newestNote(): { readonly atMs: number; readonly name: string; readonly value: number | string } | null {
    return this.notes.at(-1) ?? null;
  }

  /** @param reason - empty for one that came to its end */
  summary(reason: string, tick = this.tick): RunSummary {
    const deg = ({ xM, yM, headingRad }: Pose) => ({ xM, yM, headingDeg: headingRad * DEG_PER_RAD });
    return {
      outcome: reason === "" ? "finished" : "stopped",
      success: reason === "",
      reason,
      durationMs: tick * TICK_MS,
      score: null,
      start: deg(this.begin),
      end: deg(this.latest),
      traceHash: "",
      steps: this.steps,
      zones: [],
      loads: [],
      contacts: [],
      heard: [],
      tippedMs: null,
      notes: this.notes,
      notesDropped: this.notesDropped,
      remembered: [],
      signs: this.signs,
    };
  }

  trace(): Trace {
    return this.recorder.finish(
      TICK_MS,
      this.steps.map(({ step, startMs, text }) => ({
        tick: startMs / TICK_MS,
        kind: "step",
        stepId: step,
        data: text,
      })),
    );
  }
}

/** No run is recorded for longer than this, ticks: ten minutes. */
const MOST_TICKS = 60_000;
