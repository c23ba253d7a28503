// What a robot has besides its drive, in one run: attachments with their motors, servos, and what they hold.

import type { Commands, RawSenses } from "../brain/raw.js";
import type { Motor } from "../drives/parts.js";
import { stagesTrain } from "../drives/train.js";
import { cos, sin } from "../math/trig.js";
import type { Body, BodyShape } from "../physics/body.js";
import { STEP_SEC } from "../physics/constants.js";
import { FreeMotor, NO_LOAD } from "../physics/freeMotor.js";
import { Roller } from "../physics/roller.js";
import { ServoState } from "../physics/servo.js";
import type { ShaftState } from "../physics/shaft.js";
import type { World } from "../physics/world.js";
import { endStopsRad } from "../robot/found.js";
import type { Attachment, Robot } from "../robot/schema.js";
import { encoderCounts } from "../sensors/encoder.js";
import { sensorsWithBars } from "../sensors/kinds/all.js";
import { attachmentShape, driveSpec } from "./fromRobot.js";

/** A fork carries from this angle above its lower stop on; it sets down below it. */
const CARRIES_FROM_RAD = 0.12;
/** A gripper lets go once its gap is wider than the load by this, m. */
const LETS_GO_M = 0.004;
/** An arm's outline is made anew after it moved this far. */
const OUTLINE_EVERY_RAD = 0.03;

interface FreePart {
  readonly index: number;
  /** Place among the motors its board knows; -1 for one it does not know. */
  readonly onBoard: number;
  readonly motor: Motor;
  readonly free: FreeMotor;
  /** Output-shaft turns for one turn of the attachment. */
  readonly ratio: number;
}

/** A spinner with the motor that turns it. */
interface Spinner {
  readonly roller: Roller;
  readonly drive: FreePart;
}

interface FittedPart {
  readonly part: Attachment;
  readonly shape: BodyShape;
  outlineAt: number;
}

export class Fittings {
  readonly servos: readonly ServoState[];
  private readonly servosByName: ReadonlyMap<string, ServoState>;
  /** Place of each servo among those its board knows; -1 for one it does not know. */
  private readonly servosOnBoard: readonly number[];
  /** Motors that drive no wheel, with their place among the robot's. */
  readonly motors: readonly FreePart[];
  private readonly parts: readonly FittedPart[];
  private readonly spinners: readonly Spinner[];

  constructor(
    private readonly robot: Robot,
    wired: Robot,
    private readonly world: World,
    wheelMotors: readonly number[],
  ) {
    this.servos = robot.servos.map((servo) => new ServoState(servo));
    this.servosByName = new Map(robot.servos.map(({ name }, i) => [name, this.servos[i] as ServoState]));
    this.motors = robot.motors.flatMap((motor, index) =>
      wheelMotors.includes(index) ? [] : [newFree(robot, wired, motor, index)],
    );
    this.servosOnBoard = robot.servos.map(({ name }) => wired.servos.findIndex((servo) => servo.name === name));
    for (const { free } of this.motors) world.auxiliaries.push(free);
    const bars = sensorsWithBars(robot.sensors).length;
    this.parts = robot.attachments.map((part, i) => ({
      part,
      shape: world.body.shapes[1 + bars + i] as BodyShape,
      outlineAt: Number.POSITIVE_INFINITY,
    }));
    this.spinners = robot.attachments.flatMap((part): Spinner[] => {
      const drive = this.motors.find(({ motor }) => motor.name === part.drivenBy);
      return part.kind === "spinner" && drive ? [{ roller: rollerOf(robot, part), drive }] : [];
    });
  }

  servo(name: string): ServoState | null {
    return this.servosByName.get(name) ?? null;
  }

  shaftOf(motorIndex: number): ShaftState | null {
    return this.motors.find((motor) => motor.index === motorIndex)?.free.shaft ?? null;
  }

  /** Takes the brain's orders. */
  command(commands: Commands): void {
    for (const { onBoard, free } of this.motors) {
      const order = commands.motors[onBoard];
      if (order) free.command(order.mode, order.duty);
    }
    for (let i = 0; i < this.servos.length; i += 1) {
      const [servo, order] = [this.servos[i] as ServoState, commands.servos[this.servosOnBoard[i] as number]];
      if (!order) continue;
      // A servo that turns on and on takes a share like a motor; one that runs to an angle does not.
      if (servo.spec.kind === "continuous") servo.turn(order.share);
      else servo.aim(order.targetRad);
    }
  }

