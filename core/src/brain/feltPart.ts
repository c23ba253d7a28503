// A motor or servo as its controller feels it: angle by its encoder's whole counts, from the zero it was given.

import { moverOf } from "../cairn/effects.js";
import { potentiometerOn, readingLayout } from "../cairn/readings.js";
import type { PartControl } from "../control/partMotion.js";
import type { Motor } from "../drives/parts.js";
import { stagesTrain } from "../drives/train.js";
import { TAU } from "../math/trig.js";
import type { MotorMode } from "../physics/parts.js";
import type { Robot, Servo } from "../robot/schema.js";
import type { Commands, MotorCommand, RawSenses, RawServo, ServoCommand } from "./raw.js";

/** Speed of an angle is smoothed over about 30 ms. */
const RATE_SMOOTHING = 0.35;
/** A servo stands where it was told to: this near, and this slow. */
const SETTLED = { rad: 0.009, rateRadS: 0.05 } as const;
/** A motor that pushes this hard and turns no faster than this is stalled. */
const STALLED = { duty: 0.25, rateRadS: 0.05 } as const;

/** The output shaft of a motor that drives no wheel, by its encoder. */
export class FeltMotor {
  private zeroRad = 0;
  private beforeRad = 0;
  private begun = false;
  /** Speed of the output shaft, rad/s. */
  rateRadS = 0;

  constructor(
    private readonly motor: Motor,
    private readonly index: number,
    private readonly raw: RawSenses,
    private readonly commands: Commands,
  ) {}

  /** From where it stood at the start, rad; 0 without an encoder. */
  get turnedRad(): number {
    const counts = this.raw.motorCounts[this.index] ?? null;
    const perTurn = this.motor.encoder?.countsPerTurn;
    return counts === null || !perTurn ? 0 : (counts * TAU) / perTurn;
  }

  /** From its zero. */
  get angleRad(): number {
    return this.turnedRad - this.zeroRad;
  }

  get stalled(): boolean {
    const { duty } = this.commands.motors[this.index] ?? { duty: 0 };
    return Math.abs(duty) > STALLED.duty && Math.abs(this.rateRadS) < STALLED.rateRadS;
  }

  zero(): void {
    this.zeroRad = this.turnedRad;
  }

  /** Once a tick. */
  follow(tickSec: number): void {
    const now = this.turnedRad;
    if (this.begun) this.rateRadS += RATE_SMOOTHING * ((now - this.beforeRad) / tickSec - this.rateRadS);
    this.begun = true;
    this.beforeRad = now;
  }
}

/** What a motor beside the drive, or a servo that turns on and on, is told. */
export type PartOrder = { readonly motor: MotorCommand } | { readonly servo: ServoCommand };

/** An order of a share of the voltage, or of a servo's own speed. */
export function givePower(order: PartOrder, mode: MotorMode, duty: number): void {
  const share = mode === "drive" ? Math.max(-1, Math.min(1, duty)) : 0;
  if ("servo" in order) {
    order.servo.share = share;
    return;
  }
  order.motor.mode = mode;
  order.motor.duty = share;
}

interface ServoParts {
  readonly spec: Servo;
  readonly raw: RawServo;
  readonly command: ServoCommand;
}

export class FeltPart implements PartControl {
  readonly servo: boolean;
  readonly topRateRadS: number;
  private readonly servoParts: ServoParts | null;
  /** Turns of the mover for one turn of the named part. */
  private readonly ratio: number;
  readonly mover: string;
  /** Sensors that its head carries, by their place among the robot's. */
  private readonly eyes: readonly number[];
  private readonly scanSlot: number;
  private readonly distanceSlot: number;
  private readonly offRad: number;
  /** A potentiometer that tells its angle: which, and how many of its turns are one of the part's. */
  private readonly byPotentiometer: { readonly sensor: number; readonly ratio: number } | null;
  private lastRad = 0;
  private rateByAngle = 0;

