// One rehearsal of a mission: made ready, advanced in slices of any length, and summed up.

import { type CheckContext, type CheckResult, checkMission } from "../cairn/checker.js";
import { atTheirUse, type Collections, joinCollections } from "../cairn/collections.js";
import { compileMission, type Program } from "../cairn/compile.js";
import type { GoalHooks } from "../cairn/compileBase.js";
import { failedWords } from "../cairn/goals.js";
import { LineIndex, type Problem, wiredWrongly } from "../cairn/problems.js";
import { readingsOf } from "../cairn/readings.js";
import type { StepRecord, Task } from "../cairn/task.js";
import { headerValue, type Mission } from "../cairn/tree.js";
import { driveModel } from "../control/driveModel.js";
import { FloorRaster } from "../field/raster.js";
import { findBegin } from "../field/read.js";
import type { BeginPlace, Field } from "../field/schema.js";
import {
  loadOutline,
  outsideByM,
  type Standing,
  scoreField,
  shapeHolds,
  type ZoneScore,
  zoneCount,
  zoneScores,
} from "../field/zones.js";
import type { Pose } from "../geometry/pose.js";
import { randomStream } from "../math/random.js";
import type { Body } from "../physics/body.js";
import { TICK_MS } from "../physics/constants.js";
import { bodyPose, robotPose, worldFromRobot } from "../physics/fromRobot.js";
import type { Handset } from "../remote/handset.js";
import { robotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import { checkWiring } from "../robot/wiring.js";
import { loadColumns, RUN_COLUMNS, type Trace, type TraceEvent, TraceRecorder, traceHash } from "../trials/trace.js";
import { plainDigits } from "../units/quantity.js";
import type { HeadWatch } from "./headWatch.js";
import {
  type EchoRecord,
  type NoteRecord,
  RehearsalMachine,
  type Remembered,
  type RememberedValue,
} from "./machine.js";
import { type Adjustments, drawRun, idealDraw, type Scatter, usualScatter } from "./scatter.js";
import type { Touch, TouchWatch } from "./touches.js";

/** No mission is followed for longer than this, ticks: ten minutes. */
const LONGEST_TICKS = 60_000;
/** After the mission's end the robot is watched until it stands, at most this long, ticks. */
const SETTLE_TICKS = 150;
const DEG_PER_RAD = 57.29577951308232;

export interface PreparedMission {
  readonly mission: Mission;
  readonly check: CheckResult;
  readonly context: CheckContext;
  /** The field's floor, made where it is looked at; hand it on to the next preparation on the same field. */
  readonly floor: FloorRaster;
  /** Null while there are errors. */
  readonly program: Program | null;
  /** What runs: the mission's own text, and below it what it uses of collections. */
  readonly text: string;
}

/** Parses, checks and compiles. The zone tests of the goal look at the pose the run ends in. */
export function prepareMission(
  ownText: string,
  robot: Robot,
  field: Field,
  floor?: FloorRaster,
  collections: Collections = new Map(),
): PreparedMission {
  const { text, own, problems, mission } = joinCollections(ownText, collections);
  const context: CheckContext = { robot, drive: driveModel(robot), field };
  const whole = checkMission(mission, context);
  const check: CheckResult = {
    ...whole,
    problems: [...atTheirUse(mission, own, whole.problems), ...problems, ...wiringProblems(mission, robot)].sort(
      (a, b) => a.start - b.start || a.end - b.end,
    ),
    runnable: whole.runnable && problems.every(({ severity }) => severity !== "error"),
  };
  const ground = floor?.field === field ? floor : new FloorRaster(field);
  if (!check.runnable) return { mission, check, context, floor: ground, program: null, text };
  const program = compileMission(mission, check, context, {
    // `inside` asks for the robot, whatever the zone counts for points.
    insideZone: (zone) => (task) => {
      const shape = field.zones.find((candidate) => candidate.name === zone)?.shape;
      const machine = task.machine as RehearsalMachine;
      return shape && shapeHolds(shape, robot.chassis.outlineM, robotPose(robot, machine.world)) ? 1 : 0;
    },
    outsideBy: (zone) => (task) => {
      const shape = field.zones.find((candidate) => candidate.name === zone)?.shape;
      const machine = task.machine as RehearsalMachine;
      return shape ? outsideByM(shape, robot.chassis.outlineM, robotPose(robot, machine.world)) : 0;
    },
    score: (task) => scoreField(field, standingOf(field, task.machine as RehearsalMachine)) ?? 0,
    ...touchHooks(),
  });
  return { mission, check, context, floor: ground, program, text };
}

/** A robot wired wrongly drives in a rehearsal as far as its wheels go: the mission says so where it names the robot. */
function wiringProblems(mission: Mission, robot: Robot): Problem[] {
  const wrong = checkWiring(robot).filter(({ severity }) => severity === "error");
  const [first] = wrong;
  if (!first) return [];
  const at = mission.headers.find(({ word }) => word === "robot")?.valueSpan ?? { start: 0, end: 0 };
  return [wiredWrongly(at, robot.name, first.message, wrong.length - 1)];
}

/** What a judge says of touches: the same for rehearsals and for robots on a table. */
export function touchHooks(): Pick<GoalHooks, "untouched" | "touching" | "touchedWords"> {
  const others = (task: Task, but: readonly string[]) =>
    (task.machine as RehearsalMachine).touch.touches.filter(({ what }) => !but.includes(what));
  return {
    untouched: (but) => (task) => (others(task, but).length === 0 ? 1 : 0),
    touching: (task) => ((task.machine as RehearsalMachine).touch.touching() ? 1 : 0),
    touchedWords: (but) => (task) => {
      const touches = others(task, but);
      const [first] = touches;
      if (!first) return "";
      const more = touches.length > 1 ? `, and ${touches.length - 1} more` : "";
      return `${first.part} touched ${first.what} at ${plainDigits(first.fromMs / 1000, 2)} s with ${plainDigits(first.hardestN, 1)} N${more}`;
    },
  };
}

/** Where everything stands that a score is made from. */
export function standingOf(field: Field, machine: RehearsalMachine): Standing {
  const { world, robot } = machine;
  return {
    robotOutlineM: robot.chassis.outlineM,
    robotPose: robotPose(robot, world),
    clockSec: machine.snapshot[0] as number,
    counted: machine.zonesCounted,
    loads: field.loads.map((load, i) => {
      const body = world.bodies[i + 1] as Body;
      return {
        name: load.name,
        outlineM: loadOutline(load),
        pose: { xM: body.xM, yM: body.yM, headingRad: body.headingRad },
        upright: !body.tipped,
        held: body.lifted,
      };
    }),
  };
}

export interface RunOptions {
  readonly seed: number;
  readonly ideal: boolean;
  readonly scatter?: Scatter;
  readonly adjustments?: Adjustments;
  /** A driver's handset, tick by tick, for missions that hand over; without it such steps are skipped. */
  readonly hands?: (tick: number) => Handset | null;
  /** Values kept from an earlier run, by name; without them a run begins with the written ones. */
  readonly remembered?: Remembered;
}

export interface StepSummary {
  readonly step: string;
  readonly pass: number;
  readonly text: string;
  readonly line: number;
  readonly task: number;
  readonly startMs: number;
  readonly endMs: number;
  readonly endedBy: StepRecord["endedBy"];
  readonly timed: boolean;
}

export interface PoseDeg {
  readonly xM: number;
  readonly yM: number;
  readonly headingDeg: number;
}

export interface RunSummary {
  readonly outcome: "finished" | "stopped";
  readonly success: boolean;
  /** Why it stopped or did not succeed; empty on success. */
  readonly reason: string;
  readonly durationMs: number;
  readonly score: number | null;
  /** Zones that gave points, and where the loads ended. */
  readonly zones: readonly ZoneScore[];
  readonly loads: readonly (PoseDeg & { readonly name: string; readonly upright: boolean })[];
  /** What it touched, in order. */
  readonly contacts: readonly Touch[];
  /** What its distance sensors heard: each thing once, with when it was heard first and how near it came. */
  readonly heard: readonly Heard[];
  /** When a wheel lost the floor, if it did. */
  readonly tippedMs: number | null;
  readonly start: PoseDeg;
  readonly end: PoseDeg;
  readonly traceHash: string;
  readonly steps: readonly StepSummary[];
  readonly notes: readonly { readonly atMs: number; readonly name: string; readonly value: number | string }[];
  /** How many older notes made room for these. */
  readonly notesDropped: number;
  /** Values the mission keeps for its next run. */
  readonly remembered: readonly RememberedValue[];
  /** What the display, the light and the beeper did. */
  readonly signs: readonly { readonly atMs: number; readonly kind: "show" | "light" | "beep"; readonly text: string }[];
}

/** A thing that a distance sensor heard in a run. */
export interface Heard {
  readonly sensor: string;
  readonly what: string;
  readonly firstMs: number;
  readonly nearestM: number;
}

/** @param echoes - in order of time */
export function heardThings(echoes: readonly EchoRecord[]): Heard[] {
  const things = new Map<string, { sensor: string; what: string; firstMs: number; nearestM: number }>();
  for (const { sensor, what, tick, distanceM } of echoes) {
    if (what === "") continue;
    const known = things.get(`${sensor}\n${what}`);
    if (known) known.nearestM = Math.min(known.nearestM, distanceM);
    else things.set(`${sensor}\n${what}`, { sensor, what, firstMs: tick * TICK_MS, nearestM: distanceM });
  }
  return [...things.values()];
}

export interface RunResult {
  readonly summary: RunSummary;
  readonly trace: Trace;
}

export class Rehearsal {
  readonly recorder: TraceRecorder;
  readonly machine: RehearsalMachine;
  private readonly start: PoseDeg;
  private readonly watched: readonly { readonly id: string; readonly unit: string; readonly slot: number }[];
  private endTick: number | null = null;
  private settled = 0;
  private finished = false;
  private goalMet = true;
  /** Which parts of the goal failed, and by how much. */
  private goalFailed = "";
  private readonly hands: RunOptions["hands"] | null;

  /** @throws RangeError if the mission has errors, or its begin place is not on the field */
  constructor(
    private readonly prepared: PreparedMission,
    options: RunOptions,
  ) {
    const { program, context, mission } = prepared;
    if (!program) throw new RangeError("a mission with errors cannot be rehearsed");
    const { robot, field } = context;
    const begin = beginOf(mission, field);
    const chance = randomStream(options.seed);
    const draw = options.ideal
      ? idealDraw(robot)
      : drawRun(robot, options.scatter ?? usualScatter(), chance, options.adjustments, begin.put ?? null);
    const world = worldFromRobot(robot, field, draw.deviations);
    const pose: Pose = {
      xM: begin.xM + draw.startXM,
      yM: begin.yM + draw.startYM,
      headingRad: begin.headingRad + draw.startRad,
    };
    world.place(bodyPose(robot, pose));
    this.watched = watchedReadings(robot);
    this.recorder = new TraceRecorder([
      ...RUN_COLUMNS,
      ...this.watched.map(({ id, unit }) => ({ id, quantity: id, unit })),
      ...field.loads.flatMap((load) => loadColumns(load.name)),
    ]);
    this.start = poseDeg(pose);
    this.machine = new RehearsalMachine({
      program,
      world,
      robot,
      field,
      floor: prepared.floor,
      known: robotInForce(robot),
      model: context.drive,
      draw,
      chance,
      ...(options.remembered ? { remembered: options.remembered } : {}),
    });
    this.hands = options.hands ?? null;
    this.machine.driven = this.hands !== null;
    this.record();
  }

  get done(): boolean {
    return this.finished;
  }

  get tick(): number {
    return this.machine.tick;
  }

  /** Runs up to `ticks` more ticks. @returns true once the run is over */
  advance(ticks: number): boolean {
    for (let i = 0; i < ticks && !this.finished; i += 1) this.advanceOne();
    return this.finished;
  }

  private advanceOne(): void {
    const { machine } = this;
    if (this.hands) machine.handset = this.hands(machine.tick);
    machine.advance();
    this.countZones();
    this.record();
    if (machine.end && this.endTick === null) {
      this.endTick = machine.tick - 1;
      // The goal's clock stops with the mission; its zones are judged where the robot comes to rest.
    }
    if (machine.tick >= LONGEST_TICKS && !machine.end) {
      const open = machine.records.at(-1);
      machine.stop(`the mission was still in step ${open?.step ?? "1"} after ten minutes: "${open?.text ?? ""}"`);
      this.endTick = machine.tick;
    }
    if (this.endTick === null) return;
    this.settled += 1;
    const { world } = machine;
    const still = Math.abs(world.velocityX) + Math.abs(world.velocityY) + Math.abs(world.turnRateRadS) * 0.1 < 1e-4;
    if (still || this.settled >= SETTLE_TICKS) this.close();
  }

  /** Zones with a time are counted when it comes. */
  private countZones(): void {
    const { machine } = this;
    const { field } = this.prepared.context;
    for (const zone of field.zones) {
      if (zone.beforeSec === null || machine.zonesCounted.has(zone.name)) continue;
      if (machine.tick * machine.tickSec < zone.beforeSec) continue;
      machine.zonesCounted.set(zone.name, zoneCount(zone, { ...standingOf(field, machine), clockSec: zone.beforeSec }));
    }
  }

  private close(): void {
    const { program } = this.prepared;
    const { machine } = this;
    machine.snapshot[0] = (this.endTick ?? 0) * machine.tickSec;
    if (program?.goal) {
      this.goalMet = program.goal.test(machine.task) !== 0;
      if (!this.goalMet) this.goalFailed = failedWords(program.goal.parts, machine.task) || program.goal.text;
    }
    machine.runner.closeAll(this.endTick ?? machine.tick, machine.end?.outcome === "stopped" ? "bound" : "interrupted");
    this.finished = true;
  }

  private record(): void {
    const { world, drive } = this.machine;
    const { recorder } = this;
    const pose = robotPose(this.prepared.context.robot, world);
    const [left, right] = world.wheels;
    recorder.put(0, pose.xM);
    recorder.put(1, pose.yM);
    recorder.put(2, pose.headingRad);
    recorder.put(3, left ? left.spinRadS * left.spec.radiusM : 0);
    recorder.put(4, right ? right.spinRadS * right.spec.radiusM : 0);
    recorder.put(5, drive.left.duty);
    recorder.put(6, drive.right.duty);
    recorder.put(7, drive.headingRad);
    recorder.put(8, world.packVolts);
    let at = RUN_COLUMNS.length;
    for (const { slot } of this.watched) {
      recorder.put(at, this.machine.snapshot[slot] as number);
      at += 1;
    }
    for (let i = 1; i < world.bodies.length; i += 1) {
      const load = world.bodies[i] as Body;
      recorder.put(at, load.xM);
      recorder.put(at + 1, load.yM);
      recorder.put(at + 2, load.headingRad);
      at += 3;
    }
    recorder.next();
  }

  /** @throws RangeError before the run is over */
  result(): RunResult {
    if (!this.finished) throw new RangeError("the rehearsal is not over yet");
    const { machine } = this;
    const { robot, field } = this.prepared.context;
    const trace = this.recorder.finish(TICK_MS, runEvents(machine.records, machine.kept.notes, machine));
    const pose = robotPose(robot, machine.world);
    const reason = this.reason();
    const steps = machine.records.map(stepSummary);
    return {
      trace,
      summary: {
        outcome: machine.end?.outcome ?? "stopped",
        success: reason === "",
        reason,
        durationMs: (this.endTick ?? 0) * TICK_MS,
        score: scoreField(field, standingOf(field, machine)),
        zones: zoneScores(field, standingOf(field, machine)).filter(({ count }) => count > 0),
        loads: standingOf(field, machine).loads.map(({ name, pose: at, upright }) => ({
          name,
          upright,
          ...poseDeg(at),
        })),
        contacts: machine.touch.touches,
        heard: heardThings(machine.echoes),
        tippedMs: machine.tippedAt === null ? null : machine.tippedAt * TICK_MS,
        start: this.start,
        end: poseDeg(pose),
        traceHash: traceHash(trace),
        steps,
        notesDropped: machine.kept.dropped,
        remembered: machine.remembers,
        notes: machine.kept.notes.map(({ tick, name, value }) => ({ atMs: tick * TICK_MS, name, value })),
        signs: machine.signs.map(({ tick, kind, text }) => ({ atMs: tick * TICK_MS, kind, text })),
      },
    };
  }

  private reason(): string {
    const { end, records } = this.machine;
    if (end?.outcome === "stopped") return end.reason;
    const limited = records.find((record) => record.endedBy === "limit");
    if (limited) return `step ${limited.step} reached its limit: "${limited.text}"`;
    return this.goalMet ? "" : `the goal was not met: ${this.goalFailed}`;
  }
}

/** Readings of the sensors a trace keeps, each with its slot. */
export function watchedReadings(robot: Robot): { id: string; unit: string; slot: number }[] {
  const heads = robot.servos.filter((servo) => servo.kind === "positional");
  const sensors = robot.sensors.filter((sensor) => sensor.kind !== "gyro");
  const names = [...sensors, ...heads].map((part) => part.name);
  return [...readingsOf(robot)].flatMap(([id, reading]) =>
    // What is dark follows from the light; colours change too seldom to keep tick by tick.
    !/\.(dark|colour|nearest|clearest)$/.test(id) &&
    names.some((name) => id.startsWith(`${name}.`) || id.startsWith(`${name}[`))
      ? [{ id, slot: reading.slot, unit: id.endsWith(".distance") ? "m" : id.endsWith(".angle") ? "rad" : "1" }]
      : [],
  );
}

/** Begin place of a mission on a field. @throws RangeError if it is not there */
export function beginOf(mission: Mission, field: Field): BeginPlace {
  const begin = findBegin(field, headerValue(mission, "begin"));
  if (begin) return begin;
  return { name: "middle", xM: field.size.widthM / 2, yM: field.size.heightM / 2, headingRad: 0 };
}

export function poseDeg(pose: Pose): PoseDeg {
  return { xM: pose.xM, yM: pose.yM, headingDeg: pose.headingRad * DEG_PER_RAD };
}

export function stepSummary(record: StepRecord): StepSummary {
  const { step, pass, text, line, task, startTick, endTick, endedBy, timed } = record;
  return { step, pass, text, line, task, startMs: startTick * TICK_MS, endMs: endTick * TICK_MS, endedBy, timed };
}

export function runEvents(
  records: readonly StepRecord[],
  notes: readonly NoteRecord[],
  seen: { readonly echoes: readonly EchoRecord[]; readonly touch: TouchWatch; readonly heads: HeadWatch },
): TraceEvent[] {
  const events: TraceEvent[] = records.flatMap((record) => [
    { tick: record.startTick, kind: "step begins", stepId: record.step, data: record.line },
    { tick: record.endTick, kind: "step ends", stepId: record.step, data: record.endedBy },
  ]);
  for (const { tick, sensor, what } of seen.echoes) events.push({ tick, kind: "echo", stepId: sensor, data: what });
  events.push(...seen.heads.events);
  for (const { fromMs, part, what } of seen.touch.touches)
    events.push({ tick: Math.floor(fromMs / TICK_MS), kind: "touch", stepId: part, data: what });
  for (const note of notes) events.push({ tick: note.tick, kind: "note", stepId: note.name, data: note.value });
  return events;
}

/** A whole rehearsal at once. */
export function rehearse(prepared: PreparedMission, options: RunOptions): RunResult {
  const rehearsal = new Rehearsal(prepared, options);
  while (!rehearsal.advance(1000));
  return rehearsal.result();
}

/** A problem as people and scripts see it. */
export interface PlacedProblem {
  readonly code: string;
  readonly severity: "error" | "warning";
  readonly line: number;
  readonly column: number;
  readonly length: number;
  readonly message: string;
  readonly mend: string | null;
}

export function placeProblem(text: string, problem: Problem): PlacedProblem {
  return placeProblems(text, [problem])[0] as PlacedProblem;
}

/** Problems of one text with their places: the text is looked through once. */
export function placeProblems(text: string, problems: readonly Problem[]): PlacedProblem[] {
  const index = new LineIndex(text);
  return problems.map(({ code, severity, message, mend, start, end }) => ({
    code,
    severity,
    ...index.at(start),
    length: Math.max(0, end - start),
    message,
    mend: mend ? mend.label : null,
  }));
}