  /** Puts what the board reads of motors that drive no wheel, and of servos. */
  sense(raw: RawSenses): void {
    for (const { onBoard, motor, free } of this.motors) {
      const counts = motor.encoder?.countsPerTurn;
      if (onBoard >= 0) raw.motorCounts[onBoard] = counts ? encoderCounts(free.angleRad, counts) : null;
    }
    for (let i = 0; i < this.servos.length; i += 1) {
      const [servo, felt] = [this.servos[i] as ServoState, raw.servos[this.servosOnBoard[i] as number]];
      if (!felt) continue;
      felt.angleRad = servo.angleRad;
      felt.rateRadS = servo.spinRadS;
      felt.heldRad = servo.blockedRad;
    }
  }

  /** Angle of an attachment, motor or servo, rad. */
  angleOf(name: string): number {
    const part = this.robot.attachments.find((candidate) => candidate.name === name);
    const mover = part?.drivenBy ?? name;
    const servo = this.servo(mover);
    if (servo) return servo.angleRad;
    const found = this.motors.find(({ motor }) => motor.name === mover);
    if (!found) return 0;
    return part ? found.free.angleRad / found.ratio : found.free.angleRad;
  }

  /** Before each physics step: servos run, their draw goes to the pack. */
  step(): void {
    let current = 0;
    for (const servo of this.servos) {
      servo.step(STEP_SEC, Math.min(this.world.packVolts, servo.spec.nominalVolts));
      current += servo.currentA;
    }
    this.world.extraCurrentA = current;
    for (const spinner of this.spinners) this.spin(spinner);
  }

  /** A spinner drags the loads it lies on, and its shaft feels them. */
  private spin({ roller, drive }: Spinner): void {
    const { world } = this;
    const { radiusM } = roller.spec;
    let force = 0;
    for (let i = 1; i < world.bodies.length; i += 1) {
      const load = world.bodies[i] as Body;
      if (load === world.held || !roller.touches(world.body, load)) continue;
      force += roller.drag(world.body, load, (drive.free.spinRadS / drive.ratio) * radiusM, STEP_SEC);
    }
    drive.free.shaft.loadTorqueNm = (-force * radiusM) / drive.ratio;
  }

  /** Once a tick: outlines follow their angles, forks and grippers take hold and let go. */
  tick(): void {
    for (const fitted of this.parts) {
      const angle = this.angleOf(fitted.part.name);
      if (Math.abs(angle - fitted.outlineAt) > OUTLINE_EVERY_RAD) this.reshape(fitted, angle);
      if (fitted.part.kind === "fork") this.lift(fitted.part, angle);
      if (fitted.part.kind === "gripper") this.grip(fitted.part, angle);
    }
  }

  private reshape(fitted: FittedPart, angle: number): void {
    fitted.outlineAt = angle;
    const spec = attachmentShape(this.robot, fitted.part, angle);
    fitted.shape.lowM = spec.lowM;
    fitted.shape.highM = spec.highM;
    spec.outlineM.forEach(([x, y], i) => {
      fitted.shape.localX[i] = x;
      fitted.shape.localY[i] = y;
    });
  }

  /** Name of the fork that carries something. */
  private carrying: string | null = null;

  private lift(part: Attachment, angle: number): void {
    const { world } = this;
    const up = angle - part.lowRad > CARRIES_FROM_RAD;
    if (world.held && !up && this.carrying === part.name) world.letGo();
    if (world.held || !up) return;
    const load = this.loadWithin(part, part.lengthM + 0.03);
    this.carrying = load ? part.name : null;
    if (load) world.take(load, part.lengthM * sin(angle - part.lowRad));
  }

