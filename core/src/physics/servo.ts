// A hobby servo: positional ones run to an angle at their own speed and settle with a lag; continuous ones turn
// at a share of their speed. They draw about their stall current in proportion to how hard they work.

interface ServoSpec {
  readonly kind: "positional" | "continuous";
  readonly nominalVolts: number;
  readonly speedRadS: number;
  readonly settleSec: number;
  readonly lowRad: number;
  readonly highRad: number;
  readonly stallCurrentA: number;
}

const IDLE_A = 0.008;

import { clamp } from "../math/clamp.js";
export class ServoState {
  angleRad: number;
  spinRadS = 0;
  targetRad: number;
  /** Continuous: -1..1. */
  share = 0;
  currentA = IDLE_A;
  /** Something stands in its way: it turns no lower than this, rad; null for nothing. */
  blockedRad: number | null = null;

  constructor(
    readonly spec: ServoSpec,
    startRad = Math.max(spec.lowRad, Math.min(spec.highRad, 0)),
  ) {
    this.angleRad = startRad;
    this.targetRad = startRad;
  }

  aim(rad: number): void {
    this.targetRad = Math.max(this.spec.lowRad, Math.min(this.spec.highRad, rad));
  }

  turn(share: number): void {
    this.share = Math.max(-1, Math.min(1, share));
  }

  /** Told to close further than what stands in its way lets it. */
  get presses(): boolean {
    return this.blockedRad !== null && this.targetRad < this.blockedRad && this.angleRad <= this.blockedRad + 1e-6;
  }

  /** Stands where it was told to, within half a degree, and hardly moves. */
  get settled(): boolean {
    return this.spec.kind === "positional"
      ? (Math.abs(this.targetRad - this.angleRad) < 0.009 || this.presses) && Math.abs(this.spinRadS) < 0.05
      : this.share === 0 && this.spinRadS === 0;
  }

  /** @param volts - on its rail; a weaker rail makes it slower in proportion */
  step(dt: number, volts: number): void {
    const { spec } = this;
    const top = spec.speedRadS * Math.max(0, Math.min(1.2, volts / spec.nominalVolts));
    const lag = spec.settleSec + dt;
    const wanted = spec.kind === "continuous" ? this.share * top : clamp((this.targetRad - this.angleRad) / lag, top);
    const before = this.spinRadS;
    this.spinRadS = wanted;
    this.angleRad += dt * wanted;
    const blocked = this.blockedRad !== null && this.angleRad < this.blockedRad;
    if (blocked) {
      this.angleRad = this.blockedRad as number;
      this.spinRadS = 0;
    }
    const work = Math.min(1, Math.abs(wanted) / spec.speedRadS + Math.abs(wanted - before) / (spec.speedRadS + 1e-9));
    // A servo that cannot get where it was told to pushes with what it has.
    this.currentA = IDLE_A + (blocked ? 1 : 0.35 * work) * spec.stallCurrentA;
  }
}
