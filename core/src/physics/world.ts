// The planar world: the robot with its wheels, motors and pack, loads that can be pushed or carried, fixed walls
// and boulders.
//
// Velocity-level solver with a fixed step: spins and motors by backward Euler, friction of wheels, floor and
// contacts as impulses found by Gauss-Seidel with warm start. World frame; the robot's own frame has its origin
// in the centre of mass. Nothing is allocated in step().
import { counterClockwise } from "../geometry/polygon.js";
import type { Pose } from "../geometry/pose.js";
import { openCircuitVolts, terminalVolts } from "./battery.js";
import { Body, BodyShape, loadBody } from "./body.js";
import { CasterState } from "./caster.js";
import {
  CONTACT_SLOP_M,
  GRAVITY,
  LOAD_ROUNDS,
  LOAD_SHIFT_SEC,
  RELAX_ROUNDS,
  SOLVER_ROUNDS,
  SOLVER_TOLERANCE,
  STEP_SEC,
} from "./constants.js";
import { prepareContacts, readForces, solveContacts, warmContacts } from "./contactRows.js";
import { ContactSet } from "./contacts.js";
import { solveFloor } from "./floorFriction.js";
import type { FreeMotor } from "./freeMotor.js";
import { Hold } from "./holding.js";
import { fixedContacts, mayTouch, pairContacts } from "./nearby.js";
import type { MotorMode, WorldSpec } from "./parts.js";
import { type Pull, Ramps } from "./ramps.js";
import { ShaftState } from "./shaft.js";
import { WheelLoads } from "./wheelLoads.js";
import { ackermannRad, WheelState } from "./wheelRows.js";

/** A load slower than this for so many steps, untouched, sleeps. */
const SLEEP = { speedMS: 1e-3, steps: 20 } as const;
/** Time over which a push that tips a load is averaged, s. */
const TIPPING_SEC = 0.05;
/** The pack must stay below the board's limit for this long before it restarts, s. */
const BROWN_OUT_SEC = 0.01;
/** Beyond these nothing that rolls over a floor is; not-a-number is beyond as well. */
const SOUND = { placeM: 1e4, headingRad: 1e7, speedMS: 1e3, rateRadS: 1e5 } as const;
/** The chassis meets everything whose height is not known. */
const EVERY_HEIGHT = { lowM: 0, highM: 1000 } as const;

export class World {
  readonly body: Body;
  /** The robot, then the loads. */
  readonly bodies: readonly Body[];
  readonly wheels: readonly WheelState[];
  /** Driven shafts in the order of the wheels that have the drives: 0 left, 1 right; a car has one. */
  readonly drives: readonly ShaftState[];
  readonly casters: readonly CasterState[];
  readonly loads: WheelLoads;
  readonly contacts = new ContactSet();
  /** Motors of attachments, stepped with the world and fed from its pack. */
  readonly auxiliaries: FreeMotor[] = [];
  /** Draw of servos and lights, A; set from outside each step. */
  extraCurrentA = 0;
  packVolts: number;
  /** What the pack gave in the last step, A. */
  packCurrentA = 0;
  charge: number;
  /** The board restarted because its supply broke down; it stays so. */
  brownedOut = false;
  /** Angle of the steered axle's middle, rad, and where it was told to be. */
  steerRad = 0;
  private steerTarget = 0;
  private lowForSec = 0;
  /** Whether anything touched in the last step. */
  private touched = false;
  private loadsTouched = false;
  private hold: Hold | null = null;
  private readonly shafts: readonly ShaftState[];
  private readonly ramps: Ramps;
  /** Pull of the slope under the robot, m/s² in the field's frame, and under the thing in hand. */
  readonly slope: Pull = { x: 0, y: 0, press: 1 };
  private readonly spot: Pull = { x: 0, y: 0, press: 1 };
  private forwardAcceleration = 0;
  private leftAcceleration = 0;
  /** Bodies whose state was lost and that were put back to rest where they last were sound. */
  putBack = 0;
  /** x, y and heading of each body when it was last sound. */
  private readonly soundPoses: Float64Array;

