// A motor that drives no wheel: its output shaft turns its own inertia and friction, nothing else. Backward
// Euler like the wheels' motors. Arms, grippers and their end stops will load it; its draw on the pack is left out.
import { type DriveSpec, dampingOf, type MotorMode } from "./parts.js";

export class FreeMotor {
  /** Output shaft, rad/s and rad; the gear ratio of its spec is motor turns for one turn of this shaft. */
  spinRadS = 0;
  angleRad = 0;
  private mode: MotorMode = "brake";
  private duty = 0;

  constructor(private readonly spec: DriveSpec) {}

  get commandedDuty(): number {
    return this.duty;
  }

  command(mode: MotorMode, duty: number): void {
    this.mode = mode;
    this.duty = mode === "drive" ? Math.max(-1, Math.min(1, duty)) : 0;
  }

  step(dt: number, packVolts: number): void {
    const { constants, gearRatio: g, efficiency, coulombTorqueNm, viscousNmS, rotorInertiaKgM2 } = this.spec;
    const { resistanceOhm, torqueConstant } = constants;
    const inertia = g * g * rotorInertiaKgM2;
    const damping = dampingOf(this.spec, this.mode);
    const push = this.mode === "drive" ? (efficiency * g * torqueConstant * this.duty * packVolts) / resistanceOhm : 0;
    const held = inertia + dt * (damping + g * g * viscousNmS);
    const free = (inertia * this.spinRadS + dt * push) / held;
    const drag = (efficiency * g * coulombTorqueNm * dt) / held;
    this.spinRadS = free > drag ? free - drag : free < -drag ? free + drag : 0;
    this.angleRad += dt * this.spinRadS;
  }
}
