// A turning shaft with the wheels on it and the motor that turns it, if any. Motor and back voltage by backward
// Euler inside the solver: 1/(J + dt·(c + viscous)) is the shaft's inverse inertia in every row.
import type { DriveSpec, MotorMode } from "./parts.js";
import { AMBIENT_C, warmed, warmFactor } from "./thermal.js";

/** Beyond these no shaft spins, counts or warms; not-a-number is beyond as well. */
const MOST_SPIN_RADS = 1e7;
const MOST_ANGLE_RAD = 1e12;
const MOST_C = 1e5;

/** From this speed on a shaft that turns its motor feels all of the gears' loss, rad/s. */
const DRAGGED_RAD_S = 0.2;

export class ShaftState {
  spinRadS = 0;
  angleRad = 0;
  mode: MotorMode = "brake";
  duty = 0;
  driveVolts = 0;
  motorCurrentA = 0;
  windingC = AMBIENT_C;
  /** Its protection is open: no current until it is cool again. */
  cutOut = false;
  /** The belt slips in this step. */
  slipping = false;
  // Solver's own:
  inverse = 0;
  /** What a torque here does to the other shaft of a differential. */
  inverseMate = 0;
  /** Impulse of motor friction and rolling drag, N m s, and its limit. */
  drag = 0;
  dragLimit = 0;
  /** The other side of a differential; only one of the two has the drive. */
  mate: ShaftState | null = null;

  /** Torque from outside the drive, N m: the weight of an arm. */
  loadTorqueNm = 0;

  constructor(
    readonly drive: DriveSpec | null,
    /** Of the wheels on it, kg m². */
    public inertiaKgM2: number,
  ) {}

  command(mode: MotorMode, duty: number): void {
    this.mode = mode;
    this.duty = mode === "drive" ? Math.max(-1, Math.min(1, duty)) : 0;
  }

  get pulls(): boolean {
    return this.drive !== null && this.mode === "drive" && !this.cutOut;
  }

  get resistanceOhm(): number {
    const { drive } = this;
    if (!drive) return Number.POSITIVE_INFINITY;
    const cold = drive.constants.resistanceOhm;
    return drive.thermal ? cold * warmFactor(this.windingC, drive.thermal) : cold;
  }

  /** Speed of what the motor turns: this shaft, or the middle of both sides of a differential. */
  get drivenSpinRadS(): number {
    return this.mate ? (this.spinRadS + this.mate.spinRadS) / 2 : this.spinRadS;
  }

  /**
   * Takes the motor into this step. Of a differential only the side with the drive is prepared.
   * @param volts - at the motor driver's output at full duty
   */
  prepare(volts: number, dt: number): void {
    const { drive, mate } = this;
    this.slipping = false;
    if (!drive) {
      if (mate) return;
      this.inverse = 1 / this.inertiaKgM2;
      this.dragLimit = 0;
      return;
    }
    const g = drive.gearRatio;
    const r = this.resistanceOhm;
    const { torqueConstant, backVoltage } = drive.constants;
    const conducts = this.mode !== "coast" && !this.cutOut;
    this.driveVolts = this.pulls ? this.duty * volts : 0;
    let rotor = g * g * drive.rotorInertiaKgM2;
    // Gears lose either way: what the motor gives arrives smaller, what it holds back with is felt larger.
    const passes = this.gearPasses(
      conducts ? this.driveVolts - backVoltage * g * this.drivenSpinRadS : 0,
      drive.efficiency,
    );
    let damping = conducts ? (passes * g * g * torqueConstant * backVoltage) / r : 0;
    let push = (passes * g * torqueConstant * this.driveVolts) / r;
    const most = drive.slipTorqueNm ?? Number.POSITIVE_INFINITY;
    const torque = push - damping * this.drivenSpinRadS;
    if (torque > most || torque < -most) {
      // A slipping belt passes on its largest torque whatever the motor does.
      this.slipping = true;
      push = torque > 0 ? most : -most;
      damping = 0;
      rotor = 0;
    }
    const held = damping + g * g * drive.viscousNmS;
    const friction = passes * g * drive.coulombTorqueNm * dt;
    if (mate) this.prepareDifferential(mate, rotor, held, push, friction, dt);
    else {
      const inertia = this.inertiaKgM2 + rotor;
      const whole = inertia + dt * held;
      this.spinRadS = (inertia * this.spinRadS + dt * (push + this.loadTorqueNm)) / whole;
      this.inverse = 1 / whole;
      this.dragLimit = friction;
    }
  }

