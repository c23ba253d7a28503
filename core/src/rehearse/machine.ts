// The robot as a program sees it, on simulated physics: senses, runs the task, moves the drive, steps the
// world. One tick is 10 ms: readings are frozen, the task runs, the motion commands, the world moves twice.
import type { Program } from "../cairn/compile.js";
import { MOTOR_SLOTS, SLOT, slotCount } from "../cairn/readings.js";
import type { Machine, StepRecord, Task, Value } from "../cairn/task.js";
import { DriveControl } from "../control/drive.js";
import type { DriveModel } from "../control/driveModel.js";
import type { Motion } from "../control/motions.js";
import type { RandomStream } from "../math/random.js";
import { TAU } from "../math/trig.js";
import { STEP_SEC, TICK_MS, TICK_SEC } from "../physics/constants.js";
import { FreeMotor } from "../physics/freeMotor.js";
import { gearTrain } from "../physics/fromRobot.js";
import { deriveMotor } from "../physics/motor.js";
import type { MotorMode } from "../physics/parts.js";
import type { World } from "../physics/world.js";
import type { RobotInForce } from "../robot/inForce.js";
import type { Motor, Robot } from "../robot/schema.js";
import { encoderCounts } from "../sensors/encoder.js";
import { GyroSensor } from "../sensors/gyro.js";
import type { RunDraw } from "./scatter.js";

export interface NoteRecord {
  readonly tick: number;
  readonly name: string;
  readonly value: Value;
}

/** How a run came to its end. */
export type MachineEnd = { readonly outcome: "finished" } | { readonly outcome: "stopped"; readonly reason: string };

interface WheelSense {
  readonly shaftRatio: number;
  readonly countsPerTurn: number | null;
}

/** Voltage readings come through a divider with this much noise, V. */
const VOLTAGE_NOISE = 0.01;

export class RehearsalMachine implements Machine {
  tick = 0;
  readonly tickSec = TICK_SEC;
  readonly snapshot: Float64Array;
  readonly globals: Value[];
  readonly records: StepRecord[] = [];
  readonly notes: NoteRecord[] = [];
  readonly drive: DriveControl;
  readonly task: Task;
  end: MachineEnd | null = null;
  motionArrived = false;
  private motion: Motion | null = null;
  private readonly gyro: GyroSensor | null;
  private readonly passes = new Map<string, number>();
  private readonly wheels: readonly [WheelSense, WheelSense];
  /** Motors that drive no wheel, with their place among the robot's. */
  private readonly free: readonly { readonly index: number; readonly part: Motor; readonly shaft: FreeMotor }[];
  private readonly wheelMotors: readonly [number, number];

  constructor(
    private readonly program: Program,
    readonly world: World,
    readonly robot: Robot,
    private readonly known: RobotInForce,
    model: DriveModel,
    private readonly draw: RunDraw,
    readonly chance: RandomStream,
  ) {
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
    const { gyro } = known;
    this.gyro = gyro
      ? new GyroSensor(
          {
            scale: draw.gyroScale,
            restRadS: draw.gyroRestRadS,
            noiseRadS: gyro.part.noiseRadS,
            rangeRadS: gyro.part.rangeRadS,
            periodTicks: Math.max(1, Math.floor(gyro.part.periodMs / TICK_MS + 0.5)),
          },
          world.headingRad,
          draw.sensorNoise > 0 ? chance : null,
        )
      : null;
    this.wheels = [wheelSense(known.left), wheelSense(known.right)];
    this.wheelMotors = [robot.motors.indexOf(known.left.motor), robot.motors.indexOf(known.right.motor)];
    this.free = robot.motors.flatMap((part, index) =>
      this.wheelMotors.includes(index) ? [] : [{ index, part, shaft: newShaft(part) }],
    );
    program.initialise(this.task);
  }

  setMotion(motion: Motion | null): void {
    this.motion = motion;
    this.motionArrived = false;
  }

  motorPower(name: string, mode: MotorMode, duty: number): void {
    this.free.find((motor) => motor.part.name === name)?.shaft.command(mode, duty);
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
    if (this.end) for (const { shaft } of this.free) shaft.command("brake", 0);
    const headingBefore = this.world.headingRad;
    for (let half = 0; half < 2; half += 1) {
      this.world.step(STEP_SEC);
      for (const { shaft } of this.free) shaft.step(STEP_SEC, this.world.packVolts);
    }
    this.bump(this.world.headingRad - headingBefore);
    this.tick += 1;
  }

  private sense(): void {
    const { world, drive, snapshot, gyro, draw } = this;
    gyro?.tick(world.headingRad, TICK_SEC);
    const elapsed = this.tick * TICK_SEC;
    const scale = this.known.gyro?.scale.value ?? 1;
    const rest = this.known.gyro?.restRadS.value ?? 0;
    const noise = draw.sensorNoise > 0 ? VOLTAGE_NOISE * draw.sensorNoise * this.chance.normal() : 0;
    drive.sense({
      countsLeft: this.counts(0),
      countsRight: this.counts(1),
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
  }

  private counts(wheel: 0 | 1): number | null {
    const { countsPerTurn, shaftRatio } = this.wheels[wheel];
    const state = this.world.wheels[wheel];
    return countsPerTurn === null || !state ? null : encoderCounts(state.angleRad * shaftRatio, countsPerTurn);
  }

  private senseMotor(wheel: 0 | 1, speedMS: number, duty: number): void {
    const { shaftRatio } = this.wheels[wheel];
    const counts = this.counts(wheel);
    const { countsPerTurn } = this.wheels[wheel];
    const side = wheel === 0 ? this.known.left : this.known.right;
    const base = SLOT.motors + this.wheelMotors[wheel] * MOTOR_SLOTS;
    this.snapshot[base] = counts !== null && countsPerTurn !== null ? (counts * TAU) / countsPerTurn : 0;
    this.snapshot[base + 1] = (speedMS / side.rollPerTurnM.value) * TAU * shaftRatio;
    this.snapshot[base + 2] = Math.abs(duty) > 0.3 && Math.abs(speedMS) < 0.01 ? 1 : 0;
  }

  private senseFree(): void {
    for (const { index, part, shaft } of this.free) {
      if (!part.encoder) continue;
      const base = SLOT.motors + index * MOTOR_SLOTS;
      const angle = (encoderCounts(shaft.angleRad, part.encoder.countsPerTurn) * TAU) / part.encoder.countsPerTurn;
      this.snapshot[base + 1] = (angle - (this.snapshot[base] as number)) / TICK_SEC;
      this.snapshot[base] = angle;
      this.snapshot[base + 2] = Math.abs(shaft.commandedDuty) > 0.3 && Math.abs(shaft.spinRadS) < 0.05 ? 1 : 0;
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
    world.command(0, drive.mode, drive.left.duty);
    world.command(1, drive.mode, drive.right.duty);
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

function wheelSense(side: RobotInForce["left"]): WheelSense {
  return { shaftRatio: gearTrain(side.wheel).ratio, countsPerTurn: side.motor.encoder?.countsPerTurn ?? null };
}

function newShaft(motor: Motor): FreeMotor {
  const derived = deriveMotor(motor);
  if (!derived.ok) throw new RangeError(`motor "${motor.name}": ${derived.message}`);
  return new FreeMotor({
    ...motor,
    constants: derived.constants,
    gearRatio: motor.gearboxRatio,
    efficiency: motor.gearboxEfficiency,
  });
}