  constructor(readonly spec: WorldSpec) {
    const height = { lowM: spec.lowM ?? EVERY_HEIGHT.lowM, highM: spec.highM ?? EVERY_HEIGHT.highM };
    const outline = counterClockwise(spec.outlineM);
    const shapes = [{ outlineM: outline, ...height }, ...(spec.shapes ?? [])].map((shape) => new BodyShape(shape));
    this.body = new Body(spec.massKg, spec.inertiaKgM2, shapes, null);
    this.bodies = [this.body, ...(spec.loads ?? []).map(loadBody)];
    this.wheels = makeWheels(spec);
    this.shafts = [...new Set(this.wheels.map((wheel) => wheel.shaft))];
    this.drives = this.shafts.filter((shaft) => shaft.drive !== null);
    this.casters = spec.casters.map((caster) => new CasterState(caster));
    const supports = [...spec.wheels, ...spec.casters].map(({ xM, yM }) => [xM, yM] as const);
    this.loads = new WheelLoads(supports, spec.massKg, spec.comHeightM);
    this.ramps = new Ramps(spec.ramps ?? []);
    this.charge = spec.charge;
    this.packVolts = openCircuitVolts(spec.battery, spec.charge);
    this.steerWheels();
    this.soundPoses = new Float64Array(3 * this.bodies.length);
    for (let i = 0; i < this.bodies.length; i += 1) this.keepPose(i, this.bodies[i] as Body);
  }

  get xM(): number {
    return this.body.xM;
  }
  get yM(): number {
    return this.body.yM;
  }
  get headingRad(): number {
    return this.body.headingRad;
  }
  set headingRad(rad: number) {
    this.body.headingRad = rad;
  }
  get velocityX(): number {
    return this.body.velocityX;
  }
  set velocityX(value: number) {
    this.body.velocityX = value;
  }
  get velocityY(): number {
    return this.body.velocityY;
  }
  set velocityY(value: number) {
    this.body.velocityY = value;
  }
  get turnRateRadS(): number {
    return this.body.turnRateRadS;
  }
  set turnRateRadS(value: number) {
    this.body.turnRateRadS = value;
  }
  /** The load it holds, if any. */
  get held(): Body | null {
    return this.hold?.body ?? null;
  }

  /** Puts the centre of mass somewhere, at rest. */
  place(pose: Pose): void {
    const { body } = this;
    body.xM = pose.xM;
    body.yM = pose.yM;
    body.headingRad = pose.headingRad;
    body.velocityX = 0;
    body.velocityY = 0;
    body.turnRateRadS = 0;
    body.nearX = Number.POSITIVE_INFINITY;
    body.toMiddle(0);
    if (!this.ramps.none) this.findSlope();
  }

  /** @param drive - index of the driven shaft; duty - signed share of the pack voltage, -1..1, in mode drive only */
  command(drive: number, mode: MotorMode, duty: number): void {
    (this.drives[drive] as ShaftState).command(mode, duty);
  }

  /** Where the steered axle shall go, rad; it gets there at its own rate. */
  steer(rad: number): void {
    const { steering } = this.spec;
    if (steering) this.steerTarget = Math.max(-steering.mostRad, Math.min(steering.mostRad, rad));
  }

  /** Takes hold of a load where it is: it is carried `liftM` above the floor. */
  take(load: Body, liftM: number): void {
    if (this.hold) this.letGo();
    this.hold = new Hold(this.body, load, liftM);
    this.loads.carry(load.massKg, this.hold.xM, this.hold.yM, liftM + (load.load?.heightM ?? 0) / 2);
  }

  letGo(): void {
    this.hold?.release();
    this.hold = null;
    this.loads.carry(0, 0, 0, 0);
  }

