// A motor or servo as its controller feels it: angle by its encoder's whole counts, from the zero it was given.
import { moverOf } from "../cairn/effects.js";
import { readingLayout } from "../cairn/readings.js";
import type { PartControl } from "../control/partMotion.js";
import { TAU } from "../math/trig.js";
import type { ServoState } from "../physics/servo.js";
import type { Robot } from "../robot/schema.js";
import { encoderCounts } from "../sensors/encoder.js";
import type { EyeSensor } from "../sensors/eye.js";
import type { Fittings, FreePart } from "./fittings.js";

export class SensedPart implements PartControl {
  readonly servo: boolean;
  readonly topRateRadS: number;
  private readonly servoState: ServoState | null;
  private readonly free: FreePart | null;
  /** Turns of the mover for one turn of the named part. */
  private readonly ratio: number;
  private readonly mover: string;
  private readonly eyes: readonly EyeSensor[];
  private readonly scanSlot: number;
  private readonly distanceSlot: number;
  private readonly offRad: number;

  constructor(
    name: string,
    robot: Robot,
    private readonly fittings: Fittings,
    eyes: ReadonlyMap<string, EyeSensor>,
    private readonly snapshot: Float64Array,
  ) {
    this.mover = moverOf(robot, name);
    this.servoState = fittings.servo(this.mover);
    this.free = fittings.motors.find(({ motor }) => motor.name === this.mover) ?? null;
    this.servo = this.servoState !== null;
    this.ratio = name === this.mover || this.servo ? 1 : (this.free?.ratio ?? 1);
    const { motor } = this.free ?? {};
    this.topRateRadS = this.servoState
      ? this.servoState.spec.speedRadS
      : motor
        ? motor.freeSpeedRadS / motor.gearboxRatio / this.ratio
        : 1;
    const layout = readingLayout(robot);
    const carried = robot.sensors.filter((sensor) => sensor.kind === "eye" && sensor.head === this.mover);
    this.eyes = carried.flatMap((sensor) => eyes.get(sensor.name) ?? []);
    const first = carried[0];
    this.offRad = first?.kind === "eye" ? first.aimRad : 0;
    this.distanceSlot = first ? (layout.sensors[robot.sensors.indexOf(first)] as number) : 0;
    this.scanSlot = layout.scans + 2 * robot.servos.findIndex((servo) => servo.name === this.mover);
  }

  get angleRad(): number {
    if (this.servoState) return this.servoState.angleRad;
    return this.free ? (this.measured() - this.fittings.zeroOf(this.mover)) / this.ratio : 0;
  }

  /** Angle of the motor's output shaft by its encoder, from where it stood at the start. */
  private measured(): number {
    const { free } = this;
    if (!free) return 0;
    const counts = free.motor.encoder?.countsPerTurn;
    return counts ? (encoderCounts(free.free.angleRad, counts) * TAU) / counts : free.free.angleRad;
  }

  get rateRadS(): number {
    return this.servoState ? this.servoState.spinRadS : this.fittings.rateOf(this.mover) / this.ratio;
  }

  get settled(): boolean {
    return this.servoState?.settled ?? true;
  }

  get eyeAgeTicks(): number | null {
    if (this.eyes.length === 0) return null;
    return this.eyes.reduce((oldest, eye) => Math.max(oldest, eye.ageTicks), 0);
  }

  get eyeDistanceM(): number {
    return this.snapshot[this.distanceSlot] as number;
  }

  aim(rad: number): void {
    this.servoState?.aim(rad);
  }

  power(mode: "drive" | "brake" | "coast", duty: number): void {
    this.fittings.power(this.mover, mode, duty);
  }

  zero(): void {
    this.fittings.setZero(this.mover, this.measured());
  }

  found(nearestRad: number, clearestRad: number): void {
    this.snapshot[this.scanSlot] = nearestRad + this.offRad;
    this.snapshot[this.scanSlot + 1] = clearestRad + this.offRad;
  }
}
