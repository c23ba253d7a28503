// The robot as a program sees it, on simulated physics: senses, runs the task, moves the drive, steps the
// world. One tick is 10 ms: readings are frozen, the task runs, the motion commands, the world moves twice.
import type { Program } from "../cairn/compile.js";
import { MOTOR_SLOTS, SLOT, slotCount } from "../cairn/readings.js";
import type { Machine, StepRecord, Task, Value } from "../cairn/task.js";
import { DriveControl } from "../control/drive.js";
import type { DriveModel } from "../control/driveModel.js";
import type { Motion } from "../control/motions.js";
import type { FloorRaster } from "../field/raster.js";
import type { Field } from "../field/schema.js";
import type { RandomStream } from "../math/random.js";
import { TAU } from "../math/trig.js";
import { STEP_SEC, TICK_SEC } from "../physics/constants.js";
import type { MotorMode } from "../physics/parts.js";
import type { World } from "../physics/world.js";
import type { RobotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import { encoderCounts } from "../sensors/encoder.js";
import { Fittings } from "./fittings.js";
import type { RunDraw } from "./scatter.js";
import { RobotSenses } from "./senses.js";

export interface NoteRecord {
  readonly tick: number;
  readonly name: string;
  readonly value: Value;
}

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
}

export class RehearsalMachine implements Machine {
  tick = 0;
  readonly tickSec = TICK_SEC;
  readonly snapshot: Float64Array;
  readonly globals: Value[];
  readonly records: StepRecord[] = [];
  readonly notes: NoteRecord[] = [];
  readonly drive: DriveControl;
  readonly task: Task;
  readonly world: World;
  readonly robot: Robot;
  readonly chance: RandomStream;
  readonly fittings: Fittings;
  readonly senses: RobotSenses;
  end: MachineEnd | null = null;
  motionArrived = false;
  /** Tick at which a wheel was lifted for longer than a moment; null so far. */
  tippedAt: number | null = null;
  /** Zones that count at a time of their own, once that has come. */
  readonly zonesCounted = new Map<string, number>();
  private readonly program: Program;
  private readonly known: RobotInForce;
  private readonly draw: RunDraw;
  private motion: Motion | null = null;
  private readonly passes = new Map<string, number>();
  private tippingTicks = 0;
  /** Drivers that are only on or off: what is still owed of each drive's duty. */
  private readonly owed: [number, number] = [0, 0];

  constructor(parts: MachineParts) {
    const { program, world, robot, field, floor, known, model, draw, chance } = parts;
    this.program = program;
    this.world = world;
    this.robot = robot;
    this.known = known;
    this.draw = draw;
    this.chance = chance;
    this.drive = new DriveControl(model, TICK_SEC);
    this.snapshot = new Float64Array(slotCount(robot));
    this.globals = new Array<Value>(program.globalCount).fill(0);
    this.task = {
      machine: this,
      at: program.start,
      locals: [],
      base: 0,
      frames: [],
      counters: new Float64Array(program.counterCount + 3).fill(-1),
      last: new Float64Array(5),
      active: null,
      record: null,
      ended: false,
    };
    const wheelMotors = [robot.motors.indexOf(known.left.motor), robot.motors.indexOf(known.right.motor)];
    this.fittings = new Fittings(robot, world, wheelMotors);
    this.senses = new RobotSenses(robot, known, world, field, floor, this.fittings, draw, chance);
    program.initialise(this.task);
  }

  setMotion(motion: Motion | null): void {
    this.motion = motion;
    this.motionArrived = false;
  }

  motorPower(name: string, mode: MotorMode, duty: number): void {
    this.fittings.power(name, mode, this.robot.board.driver === "on-off" ? onOff(duty) : duty);
  }

  note(name: string, value: Value): void {
    if (this.notes.length < 10_000) this.notes.push({ tick: this.tick, name, value });
  }

  finish(): void {
    this.end ??= { outcome: "finished" };
  }

  stop(reason: string): void {
    this.end ??= { outcome: "stopped", reason };
  }

