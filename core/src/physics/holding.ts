// A load the robot holds, on a fork or in a gripper: carried with it, off the floor, its weight on the wheels.
import type { Body } from "./body.js";
import { CONTACT_PUSH } from "./constants.js";

export class Hold {
  /** Impulses of the last step. */
  private px = 0;
  private py = 0;
  private turn = 0;
  private leverX = 0;
  private leverY = 0;
  private biasX = 0;
  private biasY = 0;
  private biasTurn = 0;
  readonly xM: number;
  readonly yM: number;
  private readonly headingRad: number;

  /** Takes hold of the load where it is now. */
  constructor(
    robot: Body,
    readonly body: Body,
    /** How high it is carried, m. */
    public liftM: number,
  ) {
    const dx = body.xM - robot.xM;
    const dy = body.yM - robot.yM;
    robot.toMiddle(0);
    this.xM = dx * robot.forwardX + dy * robot.forwardY;
    this.yM = dy * robot.forwardX - dx * robot.forwardY;
    this.headingRad = body.headingRad - robot.headingRad;
    body.lifted = true;
    body.wake();
  }

  prepare(robot: Body, dt: number): void {
    const { body } = this;
    this.leverX = robot.forwardX * this.xM - robot.forwardY * this.yM;
    this.leverY = robot.forwardY * this.xM + robot.forwardX * this.yM;
    const pull = CONTACT_PUSH / dt;
    this.biasX = (body.midX - robot.midX - this.leverX) * pull;
    this.biasY = (body.midY - robot.midY - this.leverY) * pull;
    this.biasTurn = (body.headingRad - robot.headingRad - this.headingRad) * pull;
  }

  /** Impulses of the step before are dropped. */
  forget(): void {
    this.px = 0;
    this.py = 0;
    this.turn = 0;
  }

  warm(robot: Body): void {
    this.push(robot, this.px, this.py, this.turn);
  }

  private push(robot: Body, px: number, py: number, turn: number): void {
    const { body } = this;
    body.velocityX += px * body.inverseMass;
    body.velocityY += py * body.inverseMass;
    body.turnRateRadS += turn * body.inverseInertia;
    robot.push(this.leverX, this.leverY, -px, -py);
    robot.turnRateRadS -= turn * robot.inverseInertia;
  }

  solve(robot: Body): number {
    const { body, leverX, leverY } = this;
    const turn =
      -(body.turnRateRadS - robot.turnRateRadS + this.biasTurn) / (body.inverseInertia + robot.inverseInertia);
    this.turn += turn;
    this.push(robot, 0, 0, turn);
    const vx = body.velocityX - (robot.velocityX - robot.turnRateRadS * leverY) + this.biasX;
    const vy = body.velocityY - (robot.velocityY + robot.turnRateRadS * leverX) + this.biasY;
    const masses = body.inverseMass + robot.inverseMass;
    const kxx = masses + leverY * leverY * robot.inverseInertia;
    const kyy = masses + leverX * leverX * robot.inverseInertia;
    const kxy = -leverX * leverY * robot.inverseInertia;
    const determinant = kxx * kyy - kxy * kxy;
    const px = (-vx * kyy + vy * kxy) / determinant;
    const py = (-vy * kxx + vx * kxy) / determinant;
    this.px += px;
    this.py += py;
    this.push(robot, px, py, 0);
    return Math.max(Math.abs(px), Math.abs(py));
  }

  release(): void {
    this.body.lifted = false;
    this.body.wake();
  }
}
