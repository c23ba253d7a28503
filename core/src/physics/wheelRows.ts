// Wheels as rows of the solver: where each pushes, which way it rolls, and its friction with the floor.

import { atan2, cos, sin } from "../math/trig.js";
import type { Body } from "./body.js";
import { type PatchImpulse, solvePatch } from "./friction.js";
import type { MotorMode, SteeringSpec, WheelRollers, WheelSpec } from "./parts.js";
import type { ShaftState } from "./shaft.js";

const patch: PatchImpulse = { forward: 0, side: 0 };

/** State of one wheel; plain numbers, so that every wheel has one hidden class. */
export class WheelState {
  forward = 0;
  side = 0;
  leverX = 0;
  leverY = 0;
  /** Direction it rolls in, world. */
  rollX = 1;
  rollY = 0;
  kff = 0;
  kfs = 0;
  kss = 0;
  frictionLimit = 0;
  /** Rolling drag of this wheel, as a torque impulse on its shaft. */
  rollLimit = 0;
  /** Steering angle, and its cosine and sine. */
  steerRad = 0;
  steerCos = 1;
  steerSin = 0;
  /** Metres at the rim for one radian of its shaft; a wheel out of round changes it as it turns. */
  reachM: number;
  private readonly ratio: number;
  private readonly rollers: WheelRollers | null;
  /** Impulse across a roller, at most. */
  private freeLimit = 0;

  constructor(
    readonly spec: WheelSpec,
    readonly shaft: ShaftState,
  ) {
    this.ratio = spec.ratio ?? 1;
    this.reachM = spec.radiusM * this.ratio;
    this.rollers = spec.rollers ?? null;
    if (spec.rollers) this.steerTo(spec.rollers.gripRad);
  }

  get spinRadS(): number {
    return this.shaft.spinRadS * this.ratio;
  }
  set spinRadS(value: number) {
    this.shaft.spinRadS = value / this.ratio;
  }
  get angleRad(): number {
    return this.shaft.angleRad * this.ratio;
  }
  get mode(): MotorMode {
    return this.shaft.mode;
  }
  get duty(): number {
    return this.shaft.duty;
  }
  get motorCurrentA(): number {
    return this.shaft.motorCurrentA;
  }

  /** Drops the impulses of the step before. */
  forget(): void {
    this.forward = 0;
    this.side = 0;
  }

  steerTo(rad: number): void {
    this.steerRad = rad;
    this.steerCos = cos(rad);
    this.steerSin = sin(rad);
  }

  prepare(body: Body, loadN: number, dt: number): void {
    const { spec } = this;
    const fx = body.forwardX;
    const fy = body.forwardY;
    this.leverX = fx * spec.xM - fy * spec.yM;
    this.leverY = fy * spec.xM + fx * spec.yM;
    this.rollX = fx * this.steerCos - fy * this.steerSin;
    this.rollY = fy * this.steerCos + fx * this.steerSin;
    // Turning arms of a forward and a sideways force at the contact point.
    const armForward = this.leverX * this.rollY - this.leverY * this.rollX;
    const armSide = this.leverX * this.rollX + this.leverY * this.rollY;
    this.kff = body.inverseMass + armForward * armForward * body.inverseInertia;
    this.kss = body.inverseMass + armSide * armSide * body.inverseInertia;
    this.kfs = armForward * armSide * body.inverseInertia;
    this.frictionLimit = spec.grip * loadN * dt;
    this.rollLimit = spec.rollingResistance * loadN * Math.abs(this.reachM) * dt;
    this.shaft.dragLimit += this.rollLimit;
    if (this.rollers) this.freeLimit = this.rollers.friction * loadN * dt;
  }

  warm(body: Body): void {
    if (this.rollers) return this.warmRollers(body);
    const size = Math.sqrt(this.forward * this.forward + this.side * this.side);
    const scale = size > this.frictionLimit ? this.frictionLimit / size : 1;
    const forward = this.forward * scale;
    const side = this.side * scale;
    this.forward = 0;
    this.side = 0;
    this.apply(body, forward, side);
  }

  private apply(body: Body, forward: number, side: number): void {
    body.push(
      this.leverX,
      this.leverY,
      forward * this.rollX - side * this.rollY,
      forward * this.rollY + side * this.rollX,
    );
    this.shaft.apply(-this.reachM * forward);
    this.forward += forward;
    this.side += side;
  }

