// The planar world: one robot body, its wheels, motors, battery and caster, against fixed walls and boulders.
//
// Velocity-level solver with a fixed step: spins and motors by backward Euler, friction of wheels and
// contacts as impulses found by Gauss-Seidel with warm start. World frame; the body's own frame has its
// origin in the centre of mass. Nothing is allocated in step().

import { counterClockwise } from "../geometry/polygon.js";
import type { Point, Pose } from "../geometry/pose.js";
import { cos, sin } from "../math/trig.js";
import { openCircuitVolts, terminalVolts } from "./battery.js";
import {
  CONTACT_PUSH,
  CONTACT_SLOP_M,
  GRAVITY,
  LOAD_SHIFT_SEC,
  SOLVER_ROUNDS,
  SOLVER_TOLERANCE,
  STEP_SEC,
} from "./constants.js";
import { ContactSet, discContacts, type FixedDisc, segmentContacts, segmentDistanceSquare } from "./contacts.js";
import { type PatchImpulse, solvePatch } from "./friction.js";
import {
  type CasterSpec,
  type DriveSpec,
  dampingOf,
  finishWheel,
  type MotorMode,
  newWheel,
  type WheelState,
  type WorldSpec,
} from "./parts.js";
import { WheelLoads } from "./wheelLoads.js";

const REFRESH_M = 0.02;
const patch: PatchImpulse = { forward: 0, side: 0 };

export class World {
  /** Centre of mass, m, and heading, rad, not wrapped. */
  xM = 0;
  yM = 0;
  headingRad = 0;
  velocityX = 0;
  velocityY = 0;
  turnRateRadS = 0;
  packVolts: number;
  charge: number;
  readonly wheels: readonly WheelState[];
  readonly loads: WheelLoads;
  readonly contacts = new ContactSet();
  private readonly casterImpulse: Float64Array;
  private readonly outlineX: Float64Array;
  private readonly outlineY: Float64Array;
  private readonly worldX: Float64Array;
  private readonly worldY: Float64Array;
  private readonly boundM: number;
  private readonly near: number[] = [];
  private nearX = Number.POSITIVE_INFINITY;
  private nearY = Number.POSITIVE_INFINITY;
  private forwardAcceleration = 0;
  private leftAcceleration = 0;
  private forwardX = 1;
  private forwardY = 0;

  constructor(readonly spec: WorldSpec) {
    this.wheels = spec.wheels.map((wheel) => newWheel(wheel));
    const supports = [...spec.wheels, ...spec.casters].map(({ xM, yM }) => [xM, yM] as const);
    this.loads = new WheelLoads(supports, spec.massKg, spec.comHeightM);
    this.casterImpulse = new Float64Array(spec.casters.length * 2);
    const outline = counterClockwise(spec.outlineM);
    this.outlineX = Float64Array.from(outline, ([x]) => x);
    this.outlineY = Float64Array.from(outline, ([, y]) => y);
    this.worldX = new Float64Array(outline.length);
    this.worldY = new Float64Array(outline.length);
    this.boundM = outline.reduce((most, [x, y]) => Math.max(most, Math.sqrt(x * x + y * y)), 0);
    this.charge = spec.charge;
    this.packVolts = openCircuitVolts(spec.battery, spec.charge);
  }

  /** Puts the centre of mass somewhere, at rest. */
  place(pose: Pose): void {
    this.xM = pose.xM;
    this.yM = pose.yM;
    this.headingRad = pose.headingRad;
    this.velocityX = 0;
    this.velocityY = 0;
    this.turnRateRadS = 0;
    this.nearX = Number.POSITIVE_INFINITY;
  }

  /** @param duty - signed share of the pack voltage, -1..1; looked at in mode drive only */
  command(wheel: number, mode: MotorMode, duty: number): void {
    const state = this.wheels[wheel] as WheelState;
    state.mode = mode;
    state.duty = mode === "drive" ? Math.max(-1, Math.min(1, duty)) : 0;
  }

