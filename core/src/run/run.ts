// One run of a program on a body: brain and body brought together tick by tick, whoever gives the time. Decides when it
// is over, counts zones when their time comes, judges the goal, records, and sums up.

import { Brain, type NoteRecord, type Remembered } from "../brain/brain.js";
import { readingLayout } from "../cairn/readings.js";
import type { DriveModel } from "../control/driveModel.js";
import type { Field } from "../field/schema.js";
import { outsideByM, type PlacedThings, scoreField, shapeHolds, zoneCount, zoneScores } from "../field/zones.js";
import type { Point, Pose } from "../geometry/pose.js";
import type { RandomStream } from "../math/random.js";
import { TICK_MS, TICK_SEC } from "../physics/constants.js";
import type { Program } from "../program/instructions.js";
import { failedWords } from "../program/link.js";
import type { EndedBy, Judge, StepRecord } from "../program/task.js";
import type { Handset } from "../remote/handset.js";
import type { RobotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import type { Sensor } from "../sensors/kinds/all.js";
import type { EchoRecord, SimulatedBody } from "../simulate/body.js";
import type { HeadWatch } from "../simulate/headWatch.js";
import type { TouchWatch } from "../simulate/touches.js";
import type { Heard, PoseDeg, RunSummary, StepSummary } from "../trials/summary.js";
import { RUN_COLUMNS, type Trace, type TraceEvent, TraceRecorder, traceHash } from "../trials/trace.js";
import { type WatchedReading, watchedReadings } from "../trials/watched.js";
import { plainDigits } from "../units/quantity.js";
import { Keeper } from "./memento.js";
import type { Observer } from "./observer.js";

/** No mission is followed for longer than this, ticks: ten minutes. */
const LONGEST_TICKS = 60_000;
/** After the mission's end the robot is watched until it stands, at most this long, ticks. */
const SETTLE_TICKS = 150;
const DEG_PER_RAD = 57.29577951308232;

/** A patient person: presses a button for a fifth of a second once a step waited a second for it. */
const PATIENCE = { everyTicks: 200, fromTick: 100, toTick: 120 } as const;

export interface RunResult {
  readonly summary: RunSummary;
  readonly trace: Trace;
}

/** A moment of a run. */
export interface Moment {
  readonly tick: number;
  /** Puts the run back to it. */
  restore(): void;
}

interface RunParts {
  readonly program: Program;
  readonly body: SimulatedBody;
  /** The robot as the program believes it to be, with what is in force of it. */
  readonly robot: Robot;
  readonly known: RobotInForce;
  readonly model: DriveModel;
  readonly field: Field;
  readonly chance: RandomStream;
  readonly start: Pose;
  /** Outline that is looked at for zones, of the robot's own frame. */
  readonly outlineM: readonly Point[];
  readonly observer: (brain: () => Brain) => Observer;
  /** Somebody stands by and presses the buttons that a step waits for. */
  readonly patient: boolean;
  /** Somebody can drive by hand. */
  readonly driven: boolean;
  readonly remembered?: Remembered;
}

export class Run implements Judge {
  readonly brain: Brain;
  readonly body: SimulatedBody;
  observer: Observer;
  readonly recorder: TraceRecorder;
  /** Sensor readings a trace keeps, each with its slot. */
  readonly watched: readonly WatchedReading[];
  private readonly field: Field;
  private readonly outlineM: readonly Point[];
  private readonly start: PoseDeg;
  private readonly patient: boolean;
  private readonly robot: Robot;
  /** Counts of zones with a time of their own, once that has come. */
  private readonly zonesCounted = new Map<string, number>();
  private endTick: number | null = null;
  private settled = 0;
  private finished = false;
  /** Parts of the goal that failed, and by how much; empty when it was met. */
  private goalFailed = "";
  private waitedTicks = 0;
  private keeper: Keeper | null = null;

  constructor(parts: RunParts) {
    const { program, body, robot, known, model, chance, remembered } = parts;
    this.body = body;
    this.robot = robot;
    this.field = parts.field;
    this.outlineM = parts.outlineM;
    this.patient = parts.patient;
    this.start = poseDeg(parts.start);
    this.brain = new Brain({
      program,
      robot,
      known,
      model,
      raw: body.raw,
      chance,
      judge: this,
      ...(remembered ? { remembered } : {}),
    });
    this.brain.driven = parts.driven;
    this.observer = parts.observer(() => this.brain);
    this.watched = watchedReadings(robot);
    this.recorder = new TraceRecorder([
      ...RUN_COLUMNS,
      ...this.watched.map(({ id, unit }) => ({ id, quantity: id, unit })),
      ...this.observer.columns,
    ]);
    this.record();
  }

  /** What it runs. */
  get program(): Program {
    return this.brain.runner.program;
  }

  get done(): boolean {
    return this.finished;
  }

  /** What the driver holds; null while nothing is heard. */
  set handset(held: Handset | null) {
    this.body.raw.handset = held;
  }

  get handset(): Handset | null {
    return this.body.raw.handset;
  }

  /** Ends the run from outside; the robot still comes to rest. */
  stop(reason: string): void {
    this.brain.stop(reason);
  }

  /** This moment, to come back to. What it costs grows with how much the run has recorded of its steps. */
  moment(): Moment {
    const { recorder, brain } = this;
    this.keeper ??= new Keeper([this], [recorder, this.watched, this.observer, ...this.body.senses.scene.fixed]);
    const rows = recorder.count;
    const memento = this.keeper.moment();
    return {
      tick: brain.tick,
      restore: () => {
        memento.restore();
        recorder.count = rows;
      },
    };
  }

  /** One tick of 10 ms. */
  advance(): void {
    if (this.finished) return;
    const { brain, body } = this;
    body.sense();
    if (this.patient && !brain.end) this.pressWaitedButton();
    body.step(brain.step());
    if (body.broken !== null) brain.stop(body.broken);
    this.countZones();
    this.record();
    if (brain.end && this.endTick === null) this.endTick = brain.tick - 1;
    if (brain.tick >= LONGEST_TICKS && !brain.end) {
      const open = brain.records.at(-1);
      brain.stop(`the mission was still in step ${open?.step ?? "1"} after ten minutes: "${open?.text ?? ""}"`);
      this.endTick = brain.tick;
    }
    if (this.endTick === null) return;
    this.settled += 1;
    const { world } = body;
    const still = Math.abs(world.velocityX) + Math.abs(world.velocityY) + Math.abs(world.turnRateRadS) * 0.1 < 1e-4;
    if (still || this.settled >= SETTLE_TICKS) this.close();
  }

  /** Ends it at once, wherever it is. */
  close(): void {
    if (this.finished) return;
    const { brain } = this;
    brain.stop("it was stopped");
    const endTick = this.endTick ?? brain.tick;
    this.endTick = endTick;
    // The goal's clock stops with the mission; its zones are judged where the robot comes to rest.
    brain.snapshot[0] = endTick * TICK_SEC;
    this.goalFailed = this.failed();
    brain.runner.closeAll(endTick, brain.end?.outcome === "stopped" ? "bound" : "interrupted");
    this.finished = true;
  }

  /** What failed of the goal, in words; empty when it was met. */
  private failed(): string {
    const { task, runner } = this.brain;
    const { goal } = runner.linked;
    return goal && goal.test(task) === 0 ? failedWords(goal.parts, task) || goal.text : "";
  }

  /** The same as another observer sees it. */
  failedSeenBy(other: Observer): string {
    const { observer } = this;
    this.observer = other;
    const words = this.failed();
    this.observer = observer;
    return words;
  }

  /** @throws RangeError before the run is over */
  result(): RunResult {
    if (!this.finished) throw new RangeError("the run is not over yet");
    const { brain, body, observer, field } = this;
    const { notes, dropped } = brain.kept;
    const trace = this.recorder.finish(TICK_MS, runEvents(brain.records, notes, body));
    const reason = this.reason();
    const standing = this.standing();
    const { tippedAt } = observer;
    return {
      trace,
      summary: {
        outcome: brain.end?.outcome ?? "stopped",
        success: reason === "",
        reason,
        durationMs: (this.endTick ?? 0) * TICK_MS,
        score: scoreField(field, standing),
        zones: zoneScores(field, standing).filter(({ count }) => count > 0),
        loads: standing.loads.map(({ name, pose, upright }) => ({ name, upright, ...poseDeg(pose) })),
        contacts: body.touch.touches,
        heard: heardThings(body.echoes),
        tippedMs: tippedAt === null ? null : tippedAt * TICK_MS,
        start: this.start,
        end: poseDeg(observer.pose()),
        traceHash: traceHash(trace),
        steps: brain.records.map(stepSummary),
        notesDropped: dropped,
        remembered: brain.remembers,
        notes: notes.map(({ tick, name, value }) => ({ atMs: tick * TICK_MS, name, value })),
        signs: brain.signs.map(({ tick, kind, text }) => ({ atMs: tick * TICK_MS, kind, text })),
      },
    };
  }

  private reason(): string {
    const { end, records } = this.brain;
    if (end?.outcome === "stopped") return end.reason;
    const limited = records.find((record) => record.endedBy === "limit");
    if (limited) return `step ${limited.step} reached its limit: "${limited.text}"`;
    return this.goalFailed === "" ? "" : `the goal was not met${this.observer.byWhom}: ${this.goalFailed}`;
  }

  /** Everything a score is made from. */
  private standing(): PlacedThings {
    return {
      robotOutlineM: this.outlineM,
      robotPose: this.observer.pose(),
      clockSec: this.brain.snapshot[0] as number,
      counted: this.zonesCounted,
      loads: this.observer.loads(),
    };
  }

  /** Zones with a time are counted when it comes. */
  private countZones(): void {
    for (const zone of this.field.zones) {
      if (zone.beforeSec === null || this.zonesCounted.has(zone.name)) continue;
      if (this.brain.tick * TICK_SEC < zone.beforeSec) continue;
      this.zonesCounted.set(zone.name, zoneCount(zone, { ...this.standing(), clockSec: zone.beforeSec }));
    }
  }

  private pressWaitedButton(): void {
    const { held } = this.body;
    const slots = this.brain.runner.waitedSlots();
    const button = slots.length > 0 ? buttonAt(this.robot, slots) : null;
    this.waitedTicks = button === null ? 0 : this.waitedTicks + 1;
    held.clear();
    const phase = this.waitedTicks % PATIENCE.everyTicks;
    if (button !== null && phase > PATIENCE.fromTick && phase <= PATIENCE.toTick) held.add(button);
  }

  private record(): void {
    const { brain, recorder, observer } = this;
    const { drive } = brain;
    const pose = observer.pose();
    recorder.put(0, pose.xM);
    recorder.put(1, pose.yM);
    recorder.put(2, pose.headingRad);
    recorder.put(3, observer.speedMS(0));
    recorder.put(4, observer.speedMS(1));
    recorder.put(5, drive.left.duty);
    recorder.put(6, drive.right.duty);
    recorder.put(7, drive.headingRad);
    recorder.put(8, observer.packVolts);
    let at = RUN_COLUMNS.length;
    for (const { slot } of this.watched) {
      recorder.put(at, brain.snapshot[slot] as number);
      at += 1;
    }
    observer.write(recorder, at);
    recorder.next();
  }

  // As judge

  /** `inside` asks for the robot, whatever the zone counts for points. */
  inside(zone: string): boolean {
    const shape = this.zoneShape(zone);
    return shape !== undefined && shapeHolds(shape, this.outlineM, this.observer.pose());
  }

  outsideM(zone: string): number {
    const shape = this.zoneShape(zone);
    return shape ? outsideByM(shape, this.outlineM, this.observer.pose()) : 0;
  }

  score(): number {
    return scoreField(this.field, this.standing()) ?? 0;
  }

  touched(but: readonly string[]): string {
    const touches = this.body.touch.touches.filter(({ what }) => !but.includes(what));
    const [first] = touches;
    if (!first) return "";
    const more = touches.length > 1 ? `, and ${touches.length - 1} more` : "";
    return `${first.part} touched ${first.what} at ${plainDigits(first.fromMs / 1000, 2)} s with ${plainDigits(first.hardestN, 1)} N${more}`;
  }

  touching(): boolean {
    return this.body.touch.touching();
  }

  private zoneShape(name: string) {
    return this.field.zones.find((zone) => zone.name === name)?.shape;
  }
}

/** The button one of these slots belongs to, by name; null when it is another reading. */
function buttonAt(robot: Robot, slots: readonly number[]): string | null {
  const layout = readingLayout(robot);
  for (let i = 0; i < robot.sensors.length; i += 1) {
    const sensor = robot.sensors[i] as Sensor;
    const base = layout.sensors[i] as number;
    if (sensor.kind === "button" && (slots.includes(base) || slots.includes(base + 1))) return sensor.name;
  }
  return null;
}

export function poseDeg(pose: Pose): PoseDeg {
  return { xM: pose.xM, yM: pose.yM, headingDeg: pose.headingRad * DEG_PER_RAD };
}

function stepSummary(record: StepRecord): StepSummary {
  const { step, pass, text, line, task, startTick, endTick, endedBy, timed } = record;
  return { step, pass, text, line, task, startMs: startTick * TICK_MS, endMs: endTick * TICK_MS, endedBy, timed };
}

/** What distance sensors heard. @param echoes - in order of time */
function heardThings(echoes: readonly EchoRecord[]): Heard[] {
  const things = new Map<string, { sensor: string; what: string; firstMs: number; nearestM: number }>();
  for (const { sensor, what, tick, distanceM } of echoes) {
    if (what === "") continue;
    const known = things.get(`${sensor}\n${what}`);
    if (known) known.nearestM = Math.min(known.nearestM, distanceM);
    else things.set(`${sensor}\n${what}`, { sensor, what, firstMs: tick * TICK_MS, nearestM: distanceM });
  }
  return [...things.values()];
}

function runEvents(
  records: readonly StepRecord[],
  notes: readonly NoteRecord[],
  seen: { readonly echoes: readonly EchoRecord[]; readonly touch: TouchWatch; readonly heads: HeadWatch },
): TraceEvent[] {
  const events: TraceEvent[] = records.flatMap((record) => [
    { tick: record.startTick, kind: "step begins", stepId: record.step, data: record.line },
    { tick: record.endTick, kind: "step ends", stepId: record.step, data: record.endedBy satisfies EndedBy },
  ]);
  for (const { tick, sensor, what } of seen.echoes) events.push({ tick, kind: "echo", stepId: sensor, data: what });
  events.push(...seen.heads.events);
  for (const { fromMs, part, what } of seen.touch.touches)
    events.push({ tick: Math.floor(fromMs / TICK_MS), kind: "touch", stepId: part, data: what });
  for (const note of notes) events.push({ tick: note.tick, kind: "note", stepId: note.name, data: note.value });
  return events;
}