  /** Advances by one step of `dt` seconds. */
  step(dt: number = STEP_SEC): void {
    const { body } = this;
    const startX = body.velocityX;
    const startY = body.velocityY;
    const half = dt / 2;
    this.moveSteering(dt);
    body.toMiddle(half);
    for (let i = 1; i < this.bodies.length; i += 1) {
      const load = this.bodies[i] as Body;
      if (!load.asleep) load.toMiddle(half);
    }
    this.shiftWeight();
    if (!this.ramps.none) this.pullDown(dt);
    this.updatePack(dt);
    this.prepare(dt);
    this.findContacts(half);
    this.warmStart();
    this.solve(dt, this.loadsTouched ? LOAD_ROUNDS : SOLVER_ROUNDS, true);
    body.move(dt);
    for (let i = 1; i < this.bodies.length; i += 1) {
      const load = this.bodies[i] as Body;
      if (!load.asleep) load.move(dt);
    }
    for (let i = 0; i < this.shafts.length; i += 1) (this.shafts[i] as ShaftState).turn(dt);
    if (this.overlapping) this.solve(dt, RELAX_ROUNDS, false);
    for (let i = 0; i < this.shafts.length; i += 1) (this.shafts[i] as ShaftState).finish(dt);
    for (let i = 0; i < this.auxiliaries.length; i += 1)
      (this.auxiliaries[i] as FreeMotor).step(dt, Math.max(0, this.packVolts - this.spec.driverDropVolts));
    this.finishLoads(dt);
    this.followAcceleration((body.velocityX - startX) / dt, (body.velocityY - startY) / dt, dt);
    this.keepSound();
  }

  private keepPose(index: number, body: Body): void {
    this.soundPoses[3 * index] = body.xM;
    this.soundPoses[3 * index + 1] = body.yM;
    this.soundPoses[3 * index + 2] = body.headingRad;
  }

  /** A body whose numbers are no longer those of anything real is put back to rest; it never spreads. */
  private keepSound(): void {
    let lost = false;
    for (let i = 0; i < this.bodies.length; i += 1) {
      const body = this.bodies[i] as Body;
      if (body.asleep) continue;
      if (isSound(body)) this.keepPose(i, body);
      else {
        lost = true;
        this.putBack += 1;
        body.rest(
          this.soundPoses[3 * i] as number,
          this.soundPoses[3 * i + 1] as number,
          this.soundPoses[3 * i + 2] as number,
        );
      }
    }
    for (let i = 0; i < this.shafts.length; i += 1) lost = (this.shafts[i] as ShaftState).keepSound() || lost;
    for (let i = 0; i < this.auxiliaries.length; i += 1)
      lost = (this.auxiliaries[i] as FreeMotor).shaft.keepSound() || lost;
    if (!lost) return;
    if (this.putBack === 0) this.putBack = 1;
    // Impulses of the step that failed would start the next one.
    for (const wheel of this.wheels) wheel.forget();
    for (const caster of this.casters) caster.forget();
    this.contacts.forget();
    this.hold?.forget();
    this.forwardAcceleration = 0;
    this.leftAcceleration = 0;
    if (!(this.charge >= 0 && this.charge <= 1)) this.charge = this.spec.charge;
    this.packVolts = openCircuitVolts(this.spec.battery, this.charge);
    this.packCurrentA = 0;
  }

  /** Rounds over all rows until no impulse changes much. */
  private solve(dt: number, rounds: number, pushing: boolean): void {
    const { body, hold, contacts, bodies } = this;
    const tolerance = SOLVER_TOLERANCE * body.massKg * GRAVITY * dt;
    for (let round = 0; round < rounds; round += 1) {
      let change = 0;
      for (let i = 0; i < this.wheels.length; i += 1)
        change = Math.max(change, (this.wheels[i] as WheelState).solve(body));
      for (let i = 0; i < this.casters.length; i += 1)
        change = Math.max(change, (this.casters[i] as CasterState).solve(body));
      for (let i = 1; i < bodies.length; i += 1) change = Math.max(change, solveFloor(bodies[i] as Body, dt));
      if (hold) change = Math.max(change, hold.solve(body));
      if (contacts.count > 0) change = Math.max(change, solveContacts(contacts, bodies, dt, pushing));
      if (change < tolerance) break;
    }
  }

