// What a robot's own processor does in a tick: corrects and adds up the gyro, counts its way, makes readings of what it
// senses, runs the tasks, moves drive and parts, and gives orders. It knows the program, the knowns of its robot and its
// board; it knows no world, no field, no noise and no tape.

import { moverOf } from "../cairn/effects.js";
import { MOTOR_SLOTS, type ReadingLayout, readingLayout, SLOT } from "../cairn/readings.js";
import { DriveControl } from "../control/drive.js";
import type { DriveModel } from "../control/driveModel.js";
import type { Motion } from "../control/motions.js";
import type { PartControl, PartMotion } from "../control/partMotion.js";
import { boardSign } from "../drives/shafts.js";
import { gearTrain } from "../drives/train.js";
import type { RandomStream } from "../math/random.js";
import { cos, sin, TAU } from "../math/trig.js";
import { TICK_SEC } from "../physics/constants.js";
import type { MotorMode } from "../physics/parts.js";
import type { Program } from "../program/instructions.js";
import { wordsOf } from "../program/linkCode.js";
import { type ListState, newLists } from "../program/lists.js";
import { Runner } from "../program/runner.js";
import type { Judge, Machine, SignKind, StepRecord, Task, Value } from "../program/task.js";
import type { Handset } from "../remote/handset.js";
import { stopDistanceM } from "../robot/found.js";
import type { RobotInForce, SideInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import { FeltMotor, FeltPart, givePower, type PartOrder } from "./feltPart.js";
import { Perception } from "./perceive.js";
import {
  type Commands,
  type MotorCommand,
  type RawSenses,
  type RawServo,
  restingCommands,
  type ServoCommand,
} from "./raw.js";

export interface NoteRecord {
  readonly tick: number;
  readonly name: string;
  readonly value: Value;
}

/** A value that stays on the robot: SI or a text, and in words. */
export interface RememberedValue {
  readonly name: string;
  readonly value: Value;
  readonly words: string;
  /** "a length", "a truth (yes or no)": kept values of another kind count for nothing. */
  readonly kind: string;
}

/** Kept values by their name. */
export type Remembered = Readonly<Record<string, Pick<RememberedValue, "value" | "kind">>>;

/** So many notes are kept, the newest; they are dropped in lots. */
const MOST_NOTES = 10_000;
const NOTES_SLACK = 1000;
/** A wheel whose motor pushes this hard and that turns slower than this is stalled. */
const WHEEL_STALL = { duty: 0.3, speedMS: 0.01 } as const;

/** Something shown, lit or beeped. */
interface SignRecord {
  readonly tick: number;
  readonly kind: SignKind;
  readonly text: string;
}

/** How a run came to its end. */
type MachineEnd = { readonly outcome: "finished" } | { readonly outcome: "stopped"; readonly reason: string };

/** What a brain is made from. */
interface BrainParts {
  readonly program: Program;
  /** The robot as the program believes it to be. */
  readonly robot: Robot;
  readonly known: RobotInForce;
  readonly model: DriveModel;
  /** Where its senses are put before each tick. */
  readonly raw: RawSenses;
  /** What a mission's own chance is drawn from. */
  readonly chance: RandomStream;
  readonly judge: Judge;
  /** Values the robot kept from an earlier run of this mission, by name. */
  readonly remembered?: Remembered;
}

/** One side of the drive, as the motor's readings need it. */
interface WheelMotor {
  readonly index: number;
  readonly countsPerTurn: number | null;
  /** Way of its wheel for one turn of the wheel, m. */
  readonly rollPerTurnM: number;
  /** Turns of the motor's output shaft for one turn of the wheel. */
  readonly shaftRatio: number;
}

export class Brain implements Machine {
  tick = 0;
  readonly tickSec = TICK_SEC;
  readonly snapshot: Float64Array;
  readonly globals: Value[];
  readonly lists: readonly ListState[];
  readonly records: StepRecord[] = [];
  readonly notes: NoteRecord[] = [];
  readonly drive: DriveControl;
  readonly signs: SignRecord[] = [];
  readonly runner: Runner;
  readonly robot: Robot;
  readonly chance: RandomStream;
  readonly judge: Judge;
  /** Orders of the latest tick. */
  readonly commands: Commands;
  end: MachineEnd | null = null;
  motionArrived = false;
  /** Where its senses are put before each tick. */
  readonly senses: RawSenses;
  private readonly known: RobotInForce;
  private readonly layout: ReadingLayout;
  private readonly perception: Perception;
  private readonly wheelMotors: readonly WheelMotor[];
  /** Of each motor that drives no wheel. */
  private readonly motors: readonly (FeltMotor | null)[];
  private readonly parts = new Map<string, FeltPart>();
  /** Parts that attachments are, made when they are first felt. */
  private fitted: readonly (FeltPart | null)[] | null = null;
  private readonly orders = new Map<string, PartOrder | null>();
  private motion: Motion | null = null;
  private readonly passes = new Map<string, number>();
  /** By what moves them, each with the part that was named: angles are that part's. */
  private readonly movingParts = new Map<string, { readonly motion: PartMotion; readonly part: FeltPart }>();
  /** What `reset` made zero: place, way and heading of the robot, heading of the gyro. */
  private readonly zero = { xM: 0, yM: 0, travelM: 0, asideM: 0, headingRad: 0, gyroRad: 0 };
  private notesDropped = 0;
  /** Sum of the gyro's readings, rad. */
  private gyroRad = 0;
  /** Drivers that are only on or off: what is still owed of each drive's duty. */
  private readonly owed: Float64Array;
  private readonly onOff: boolean;
  /** -1 for a shaft whose motor the board turns about. */
  private readonly directions: readonly (1 | -1)[];
  /** Counts of each shaft, forward positive. */
  private readonly counted: (number | null)[];

  constructor(parts: BrainParts) {
    const { program, robot, known, model, raw, chance, judge } = parts;
    this.senses = raw;
    this.robot = robot;
    this.known = known;
    this.chance = chance;
    this.judge = judge;
    this.drive = new DriveControl(model, TICK_SEC);
    this.onOff = robot.board.driver === "on-off";
    this.directions = known.shafts.map(boardSign);
    this.owed = new Float64Array(known.shafts.length);
    this.counted = known.shafts.map(() => null);
    this.layout = readingLayout(robot);
    this.snapshot = new Float64Array(this.layout.count);
    this.globals = new Array<Value>(program.globals.length).fill(0);
    this.lists = newLists(program.lists);
    this.commands = restingCommands(robot);
    this.wheelMotors = known.shafts.map((shaft) => this.wheelMotor(shaft));
    const drives = this.wheelMotors.map(({ index }) => index);
    this.motors = robot.motors.map((motor, i) =>
      drives.includes(i) ? null : new FeltMotor(motor, i, raw, this.commands),
    );
    this.perception = new Perception(robot, raw);
    this.runner = new Runner(program, this);
    // What was learned in an earlier run stands in for what is written.
    for (const { name, global, kind } of program.remembered) {
      const kept = parts.remembered?.[name];
      if (kept?.kind === kind) this.globals[global] = kept.value;
    }
  }

  private wheelMotor({ wheel, motor, rollPerTurnM }: SideInForce): WheelMotor {
    return {
      index: this.robot.motors.findIndex(({ name }) => name === motor.name),
      countsPerTurn: motor.encoder?.countsPerTurn ?? null,
      rollPerTurnM: rollPerTurnM.value,
      shaftRatio: gearTrain(this.robot, wheel).ratio,
    };
  }

  /** The mission's own task. */
  get task(): Task {
    return this.runner.mission;
  }

  get ended(): boolean {
    return this.end !== null;
  }

  get wallEnded(): boolean {
    return this.motion?.wallEnded ?? false;
  }

  setMotion(motion: Motion | null): void {
    this.motion = motion;
    this.motionArrived = false;
  }

  /** A motor beside the drive, a servo, or the attachment one of them turns. */
  part(name: string): PartControl {
    return this.felt(name);
  }

  private felt(name: string): FeltPart {
    let part = this.parts.get(name);
    if (!part) {
      const { robot, senses: raw, commands, snapshot } = this;
      const mover = moverOf(robot, name);
      const motor = this.motors[robot.motors.findIndex((candidate) => candidate.name === mover)] ?? null;
      part = new FeltPart(name, robot, raw, commands, motor, snapshot, this.orderOf(mover));
      this.parts.set(name, part);
    }
    return part;
  }

  /** Where a motor beside the drive, or a servo that turns on and on, gets its orders; null for others. */
  private orderOf(mover: string): PartOrder | null {
    const { robot, commands } = this;
    const motor = robot.motors.findIndex(({ name }) => name === mover);
    if (this.motors[motor]) return { motor: commands.motors[motor] as MotorCommand };
    const servo = robot.servos.findIndex(({ name }) => name === mover);
    return robot.servos[servo]?.kind === "continuous" ? { servo: commands.servos[servo] as ServoCommand } : null;
  }

  movePart(name: string, motion: PartMotion): void {
    this.movingParts.set(moverOf(this.robot, name), { motion, part: this.felt(name) });
  }

  /** Somebody can drive. */
  driven = false;
  handedOver = false;
  handSilent = false;

  /** What the driver holds. */
  get handset(): Handset | null {
    return this.senses.handset;
  }

  steer(rad: number): void {
    this.drive.steerRad = rad;
  }

  reset(name: string): void {
    const { drive, zero, robot } = this;
    if (name === "robot") {
      const { xM, yM, travelM, asideM, headingRad } = drive;
      Object.assign(zero, { xM, yM, travelM, asideM, headingRad });
    } else if (robot.sensors.some((sensor) => sensor.kind === "gyro" && sensor.name === name))
      zero.gyroRad = drive.headingRad;
    else this.part(name).zero();
    this.placeReadings();
  }

  sign(kind: SignKind, text: string): void {
    if (this.signs.length < 10_000) this.signs.push({ tick: this.tick, kind, text });
  }

  motorPower(name: string, mode: MotorMode, duty: number): void {
    this.movingParts.delete(moverOf(this.robot, name));
    let order = this.orders.get(name);
    if (order === undefined) {
      order = this.orderOf(name);
      this.orders.set(name, order);
    }
    if (order) givePower(order, mode, this.onOff ? onOff(duty) : duty);
  }

  /** Keeps the newest: what a mission notes at its end is what it was for. */
  note(name: string, value: Value): void {
    if (this.notes.length >= MOST_NOTES + NOTES_SLACK) this.notesDropped += this.notes.splice(0, NOTES_SLACK).length;
    this.notes.push({ tick: this.tick, name, value });
  }

  /** The newest notes, and how many older ones were dropped for them. */
  get kept(): { readonly notes: readonly NoteRecord[]; readonly dropped: number } {
    const extra = Math.max(0, this.notes.length - MOST_NOTES);
    return { notes: extra > 0 ? this.notes.slice(extra) : this.notes, dropped: this.notesDropped + extra };
  }

  /** Values to keep for the next run of the mission. */
  get remembers(): RememberedValue[] {
    const { remembered } = this.runner.program;
    return remembered.map(({ name, global, kind, words }) => {
      const value = this.globals[global] as Value;
      return { name, value, words: wordsOf(words, value), kind };
    });
  }

  finish(): void {
    this.end ??= { outcome: "finished" };
  }

  stop(reason: string): void {
    this.end ??= { outcome: "stopped", reason };
  }

  openRecord(step: string, text: string, line: number, timed: boolean, task: number, once: boolean): StepRecord | null {
    const before = this.passes.get(step) ?? 0;
    // A loop of instant steps would fill memory: after this many only those that take time are of interest.
    if ((once && before > 0) || this.records.length >= 20_000) return null;
    const pass = before + 1;
    this.passes.set(step, pass);
    const record: StepRecord = {
      step,
      pass,
      text,
      line,
      task,
      startTick: this.tick,
      endTick: this.tick,
      endedBy: "done",
      timed,
    };
    this.records.push(record);
    return record;
  }

  /** One tick of 10 ms. Its senses have been put where it was told at its making. */
  step(): Commands {
    this.sense();
    this.handedOver = false;
    this.handSilent = false;
    if (!this.end) this.runner.tick();
    if (this.end) this.motion = null;
    if (this.motion) this.motionArrived = this.motion.tick(this.drive, TICK_SEC);
    else if (this.end && this.drive.mode === "drive") this.drive.release("brake");
    for (const { motion, part } of this.movingParts.values()) motion.tick(part, TICK_SEC);
    this.command();
    if (this.end) {
      this.movingParts.clear();
      this.brakeAll();
    }
    this.tick += 1;
    return this.commands;
  }

  private sense(): void {
    const { senses: raw, drive, snapshot } = this;
    const { gyro } = this.known;
    const elapsed = this.tick * TICK_SEC;
    const scale = gyro?.scale.value ?? 1;
    const rest = gyro?.restRadS.value ?? 0;
    for (let i = 0; i < this.counted.length; i += 1) this.counted[i] = this.counts(i);
    if (raw.gyroSec > 0) this.gyroRad += raw.gyroRateRadS * raw.gyroSec;
    drive.sense({
      counts: this.counted,
      gyroHeadingRad: gyro ? (this.gyroRad - rest * elapsed) * scale : null,
      gyroRateRadS: gyro ? (raw.gyroRateRadS - rest) * scale : 0,
      packVolts: raw.packVolts,
    });
    snapshot[SLOT.clock] = elapsed;
    this.placeReadings();
    snapshot[SLOT.speed] = drive.speedMS;
    snapshot[SLOT.current] = raw.packCurrentA;
    snapshot[SLOT.stalled] = drive.stalled ? 1 : 0;
    snapshot[SLOT.voltage] = drive.packVolts;
    snapshot[SLOT.gyroRate] = drive.turnRateRadS;
    const { holdGainPerRad, stopsAfterSec, stopsWithMS2 } = drive.model;
    snapshot[SLOT.holdGain] = holdGainPerRad;
    snapshot[SLOT.stopDistance] = stopDistanceM(drive.speedMS, stopsAfterSec, stopsWithMS2);
    for (let i = 0; i < drive.shafts.length; i += 1) {
      const { speedMS, duty } = drive.shafts[i] as DriveControl["left"];
      this.senseWheelMotor(i, speedMS, duty);
    }
    this.senseParts();
  }

  private counts(shaft: number): number | null {
    const counts = this.senses.counts[shaft] ?? null;
    return counts === null ? null : this.forwardCounts(counts, shaft);
  }

  /** A shaft's raw counts in the direction the program drives; 0 without an encoder. */
  forwardCounts(counts: number | null, shaft: number): number {
    return (this.directions[shaft] as number) * (counts ?? 0);
  }

  /** Where the robot believes to be, from its latest zero. */
  private placeReadings(): void {
    const { drive, snapshot, zero } = this;
    const c = cos(zero.headingRad);
    const s = sin(zero.headingRad);
    const [dx, dy] = [drive.xM - zero.xM, drive.yM - zero.yM];
    snapshot[SLOT.travel] = drive.travelM - zero.travelM;
    snapshot[SLOT.aside] = drive.asideM - zero.asideM;
    snapshot[SLOT.heading] = drive.headingRad - zero.headingRad;
    snapshot[SLOT.x] = c * dx + s * dy;
    snapshot[SLOT.y] = c * dy - s * dx;
    snapshot[SLOT.gyroHeading] = drive.headingRad - zero.gyroRad;
  }

  private senseWheelMotor(shaft: number, speedMS: number, duty: number): void {
    const { index, countsPerTurn, rollPerTurnM, shaftRatio } = this.wheelMotors[shaft] as WheelMotor;
    const counts = this.counted[shaft] as number | null;
    const base = SLOT.motors + index * MOTOR_SLOTS;
    this.snapshot[base] = counts !== null && countsPerTurn !== null ? (counts * TAU) / countsPerTurn : 0;
    this.snapshot[base + 1] = (speedMS / rollPerTurnM) * TAU * shaftRatio;
    this.snapshot[base + 2] = Math.abs(duty) > WHEEL_STALL.duty && Math.abs(speedMS) < WHEEL_STALL.speedMS ? 1 : 0;
  }

  /** Motors beside the drive, sensors, servos, attachments. */
  private senseParts(): void {
    const { senses: raw, robot, snapshot, layout } = this;
    // The speed of a shaft needs the tick before.
    if (this.tick > 0) for (const motor of this.motors) motor?.follow(TICK_SEC);
    for (let i = 0; i < this.motors.length; i += 1) {
      const motor = this.motors[i];
      if (!motor || raw.motorCounts[i] === null) continue;
      const base = SLOT.motors + i * MOTOR_SLOTS;
      snapshot[base] = motor.angleRad;
      snapshot[base + 1] = motor.rateRadS;
      snapshot[base + 2] = motor.stalled ? 1 : 0;
    }
    this.perception.tick(snapshot);
    for (const part of this.parts.values()) part.follow(TICK_SEC);
    this.fitted ??= robot.attachments.map(({ name, drivenBy }) => (drivenBy === null ? null : this.felt(name)));
    const { fitted } = this;
    for (let i = 0; i < robot.servos.length; i += 1) snapshot[layout.servos + i] = (raw.servos[i] as RawServo).angleRad;
    for (let i = 0; i < robot.attachments.length; i += 1) {
      const base = layout.attachments + 2 * i;
      const part = fitted[i];
      if (part) snapshot[base] = part.angleRad;
      snapshot[base + 1] = raw.holds[i] as number;
    }
    for (let i = 0; i < robot.motors.length; i += 1)
      snapshot[SLOT.motors + i * MOTOR_SLOTS + 3] = raw.motorHeat[i] as number;
  }

  private command(): void {
    const { drive, commands, directions } = this;
    commands.mode = drive.mode;
    for (let i = 0; i < drive.shafts.length; i += 1) {
      const { duty } = drive.shafts[i] as DriveControl["left"];
      commands.duties[i] = (directions[i] as number) * (this.onOff ? this.pulse(i, duty) : duty);
    }
    commands.steerRad = drive.steerRad;
  }

  private brakeAll(): void {
    for (const order of this.commands.servos) order.share = 0;
    for (let i = 0; i < this.motors.length; i += 1)
      if (this.motors[i]) Object.assign(this.commands.motors[i] as MotorCommand, { mode: "brake", duty: 0 });
  }

  /** An on/off driver makes a share of the voltage by whole ticks on and off, so that the mean is right. */
  private pulse(shaft: number, duty: number): number {
    if (duty === 0) this.owed[shaft] = 0;
    const owed = (this.owed[shaft] as number) + duty;
    const given = onOff(owed);
    this.owed[shaft] = owed - given;
    return given;
  }
}

function onOff(duty: number): number {
  return duty >= 0.5 ? 1 : duty <= -0.5 ? -1 : 0;
}