  /** Advances by one step of `dt` seconds. */
  step(dt: number = STEP_SEC): void {
    const { massKg } = this.spec;
    const startX = this.velocityX;
    const startY = this.velocityY;
    const half = dt / 2;
    const midHeading = this.headingRad + half * this.turnRateRadS;
    const fx = cos(midHeading);
    const fy = sin(midHeading);
    this.forwardX = fx;
    this.forwardY = fy;
    this.loads.update(this.forwardAcceleration, this.leftAcceleration);
    this.updateBattery(dt);
    this.prepareWheels(dt);
    this.findContacts(this.xM + half * this.velocityX, this.yM + half * this.velocityY, half);
    this.warmStart();
    const tolerance = SOLVER_TOLERANCE * massKg * GRAVITY * dt;
    for (let round = 0; round < SOLVER_ROUNDS; round += 1) {
      let change = 0;
      for (let i = 0; i < this.wheels.length; i += 1)
        change = Math.max(change, this.solveWheel(this.wheels[i] as WheelState));
      for (let i = 0; i < this.spec.casters.length; i += 1) change = Math.max(change, this.solveCaster(i, dt));
      if (this.contacts.count > 0) change = Math.max(change, this.solveContacts(dt));
      if (change < tolerance) break;
    }
    this.xM += dt * this.velocityX;
    this.yM += dt * this.velocityY;
    this.headingRad += dt * this.turnRateRadS;
    for (const wheel of this.wheels) finishWheel(wheel, dt);
    this.followAcceleration((this.velocityX - startX) / dt, (this.velocityY - startY) / dt, dt);
  }

  private followAcceleration(ax: number, ay: number, dt: number): void {
    const share = dt / (LOAD_SHIFT_SEC + dt);
    const forward = ax * this.forwardX + ay * this.forwardY;
    const left = -ax * this.forwardY + ay * this.forwardX;
    this.forwardAcceleration += share * (forward - this.forwardAcceleration);
    this.leftAcceleration += share * (left - this.leftAcceleration);
  }

  private updateBattery(dt: number): void {
    const { battery, boardCurrentA } = this.spec;
    const ri = battery.internalResistanceOhm;
    const open = openCircuitVolts(battery, this.charge) - ri * boardCurrentA;
    let sumBack = 0;
    let sumSquare = 0;
    for (const wheel of this.wheels) {
      const drive = wheel.spec.drive;
      if (!drive || wheel.mode !== "drive") continue;
      const r = drive.constants.resistanceOhm;
      sumBack += (wheel.duty * drive.constants.backVoltage * drive.gearRatio * wheel.spinRadS) / r;
      sumSquare += (wheel.duty * wheel.duty) / r;
    }
    this.packVolts = terminalVolts(open, ri, sumBack, sumSquare);
    const drawA = ri > 0 ? (open - this.packVolts) / ri + boardCurrentA : boardCurrentA;
    this.charge = Math.max(0, this.charge - (drawA * dt) / (3600 * battery.capacityAh));
  }

  private prepareWheels(dt: number): void {
    const { massKg, inertiaKgM2, driverDropVolts } = this.spec;
    const fx = this.forwardX;
    const fy = this.forwardY;
    const loads = this.loads.loadsN;
    for (let i = 0; i < this.wheels.length; i += 1) {
      const wheel = this.wheels[i] as WheelState;
      const { spec } = wheel;
      const load = loads[i] as number;
      wheel.leverX = fx * spec.xM - fy * spec.yM;
      wheel.leverY = fy * spec.xM + fx * spec.yM;
      // Turning arms of a forward and a sideways force at the contact point.
      const armForward = wheel.leverX * fy - wheel.leverY * fx;
      const armSide = wheel.leverX * fx + wheel.leverY * fy;
      wheel.kff = 1 / massKg + (armForward * armForward) / inertiaKgM2;
      wheel.kss = 1 / massKg + (armSide * armSide) / inertiaKgM2;
      wheel.kfs = (armForward * armSide) / inertiaKgM2;
      wheel.frictionLimit = spec.grip * load * dt;
      wheel.dragLimit = spec.rollingResistance * load * spec.radiusM * dt;
      wheel.spinInertia = spec.inertiaKgM2;
      if (spec.drive) this.prepareDrive(wheel, spec.drive, driverDropVolts, dt);
    }
  }