  /** Whether anything is deeper in something else than the slop. */
  private get overlapping(): boolean {
    for (let i = 0; i < this.contacts.count; i += 1)
      if ((this.contacts.gap[i] as number) < -CONTACT_SLOP_M) return true;
    return false;
  }

  /** Weight shifts with acceleration; on a slope as if it accelerated uphill. */
  private shiftWeight(): void {
    const { forwardX, forwardY } = this.body;
    const { x, y, press } = this.slope;
    this.loads.update(
      this.forwardAcceleration - (x * forwardX + y * forwardY),
      this.leftAcceleration - (y * forwardX - x * forwardY),
      press,
    );
  }

  /** Gravity along the slopes under the robot, weighed by what stands on them. */
  private findSlope(): void {
    const { body, slope, spot, loads, ramps, spec } = this;
    slope.x = 0;
    slope.y = 0;
    slope.press = 0;
    let sum = 0;
    for (let i = 0; i < loads.loadsN.length; i += 1) {
      const wheel = spec.wheels[i] ?? spec.casters[i - spec.wheels.length];
      const load = loads.loadsN[i] as number;
      if (!wheel || load <= 0) continue;
      ramps.at(
        body.midX + body.forwardX * wheel.xM - body.forwardY * wheel.yM,
        body.midY + body.forwardY * wheel.xM + body.forwardX * wheel.yM,
        spot,
      );
      slope.x += load * spot.x;
      slope.y += load * spot.y;
      slope.press += load * spot.press;
      sum += load;
    }
    if (sum > 0) {
      slope.x /= sum;
      slope.y /= sum;
      slope.press /= sum;
    } else slope.press = 1;
  }

  /** What gravity does along the slopes under the robot and under each load. */
  private pullDown(dt: number): void {
    const { body, slope, spot, ramps } = this;
    this.findSlope();
    // A load that is held hangs on the robot: its weight pulls with the robot's.
    const held = this.held;
    const share = held ? 1 + held.massKg / body.massKg : 1;
    body.velocityX += slope.x * dt * share;
    body.velocityY += slope.y * dt * share;
    for (let i = 1; i < this.bodies.length; i += 1) {
      const load = this.bodies[i] as Body;
      if (load.lifted) continue;
      ramps.at(load.midX, load.midY, spot);
      load.press = spot.press;
      // Friction holds it until the slope is steeper than its friction: tan θ > μ.
      const pull = Math.sqrt(spot.x * spot.x + spot.y * spot.y);
      if (load.asleep && pull > (load.load?.friction ?? 0) * spot.press * GRAVITY) load.wake();
      if (load.asleep) continue;
      load.velocityX += spot.x * dt;
      load.velocityY += spot.y * dt;
    }
  }

  private moveSteering(dt: number): void {
    const { steering } = this.spec;
    if (!steering || steering.locked) return;
    const most = steering.rateRadS * dt;
    const off = this.steerTarget + steering.offsetRad - this.steerRad;
    if (off === 0) return;
    this.steerRad += Math.max(-most, Math.min(most, off));
    this.steerWheels();
  }

  private steerWheels(): void {
    const { steering } = this.spec;
    if (!steering) return;
    for (const wheel of this.wheels)
      if (wheel.spec.steered) wheel.steerTo(ackermannRad(this.steerRad, wheel.spec.yM > 0, steering));
  }

  private followAcceleration(ax: number, ay: number, dt: number): void {
    const share = dt / (LOAD_SHIFT_SEC + dt);
    const { forwardX, forwardY } = this.body;
    this.forwardAcceleration += share * (ax * forwardX + ay * forwardY - this.forwardAcceleration);
    this.leftAcceleration += share * (ay * forwardX - ax * forwardY - this.leftAcceleration);
  }

