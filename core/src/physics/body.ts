// A rigid body in the plane: the robot, or a load. Its outlines are kept in world coordinates for one step.
import { counterClockwise } from "../geometry/polygon.js";
import { cos, sin } from "../math/trig.js";
import type { LoadSpec, ShapeSpec } from "./parts.js";

export class BodyShape {
  readonly localX: Float64Array;
  readonly localY: Float64Array;
  readonly worldX: Float64Array;
  readonly worldY: Float64Array;
  /** 0 for a polygon. */
  readonly radiusM: number;
  lowM: number;
  highM: number;
  under: boolean;
  /** Sum of the pushes on it in the last step, N. */
  forceN = 0;

  constructor(spec: ShapeSpec) {
    const outline = counterClockwise(spec.outlineM);
    this.localX = Float64Array.from(outline, ([x]) => x);
    this.localY = Float64Array.from(outline, ([, y]) => y);
    this.worldX = new Float64Array(outline.length);
    this.worldY = new Float64Array(outline.length);
    this.radiusM = spec.radiusM ?? 0;
    this.lowM = spec.lowM;
    this.highM = spec.highM;
    this.under = spec.under ?? false;
  }

  get boundM(): number {
    let most = this.radiusM;
    for (let i = 0; i < this.localX.length; i += 1) {
      const x = this.localX[i] as number;
      const y = this.localY[i] as number;
      most = Math.max(most, Math.sqrt(x * x + y * y));
    }
    return most;
  }
}

export class Body {
  /** Centre of mass, m, and heading, rad, not wrapped. */
  xM = 0;
  yM = 0;
  headingRad = 0;
  velocityX = 0;
  velocityY = 0;
  turnRateRadS = 0;
  /** In the middle of the step being solved: place, and the direction it faces. */
  midX = 0;
  midY = 0;
  forwardX = 1;
  forwardY = 0;
  readonly inverseMass: number;
  readonly inverseInertia: number;
  readonly boundM: number;
  asleep = false;
  /** Steps for which it has hardly moved. */
  quietSteps = 0;
  /** A load that fell over, or is held off the floor. */
  tipped = false;
  lifted = false;
  /** Share of its weight that presses on the floor: less than 1 on a slope. */
  press = 1;
  /** A roller lies on it in this step: it does not fall over. */
  steadied = false;
  /** Moment with which others push it over in this step, N m, and its mean over a moment. */
  pushMomentNm = 0;
  tippingNm = 0;
  /** Friction with the floor, impulses of the last step. */
  floorX = 0;
  floorY = 0;
  floorTurn = 0;
  /** Fixed things near it, and where it stood when they were listed. */
  readonly near: number[] = [];
  nearX = Number.POSITIVE_INFINITY;
  nearY = Number.POSITIVE_INFINITY;

  constructor(
    readonly massKg: number,
    readonly inertiaKgM2: number,
    readonly shapes: readonly BodyShape[],
    /** Null for the robot. */
    readonly load: LoadSpec | null,
  ) {
    this.inverseMass = 1 / massKg;
    this.inverseInertia = 1 / inertiaKgM2;
    this.boundM = shapes.reduce((most, shape) => Math.max(most, shape.boundM), 0);
  }

  /** Middle of the step: everything geometric is looked at there. */
  toMiddle(half: number): void {
    this.midX = this.xM + half * this.velocityX;
    this.midY = this.yM + half * this.velocityY;
    const heading = this.headingRad + half * this.turnRateRadS;
    this.forwardX = cos(heading);
    this.forwardY = sin(heading);
  }

  placeShapes(): void {
    for (let k = 0; k < this.shapes.length; k += 1) {
      const shape = this.shapes[k] as BodyShape;
      for (let i = 0; i < shape.localX.length; i += 1) {
        const x = shape.localX[i] as number;
        const y = shape.localY[i] as number;
        shape.worldX[i] = this.midX + this.forwardX * x - this.forwardY * y;
        shape.worldY[i] = this.midY + this.forwardY * x + this.forwardX * y;
      }
    }
  }

  /** An impulse at a lever arm from the centre of mass, world directions. */
  push(leverX: number, leverY: number, px: number, py: number): void {
    this.velocityX += px * this.inverseMass;
    this.velocityY += py * this.inverseMass;
    this.turnRateRadS += (leverX * py - leverY * px) * this.inverseInertia;
  }

  /** Stands somewhere, at rest, as if nothing had ever touched it. */
  rest(xM: number, yM: number, headingRad: number): void {
    this.xM = xM;
    this.yM = yM;
    this.headingRad = headingRad;
    this.velocityX = 0;
    this.velocityY = 0;
    this.turnRateRadS = 0;
    this.floorX = 0;
    this.floorY = 0;
    this.floorTurn = 0;
    this.pushMomentNm = 0;
    this.tippingNm = 0;
    this.nearX = Number.POSITIVE_INFINITY;
    for (const shape of this.shapes) shape.forceN = 0;
    this.toMiddle(0);
    this.placeShapes();
  }

  move(dt: number): void {
    this.xM += dt * this.velocityX;
    this.yM += dt * this.velocityY;
    this.headingRad += dt * this.turnRateRadS;
  }

  wake(): void {
    this.asleep = false;
    this.quietSteps = 0;
  }
}

/** A load standing at its place, at rest and asleep. */
export function loadBody(spec: LoadSpec): Body {
  const [w, h] = spec.sizeM;
  const heights = { lowM: 0, highM: spec.heightM };
  const disc = spec.shape === "disc";
  const shape = new BodyShape(
    disc
      ? { outlineM: [], radiusM: w / 2, ...heights }
      : {
          outlineM: [
            [w / 2, h / 2],
            [-w / 2, h / 2],
            [-w / 2, -h / 2],
            [w / 2, -h / 2],
          ],
          ...heights,
        },
  );
  const inertia = disc ? (spec.massKg * w * w) / 8 : (spec.massKg * (w * w + h * h)) / 12;
  const body = new Body(spec.massKg, inertia, [shape], spec);
  body.xM = spec.xM;
  body.yM = spec.yM;
  body.headingRad = spec.headingRad;
  body.asleep = true;
  body.toMiddle(0);
  body.placeShapes();
  return body;
}