  private prepareDrive(wheel: WheelState, drive: DriveSpec, dropVolts: number, dt: number): void {
    const g = drive.gearRatio;
    const { resistanceOhm, torqueConstant } = drive.constants;
    const damping = dampingOf(drive, wheel.mode);
    const inertia = wheel.spec.inertiaKgM2 + g * g * drive.rotorInertiaKgM2;
    const driveVolts = wheel.duty * Math.max(0, this.packVolts - dropVolts);
    const push = (drive.efficiency * g * torqueConstant * driveVolts) / resistanceOhm;
    wheel.spinInertia = inertia + dt * (damping + g * g * drive.viscousNmS);
    wheel.spinRadS = (inertia * wheel.spinRadS + dt * push) / wheel.spinInertia;
    wheel.driveVolts = driveVolts;
    wheel.dragLimit += drive.efficiency * g * drive.coulombTorqueNm * dt;
  }

  private warmStart(): void {
    for (const wheel of this.wheels) {
      const size = Math.sqrt(wheel.forward * wheel.forward + wheel.side * wheel.side);
      const scale = size > wheel.frictionLimit ? wheel.frictionLimit / size : 1;
      const forward = wheel.forward * scale;
      const side = wheel.side * scale;
      const drag = Math.max(-wheel.dragLimit, Math.min(wheel.dragLimit, wheel.brakeImpulse));
      wheel.forward = 0;
      wheel.side = 0;
      wheel.brakeImpulse = 0;
      this.applyWheel(wheel, forward, side, drag);
    }
    const { casters } = this.spec;
    for (let i = 0; i < casters.length; i += 1) {
      const px = this.casterImpulse[2 * i] as number;
      const py = this.casterImpulse[2 * i + 1] as number;
      const caster = casters[i] as CasterSpec;
      this.applyAt(caster.xM, caster.yM, px, py);
    }
    const set = this.contacts;
    for (let i = 0; i < set.count; i += 1)
      this.applyContact(i, set.normalImpulse[i] as number, set.tangentImpulse[i] as number);
  }

  /** Adds to a wheel's impulses and changes body and spin to match. */
  private applyWheel(wheel: WheelState, forward: number, side: number, drag: number): void {
    const fx = this.forwardX;
    const fy = this.forwardY;
    const px = forward * fx - side * fy;
    const py = forward * fy + side * fx;
    this.velocityX += px / this.spec.massKg;
    this.velocityY += py / this.spec.massKg;
    this.turnRateRadS += (wheel.leverX * py - wheel.leverY * px) / this.spec.inertiaKgM2;
    wheel.spinRadS += (drag - wheel.spec.radiusM * forward) / wheel.spinInertia;
    wheel.forward += forward;
    wheel.side += side;
    wheel.brakeImpulse += drag;
  }