  private grip(part: Attachment, angle: number): void {
    const { world } = this;
    const [low, high] = endStopsRad(part);
    const span = high - low;
    const gapM = (part.widthM * (angle - part.lowRad)) / span;
    if (world.held) {
      if (this.gripping !== part.name) return;
      const width = world.held.load?.sizeM[1] ?? 0;
      if (gapM <= width + LETS_GO_M) return;
      world.letGo();
      return this.blockGripper(part, null);
    }
    if (this.gripping === part.name) this.blockGripper(part, null);
    const load = this.loadWithin(part, part.lengthM);
    const width = load?.load?.sizeM[1] ?? 0;
    if (!load || gapM > width) return;
    world.take(load, 0);
    // Its jaws stand where the load stops them, which is a hair before this tick's end.
    this.blockGripper(part, Math.min(high, part.lowRad + (span * width) / part.widthM));
  }

  /** Name of the gripper that holds something. */
  private gripping: string | null = null;

  private blockGripper(part: Attachment, angleRad: number | null): void {
    this.gripping = angleRad === null ? null : part.name;
    const servo = part.drivenBy === null ? null : this.servo(part.drivenBy);
    if (servo) servo.blockedRad = angleRad;
    const drive = this.motors.find(({ motor }) => motor.name === part.drivenBy);
    if (drive) drive.free.blockedRad = angleRad === null ? null : angleRad * drive.ratio;
  }

  /** Whether a gripper closed on something, or a fork carries it. */
  holds(name: string): boolean {
    if (this.world.held === null) return false;
    return this.gripping === name || (this.gripping === null && this.carrying === name);
  }

  /** The load whose middle lies before the hinge, within a length and the part's width. */
  private loadWithin(part: Attachment, lengthM: number): Body | null {
    const { world, robot } = this;
    const [comX, comY] = robot.chassis.centreOfMassM;
    const { body } = world;
    for (let i = 1; i < world.bodies.length; i += 1) {
      const load = world.bodies[i] as Body;
      const dx = load.xM - body.xM;
      const dy = load.yM - body.yM;
      const x = dx * body.forwardX + dy * body.forwardY + comX - part.xM;
      const y = dy * body.forwardX - dx * body.forwardY + comY - part.yM;
      if (x > 0 && x < lengthM && Math.abs(y) < part.widthM / 2 && !load.tipped) return load;
    }
    return null;
  }
}

/** Its length is its diameter: it stands across its aim, its axle at half of it from the hinge. */
function rollerOf(robot: Robot, part: Attachment): Roller {
  const [comX, comY] = robot.chassis.centreOfMassM;
  const radiusM = part.lengthM / 2;
  return new Roller({
    xM: part.xM - comX + radiusM * cos(part.aimRad),
    yM: part.yM - comY + radiusM * sin(part.aimRad),
    aimRad: part.aimRad,
    radiusM,
    widthM: part.widthM,
    lowM: Math.max(0, part.zM - radiusM),
    gripN: part.gripN ?? 0,
  });
}

function newFree(robot: Robot, wired: Robot, motor: Motor, index: number): FreePart {
  const part = robot.attachments.find((candidate) => candidate.drivenBy === motor.name);
  const train = stagesTrain(part?.stages ?? []);
  const turns = part?.kind === "spinner" || part?.kind === "belt";
  // The attachment's inertia and weight, seen at the motor's output shaft.
  const inertia = part ? (part.massKg * part.lengthM * part.lengthM) / 3 / (train.ratio * train.ratio) : 0;
  const weight = part?.kind === "arm" || part?.kind === "fork" ? (part.massKg * part.lengthM) / 2 / train.ratio : 0;
  const [low, high] = part ? endStopsRad(part) : [0, 0];
  const load = part
    ? {
        inertiaKgM2: inertia,
        weightKgM: weight,
        stopsRad: turns ? null : ([low * train.ratio, high * train.ratio] as const),
      }
    : NO_LOAD;
  const plain = stagesTrain([]);
  const free = new FreeMotor(driveSpec(motor, { ...plain, efficiency: train.efficiency }, motor.strength.value), load);
  // It begins at rest on its lower stop, where gravity left it.
  if (load.stopsRad) free.shaft.angleRad = Math.max(load.stopsRad[0], Math.min(load.stopsRad[1], 0));
  const onBoard = wired.motors.findIndex(({ name }) => name === motor.name);
  return { index, onBoard, motor, free, ratio: train.ratio };
}
