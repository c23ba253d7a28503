// A spinning wheel beside the drive, lying on loads: its rim drags what is below it along its aim by dry friction,
// towards the robot when it turns forward and out again when it turns back. The force is at most the grip it was
// given, and no more than brings the load to the rim's speed; the robot feels the same force the other way.
import { cos, sin } from "../math/trig.js";
import type { Body } from "./body.js";

interface RollerSpec {
  /** Its axle's middle, from the robot's centre of mass, robot frame, m. */
  readonly xM: number;
  readonly yM: number;
  /** Direction it throws things out. */
  readonly aimRad: number;
  readonly radiusM: number;
  /** Wide across its aim, m. */
  readonly widthM: number;
  /** Its lowest point: what is lower passes below without being touched, m. */
  readonly lowM: number;
  /** Largest force it drags with, N. */
  readonly gripN: number;
}

export class Roller {
  private readonly aimX: number;
  private readonly aimY: number;

  constructor(readonly spec: RollerSpec) {
    this.aimX = cos(spec.aimRad);
    this.aimY = sin(spec.aimRad);
  }

  /** Whether it lies on a load: the outlines meet, seen from above, and the load is high enough. */
  touches(robot: Body, load: Body): boolean {
    const { spec } = this;
    if (!load.load || load.lifted || load.tipped || load.load.heightM < spec.lowM) return false;
    const dx = load.xM - robot.xM;
    const dy = load.yM - robot.yM;
    const x = dx * robot.forwardX + dy * robot.forwardY - spec.xM;
    const y = dy * robot.forwardX - dx * robot.forwardY - spec.yM;
    const along = x * this.aimX + y * this.aimY;
    const across = y * this.aimX - x * this.aimY;
    const half = Math.min(load.load.sizeM[0], load.load.sizeM[1]) / 2;
    return Math.abs(along) < spec.radiusM + half && Math.abs(across) < spec.widthM / 2 + half;
  }

  /**
   * One step of dragging.
   * @param rimMS - speed of its rim, positive pulling in, m/s
   * @returns force along the pull, N: what its shaft feels against it, times its radius
   */
  drag(robot: Body, load: Body, rimMS: number, dt: number): number {
    const { spec } = this;
    load.steadied = true;
    // The direction things are pulled in, in the world.
    const inX = -(robot.forwardX * this.aimX - robot.forwardY * this.aimY);
    const inY = -(robot.forwardY * this.aimX + robot.forwardX * this.aimY);
    const leverX = robot.forwardX * spec.xM - robot.forwardY * spec.yM;
    const leverY = robot.forwardY * spec.xM + robot.forwardX * spec.yM;
    const robotX = robot.velocityX - robot.turnRateRadS * leverY;
    const robotY = robot.velocityY + robot.turnRateRadS * leverX;
    const slip = rimMS - ((load.velocityX - robotX) * inX + (load.velocityY - robotY) * inY);
    const arm = leverX * inY - leverY * inX;
    const give = load.inverseMass + robot.inverseMass + arm * arm * robot.inverseInertia;
    const most = spec.gripN * dt;
    const impulse = Math.max(-most, Math.min(most, slip / give));
    if (impulse === 0) return 0;
    load.wake();
    load.velocityX += impulse * load.inverseMass * inX;
    load.velocityY += impulse * load.inverseMass * inY;
    robot.push(leverX, leverY, -impulse * inX, -impulse * inY);
    return impulse / dt;
  }
}
