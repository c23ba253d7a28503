// The drive's controller: measures itself by encoders and gyro, and turns wanted speeds into duties.
//
// Cascade: position and heading errors correct the wanted body speed and turn rate; each side's speed is then
// made by feed-forward from the drive model plus proportional and integral feedback on the encoder's speed.

import type { ShaftRow } from "../drives/mixing.js";
import { clamp } from "../math/clamp.js";
import { atan, cos, sin, tan } from "../math/trig.js";
import type { DriveModel, MixingModel, SideModel, SteeringModel } from "./driveModel.js";

/** Gains, found by sweeping on the demo robots: higher rings with 10 ms ticks, lower leaves more error at stops. */
const GAIN = { distance: 9, heading: 14, speed: 0.9, integral: 8 } as const;
/** Largest distance and heading errors that are corrected at full gain. */
const CLAMP = { distanceM: 0.02, headingRad: 0.35 } as const;
const SPEED_FILTER = 0.35;
/** Friction is compensated fully from this speed on, m/s; below in proportion, so that rest stays quiet. */
const FRICTION_FULL_MS = 0.0015;
/** Difference of the sides from which tied wheels scrub fully, m/s; below in proportion. */
const SCRUB_FULL_MS = 0.02;
/** Below this speed a car's axle stays where it is, m/s. */
const STEERS_FROM_MS = 0.005;
const STALL = { duty: 0.3, speedMS: 0.01, ticks: 40 } as const;

type DriveMode = "drive" | "brake" | "coast";

/** What the drive can feel this tick. */
interface DriveSenses {
  /** Encoder counts of each shaft since the start, forward positive; null without encoders. */
  readonly counts: readonly (number | null)[];
  /** Corrected gyro heading and rate since the start; null without a gyro. */
  readonly gyroHeadingRad: number | null;
  readonly gyroRateRadS: number;
  readonly packVolts: number;
}

interface SideState {
  travelM: number;
  speedMS: number;
  integral: number;
  duty: number;
}

export class DriveControl {
  /** Left, right, and those of drives with more shafts. */
  readonly shafts: readonly SideState[];
  readonly left: SideState;
  readonly right: SideState;
  mode: DriveMode = "brake";
  headingRad = 0;
  turnRateRadS = 0;
  xM = 0;
  yM = 0;
  /** Way to the left, m: of drives that slide. */
  asideM = 0;
  private forwardM = 0;
  packVolts: number;
  /** Wanted body speed and turn rate of the latest motion, before corrections. */
  wantedMS = 0;
  /** To the left; of drives that slide. */
  wantedAsideMS = 0;
  wantedRadS = 0;
  stalled = false;
  /** Its heading comes from a gyro. */
  hasGyro = false;
  /** Angle a car's axle is told to take, beyond its centre. */
  steerRad = 0;
  private stalledTicks = 0;

  constructor(
    readonly model: DriveModel,
    private readonly tickSec: number,
  ) {
    this.packVolts = model.nominalVolts;
    this.shafts = model.shafts.map(() => ({ travelM: 0, speedMS: 0, integral: 0, duty: 0 }));
    [this.left, this.right] = this.shafts as [SideState, SideState];
  }

  /** Way forward, m. */
  get travelM(): number {
    if (this.model.mixing) return this.forwardM;
    return (this.left.travelM + this.right.travelM) / 2;
  }

  get speedMS(): number {
    const { mixing } = this.model;
    if (mixing) return this.together(mixing, "forward");
    return (this.left.speedMS + this.right.speedMS) / 2;
  }

  /** Ways forward and to the left added up, m: a step drives one of them. */
  get wayM(): number {
    return this.model.mixing ? this.forwardM + this.asideM : this.travelM;
  }

  /** Speed to the left, m/s; 0 for drives that do not slide. */
  get asideMS(): number {
    const { mixing } = this.model;
    return mixing ? this.together(mixing, "left") : 0;
  }

  /** One speed of the whole from the speeds of all rims. */
  private together({ back }: MixingModel, way: "forward" | "left" | "turn"): number {
    let sum = 0;
    for (let i = 0; i < back.length; i += 1) sum += (back[i] as ShaftRow)[way] * (this.shafts[i] as SideState).speedMS;
    return sum;
  }

