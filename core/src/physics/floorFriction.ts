// A load that slides on the floor: Coulomb friction of a plane patch. Force and moment lie within an ellipsoid
// of μ m g and τ_max; for a disc τ_max = ⅔ μ m g r (even pressure), for a box the same with its mean radius.
//
// The impulse that takes most energy: P = -v/(k + λ/limit²) in each direction, on the ellipsoid's surface.
import type { Body } from "./body.js";
import { GRAVITY } from "./constants.js";
import type { LoadSpec } from "./parts.js";

const NEWTON_STEPS = 5;

/** Mean distance of a patch's points from its middle, m: ⅔ r for a disc; for a box by its diagonal's closed form. */
function meanRadiusM(load: LoadSpec): number {
  const [w, h] = load.sizeM;
  if (load.shape === "disc") return w / 3;
  // Fit of the box integral within 1 % for sides up to 1 : 3.
  return 0.3826 * Math.sqrt((w * w + h * h) / 2);
}

/** Solves one load's friction with the floor. @returns the change of impulse, N s */
export function solveFloor(body: Body, dt: number): number {
  const { load } = body;
  if (!load || body.asleep || body.lifted) return 0;
  const limit = load.friction * body.massKg * GRAVITY * body.press * dt;
  const limitTurn = limit * meanRadiusM(load);
  // Velocities as they would be without this friction.
  const vx = body.velocityX - body.floorX * body.inverseMass;
  const vy = body.velocityY - body.floorY * body.inverseMass;
  const w = body.turnRateRadS - body.floorTurn * body.inverseInertia;
  const momentum = Math.sqrt(vx * vx + vy * vy) * body.massKg;
  const spin = Math.abs(w) * body.inertiaKgM2;
  let linear = 1;
  let turning = 1;
  const a = momentum / limit;
  const b = spin / limitTurn;
  if (a * a + b * b > 1) {
    // (a/(1+λ p))² + (b/(1+λ q))² = 1, with p and q in the ellipsoid's own measure.
    const p = 1 / (body.inverseMass * limit * limit);
    const q = 1 / (body.inverseInertia * limitTurn * limitTurn);
    let lambda = 0;
    for (let i = 0; i < NEWTON_STEPS; i += 1) {
      const u = a / (1 + lambda * p);
      const v = b / (1 + lambda * q);
      const size = Math.sqrt(u * u + v * v);
      if (size - 1 < 1e-7) break;
      const slope = (u * u * p) / (1 + lambda * p) + (v * v * q) / (1 + lambda * q);
      lambda += (size * size * (size - 1)) / slope;
    }
    linear = 1 / (1 + lambda * p);
    turning = 1 / (1 + lambda * q);
    const over = Math.sqrt((a * linear) ** 2 + (b * turning) ** 2);
    linear /= over;
    turning /= over;
  }
  const px = -vx * body.massKg * linear;
  const py = -vy * body.massKg * linear;
  const turn = -w * body.inertiaKgM2 * turning;
  const change = Math.max(Math.abs(px - body.floorX), Math.abs(py - body.floorY));
  body.velocityX = vx + px * body.inverseMass;
  body.velocityY = vy + py * body.inverseMass;
  body.turnRateRadS = w + turn * body.inverseInertia;
  body.floorX = px;
  body.floorY = py;
  body.floorTurn = turn;
  return change;
}