  private updatePack(dt: number): void {
    const { battery, boardCurrentA, brownOutVolts } = this.spec;
    const ri = battery.internalResistanceOhm;
    const steady = boardCurrentA + this.extraCurrentA;
    const open = openCircuitVolts(battery, this.charge) - ri * steady;
    let back = 0;
    let conductance = 0;
    for (let i = 0; i < this.drives.length; i += 1) {
      const shaft = this.drives[i] as ShaftState;
      back += shaft.drawBackA;
      conductance += shaft.drawConductance;
    }
    for (let i = 0; i < this.auxiliaries.length; i += 1) {
      const { shaft } = this.auxiliaries[i] as FreeMotor;
      back += shaft.drawBackA;
      conductance += shaft.drawConductance;
    }
    this.packVolts = terminalVolts(open, ri, back, conductance);
    this.packCurrentA = Math.max(0, this.packVolts * conductance - back) + steady;
    this.charge = Math.max(0, this.charge - (this.packCurrentA * dt) / (3600 * battery.capacityAh));
    if (brownOutVolts === undefined) return;
    this.lowForSec = this.packVolts < brownOutVolts ? this.lowForSec + dt : 0;
    if (this.lowForSec > BROWN_OUT_SEC) this.brownedOut = true;
  }

  private prepare(dt: number): void {
    const { body, hold } = this;
    const volts = Math.max(0, this.packVolts - this.spec.driverDropVolts);
    for (let i = 0; i < this.shafts.length; i += 1) (this.shafts[i] as ShaftState).prepare(volts, dt);
    const loads = this.loads.loadsN;
    for (let i = 0; i < this.wheels.length; i += 1)
      (this.wheels[i] as WheelState).prepare(body, loads[i] as number, dt);
    for (let i = 0; i < this.casters.length; i += 1)
      (this.casters[i] as CasterState).prepare(body, loads[this.wheels.length + i] as number, dt);
    hold?.prepare(body, dt);
  }

  private warmStart(): void {
    const { body } = this;
    for (let i = 0; i < this.shafts.length; i += 1) {
      const shaft = this.shafts[i] as ShaftState;
      shaft.drag = Math.max(-shaft.dragLimit, Math.min(shaft.dragLimit, shaft.drag));
      shaft.apply(shaft.drag);
    }
    for (let i = 0; i < this.wheels.length; i += 1) (this.wheels[i] as WheelState).warm(body);
    for (let i = 0; i < this.casters.length; i += 1) (this.casters[i] as CasterState).warm(body);
    for (let i = 1; i < this.bodies.length; i += 1) warmFloor(this.bodies[i] as Body);
    this.hold?.warm(body);
    warmContacts(this.contacts, this.bodies);
  }

  private findContacts(half: number): void {
    const { bodies, contacts, spec, body } = this;
    contacts.begin();
    body.placeShapes();
    fixedContacts(0, body, spec, contacts);
    const held = this.held;
    for (let i = 1; i < bodies.length; i += 1) {
      const load = bodies[i] as Body;
      if (!load.asleep) {
        load.placeShapes();
        fixedContacts(i, load, spec, contacts);
      }
      if (load !== held && mayTouch(body, load) && pairContacts(0, body, i, load, spec.wallFriction, contacts) > 0)
        load.wake();
      for (let j = 1; j < i; j += 1) {
        const other = bodies[j] as Body;
        if ((load.asleep && other.asleep) || !mayTouch(load, other)) continue;
        const friction = Math.min(load.load?.friction ?? 0, other.load?.friction ?? 0);
        if (pairContacts(i, load, j, other, friction, contacts) > 0) {
          if (load.asleep) load.wake();
          if (other.asleep) other.wake();
        }
      }
    }
    this.loadsTouched = false;
    for (let i = 0; i < contacts.count; i += 1)
      if ((contacts.second[i] as number) >= 0 || (contacts.first[i] as number) > 0) this.loadsTouched = true;
    if (contacts.count > 0) prepareContacts(contacts, bodies, half);
  }