  /** Takes in this tick's readings: odometry by circular arcs, heading by gyro where there is one. */
  sense(senses: DriveSenses): void {
    const { mixing } = this.model;
    if (mixing) return this.senseMixed(senses, mixing);
    const movedLeft = this.senseSide(this.left, this.model.left, senses.counts[0] ?? null);
    const movedRight = this.senseSide(this.right, this.model.right, senses.counts[1] ?? null);
    const before = this.headingRad;
    this.hasGyro = senses.gyroHeadingRad !== null;
    if (senses.gyroHeadingRad !== null) {
      this.headingRad = senses.gyroHeadingRad;
      this.turnRateRadS = senses.gyroRateRadS;
    } else {
      const { steering, trackWidthM } = this.model;
      const turned = steering
        ? this.turnedBySteering((movedLeft + movedRight) / 2, steering)
        : (movedRight - movedLeft) / trackWidthM;
      this.headingRad += turned;
      this.turnRateRadS = steering ? turned / this.tickSec : (this.right.speedMS - this.left.speedMS) / trackWidthM;
    }
    const moved = (movedLeft + movedRight) / 2;
    const middle = (before + this.headingRad) / 2;
    this.xM += moved * cos(middle);
    this.yM += moved * sin(middle);
    this.packVolts = Math.max(0.5, senses.packVolts);
    this.watchStall();
  }

  /** The same for shafts that move the whole together: the least-squares motion of all rims. */
  private senseMixed(senses: DriveSenses, mixing: MixingModel): void {
    let [forward, left, turned] = [0, 0, 0];
    for (let i = 0; i < this.shafts.length; i += 1) {
      const shaft = this.shafts[i] as SideState;
      const moved = this.senseSide(shaft, this.model.shafts[i] as SideModel, senses.counts[i] ?? null);
      const back = mixing.back[i] as ShaftRow;
      forward += back.forward * moved;
      left += back.left * moved;
      turned += back.turn * moved;
    }
    const before = this.headingRad;
    this.hasGyro = senses.gyroHeadingRad !== null;
    if (senses.gyroHeadingRad !== null) {
      this.headingRad = senses.gyroHeadingRad;
      this.turnRateRadS = senses.gyroRateRadS;
    } else {
      this.headingRad += turned;
      this.turnRateRadS = this.together(mixing, "turn");
    }
    const middle = (before + this.headingRad) / 2;
    this.forwardM += forward;
    this.asideM += left;
    this.xM += forward * cos(middle) - left * sin(middle);
    this.yM += forward * sin(middle) + left * cos(middle);
    this.packVolts = Math.max(0.5, senses.packVolts);
    this.watchStall();
  }

  private senseSide(side: SideState, model: SideModel, counts: number | null): number {
    if (counts === null || model.metresPerCount === null) return 0;
    const travel = counts * model.metresPerCount;
    const moved = travel - side.travelM;
    side.travelM = travel;
    side.speedMS += SPEED_FILTER * (moved / this.tickSec - side.speedMS);
    return moved;
  }

  private watchStall(): void {
    const pushing = this.mode === "drive" && this.isPushing;
    const still = this.shafts.every(({ speedMS }) => Math.abs(speedMS) < STALL.speedMS);
    this.stalledTicks = this.model.hasEncoders && pushing && still ? this.stalledTicks + 1 : 0;
    this.stalled = this.stalledTicks >= STALL.ticks;
  }

  /** Both sides push hard, or any shaft of a drive that moves with all together. */
  private get isPushing(): boolean {
    if (this.model.mixing) return this.shafts.some(({ duty }) => Math.abs(duty) > STALL.duty);
    return Math.abs(this.left.duty) > STALL.duty && Math.abs(this.right.duty) > STALL.duty;
  }

