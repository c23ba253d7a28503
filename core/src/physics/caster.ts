// What holds the robot up besides its wheels: a ball or skid that slides, or a free caster whose wheel trails a
// pivot and turns into the way it is pulled.
import { cos, sin } from "../math/trig.js";
import type { Body } from "./body.js";
import { type PatchImpulse, solvePatch } from "./friction.js";
import type { CasterSpec } from "./parts.js";

const patch: PatchImpulse = { forward: 0, side: 0 };
/** A caster swivels at most this much in a step, so that a start from rest does not throw it about. */
const MOST_SWIVEL_RAD = 0.5;

export class CasterState {
  /** Direction the wheel rolls in, against the robot's forward, rad. */
  swivelRad = 0;
  impulseX = 0;
  impulseY = 0;
  limit = 0;
  private leverX = 0;
  private leverY = 0;
  private rollX = 1;
  private rollY = 0;

  constructor(readonly spec: CasterSpec) {}

  prepare(body: Body, loadN: number, dt: number): void {
    const { spec } = this;
    const { forwardX: fx, forwardY: fy } = body;
    this.limit = spec.friction * loadN * dt;
    let x = spec.xM;
    let y = spec.yM;
    if (spec.trailM !== undefined) {
      this.swivel(body, spec.trailM, dt);
      const c = cos(this.swivelRad);
      const s = sin(this.swivelRad);
      x -= spec.trailM * c;
      y -= spec.trailM * s;
      this.rollX = fx * c - fy * s;
      this.rollY = fy * c + fx * s;
    }
    this.leverX = fx * x - fy * y;
    this.leverY = fy * x + fx * y;
  }

  /** No sideways slip at the contact: the trail turns with (v·n)/trail less the body's own turning. */
  private swivel(body: Body, trailM: number, dt: number): void {
    const { spec } = this;
    const { forwardX: fx, forwardY: fy } = body;
    const px = fx * spec.xM - fy * spec.yM;
    const py = fy * spec.xM + fx * spec.yM;
    const vx = body.velocityX - body.turnRateRadS * py;
    const vy = body.velocityY + body.turnRateRadS * px;
    const alongX = fx * cos(this.swivelRad) - fy * sin(this.swivelRad);
    const alongY = fy * cos(this.swivelRad) + fx * sin(this.swivelRad);
    const rate = (vy * alongX - vx * alongY) / trailM - body.turnRateRadS;
    this.swivelRad += Math.max(-MOST_SWIVEL_RAD, Math.min(MOST_SWIVEL_RAD, rate * dt));
  }

  /** As if it had just been put down. */
  forget(): void {
    this.swivelRad = 0;
    this.impulseX = 0;
    this.impulseY = 0;
  }

  warm(body: Body): void {
    body.push(this.leverX, this.leverY, this.impulseX, this.impulseY);
  }

  solve(body: Body): number {
    if (this.limit === 0) return 0;
    return this.spec.trailM === undefined ? this.solveSliding(body) : this.solveRolling(body);
  }

  private solveSliding(body: Body): number {
    const { leverX, leverY } = this;
    const kxx = body.inverseMass + leverY * leverY * body.inverseInertia;
    const kyy = body.inverseMass + leverX * leverX * body.inverseInertia;
    const kxy = -leverX * leverY * body.inverseInertia;
    const ux = body.velocityX - body.turnRateRadS * leverY - kxx * this.impulseX - kxy * this.impulseY;
    const uy = body.velocityY + body.turnRateRadS * leverX - kxy * this.impulseX - kyy * this.impulseY;
    solvePatch(kxx, kxy, kyy, ux, uy, this.limit, patch);
    return this.change(body, patch.forward, patch.side);
  }

  /** Only its rolling resists. */
  private solveRolling(body: Body): number {
    const { leverX, leverY, rollX, rollY } = this;
    const arm = leverX * rollY - leverY * rollX;
    const k = body.inverseMass + arm * arm * body.inverseInertia;
    const old = this.impulseX * rollX + this.impulseY * rollY;
    const v =
      (body.velocityX - body.turnRateRadS * leverY) * rollX + (body.velocityY + body.turnRateRadS * leverX) * rollY;
    const impulse = Math.max(-this.limit, Math.min(this.limit, old - v / k));
    return this.change(body, impulse * rollX, impulse * rollY);
  }

  private change(body: Body, x: number, y: number): number {
    const dx = x - this.impulseX;
    const dy = y - this.impulseY;
    this.impulseX = x;
    this.impulseY = y;
    body.push(this.leverX, this.leverY, dx, dy);
    return Math.max(Math.abs(dx), Math.abs(dy));
  }
}