  private finishLoads(dt: number): void {
    const { bodies, contacts } = this;
    if (contacts.count > 0 || this.touched) readForces(contacts, bodies, dt);
    this.touched = contacts.count > 0;
    for (let i = 1; i < bodies.length; i += 1) {
      const load = bodies[i] as Body;
      if (load.asleep) continue;
      this.watchTipping(load, dt);
      const fast = Math.abs(load.velocityX) + Math.abs(load.velocityY) + Math.abs(load.turnRateRadS) * load.boundM;
      const pushed = (load.shapes[0] as BodyShape).forceN > 0.02;
      load.quietSteps = fast < SLEEP.speedMS && !load.lifted && !pushed ? load.quietSteps + 1 : 0;
      if (load.quietSteps < SLEEP.steps) continue;
      load.asleep = true;
      load.velocityX = 0;
      load.velocityY = 0;
      load.turnRateRadS = 0;
      load.floorX = 0;
      load.floorY = 0;
      load.floorTurn = 0;
    }
  }

  /** Pushed at height h with F, a weight of m g on a base of half-width b falls over when F h stays above m g b. */
  private watchTipping(load: Body, dt: number): void {
    const { load: spec, steadied } = load;
    load.steadied = false;
    if (!spec || load.lifted || steadied) return;
    // A knock is not a push: what counts is the mean over a twentieth of a second.
    load.tippingNm += (dt / (TIPPING_SEC + dt)) * (load.pushMomentNm - load.tippingNm);
    const base = Math.min(spec.sizeM[0], spec.shape === "disc" ? spec.sizeM[0] : spec.sizeM[1]) / 2;
    if (load.tippingNm > load.massKg * GRAVITY * base) load.tipped = true;
  }
}

/** Whether a body is where and as fast as anything on a floor can be. */
function isSound(body: Body): boolean {
  const { xM, yM, headingRad, velocityX, velocityY, turnRateRadS } = body;
  return (
    Math.abs(xM) < SOUND.placeM &&
    Math.abs(yM) < SOUND.placeM &&
    Math.abs(headingRad) < SOUND.headingRad &&
    Math.abs(velocityX) + Math.abs(velocityY) < SOUND.speedMS &&
    Math.abs(turnRateRadS) < SOUND.rateRadS
  );
}

function warmFloor(body: Body): void {
  if (body.asleep) return;
  if (body.lifted) {
    body.floorX = 0;
    body.floorY = 0;
    body.floorTurn = 0;
    return;
  }
  body.velocityX += body.floorX * body.inverseMass;
  body.velocityY += body.floorY * body.inverseMass;
  body.turnRateRadS += body.floorTurn * body.inverseInertia;
}

/** Wheels on their shafts: own, shared with another wheel, or coupled by a differential. */
function makeWheels(spec: WorldSpec): WheelState[] {
  const inertia = spec.wheels.map((wheel, i) =>
    spec.wheels.reduce(
      (sum, other) => (other.tiedTo === i ? sum + (other.ratio ?? 1) ** 2 * other.inertiaKgM2 : sum),
      wheel.inertiaKgM2,
    ),
  );
  const shafts = spec.wheels.map((wheel, i) =>
    wheel.tiedTo === undefined ? new ShaftState(wheel.drive, inertia[i] as number) : null,
  );
  spec.wheels.forEach((wheel, i) => {
    const mine = shafts[i];
    const other = wheel.differentialWith === undefined ? null : shafts[wheel.differentialWith];
    if (!mine || !other) return;
    mine.mate = other;
    other.mate = mine;
  });
  return spec.wheels.map((wheel, i) => {
    const shaft = wheel.tiedTo === undefined ? shafts[i] : shafts[wheel.tiedTo];
    if (!shaft) throw new RangeError(`wheel ${i} is tied to a wheel that is tied itself`);
    return new WheelState(wheel, shaft);
  });
}
