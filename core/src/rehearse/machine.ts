// The robot as a program sees it, on simulated physics: senses, runs the task, moves the drive, steps the
// world. One tick is 10 ms: readings are frozen, the task runs, the motion commands, the world moves twice.
import type { Program } from "../cairn/compile.js";
import { moverOf } from "../cairn/effects.js";
import { kindWords } from "../cairn/kinds.js";
import { type ListState, newLists } from "../cairn/lists.js";
import { MOTOR_SLOTS, SLOT, slotCount } from "../cairn/readings.js";
import { Runner } from "../cairn/runner.js";
import type { Machine, SignKind, StepRecord, Task, Value } from "../cairn/task.js";
import { valueWords } from "../cairn/wording.js";
import { DriveControl } from "../control/drive.js";
import type { DriveModel } from "../control/driveModel.js";
import type { Motion } from "../control/motions.js";
import type { PartControl, PartMotion } from "../control/partMotion.js";
import type { FloorRaster } from "../field/raster.js";
import type { Field } from "../field/schema.js";
import type { RandomStream } from "../math/random.js";
import { cos, sin, TAU } from "../math/trig.js";
import { STEP_SEC, TICK_SEC } from "../physics/constants.js";
import type { MotorMode } from "../physics/parts.js";
import type { World } from "../physics/world.js";
import type { Handset } from "../remote/handset.js";
import { sideSign } from "../robot/drivetrain.js";
import { stopDistanceM } from "../robot/found.js";
import type { RobotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import { Fittings } from "./fittings.js";
import { HeadWatch } from "./headWatch.js";
import type { RunDraw } from "./scatter.js";
import { RobotSenses } from "./senses.js";
import { TouchWatch } from "./touches.js";

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

/** Something shown, lit or beeped. */
export interface SignRecord {
  readonly tick: number;
  readonly kind: SignKind;
  readonly text: string;
}

/** What an eye heard from now on; an empty name is silence. */
export interface EchoRecord {
  readonly tick: number;
  readonly sensor: string;
  readonly what: string;
  readonly distanceM: number;
}

/** An eye that turns about hears something else again and again: more than this is no news. */
const MOST_ECHOES = 5000;

/** How a run came to its end. */
export type MachineEnd = { readonly outcome: "finished" } | { readonly outcome: "stopped"; readonly reason: string };

/** Voltage readings come through a divider with this much noise, V. */
const VOLTAGE_NOISE = 0.01;
/** Robots that lift a wheel for this long are said to tip, ticks. */
const TIPPING_TICKS = 5;

/** Everything a machine is made from. */
export interface MachineParts {
  readonly program: Program;
  readonly world: World;
  readonly robot: Robot;
  readonly field: Field;
  readonly floor: FloorRaster;
  readonly known: RobotInForce;
  readonly model: DriveModel;
  readonly draw: RunDraw;
  readonly chance: RandomStream;
  /** Values the robot kept from an earlier run of this mission, by name. */
  readonly remembered?: Remembered;
  /** A robot that stands somewhere, with what a rehearsal leaves out; null rehearses. */
  readonly standing?: StandingRobot;
}

/** What a robot on a table has beyond a rehearsed one: nobody presses its buttons unasked, and it ages. */
export interface StandingRobot {
  /** From the program's decision to the motors' leads, ticks. */
  readonly commandDelayTicks: number;
  /** Sensors and motors (their encoders) whose plugs are out, by name; looked at each tick. */
  readonly unplugged: ReadonlySet<string>;
}

export class RehearsalMachine implements Machine {
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
  readonly world: World;
  readonly robot: Robot;
  readonly chance: RandomStream;
  readonly fittings: Fittings;
  readonly senses: RobotSenses;
  readonly touch: TouchWatch;
  /** What each eye's echo came from, whenever that changed. */
  readonly echoes: EchoRecord[] = [];
  private readonly echoSources = new Map<string, number>();
  /** What heads with distance sensors did. */
  readonly heads: HeadWatch;
  end: MachineEnd | null = null;
  motionArrived = false;
  /** Tick at which a wheel was lifted for longer than a moment; null so far. */
  tippedAt: number | null = null;
  /** Zones that count at a time of their own, once that has come. */
  readonly zonesCounted = new Map<string, number>();
  private readonly known: RobotInForce;
  private readonly draw: RunDraw;
  private motion: Motion | null = null;
  private readonly passes = new Map<string, number>();
  private readonly movingParts = new Map<string, PartMotion>();
  /** What `reset` made zero: place, way and heading of the robot, heading of the gyro. */
  private readonly zero = { xM: 0, yM: 0, travelM: 0, headingRad: 0, gyroRad: 0 };
  private notesDropped = 0;
  private waitedTicks = 0;
  private tippingTicks = 0;
  /** Drivers that are only on or off: what is still owed of each drive's duty. */
  private readonly owed: [number, number] = [0, 0];
  private readonly standing: StandingRobot | null;
  /** Heading wander on this floor, rad for the square root of a metre. */
  private readonly bumpRad: number;
  /** -1 for a side whose motor turns its wheel backwards. */
  private readonly directions: readonly [number, number];
  /** Commands on their way to the motors, oldest first. */
  private readonly underway: { mode: MotorMode; left: number; right: number; steerRad: number }[] = [];

  constructor(parts: MachineParts) {
    const { program, world, robot, field, floor, known, model, draw, chance, standing } = parts;
    this.standing = standing ?? null;
    this.world = world;
    this.robot = robot;
    this.known = known;
    this.draw = draw;
    this.chance = chance;
    this.bumpRad = draw.bumpRad * (field.surface.unevenness ?? 1);
    this.drive = new DriveControl(model, TICK_SEC);
    this.directions = [sideSign(robot, "left"), sideSign(robot, "right")];
    this.snapshot = new Float64Array(slotCount(robot));
    this.globals = new Array<Value>(program.globalCount).fill(0);
    this.lists = newLists(program.lists);
    const wheelMotors = [known.left, known.right].map(({ motor }) =>
      robot.motors.findIndex(({ name }) => name === motor.name),
    );
    this.fittings = new Fittings(robot, world, wheelMotors);
    this.senses = new RobotSenses(
      robot,
      known,
      world,
      field,
      floor,
      this.fittings,
      draw,
      chance,
      this.snapshot,
      standing?.unplugged,
    );
    this.heads = new HeadWatch(parts.robot, this.senses, this.fittings);
    this.touch = new TouchWatch(
      robot,
      world,
      this.senses.scene,
      field.loads.map(({ name }) => name),
    );
    this.runner = new Runner(program, this);
    // What was learned in an earlier run stands in for what is written.
    for (const { name, slot, kind } of program.remembered) {
      const kept = parts.remembered?.[name];
      if (kept?.kind === kindWords(kind)) this.globals[slot] = kept.value;
    }
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

  part(name: string): PartControl {
    return this.senses.part(name);
  }

  movePart(name: string, motion: PartMotion): void {
    this.movingParts.set(moverOf(this.robot, name), motion);
  }

  /** Somebody can drive: the handset they hold, as it was heard last. */
  driven = false;
  handset: Handset | null = null;
  handedOver = false;

  steer(rad: number): void {
    this.drive.steerRad = rad;
  }

  reset(name: string): void {
    const { drive, zero, robot } = this;
    if (name === "robot") {
      const { xM, yM, travelM, headingRad } = drive;
      Object.assign(zero, { xM, yM, travelM, headingRad });
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
    this.fittings.power(name, mode, this.robot.board.driver === "on-off" ? onOff(duty) : duty);
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
    return remembered.map(({ name, slot, kind }) => {
      const value = this.globals[slot] as Value;
      return { name, value, words: valueWords(kind, value), kind: kindWords(kind) };
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

  /** One tick of 10 ms. */
  advance(): void {
    this.sense();
    this.handedOver = false;
    if (!this.end) this.runTasks();
    if (this.end) this.motion = null;
    if (this.motion) this.motionArrived = this.motion.tick(this.drive, TICK_SEC);
    else if (this.end && this.drive.mode === "drive") this.drive.release("brake");
    for (const [name, motion] of this.movingParts) motion.tick(this.senses.part(name), TICK_SEC);
    this.command();
    if (this.end) {
      this.movingParts.clear();
      this.fittings.brakeAll();
    }
    const headingBefore = this.world.headingRad;
    for (let half = 0; half < 2; half += 1) {
      this.fittings.step();
      this.world.step(STEP_SEC);
      if (this.world.contacts.count > 0) this.touch.step(this.tick);
    }
    this.fittings.tick();
    this.senses.followPlay();
    this.watch();
    this.bump(this.world.headingRad - headingBefore);
    this.tick += 1;
  }

  /** What ends or marks a run from outside the program. */
  private watch(): void {
    const { world } = this;
    if (world.brownedOut)
      this.stop(
        `the board restarted: the pack broke down to ${world.packVolts.toFixed(1)} V while giving ${world.packCurrentA.toFixed(1)} A`,
      );
    if (world.putBack > 0)
      this.stop("the simulation lost its numbers and put the robot and its loads back at rest; check sizes and masses");
    this.tippingTicks = world.loads.tipping ? this.tippingTicks + 1 : 0;
    if (this.tippingTicks === TIPPING_TICKS) this.tippedAt ??= this.tick;
  }

  private sense(): void {
    const { world, drive, snapshot, draw, senses } = this;
    const { gyro } = senses;
    if (gyro && !this.standing?.unplugged.has(this.known.gyro?.part.name ?? "")) gyro.tick(world.headingRad, TICK_SEC);
    const elapsed = this.tick * TICK_SEC;
    const scale = this.known.gyro?.scale.value ?? 1;
    const rest = this.known.gyro?.restRadS.value ?? 0;
    const noise = draw.sensorNoise > 0 ? VOLTAGE_NOISE * draw.sensorNoise * this.chance.normal() : 0;
    drive.sense({
      countsLeft: senses.counts(0),
      countsRight: senses.counts(1),
      gyroHeadingRad: gyro ? (gyro.headingRad - rest * elapsed) * scale : null,
      gyroRateRadS: gyro ? (gyro.rateRadS - rest) * scale : 0,
      packVolts: world.packVolts + noise,
    });
    snapshot[SLOT.clock] = elapsed;
    this.placeReadings();
    snapshot[SLOT.speed] = drive.speedMS;
    snapshot[SLOT.current] = world.packCurrentA;
    snapshot[SLOT.stalled] = drive.stalled ? 1 : 0;
    snapshot[SLOT.voltage] = drive.packVolts;
    snapshot[SLOT.gyroRate] = drive.turnRateRadS;
    const { holdGainPerRad, stopsAfterSec, stopsWithMS2 } = drive.model;
    snapshot[SLOT.holdGain] = holdGainPerRad;
    snapshot[SLOT.stopDistance] = stopDistanceM(drive.speedMS, stopsAfterSec, stopsWithMS2);
    this.senseMotor(0, drive.left.speedMS, drive.left.duty);
    this.senseMotor(1, drive.right.speedMS, drive.right.duty);
    this.senseFree();
    senses.tick(snapshot);
    this.keepEchoes();
    this.heads.tick(this.tick);
  }

  private keepEchoes(): void {
    for (const [sensor, eye] of this.senses.eyes) {
      if (this.echoSources.get(sensor) === eye.source) continue;
      this.echoSources.set(sensor, eye.source);
      if (this.echoes.length < MOST_ECHOES)
        this.echoes.push({
          tick: this.tick,
          sensor,
          what: this.senses.scene.nameOf(eye.source),
          distanceM: eye.distanceM,
        });
    }
  }

  /** Where the robot believes to be, from its latest zero. */
  private placeReadings(): void {
    const { drive, snapshot, zero } = this;
    const c = cos(zero.headingRad);
    const s = sin(zero.headingRad);
    const [dx, dy] = [drive.xM - zero.xM, drive.yM - zero.yM];
    snapshot[SLOT.travel] = drive.travelM - zero.travelM;
    snapshot[SLOT.heading] = drive.headingRad - zero.headingRad;
    snapshot[SLOT.x] = c * dx + s * dy;
    snapshot[SLOT.y] = c * dy - s * dx;
    snapshot[SLOT.gyroHeading] = drive.headingRad - zero.gyroRad;
  }

  private senseMotor(side: 0 | 1, speedMS: number, duty: number): void {
    const { countsPerTurn, motorIndex } = this.senses.wheels[side];
    const counts = this.senses.counts(side);
    const base = SLOT.motors + motorIndex * MOTOR_SLOTS;
    this.snapshot[base] = counts !== null && countsPerTurn !== null ? (counts * TAU) / countsPerTurn : 0;
    this.snapshot[base + 1] = this.senses.shaftSpeed(side, speedMS);
    this.snapshot[base + 2] = Math.abs(duty) > 0.3 && Math.abs(speedMS) < 0.01 ? 1 : 0;
  }

  private senseFree(): void {
    for (const { index, motor } of this.fittings.motors) {
      if (!motor.encoder) continue;
      const part = this.senses.part(motor.name);
      const base = SLOT.motors + index * MOTOR_SLOTS;
      this.snapshot[base] = part.angleRad;
      this.snapshot[base + 1] = part.rateRadS;
      this.snapshot[base + 2] = this.fittings.isStalled(motor.name) ? 1 : 0;
    }
  }

  private runTasks(): void {
    if (!this.standing) this.pressWaitedButton();
    this.runner.tick();
  }

  /** A patient person: presses a button for a fifth of a second once a step waited a second for it. */
  private pressWaitedButton(): void {
    const slots = this.runner.waitedSlots();
    const button = slots.length > 0 ? this.senses.buttonAt(slots) : null;
    this.waitedTicks = button === null ? 0 : this.waitedTicks + 1;
    this.senses.held.clear();
    const phase = this.waitedTicks % 200;
    if (button !== null && phase > 100 && phase <= 120) this.senses.held.add(button);
  }

  private command(): void {
    const { drive, standing } = this;
    const delay = standing?.commandDelayTicks ?? 0;
    if (delay === 0) return this.giveCommand(drive.mode, drive.left.duty, drive.right.duty, drive.steerRad);
    this.underway.push({
      mode: drive.mode,
      left: drive.left.duty,
      right: drive.right.duty,
      steerRad: drive.steerRad,
    });
    const due = this.underway.length > delay ? this.underway.shift() : undefined;
    if (due) this.giveCommand(due.mode, due.left, due.right, due.steerRad);
  }

  private giveCommand(mode: MotorMode, leftDuty: number, rightDuty: number, steerRad: number): void {
    const { world } = this;
    const pulsed = this.robot.board.driver === "on-off";
    const [left, right] = this.directions;
    world.command(0, mode, left * (pulsed ? this.pulse(0, leftDuty) : leftDuty));
    if (world.drives.length > 1) world.command(1, mode, right * (pulsed ? this.pulse(1, rightDuty) : rightDuty));
    world.steer(steerRad);
  }

  /** An on/off driver makes a share of the voltage by whole ticks on and off, so that the mean is right. */
  private pulse(side: 0 | 1, duty: number): number {
    if (duty === 0) this.owed[side] = 0;
    const owed = this.owed[side] + duty;
    const given = onOff(owed);
    this.owed[side] = owed - given;
    return given;
  }

  /** Small unevenness of the floor turns a moving robot a little. */
  private bump(turned: number): void {
    if (this.bumpRad === 0) return;
    const { world } = this;
    const moved =
      Math.sqrt(world.velocityX * world.velocityX + world.velocityY * world.velocityY) * TICK_SEC +
      Math.abs(turned) * 0.05;
    if (moved > 1e-7) world.headingRad += this.bumpRad * Math.sqrt(moved) * this.chance.normal();
  }
}

function onOff(duty: number): number {
  return duty >= 0.5 ? 1 : duty <= -0.5 ? -1 : 0;
}