  /**
   * One wheel: ground friction forward and sideways, and the drag of motor and rolling on its spin. First
   * tried with the spin held by the drag (condensed, so that stops do not tail off), then with drag at its limit.
   */
  private solveWheel(wheel: WheelState): number {
    const fx = this.forwardX;
    const fy = this.forwardY;
    const r = wheel.spec.radiusM;
    const ux = this.velocityX - this.turnRateRadS * wheel.leverY;
    const uy = this.velocityY + this.turnRateRadS * wheel.leverX;
    // Velocities as they would be without this wheel's impulses.
    const forward0 = ux * fx + uy * fy - wheel.kff * wheel.forward - wheel.kfs * wheel.side;
    const side0 = uy * fx - ux * fy - wheel.kfs * wheel.forward - wheel.kss * wheel.side;
    const spin0 = wheel.spinRadS + (r * wheel.forward - wheel.brakeImpulse) / wheel.spinInertia;
    let drag = 0;
    solvePatch(wheel.kff, wheel.kfs, wheel.kss, forward0, side0, wheel.frictionLimit, patch);
    const needed = r * patch.forward - wheel.spinInertia * spin0;
    if (Math.abs(needed) <= wheel.dragLimit) drag = needed;
    else {
      drag = needed > 0 ? wheel.dragLimit : -wheel.dragLimit;
      const spin = spin0 + drag / wheel.spinInertia;
      solvePatch(
        wheel.kff + (r * r) / wheel.spinInertia,
        wheel.kfs,
        wheel.kss,
        forward0 - r * spin,
        side0,
        wheel.frictionLimit,
        patch,
      );
    }
    const changeForward = patch.forward - wheel.forward;
    const changeSide = patch.side - wheel.side;
    this.applyWheel(wheel, changeForward, changeSide, drag - wheel.brakeImpulse);
    return Math.max(Math.abs(changeForward), Math.abs(changeSide));
  }

  private applyAt(bodyX: number, bodyY: number, px: number, py: number): void {
    const leverX = this.forwardX * bodyX - this.forwardY * bodyY;
    const leverY = this.forwardY * bodyX + this.forwardX * bodyY;
    this.velocityX += px / this.spec.massKg;
    this.velocityY += py / this.spec.massKg;
    this.turnRateRadS += (leverX * py - leverY * px) / this.spec.inertiaKgM2;
  }

  private solveCaster(i: number, dt: number): number {
    const caster = this.spec.casters[i] as CasterSpec;
    const limit = caster.friction * (this.loads.loadsN[this.wheels.length + i] as number) * dt;
    if (limit === 0) return 0;
    const leverX = this.forwardX * caster.xM - this.forwardY * caster.yM;
    const leverY = this.forwardY * caster.xM + this.forwardX * caster.yM;
    const { massKg, inertiaKgM2 } = this.spec;
    const kxx = 1 / massKg + (leverY * leverY) / inertiaKgM2;
    const kyy = 1 / massKg + (leverX * leverX) / inertiaKgM2;
    const kxy = (-leverX * leverY) / inertiaKgM2;
    const px = this.casterImpulse[2 * i] as number;
    const py = this.casterImpulse[2 * i + 1] as number;
    const ux = this.velocityX - this.turnRateRadS * leverY - kxx * px - kxy * py;
    const uy = this.velocityY + this.turnRateRadS * leverX - kxy * px - kyy * py;
    solvePatch(kxx, kxy, kyy, ux, uy, limit, patch);
    const changeX = patch.forward - px;
    const changeY = patch.side - py;
    this.casterImpulse[2 * i] = patch.forward;
    this.casterImpulse[2 * i + 1] = patch.side;
    this.applyAt(caster.xM, caster.yM, changeX, changeY);
    return Math.max(Math.abs(changeX), Math.abs(changeY));
  }