  /**
   * Share of the motor's torque that reaches the shaft: the efficiency where it drives, its inverse where it is dragged
   * along. At rest the gears stick as they do when driven; in between it changes with the speed, so that nothing leaps.
   */
  private gearPasses(volts: number, efficiency: number): number {
    const { drivenSpinRadS: spin } = this;
    const dragged = volts > 0 ? -spin : volts < 0 ? spin : Math.abs(spin);
    const share = Math.max(0, Math.min(1, dragged / DRAGGED_RAD_S));
    return efficiency + share * (1 / efficiency - efficiency);
  }

  /** Both sides at once: inertia p I + q 11ᵀ, with the motor's on their mean speed. */
  private prepareDifferential(
    mate: ShaftState,
    rotor: number,
    held: number,
    push: number,
    friction: number,
    dt: number,
  ): void {
    const p = this.inertiaKgM2;
    const q0 = rotor / 4;
    const q = (rotor + dt * held) / 4;
    const sum = this.spinRadS + mate.spinRadS;
    const mine = p * this.spinRadS + q0 * sum + (dt * push) / 2;
    const other = p * mate.spinRadS + q0 * sum + (dt * push) / 2;
    const cross = -q / (p * (p + 2 * q));
    this.inverse = 1 / p + cross;
    this.inverseMate = cross;
    mate.inverse = this.inverse;
    mate.inverseMate = cross;
    this.spinRadS = this.inverse * mine + cross * other;
    mate.spinRadS = cross * mine + this.inverse * other;
    // Motor friction is shared by both sides.
    this.dragLimit = friction / 2;
    mate.dragLimit = friction / 2;
  }

  /** What this motor adds to the two sums the pack's voltage follows from: Σ d·e/R and Σ d²/R. */
  get drawBackA(): number {
    const { drive } = this;
    if (!drive || !this.pulls) return 0;
    return (this.duty * drive.constants.backVoltage * drive.gearRatio * this.drivenSpinRadS) / this.resistanceOhm;
  }

  get drawConductance(): number {
    return this.pulls ? (this.duty * this.duty) / this.resistanceOhm : 0;
  }

  /** A torque impulse, N m s, on this shaft. */
  apply(impulse: number): void {
    this.spinRadS += impulse * this.inverse;
    if (this.mate) this.mate.spinRadS += impulse * this.inverseMate;
  }

  /** Shaft angle by the same rule as the pose, so that odometry and pose agree. */
  turn(dt: number): void {
    this.angleRad += dt * this.spinRadS;
  }

  /** A shaft that spins as nothing can is stopped. @returns whether it was */
  keepSound(): boolean {
    const sound =
      Math.abs(this.spinRadS) < MOST_SPIN_RADS && Math.abs(this.angleRad) < MOST_ANGLE_RAD && this.windingC < MOST_C;
    if (sound) return false;
    this.spinRadS = 0;
    this.drag = 0;
    this.loadTorqueNm = 0;
    this.motorCurrentA = 0;
    if (!(Math.abs(this.angleRad) < MOST_ANGLE_RAD)) this.angleRad = 0;
    if (!(this.windingC < MOST_C)) this.windingC = AMBIENT_C;
    return true;
  }

  /** Current and heat that flowed in this step. */
  finish(dt: number): void {
    const { drive } = this;
    if (!drive) return;
    const r = this.resistanceOhm;
    const conducts = this.mode !== "coast" && !this.cutOut;
    this.motorCurrentA = conducts
      ? (this.driveVolts - drive.constants.backVoltage * drive.gearRatio * this.drivenSpinRadS) / r
      : 0;
    const { thermal } = drive;
    if (!thermal) return;
    this.windingC = warmed(this.windingC, this.motorCurrentA * this.motorCurrentA * r, thermal, dt);
    if (this.windingC > thermal.cutOutC) this.cutOut = true;
    else if (this.windingC < thermal.recoverC) this.cutOut = false;
  }
}
