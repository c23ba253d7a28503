// A distance profile: speeds up at a ramp, cruises, slows at the same ramp to its end speed. Stepped tick by
// tick, so that it can wait when the robot cannot follow; with exact stopping in discrete time.

export class Profile {
  /** Planned distance so far and planned speed, both ≥ 0. */
  distance = 0;
  acceleration = 0;

  /**
   * @param length - whole distance; Infinity to cruise until told otherwise
   * @param cruise - highest speed, > 0
   * @param ramp - acceleration, > 0
   * @param speed - speed it begins with
   * @param endSpeed - speed it may still have at the end
   */
  constructor(
    readonly length: number,
    readonly cruise: number,
    readonly ramp: number,
    public speed: number,
    private readonly endSpeed: number,
  ) {}

  get done(): boolean {
    return this.distance >= this.length;
  }

  advance(dt: number): void {
    const left = this.length - this.distance;
    const before = this.speed;
    if (left <= 0) {
      this.speed = this.endSpeed;
      this.acceleration = 0;
      return;
    }
    // Highest speed for this tick from which the ramp can still reach the end speed within `left`.
    const step = this.ramp * dt;
    const braking =
      left === Number.POSITIVE_INFINITY
        ? Number.POSITIVE_INFINITY
        : -step / 2 + Math.sqrt((step * step) / 4 + 2 * this.ramp * left + this.endSpeed * this.endSpeed);
    const wanted = Math.min(this.cruise, Math.max(this.endSpeed, braking));
    this.speed = Math.max(before - 2 * step, Math.min(before + step, wanted));
    const move = this.speed * dt;
    // The last creep of an exponential approach is taken in one step.
    if (move >= left || left < 1e-5) this.distance = this.length;
    else this.distance += move;
    this.acceleration = (this.speed - before) / dt;
  }

  /** Seconds a trapezoid of these numbers takes. */
  expectedSec(): number {
    const reach = (this.cruise * this.cruise) / this.ramp;
    if (this.length >= reach) return this.length / this.cruise + this.cruise / this.ramp;
    return 2 * Math.sqrt(this.length / this.ramp);
  }
}