  /**
   * Drives at a body speed and turn rate, with corrections.
   * @param speedMS - wanted, and its rate of change `accelMS2`
   * @param rateRadS - wanted turn rate, counter-clockwise, and its rate of change
   * @param behindM - how far the robot is behind its plan along its way, signed by forward
   * @param offRad - wanted heading less measured heading
   * @param mostDuty - ceiling, 0..1
   * @param asideMS - to the left, to be reached by ramps: for drives that slide
   */
  follow(
    speedMS: number,
    accelMS2: number,
    rateRadS: number,
    rateAccel: number,
    behindM: number,
    offRad: number,
    mostDuty: number,
    asideMS = 0,
  ): void {
    this.wantedMS = speedMS;
    this.wantedRadS = rateRadS;
    const half = this.model.trackWidthM / 2;
    const speed = speedMS + GAIN.distance * clamp(behindM, CLAMP.distanceM);
    const rate = rateRadS + GAIN.heading * clamp(offRad, CLAMP.headingRad);
    const { steering, mixing } = this.model;
    if (steering) this.steered(speed, rate, accelMS2, mostDuty, steering);
    else if (mixing) {
      const before = this.wantedAsideMS;
      this.wantedAsideMS = before + clamp(asideMS - before, this.model.rampMS2 * this.tickSec);
      const change = (this.wantedAsideMS - before) / this.tickSec;
      this.mixed(mixing, [speed, this.wantedAsideMS, rate], [accelMS2, change, rateAccel], mostDuty);
    } else this.sides(speed - rate * half, speed + rate * half, accelMS2, rateAccel * half, mostDuty);
  }

  /**
   * Slides to the left at a speed, heading held.
   * @param behindM - how far it is behind its plan, left positive
   * @param aheadM - how far it has come forward off its line
   * @param offRad - wanted heading less measured heading
   */
  slide(speedMS: number, accelMS2: number, behindM: number, aheadM: number, offRad: number, mostDuty: number): void {
    const { mixing } = this.model;
    if (!mixing) return;
    this.wantedMS = 0;
    this.wantedRadS = 0;
    this.wantedAsideMS = speedMS;
    const aside = speedMS + GAIN.distance * clamp(behindM, CLAMP.distanceM);
    const forward = -GAIN.distance * clamp(aheadM, CLAMP.distanceM);
    const rate = GAIN.heading * clamp(offRad, CLAMP.headingRad);
    this.mixed(mixing, [forward, aside, rate], [0, accelMS2, 0], mostDuty);
  }

  /** Forward, left and left round at once, each with its rate of change, as a driver's sticks ask for it. */
  roam(speeds: readonly [forwardMS: number, leftMS: number, rateRadS: number], mostDuty: number): void {
    const { mixing } = this.model;
    if (!mixing) return;
    [this.wantedMS, this.wantedAsideMS, this.wantedRadS] = speeds;
    this.mixed(mixing, speeds, [0, 0, 0], mostDuty);
  }

  /** Every rim at its part of the whole; where one would have to run faster than it can, all slow down alike. */
  private mixed(
    { rows, back, massKg, inertiaKgM2, spinningKg, rimMS }: MixingModel,
    speeds: readonly [number, number, number],
    changes: readonly [number, number, number],
    mostDuty: number,
  ): void {
    this.mode = "drive";
    const along = ({ forward, left, turn }: ShaftRow, [x, y, w]: readonly [number, number, number]) =>
      forward * x + left * y + turn * w;
    let over = 1;
    for (let i = 0; i < rows.length; i += 1)
      over = Math.max(over, Math.abs(along(rows[i] as ShaftRow, speeds)) / (rimMS[i] as number));
    const [ax, ay, aw] = changes;
    for (let i = 0; i < rows.length; i += 1) {
      const row = rows[i] as ShaftRow;
      const pushN =
        along(back[i] as ShaftRow, [massKg * ax, massKg * ay, inertiaKgM2 * aw]) +
        (spinningKg[i] as number) * along(row, changes);
      const shaft = this.shafts[i] as SideState;
      shaft.duty = this.sideDuty(shaft, this.model.shafts[i] as SideModel, along(row, speeds) / over, pushN, mostDuty);
    }
  }