  private findContacts(midX: number, midY: number, half: number): void {
    const { segments, discs } = this.spec;
    const set = this.contacts;
    set.begin();
    if (segments.length + discs.length === 0) return;
    const dx = midX - this.nearX;
    const dy = midY - this.nearY;
    if (!(dx * dx + dy * dy < REFRESH_M * REFRESH_M)) this.refreshNear(midX, midY);
    if (this.near.length === 0) return;
    for (let i = 0; i < this.worldX.length; i += 1) {
      const x = this.outlineX[i] as number;
      const y = this.outlineY[i] as number;
      this.worldX[i] = midX + this.forwardX * x - this.forwardY * y;
      this.worldY[i] = midY + this.forwardY * x + this.forwardX * y;
    }
    for (let n = 0; n < this.near.length; n += 1) {
      const index = this.near[n] as number;
      if (index < segments.length) {
        const [a, b] = segments[index] as readonly [Point, Point];
        segmentContacts(this.worldX, this.worldY, a[0], a[1], b[0], b[1], index * 64, set);
      } else discContacts(this.worldX, this.worldY, discs[index - segments.length] as FixedDisc, index * 64, set);
    }
    for (let i = 0; i < set.count; i += 1) {
      const leverX = (set.x[i] as number) - midX;
      const leverY = (set.y[i] as number) - midY;
      const vx = this.velocityX - this.turnRateRadS * leverY;
      const vy = this.velocityY + this.turnRateRadS * leverX;
      // The gap was taken half a step ahead; the velocity aim counts from the start of the step.
      const gap = (set.gap[i] as number) - half * (vx * (set.nx[i] as number) + vy * (set.ny[i] as number));
      set.gap[i] = gap;
      set.x[i] = leverX;
      set.y[i] = leverY;
    }
  }

  private refreshNear(x: number, y: number): void {
    const { segments, discs } = this.spec;
    const reach = this.boundM + REFRESH_M + 0.03;
    this.nearX = x;
    this.nearY = y;
    this.near.length = 0;
    for (let i = 0; i < segments.length; i += 1) {
      const [a, b] = segments[i] as readonly [Point, Point];
      if (segmentDistanceSquare(a, b, x, y) < reach * reach) this.near.push(i);
    }
    for (let i = 0; i < discs.length; i += 1) {
      const disc = discs[i] as FixedDisc;
      const span = reach + disc.radiusM;
      if ((disc.xM - x) ** 2 + (disc.yM - y) ** 2 < span * span) this.near.push(segments.length + i);
    }
  }

  private applyContact(i: number, normal: number, tangent: number): void {
    const set = this.contacts;
    const nx = set.nx[i] as number;
    const ny = set.ny[i] as number;
    const px = normal * nx - tangent * ny;
    const py = normal * ny + tangent * nx;
    this.velocityX += px / this.spec.massKg;
    this.velocityY += py / this.spec.massKg;
    this.turnRateRadS += ((set.x[i] as number) * py - (set.y[i] as number) * px) / this.spec.inertiaKgM2;
  }

  private solveContacts(dt: number): number {
    const set = this.contacts;
    const { massKg, inertiaKgM2, wallFriction } = this.spec;
    let change = 0;
    for (let i = 0; i < set.count; i += 1) {
      const nx = set.nx[i] as number;
      const ny = set.ny[i] as number;
      const x = set.x[i] as number;
      const y = set.y[i] as number;
      const armN = x * ny - y * nx;
      const armT = x * nx + y * ny;
      const gap = set.gap[i] as number;
      const aim = gap > 0 ? -gap / dt : (CONTACT_PUSH * Math.max(0, -gap - CONTACT_SLOP_M)) / dt;
      const vn = (this.velocityX - this.turnRateRadS * y) * nx + (this.velocityY + this.turnRateRadS * x) * ny;
      const oldN = set.normalImpulse[i] as number;
      const newN = Math.max(0, oldN + (aim - vn) / (1 / massKg + (armN * armN) / inertiaKgM2));
      this.applyContact(i, newN - oldN, 0);
      set.normalImpulse[i] = newN;
      const vt = -(this.velocityX - this.turnRateRadS * y) * ny + (this.velocityY + this.turnRateRadS * x) * nx;
      const oldT = set.tangentImpulse[i] as number;
      const limit = wallFriction * newN;
      const wanted = oldT - vt / (1 / massKg + (armT * armT) / inertiaKgM2);
      const newT = Math.max(-limit, Math.min(limit, wanted));
      this.applyContact(i, 0, newT - oldT);
      set.tangentImpulse[i] = newT;
      change = Math.max(change, Math.abs(newN - oldN), Math.abs(newT - oldT));
    }
    return change;
  }
}
