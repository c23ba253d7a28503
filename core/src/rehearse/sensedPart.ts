// A motor or servo as its controller feels it: angle by its encoder's whole counts, from the zero it was given.
import { moverOf } from "../cairn/effects.js";
import { potentiometerOn, readingLayout } from "../cairn/readings.js";
import type { PartControl } from "../control/partMotion.js";
import { TAU } from "../math/trig.js";
import type { ServoState } from "../physics/servo.js";
import type { Robot } from "../robot/schema.js";
import { encoderCounts } from "../sensors/encoder.js";
import type { EyeSensor } from "../sensors/eye.js";
import { potentiometerReading } from "../sensors/potentiometer.js";
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
  /** A potentiometer that tells its angle: how many of its turns are one of the part's; null without one. */
  private readonly byPotentiometer: { readonly travelRad: number; readonly on: string; readonly ratio: number } | null;
  private lastRad = 0;
  private rateByAngle = 0;

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
    this.byPotentiometer = this.servo ? null : this.potentiometer(name, robot);
    this.scanSlot = layout.scans + 2 * robot.servos.findIndex((servo) => servo.name === this.mover);
  }

  private potentiometer(name: string, robot: Robot): SensedPart["byPotentiometer"] {
    const train = this.free?.ratio ?? 1;
    const names = [
      name,
      ...robot.attachments.filter(({ drivenBy }) => drivenBy === this.mover).map((part) => part.name),
    ];
    for (const on of [...names, this.mover]) {
      const found = potentiometerOn(robot, on);
      if (!found) continue;
      // The named part turns by one of `ratio` of the mover's turns; the potentiometer sits on either of them.
      const turnsOfMover = on === this.mover ? 1 : train;
      return { travelRad: found.travelRad, on, ratio: turnsOfMover / this.ratio };
    }
    return null;
  }

  /** Once a tick: how fast an angle without an encoder changes, smoothed over about 30 ms. */
  follow(tickSec: number): void {
    if (!this.byPotentiometer) return;
    const now = this.angleRad;
    this.rateByAngle += 0.35 * ((now - this.lastRad) / tickSec - this.rateByAngle);
    this.lastRad = now;
  }

  get angleRad(): number {
    if (this.servoState) return this.servoState.angleRad;
    if (this.byPotentiometer) {
      const { on, travelRad, ratio } = this.byPotentiometer;
      return potentiometerReading(this.fittings.angleOf(on), travelRad) * ratio;
    }
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
    if (this.byPotentiometer) return this.rateByAngle;
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
