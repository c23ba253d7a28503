// A motor that drives no wheel: an arm, a gripper, a spinner, a belt. Its output shaft turns an inertia against
// friction and, for an arm, its weight, between end stops that stop it dead.
import { cos } from "../math/trig.js";
import { GRAVITY } from "./constants.js";
import type { DriveSpec, MotorMode } from "./parts.js";
import { ShaftState } from "./shaft.js";

interface FreeLoad {
  readonly inertiaKgM2: number;
  /** Mass times distance of its balance point from the hinge, kg m: an arm's weight pulls with the cosine. */
  readonly weightKgM: number;
  /** End stops at the output shaft, rad; null for what turns on and on. */
  readonly stopsRad: readonly [low: number, high: number] | null;
}

export const NO_LOAD: FreeLoad = { inertiaKgM2: 0, weightKgM: 0, stopsRad: null };

export class FreeMotor {
  readonly shaft: ShaftState;
  /** Pressed against an end stop: -1 the low one, 1 the high one. */
  atStop = 0;

  /** Something stands in its way: it turns no lower than this, rad at the output shaft; null for nothing. */
  blockedRad: number | null = null;

  constructor(
    spec: DriveSpec,
    private readonly load: FreeLoad = NO_LOAD,
  ) {
    this.shaft = new ShaftState(spec, load.inertiaKgM2);
  }

  get spinRadS(): number {
    return this.shaft.spinRadS;
  }
  get angleRad(): number {
    return this.shaft.angleRad;
  }
  get commandedDuty(): number {
    return this.shaft.duty;
  }

  command(mode: MotorMode, duty: number): void {
    this.shaft.command(mode, duty);
  }

  /** @param volts - at the motor driver's output at full duty */
  step(dt: number, volts: number): void {
    const { shaft, load } = this;
    if (load.weightKgM > 0) shaft.loadTorqueNm = -load.weightKgM * GRAVITY * cos(shaft.angleRad);
    shaft.prepare(volts, dt);
    const drag = shaft.dragLimit * shaft.inverse;
    const free = shaft.spinRadS;
    shaft.spinRadS = free > drag ? free - drag : free < -drag ? free + drag : 0;
    this.atStop = 0;
    if (load.stopsRad) {
      const low = Math.max(load.stopsRad[0], this.blockedRad ?? load.stopsRad[0]);
      const high = load.stopsRad[1];
      const next = shaft.angleRad + dt * shaft.spinRadS;
      // Against a stop the shaft stands; the winding's current is then its stall current.
      if (next <= low && shaft.spinRadS <= 0) this.hold(low, -1);
      else if (next >= high && shaft.spinRadS >= 0) this.hold(high, 1);
    }
    shaft.turn(dt);
    shaft.finish(dt);
  }

  private hold(atRad: number, side: number): void {
    const { shaft } = this;
    if (shaft.duty * side > 0 || this.load.weightKgM > 0) this.atStop = side;
    shaft.angleRad = atRad;
    shaft.spinRadS = 0;
  }
}