  /**
   * One wheel: ground friction forward and sideways, and the drag of motor and rolling on its shaft. First
   * tried with the spin held by the drag (condensed, so that stops do not tail off), then with drag at its limit.
   */
  solve(body: Body): number {
    if (this.rollers) return this.solveRollers(body, this.rollers);
    const { shaft } = this;
    const r = this.reachM;
    const inverse = shaft.inverse;
    const ux = body.velocityX - body.turnRateRadS * this.leverY;
    const uy = body.velocityY + body.turnRateRadS * this.leverX;
    // Velocities as they would be without this wheel's impulses.
    const forward0 = ux * this.rollX + uy * this.rollY - this.kff * this.forward - this.kfs * this.side;
    const side0 = uy * this.rollX - ux * this.rollY - this.kfs * this.forward - this.kss * this.side;
    const spin0 = shaft.spinRadS + (r * this.forward - shaft.drag) * inverse;
    let drag = 0;
    solvePatch(this.kff, this.kfs, this.kss, forward0, side0, this.frictionLimit, patch);
    const needed = r * patch.forward - spin0 / inverse;
    if (Math.abs(needed) <= shaft.dragLimit) drag = needed;
    else {
      drag = needed > 0 ? shaft.dragLimit : -shaft.dragLimit;
      const spin = spin0 + drag * inverse;
      solvePatch(this.kff + r * r * inverse, this.kfs, this.kss, forward0 - r * spin, side0, this.frictionLimit, patch);
    }
    const changeForward = patch.forward - this.forward;
    const changeSide = patch.side - this.side;
    shaft.apply(drag - shaft.drag);
    shaft.drag = drag;
    this.apply(body, changeForward, changeSide);
    return Math.max(Math.abs(changeForward), Math.abs(changeSide));
  }

  private warmRollers(body: Body): void {
    const { frictionLimit, freeLimit } = this;
    const grip = Math.max(-frictionLimit, Math.min(frictionLimit, this.forward));
    const free = Math.max(-freeLimit, Math.min(freeLimit, this.side));
    this.forward = 0;
    this.side = 0;
    this.applyRollers(body, grip, free);
  }

  /** Impulses along the axle of the roller on the floor and across it; its shaft feels its part of both. */
  private applyRollers(body: Body, grip: number, free: number): void {
    const { gripShare, freeShare } = this.rollers as WheelRollers;
    body.push(this.leverX, this.leverY, grip * this.rollX - free * this.rollY, grip * this.rollY + free * this.rollX);
    this.shaft.apply(-this.reachM * (gripShare * grip + freeShare * free));
    this.forward += grip;
    this.side += free;
  }

  /**
   * A wheel with rollers, two rows of its own: across a roller only its own resistance, along its axle the grip of the
   * floor, first tried with the spin held by the drag, as in solve.
   */
  private solveRollers(body: Body, { gripShare, freeShare }: WheelRollers): number {
    const { shaft, frictionLimit, freeLimit } = this;
    const inverse = shaft.inverse;
    const along = this.reachM * gripShare;
    const across = this.reachM * freeShare;
    const left =
      (body.velocityY + body.turnRateRadS * this.leverX) * this.rollX -
      (body.velocityX - body.turnRateRadS * this.leverY) * this.rollY;
    const slip = left - across * shaft.spinRadS;
    const free = Math.max(-freeLimit, Math.min(freeLimit, this.side - slip / (this.kss + across * across * inverse)));
    const changeFree = free - this.side;
    this.applyRollers(body, 0, changeFree);
    const grip0 =
      (body.velocityX - body.turnRateRadS * this.leverY) * this.rollX +
      (body.velocityY + body.turnRateRadS * this.leverX) * this.rollY -
      this.kff * this.forward;
    const spin0 = shaft.spinRadS + (along * this.forward - shaft.drag) * inverse;
    let grip = Math.max(-frictionLimit, Math.min(frictionLimit, -grip0 / this.kff));
    let drag = along * grip - spin0 / inverse;
    if (Math.abs(drag) > shaft.dragLimit) {
      drag = drag > 0 ? shaft.dragLimit : -shaft.dragLimit;
      const slipping = grip0 - along * (spin0 + drag * inverse);
      grip = Math.max(-frictionLimit, Math.min(frictionLimit, -slipping / (this.kff + along * along * inverse)));
    }
    const changeGrip = grip - this.forward;
    shaft.apply(drag - shaft.drag);
    shaft.drag = drag;
    this.applyRollers(body, changeGrip, 0);
    return Math.max(Math.abs(changeGrip), Math.abs(changeFree));
  }
}

/**
 * Angles of the two steered wheels for an angle of the axle's middle: both axes meet the rear axle's line.
 * @returns angle of the wheel on the left or right side, rad: tan = L t/(L ∓ T t/2), t = tan(angle)
 */
export function ackermannRad(middleRad: number, left: boolean, { wheelbaseM, trackWidthM }: SteeringSpec): number {
  if (middleRad === 0) return 0;
  const t = sin(middleRad) / cos(middleRad);
  const half = (trackWidthM * t) / 2;
  return atan2(wheelbaseM * t, wheelbaseM + (left ? -half : half));
}