  openRecord(step: string, text: string, line: number, timed: boolean): StepRecord {
    const pass = (this.passes.get(step) ?? 0) + 1;
    this.passes.set(step, pass);
    const record: StepRecord = {
      step,
      pass,
      text,
      line,
      startTick: this.tick,
      endTick: this.tick,
      endedBy: "done",
      timed,
    };
    // A loop of instant steps would fill memory: beyond this many, only the last ones of interest are the timed.
    if (this.records.length < 50_000) this.records.push(record);
    return record;
  }

  /** One tick of 10 ms. */
  advance(): void {
    this.sense();
    if (!this.end) this.runTask();
    if (this.end) this.motion = null;
    if (this.motion) this.motionArrived = this.motion.tick(this.drive, TICK_SEC);
    else if (this.end && this.drive.mode === "drive") this.drive.release("brake");
    this.command();
    if (this.end) this.fittings.brakeAll();
    const headingBefore = this.world.headingRad;
    for (let half = 0; half < 2; half += 1) {
      this.fittings.step();
      this.world.step(STEP_SEC);
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
    this.tippingTicks = world.loads.tipping ? this.tippingTicks + 1 : 0;
    if (this.tippingTicks === TIPPING_TICKS) this.tippedAt ??= this.tick;
  }

  private sense(): void {
    const { world, drive, snapshot, draw, senses } = this;
    const { gyro } = senses;
    gyro?.tick(world.headingRad, TICK_SEC);
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
    snapshot[SLOT.travel] = drive.travelM;
    snapshot[SLOT.heading] = drive.headingRad;
    snapshot[SLOT.x] = drive.xM;
    snapshot[SLOT.y] = drive.yM;
    snapshot[SLOT.stalled] = drive.stalled ? 1 : 0;
    snapshot[SLOT.voltage] = drive.packVolts;
    snapshot[SLOT.gyroHeading] = drive.headingRad;
    snapshot[SLOT.gyroRate] = drive.turnRateRadS;
    this.senseMotor(0, drive.left.speedMS, drive.left.duty);
    this.senseMotor(1, drive.right.speedMS, drive.right.duty);
    this.senseFree();
    senses.tick(snapshot);
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
    for (const { index, motor, free } of this.fittings.motors) {
      if (!motor.encoder) continue;
      const { countsPerTurn } = motor.encoder;
      const base = SLOT.motors + index * MOTOR_SLOTS;
      const angle = (encoderCounts(free.angleRad, countsPerTurn) * TAU) / countsPerTurn;
      this.snapshot[base + 1] = (angle - (this.snapshot[base] as number)) / TICK_SEC;
      this.snapshot[base] = angle;
      this.snapshot[base + 2] = Math.abs(free.commandedDuty) > 0.3 && Math.abs(free.spinRadS) < 0.05 ? 1 : 0;
    }
  }

  private runTask(): void {
    const { task, program } = this;
    // A tick runs at most this many instructions: more would be a loop that never gives up the tick.
    for (let i = 0; i < 20_000 && !this.end; i += 1) {
      const op = program.ops[task.at];
      if (!op?.(task)) break;
    }
    if (task.ended) this.finish();
  }

  private command(): void {
    const { drive, world } = this;
    const pulsed = this.robot.board.driver === "on-off";
    const left = pulsed ? this.pulse(0, drive.left.duty) : drive.left.duty;
    world.command(0, drive.mode, left);
    if (world.drives.length > 1)
      world.command(1, drive.mode, pulsed ? this.pulse(1, drive.right.duty) : drive.right.duty);
    world.steer(drive.steerRad);
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
    if (this.draw.bumpRad === 0) return;
    const { world } = this;
    const moved =
      Math.sqrt(world.velocityX * world.velocityX + world.velocityY * world.velocityY) * TICK_SEC +
      Math.abs(turned) * 0.05;
    if (moved > 1e-7) world.headingRad += this.draw.bumpRad * Math.sqrt(moved) * this.chance.normal();
  }
}

function onOff(duty: number): number {
  return duty >= 0.5 ? 1 : duty <= -0.5 ? -1 : 0;
}