  /** A car type: one motor for the speed, the axle for the turning: tan(angle) = wheelbase · rate / speed. */
  private steered(
    speedMS: number,
    rateRadS: number,
    accelMS2: number,
    mostDuty: number,
    steering: SteeringModel,
  ): void {
    this.mode = "drive";
    const duty = this.sideDuty(this.left, this.model.left, speedMS, this.model.sideMassKg * accelMS2, mostDuty);
    this.left.duty = duty;
    this.right.duty = duty;
    // Standing still no angle turns it; the axle keeps the one it has.
    if (Math.abs(speedMS) < STEERS_FROM_MS) return;
    this.steerRad = clamp(atan((steering.wheelbaseM * rateRadS) / speedMS), steering.mostRad);
  }

  /** Heading change of a car type from how far it went and where its axle stood. */
  private turnedBySteering(movedM: number, steering: SteeringModel): number {
    return (movedM * tan(this.steerRad)) / steering.wheelbaseM;
  }

  /** Drives each side at a speed, closed loop where there are encoders. */
  sides(leftMS: number, rightMS: number, accelMS2: number, accelAcross: number, mostDuty: number): void {
    const { mixing, trackWidthM } = this.model;
    if (mixing)
      return this.mixed(
        mixing,
        [(leftMS + rightMS) / 2, 0, (rightMS - leftMS) / trackWidthM],
        [accelMS2, 0, (2 * accelAcross) / trackWidthM],
        mostDuty,
      );
    const { sideMassKg, sideTurnMassKg } = this.model;
    const straightN = sideMassKg * accelMS2;
    const acrossN = sideTurnMassKg * accelAcross + this.scrub(rightMS - leftMS);
    this.mode = "drive";
    this.left.duty = this.sideDuty(this.left, this.model.left, leftMS, straightN - acrossN, mostDuty);
    this.right.duty = this.sideDuty(this.right, this.model.right, rightMS, straightN + acrossN, mostDuty);
  }

  /** What tied wheels need to be pushed round, N: slip across is met by the whole grip, on any curve. */
  private scrub(across: number): number {
    return this.model.scrubN === 0 ? 0 : clamp(across / SCRUB_FULL_MS, 1) * this.model.scrubN;
  }

  private sideDuty(side: SideState, model: SideModel, speedMS: number, pushN: number, mostDuty: number): number {
    const friction = model.frictionN * clamp(speedMS / FRICTION_FULL_MS, 1);
    let volts = model.voltsPerSpeed * speedMS + model.voltsPerNewton * (pushN + friction);
    if (model.metresPerCount !== null) {
      const off = speedMS - side.speedMS;
      volts += model.voltsPerSpeed * GAIN.speed * off + side.integral;
      const most = this.packVolts * mostDuty;
      // Integrates only while the motor can do what is asked.
      if (Math.abs(volts) < most)
        side.integral = clamp(
          side.integral + model.voltsPerSpeed * GAIN.integral * off * this.tickSec,
          this.packVolts * 0.3,
        );
    }
    return clamp(volts / (this.packVolts * this.model.driverShare), mostDuty);
  }

  /** Open loop: a share of the pack voltage on each side. */
  power(left: number, right: number): void {
    this.mode = "drive";
    this.left.duty = clamp(left, 1);
    this.right.duty = clamp(right, 1);
    if (this.model.mixing) this.powerOthers(left, right, this.model.mixing);
    this.wantedMS = this.speedMS;
    this.wantedRadS = this.turnRateRadS;
  }

  /** The other shafts get what a drive with these duties on its lead wheels asks of them. */
  private powerOthers(left: number, right: number, { rows }: MixingModel): void {
    const lead = rows[0] as ShaftRow;
    const turning = (right - left) / this.model.trackWidthM;
    for (let i = 2; i < rows.length; i += 1) {
      const { forward, turn } = rows[i] as ShaftRow;
      (this.shafts[i] as SideState).duty = clamp(((forward * (left + right)) / 2 + turn * turning) / lead.forward, 1);
    }
  }

  release(mode: "brake" | "coast"): void {
    this.mode = mode;
    for (const side of this.shafts) {
      side.duty = 0;
      side.integral = 0;
    }
    this.wantedMS = 0;
    this.wantedAsideMS = 0;
    this.wantedRadS = 0;
  }

  /** Whether it stands, as far as it can tell. */
  get isStill(): boolean {
    return Math.abs(this.speedMS) < 0.005 && Math.abs(this.asideMS) < 0.005 && Math.abs(this.turnRateRadS) < 0.05;
  }
}