  constructor(
    name: string,
    robot: Robot,
    private readonly raw: RawSenses,
    private readonly commands: Commands,
    private readonly motor: FeltMotor | null,
    private readonly snapshot: Float64Array,
    private readonly order: PartOrder | null,
  ) {
    this.mover = moverOf(robot, name);
    this.servoParts = this.servoOf(robot);
    this.servo = this.servoParts !== null;
    const train = trainRatio(robot, this.mover);
    this.ratio = name === this.mover || this.servo || !motor ? 1 : train;
    const sheet = motor ? robot.motors.find((candidate) => candidate.name === this.mover) : undefined;
    this.topRateRadS = this.servoParts
      ? this.servoParts.spec.speedRadS
      : sheet
        ? sheet.freeSpeedRadS / sheet.gearboxRatio / this.ratio
        : 1;
    const layout = readingLayout(robot);
    const carried = robot.sensors.filter((sensor) => sensor.kind === "eye" && sensor.head === this.mover);
    this.eyes = carried.map((sensor) => robot.sensors.indexOf(sensor));
    const first = carried[0];
    this.offRad = first?.kind === "eye" ? first.aimRad : 0;
    this.distanceSlot = first ? (layout.sensors[robot.sensors.indexOf(first)] as number) : 0;
    this.byPotentiometer = this.servo ? null : this.potentiometer(name, robot, motor ? train : 1);
    this.scanSlot = layout.scans + 2 * robot.servos.findIndex((servo) => servo.name === this.mover);
  }

  private servoOf(robot: Robot): ServoParts | null {
    const index = robot.servos.findIndex((servo) => servo.name === this.mover);
    const [spec, raw, command] = [robot.servos[index], this.raw.servos[index], this.commands.servos[index]];
    return spec && raw && command ? { spec, raw, command } : null;
  }

  private potentiometer(name: string, robot: Robot, train: number): FeltPart["byPotentiometer"] {
    const names = [
      name,
      ...robot.attachments.filter(({ drivenBy }) => drivenBy === this.mover).map((part) => part.name),
    ];
    for (const on of [...names, this.mover]) {
      const found = potentiometerOn(robot, on);
      if (!found) continue;
      // The named part turns by one of `ratio` of the mover's turns; the potentiometer sits on either of them.
      const turnsOfMover = on === this.mover ? 1 : train;
      return { sensor: robot.sensors.indexOf(found), ratio: turnsOfMover / this.ratio };
    }
    return null;
  }

  /** Once a tick: how fast an angle without an encoder changes. */
  follow(tickSec: number): void {
    if (!this.byPotentiometer) return;
    const now = this.angleRad;
    this.rateByAngle += RATE_SMOOTHING * ((now - this.lastRad) / tickSec - this.rateByAngle);
    this.lastRad = now;
  }

  get angleRad(): number {
    if (this.servoParts) return this.servoParts.raw.angleRad;
    if (this.byPotentiometer) {
      const { sensor, ratio } = this.byPotentiometer;
      return (this.raw.sensors[sensor]?.values[0] ?? 0) * ratio;
    }
    return this.motor ? this.motor.angleRad / this.ratio : 0;
  }

  get rateRadS(): number {
    if (this.byPotentiometer) return this.rateByAngle;
    return this.servoParts ? this.servoParts.raw.rateRadS : (this.motor?.rateRadS ?? 0) / this.ratio;
  }

  /** Stands where it was told to, within half a degree, and hardly moves. */
  get settled(): boolean {
    if (!this.servoParts) return true;
    const { spec, raw, command } = this.servoParts;
    if (spec.kind === "continuous") return command.share === 0 && raw.rateRadS === 0;
    // Told to close further than what it grips lets it.
    const presses = raw.heldRad !== null && command.targetRad < raw.heldRad && raw.angleRad <= raw.heldRad + 1e-6;
    return (
      (Math.abs(command.targetRad - raw.angleRad) < SETTLED.rad || presses) && Math.abs(raw.rateRadS) < SETTLED.rateRadS
    );
  }

  get eyeAgeTicks(): number | null {
    if (this.eyes.length === 0) return null;
    return this.eyes.reduce((oldest, eye) => Math.max(oldest, this.raw.sensors[eye]?.values[2] ?? 0), 0);
  }

  get eyeDistanceM(): number {
    return this.snapshot[this.distanceSlot] as number;
  }

  aim(rad: number): void {
    if (!this.servoParts) return;
    const { spec, command } = this.servoParts;
    command.targetRad = Math.max(spec.lowRad, Math.min(spec.highRad, rad));
  }

  power(mode: MotorMode, duty: number): void {
    if (this.order) givePower(this.order, mode, duty);
  }

  zero(): void {
    this.motor?.zero();
  }

  found(nearestRad: number, clearestRad: number): void {
    this.snapshot[this.scanSlot] = nearestRad + this.offRad;
    this.snapshot[this.scanSlot + 1] = clearestRad + this.offRad;
  }
}

/** Turns of a motor's output shaft for one turn of the attachment it drives. */
function trainRatio(robot: Robot, motor: string): number {
  return stagesTrain(robot.attachments.find(({ drivenBy }) => drivenBy === motor)?.stages ?? []).ratio;
}
